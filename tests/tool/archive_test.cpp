// Inputs inside of archives, by the tool.
#include "support/files.hpp"
#include "support/zip_file.hpp"
#include "tool/run_ylat.hpp"

using support::contains;
using support::demo_file;
using support::read_bytes;
using support::run_ylat;
using support::TemporaryFolder;

TEST_CASE("every command reads what lies in an archive as if it lay in a folder") {
    const TemporaryFolder folder;
    std::vector<support::ZipEntry> entries;
    for (const char* name : {"slate.png", "label.png", "dawn.hdr", "planter.glb"})
        entries.push_back({std::string("maps/") + name, read_bytes(demo_file(name))});
    const std::string zip = folder.path("all.zip");
    support::write_bytes(zip, support::zip_file(entries));
    const std::string maps = zip + "/maps/";
    const auto same = [&](const std::string& arguments, const std::string& name,
                          const std::string& output) {
        CAPTURE(arguments);
        const std::string one = folder.path("one" + output), other = folder.path("other" + output);
        CHECK(run_ylat(arguments + " " + maps + name + " -o " + one).exit == 0);
        CHECK(run_ylat(arguments + " " + demo_file(name) + " -o " + other).exit == 0);
        CHECK(read_bytes(one) == read_bytes(other));
    };
    same("bake", "slate.png", ".ktx2");
    same("rework --resize 50%", "label.png", ".png");
    same("cube --face-size 16", "dawn.hdr", ".ktx2");
    const std::string drawn = folder.path("model.png");
    CHECK(run_ylat("draw model " + maps + "planter.glb -o " + drawn).exit == 0);
    CHECK(run_ylat("bake " + demo_file("slate.png") + " -o " + folder.path("slate.ktx2")).exit ==
          0);
    std::vector<support::ZipEntry> textures = {
        {"slate.ktx2", read_bytes(folder.path("slate.ktx2")), true}};
    support::write_bytes(folder.path("textures.zip"), support::zip_file(textures));
    const std::string texture = folder.path("textures.zip") + "/slate.ktx2";
    for (const std::string command : {"peek ", "peek --fast ", "upload --plan gl33 ", "model "}) {
        CAPTURE(command);
        const std::string input = command == "model " ? maps + "planter.glb"
                                  : command == "upload --plan gl33 "
                                      ? texture
                                      : maps + "label.png " + texture;
        const auto run = run_ylat(command + input);
        CHECK(run.exit == 0);
    }
    CHECK(run_ylat("diff " + maps + "slate.png " + demo_file("slate.png")).exit == 0);

    const auto missing = run_ylat("peek " + maps + "none.png");
    CHECK(missing.exit == 4);
    CHECK(contains(missing.err, "the archive has no such file"));
    CHECK(contains(missing.err, maps + "none.png"));
    const auto no_archive = run_ylat("peek " + demo_file("label.png") + "/a.png");
    CHECK(no_archive.exit == 3);
    CHECK(contains(no_archive.err, "label.png"));
}
