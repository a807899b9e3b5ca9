// Levels, tone curves, and pictures made to repeat.
#include <cmath>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

TEST_CASE("levels stretch what lies between black and white") {
    const Tone tone = must(levels(0.25F, 0.75F));
    CHECK(tone(0.25F) == 0);
    CHECK(tone(0.5F) == doctest::Approx(0.5));
    CHECK(tone(0.75F) == 1);
    CHECK(tone(0.1F) == 0);
    CHECK(tone(1) == doctest::Approx(1.5));  // floats keep it, integers are clamped
    CHECK(must(levels(0, 1, 2))(0.25F) == doctest::Approx(0.5));
    CHECK(must(levels(1, 0))(0.2F) == doctest::Approx(0.8));
    CHECK(must_fail(levels(0.5F, 0.5F)).kind == ErrorKind::usage);
    CHECK(must_fail(levels(0, 1, 0)).kind == ErrorKind::usage);
    CHECK(must_fail(levels(NAN, 1)).kind == ErrorKind::usage);
}

TEST_CASE("a curve meets its points, and goes up and down only where they do") {
    const std::array<std::array<float, 2>, 5> points = {
        {{0, 0.1F}, {0.2F, 0.15F}, {0.4F, 0.9F}, {0.7F, 0.9F}, {1, 0.3F}}};
    const Tone tone = must(tone_curve(points));
    for (const auto& point : points)
        CHECK(tone(point[0]) == doctest::Approx(point[1]));
    CHECK(tone(-1) == 0.1F);
    CHECK(tone(2) == 0.3F);
    for (int i = 0; i < 1000; ++i) {
        const float x = static_cast<float>(i) / 1000, next = x + 0.001F;
        const float step = tone(next) - tone(x);
        if (next <= 0.4F)
            CHECK(step >= 0);
        else if (x >= 0.7F)
            CHECK(step <= 0);
        else if (x >= 0.4F && next <= 0.7F)
            CHECK(std::abs(step) < 1e-6F);
    }
    const std::array<std::array<float, 2>, 2> line = {{{0, 1}, {1, 0}}};
    CHECK(must(tone_curve(line))(0.3F) == doctest::Approx(0.7));
    CHECK(must_fail(tone_curve(std::span(line).first(1))).kind == ErrorKind::usage);
    const std::array<std::array<float, 2>, 2> back = {{{0.5F, 1}, {0.5F, 0}}};
    CHECK(must_fail(tone_curve(back)).kind == ErrorKind::usage);
}

TEST_CASE("a tone changes every channel but alpha, as stored, in every plain format") {
    const Tone tone = must(levels(1, 0));
    for (const Format format : {Format::r8_unorm, Format::rgb8_srgb, Format::rgba8_srgb,
                                Format::rgba16_unorm, Format::rgba32_float}) {
        CAPTURE(info(format).name);
        Image image = must(Image::create(format, 3, 2));
        support::Random random(4);
        support::fill_random(image.view(), random);
        const Image before =
            must(reordered(std::as_const(image).view(),
                           std::string_view("rgba").substr(0, info(format).channel_count)));
        must(apply_tone(image.view(), tone));
        const auto floats = [&](const Image& from) {
            return must(
                convert(from.view(), Format::rgba32_float, {.source_transfer = Transfer::linear}));
        };
        const bool encoded = info(format).transfer == Transfer::srgb;
        const Image a = floats(before), b = floats(image);
        for (std::uint32_t y = 0; y < 2; ++y)
            for (std::size_t i = 0; i < 12; ++i) {
                const auto value = [&](const Image& from) {
                    const float v = reinterpret_cast<const float*>(from.view().row(y).data())[i];
                    return encoded && i % 4 != 3 ? srgb_encode(static_cast<double>(v))
                                                 : static_cast<double>(v);
                };
                if (i % 4 == 3 || i % 4 >= info(format).channel_count)
                    CHECK(value(a) == value(b));
                else if (!info(format).is_float())
                    CHECK(value(b) == doctest::Approx(1 - value(a)).epsilon(1e-4));
                else
                    CHECK(value(b) == doctest::Approx(std::max(1 - value(a), 0.0)).epsilon(1e-4));
            }
    }
    Image block = must(Image::create(Format::bc1_srgb, 4, 4));
    CHECK(must_fail(apply_tone(block.view(), tone)).kind == ErrorKind::usage);
}

namespace {

/// The greatest step over the seam between the last and the first column, and over any other.
std::array<double, 2> steps_of(ConstImageView image) {
    const std::size_t channels = info(image.format).channel_count;
    std::array<double, 2> worst{};
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::size_t x = 0; x < image.width; ++x)
            for (std::size_t c = 0; c < std::min<std::size_t>(channels, 3); ++c) {
                const auto at = [&](std::size_t column) {
                    return std::to_integer<int>(image.row(y)[column % image.width * channels + c]);
                };
                double& place = worst[x + 1 == image.width ? 0 : 1];
                place = std::max(place, static_cast<double>(std::abs(at(x + 1) - at(x))));
            }
    return worst;
}

/// A ramp with smooth spots: its ends do not fit each other.
Image ramp(Format format, std::uint32_t width, std::uint32_t height) {
    Image image = must(Image::create(format, width, height));
    const std::size_t channels = info(format).channel_count;
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x)
            for (std::size_t c = 0; c < channels; ++c)
                image.view().row(y)[x * channels + c] =
                    std::byte(static_cast<int>(40 + 120.0 * x / width + 40.0 * y / height +
                                               20 * std::sin(0.2 * x) * std::cos(0.3 * y)));
    return image;
}

}  // namespace

TEST_CASE("blended seams are steps like any other, in both directions") {
    for (const Format format : {Format::r8_unorm, Format::rgb8_srgb, Format::rgba8_srgb}) {
        CAPTURE(info(format).name);
        const Image image = ramp(format, 96, 64);
        CHECK(steps_of(image.view())[0] > 90);
        const Image tile = must(with_blended_seams(image.view(), Transfer::srgb));
        CHECK(tile.width() == 72);
        CHECK(tile.height() == 48);
        const auto across = steps_of(tile.view());
        CHECK(across[0] <= across[1]);
        const Image turned = must(with_orientation(tile.view(), Orientation::transpose));
        const auto along = steps_of(turned.view());
        CHECK(along[0] <= along[1]);

        const Image one =
            must(with_blended_seams(image.view(), Transfer::srgb, {.share = 0.5F, .along = false}));
        CHECK(one.width() == 48);
        CHECK(one.height() == 64);
    }
}

TEST_CASE("what fits already stays as it is, and what cannot be is refused") {
    // Eight columns a period: a share of a quarter takes three of them away.
    Image image = must(Image::create(Format::rgba8_srgb, 96, 40));
    for (std::uint32_t y = 0; y < 40; ++y)
        for (std::uint32_t x = 0; x < 96; ++x)
            for (std::size_t c = 0; c < 4; ++c)
                image.view().row(y)[4 * x + c] =
                    std::byte(c == 3 ? 128 + 10 * (x % 8) : 20 * (x % 8) + y % 10 * 8);
    const Image tile = must(with_blended_seams(std::as_const(image).view(), Transfer::srgb));
    for (std::uint32_t y = 0; y < tile.height(); ++y)
        for (std::size_t i = 0; i < 4 * std::size_t{tile.width()}; ++i)
            CHECK(std::abs(std::to_integer<int>(tile.view().row(y)[i]) -
                           std::to_integer<int>(image.view().row(y)[i])) <= 1);
    for (const float share : {0.0F, 0.6F, NAN})
        CHECK(must_fail(
                  with_blended_seams(std::as_const(image).view(), Transfer::srgb, {.share = share}))
                  .kind == ErrorKind::usage);
    const Image small = must(Image::create(Format::r8_unorm, 7, 20));
    CHECK(must_fail(with_blended_seams(small.view(), Transfer::linear)).kind == ErrorKind::usage);
}
