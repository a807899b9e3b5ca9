#include <yl/yl.hpp>

#include <cmath>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;

namespace {

constexpr std::uint32_t side = 64;
using Texel = std::array<int, 4>;

template <class Paint>
Image painted(const Paint& paint) {
    Image image = must(Image::create(Format::rgba8_unorm, side, side));
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const Texel texel = paint(static_cast<int>(x), static_cast<int>(y));
            for (std::size_t c = 0; c < 4; ++c)
                image.view().row(y)[4 * x + c] = static_cast<std::byte>(texel[c]);
        }
    return image;
}

struct Kind {
    std::string name;
    Image image;
};

/// What low efforts used to spoil: sharp alpha, several colours in a block, fine steps.
std::vector<Kind> hard_pictures() {
    std::vector<Kind> kinds;
    const auto wave = [](double a) { return static_cast<int>(127.5 + 127.5 * std::sin(a)); };
    kinds.push_back({"text", painted([](int x, int y) {
                         const bool ink = (x * 7 + y * 3) % 11 < 3 && y % 8 < 6 && x % 5 < 3;
                         return ink ? Texel{20, 24, 60, 255} : Texel{250, 246, 230, 255};
                     })});
    kinds.push_back({"sprites", painted([](int x, int y) {
                         const int u = x % 16 - 8, v = y % 16 - 8;
                         const bool in = u * u + v * v < 40;
                         const bool eye = (u + 3) * (u + 3) + v * v < 5;
                         return !in   ? Texel{0, 0, 0, 0}
                                : eye ? Texel{255, 255, 255, 255}
                                      : Texel{200, 60 + 4 * x % 90, 40, 255};
                     })});
    kinds.push_back({"smoke", painted([&](int x, int y) {
                         return Texel{180 + wave(x * 0.1) / 8, 180, 190 - wave(y * 0.13) / 8,
                                      wave(x * 0.19 + std::sin(y * 0.23) * 2)};
                     })});
    kinds.push_back({"gradients", painted([](int x, int y) {
                         return Texel{x * 4, y * 4, 255 - x * 2 - y * 2, 255};
                     })});
    kinds.push_back(
        {"dots", painted([](int x, int y) {
             const bool dot = x % 4 == 1 && y % 4 == 2;
             return dot ? Texel{255, 220, 0, 255} : Texel{10, 40, 90, (x + y) % 3 == 0 ? 96 : 160};
         })});
    return kinds;
}

double psnr_at(const Image& image, Format format, int effort) {
    const Image blocks = must(encode_blocks(image.view(), format, {.effort = effort}));
    return must(measure_difference(image.view(), blocks.view(), {.transfer = Transfer::linear}))
        .psnr;
}

}  // namespace

TEST_CASE("low efforts do not spoil hard pictures") {
    for (const Format format :
         {Format::bc1_unorm, Format::bc1a_unorm, Format::bc2_unorm, Format::bc3_unorm,
          Format::bc4_unorm, Format::bc5_unorm, Format::bc7_unorm})
        for (const Kind& kind : hard_pictures()) {
            CAPTURE(info(format).name);
            CAPTURE(kind.name);
            const Image image =
                info(format).channel_count > 2
                    ? must(convert(kind.image.view(), Format::rgba8_unorm,
                                   {.source_transfer = Transfer::linear}))
                    : must(convert(
                          kind.image.view(),
                          info(format).channel_count == 1 ? Format::r8_unorm : Format::rg8_unorm,
                          {.source_transfer = Transfer::linear,
                           .to_one_channel = ToOneChannel::red}));
            const double thorough = psnr_at(image, format, 3);
            for (const int effort : {0, 1, 2}) {
                CAPTURE(effort);
                const double quick = psnr_at(image, format, effort);
                CAPTURE(thorough);
                CAPTURE(quick);
                CHECK((quick > thorough - 3 || quick > 45));
            }
        }
}

TEST_CASE("BC7 at effort 0 keeps alpha apart where it varies, within 3 dB of effort 3") {
    for (const Kind& kind : hard_pictures()) {
        CAPTURE(kind.name);
        const double quick = psnr_at(kind.image, Format::bc7_unorm, 0);
        CAPTURE(psnr_at(kind.image, Format::bc7_unorm, 3));
        CAPTURE(quick);
        CHECK((quick > psnr_at(kind.image, Format::bc7_unorm, 3) - 3 || quick > 45));
        // Clear texels stay clear, and opaque ones opaque.
        const Image texels = must(decode_blocks(support::view_of(
            must(encode_blocks(kind.image.view(), Format::bc7_unorm, {.effort = 0})))));
        int most = 0;
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::uint32_t x = 0; x < side; ++x) {
                const int before = std::to_integer<int>(kind.image.view().row(y)[4 * x + 3]);
                const int after = std::to_integer<int>(texels.view().row(y)[4 * x + 3]);
                if (before == 0 || before == 255)
                    most = std::max(most, std::abs(before - after));
            }
        CHECK(most <= 24);
    }
}

TEST_CASE("BC1 uses the black of three colours only where the target shows it") {
    // Dark spots beside two bright colours: what that black is good for.
    const Image image = painted([](int x, int y) {
        return (x + 2 * y) % 5 == 0 ? Texel{0, 0, 0, 255}
               : x % 2 == 0         ? Texel{250, 240, 200, 255}
                                    : Texel{200, 220, 250, 255};
    });
    Texture texture =
        must(Texture::create({.format = Format::rgba8_unorm, .width = side, .height = side}));
    for (std::uint32_t y = 0; y < side; ++y)
        std::ranges::copy(image.view().row(y), texture.image(0).row(y).begin());
    const Texture plain = must(encode_texture(texture, Format::bc1_unorm, {.effort = 10}));
    CHECK(count_blocks_with_black_of_three(plain) == 0);
    const Texture black =
        must(encode_texture(texture, Format::bc1_unorm, {.effort = 10, .black_of_three = true}));
    CHECK(count_blocks_with_black_of_three(black) > 0);
    CHECK(must(measure_difference(texture.image(0), black.image(0))).psnr >
          must(measure_difference(texture.image(0), plain.image(0))).psnr);
    for (const auto& [device, is_said] : {std::pair{"d3d12", true}, {"vulkan-desktop", false}}) {
        const PreparedUpload prepared = must(prepare_upload(black, must(find_profile(device))));
        CHECK(std::ranges::any_of(prepared.findings, [](const Finding& finding) {
                  return support::contains(finding.problem, "black that the device shows as holes");
              }) == is_said);
    }
}
