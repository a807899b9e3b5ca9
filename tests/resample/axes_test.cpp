// What is done along one axis is done along the other: pictures that are not square, and their
// transposes.
#include <cmath>
#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;

namespace {

Image random_image(Format format, std::uint32_t width, std::uint32_t height, unsigned seed) {
    Image image = must(Image::create(format, width, height));
    support::Random random(seed);
    support::fill_random(image.view(), random);
    return image;
}

Image transposed(const Image& image) {
    return must(with_orientation(image.view(), Orientation::transpose));
}

}  // namespace

TEST_CASE("the share that passes an alpha test is that of the transposed picture") {
    for (const auto& size : {std::pair{7U, 3U}, {3U, 7U}, {16U, 1U}, {1U, 9U}})
        for (const float threshold : {0.2F, 0.5F, 0.8F}) {
            const std::uint32_t width = size.first, height = size.second;
            const Image image = random_image(Format::rgba8_srgb, width, height, 3);
            const Image other = transposed(image);
            CAPTURE(width);
            CHECK(coverage(image.view(), threshold) ==
                  doctest::Approx(coverage(other.view(), threshold)));
        }
    // One column of two: a fourth of the way between the middles belongs to each.
    Image two = must(Image::create(Format::r8_unorm, 1, 2));
    two.view().row(0)[0] = std::byte{255};
    two.view().row(1)[0] = std::byte{0};
    CHECK(coverage(std::as_const(two).view(), 0.5F) == doctest::Approx(0.5));
}

TEST_CASE("normals in two channels hide as much as with their third") {
    Image two = must(Image::create(Format::rg16_unorm, 8, 4));
    support::Random random(5);
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 8; ++x) {
            const std::array<std::uint16_t, 2> codes = {
                static_cast<std::uint16_t>(22000 + random() % 20000),
                static_cast<std::uint16_t>(22000 + random() % 20000)};
            std::memcpy(two.view().row(y).data() + 4 * x, codes.data(), 4);
        }
    Image full = must(Image::create(Format::rgba32_float, 8, 4));
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 8; ++x) {
            std::array<std::uint16_t, 2> codes = {};
            std::memcpy(codes.data(), two.view().row(y).data() + 4 * x, 4);
            std::array<float, 4> normal = {2 * static_cast<float>(codes[0]) / 65535 - 1,
                                           2 * static_cast<float>(codes[1]) / 65535 - 1, 0, 1};
            normal[2] = std::sqrt(1 - normal[0] * normal[0] - normal[1] * normal[1]);
            std::memcpy(full.view().row(y).data() + 16 * x, normal.data(), 16);
        }
    for (const SpreadMeasure measure : {SpreadMeasure::length, SpreadMeasure::variance}) {
        const auto a = must(hidden_variance(std::as_const(two).view(), measure));
        const auto b = must(hidden_variance(std::as_const(full).view(), measure));
        REQUIRE(a.size() == b.size());
        for (std::size_t level = 0; level < a.size(); ++level)
            for (std::size_t i = 0; i < a[level].size(); ++i)
                CHECK(a[level][i] == doctest::Approx(b[level][i]).epsilon(0.001));
    }
}

TEST_CASE("signed numbers keep their value in both depths") {
    for (const Format format : {Format::r8_snorm, Format::r16_snorm}) {
        const int last = format == Format::r8_snorm ? 127 : 32767;
        Image image = must(Image::create(format, 3, 1));
        const int codes[] = {last, last / 2, -last - 1};
        for (std::size_t i = 0; i < 3; ++i) {
            const auto code = static_cast<std::uint16_t>(codes[i]);
            std::memcpy(image.view().row(0).data() + i * info(format).block_bytes, &code,
                        info(format).block_bytes);
        }
        Image numbers = must(Image::create(Format::r32_float, 3, 1));
        must(convert(std::as_const(image).view(), numbers.view(), {}));
        std::array<float, 3> values = {};
        std::memcpy(values.data(), numbers.view().row(0).data(), sizeof values);
        CHECK(values[0] == 1);
        CHECK(values[1] == doctest::Approx(0.5).epsilon(0.01));
        CHECK(values[2] == -1);
    }
}

TEST_CASE("a chain may have as many levels as there are, and not one more") {
    Picture picture;
    picture.image = random_image(Format::rgba8_srgb, 20, 8, 1);
    CHECK(must(bake(picture, {.levels = 5})).texture.shape().levels == 5);
    CHECK_FALSE(bake(picture, {.levels = 6}).has_value());
    CHECK_FALSE(bake(picture, {.levels = 0}).has_value());
}

TEST_CASE("colour in one channel is its luminance, and data its first channel") {
    Texture texture =
        must(Texture::create({.format = Format::rgba8_unorm, .width = 4, .height = 4}));
    texture.metadata.transfer = Transfer::linear;
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 4; ++x) {
            const std::array<std::uint8_t, 4> color = {51, 255, 0, 255};
            std::memcpy(texture.image(0).row(y).data() + 4 * x, color.data(), 4);
        }
    const auto first = [&](Role role) {
        const Texture blocks = must(texture_in_format(texture, Format::r8_unorm, role));
        return std::to_integer<int>(blocks.level(0)[0]);
    };
    CHECK(first(Role::data) == 51);
    CHECK(first(Role::color) == doctest::Approx(0.2126 * 51 + 0.7152 * 255).epsilon(0.01));
}

TEST_CASE("dithering keeps the mean of unsigned and signed numbers, and strays by a code at most") {
    for (const Format format : {Format::r8_unorm, Format::r8_snorm, Format::r16_snorm}) {
        const double last = format == Format::r8_unorm   ? 255
                            : format == Format::r8_snorm ? 127
                                                         : 32767;
        const bool is_wide = format == Format::r16_snorm;
        for (const float value : {0.1234F, 0.5F, 0.87654F}) {
            Image numbers = must(Image::create(Format::r32_float, 64, 64));
            for (std::uint32_t y = 0; y < 64; ++y)
                for (std::size_t x = 0; x < 64; ++x)
                    std::memcpy(numbers.view().row(y).data() + 4 * x, &value, 4);
            Image codes = must(Image::create(format, 64, 64));
            must(convert(std::as_const(numbers).view(), codes.view(), {.dither = true}));
            double sum = 0, worst = 0;
            for (std::uint32_t y = 0; y < 64; ++y)
                for (std::size_t x = 0; x < 64; ++x) {
                    std::int16_t code = 0;
                    std::memcpy(&code, codes.view().row(y).data() + (is_wide ? 2 * x : x),
                                is_wide ? 2 : 1);
                    sum += code;
                    worst = std::max(worst, std::abs(code - static_cast<double>(value) * last));
                }
            CAPTURE(info(format).name);
            CAPTURE(value);
            CHECK(sum / (64 * 64) ==
                  doctest::Approx(static_cast<double>(value) * last).epsilon(0.002));
            CHECK(worst <= 1);
        }
    }
}
