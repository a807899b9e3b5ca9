// Layers and slices taken out of textures, and put together.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;
using support::random_texture;

namespace {

TextureShape shape_of(Format format, std::uint32_t faces, std::uint32_t layers) {
    return {.format = format,
            .width = 12,
            .height = 12,
            .levels = 4,
            .layers = layers,
            .faces = faces,
            .is_array = layers > 1};
}

}  // namespace

TEST_CASE("textures become the layers of an array, and come out of it again") {
    for (const Format format : {Format::rgba8_srgb, Format::bc1_srgb, Format::r16_unorm})
        for (const std::uint32_t faces : {1U, 6U}) {
            CAPTURE(info(format).name);
            CAPTURE(faces);
            const Texture one = random_texture(shape_of(format, faces, 1), 1);
            const Texture two = random_texture(shape_of(format, faces, 2), 2);
            const std::array<const Texture*, 2> both = {&one, &two};
            const Texture all = must(array_of(both));
            CHECK(all.shape() == shape_of(format, faces, 3));
            for (std::uint32_t layer = 0; layer < 3; ++layer) {
                const Texture single = must(single_layer(all, layer));
                CHECK(single.shape() == shape_of(format, faces, 1));
                const Texture& from = layer == 0 ? one : two;
                for (std::uint32_t level = 0; level < 4; ++level)
                    for (std::uint32_t face = 0; face < faces; ++face)
                        CHECK(support::equal_pixels(
                            single.image(level, 0, face),
                            from.image(level, layer == 0 ? 0 : layer - 1, face)));
            }
            CHECK(must_fail(single_layer(all, 3)).place == "layer");
        }
}

TEST_CASE("a slice keeps its depth on every level") {
    Texture volume = random_texture(
        {.format = Format::rgba8_unorm, .width = 8, .height = 8, .depth = 5, .levels = 3}, 3);
    for (std::uint32_t slice = 0; slice < 5; ++slice) {
        const Texture flat = must(single_slice(volume, slice));
        CHECK(flat.shape() ==
              TextureShape{.format = Format::rgba8_unorm, .width = 8, .height = 8, .levels = 3});
        for (std::uint32_t level = 0; level < 3; ++level) {
            const std::uint32_t depth = volume.shape().depth_at(level);
            const std::size_t bytes = flat.level(level).size();
            CHECK(std::ranges::equal(
                std::as_const(flat).level(level),
                std::as_const(volume).level(level).subspan(slice * depth / 5 * bytes, bytes)));
        }
    }
    CHECK(must_fail(single_slice(volume, 5)).place == "slice");
}

TEST_CASE("what makes no array is refused, by its number") {
    const Texture one = random_texture(shape_of(Format::rgba8_unorm, 1, 1), 1);
    Texture other = random_texture(shape_of(Format::rgba8_unorm, 1, 1), 2);
    const auto place = [&](const Texture* second) {
        const std::array<const Texture*, 2> both = {&one, second};
        return must_fail(array_of(both)).place;
    };
    CHECK(must_fail(array_of({})).kind == ErrorKind::usage);
    CHECK(place(nullptr) == "texture 1");
    other.metadata.alpha = AlphaMode::premultiplied;
    CHECK(place(&other) == "texture 1");
    for (const TextureShape& shape :
         {shape_of(Format::rgba8_srgb, 1, 1), shape_of(Format::rgba8_unorm, 6, 1),
          TextureShape{.format = Format::rgba8_unorm, .width = 12, .height = 12, .levels = 3},
          TextureShape{.format = Format::rgba8_unorm, .width = 12, .height = 8, .levels = 4},
          TextureShape{
              .format = Format::rgba8_unorm, .width = 12, .height = 12, .depth = 2, .levels = 4}}) {
        const Texture wrong = random_texture(shape, 4);
        CHECK(place(&wrong) == "texture 1");
    }
    const Texture wide =
        random_texture({.format = Format::rgba8_unorm, .width = 8, .height = 4}, 4);
    const Texture high =
        random_texture({.format = Format::rgba8_unorm, .width = 2, .height = 16, .levels = 3}, 4);
    const std::array<const Texture*, 2> unequal = {&wide, &high};
    CHECK(support::contains(must_fail(array_of(unequal)).message,
                            "2 x 16 texels and 3 levels, and the first 8 x 4 and 1"));
    const Texture empty;
    CHECK(place(&empty) == "texture 1");
}

TEST_CASE("a 1D texture has a width, levels and layers, and no other side") {
    const auto is_made = [](TextureShape shape) {
        shape.format = Format::rgba8_unorm;
        shape.is_1d = true;
        return Texture::create(shape).has_value();
    };
    CHECK(is_made({.width = 5, .levels = 3}));
    CHECK(is_made({.width = 5, .layers = 4, .is_array = true}));
    CHECK_FALSE(is_made({.width = 5, .height = 2}));
    CHECK_FALSE(is_made({.width = 1, .height = 5}));
    CHECK_FALSE(is_made({.width = 5, .depth = 2}));
    CHECK_FALSE(is_made({.width = 5, .is_3d = true}));
    CHECK_FALSE(is_made({.width = 5, .faces = 6}));
}
