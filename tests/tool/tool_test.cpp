#include <cmath>
#include <nlohmann/json.hpp>
#include <yl/yl.hpp>

#include "glasshouse.hpp"
#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using nlohmann::json;
using support::contains;
using support::demo_file;
using support::must;
using support::Outcome;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;

namespace {}  // namespace

TEST_CASE("the demo data are what their generator makes") {
    for (const glasshouse::DemoPicture& picture : must(glasshouse::make_pictures())) {
        CAPTURE(picture.name);
        const Picture committed =
            must(read_picture(demo_file(picture.name + ".png"), {.role = picture.role}));
        CHECK(support::equal_pixels(committed.image.view(), picture.image.view()));
    }
}

TEST_CASE("peek says what a picture holds") {
    const Outcome outcome = run_ylat("peek " + demo_file("lattice.png"));
    CHECK(outcome.exit == 0);
    for (const char* part :
         {"512 x 512", "RGBA, 8 bits; used: RGBA, 8 bits", "no seam left to right",
          "sRGB: the file says so", "straight, used", "row 0       top", "rgba8-srgb"})
        CHECK(contains(outcome.out, part));
    const json moss = run_json("peek " + demo_file("moss.png") + " " + demo_file("label.png"));
    REQUIRE(moss.size() == 2);
    CHECK(moss[0]["stored_channels"] == 1);
    CHECK(moss[0]["gray"] == true);
    CHECK(moss[0]["alpha"] == "none");
    CHECK(moss[1]["width"] == 45);
    CHECK(moss[1]["used_channels"] == 4);
}

TEST_CASE("peek --fast says what the headers say, and as much of textures") {
    const support::TemporaryFolder folder;
    const std::string texture = folder.path("moss.ktx2");
    REQUIRE(run_ylat("bake " + demo_file("moss.png") + " --role mask -o " + texture).exit == 0);
    const json both = run_json("peek --fast " + demo_file("dawn.hdr") + " " + texture);
    const json whole = run_json("peek " + demo_file("dawn.hdr") + " " + texture);
    REQUIRE(both.size() == 2);
    CHECK(both[0]["bits"] == 32);
    CHECK(both[0]["float"] == true);
    CHECK(both[0]["channels"] == 3);
    for (std::size_t i = 0; i < 2; ++i)
        for (const char* key : {"input", "kind", "file_format", "width", "height"})
            CHECK(both[i][key] == whole[i][key]);
    for (const char* key : {"gpu_format", "levels", "gpu_bytes", "file_bytes"})
        CHECK(both[1][key] == whole[1][key]);
    CHECK(contains(run_ylat("peek --fast " + texture).out, "r8-unorm"));
    CHECK(run_ylat("peek --fast " + folder.path("none.png")).exit == 4);
}

TEST_CASE("peek of a picture that is too large to read says what its header says, and why") {
    const support::TemporaryFolder folder;
    const std::string wide = folder.path("wide.png");
    must(write_picture(
        wide, support::view_of(must(Image::create(Format::r8_unorm, 20000, 2, Limits::none())))));
    const std::string reason = "only the header was read: 20000 x 2 x 1 texels exceed the limit";
    const auto peeked = run_ylat("peek " + wide);
    CHECK(peeked.exit == 0);
    CHECK(contains(peeked.out, "20000 x 2 pixels"));
    CHECK(contains(peeked.out, reason));
    const json both = run_json("peek " + wide + " " + demo_file("moss.png"));
    CHECK(both[0]["width"] == 20000);
    CHECK(contains(both[0]["remarks"][0].get<std::string>(), reason));
    CHECK(both[1]["gray"] == true);
}

TEST_CASE("sizes that are as asked for already are remarked on") {
    const support::TemporaryFolder folder;
    const std::string to = " -o " + folder.path("t.ktx2");
    must(write_picture(folder.path("one.png"),
                       support::view_of(must(Image::create(Format::rgba8_srgb, 1, 1)))));
    for (const std::string& input : {folder.path("one.png"), demo_file("slate.png")}) {
        const Outcome rounded = run_ylat("bake " + input + " --pow2 up" + to);
        CHECK(rounded.exit == 0);
        CHECK(contains(rounded.err, "--pow2 changes nothing: both sides are powers of two"));
        CHECK(contains(run_ylat("bake " + input + " --max-size 512" + to).err,
                       "--max-size changes nothing: no side is longer"));
    }
    CHECK_FALSE(contains(run_ylat("bake " + demo_file("label.png") + " --pow2 up" + to).err,
                         "changes nothing"));
    CHECK_FALSE(contains(run_ylat("bake " + demo_file("slate.png") + " --max-size 511" + to).err,
                         "changes nothing"));
}

TEST_CASE("several pictures become layers or slices, and come back by unpack") {
    const support::TemporaryFolder folder;
    std::string inputs;
    for (const char* name : {"a", "b", "c"}) {
        Image image = must(Image::create(Format::rgba8_srgb, 8, 4));
        support::Random random(static_cast<unsigned>(*name));
        support::fill_random(image.view(), random);
        must(write_picture(folder.path(std::string(name) + ".png"), image.view()));
        inputs += " " + folder.path(std::string(name) + ".png");
    }
    for (const bool is_array : {true, false}) {
        const std::string texture = folder.path(is_array ? "t.ktx2" : "t.dds");
        const json baked = run_json(std::string("bake ") + (is_array ? "--array" : "--volume") +
                                    inputs + " -o " + texture);
        CHECK(baked["inputs"].size() == 3);
        CHECK(baked["layers"] == (is_array ? 3 : 1));
        CHECK(baked["depth"] == (is_array ? 1 : 3));
        CHECK(run_json("upload " + texture)["identical"] == true);
        CHECK(run_json("upload --api vulkan " + texture)["identical"] == true);
        CHECK(run_ylat("sheet " + texture + " -o " + folder.path("sheet.png")).exit == 0);
        const Outcome drawn = run_ylat("draw panel " + texture + " -o " + folder.path("d.png"));
        CHECK((drawn.exit != 0 || contains(drawn.err, "the first alone is taken")));
        const std::string out = folder.path(is_array ? "layers" : "slices");
        REQUIRE(run_ylat("unpack --level 0 " + texture + " -o " + out).exit == 0);
        for (int i = 0; i < 3; ++i) {
            const std::string name =
                out + "/t_level0_" + (is_array ? "layer" : "slice") + std::to_string(i) + ".png";
            const Picture back = must(read_picture(name));
            const Picture source = must(
                read_picture(folder.path(std::string(1, static_cast<char>('a' + i)) + ".png")));
            CHECK(support::equal_pixels(back.image.view(), source.image.view()));
        }
    }
    const Outcome unequal = run_ylat("bake --array" + inputs + " " + demo_file("label.png") +
                                     " -o " + folder.path("x.ktx2"));
    CHECK(unequal.exit == 2);
    CHECK(contains(unequal.err, demo_file("label.png") + ": it is 45 x 29"));
    const Outcome loose = run_ylat("bake" + inputs + " -o " + folder.path("x.ktx2"));
    CHECK(loose.exit == 2);
    CHECK(contains(loose.err, "--array or --volume"));
    CHECK(run_ylat("bake --array --volume" + inputs + " -o " + folder.path("x.ktx2")).exit == 2);
}

TEST_CASE("bake makes a full rgba8-srgb chain by default, and peek and the library agree on it") {
    const TemporaryFolder folder;
    const std::string out = folder.path("slate.ktx2");
    const Outcome outcome = run_ylat("bake " + demo_file("slate.png") + " -o " + out);
    CHECK(outcome.exit == 0);
    CHECK(outcome.err.empty());
    CHECK(contains(outcome.out, "512 x 512, rgba8-srgb, 10 levels"));
    const TextureFile file = must(read_texture(out));
    CHECK(file.texture.shape() ==
          TextureShape{.format = Format::rgba8_srgb, .width = 512, .height = 512, .levels = 10});
    const Picture picture = must(read_picture(demo_file("slate.png")));
    CHECK(support::equal_pixels(
        file.texture.image(0),
        support::view_of(must(convert(picture.image.view(), Format::rgba8_srgb,
                                      {.source_transfer = Transfer::linear})))));
    const json peek = run_json("peek " + out)[0];
    CHECK(peek["levels"] == 10);
    CHECK(peek["gpu_format"] == "rgba8-srgb");
    CHECK(peek["origin"] == "top");
    CHECK(peek["gpu_bytes"] == file.texture.shape().total_bytes());
}

TEST_CASE("bake's options change what they say") {
    const TemporaryFolder folder;
    const std::string out = folder.path("t.ktx2");
    json report = run_json("bake " + demo_file("moss.png") + " -o " + out +
                           " --role mask --levels 3 --origin bottom --supercompress zstd:19 "
                           "--sampler 'mag=nearest aniso=4'");
    CHECK(report["gpu_format"] == "r8-unorm");
    CHECK(report["levels"] == 3);
    CHECK(report["swizzle"] == "rrr1");
    const TextureFile file = must(read_texture(out));
    CHECK(file.info.supercompression == Supercompression::zstd);
    CHECK(file.texture.metadata.origin == Origin::bottom);
    CHECK(file.texture.metadata.sampler == must(parse_sampler("mag=nearest aniso=4")));
    const Picture moss = must(read_picture(demo_file("moss.png"), {.role = Role::mask}));
    CHECK(std::ranges::equal(file.texture.image(0).row(255), moss.image.view().row(0)));
    report = run_json("bake " + demo_file("slate.png") + " -o " + out +
                      " --as rgba16-float --supercompress zlib");
    CHECK(report["gpu_format"] == "rgba16-float");
    CHECK(must(read_texture(out)).info.supercompression == Supercompression::zlib);
    const Outcome doubtful =
        run_ylat("bake " + demo_file("slate.png") + " -o " + out + " --as rgba8-unorm");
    CHECK(doubtful.exit == 0);
    CHECK(contains(doubtful.err, "dark tones"));
    CHECK(must(read_texture(out)).texture.shape().format == Format::rgba8_unorm);
}

TEST_CASE("the number of threads changes no byte") {
    const TemporaryFolder folder;
    for (const int threads : {1, 2, 8})
        CHECK(run_ylat("bake " + demo_file("lattice.png") + " --supercompress zstd -o " +
                       folder.path(std::to_string(threads) + ".ktx2") + " --threads " +
                       std::to_string(threads))
                  .exit == 0);
    CHECK(support::read_bytes(folder.path("1.ktx2")) == support::read_bytes(folder.path("2.ktx2")));
    CHECK(support::read_bytes(folder.path("1.ktx2")) == support::read_bytes(folder.path("8.ktx2")));
}

TEST_CASE("draw makes the same picture by the CPU and by the driver") {
    const TemporaryFolder folder;
    for (const std::string scene : {"floor", "panel --tiles 2,2 --turn 40 --tilt 10"}) {
        for (const std::string api : {"cpu", "gl"})
            CHECK(run_ylat("draw " + scene + " " + demo_file("slate.png") +
                           " --size 320x200 --api " + api + " -o " + folder.path(api + ".png"))
                      .exit == 0);
        const Picture cpu = must(read_picture(folder.path("cpu.png")));
        const Picture driver = must(read_picture(folder.path("gl.png")));
        CHECK(cpu.image.width() == 320);
        CHECK(cpu.image.height() == 200);
        CHECK(must(compare_pictures(cpu.image.view(), driver.image.view(), 2)).share_within() >=
              0.999);
    }
}

TEST_CASE("several samplers stand side by side and differ") {
    const TemporaryFolder folder;
    const json report =
        run_json("draw floor " + demo_file("slate.png") + " -o " + folder.path("f.png") +
                 " --size 300x200 --sampler 'mag=nearest min=nearest mip=nearest' --sampler "
                 "'mip=nearest' --sampler '' --sampler 'aniso=8'");
    CHECK(report["panels"] == 4);
    CHECK(report["width"] > 600);
    CHECK(report["height"] > 400);
}

TEST_CASE("draw warns of a sampler that does not fit, and shows the black surface") {
    const TemporaryFolder folder;
    const std::string flat = folder.path("flat.ktx2");
    CHECK(run_ylat("bake " + demo_file("slate.png") + " --levels 1 -o " + flat).exit == 0);
    for (const std::string api : {"cpu", "gl"}) {
        const Outcome outcome =
            run_ylat("draw panel " + flat + " --declare-levels 0..1000 --size 64x64 --api " + api +
                     " -o " + folder.path("p.png"));
        CHECK(outcome.exit == 0);
        CHECK(contains(outcome.err, "OpenGL samples it as black"));
        const Picture picture = must(read_picture(folder.path("p.png")));
        CHECK(std::to_integer<int>(picture.image.view().row(32)[32 * 4 + 1]) == 0);
    }
}

TEST_CASE("upload reads back every level of every demo texture identical") {
    for (const char* name :
         {"lattice", "slate", "slate_normal", "slate_roughness", "label", "moss"}) {
        const json report = run_json("upload --api gl " + demo_file(std::string(name) + ".png"));
        CAPTURE(name);
        CHECK(report["identical"] == true);
        CHECK_FALSE(report["device"].get<std::string>().empty());
        CHECK(report["regions"].size() ==
              static_cast<std::size_t>(1 + std::log2(report["regions"][0]["width"].get<double>())));
    }
    const Outcome outcome = run_ylat("upload " + demo_file("label.png"));
    CHECK(contains(outcome.out, "6 of 6 levels read back identical"));
    CHECK(contains(outcome.out, "45 x 29"));
}

TEST_CASE("demo makes everything, and every check in it holds") {
    const TemporaryFolder folder;
    const json report = run_json("demo -o " + folder.path("d"));
    CHECK(report["failed"] == 0);
    CHECK(report["checks"] >= 15);
    for (const char* name : {"slate.ktx2", "moss.ktx2", "floor.png", "wraps.png", "trellis.png"})
        CHECK(std::filesystem::file_size(folder.path(std::string("d/") + name)) > 500);
}

TEST_CASE("help and version leave with 0, and --quiet is quiet") {
    CHECK(run_ylat("--help").exit == 0);
    CHECK(contains(run_ylat("bake --help").out, "--supercompress"));
    CHECK(contains(run_ylat("--version").out, version));
    const TemporaryFolder folder;
    CHECK(run_ylat("--quiet bake " + demo_file("label.png") + " -o " + folder.path("l.ktx2"))
              .out.empty());
}
