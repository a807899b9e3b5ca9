// The tool with block formats and their containers: bake, diff, unpack, upload.
#include <nlohmann/json.hpp>
#include <yl/yl.hpp>

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

TEST_CASE("bake to a block format makes a whole chain that the driver takes as it is") {
    const TemporaryFolder folder;
    for (const char* format : {"bc1-srgb", "bc3-srgb", "bc7-srgb"}) {
        CAPTURE(format);
        const std::string out = folder.path(std::string(format) + ".ktx2");
        CHECK(run_ylat("bake " + demo_file("slate.png") + " --as " + format + " -o " + out).exit ==
              0);
        const TextureFile file = must(read_texture(out));
        CHECK(info(file.texture.shape().format).name == format);
        CHECK(file.texture.shape().levels == 10);
        const json uploaded = run_json("upload " + out);
        CHECK(uploaded["identical"] == true);
        CHECK(uploaded["converted"] == false);
    }
}

TEST_CASE("'--as bc' chooses by role") {
    const TemporaryFolder folder;
    const auto format_of = [&](const std::string& arguments) {
        return run_json("bake " + arguments + " --as bc --effort 0 -o " +
                        folder.path("t.ktx2"))["gpu_format"]
            .get<std::string>();
    };
    CHECK(format_of(demo_file("slate.png")) == "bc7-srgb");
    CHECK(format_of(demo_file("pond_normal.png") + " --role normal") == "bc5-unorm");
    CHECK(format_of(demo_file("moss.png") + " --role mask") == "bc4-unorm");
    CHECK(format_of(demo_file("dawn.hdr") + " --role hdr") == "bc6h-ufloat");
}

TEST_CASE("'--as' picks the block format of a phone by role, and that of ASTC by bits as well") {
    const TemporaryFolder folder;
    const auto format_of = [&](const std::string& as, const std::string& arguments) {
        return run_json("bake " + arguments + " --as " + as + " --effort 0 -o " +
                        folder.path("t.ktx2"))["gpu_format"]
            .get<std::string>();
    };
    const std::string color = demo_file("slate.png"),
                      normal = demo_file("pond_normal.png") + " --role normal",
                      mask = demo_file("moss.png") + " --role mask",
                      light = demo_file("dawn.hdr") + " --role hdr";
    CHECK(format_of("etc", color) == "etc2-rgb8-srgb");
    CHECK(format_of("etc", normal) == "eac-rg11-unorm");
    CHECK(format_of("etc", mask) == "eac-r11-unorm");
    CHECK(format_of("etc", light) == "rgba16-float");
    CHECK(format_of("astc", color) == "astc-6x6-srgb");
    CHECK(format_of("astc", normal) == "astc-6x6-unorm");
    CHECK(format_of("astc", light) == "astc-6x6-sfloat");
    CHECK(format_of("astc:8bpp", light) == "astc-4x4-sfloat");
    CHECK(format_of("astc:8bpp", color) == "astc-4x4-srgb");
    CHECK(format_of("astc:3.5bpp", color) == "astc-6x6-srgb");
    CHECK(format_of("astc:2bpp", normal) == "astc-8x8-unorm");
    CHECK(format_of("astc:0.1bpp", color) == "astc-12x12-srgb");
    CHECK(format_of("astc-10x5", color) == "astc-10x5-srgb");
    for (const char* wrong : {"astc:", "astc:3.5", "astc:bpp", "astc:0bpp", "astc:-1bpp",
                              "astc:nanbpp", "astc:3.5bppx", "astc-7x7"}) {
        CAPTURE(wrong);
        const Outcome outcome =
            run_ylat("bake " + color + " --as " + wrong + " -o " + folder.path("wrong.ktx2"));
        CHECK(outcome.exit == 2);
        CHECK(contains(outcome.err, wrong));
        CHECK_FALSE(std::filesystem::exists(folder.path("wrong.ktx2")));
    }
    const Outcome near_miss = run_ylat("bake " + color + " --as etcc -o " + folder.path("t.ktx2"));
    CHECK(contains(near_miss.err, "bc, etc, astc or a format such as etc2-"));
    CHECK_FALSE(contains(near_miss.err, " rgba8"));
}

TEST_CASE("diff says how far a baked texture is from its picture, and draws it") {
    const TemporaryFolder folder;
    const std::string baked = folder.path("slate.ktx2");
    run_ylat("bake " + demo_file("slate.png") + " --as bc1-srgb --levels 1 -o " + baked);
    const std::string map = folder.path("map.png");
    const Outcome apart = run_ylat("diff " + demo_file("slate.png") + " " + baked + " -o " + map);
    CHECK(apart.exit == 1);
    CHECK(contains(apart.out, "PSNR"));
    CHECK(contains(apart.out, "beyond a tolerance of 0"));
    CHECK(must(read_picture(map)).image.width() >= 512);
    const json numbers = run_json("diff --tolerance 255 " + demo_file("slate.png") + " " + baked);
    CHECK(numbers["within"] == true);
    CHECK(numbers["surfaces"][0]["psnr"].get<double>() > 30);
    CHECK(numbers["surfaces"][0]["ssim"].get<double>() > 0.8);
    CHECK(run_ylat("diff " + demo_file("slate.png") + " " + demo_file("slate.png")).exit == 0);
    const Outcome sizes = run_ylat("diff " + demo_file("slate.png") + " " + demo_file("label.png"));
    CHECK(sizes.exit == 2);
    CHECK(contains(sizes.err, "cannot be compared"));
    const json normals =
        run_json("diff --role normal --tolerance 300 " + demo_file("pond_normal.png") + " " +
                 demo_file("slate_normal.png"));
    CHECK(normals["surfaces"][0].contains("mean_angle"));
}

TEST_CASE("texture files move between containers byte for byte, and change their format") {
    const TemporaryFolder folder;
    const std::string ktx = folder.path("a.ktx2");
    const std::string dds = folder.path("a.dds");
    const std::string back = folder.path("b.ktx2");
    run_ylat("cube " + demo_file("dawn_cross.exr") + " --as bc6h-ufloat --effort 0 -o " + ktx);
    CHECK(run_ylat("bake " + ktx + " -o " + dds).exit == 0);
    CHECK(run_ylat("bake " + dds + " -o " + back).exit == 0);
    const Texture first = must(read_texture(ktx)).texture;
    const Texture last = must(read_texture(back)).texture;
    REQUIRE(first.shape() == last.shape());
    for (std::uint32_t level = 0; level < first.shape().levels; ++level)
        CHECK(std::ranges::equal(first.level(level), last.level(level)));
    CHECK(contains(run_ylat("peek " + dds).out, "DDS texture"));
    CHECK(run_ylat("bake " + dds + " --levels 2 -o " + back).exit == 0);
    CHECK(must(read_texture(back)).texture.shape().levels == 2);
    CHECK(run_ylat("bake " + dds + " --as rgba16-float -o " + folder.path("c.ktx2")).exit == 0);
    CHECK(must(read_texture(folder.path("c.ktx2"))).texture.shape().format == Format::rgba16_float);
    CHECK(run_ylat("unpack " + dds + " --level 0 -o " + folder.path("faces")).exit == 0);
    CHECK(run_ylat("draw sky " + dds + " -o " + folder.path("sky.png")).exit == 0);
    CHECK(run_ylat("sheet " + dds + " -o " + folder.path("sheet.png")).exit == 0);
}

TEST_CASE("what DDS cannot say is pointed out") {
    const TemporaryFolder folder;
    const Outcome gray = run_ylat("bake " + demo_file("moss.png") + " --role mask --as bc -o " +
                                  folder.path("moss.dds"));
    CHECK(gray.exit == 0);
    CHECK(contains(gray.err, "seen as rrr1"));
    const Outcome old = run_ylat("bake " + demo_file("slate.png") +
                                 " --as bc1-srgb --old-header -o " + folder.path("slate.dds"));
    CHECK(old.exit == 0);
    CHECK(contains(old.err, "cannot say that colours are sRGB"));
    CHECK(
        run_ylat("bake " + demo_file("slate.png") + " --as bc1-srgb -o " + folder.path("slate.dds"))
            .exit == 0);
}

TEST_CASE("sizes that are not whole blocks are pointed out") {
    const TemporaryFolder folder;
    const Outcome outcome = run_ylat("bake " + demo_file("label.png") + " --as bc7-srgb -o " +
                                     folder.path("label.ktx2"));
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.err, "not a multiple of 4 x 4"));
}

TEST_CASE("rate-distortion makes a smaller file, and wrong values are refused") {
    const TemporaryFolder folder;
    const auto bytes = [&](const std::string& options) {
        return run_json("bake " + demo_file("slate.png") + " --as bc1-srgb --supercompress zstd " +
                        options + " -o " + folder.path("t.ktx2"))["file_bytes"]
            .get<int>();
    };
    CHECK(bytes("--rate-distortion 3") < bytes("") * 9 / 10);
    const std::string command = "bake " + demo_file("slate.png") + " -o " + folder.path("t.ktx2");
    CHECK(run_ylat(command + " --as bc1-srgb --effort 11").exit == 2);
    CHECK(run_ylat(command + " --as bc1-srgb --rate-distortion -1").exit == 2);
    CHECK(run_ylat(command + " --as bc9-srgb").exit == 2);
}

TEST_CASE("peek forgives on request, and says what") {
    const TemporaryFolder folder;
    const std::string path = folder.path("odd.ktx2");
    run_ylat("bake " + demo_file("label.png") + " -o " + path);
    auto bytes = support::read_bytes(path);
    bytes[16] = std::byte{4};  // typeSize
    support::write_bytes(path, bytes);
    CHECK(run_ylat("peek " + path).exit == 3);
    const Outcome forgiven = run_ylat("peek --forgive " + path);
    CHECK(forgiven.exit == 0);
    CHECK(contains(forgiven.out, "typeSize is 4"));
}
