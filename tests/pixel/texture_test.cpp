#include <yl/texture.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

TEST_CASE("sides halve and round down to 1") {
    CHECK(full_level_count(1, 1) == 1);
    CHECK(full_level_count(255, 257) == 9);
    CHECK(full_level_count(300, 200) == 9);
    CHECK(full_level_count(16384, 1) == 15);
    CHECK(full_level_count(2, 3, 8) == 4);
    CHECK(level_side(257, 1) == 128);
    CHECK(level_side(5, 40) == 1);
}

TEST_CASE("a texture's surfaces follow each other as the standard's level data do") {
    const TextureShape shape{.format = Format::rgb8_unorm,
                             .width = 4,
                             .height = 4,
                             .levels = 3,
                             .layers = 2,
                             .faces = 6,
                             .is_array = true};
    CHECK(shape.row_bytes(0) == 12);
    CHECK(shape.surface_bytes(1) == 2 * 2 * 3);
    CHECK(shape.level_bytes(0) == 48 * 12);
    CHECK(shape.total_bytes() == (48 + 12 + 3) * 12);
    Texture texture = must(Texture::create(shape));
    CHECK(texture.image(0, 1, 2).data == texture.level(0).data() + 48 * 8);
    CHECK(texture.image(2, 0, 5).data == texture.level(2).data() + 3 * 5);
    CHECK(texture.level(1).size() == 12 * 12);
    CHECK(texture.image(1).row_stride == 6);
}

TEST_CASE("equal sizes are those of every direction, whatever the format and the levels") {
    const TextureShape shape{.format = Format::rgba8_srgb, .width = 8, .height = 4, .depth = 2};
    CHECK(have_equal_sizes(
        shape, {.format = Format::r8_unorm, .width = 8, .height = 4, .depth = 2, .levels = 3}));
    for (std::uint32_t TextureShape::*side :
         {&TextureShape::width, &TextureShape::height, &TextureShape::depth, &TextureShape::layers,
          &TextureShape::faces}) {
        TextureShape other = shape;
        other.*side += 1;
        CHECK_FALSE(have_equal_sizes(shape, other));
    }
}

TEST_CASE("shapes that make no sense are refused with the reason") {
    const auto reason = [](const TextureShape& shape, const Limits& limits = {}) {
        return must_fail(check_shape(shape, limits));
    };
    const TextureShape good{.format = Format::r8_unorm, .width = 8, .height = 8};
    must(check_shape(good));
    TextureShape bad = good;
    bad.width = 0;
    CHECK(reason(bad).kind == ErrorKind::usage);
    bad = good;
    bad.levels = 5;
    CHECK(contains(reason(bad).message, "1 to 4"));
    bad = good;
    bad.faces = 6;
    bad.height = 7;
    CHECK(contains(reason(bad).message, "square"));
    bad = good;
    bad.layers = 2;
    CHECK(contains(reason(bad).message, "array"));
    bad = good;
    bad.format = static_cast<Format>(5);
    CHECK(reason(bad).kind == ErrorKind::unsupported);
    bad = good;
    bad.width = 60000;
    CHECK(reason(bad).kind == ErrorKind::limit);
    CHECK(contains(reason(bad).message, "16384"));
    bad.height = bad.width = bad.depth = 0xFFFFFFFF;
    CHECK(reason(bad, Limits::none()).kind == ErrorKind::limit);
    CHECK(reason(good, {.max_bytes = 63}).kind == ErrorKind::limit);
}

TEST_CASE("the default limits allow the largest texture in the largest format, with its chain") {
    must(check_shape(
        {.format = Format::rgba32_float, .width = 16384, .height = 16384, .levels = 15}));
}

TEST_CASE("a clone has the same texels and says the same") {
    Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 8, .height = 4, .levels = 4}, 2);
    texture.metadata.alpha = AlphaMode::data;
    Texture copy = must(texture.clone());
    CHECK(copy.shape() == texture.shape());
    CHECK(copy.metadata.alpha == AlphaMode::data);
    CHECK(std::ranges::equal(copy.level(3), texture.level(3)));
    copy.level(0)[0] ^= std::byte{1};
    CHECK_FALSE(std::ranges::equal(copy.level(0), texture.level(0)));
    const Image image = must(Image::create(Format::r8_unorm, 3, 2));
    CHECK(must(image.clone()).width() == 3);
}
