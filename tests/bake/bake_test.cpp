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

Picture picture_of(Format format, std::uint32_t width, std::uint32_t height,
                   const std::vector<int>& bytes) {
    Picture picture;
    picture.image = must(Image::create(format, width, height));
    std::size_t i = 0;
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::byte& byte : picture.image.view().row(y))
            byte = static_cast<std::byte>(bytes.at(i++));
    picture.transfer = info(format).transfer;
    const auto channels = info(format).channel_count;
    picture.swizzle = channels == 1   ? gray_swizzle
                      : channels == 2 ? gray_alpha_swizzle
                                      : identity_swizzle;
    picture.info.file_bits = info(format).channels[0].bits;
    return picture;
}

std::vector<int> codes(ConstImageView image) {
    std::vector<int> result;
    for (const std::byte byte : support::bytes_of(image))
        result.push_back(std::to_integer<int>(byte));
    return result;
}

}  // namespace

TEST_CASE("colour becomes rgba8-srgb with a full chain, and gray and missing alpha are filled in") {
    const Baked rgb = must(bake(picture_of(Format::rgb8_srgb, 2, 1, {1, 2, 3, 4, 5, 6})));
    CHECK(rgb.texture.shape() ==
          TextureShape{.format = Format::rgba8_srgb, .width = 2, .height = 1, .levels = 2});
    CHECK(codes(rgb.texture.image(0)) == std::vector<int>{1, 2, 3, 255, 4, 5, 6, 255});
    CHECK(rgb.findings.empty());
    Picture gray_alpha = picture_of(Format::rg8_unorm, 1, 1, {70, 9});
    gray_alpha.transfer = Transfer::srgb;
    const Baked gray = must(bake(gray_alpha));
    CHECK(codes(gray.texture.image(0)) == std::vector<int>{70, 70, 70, 9});
    CHECK(gray.texture.metadata.swizzle == identity_swizzle);
}

TEST_CASE("each role has its format, by the channels that are in use") {
    const Picture gray = picture_of(Format::r8_unorm, 1, 1, {70});
    const Picture gray_as_rgb = picture_of(Format::rgb8_unorm, 1, 1, {70, 70, 70});
    const Picture colored = picture_of(Format::rgb8_unorm, 1, 1, {70, 71, 70});
    const Picture gray_alpha = picture_of(Format::rg8_unorm, 1, 1, {70, 9});
    Picture deep = picture_of(Format::r16_unorm, 1, 1, {0x34, 0x12});
    deep.info.file_bits = 16;
    CHECK(default_format(gray, Role::mask) == Format::r8_unorm);
    CHECK(default_format(gray_as_rgb, Role::mask) == Format::r8_unorm);
    CHECK(default_format(gray_alpha, Role::data) == Format::rg8_unorm);
    CHECK(default_format(colored, Role::data) == Format::rgba8_unorm);
    CHECK(default_format(colored, Role::normal) == Format::rgba8_unorm);
    CHECK(default_format(deep, Role::height) == Format::r16_unorm);
    CHECK(default_format(deep, Role::data) == Format::r16_unorm);
    CHECK(default_format(colored, Role::hdr) == Format::rgba16_float);
}

TEST_CASE("few channels are seen as gray through the swizzle") {
    const Baked mask = must(bake(picture_of(Format::r8_unorm, 1, 1, {70}), {.role = Role::mask}));
    CHECK(codes(mask.texture.image(0)) == std::vector<int>{70});
    CHECK(mask.texture.metadata.swizzle == gray_swizzle);
    const Baked pair =
        must(bake(picture_of(Format::rg8_unorm, 1, 1, {70, 9}), {.role = Role::data}));
    CHECK(codes(pair.texture.image(0)) == std::vector<int>{70, 9});
    CHECK(pair.texture.metadata.swizzle == gray_alpha_swizzle);
    const Baked widened =
        must(bake(picture_of(Format::rgba8_unorm, 1, 1, {7, 7, 7, 9}), {.role = Role::data}));
    CHECK(widened.texture.shape().format == Format::rg8_unorm);
    CHECK(codes(widened.texture.image(0)) == std::vector<int>{7, 9});
    const Baked opaque = must(bake(picture_of(Format::r8_unorm, 1, 1, {70}),
                                   {.role = Role::data, .format = Format::rg8_unorm}));
    CHECK(codes(opaque.texture.image(0)) == std::vector<int>{70, 255});
    const Baked vectors = must(bake(picture_of(Format::rgb8_unorm, 1, 1, {70, 80, 90}),
                                    {.role = Role::normal, .format = Format::rg8_unorm}));
    CHECK(codes(vectors.texture.image(0)) ==
          std::vector<int>{40, 55});  // (-0.451, -0.373, -0.294) made one long
    CHECK(vectors.texture.metadata.swizzle == identity_swizzle);
}

TEST_CASE("row 0 is at the bottom when asked for, and that is recorded") {
    const Baked baked = must(bake(picture_of(Format::r8_unorm, 1, 3, {10, 20, 30}),
                                  {.role = Role::mask, .origin = Origin::bottom}));
    CHECK(codes(baked.texture.image(0)) == std::vector<int>{30, 20, 10});
    CHECK(baked.texture.metadata.origin == Origin::bottom);
    CHECK(codes(support::surface_of(
              must(bake(picture_of(Format::r8_unorm, 1, 3, {10, 20, 30}), {.role = Role::mask}))
                  .texture,
              0)) == std::vector<int>{10, 20, 30});
}

TEST_CASE("as many levels as asked for") {
    const Picture picture = picture_of(Format::r8_srgb, 4, 2, {1, 2, 3, 4, 5, 6, 7, 8});
    CHECK(must(bake(picture, {.levels = 1})).texture.shape().levels == 1);
    CHECK(must(bake(picture, {.levels = 2})).texture.shape().levels == 2);
    CHECK(must(bake(picture)).texture.shape().levels == 3);
    const Error error = must_fail(bake(picture, {.levels = 4}));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(contains(error.message, "1 to 3"));
}

TEST_CASE("colour in a format without the sRGB curve is stored as linear light") {
    const Picture picture = picture_of(Format::rgb8_srgb, 1, 1, {188, 188, 188});
    const Baked wide = must(bake(picture, {.format = Format::rgba16_unorm}));
    std::uint16_t code = 0;
    std::memcpy(&code, wide.texture.level(0).data(), 2);
    CHECK(code == 32957);  // srgb_decode(188 / 255) = 0.502886
    CHECK(wide.findings.empty());
    const Baked narrow = must(bake(picture, {.format = Format::rgba8_unorm}));
    CHECK(codes(narrow.texture.image(0))[0] == 128);
    REQUIRE(narrow.findings.size() == 1);
    CHECK(contains(narrow.findings[0].problem, "dark tones"));
}

TEST_CASE("what will not look as meant is found") {
    const auto problem = [](const Picture& picture, const BakeOptions& options) {
        const Baked baked = must(bake(picture, options));
        return baked.findings.empty() ? std::string() : baked.findings.at(0).problem;
    };
    const Picture colored = picture_of(Format::rgba8_srgb, 1, 1, {1, 2, 3, 128});
    CHECK(contains(problem(colored, {.format = Format::r8_srgb}), "the luminance alone"));
    CHECK(contains(problem(colored, {.role = Role::data, .format = Format::r8_unorm}),
                   "the red channel alone"));
    CHECK(contains(problem(colored, {.format = Format::rgb8_srgb}), "no alpha"));
    CHECK(contains(problem(colored, {.role = Role::normal, .format = Format::rgba8_srgb}),
                   "is not a colour"));
    CHECK(problem(colored, {}).empty());
    Picture light;
    light.image = must(Image::create(Format::rgb32_float, 1, 1));
    light.transfer = Transfer::linear;
    std::memset(light.image.view().data, 0, 12);
    CHECK(contains(problem(light, {.role = Role::color}), "above 1"));
    CHECK(problem(light, {}).empty());  // floating point is light unless somebody says otherwise
}

TEST_CASE("from a file to a texture in one call, with the file named in errors") {
    const support::TemporaryFolder folder;
    const Picture picture = picture_of(
        Format::rgb8_srgb, 3, 2, {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18});
    must(write_picture(folder.path("p.png"), picture.image.view()));
    CHECK(codes(support::surface_of(must(bake_file(folder.path("p.png"))).texture, 0)).at(4) == 4);
    CHECK(must_fail(bake_file(folder.path("q.png"))).place == folder.path("q.png"));
    CHECK(must_fail(bake_file(folder.path("p.png"), {.levels = 9})).kind == ErrorKind::usage);
    CHECK(must_fail(bake_file(folder.path("p.png"), {}, {.limits = {.max_side = 2}})).kind ==
          ErrorKind::limit);
}
