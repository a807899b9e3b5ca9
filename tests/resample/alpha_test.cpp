#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;

namespace {

/// 2 x 2 texels, each with another one of its channels at its greatest: what blends four layers.
Picture splat_map(Format format) {
    Image bytes = must(Image::create(Format::rgba8_unorm, 2, 2));
    for (std::uint32_t texel = 0; texel < 4; ++texel)
        for (std::uint32_t c = 0; c < 4; ++c)
            bytes.view().row(texel / 2)[texel % 2 * 4 + c] = std::byte(c == texel ? 255 : 0);
    Picture picture;
    picture.image =
        must(convert(std::as_const(bytes).view(), format, {.source_transfer = Transfer::linear}));
    picture.transfer = Transfer::linear;
    return picture;
}

std::array<float, 4> first_texel(const Texture& texture, std::uint32_t level) {
    const Image floats = must(
        convert(texture.image(level), Format::rgba32_float, {.source_transfer = Transfer::linear}));
    std::array<float, 4> texel{};
    std::memcpy(texel.data(), floats.view().row(0).data(), sizeof texel);
    return texel;
}

bool weighs(AlphaMode alpha) {
    return alpha == AlphaMode::straight;
}

}  // namespace

TEST_CASE(
    "alpha weighs colour where it is coverage, and nowhere else: every role, format, meaning") {
    for (const Role role :
         {Role::color, Role::normal, Role::mask, Role::data, Role::hdr, Role::height})
        for (const Format format : {Format::rgba8_unorm, Format::rgba16_unorm, Format::rgba16_float,
                                    Format::rgba32_float})
            for (const std::optional<AlphaMode> alpha :
                 {std::optional<AlphaMode>(), std::optional(AlphaMode::straight),
                  std::optional(AlphaMode::premultiplied), std::optional(AlphaMode::data)})
                for (const bool plain : {false, true}) {
                    if (role == Role::normal && !plain)
                        continue;  // texels that are not directions; see below
                    CAPTURE(info(role).name);
                    CAPTURE(info(format).name);
                    CAPTURE(static_cast<int>(alpha.value_or(AlphaMode::opaque)));
                    CAPTURE(plain);
                    const Baked baked = must(bake(splat_map(format), {.role = role,
                                                                      .alpha = alpha,
                                                                      .format = format,
                                                                      .mips = {.kernel = Kernel{}},
                                                                      .plain_chain = plain}));
                    const AlphaMode expected = alpha.value_or(
                        role == Role::color || role == Role::hdr ? AlphaMode::straight
                                                                 : AlphaMode::data);
                    CHECK(baked.texture.metadata.alpha == expected);
                    const auto texel = first_texel(baked.texture, 1);
                    // Three of four texels are transparent: their colours vanish, or count as much.
                    for (std::size_t c = 0; c < 3; ++c)
                        CHECK(texel[c] ==
                              doctest::Approx(weighs(expected) ? 0.0 : 0.25).epsilon(0.01));
                    CHECK(texel[3] == doctest::Approx(0.25).epsilon(0.01));
                }
}

TEST_CASE("a height in the alpha of a normal map tilts nothing") {
    Image image = must(Image::create(Format::rgba8_unorm, 2, 1));
    constexpr std::array<int, 8> texels = {218, 128, 218, 255, 38, 128, 218, 0};  // right, left
    for (std::size_t i = 0; i < texels.size(); ++i)
        image.view().row(0)[i] = static_cast<std::byte>(texels[i]);
    Picture picture;
    picture.image = std::move(image);
    const Baked baked = must(bake(picture, {.role = Role::normal}));
    const auto texel = first_texel(baked.texture, 1);
    CHECK(texel[0] == doctest::Approx(0.5).epsilon(0.01));
    CHECK(texel[2] == doctest::Approx(1).epsilon(0.01));
    CHECK(texel[3] == doctest::Approx(0.5).epsilon(0.01));
}

TEST_CASE("pictures are resized by what their alpha means") {
    for (const AlphaMode alpha : {AlphaMode::straight, AlphaMode::data, AlphaMode::premultiplied}) {
        const Picture splat = splat_map(Format::rgba8_unorm);
        const Image small =
            must(resize(splat.image.view(), 1, 1, {.kernel = Kernel{}, .alpha = alpha}));
        CHECK(std::to_integer<int>(small.view().row(0)[0]) == (weighs(alpha) ? 0 : 64));
    }
}

TEST_CASE("alpha's meaning goes into texture files and comes back") {
    Texture texture =
        must(Texture::create({.format = Format::rgba8_unorm, .width = 4, .height = 4}));
    for (const AlphaMode alpha :
         {AlphaMode::straight, AlphaMode::premultiplied, AlphaMode::data, AlphaMode::opaque}) {
        texture.metadata.alpha = alpha;
        for (const char* ending : {"ktx2", "dds"}) {
            CAPTURE(ending);
            CAPTURE(static_cast<int>(alpha));
            const auto bytes = must(texture_file_bytes(ending, texture));
            CHECK(must(read_texture(bytes)).texture.metadata.alpha == alpha);
        }
    }
}

TEST_CASE("blocks and rate-distortion count colours under transparent texels where alpha is data") {
    // Transparent texels of one colour, opaque ones of another: as coverage the former are free.
    Image image = must(Image::create(Format::rgba8_unorm, 16, 16));
    support::Random random(5);
    support::fill_random(image.view(), random);
    for (std::uint32_t y = 0; y < 16; ++y)
        for (std::uint32_t x = 0; x < 16; ++x)
            image.view().row(y)[x * 4 + 3] =
                std::byte{(x + y) % 2 == 0 ? std::uint8_t{0} : std::uint8_t{255}};
    const auto error = [&](AlphaMode alpha, float rate_distortion) {
        const Image blocks =
            must(encode_blocks(std::as_const(image).view(), Format::bc7_unorm,
                               {.alpha = alpha, .rate_distortion = rate_distortion}));
        return must(measure_difference(std::as_const(image).view(), blocks.view(),
                                       {.role = Role::data}))
            .psnr;
    };
    for (const float rate_distortion : {0.0F, 3.0F})
        CHECK(error(AlphaMode::data, rate_distortion) >
              error(AlphaMode::straight, rate_distortion) + 0.5);
}

TEST_CASE("blocks of a whole texture obey what the texture says of its alpha") {
    Texture texture =
        must(Texture::create({.format = Format::rgba8_unorm, .width = 16, .height = 16}));
    support::Random random(15);
    support::fill_random(texture.image(0), random);
    for (std::uint32_t y = 0; y < 16; ++y)
        for (std::uint32_t x = 0; x < 16; ++x)
            texture.image(0).row(y)[x * 4 + 3] =
                std::byte{(x + y) % 2 == 0 ? std::uint8_t{0} : std::uint8_t{255}};
    const auto error = [&](AlphaMode alpha) {
        texture.metadata.alpha = alpha;
        const Texture blocks = must(encode_texture(texture, Format::bc7_unorm));
        return must(measure_difference(std::as_const(texture).image(0), blocks.image(0),
                                       {.role = Role::data}))
            .psnr;
    };
    CHECK(error(AlphaMode::data) > error(AlphaMode::straight) + 0.5);
}

TEST_CASE("differences: hidden texels are counted, alpha that is 1 everywhere is not") {
    Image a = must(Image::create(Format::rgba8_srgb, 2, 1));
    for (std::byte& byte : a.view().row(0))
        byte = std::byte{0};
    Image b = must(Image::adopt(must(Buffer::allocate(8)), Format::rgba8_srgb, 2, 1));
    std::ranges::copy(std::as_const(a).view().row(0), b.view().row(0).begin());
    b.view().row(0)[0] = std::byte{9};
    const ImageDifference hidden = must(measure_difference(a.view(), b.view()));
    CHECK(hidden.max == 0);
    CHECK(hidden.hidden_texels == 1);
    const ImageDifference seen =
        must(measure_difference(a.view(), b.view(), {.alpha = AlphaMode::data}));
    CHECK(seen.max == doctest::Approx(9));
    CHECK(seen.hidden_texels == 0);
    a.view().row(0)[3] = a.view().row(0)[7] = b.view().row(0)[3] = b.view().row(0)[7] =
        std::byte{255};
    const ImageDifference opaque = must(measure_difference(a.view(), b.view()));
    CHECK(opaque.channels == 3);
    // Red alone is off, by 9 in one texel of two.
    CHECK(opaque.psnr == doctest::Approx(10 * std::log10(255.0 * 255 * 3 * 2 / 81)));
}

TEST_CASE("light is compared in stops and as a share, not in decibels") {
    Image a = must(Image::create(Format::rgba32_float, 1, 1));
    Image b = must(Image::create(Format::rgba32_float, 1, 1));
    const std::array<float, 4> one = {1000, 1000, 1000, 1}, other = {1100, 1000, 900, 1};
    std::memcpy(a.view().row(0).data(), one.data(), 16);
    std::memcpy(b.view().row(0).data(), other.data(), 16);
    const ImageDifference difference =
        must(measure_difference(a.view(), b.view(), {.role = Role::hdr}));
    CHECK(std::isnan(difference.psnr));
    CHECK(*difference.relative_error == doctest::Approx(200.0 / 3000));
    CHECK(*difference.log_error > 0.1);
}
