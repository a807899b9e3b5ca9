// Colour lookup tables: texts against the numbers in them, and strips against their slices.
#include <fmt/format.h>

#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

/// The colour at a place, by the sampler in the middles of texels.
std::array<float, 4> texel(const Texture& texture, std::size_t index) {
    Image one = must(Image::create(Format::rgba32_float, 1, 1));
    const std::size_t bytes = info(texture.shape().format).block_bytes;
    ConstImageView from;
    from.data = texture.level(0).data() + index * bytes;
    from.format = texture.shape().format;
    from.width = from.height = 1;
    from.row_stride = bytes;
    must(convert(from, one.view(), {.source_transfer = Transfer::linear}));
    std::array<float, 4> color = {};
    std::memcpy(color.data(), one.view().row(0).data(), sizeof color);
    return color;
}

std::string table_text(std::uint32_t side, const std::string& head) {
    std::string text = head + fmt::format("LUT_3D_SIZE {}\n", side);
    for (std::uint32_t b = 0; b < side; ++b)
        for (std::uint32_t g = 0; g < side; ++g)
            for (std::uint32_t r = 0; r < side; ++r)
                text += fmt::format("{} {} {}\n", r * 0.25, g * 0.125, b * 2 - 1.5);
    return text;
}

}  // namespace

TEST_CASE("a table of three dimensions: red along u, green along v, blue along w") {
    const LookupTable table = must(parse_lookup_table(
        table_text(5,
                   "# made by hand\n\nTITLE \"Evening, \u00e9\"\nDOMAIN_MIN 0 0 -1\n"
                   "DOMAIN_MAX 1 2.5 1e1\n")));
    CHECK(table.title == "Evening, \u00e9");
    CHECK(table.input_min == std::array{0.0F, 0.0F, -1.0F});
    CHECK(table.input_max == std::array{1.0F, 2.5F, 10.0F});
    const TextureShape& shape = table.texture.shape();
    CHECK(shape ==
          TextureShape{
              .format = Format::rgba16_float, .width = 5, .height = 5, .depth = 5, .is_3d = true});
    CHECK(table.texture.metadata.key_values.at(std::string(input_range_note)) == "0 0 -1 1 2.5 10");
    for (std::uint32_t i = 0; i < 125; ++i) {
        const auto color = texel(table.texture, i);
        CHECK(color[0] == static_cast<float>(i % 5) * 0.25F);
        CHECK(color[1] == static_cast<float>(i / 5 % 5) * 0.125F);
        CHECK(color[2] == static_cast<float>(i / 25) * 2 - 1.5F);
        CHECK(color[3] == 1);
    }
    // Line ends of other systems, tabs and plus signs; no note where the range is 0 to 1.
    const LookupTable other = must(parse_lookup_table(
        "LUT_3D_INPUT_RANGE 0.0 1.0\r\nLUT_3D_SIZE\t2\r\n" +
        std::string(
            "+0.5\t.25  1\r\n0 0 0\r\n0 0 0\r\n0 0 0\r\n0 0 0\r\n0 0 0\r\n0 0 0\r\n1 1 1")));
    CHECK(other.texture.metadata.key_values.empty());
    CHECK(texel(other.texture, 0) == std::array{0.5F, 0.25F, 1.0F, 1.0F});
}

TEST_CASE("a table of one dimension") {
    const LookupTable table =
        must(parse_lookup_table("LUT_1D_SIZE 3\n0 0 0\n0.5 0.25 0.75\n1 1 1\n"));
    CHECK(table.texture.shape().is_1d);
    CHECK(table.texture.shape().width == 3);
    CHECK(texel(table.texture, 1) == std::array{0.5F, 0.25F, 0.75F, 1.0F});
}

TEST_CASE("texts that are no tables name the line") {
    const auto place = [](const std::string& text) {
        const Error error = must_fail(parse_lookup_table(text));
        CHECK(error.kind == ErrorKind::malformed);
        return error.place;
    };
    CHECK(place("") == "");
    CHECK(place("LUT_3D_SIZE 1\n") == "line 1");
    CHECK(place("LUT_3D_SIZE 257\n") == "line 1");
    CHECK(place("LUT_3D_SIZE 2\nLUT_1D_SIZE 2\n") == "line 2");
    CHECK(place("0 0 0\n") == "line 1");
    CHECK(place("LUT_1D_SIZE 2\n0 0\n") == "line 2");
    CHECK(place("LUT_1D_SIZE 2\n0 0 0 0\n") == "line 2");
    CHECK(place("LUT_1D_SIZE 2\n0 0 nan\n") == "line 2");
    CHECK(place("LUT_1D_SIZE 2\n0 0 0\n0 0 0\n0 0 0\n") == "line 4");
    CHECK(place("# a\nCOLOURS 2\n") == "line 2");
    CHECK(contains(must_fail(parse_lookup_table("LUT_1D_SIZE 2\n0 0 0\n")).message, "1 of 2"));
    CHECK(place("LUT_1D_SIZE 2\nDOMAIN_MAX 0 1 1\n0 0 0\n0 0 0\n") == "");
    CHECK(must_fail(parse_lookup_table("LUT_3D_SIZE 200\n", {.max_bytes = 1000})).kind ==
          ErrorKind::limit);
    const support::TemporaryFolder folder;
    support::write_text(folder.path("t.cube"), "LUT_1D_SIZE 2\n0 0\n");
    CHECK(must_fail(read_lookup_table(folder.path("t.cube"))).place ==
          folder.path("t.cube") + ": line 2");
}

TEST_CASE("a strip is cut into slices, which make the volume that single pictures make") {
    for (const bool is_row : {true, false}) {
        Picture strip;
        strip.image = must(Image::create(Format::rgb8_unorm, is_row ? 16 : 4, is_row ? 4 : 16));
        support::Random random(2);
        support::fill_random(strip.image.view(), random);
        strip.transfer = Transfer::linear;
        const auto slices = must(slices_of_strip(strip, 4));
        REQUIRE(slices.size() == 4);
        std::vector<const Picture*> pointers;
        for (std::uint32_t i = 0; i < 4; ++i) {
            const Box box = is_row ? Box{4 * i, 0, 4, 4} : Box{0, 4 * i, 4, 4};
            CHECK(support::equal_pixels(support::view_of(slices[i].image),
                                        must(cropped(std::as_const(strip.image).view(), box))));
            CHECK(slices[i].transfer == Transfer::linear);
            pointers.push_back(&slices[i]);
        }
        const Baked volume = must(bake_volume(pointers, {.bake = {.role = Role::data}}));
        CHECK(volume.texture.shape().depth == 4);
        CHECK(must_fail(slices_of_strip(strip, 3)).place == "slices");
        CHECK(must_fail(slices_of_strip(strip, 0)).place == "slices");
    }
}
