// How far images are apart, against values worked out by hand.
#include <cmath>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

namespace {

Image filled(Format format, std::initializer_list<int> texel, std::uint32_t side = 16) {
    Image image = must(Image::create(format, side, side));
    const auto bytes = support::bytes_of(texel);
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::size_t x = 0; x < side; ++x)
            std::ranges::copy(
                bytes, image.view().row(y).begin() + static_cast<std::ptrdiff_t>(x * bytes.size()));
    return image;
}

}  // namespace

TEST_CASE("equal images differ by nothing") {
    const Image a = filled(Format::rgba8_srgb, {10, 200, 30, 255});
    const ImageDifference d = must(measure_difference(a.view(), a.view()));
    CHECK(std::isinf(d.psnr));
    CHECK(std::isinf(d.linear_psnr));
    CHECK(d.ssim == doctest::Approx(1));
    CHECK(d.max == 0);
    CHECK_FALSE(d.mean_angle);
    CHECK_FALSE(d.log_error);
}

TEST_CASE("PSNR by channel, together and in linear light") {
    const Image a = filled(Format::rgba8_srgb, {100, 100, 100, 255});
    Image b = filled(Format::rgba8_srgb, {110, 100, 100, 255});
    b.view().row(3)[5 * 4 + 1] = std::byte{150};
    const ImageDifference d = must(measure_difference(a.view(), b.view()));
    CHECK(d.channel_psnr[0] == doctest::Approx(20 * std::log10(25.5)));
    CHECK(d.channel_psnr[1] == doctest::Approx(-10 * std::log10(std::pow(50 / 255.0, 2) / 256)));
    CHECK(std::isinf(d.channel_psnr[2]));
    const double squares = std::pow(10 / 255.0, 2) + std::pow(50 / 255.0, 2) / 256;
    CHECK(d.psnr == doctest::Approx(-10 * std::log10(squares / 3)));  // alpha is 1 in both
    const double red = srgb_decode(110 / 255.0) - srgb_decode(100 / 255.0);
    const double green = srgb_decode(150 / 255.0) - srgb_decode(100 / 255.0);
    CHECK(d.linear_psnr ==
          doctest::Approx(-10 * std::log10((red * red + green * green / 256) / 3)));
    CHECK(d.max == doctest::Approx(50));
    CHECK(d.worst_x == 5);
    CHECK(d.worst_y == 3);
    CHECK(d.ssim < 1);
}

TEST_CASE("SSIM of a flat image against a brighter one is the term of luminance alone") {
    const Image a = filled(Format::r8_unorm, {51});   // 0.2
    const Image b = filled(Format::r8_unorm, {102});  // 0.4
    const double c1 = 0.0001;
    CHECK(must(measure_difference(a.view(), b.view(), {.role = Role::data})).ssim ==
          doctest::Approx((2 * 0.2 * 0.4 + c1) / (0.04 + 0.16 + c1)).epsilon(1e-4));
}

TEST_CASE("normals differ by angles, also where the third channel has to be found") {
    // straight up, and leaning by asin 0.6 to the right
    const Image up = filled(Format::rgba8_unorm, {128, 128, 255, 255});
    const Image leaning = filled(Format::rgba8_unorm, {204, 128, 230, 255});
    const ImageDifference d =
        must(measure_difference(up.view(), leaning.view(), {.role = Role::normal}));
    REQUIRE(d.mean_angle);
    CHECK(*d.mean_angle == doctest::Approx(36.87).epsilon(0.01));
    const Image two = filled(Format::rg8_unorm, {204, 128});
    CHECK(*must(measure_difference(leaning.view(), two.view(), {.role = Role::normal})).mean_angle <
          0.5);
}

TEST_CASE("light differs by stops") {
    Image a = must(Image::create(Format::rgba32_float, 4, 4));
    Image b = must(Image::create(Format::rgba32_float, 4, 4));
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::size_t i = 0; i < 16; ++i) {
            reinterpret_cast<float*>(a.view().row(y).data())[i] = 8;
            reinterpret_cast<float*>(b.view().row(y).data())[i] = i % 4 == 3 ? 8.0F : 16.0F;
        }
    const ImageDifference d = must(measure_difference(a.view(), b.view(), {.role = Role::hdr}));
    REQUIRE(d.log_error);
    CHECK(*d.log_error == doctest::Approx(1));
    CHECK(d.max == doctest::Approx(1));
    CHECK(counts_in_stops(a.view(), b.view()));
}

TEST_CASE("colour that nobody sees does not count, unless it is asked for") {
    // one half opaque and off by 10 in red, the other transparent and off by 200
    Image a = filled(Format::rgba8_unorm, {100, 100, 100, 255});
    Image b = filled(Format::rgba8_unorm, {110, 100, 100, 255});
    for (std::uint32_t y = 0; y < 8; ++y)
        for (std::size_t x = 0; x < 16; ++x) {
            a.view().row(y)[x * 4 + 3] = std::byte{0};
            b.view().row(y)[x * 4 + 3] = std::byte{0};
            b.view().row(y)[x * 4 + 1] = std::byte{250};
        }
    const ImageDifference seen = must(measure_difference(a.view(), b.view()));
    CHECK(seen.channel_psnr[0] == doctest::Approx(20 * std::log10(25.5)));
    CHECK(std::isinf(seen.channel_psnr[1]));
    CHECK(std::isinf(seen.channel_psnr[3]));
    CHECK(seen.max == doctest::Approx(10));
    CHECK(seen.worst_y == 8);
    const ImageDifference stored =
        must(measure_difference(a.view(), b.view(), {.alpha = AlphaMode::data}));
    CHECK(stored.channel_psnr[1] == doctest::Approx(20 * std::log10(255 / 150.0 * std::sqrt(2))));
    CHECK(stored.max == doctest::Approx(150));
    // of data, every number counts
    CHECK(must(measure_difference(a.view(), b.view(), {.role = Role::data})).max ==
          doctest::Approx(150));
    // where one of them is seen, the colour counts there, and so does alpha
    for (std::size_t x = 0; x < 16; ++x)
        b.view().row(0)[x * 4 + 3] = std::byte{51};
    const ImageDifference partly = must(measure_difference(a.view(), b.view()));
    CHECK(partly.channel_psnr[3] == doctest::Approx(20 * std::log10(5.0 * 4)));
    CHECK(partly.max == doctest::Approx(51));
}

TEST_CASE("nothing to be seen in either image is no difference") {
    const Image a = filled(Format::rgba8_srgb, {1, 2, 3, 0});
    const Image b = filled(Format::rgba8_srgb, {200, 100, 0, 0});
    const ImageDifference d = must(measure_difference(a.view(), b.view()));
    CHECK(std::isinf(d.psnr));
    CHECK(d.max == 0);
    CHECK(d.ssim == doctest::Approx(1));
}

TEST_CASE("block formats are decoded, and sizes have to agree") {
    const Image a = filled(Format::rgba8_unorm, {10, 200, 30, 255});
    const Image blocks = must(encode_blocks(a.view(), Format::bc7_unorm));
    CHECK(std::isinf(must(measure_difference(a.view(), blocks.view())).psnr));
    const Image small = filled(Format::rgba8_unorm, {0, 0, 0, 0}, 8);
    CHECK(must_fail(measure_difference(a.view(), small.view())).kind == ErrorKind::usage);
}

TEST_CASE("the map is dark where nothing differs and bright where much does") {
    const Image a = filled(Format::rgba8_srgb, {100, 100, 100, 255}, 64);
    Image b = filled(Format::rgba8_srgb, {100, 100, 100, 255}, 64);
    b.view().row(10)[20 * 4] = std::byte{200};
    const Image map = must(draw_difference(a.view(), b.view(), 16));
    CHECK(map.width() >= 64);
    CHECK(map.height() > 64);  // the legend
    const auto brightness = [&](std::uint32_t x, std::uint32_t y) {
        return std::to_integer<int>(map.view().row(y)[x * 4]) +
               std::to_integer<int>(map.view().row(y)[x * 4 + 1]);
    };
    CHECK(brightness(0, 0) < 60);
    CHECK(brightness(20, 10) > 480);
    CHECK(must_fail(draw_difference(a.view(), b.view(), 0)).kind == ErrorKind::usage);
}
