// ylat report: what goes into the page, and what is said of what does not.
#include <fstream>

#include "tool/run_ylat.hpp"

using support::contains;
using support::demo_file;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;

namespace {

std::string text_of(const std::string& path) {
    std::ifstream stream(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

}  // namespace

TEST_CASE("a page of pictures, a texture with its source, a cube and a model") {
    const TemporaryFolder folder;
    const std::string slate = folder.path("slate.ktx2"), dawn = folder.path("dawn.ktx2"),
                      page = folder.path("page.html");
    REQUIRE(run_ylat("bake " + demo_file("slate.png") + " --as bc7 -o " + slate).exit == 0);
    REQUIRE(run_ylat("cube " + demo_file("dawn.hdr") + " -o " + dawn).exit == 0);
    const auto made = run_json("report " + slate + " " + dawn + " " + demo_file("moss.png") + " " +
                               demo_file("planter.glb") + " --source " + demo_file("slate.png") +
                               " --title \"The <Glasshouse>\" -o " + page);
    CHECK(made["title"] == "The <Glasshouse>");
    REQUIRE(made["textures"].size() >= 9);
    CHECK(made["textures"][0]["name"] == "slate.ktx2");
    CHECK(made["textures"][0]["comparison"]["source"] == "slate.png");
    CHECK(made["textures"][0]["comparison"]["levels"][0]["psnr"] > 40);
    CHECK(made["textures"][1]["faces"] == 6);
    CHECK(made["textures"][2]["is_picture"] == true);
    CHECK_FALSE(made["textures"][2].contains("comparison"));
    const auto& bindings = made["models"][0]["materials"][0]["bindings"];
    REQUIRE_FALSE(bindings.empty());
    const std::size_t bound = bindings[0]["texture"].get<std::size_t>();
    CHECK(made["textures"][bound]["name"] == bindings[0]["image"]);
    CHECK(made["failures"].size() == 1);  // the image that the demo's model lacks
    const std::string text = text_of(page);
    CHECK(text.starts_with("<!DOCTYPE html>"));
    CHECK_FALSE(contains(text, "<Glasshouse>"));
}

TEST_CASE("cubes and arrays are shown beside what they were made of") {
    const TemporaryFolder folder;
    const auto file = [&](const char* name) { return folder.path(name); };
    const auto make = [](const std::string& arguments) { REQUIRE(run_ylat(arguments).exit == 0); };
    std::filesystem::create_directories(file("sources"));
    make("cube " + demo_file("dawn.hdr") + " --as bc6h-ufloat -o " + file("dawn.ktx2"));
    std::filesystem::copy(demo_file("dawn.hdr"), file("sources/dawn.hdr"));
    make("cube " + demo_file("dawn.hdr") + " --face-size 64 -o " + file("sources/small.ktx2"));
    make("bake " + file("sources/small.ktx2") + " --as bc6h-ufloat -o " + file("small.ktx2"));
    const std::string layers = demo_file("slate.png") + " " + demo_file("slate.png");
    make("bake " + layers + " --array -o " + file("sources/ground.ktx2"));
    make("bake " + layers + " --array --as bc7 -o " + file("ground.ktx2"));
    make("cube " + demo_file("dawn.hdr") + " --prefilter specular -o " + file("glossy.ktx2"));
    std::filesystem::copy(demo_file("dawn.hdr"), file("sources/glossy.hdr"));
    make("cube " + demo_file("dawn.hdr") + " --face-size 32 -o " + file("flat.ktx2"));
    std::filesystem::copy(demo_file("moss.png"), file("sources/flat.png"));
    const auto made =
        run_json("report " + file("dawn.ktx2") + " " + file("small.ktx2") + " " +
                 file("ground.ktx2") + " " + file("glossy.ktx2") + " " + file("flat.ktx2") +
                 " --source " + file("sources") + " -o " + file("page.html"));
    for (std::size_t i = 0; i < 3; ++i) {
        CAPTURE(i);
        const auto& texture = made["textures"][i];
        REQUIRE(texture.contains("comparison"));
        CHECK(texture["comparison"]["levels"].size() == texture["levels"].size());
    }
    CHECK(made["textures"][0]["comparison"]["source"] == "dawn.hdr");
    CHECK(made["textures"][0]["comparison"]["levels"][0]["stops"] < 0.1);
    CHECK(made["textures"][2]["comparison"]["levels"][0]["psnr"] > 40);
    // Prefiltered levels are made of no picture alone, and a tile is no sky.
    for (std::size_t i = 3; i < 5; ++i)
        CHECK_FALSE(made["textures"][i].contains("comparison"));
    REQUIRE(made["findings"].size() == 2);
    for (const auto& finding : made["findings"])
        CHECK(finding["code"] == "source-not-compared");
    // The prefiltered cube itself is what they were before they were compressed.
    make("bake " + file("glossy.ktx2") + " --as bc6h-ufloat -o " + file("blocks.ktx2"));
    std::filesystem::copy(file("glossy.ktx2"), file("sources/blocks.ktx2"));
    const auto blocks = run_json("report " + file("blocks.ktx2") + " --source " +
                                 file("sources/blocks.ktx2") + " -o " + file("page.html"));
    CHECK(blocks["textures"][0].contains("comparison"));
}

TEST_CASE("pictures are shown in a format, beside what they were") {
    const TemporaryFolder folder;
    const auto made =
        run_json("report " + demo_file("lattice.png") + " --as bc1 -o " + folder.path("page.html"));
    CHECK(made["textures"][0]["format"] == "bc1-srgb");
    CHECK(made["textures"][0]["comparison"]["levels"][0]["psnr"] < 50);
}

TEST_CASE("what changed since an earlier report, of its page or of its data") {
    const TemporaryFolder folder;
    const std::string slate = folder.path("slate.ktx2"), moss = folder.path("moss.ktx2"),
                      label = folder.path("label.ktx2"), old = folder.path("old.html"),
                      page = folder.path("page.html");
    const auto bake = [](const std::string& picture, const std::string& options) {
        REQUIRE(run_ylat("bake " + demo_file(picture) + " " + options).exit == 0);
    };
    bake("slate.png", "--as bc7 -o " + slate);
    bake("moss.png", "-o " + moss);
    const auto before = run_json("report " + slate + " " + moss + " --title Old -o " + old);
    CHECK_FALSE(before.contains("changes"));
    support::write_text(folder.path("old.json"), before.dump());
    bake("slate.png", "--as bc1 --max-size 256 -o " + slate);
    bake("label.png", "-o " + label);
    for (const char* file : {"old.html", "old.json"}) {
        const auto made = run_json("report " + slate + " " + label + " --since " +
                                   folder.path(file) + " -o " + page);
        const auto& changes = made["changes"];
        CHECK(changes["title"] == "Old");
        CHECK(changes["added"] == nlohmann::json{"label.ktx2"});
        CHECK(changes["gone"] == nlohmann::json{"moss.ktx2"});
        REQUIRE(changes["changed"].size() == 1);
        std::map<std::string, nlohmann::json> what;
        for (const auto& one : changes["changed"][0]["what"])
            what[one["member"]] = one;
        CHECK(what["size"]["before"] == "512 x 512");
        CHECK(what["size"]["now"] == "256 x 256");
        CHECK(what["format"]["now"] == "bc1-srgb");
        CHECK(what["levels"]["now"] == 9);
        CHECK(what.contains("texels"));
    }
    const auto same = run_json("report " + slate + " " + label + " --since " + page + " -o " +
                               folder.path("again.html"));
    CHECK(same["changes"]["changed"].empty());
    CHECK(same["changes"]["added"].empty());
    // The images of a model have one file, and stay apart.
    const std::string planter = demo_file("planter.glb") + " -o ";
    REQUIRE(run_ylat("report " + planter + old).exit == 0);
    const auto model = run_json("report --since " + old + " " + planter + page);
    CHECK(model["textures"].size() >= 5);
    CHECK(model["changes"]["added"].empty());
    CHECK(model["changes"]["gone"].empty());
    CHECK(model["changes"]["changed"].empty());
    const auto none = run_ylat("report " + slate + " --since " + slate + " -o " + page);
    CHECK(none.exit == 3);
    CHECK(contains(none.err, "no report"));
    CHECK(run_ylat("report " + slate + " --since /nowhere -o " + page).exit == 4);
}

TEST_CASE("the page is as small as it is asked to be") {
    const TemporaryFolder folder;
    const std::string page = folder.path("page.html");
    REQUIRE(run_ylat("report " + demo_file("slate.png") + " " + demo_file("lattice.png") +
                     " --max-size 600k -o " + page)
                .exit == 0);
    CHECK(std::filesystem::file_size(page) <= 600 * 1024);
}

TEST_CASE("what cannot be shown is named, and the rest is shown") {
    const TemporaryFolder folder;
    const std::string broken = folder.path("broken.png"), page = folder.path("page.html");
    std::ofstream(broken, std::ios::binary) << "\x89PNG\r\n\x1a\nand no more";
    const auto some = run_ylat("report " + broken + " " + demo_file("moss.png") + " -o " + page);
    CHECK(some.exit == 3);
    CHECK(contains(some.err, "broken.png"));
    CHECK(contains(some.out, "1 texture"));
    CHECK(std::filesystem::exists(page));
    const std::string none = folder.path("none.html");
    CHECK(run_ylat("report " + broken + " -o " + none).exit == 3);
    CHECK_FALSE(std::filesystem::exists(none));
    CHECK(run_ylat("report nowhere.png -o " + none).exit == 4);
    CHECK(run_ylat("report " + demo_file("moss.png")).exit == 2);
    CHECK(run_ylat("report " + demo_file("moss.png") + " --as nonsense -o " + none).exit == 2);
    CHECK(run_ylat("report " + demo_file("moss.png") + " -o " + folder.path("no/such/page.html"))
              .exit == 4);
    // A source of another size is not compared, which is said.
    const std::string slate = folder.path("moss.ktx2");
    REQUIRE(run_ylat("bake " + demo_file("slate.png") + " -o " + slate).exit == 0);
    const auto other =
        run_json("report " + slate + " --source " + demo_file("moss.png") + " -o " + page);
    CHECK(other["findings"][0]["code"] == "source-not-compared");
    const std::string problem = other["findings"][0]["problem"];
    CHECK(contains(problem, "256 x 256"));
    CHECK(contains(problem, "512 x 512"));
    CHECK_FALSE(other["textures"][0].contains("comparison"));
    // So is a source, a picture or a folder of them, whose name no texture has.
    const std::string others = folder.path("others"), lattice = demo_file("lattice.png");
    std::filesystem::create_directory(others);
    std::filesystem::copy(lattice, others + "/lattice.png");
    const auto unused = run_json("report " + slate + " --source " + lattice + " --source " +
                                 others + " --source " + demo_file("moss.png") + " -o " + page);
    REQUIRE(unused["findings"].size() == 3);
    for (const auto& finding : unused["findings"])
        CHECK(finding["code"] == "source-not-compared");
    CHECK(unused["findings"][1]["file"] == lattice);
    CHECK(unused["findings"][2]["file"] == others);
    // To standard output.
    const auto piped = run_ylat("report " + demo_file("moss.png") + " -o -");
    CHECK(piped.exit == 0);
    CHECK(piped.out.starts_with("<!DOCTYPE html>"));
}
