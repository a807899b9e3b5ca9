#include <cmath>
#include <cstring>
#include <yl/yl.hpp>

#include "base/parallel.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

#include <tbb/task_arena.h>

using namespace yl;
using support::must;
using support::must_fail;

namespace {

/// A picture in linear light and double precision, with colour multiplied by alpha.
struct Reference {
    std::uint32_t width = 0, height = 0;
    std::vector<double> rgba;

    [[nodiscard]] double* pixel(std::uint32_t x, std::uint32_t y) {
        return &rgba[(std::size_t{y} * width + x) * 4];
    }
    [[nodiscard]] const double* pixel(std::uint32_t x, std::uint32_t y) const {
        return &rgba[(std::size_t{y} * width + x) * 4];
    }
};

double decode(double encoded) {
    return encoded <= 0.04045 ? encoded / 12.92 : std::pow((encoded + 0.055) / 1.055, 2.4);
}
double encode(double linear) {
    return linear <= 0.0031308 ? linear * 12.92 : 1.055 * std::pow(linear, 1 / 2.4) - 0.055;
}

Reference reference_of(ConstImageView image, bool srgb) {
    Reference result{image.width, image.height,
                     std::vector<double>(std::size_t{image.width} * image.height * 4)};
    const std::size_t channels = info(image.format).channel_count;
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::uint32_t x = 0; x < image.width; ++x) {
            double* pixel = result.pixel(x, y);
            pixel[3] = 1;
            for (std::size_t c = 0; c < channels; ++c) {
                const double code = std::to_integer<int>(image.row(y)[x * channels + c]) / 255.0;
                pixel[c] = srgb && c < 3 ? decode(code) : code;
            }
            for (int c = 0; c < 3; ++c)
                pixel[c] *= pixel[3];
        }
    return result;
}

/// The average over the area that each smaller pixel covers, straight from the definition.
Reference smaller(const Reference& source) {
    const std::uint32_t width = std::max(source.width / 2, 1U);
    const std::uint32_t height = std::max(source.height / 2, 1U);
    Reference result{width, height, std::vector<double>(std::size_t{width} * height * 4)};
    const auto overlap = [](double a0, double a1, double b) {
        return std::max(0.0, std::min(a1, b + 1) - std::max(a0, b));
    };
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            const double x0 = double(source.width) * x / width,
                         x1 = double(source.width) * (x + 1) / width;
            const double y0 = double(source.height) * y / height,
                         y1 = double(source.height) * (y + 1) / height;
            double area = 0;
            for (auto j = static_cast<std::uint32_t>(y0);
                 j < std::min(std::ceil(y1), double(source.height)); ++j)
                for (auto i = static_cast<std::uint32_t>(x0);
                     i < std::min(std::ceil(x1), double(source.width)); ++i) {
                    const double weight = overlap(x0, x1, i) * overlap(y0, y1, j);
                    for (int c = 0; c < 4; ++c)
                        result.pixel(x, y)[c] += weight * source.pixel(i, j)[c];
                    area += weight;
                }
            for (int c = 0; c < 4; ++c)
                result.pixel(x, y)[c] /= area;
        }
    return result;
}

/// The greatest difference in code values; colour counts only where there is some alpha.
double max_difference(ConstImageView image, const Reference& reference, bool srgb) {
    double most = 0;
    const std::size_t channels = info(image.format).channel_count;
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::uint32_t x = 0; x < image.width; ++x) {
            const double* pixel = reference.pixel(x, y);
            for (std::size_t c = 0; c < channels; ++c) {
                if (c < 3 && pixel[3] < 1.0 / 512)
                    continue;
                const double value = c < 3 ? pixel[c] / pixel[3] : pixel[c];
                const double code = 255 * (srgb && c < 3 ? encode(value) : value);
                most = std::max(
                    most, std::abs(std::to_integer<int>(image.row(y)[x * channels + c]) - code));
            }
        }
    return most;
}

void check_chain(Texture& texture) {
    must(build_mips(texture));
    const bool srgb = info(texture.shape().format).transfer == Transfer::srgb;
    Reference reference = reference_of(texture.image(0), srgb);
    for (std::uint32_t level = 1; level < texture.shape().levels; ++level) {
        CAPTURE(level);
        reference = smaller(reference);
        REQUIRE(texture.image(level).width == reference.width);
        REQUIRE(texture.image(level).height == reference.height);
        CHECK(max_difference(texture.image(level), reference, srgb) <= 0.51);
    }
}

Texture top_level(Format format, std::uint32_t width, std::uint32_t height, std::uint32_t seed) {
    Texture texture = must(Texture::create({.format = format,
                                            .width = width,
                                            .height = height,
                                            .levels = full_level_count(width, height)}));
    support::Random random(seed);
    support::fill_random(texture.image(0), random);
    return texture;
}

}  // namespace

TEST_CASE("every level is the area average in linear light, alpha-weighted, at any size") {
    const std::pair<std::uint32_t, std::uint32_t> sizes[] = {
        {1, 1}, {1, 7}, {2, 2}, {5, 3}, {64, 64}, {255, 257}, {300, 200}, {1023, 9}, {3, 700}};
    for (const Format format : {Format::rgba8_srgb, Format::rgba8_unorm, Format::rgb8_srgb,
                                Format::rg8_unorm, Format::r8_unorm})
        for (const auto& size : sizes) {
            const auto width = size.first;
            const auto height = size.second;

            CAPTURE(info(format).name);
            CAPTURE(width);
            CAPTURE(height);
            Texture texture = top_level(format, width, height, width * 31 + height);
            check_chain(texture);
        }
}

TEST_CASE("every level of the demo textures is the area average, as `bake` makes them") {
    const std::pair<const char*, Role> pictures[] = {
        {"lattice", Role::color},        {"slate", Role::color}, {"slate_normal", Role::normal},
        {"slate_roughness", Role::data}, {"label", Role::color}, {"moss", Role::mask}};
    for (const auto& entry : pictures) {
        CAPTURE(entry.first);
        Texture texture =
            std::move(must(bake_file(std::string(DEMO_DATA) + "/" + entry.first + ".png",
                                     {.role = entry.second}))
                          .texture);
        CHECK(texture.shape().levels ==
              full_level_count(texture.shape().width, texture.shape().height));
        check_chain(texture);
    }
}

TEST_CASE("white next to black is middle light, not middle code") {
    Texture texture = top_level(Format::r8_srgb, 2, 1, 1);
    texture.image(0).row(0)[0] = std::byte{0};
    texture.image(0).row(0)[1] = std::byte{255};
    must(build_mips(texture));
    CHECK(std::to_integer<int>(texture.image(1).row(0)[0]) == 188);
}

TEST_CASE("five texels become two of two and a half each") {
    Texture texture = top_level(Format::r8_unorm, 5, 1, 1);
    const int values[] = {10, 20, 100, 200, 250};
    for (std::size_t i = 0; i < 5; ++i)
        texture.image(0).row(0)[i] = static_cast<std::byte>(values[i]);
    must(build_mips(texture));
    CHECK(std::to_integer<int>(texture.image(1).row(0)[0]) == 32);   // (10 + 20 + 50) / 2.5
    CHECK(std::to_integer<int>(texture.image(1).row(0)[1]) == 200);  // (50 + 200 + 250) / 2.5
    CHECK(std::to_integer<int>(texture.image(2).row(0)[0]) == 116);  // of the unrounded level above
}

TEST_CASE("transparent texels lend no colour, but keep theirs where they are alone") {
    Texture texture =
        must(Texture::create({.format = Format::rgba8_srgb, .width = 4, .height = 2, .levels = 3}));
    const std::uint8_t row[] = {200, 100, 50, 255, 0, 255, 0, 0, 10, 20, 30, 0, 10, 20, 30, 0};
    for (std::uint32_t y = 0; y < 2; ++y)
        std::memcpy(texture.image(0).row(y).data(), row, sizeof row);
    must(build_mips(texture));
    const auto code = [&](std::uint32_t level, std::size_t i) {
        return std::to_integer<int>(texture.image(level).row(0)[i]);
    };
    CHECK(code(1, 0) == 200);
    CHECK(code(1, 1) == 100);
    CHECK(code(1, 2) == 50);
    CHECK(code(1, 3) == 128);
    CHECK(code(1, 4) == 10);
    CHECK(code(1, 5) == 20);
    CHECK(code(1, 6) == 30);
    CHECK(code(1, 7) == 0);
    CHECK(code(2, 0) == 200);
    CHECK(code(2, 3) == 64);
}

TEST_CASE("premultiplied colour is averaged as it is") {
    Texture texture = must(
        Texture::create({.format = Format::rgba8_unorm, .width = 2, .height = 1, .levels = 2}));
    texture.metadata.alpha = AlphaMode::premultiplied;
    const std::uint8_t row[] = {100, 60, 20, 100, 0, 0, 0, 0};
    std::memcpy(texture.image(0).row(0).data(), row, sizeof row);
    must(build_mips(texture));
    CHECK(std::to_integer<int>(texture.image(1).row(0)[0]) == 50);
    CHECK(std::to_integer<int>(texture.image(1).row(0)[3]) == 50);
}

TEST_CASE("one colour stays that colour to the last code value") {
    for (const int code : {0, 1, 77, 200, 255}) {
        Texture texture = top_level(Format::rgba8_srgb, 201, 133, 1);
        for (std::uint32_t y = 0; y < 133; ++y)
            for (std::byte& byte : texture.image(0).row(y))
                byte = static_cast<std::byte>(code);
        must(build_mips(texture));
        for (std::uint32_t level = 1; level < texture.shape().levels; ++level)
            for (const std::byte byte : texture.level(level))
                REQUIRE(std::to_integer<int>(byte) == code);
    }
}

TEST_CASE("every format has a chain, and floats keep their mean") {
    for (const FormatInfo& format : all_formats()) {
        CAPTURE(format.name);
        if (format.is_block())
            continue;
        Texture texture = top_level(format.format, 64, 32, 5);
        must(build_mips(texture));
        if (format.kind == NumericKind::snorm || format.transfer == Transfer::srgb ||
            format.channel_count == 4)
            continue;
        const Image top = must(
            convert(texture.image(0), Format::rgba32_float,
                    {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
        const Image last = must(
            convert(texture.image(6), Format::rgba32_float,
                    {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
        double sum = 0;
        for (std::uint32_t y = 0; y < 32; ++y)
            for (std::uint32_t x = 0; x < 64; ++x)
                sum += double{reinterpret_cast<const float*>(top.view().row(y).data())[x * 4]};
        const float mean = reinterpret_cast<const float*>(last.view().row(0).data())[0];
        CHECK(double{mean} == doctest::Approx(sum / (64 * 32)).epsilon(0.01));
    }
}

TEST_CASE("the bytes do not depend on the number of threads") {
    std::vector<std::vector<std::byte>> chains;
    for (const int threads : {1, 2, 8}) {
        tbb::task_arena arena(threads);
        arena.execute([&] {
            Texture texture = top_level(Format::rgba8_srgb, 601, 1037, 5);
            must(build_mips(texture));
            std::vector<std::byte>& chain = chains.emplace_back();
            for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
                chain.insert(chain.end(), texture.level(level).begin(), texture.level(level).end());
        });
    }
    CHECK(chains[0] == chains[1]);
    CHECK(chains[0] == chains[2]);
}

TEST_CASE("layers and faces have chains of their own") {
    Texture texture = support::random_texture({.format = Format::r8_unorm,
                                               .width = 8,
                                               .height = 8,
                                               .levels = 4,
                                               .layers = 2,
                                               .faces = 6,
                                               .is_array = true},
                                              4);
    must(build_mips(texture));
    for (std::uint32_t layer = 0; layer < 2; ++layer)
        for (std::uint32_t face = 0; face < 6; ++face) {
            int sum = 0;
            for (std::uint32_t y = 0; y < 8; ++y)
                for (const std::byte byte : texture.image(0, layer, face).row(y))
                    sum += std::to_integer<int>(byte);
            CHECK(std::to_integer<int>(texture.image(3, layer, face).row(0)[0]) ==
                  doctest::Approx(sum / 64.0).epsilon(0.02));
        }
}

TEST_CASE("the quick first level of 8-bit RGBA is the ideal one, rounded") {
    for (const Format format : {Format::rgba8_srgb, Format::rgba8_unorm})
        for (const bool opaque : {true, false}) {
            Texture texture = support::random_texture(
                {.format = format, .width = 62, .height = 34, .levels = 2}, opaque ? 1 : 2);
            const ImageView top = texture.image(0);
            for (std::uint32_t y = 0; y < top.height; ++y)
                for (std::size_t x = 0; opaque && x < top.width; ++x)
                    top.row(y)[4 * x + 3] = std::byte{255};
            must(build_mips(texture));
            const auto light_of = [&](double code) {
                return format == Format::rgba8_srgb ? srgb_decode(code / 255) : code / 255;
            };
            const auto code_of = [&](double light) {
                return 255 * (format == Format::rgba8_srgb ? srgb_encode(light) : light);
            };
            double worst = 0;
            for (std::uint32_t y = 0; y < 17; ++y)
                for (std::size_t x = 0; x < 31; ++x) {
                    std::array<double, 4> sum{};
                    for (const std::uint32_t row : {2 * y, 2 * y + 1})
                        for (const std::size_t column : {2 * x, 2 * x + 1}) {
                            const auto code = [&](std::size_t c) {
                                return static_cast<double>(
                                    std::to_integer<int>(top.row(row)[4 * column + c]));
                            };
                            for (std::size_t c = 0; c < 3; ++c)
                                sum[c] += light_of(code(c)) * code(3);
                            sum[3] += code(3);
                        }
                    const std::byte* found = texture.image(1).row(y).data() + 4 * x;
                    const auto off = [&](std::size_t c, double ideal) {
                        worst = std::max(
                            worst,
                            std::abs(static_cast<double>(std::to_integer<int>(found[c])) - ideal));
                    };
                    off(3, sum[3] / 4);
                    for (std::size_t c = 0; c < 3 && sum[3] > 0; ++c)
                        off(c, code_of(sum[c] / sum[3]));
                }
            CAPTURE(info(format).name);
            CAPTURE(opaque);
            CHECK(worst <= 0.502);
            CHECK(worst > 0.4);  // it is rounded, and was compared
        }
}
