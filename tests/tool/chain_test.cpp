// Chains as the tool makes and shows them.
#include <cmath>
#include <nlohmann/json.hpp>
#include <yl/yl.hpp>

#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using support::contains;
using support::demo_file;
using support::must;
using support::run_ylat;
using support::TemporaryFolder;

namespace {

Texture bake_file_with(const std::string& input, const std::string& options) {
    const TemporaryFolder folder;
    const std::string out = folder.path("out.ktx2");
    const auto outcome = run_ylat("bake " + input + " -o " + out + " " + options);
    CAPTURE(options);
    CAPTURE(outcome.err);
    REQUIRE(outcome.exit <= 1);
    return must(read_texture(out)).texture;
}

void check_equal(const Texture& a, const Texture& b) {
    REQUIRE(a.shape() == b.shape());
    for (std::uint32_t level = 0; level < a.shape().levels; ++level)
        CHECK(std::ranges::equal(a.level(level), b.level(level)));
}

}  // namespace

TEST_CASE("filters, edges and chain options reach the library") {
    const auto by_library = [](const char* name, const BakeOptions& options) {
        return std::move(must(bake_file(demo_file(name), options)).texture);
    };
    BakeOptions kaiser;
    kaiser.mips.kernel = must(parse_kernel("kaiser:2,6"));
    kaiser.mips.edges = {Edge::repeat, Edge::mirror};
    kaiser.mips.limit_ringing = true;
    check_equal(bake_file_with(demo_file("slate.png"),
                               "--filter kaiser:2,6 --edge repeat,mirror --limit-ringing"),
                by_library("slate.png", kaiser));
    BakeOptions faded{.role = Role::data};
    faded.mips.fade = Fade{1, 4};
    faded.mips.sharpen = 0.5F;
    faded.mips.from_top = true;
    faded.mips.dither = true;
    check_equal(bake_file_with(demo_file("moss.png"),
                               "--role data --fade 1..4 --sharpen 0.5 --from-top --dither"),
                by_library("moss.png", faded));
    BakeOptions lowest{.role = Role::height};
    lowest.mips.reduction = Reduction::minimum;
    check_equal(bake_file_with(demo_file("moss.png"), "--role height --reduce minimum"),
                by_library("moss.png", lowest));
    BakeOptions covered;
    covered.coverage = 0.75F;
    check_equal(bake_file_with(demo_file("lattice.png"), "--coverage 0.75"),
                by_library("lattice.png", covered));
    BakeOptions rough{.role = Role::data};
    rough.normals = std::make_shared<const Picture>(
        must(read_picture(demo_file("slate_normal.png"), {.role = Role::normal})));
    const Texture widened = bake_file_with(
        demo_file("slate_roughness.png"), "--role data --normals " + demo_file("slate_normal.png"));
    check_equal(widened, by_library("slate_roughness.png", rough));
    const Texture plain = bake_file_with(demo_file("slate_roughness.png"), "--role data");
    CHECK(widened.level(5)[0] > plain.level(5)[0]);
    // By role, normals come out one long; a plain chain lets them shorten.
    const auto length_at_end = [](const Texture& texture) {
        double sum = 0;
        for (std::size_t c = 0; c < 3; ++c) {
            const double n = std::to_integer<int>(texture.level(7)[c]) / 127.5 - 1;
            sum += n * n;
        }
        return std::sqrt(sum);
    };
    CHECK(length_at_end(bake_file_with(demo_file("pond_normal.png"), "--role normal")) ==
          doctest::Approx(1).epsilon(0.01));
    CHECK(length_at_end(
              bake_file_with(demo_file("pond_normal.png"), "--role normal --plain-chain")) < 0.985);
}

TEST_CASE("sizes are limited and rounded when asked") {
    const auto size = [](const std::string& options) {
        const TextureShape shape = bake_file_with(demo_file("label.png"), options).shape();
        return std::array{shape.width, shape.height};
    };
    CHECK(size("--max-size 20") == std::array{20U, 13U});
    CHECK(size("--pow2 nearest") == std::array{32U, 32U});
    CHECK(size("--pow2 up") == std::array{64U, 32U});
    CHECK(size("--pow2 down") == std::array{32U, 16U});
    CHECK(size("--pow2 up --max-size 40") == std::array{32U, 32U});
}

TEST_CASE("all levels may come from files, and a chain may begin below its top") {
    const TemporaryFolder folder;
    std::string options;
    for (std::uint32_t level = 0; level < 3; ++level) {
        const std::string path = folder.path("level" + std::to_string(level) + ".png");
        Image image = must(Image::create(Format::rgb8_srgb, 4U >> level, 4U >> level));
        std::fill_n(image.view().data, image.row_stride() * image.height(),
                    static_cast<std::byte>(50 * level));
        must(write_picture(path, image.view()));
        options += " --level " + std::to_string(level) + "=" + path;
    }
    const Texture texture = bake_file_with("", options);
    REQUIRE(texture.shape().levels == 3);
    for (std::uint32_t level = 0; level < 3; ++level)
        CHECK(texture.level(level)[0] == static_cast<std::byte>(50 * level));
    CHECK(run_ylat("bake -o " + folder.path("none.ktx2")).exit == 2);

    const Texture whole = bake_file_with(demo_file("slate.png"), "");
    const Texture rest = bake_file_with(demo_file("slate.png"), "--first-level 2");
    CHECK(rest.shape().width == 128);
    CHECK(rest.shape().levels == 8);
    for (std::uint32_t level = 0; level < 8; ++level)
        CHECK(std::ranges::equal(rest.level(level), whole.level(level + 2)));
    CHECK(run_ylat("bake " + demo_file("slate.png") + " --first-level 10 -o " +
                   folder.path("none.ktx2"))
              .exit == 2);
}

TEST_CASE("levels are taken from pictures, and a wrong size is named with the right one") {
    const TemporaryFolder folder;
    const std::string half = folder.path("half.png");
    REQUIRE(run_ylat("rework " + demo_file("moss.png") + " --resize 128x128 -o " + half).exit == 0);
    const Texture texture = bake_file_with(demo_file("slate.png"), "--level 2=" + half);
    const Image given =
        must(convert(support::view_of(must(read_picture(half)).image), Format::rgba8_srgb,
                     {.source_transfer = Transfer::srgb, .swizzle = gray_swizzle}));
    CHECK(support::equal_pixels(texture.image(2), given.view()));
    const auto wrong = run_ylat("bake " + demo_file("slate.png") + " --level 1=" + half + " -o " +
                                folder.path("out.ktx2"));
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "level 1"));
    CHECK(contains(wrong.err, "128 x 128"));
    CHECK(contains(wrong.err, "256 x 256"));
    for (const std::string& option : std::vector<std::string>{
             "--level 1", "--level x=" + half, "--level 40=" + half, "--filter wide", "--edge wrap",
             "--coverage 2", "--fade 4..4", "--sharpen 9", "--pow2 sideways"}) {
        CAPTURE(option);
        CHECK(run_ylat("bake " + demo_file("slate.png") + " " + option + " -o " +
                       folder.path("out.ktx2"))
                  .exit == 2);
    }
    CHECK(folder.entries() == std::vector<std::string>{"half.png"});
}

TEST_CASE("a sheet holds every level, at its size or enlarged") {
    const TemporaryFolder folder;
    const std::string out = folder.path("sheet.png");
    const auto plain = run_ylat("sheet " + demo_file("label.png") + " -o " + out);
    CHECK(plain.exit == 0);
    CHECK(contains(plain.out, "6 levels"));
    const Picture sheet = must(read_picture(out));
    const Texture label = std::move(must(bake_file(demo_file("label.png"))).texture);
    // Somewhere in it stands the top level, opaque pixels as they are.
    const auto found_at = [&](std::uint32_t left, std::uint32_t top) {
        for (std::uint32_t y = 0; y < 29; ++y)
            for (std::uint32_t x = 0; x < 45; ++x) {
                const auto texel = label.image(0).row(y).subspan(x * 4, 4);
                if (texel[3] == std::byte{255} &&
                    !std::equal(texel.begin(), texel.begin() + 3,
                                sheet.image.view().row(top + y).begin() + (left + x) * 4))
                    return false;
            }
        return true;
    };
    bool is_there = false;
    for (std::uint32_t top = 0; top + 29 <= sheet.image.height() && !is_there; ++top)
        is_there = found_at(16, top);
    CHECK(is_there);
    CHECK(run_ylat("sheet " + demo_file("label.png") + " --enlarge --columns 3 -o " + out).exit ==
          0);
    CHECK(must(read_picture(out)).image.width() >= 3 * 45);
    CHECK(run_ylat("sheet " + folder.path("none.ktx2") + " -o " + out).exit == 4);
}

TEST_CASE("several textures are drawn side by side, and normals are lit by a lamp") {
    const TemporaryFolder folder;
    const std::string out = folder.path("out.png");
    const std::string pond = demo_file("pond_normal.png");
    const auto lit = run_ylat("draw floor " + pond + " " + pond +
                              " --lamp 0,0.9,0.3 --roughness 0.2" + " --size 64x48 -o " + out);
    CAPTURE(lit.err);
    CHECK(lit.exit == 0);
    CHECK(contains(lit.out, "2 panels"));
    // The lamp stands ahead: the middle of the floor is brighter than its sides.
    CHECK(
        run_ylat("draw floor " + pond + " --lamp 0,0.9,0.3 --roughness 0.3 --size 64x48 -o " + out)
            .exit == 0);
    const Picture picture = must(read_picture(out));
    int middle = 0, side = 0;
    for (std::uint32_t y = 15; y < 24; ++y) {
        middle += std::to_integer<int>(picture.image.view().row(y)[32 * 4]);
        side += std::to_integer<int>(picture.image.view().row(y)[2 * 4]);
    }
    CHECK(middle > 2 * side);
    CHECK(run_ylat("draw floor " + pond + " --lamp 0,1,1 --api gl -o " + out).exit == 2);
    CHECK(run_ylat("draw floor " + pond + " --lamp 0,1,1 --roughness-map " + pond +
                   " --roughness-map " + pond + " -o " + out)
              .exit == 2);
    const auto unlit = run_ylat("draw floor " + pond + " --roughness-map " + pond + " -o " + out);
    CHECK(unlit.exit == 2);
    CHECK(contains(unlit.err, "--lamp"));
}
