// Several pictures as layers and slices, against each picture baked by itself and sums by hand.
#include <fmt/format.h>

#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

Picture random_picture(Format format, std::uint32_t width, std::uint32_t height, unsigned seed) {
    Picture picture;
    picture.image = must(Image::create(format, width, height));
    support::Random random(seed);
    support::fill_random(picture.image.view(), random);
    picture.transfer = info(format).transfer;
    const std::uint32_t channels = info(format).channel_count;
    picture.swizzle = channels == 1   ? gray_swizzle
                      : channels == 2 ? gray_alpha_swizzle
                                      : identity_swizzle;
    return picture;
}

std::vector<const Picture*> pointers(const std::vector<Picture>& pictures) {
    std::vector<const Picture*> result;
    for (const Picture& picture : pictures)
        result.push_back(&picture);
    return result;
}

std::vector<Picture> random_pictures(std::size_t count, Format format, std::uint32_t width,
                                     std::uint32_t height) {
    std::vector<Picture> pictures;
    for (std::size_t i = 0; i < count; ++i)
        pictures.push_back(random_picture(format, width, height, static_cast<unsigned>(i) + 1));
    return pictures;
}

}  // namespace

TEST_CASE("each layer is the picture baked by itself, in plain formats and in blocks") {
    const auto pictures = random_pictures(3, Format::rgba8_srgb, 20, 12);
    for (const BakeOptions& bake_options :
         {BakeOptions{}, BakeOptions{.compressed = BlockFamily::bc, .blocks = {.effort = 0}},
          BakeOptions{.levels = 2, .origin = Origin::bottom}}) {
        const Baked all = must(bake_array(pointers(pictures), {.bake = bake_options}));
        const TextureShape& shape = all.texture.shape();
        CHECK(shape.layers == 3);
        CHECK(shape.is_array);
        for (std::uint32_t layer = 0; layer < 3; ++layer) {
            const Baked one = must(bake(pictures[layer], bake_options));
            CHECK(shape.levels == one.texture.shape().levels);
            CHECK(all.texture.metadata.origin == one.texture.metadata.origin);
            for (std::uint32_t level = 0; level < shape.levels; ++level)
                CHECK(support::equal_pixels(all.texture.image(level, layer),
                                            one.texture.image(level)));
        }
    }
    const Baked single = must(bake_array(pointers(random_pictures(1, Format::r8_unorm, 4, 4))));
    CHECK(single.texture.shape().is_array);
    CHECK(single.texture.shape().layers == 1);
}

TEST_CASE("pictures of several kinds get the richest of their formats") {
    std::vector<Picture> pictures;
    pictures.push_back(random_picture(Format::r8_unorm, 8, 8, 1));
    pictures.push_back(random_picture(Format::rgba16_unorm, 8, 8, 2));
    const Baked all = must(bake_array(pointers(pictures), {.bake = {.role = Role::data}}));
    CHECK(all.texture.shape().format == Format::rgba16_unorm);
    // Gray and alpha beside two plain channels: no swizzle serves both.
    std::vector<Picture> unlike;
    unlike.push_back(random_picture(Format::rg8_unorm, 8, 8, 1));
    unlike.push_back(random_picture(Format::rgb8_unorm, 8, 8, 2));
    const Error error = must_fail(
        bake_array(pointers(unlike), {.bake = {.role = Role::data, .format = Format::rg8_unorm}}));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(error.place == "picture 1");
}

TEST_CASE("other sizes are refused, resized or padded") {
    std::vector<Picture> pictures;
    pictures.push_back(random_picture(Format::rgba8_unorm, 8, 6, 1));
    pictures.push_back(random_picture(Format::rgba8_unorm, 4, 10, 2));
    const auto with = [&](UnequalSizes sizes) {
        return bake_array(pointers(pictures), {.bake = {.role = Role::data}, .sizes = sizes});
    };
    const Error error = must_fail(with(UnequalSizes::refuse));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(error.place == "picture 1");
    CHECK(contains(error.message, "4 x 10"));
    const Texture resized = must(with(UnequalSizes::resize)).texture;
    CHECK(resized.shape().width == 8);
    CHECK(resized.shape().height == 6);
    CHECK(support::equal_pixels(resized.image(0, 0), pictures[0].image.view()));
    const Image expected = must(resize(pictures[1].image.view(), 8, 6, {.alpha = AlphaMode::data}));
    CHECK(support::equal_pixels(resized.image(0, 1), expected.view()));
    const Texture padded = must(with(UnequalSizes::pad)).texture;
    CHECK(padded.shape().width == 8);
    CHECK(padded.shape().height == 10);
    for (std::uint32_t layer = 0; layer < 2; ++layer) {
        const ConstImageView source = pictures[layer].image.view();
        for (std::uint32_t y = 0; y < 10; ++y)
            for (std::size_t byte = 0; byte < 32; ++byte)
                CHECK(padded.image(0, layer).row(y)[byte] ==
                      (y < source.height && byte < source.row_bytes() ? source.row(y)[byte]
                                                                      : std::byte{0}));
    }
}

TEST_CASE("slices of a volume, and levels that are the means of eight texels") {
    const auto slices = random_pictures(4, Format::r8_unorm, 6, 4);
    const Baked all = must(bake_volume(pointers(slices), {.bake = {.role = Role::data}}));
    const TextureShape& shape = all.texture.shape();
    CHECK(shape == TextureShape{.format = Format::r8_unorm,
                                .width = 6,
                                .height = 4,
                                .depth = 4,
                                .levels = 3,
                                .is_3d = true});
    for (std::uint32_t slice = 0; slice < 4; ++slice)
        CHECK(support::equal_pixels(
            support::view_of(must(picture_of_surface(all.texture, {0, 0, 0, slice})).image),
            slices[slice].image.view()));
    const auto texel = [&](std::uint32_t level, std::uint32_t x, std::uint32_t y, std::uint32_t z) {
        const auto bytes = all.texture.level(level);
        return std::to_integer<int>(
            bytes[(z * shape.height_at(level) + y) * shape.width_at(level) + x]);
    };
    for (std::uint32_t z = 0; z < 2; ++z)
        for (std::uint32_t y = 0; y < 2; ++y)
            for (std::uint32_t x = 0; x < 3; ++x) {
                int sum = 0;
                for (const std::uint32_t i : {0U, 1U, 2U, 3U, 4U, 5U, 6U, 7U})
                    sum += texel(0, 2 * x + (i & 1U), 2 * y + (i >> 1U & 1U), 2 * z + (i >> 2U));
                CHECK(std::abs(texel(1, x, y, z) - sum / 8.0) <= 0.5);
            }
    const Baked one = must(bake_volume(pointers(random_pictures(1, Format::r8_unorm, 4, 4)),
                                       {.bake = {.role = Role::data, .levels = 1}}));
    CHECK(one.texture.shape().is_3d);
}

TEST_CASE("volumes of blocks are the blocks of their slices, and of each level's") {
    const auto slices = random_pictures(2, Format::rgba8_srgb, 8, 8);
    const Baked blocks = must(bake_volume(
        pointers(slices), {.bake = {.compressed = BlockFamily::bc, .blocks = {.effort = 0}}}));
    CHECK(blocks.texture.shape().format == Format::bc7_srgb);
    CHECK(blocks.texture.shape().depth == 2);
    const Baked plain = must(bake_volume(pointers(slices)));
    const Texture encoded =
        must(encode_texture(plain.texture, Format::bc7_srgb, {.role = Role::color, .effort = 0}));
    for (std::uint32_t level = 0; level < blocks.texture.shape().levels; ++level)
        CHECK(std::ranges::equal(blocks.texture.level(level), encoded.level(level)));
}

TEST_CASE("one way to read alpha for all pictures of a stack") {
    auto pictures = random_pictures(3, Format::rgba8_srgb, 8, 8);
    for (std::uint32_t y = 0; y < 8; ++y)
        for (std::uint32_t x = 0; x < 8; ++x)
            pictures[0].image.view().row(y)[x * 4 + 3] = std::byte{255};
    for (const AlphaMode last : {AlphaMode::straight, AlphaMode::premultiplied}) {
        // The first is opaque, and says nothing about the others.
        pictures[1].alpha = pictures[2].alpha = last;
        for (const auto& make : {bake_array, bake_volume})
            CHECK(must(make(pointers(pictures), {})).texture.metadata.alpha == last);
        pictures[1].alpha =
            last == AlphaMode::straight ? AlphaMode::premultiplied : AlphaMode::straight;
        const std::size_t straight = last == AlphaMode::straight ? 2 : 1;
        Picture by_hand;
        by_hand.image = must(pictures[straight].image.clone());
        must(premultiply(by_hand.image.view(), Transfer::srgb));
        by_hand.alpha = AlphaMode::premultiplied;
        auto unmixed = pointers(pictures);
        unmixed[straight] = &by_hand;
        for (const auto& make : {bake_array, bake_volume}) {
            const Baked mixed = must(make(pointers(pictures), {}));
            const Baked wanted = must(make(unmixed, {}));
            for (std::uint32_t level = 0; level < wanted.texture.shape().levels; ++level)
                CHECK(std::ranges::equal(std::as_const(mixed.texture).level(level),
                                         std::as_const(wanted.texture).level(level)));
            CHECK(mixed.texture.metadata.alpha == AlphaMode::premultiplied);
            REQUIRE(mixed.findings.size() == 1);
            CHECK(mixed.findings[0].code == "alpha-premultiplied");
            CHECK(contains(mixed.findings[0].problem, fmt::format("picture {}:", straight)));
            const StackOptions as_stored = {.bake = {.alpha = AlphaMode::straight}};
            CHECK(must_fail(make(pointers(pictures), as_stored)).place == "picture 2");
            const StackOptions numbers = {.bake = {.role = Role::data}};
            CHECK(must(make(pointers(pictures), numbers)).findings.empty());
        }
        const BakeOptions one_way = {.alpha = AlphaMode::premultiplied};
        const Baked all = must(bake_array(pointers(pictures), {.bake = one_way}));
        CHECK(all.texture.metadata.alpha == AlphaMode::premultiplied);
        for (std::uint32_t layer = 1; layer < 3; ++layer) {
            const Baked one = must(bake(pictures[layer], one_way));
            CHECK(support::equal_pixels(all.texture.image(0, layer), one.texture.image(0)));
        }
    }
}

TEST_CASE("what makes no stack is refused") {
    CHECK(must_fail(bake_array({})).kind == ErrorKind::usage);
    const auto pictures = random_pictures(2, Format::rgba8_srgb, 4, 4);
    const std::vector<const Picture*> missing = {&pictures[0], nullptr};
    CHECK(must_fail(bake_array(missing)).place == "picture 1");
    CHECK(must_fail(bake_volume(pointers(pictures), {.bake = {.coverage = 0.5F}})).place ==
          "coverage");
    CHECK(must_fail(bake_volume(pointers(pictures), {.bake = {.mips = {.sharpen = 1}}})).place ==
          "sharpen");
    StackOptions given;
    given.bake.given.push_back({1, std::make_shared<const Picture>()});
    CHECK(must_fail(bake_array(pointers(pictures), given)).place == "given");
    CHECK(must_fail(bake_volume(pointers(pictures), {.bake = {.levels = 9}})).kind ==
          ErrorKind::usage);
}
