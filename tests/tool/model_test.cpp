// ylat model.
#include <fstream>

#include "planter.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using nlohmann::json;
using support::contains;
using support::demo_file;
using support::Outcome;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;

TEST_CASE("model --extract writes every image as it is, and a list of them") {
    const TemporaryFolder folder;
    std::filesystem::copy(demo_file("slate.png"), folder.path("slate.png"));
    std::filesystem::copy(demo_file("dawn.hdr"), folder.path("dawn.hdr"));
    std::ofstream(folder.path("model.gltf")) << R"({"asset": {"version": "2.0"},
        "images": [{"uri": "slate.png"}, {"uri": "gone.png"}, {"uri": "./slate.png"},
                   {"uri": "dawn.hdr", "name": "sky"}],
        "textures": [{"source": 0}],
        "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]})";
    const std::string out = folder.path("images");
    const Outcome outcome = run_ylat("model " + folder.path("model.gltf") + " --extract " + out);
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.out, "2 of 4 images"));
    CHECK(contains(outcome.err, "gone.png"));
    CHECK(support::read_bytes(out + "/00_slate.png") ==
          support::read_bytes(demo_file("slate.png")));
    CHECK(support::read_bytes(out + "/03_dawn.hdr") == support::read_bytes(demo_file("dawn.hdr")));
    std::ifstream list(out + "/images.json");
    const json images = json::parse(list)["images"];
    REQUIRE(images.size() == 3);
    CHECK(images[1]["same_as"] == 0);
    CHECK(images[1]["file"] == "00_slate.png");
    CHECK(images[2]["file_format"] == "Radiance HDR");
    CHECK(std::distance(std::filesystem::directory_iterator(out), {}) == 3);

    const Outcome planter =
        run_ylat("model " + demo_file("planter.glb") + " --extract " + folder.path("planter"));
    CHECK(planter.exit == 0);
    CHECK(run_ylat("model " + demo_file("planter.glb") + " --extract " + out + " --bake " +
                   folder.path("x.glb"))
              .exit == 2);
    CHECK(run_ylat("model " + demo_file("planter.glb") + " --extract " + demo_file("slate.png"))
              .exit == 4);
}

TEST_CASE("textures of any model are baked into a folder, with a list of what binds them") {
    const TemporaryFolder folder;
    std::filesystem::copy(demo_file("slate.png"), folder.path("slate.png"));
    std::filesystem::copy(demo_file("slate_normal.png"), folder.path("slate_normal.png"));
    std::ofstream(folder.path("stone.mtl")) << "newmtl stone\nmap_Kd slate.png\n"
                                               "map_Kn slate_normal.png\nnorm slate_normal.png\n"
                                               "newmtl moss\nmap_Kd gone.png\n";
    std::ofstream(folder.path("stone.obj"))
        << "mtllib stone.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\n"
           "usemtl stone\nf 1/1 2/2 3/3\nusemtl moss\nf 1/1 3/3 2/2\n";
    const auto check = [&](const std::string& model, std::size_t failures) {
        CAPTURE(model);
        const std::string out =
            folder.path(std::filesystem::path(model).stem().string()) + "_textures/";
        const json list = run_json("model " + model + " --effort 0 --bake " + out);
        REQUIRE_FALSE(list["textures"].empty());
        std::size_t failed = 0;
        for (const json& texture : list["textures"]) {
            if (texture.contains("error")) {
                ++failed;
                continue;
            }
            const auto file =
                support::must(yl::read_texture(out + texture["file"].get<std::string>()));
            CHECK(yl::info(file.texture.shape().format).name == texture["gpu_format"]);
            CHECK(file.texture.shape().width == texture["width"]);
            CHECK(file.texture.shape().levels == texture["levels"]);
        }
        CHECK(failed == failures);
        for (const json& material : list["materials"])
            for (const json& binding : material["textures"]) {
                CHECK(binding["texture"] < list["textures"].size());
                CHECK(yl::parse_sampler(binding["sampler"].get<std::string>()).has_value());
            }
        std::ifstream stored(out + "textures.json");
        CHECK(json::parse(stored) == list);
        return list;
    };
    const json stone = check(folder.path("stone.obj"), 1);
    CHECK(stone["materials"].size() >= 2);  // and one for what has none
    CHECK(stone["textures"][0]["gpu_format"] == "bc7-srgb");
    check(demo_file("planter.glb"), 1);
    const Outcome png =
        run_ylat("model " + demo_file("planter.glb") + " --keep-png --bake " + folder.path("x/"));
    CHECK(png.exit == 2);
    CHECK(contains(png.err, "--keep-png"));
    CHECK(run_ylat("model " + demo_file("planter.glb") + " --bake " + folder.path("slate.png/"))
              .exit == 4);
}

TEST_CASE("model lists images and slots, and says what is missing") {
    const TemporaryFolder folder;
    std::filesystem::copy(demo_file("slate.png"), folder.path("slate.png"));
    std::ofstream(folder.path("model.gltf")) << R"({"asset": {"version": "2.0"},
        "images": [{"uri": "slate.png"}, {"uri": "gone.png", "name": "moss"}],
        "samplers": [{"wrapS": 33071, "minFilter": 9985}],
        "textures": [{"source": 0, "sampler": 0}, {"source": 1}],
        "materials": [{"name": "stone", "alphaMode": "MASK",
            "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}},
            "normalTexture": {"index": 1, "texCoord": 1}}]})";
    const std::string model = folder.path("model.gltf");
    const Outcome outcome = run_ylat("model " + model);
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.out, "512 x 512"));
    CHECK(contains(outcome.out, "missing"));
    CHECK(contains(outcome.out, "mask 0.5"));
    CHECK(contains(outcome.out, "wrap=clamp-to-edge,repeat"));
    CHECK(contains(outcome.err, "image 1 (moss) cannot be read"));
    const json report = run_json("model " + model);
    CHECK(report["images"][0]["file_format"] == "PNG");
    CHECK(report["materials"][0]["textures"][0]["role"] == "color");
    CHECK(report["materials"][0]["textures"][1]["coordinate_set"] == 1);
    CHECK(report["materials"][0]["textures"][1]["image"] == 1);
    CHECK(run_ylat("model " + demo_file("slate.png")).exit == 3);
    CHECK(run_ylat("model " + folder.path("none.glb")).exit == 4);
}

TEST_CASE("model says which materials have more textures than a device binds") {
    const std::string planter = demo_file("planter.glb");
    CHECK_FALSE(contains(run_ylat("model " + planter + " --plan vulkan-desktop").err, "samples"));
    const Outcome unknown = run_ylat("model " + planter + " --plan abacus");
    CHECK(unknown.exit == 2);
    CHECK(contains(unknown.err, "--plan"));
}

TEST_CASE("a model baked for a phone looks on OpenGL ES as it did before") {
    const TemporaryFolder folder;
    const auto drawn = [&](const std::string& model, const std::string& name) {
        const std::string picture = folder.path(name);
        CHECK(run_ylat("draw model " + model + " --api gles --size 320x240 -o " + picture).exit ==
              0);
        return support::must(yl::read_picture(std::filesystem::path(picture)));
    };
    const yl::Picture before = drawn(demo_file("planter.glb"), "before.png");
    for (const std::string as : {"etc", "astc", "astc:8bpp", "normal=etc2-rgb8"}) {
        CAPTURE(as);
        const std::string model = folder.path("phone.glb");
        const json report =
            run_json("model " + demo_file("planter.glb") + " --as " + as + " --bake " + model);
        CHECK(report["textures"].size() == 8);
        const yl::Picture after = drawn(model, "after.png");
        double sum = 0;
        for (std::uint32_t y = 0; y < before.image.height(); ++y)
            for (std::size_t i = 0; i < before.image.view().row_bytes(); ++i)
                sum += std::abs(std::to_integer<int>(before.image.view().row(y)[i]) -
                                std::to_integer<int>(after.image.view().row(y)[i]));
        const double mean =
            sum / static_cast<double>(before.image.view().row_bytes() * before.image.height());
        CHECK(mean < 1);
        CHECK(mean > 0);  // something was compressed
    }
}

TEST_CASE("the planter: images from everywhere, one missing, and the same after baking") {
    const TemporaryFolder folder;
    const json before = run_json("model " + demo_file("planter.glb"));
    REQUIRE(before["images"].size() == 7);
    CHECK(before["images"][0]["from"] == "file");
    CHECK(before["images"][3].contains("error"));
    CHECK(before["images"][4]["from"] == "buffer view");
    CHECK(before["images"][4]["used_as"] == json::array({"color", "data"}));
    CHECK(before["findings"].size() == 1);  // what is missing
    CHECK(before["images"][6]["from"] == "data URI");
    const std::string baked = folder.path("planter.glb");
    const json report = run_json("model " + demo_file("planter.glb") + " --bake " + baked);
    CHECK(report["textures"].size() == 8);
    CHECK(report["textures"][2]["gpu_format"] == "bc5-unorm");
    CHECK(report["file_bytes_after"] == std::filesystem::file_size(baked));
    CHECK(report["textures"][0]["plain_gpu_bytes"] == 1398100);
    CHECK(report["textures"][0]["gpu_bytes"] == 349552);
    const json after = run_json("model " + baked);
    REQUIRE(after["materials"].size() == before["materials"].size());
    for (std::size_t m = 0; m < after["materials"].size(); ++m) {
        json changed = after["materials"][m], original = before["materials"][m];
        for (std::size_t t = 0; t < original["textures"].size(); ++t) {
            json& use = changed["textures"][t];
            if (use.contains("made_from"))
                use["image"] = use["made_from"];
            use.erase("made_from");
        }
        CHECK(changed == original);
    }
    const json again = run_json("model " + demo_file("planter.glb") + " --as color=bc1-srgb " +
                                "--as plain --as normal=bc5-unorm --effort 0 --max-size 64 " +
                                "--bake " + folder.path("small.glb"));
    CHECK(again["textures"][0]["gpu_format"] == "rgba8-srgb");  // the last word counts
    CHECK(again["textures"][2]["gpu_format"] == "bc5-unorm");
    CHECK(again["textures"][2]["width"] == 64);
}

TEST_CASE("draw model: by the CPU and by OpenGL, before and after baking") {
    const TemporaryFolder folder;
    const std::string planter = demo_file("planter.glb");
    run_ylat("model " + planter + " --effort 3 --bake " + folder.path("baked.glb"));
    const std::string size = " --size 320x240 -o ";
    CHECK(run_ylat("draw model " + planter + size + folder.path("cpu.png")).exit == 0);
    CHECK(run_ylat("draw model " + planter + " --api gl" + size + folder.path("gl.png")).exit == 0);
    CHECK(
        run_ylat("draw model " + folder.path("baked.glb") + size + folder.path("baked.png")).exit ==
        0);
    const auto picture = [&](const char* name) {
        return support::must(yl::read_picture(folder.path(name))).image;
    };
    const yl::Image by_cpu = picture("cpu.png");
    const auto compared =
        support::must(yl::compare_pictures(by_cpu.view(), support::view_of(picture("gl.png")), 2));
    CHECK(compared.share_within() >= 0.99);
    CHECK(support::mean_difference(by_cpu.view(), support::view_of(picture("baked.png"))) < 2);
    // The saucer's texture is missing: the placeholder's warm orange, lit.
    const auto* saucer = &by_cpu.view().row(205)[4 * 117];
    CHECK(std::to_integer<int>(saucer[0]) > 150);
    CHECK(std::to_integer<int>(saucer[2]) < 110);
    for (const char* show : {"uv", "normal", "slot", "level"}) {
        const json drawn =
            run_json("draw model " + planter + " --show " + show + size + folder.path("shown.png"));
        CHECK(drawn["show"] == show);
        CHECK(drawn["triangles"] == 1684);
        CHECK((drawn["height"] > 240) ==
              (std::string(show) == "slot" || std::string(show) == "level"));
    }
}

TEST_CASE("model and draw model refuse what they cannot do, and leave no file") {
    const TemporaryFolder folder;
    const std::string planter = demo_file("planter.glb"), out = folder.path("x.glb");
    const auto refused = [&](const std::string& arguments, int exit, const std::string& part) {
        const Outcome outcome = run_ylat(arguments);
        CAPTURE(arguments);
        CHECK(outcome.exit == exit);
        CHECK(contains(outcome.err, part));
    };
    refused("model " + planter + " --keep-png", 2, "goes with --bake");
    refused("model " + planter + " --effort 11 --bake " + out, 2, "goes from 0 to 10");
    refused("model " + planter + " --as colour=bc7-srgb --bake " + out, 2, "begins with no role");
    refused("model " + planter + " --as color=bc99 --bake " + out, 2, "bc99");
    refused("model " + planter + " --bake " + folder.path("x.gltf"), 2, "name it so");
    refused("model " + planter + " --bake " + folder.path("no/x.glb"), 4, "no/x.glb");
    const std::string to = " -o " + folder.path("x.png");
    refused("draw model " + planter + " --api vulkan" + to, 3, "CPU and by OpenGL");
    refused("draw model " + planter + " " + planter + to, 2, "one model");
    refused("draw model " + planter + " --tiles 2,2" + to, 2,
            "--tiles: it goes with the scene panel, and means nothing here");
    refused("draw model " + planter + " --lamp 0,1,1" + to, 2,
            "it goes with the scenes floor, panel");
    refused("draw floor " + demo_file("slate.png") + " --show uv" + to, 2,
            "it goes with the scene model");
    refused("draw model " + planter + " --sampler aniso=2 --sampler aniso=4" + to, 2, "--sampler");
    refused("draw model " + planter + " --sampler wrap=round" + to, 2, "wrap=round");
    refused("model " + demo_file("slate.png"), 3, "not a model of a format that is known");
    refused("draw model " + folder.path("none.glb") + to, 4, "none.glb");
    std::ofstream(folder.path("bare.gltf")) << R"({"asset": {"version": "2.0"}})";
    refused("draw model " + folder.path("bare.gltf") + to, 3, "no triangles");
    CHECK_FALSE(std::filesystem::exists(out));
    CHECK_FALSE(std::filesystem::exists(folder.path("x.png")));
    run_ylat("model " + planter + " --bake " + out);
    refused("model " + out + " --bake " + out, 2, "baked already");
}

TEST_CASE("draw model by other samplers: what is given takes the place of the model's own") {
    const TemporaryFolder folder;
    const auto drawn = [&](const std::string& sampler) {
        const std::string picture = folder.path("x.png");
        CHECK(run_ylat("draw model " + demo_file("planter.glb") + sampler + " --show level" +
                       " --size 160x120 -o " + picture)
                  .exit == 0);
        return support::must(yl::read_picture(picture)).image;
    };
    const yl::Image own = drawn("");
    CHECK(support::equal_pixels(own.view(), support::view_of(drawn(" --sampler \"\""))));
    const yl::Image coarse = drawn(" --sampler bias=3"), first = drawn(" --sampler mip=none");
    CHECK(support::mean_difference(own.view(), coarse.view()) > 2);
    // The trellis by its first level alone: the colour of level 0 is the lightest of all.
    int brighter = 0;
    for (std::uint32_t y = 10; y < 60; ++y)
        for (std::uint32_t x = 70; x < 104; ++x) {
            const auto sum = [&](const yl::Image& image) {
                const auto* texel = &image.view().row(y)[4 * x];
                return std::to_integer<int>(texel[0]) + std::to_integer<int>(texel[2]);
            };
            brighter += sum(first) > sum(own) + 60 ? 1 : 0;
        }
    CHECK(brighter > 100);
}

TEST_CASE("an OBJ model is listed and drawn like others, and not written again") {
    const TemporaryFolder folder;
    std::filesystem::create_directory(folder.path("Maps"));
    std::filesystem::copy(demo_file("slate.png"), folder.path("Maps/Slate.png"));
    std::ofstream(folder.path("wall.obj")) << "mtllib wall.mtl\nv -1 1 0\nv -1 -1 0\nv 1 -1 0\n"
                                              "v 1 1 0\nvt 0 1\nvt 0 0\nvt 1 0\nvt 1 1\n"
                                              "usemtl wall\nf 1/1 2/2 3/3 4/4\n";
    std::ofstream(folder.path("wall.mtl"))
        << "newmtl wall\nKd 1 1 1\nmap_Kd C:\\art\\maps\\slate.png\n"
           "map_bump missing.png\n";
    const std::string model = folder.path("wall.obj");
    const Outcome outcome = run_ylat("model " + model);
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.out, "512 x 512"));
    CHECK(contains(outcome.err, "path of another place"));
    CHECK(contains(outcome.err, "missing.png"));
    const json report = run_json("model " + model);
    std::vector<std::string> slots;
    for (const json& material : report["materials"])
        for (const json& texture : material["textures"])
            slots.push_back(texture["slot"]);
    CHECK(slots == std::vector<std::string>{"base color", "height"});
    const std::string picture = folder.path("wall.png");
    CHECK(run_json("draw model " + model + " --yaw 0 --pitch 0 --size 92x92 -o " +
                   picture)["triangles"] == 2);
    // Slate upright on the wall: darker than the lamp's white, and no placeholder.
    const yl::Image drawn = support::must(yl::read_picture(picture)).image;
    const auto* middle = &drawn.view().row(46)[4 * 40];
    CHECK(std::to_integer<int>(middle[0]) < 200);
    CHECK(std::to_integer<int>(middle[2]) > 60);
    const Outcome baked = run_ylat("model " + model + " --bake " + folder.path("x.glb"));
    CHECK(baked.exit == 3);
    CHECK(contains(baked.err, "only glTF"));
    CHECK_FALSE(std::filesystem::exists(folder.path("x.glb")));
}

TEST_CASE("what is not UTF-8 in a model's names does not stop its report") {
    const TemporaryFolder folder;
    std::ofstream(folder.path("odd.obj"))
        << "mtllib odd.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl a\nf 1 2 3\n";
    std::ofstream(folder.path("odd.mtl")) << "newmtl a\nmap_Kd st\xE4"
                                             "k.png\n";
    const json report = run_json("model " + folder.path("odd.obj"));
    CHECK(report["images"].size() == 1);
    CHECK(run_ylat("model " + folder.path("odd.obj")).exit == 0);
}

TEST_CASE("the planter in the repository is the one that the generator writes") {
    const TemporaryFolder folder;
    for (const char* picture : {"moss.png", "label.png"})
        std::filesystem::copy(demo_file(picture), folder.path(picture));
    support::must(glasshouse::write_planter(folder.path("")));
    CHECK(support::read_bytes(folder.path("planter.glb")) ==
          support::read_bytes(demo_file("planter.glb")));
    std::filesystem::remove(folder.path("moss.png"));
    CHECK(support::must_fail(glasshouse::write_planter(folder.path(""))).kind == yl::ErrorKind::io);
}
