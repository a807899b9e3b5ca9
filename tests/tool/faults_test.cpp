// Failing memory and disks, pipes, and writers beside readers: every run ends by itself, with its
// exit code, and leaves the old file or the whole new one.
#include <sys/stat.h>
#include <unistd.h>

#include <csignal>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <thread>
#include <yl/yl.hpp>

#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using support::contains;
using support::demo_file;
using support::Outcome;
using support::run_ylat;
using support::TemporaryFolder;

namespace {

/// What is run, and the file that it makes ({out}).
struct Work {
    std::string name, command, output;
};

std::vector<Work> all_work(const TemporaryFolder& folder) {
    const std::string leaf = folder.path("leaf.png"), sky = folder.path("sky.hdr");
    REQUIRE(run_ylat("rework " + demo_file("lattice.png") + " --resize 24x24 -o " + leaf).exit ==
            0);
    REQUIRE(run_ylat("rework " + demo_file("dawn.hdr") + " --resize 32x16 -o " + sky).exit == 0);
    return {
        {"bake", "bake " + leaf + " --supercompress zstd -o {out}", "t.ktx2"},
        {"bake blocks", "bake " + leaf + " --as bc7 --effort 0 -o {out}", "t.dds"},
        {"bake by rows", "bake " + leaf + " --by-rows -o {out}", "t.ktx2"},
        {"blocks by rows", "bake " + leaf + " --by-rows --as bc7 --effort 0 -o {out}", "t.dds"},
        {"cube", "cube " + sky + " -o {out}", "t.ktx2"},
        {"atlas", "atlas " + leaf + " --as bc7 --effort 0 --table /dev/null -o {out}", "t.ktx2"},
        {"rework", "rework " + leaf + " --turn right --bleed -o {out}", "t.png"},
        {"rework to TIFF", "rework " + leaf + " -o {out}", "t.tif"},
        {"sheet", "sheet " + leaf + " -o {out}", "t.png"},
        {"diff", "diff " + leaf + " " + leaf + " -o {out}", "t.png"},
        {"model", "model " + demo_file("planter.glb") + " --max-size 16 --as plain --bake {out}",
         "t.glb"},
    };
}

std::string with_output(const TemporaryFolder& folder, const Work& work) {
    std::string command = work.command;
    return command.replace(command.find("{out}"), 5, folder.path(work.output));
}

std::string environment_for(const std::string& kind, long number, const std::string& count = "") {
    return "LD_PRELOAD='" FAULT_LIBRARY "' YL_FAULT='" + kind + " " + std::to_string(number) + "'" +
           (count.empty() ? "" : " YL_FAULT_COUNT='" + count + "'");
}

/// Calls of one kind in a run in which none fails.
long calls_of(const TemporaryFolder& folder, const Work& work, const std::string& kind) {
    const std::string count = folder.path("count");
    const Outcome outcome = run_ylat(with_output(folder, work), environment_for(kind, 0, count));
    CAPTURE(outcome.err);
    REQUIRE(outcome.exit == 0);
    long calls = 0;
    std::ifstream(count) >> calls;
    std::filesystem::remove(count);
    return calls;
}

/// All of them where they are few; else the first ones and some of the others.
std::vector<long> places_to_fail(long calls, long most) {
    std::vector<long> places;
    for (long i = 1; i <= std::min(calls, most / 2); ++i)
        places.push_back(i);
    for (long i = 1; i <= most / 2 && calls > most / 2; ++i)
        places.push_back(most / 2 + (calls - most / 2) * i / (most / 2));
    return places;
}

Outcome check_fault(const TemporaryFolder& folder, const Work& work, const std::string& kind,
                    long number, const std::vector<std::byte>& whole) {
    CAPTURE(work.name);
    CAPTURE(kind);
    CAPTURE(number);
    const std::string output = folder.path(work.output);
    support::write_text(output, "old");
    const auto before = folder.entries();
    const Outcome outcome = run_ylat(with_output(folder, work), environment_for(kind, number));
    CAPTURE(outcome.exit);
    CAPTURE(outcome.err);
    const auto content = support::read_bytes(output);
    const bool is_old = content == support::bytes_of({'o', 'l', 'd'});
    const bool is_whole = content == whole;
    // What fails may also be something that is not needed, or that has another way.
    CHECK((is_old || is_whole));
    CHECK(((outcome.exit == 4) || (outcome.exit == 0 && is_whole)));
    CHECK(folder.entries() == before);
    return outcome;
}

void sweep(const std::vector<std::string>& kinds, long most) {
    const TemporaryFolder folder;
    for (const Work& work : all_work(folder)) {
        REQUIRE(run_ylat(with_output(folder, work)).exit == 0);
        const auto whole = support::read_bytes(folder.path(work.output));
        for (const std::string& kind : kinds) {
            const long calls = calls_of(folder, work, kind);
            for (const long number : places_to_fail(calls, most))
                check_fault(folder, work, kind, number, whole);
        }
    }
}

/// Runs that would wait for ever are ended after some seconds, which is no exit code of the tool.
Outcome run_in_time(const std::string& arguments) {
    return run_ylat(arguments, "timeout -s KILL 20");
}

}  // namespace

TEST_CASE("files that cannot be opened, read, written or renamed: code 4, and the old file") {
    sweep({"open", "read", "write", "sync", "link", "rename"}, 12);
}

TEST_CASE("memory that cannot be allocated: code 4, and the old file") {
    sweep({"new"}, 40);
}

TEST_CASE("memory that ends while JSON is taken apart") {
    const TemporaryFolder folder;
    std::vector<Work> works = all_work(folder);
    std::erase_if(works, [](const Work& work) { return work.name != "atlas"; });
    works[0].command += " --json";
    const Work& atlas = works.at(0);
    REQUIRE(run_ylat(with_output(folder, atlas)).exit == 0);
    const auto whole = support::read_bytes(folder.path(atlas.output));
    const long calls = calls_of(folder, atlas, "new");
    for (long number = calls - 600; number <= calls; number += 2) {
        const Outcome outcome = check_fault(folder, atlas, "new", number, whole);
        const auto document = nlohmann::json::parse(outcome.out, nullptr, false);
        CAPTURE(outcome.out);
        REQUIRE(document.is_object());
        // What fails behind the document is said beside it.
        CHECK((document.contains("error") || outcome.exit == 0 || contains(outcome.err, "memory")));
        CHECK((outcome.exit == 4 || !document.contains("error")));
    }
}

TEST_CASE("a signal while a file takes its place: the whole new file, and nothing beside it") {
    const TemporaryFolder folder;
    const std::string file = folder.path("t.ktx2");
    const std::string bake = "bake " + demo_file("slate.png") + " --threads 4 -o " + file;
    REQUIRE(run_ylat(bake).exit == 0);
    const auto whole = support::read_bytes(file);
    support::write_text(file, "old");
    const auto before = folder.entries();
    const Outcome outcome = run_ylat(bake, environment_for("signal", 1) + " timeout 20");
    CHECK(outcome.exit == 128 + SIGTERM);
    CHECK(support::read_bytes(file) == whole);
    CHECK(folder.entries() == before);
}

TEST_CASE("pipes that nobody reads from or writes to stop nobody") {
    const TemporaryFolder folder;
    const std::string pipe = folder.path("pipe"), named = folder.path("out.png");
    REQUIRE(::mkfifo(pipe.c_str(), 0600) == 0);
    REQUIRE(::mkfifo(named.c_str(), 0600) == 0);
    CHECK(run_in_time("peek " + pipe).exit == 3);  // empty
    CHECK(run_in_time("model " + pipe).exit == 4);
    const Outcome unread = run_in_time("rework " + demo_file("label.png") + " -o " + named);
    CHECK(unread.exit == 4);
    CHECK(contains(unread.err, "nobody reads"));
    CHECK(support::must_fail(read_picture(pipe)).kind == ErrorKind::io);
}

TEST_CASE("standard input and output take the place of files") {
    const TemporaryFolder folder;
    const std::string program = std::string("'") + YLAT_PROGRAM + "'";
    const std::string out = folder.path("t.ktx2"), piped = folder.path("p.ktx2");
    REQUIRE(run_ylat("bake " + demo_file("label.png") + " -o " + out).exit == 0);
    REQUIRE(std::system(("cat " + demo_file("label.png") + " | " + program +
                         " --quiet bake - -o - > " + piped)
                            .c_str()) == 0);
    CHECK(support::read_bytes(out) == support::read_bytes(piped));
    CHECK(run_ylat("--json bake " + demo_file("label.png") + " -o -").exit == 2);
    const Outcome lost = run_ylat("peek " + demo_file("label.png") + " > /dev/full; exit $?; true");
    CHECK(lost.exit == 4);
    const Outcome closed = run_ylat("peek " + demo_file("label.png") + " >&-; exit $?; true");
    CHECK(closed.exit == 4);
    const std::string file = "bake " + demo_file("label.png") + " -o -";
    CHECK(run_ylat(file + " >&-; exit $?; true").exit == 4);
}

TEST_CASE("with --json there is one document, whatever happens") {
    const TemporaryFolder folder;
    const auto document = [](const std::string& arguments, int exit) {
        const Outcome outcome = run_ylat("--json " + arguments);
        CHECK(outcome.exit == exit);
        CHECK(outcome.err.empty());
        return nlohmann::json::parse(outcome.out);
    };
    const std::string out = " -o " + folder.path("t.ktx2");
    CHECK(document("bake none.png" + out, 4)["error"]["kind"] == "missing");
    CHECK(document("bake none.png" + out, 4)["error"]["place"] == "none.png");
    CHECK(document("bake --effort 99 x" + out, 2)["error"]["kind"] == "usage");
    const auto damaged = folder.path("d.png");
    auto bytes = support::read_bytes(demo_file("label.png"));
    bytes.resize(bytes.size() / 2);
    support::write_bytes(damaged, bytes);
    const auto broken = document("bake " + damaged + out, 3);
    CHECK(broken["error"]["kind"] == "malformed");
    CHECK(broken["error"].contains("offset"));
    const auto two = document("peek " + demo_file("label.png") + " none.png", 4);
    CHECK(two[0]["width"] == 45);
    CHECK(two[1]["error"]["kind"] == "missing");
    const auto idle = document("bake --effort 3 " + demo_file("label.png") + out, 0);
    CHECK(idle["findings"].size() == 1);
}

TEST_CASE("files that shrink while they are read are damaged, and nothing worse") {
    const TemporaryFolder folder;
    const std::string file = folder.path("f.ktx2");
    REQUIRE(run_ylat("bake " + demo_file("slate.png") + " -o " + file).exit == 0);
    const auto whole = support::read_bytes(file);
    std::jthread writer([&](const std::stop_token& stop) {
        while (!stop.stop_requested()) {
            support::write_bytes(file, whole);
            std::filesystem::resize_file(file, 4096);
        }
    });
    for (int i = 0; i < 60; ++i) {
        const char* commands[] = {"peek ", "sheet -o /dev/null ", "upload --plan webgpu "};
        const Outcome outcome = run_ylat(commands[i % 3] + file);
        CAPTURE(outcome.err);
        CHECK((outcome.exit >= 0 && outcome.exit <= 4));
    }
}

TEST_CASE("files that are rewritten keep their mode, and names of any length will do") {
    const TemporaryFolder folder;
    const std::string file = folder.path(std::string(246, 'n') + ".png");
    support::write_text(file, "old");
    REQUIRE(::chmod(file.c_str(), 0604) == 0);
    REQUIRE(run_ylat("rework " + demo_file("label.png") + " -o " + file).exit == 0);
    struct stat info {};
    REQUIRE(::stat(file.c_str(), &info) == 0);
    CHECK((info.st_mode & 07777) == 0604);
    CHECK(folder.entries().size() == 1);
}

TEST_CASE(
    "images of a model that the system cannot read now end its baking; links do not lead out") {
    const TemporaryFolder folder, elsewhere;
    const std::string model = folder.path("m.gltf"), out = folder.path("m.glb");
    support::write_text(model, R"({"asset": {"version": "2.0"}, "images": [{"uri": "a.png"}],
        "textures": [{"source": 0}],
        "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]})");
    support::write_text(out, "old");
    REQUIRE(::mkfifo(folder.path("a.png").c_str(), 0600) == 0);
    CHECK(run_in_time("model " + model + " --bake " + out).exit == 4);
    CHECK(support::read_bytes(out) == support::bytes_of({'o', 'l', 'd'}));
    std::filesystem::remove(folder.path("a.png"));
    std::filesystem::copy_file(demo_file("label.png"), elsewhere.path("secret.png"));
    std::filesystem::create_symlink(elsewhere.path("secret.png"), folder.path("a.png"));
    CHECK(contains(run_ylat("model " + model).err, "leads out of the model's folder"));
    CHECK_FALSE(contains(run_ylat("model " + model + " --allow-outside").err, "leads out"));
}
