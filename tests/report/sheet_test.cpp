// Sheets: every level, layer, face and slice of a texture in one picture.
#include <algorithm>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

TEST_CASE("a line is made shorter as a whole: its end is seen as well as its beginning") {
    for (const bool is_upright : {false, true}) {
        const std::uint32_t width = is_upright ? 1 : 2000, height = is_upright ? 2000 : 1;
        Texture texture =
            must(Texture::create({.format = Format::rgba8_srgb, .width = width, .height = height}));
        const auto texels = texture.level(0);
        for (std::size_t i = 0; i < texels.size(); ++i)  // black, then the last tenth blue
            texels[i] = std::byte(i % 4 == 3 || (i % 4 == 2 && i / 4 >= 1800) ? 255 : 0);
        const Image sheet = must(level_sheet(texture, "", {.max_side = 500}));
        std::size_t blue = 0;
        for (std::uint32_t y = 0; y < sheet.height(); ++y)
            for (std::uint32_t x = 0; x < sheet.width(); ++x) {
                const std::byte* pixel = &sheet.view().row(y)[std::size_t{4} * x];
                blue += pixel[2] == std::byte{255} && pixel[0] == std::byte{0} ? 1 : 0;
            }
        CAPTURE(is_upright);
        CHECK(blue > 20);
        CHECK(blue < 60);
    }
}

TEST_CASE("sheets show layers, faces and slices, each with its name") {
    const auto size = [](const TextureShape& shape, const SheetOptions& options) {
        const Texture texture = support::random_texture(shape, 2);
        const Image sheet = must(level_sheet(texture, "A heading", options));
        CHECK(sheet.format() == Format::rgba8_srgb);
        return std::array{sheet.width(), sheet.height()};
    };
    const TextureShape one{.format = Format::rgb8_srgb, .width = 64, .height = 32, .levels = 7};
    TextureShape array = one;
    array.layers = 3;
    array.is_array = true;
    TextureShape cube{.format = Format::rgba16_float, .width = 32, .height = 32, .faces = 6};
    const auto area = [&](const TextureShape& shape) {
        const auto sides = size(shape, {});
        return sides[0] * sides[1];
    };
    CHECK(area(array) > 2 * area(one));
    CHECK(size(cube, {})[0] >= 4 * 32);  // a cross
    CHECK(size(cube, {})[1] > 3 * 32);
    // Each face lies where it joins the others: the front in the middle, what is no face is paper.
    Texture faces =
        must(Texture::create({.format = Format::rgba8_srgb, .width = 8, .height = 8, .faces = 6}));
    for (std::uint32_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < 8; ++y)
            for (std::size_t i = 0; i < 32; ++i)
                faces.image(0, 0, face).row(y)[i] =
                    i % 4 == 3 ? std::byte{255} : static_cast<std::byte>(40 * face + 10);
    const Image cross = must(level_sheet(faces, "", {}));
    const auto red_at = [&](std::uint32_t column, std::uint32_t row) {
        const std::uint32_t left = 16, top = cross.height() - 16;
        // From the lower edge upwards: margin, gaps and one line of text stand below the cross.
        std::uint32_t first = 0;
        while (first < top && std::to_integer<int>(cross.view().row(first)[(left + 12) * 4]) != 90)
            ++first;  // the top face's first row
        return std::to_integer<int>(
            cross.view().row(first + 8 * row + 4)[(left + 8 * column + 4) * 4]);
    };
    CHECK(red_at(1, 0) == 90);
    CHECK(red_at(0, 1) == 50);
    CHECK(red_at(1, 1) == 170);
    CHECK(red_at(2, 1) == 10);
    CHECK(red_at(3, 1) == 210);
    CHECK(red_at(1, 2) == 130);
    CHECK(red_at(0, 0) < 40);
    CHECK(size(one, {.enlarged = true, .columns = 7})[0] >= 7 * 64);
    CHECK(size(one, {.enlarged = true, .max_side = 900, .columns = 7})[0] <= 900);
    const TextureShape volume{
        .format = Format::r8_unorm, .width = 8, .height = 8, .depth = 4, .levels = 3};
    CHECK(size(volume, {})[1] > 4 * 8);
}

TEST_CASE("a sheet fits its size as a whole, whatever is on it") {
    struct Kind {
        TextureShape shape;
        bool enlarged;
    };
    const Format format = Format::rgba8_srgb;
    const Kind kinds[] = {
        {{.format = format, .width = 1024, .height = 1024, .levels = 11}, false},
        {{.format = format, .width = 256, .height = 256, .levels = 9, .faces = 6}, false},
        {{.format = format, .width = 32, .height = 32, .levels = 6, .layers = 6, .is_array = true},
         false},
        {{.format = format, .width = 300, .height = 20, .levels = 9}, true},
        {{.format = format,
          .width = 16,
          .height = 16,
          .levels = 5,
          .layers = 5,
          .faces = 6,
          .is_array = true},
         true}};
    for (const Kind& kind : kinds)
        for (const std::uint32_t side : {900U, 2048U}) {
            CAPTURE(kind.shape.width);
            CAPTURE(side);
            const Texture texture = support::random_texture(kind.shape, 2);
            const Image sheet = must(
                level_sheet(texture, "heading", {.enlarged = kind.enlarged, .max_side = side}));
            CHECK(std::max(sheet.width(), sheet.height()) <= side);
            CHECK(std::max(sheet.width(), sheet.height()) > side / 4);
        }
    const Texture many = support::random_texture(
        {.format = Format::r8_unorm, .width = 16, .height = 16, .layers = 2000, .is_array = true},
        2);
    const Error error = must_fail(level_sheet(many, "", {.max_side = 500}));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(error.place == "max_side");
}

TEST_CASE("a sheet: one texel is enlarged, alpha shows a checkerboard, channels stand alone") {
    const auto sheet_of = [](const Texture& texture, const SheetOptions& options) {
        return must(level_sheet(texture, "", options));
    };
    const auto count = [](const Image& sheet, std::array<int, 3> color) {
        std::size_t found = 0;
        for (std::uint32_t y = 0; y < sheet.height(); ++y)
            for (std::uint32_t x = 0; x < sheet.width(); ++x) {
                const auto pixel = sheet.view().row(y).subspan(x * 4, 3);
                found += std::equal(pixel.begin(), pixel.end(), color.begin(),
                                    [](std::byte a, int b) { return a == std::byte(b); })
                             ? 1U
                             : 0U;
            }
        return found;
    };
    Texture one = must(Texture::create({.format = Format::rgba8_srgb}));
    std::ranges::copy(support::bytes_of({200, 100, 50, 255}), one.level(0).begin());
    CHECK(count(sheet_of(one, {.enlarged = true}), {200, 100, 50}) == 256 * 256);
    one.level(0)[3] = std::byte{0};
    const Image clear = sheet_of(one, {.enlarged = true});
    CHECK(count(clear, {111, 111, 111}) == 256 * 256 / 2);  // of 0.16 in linear light
    CHECK(count(clear, {75, 75, 75}) == 256 * 256 / 2);     // of 0.07
    one.metadata.alpha = AlphaMode::data;
    CHECK(count(sheet_of(one, {.enlarged = true}), {200, 100, 50}) == 256 * 256);
    one.level(0)[3] = std::byte{77};
    const Image apart =
        sheet_of(one, {.enlarged = true, .channels = {SwizzleSource::red, SwizzleSource::alpha}});
    CHECK(count(apart, {200, 200, 200}) == 256 * 256);
    CHECK(count(apart, {77, 77, 77}) == 256 * 256);
    CHECK(count(apart, {100, 100, 100}) == 0);
    one.metadata.alpha = AlphaMode::premultiplied;
    std::ranges::copy(support::bytes_of({255, 255, 255, 255}), one.level(0).begin());
    CHECK(count(sheet_of(one, {.enlarged = true}), {255, 255, 255}) >= 256 * 256);
}
