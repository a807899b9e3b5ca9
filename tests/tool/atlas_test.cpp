// Atlases, arrays, lookup tables and profiles by the tool.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/reference_gif.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using support::contains;
using support::demo_file;
using support::must;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;
using Json = nlohmann::json;

TEST_CASE("atlas: the demo's pictures, their table, one of them drawn, and kept after a change") {
    const TemporaryFolder folder;
    const std::string out = folder.path("glass.ktx2");
    const std::string pictures = demo_file("label.png") + " " + demo_file("lattice.png") + " " +
                                 demo_file("slate.png") + " " + demo_file("moss.png");
    const Json result =
        run_json("atlas " + pictures + " --tile slate --pivot label=3,4.5 -o " + out);
    CHECK(result["parts"] == 4);
    CHECK(result["table"] == folder.path("glass.json"));
    CHECK(result["last_clean_level"] == 2);
    const AtlasTable table = must(read_atlas_table(folder.path("glass.json")));
    const TextureFile file = must(read_texture(out));
    CHECK(file.texture.shape().width == table.width);
    CHECK(file.texture.shape().levels == 3);
    CHECK(table.find("label")->pivot == std::array{3.0F, 4.5F});
    CHECK(table.find("slate")->repeats);
    // Seen straight on, the label is what it is alone.
    const std::string alone = folder.path("alone.png"), part = folder.path("part.png");
    REQUIRE(run_ylat("draw panel " + demo_file("label.png") +
                     " --sampler 'mag=nearest min=nearest mip=none wrap=clamp-to-edge' -o " + alone)
                .exit == 0);
    for (const char* api : {"cpu", "gl", "vulkan"}) {
        REQUIRE(run_ylat("draw panel " + out +
                         " --part label --sampler 'mag=nearest min=nearest "
                         "mip=none' --api " +
                         api + " -o " + part)
                    .exit == 0);
        CHECK(run_ylat("diff --tolerance 1 " + alone + " " + part).exit == 0);
    }
    const auto missing = run_ylat("draw panel " + out + " --part nobody -o " + part);
    CHECK(missing.exit == 2);
    CHECK(contains(missing.err, "label, lattice, slate, moss"));
    // Without the label, the others stay.
    const Json kept = run_json("atlas " + demo_file("lattice.png") + " " + demo_file("slate.png") +
                               " " + demo_file("moss.png") + " --tile slate --keep " +
                               folder.path("glass.json") + " -o " + folder.path("new.ktx2"));
    CHECK(kept["kept"] == 3);
    const AtlasTable now = must(read_atlas_table(folder.path("new.json")));
    for (const AtlasPart& same : now.parts)
        CHECK(same.cell == table.find(same.name)->cell);
}

TEST_CASE("atlas: what cannot be is refused, and nothing is written") {
    const TemporaryFolder folder;
    const std::string out = " -o " + folder.path("t.ktx2");
    const std::string label = demo_file("label.png");
    const auto check = [&](const std::string& command, int exit, const char* word) {
        const auto outcome = run_ylat("atlas " + command);
        CAPTURE(command);
        CAPTURE(outcome.err);
        CHECK(outcome.exit == exit);
        CHECK(contains(outcome.err, word));
        CHECK(folder.entries().empty());
    };
    check(label + " " + label + out, 2, "same name");
    check(label + " --tile nobody" + out, 2, "nobody");
    check(label + " --pivot label=3" + out, 2, "NAME=X,Y");
    check(label + " --turn --tile label" + out, 2, "--turn");
    check(label + " --max-size 16" + out, 3, "label");
    check(label + " no_such.png" + out, 4, "no_such.png");
    check(label + " -o -", 2, "--table");
    check(label + " --keep no_such.json" + out, 4, "no_such.json");
}

TEST_CASE("bake: lookup tables and strips become 3D textures") {
    const TemporaryFolder folder;
    std::string text = "TITLE \"half\"\nLUT_3D_SIZE 4\n";
    for (int b = 0; b < 4; ++b)
        for (int g = 0; g < 4; ++g)
            for (int r = 0; r < 4; ++r)
                text += std::to_string(r / 6.0) + " " + std::to_string(g / 6.0) + " " +
                        std::to_string(b / 6.0) + "\n";
    support::write_text(folder.path("half.cube"), text);
    const Json table =
        run_json("bake " + folder.path("half.cube") + " -o " + folder.path("t.ktx2"));
    CHECK(table["gpu_format"] == "rgba16-float");
    CHECK(table["depth"] == 4);
    CHECK(table["levels"] == 1);
    const Json bytes = run_json("bake " + folder.path("half.cube") + " --as rgba8-unorm -o " +
                                folder.path("b.ktx2"));
    CHECK(bytes["gpu_format"] == "rgba8-unorm");
    support::write_text(folder.path("bad.cube"), "LUT_3D_SIZE 4\n1 2\n");
    const auto bad = run_ylat("bake " + folder.path("bad.cube") + " -o " + folder.path("c.ktx2"));
    CHECK(bad.exit == 3);
    CHECK(contains(bad.err, "line 2"));
    REQUIRE(run_ylat("rework " + demo_file("slate.png") + " --resize 64x16 -o " +
                     folder.path("strip.png"))
                .exit == 0);
    const Json strip = run_json("bake " + folder.path("strip.png") + " --volume --slices 4 -o " +
                                folder.path("s.ktx2"));
    CHECK(strip["depth"] == 4);
    CHECK(strip["width"] == 16);
    CHECK(strip["role"] == "data");
    const auto uneven = run_ylat("bake " + folder.path("strip.png") + " --volume --slices 5 -o " +
                                 folder.path("u.ktx2"));
    CHECK(uneven.exit == 2);
}

TEST_CASE("bake --array: textures and cubes become layers, which draw and unpack show") {
    const TemporaryFolder folder;
    const std::string sky = folder.path("sky.ktx2");
    REQUIRE(run_ylat("cube " + demo_file("dawn.hdr") + " --face-size 16 -o " + sky).exit == 0);
    const Json cubes =
        run_json("bake --array " + sky + " " + sky + " -o " + folder.path("two.ktx2"));
    CHECK(cubes["layers"] == 2);
    CHECK(cubes["faces"] == 6);
    const std::string a = folder.path("a.png"), b = folder.path("b.png");
    REQUIRE(run_ylat("draw sky " + sky + " -o " + a).exit == 0);
    REQUIRE(run_ylat("draw sky " + folder.path("two.ktx2") + " --layer 1 -o " + b).exit == 0);
    CHECK(run_ylat("diff " + a + " " + b).exit == 0);
    REQUIRE(run_ylat("bake " + demo_file("label.png") + " -o " + folder.path("label.ktx2")).exit ==
            0);
    const auto mixed = run_ylat("bake --array " + sky + " " + folder.path("label.ktx2") + " -o " +
                                folder.path("m.ktx2"));
    CHECK(mixed.exit == 2);
    CHECK(contains(mixed.err, "label.ktx2"));
}

TEST_CASE("bake into a folder: roles by names, a line for each, failures stop nothing") {
    const TemporaryFolder folder;
    const std::string out = folder.path("out/");
    const std::string files = demo_file("slate.png") + " " + demo_file("slate_normal.png") + " " +
                              demo_file("slate_roughness.png") + " " + demo_file("moss.png");
    const Json entries = run_json("bake " + files + " --role-of 'mo*=mask' -o " + out);
    REQUIRE(entries.size() == 4);
    const char* roles[] = {"color", "normal", "data", "mask"};
    for (std::size_t i = 0; i < 4; ++i) {
        CHECK(entries[i]["role"] == roles[i]);
        CHECK(must(read_texture(entries[i]["output"].get<std::string>())).texture.shape().levels >
              1);
    }
    // Each is what it is when baked alone.
    REQUIRE(run_ylat("bake --role normal " + demo_file("slate_normal.png") + " -o " +
                     folder.path("alone.ktx2"))
                .exit == 0);
    CHECK(support::read_bytes(folder.path("alone.ktx2")) ==
          support::read_bytes(folder.path("out/slate_normal.ktx2")));
    const auto partly =
        run_ylat("bake " + demo_file("label.png") + " no_such.png " + demo_file("lattice.png") +
                 " " + demo_file("label.png") + " -o " + out);
    CHECK(partly.exit == 4);
    CHECK(contains(partly.out, "label.ktx2"));
    CHECK(contains(partly.out, "lattice.ktx2"));
    CHECK(contains(partly.out, "2 of 4 baked"));
    CHECK(contains(partly.err, "no_such.png"));
    CHECK(contains(partly.err, "made of another input already"));
    CHECK(run_ylat("bake " + demo_file("label.png") + " --role-of x=y -o " + out).exit == 2);
    CHECK(run_ylat("bake " + demo_file("label.png") + " --role-of 'x=data' -o " +
                   folder.path("one.ktx2"))
              .exit == 2);
}

TEST_CASE("frames of an animation become layers and flipbooks when asked for") {
    const TemporaryFolder folder;
    support::GifKind kind = {.width = 9, .height = 7, .bits = 4};
    for (int i = 0; i < 3; ++i) {
        support::GifFrame frame = {.width = 9, .height = 7, .delay = 10 * (i + 1)};
        frame.indices.assign(63, std::byte(3 * i + 1));
        kind.frames.push_back(frame);
    }
    const std::string gif = folder.path("walk.gif");
    support::write_bytes(gif, support::reference_gif(kind));
    const Json still = run_json("bake --array " + gif + " -o " + folder.path("one.ktx2"));
    CHECK(still["layers"] == 1);
    const Json array = run_json("bake --array --frames " + gif + " -o " + folder.path("a.ktx2"));
    CHECK(array["layers"] == 3);
    CHECK(array["seconds"] == Json::array({0.1, 0.2, 0.3}));
    const TextureFile file = must(read_texture(folder.path("a.ktx2")));
    CHECK(file.texture.metadata.key_values.at("YLframeSeconds") == "0.1 0.2 0.3");
    const PictureFrames frames = must(read_frames(gif));
    for (std::uint32_t layer = 0; layer < 3; ++layer) {
        const Picture as_stored =
            must(convert(frames.pictures[layer], file.texture.shape().format));
        CHECK(
            std::ranges::equal(as_stored.image.view().row(3), file.texture.image(0, layer).row(3)));
    }
    // A frame is named by its file and number; only the file that lacks something is.
    const auto uneven = run_ylat("bake --array --frames " + gif + " " + demo_file("label.png") +
                                 " -o " + folder.path("u.ktx2"));
    CHECK(uneven.exit == 2);
    CHECK(contains(uneven.err, "label.png"));
    CHECK(contains(run_ylat("peek " + gif).out, "3, of which this is the first"));
    CHECK(run_json("peek " + gif)[0]["frames"] == 3);
    run_json("atlas --frames " + gif + " -o " + folder.path("b.ktx2"));
    const AtlasTable table = must(read_atlas_table(folder.path("b.json")));
    REQUIRE(table.flipbooks.size() == 1);
    CHECK(table.flipbooks[0] == Flipbook{"walk", {"walk_0", "walk_1", "walk_2"}, {0.1, 0.2, 0.3}});
}
