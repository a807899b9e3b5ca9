// ASTC in floating point: ends of high dynamic range, and light near its source.
#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "block/astc/endpoints.hpp"
#include "block/astc/half_logarithm.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using namespace yl::astc;
using support::must;

namespace {

/// Light from 1/64 to 64, in waves; alpha falls to the right where asked for.
Image waves(std::uint32_t size, bool has_alpha) {
    Image image = must(Image::create(Format::rgba16_float, size, size));
    for (std::uint32_t y = 0; y < size; ++y)
        for (std::uint32_t x = 0; x < size; ++x) {
            const float u = static_cast<float>(x) / static_cast<float>(size),
                        v = static_cast<float>(y) / static_cast<float>(size);
            const std::array<float, 4> texel = {
                std::exp2(6 * std::sin(5 * u + 3 * v)), std::exp2(5 * std::cos(4 * v)),
                std::exp2(4 * std::sin(6 * u * v)), has_alpha ? 1 - u : 1};
            for (std::size_t c = 0; c < 4; ++c)
                store(image.view().row(y).data() + std::size_t{8} * x + 2 * c,
                      float_to_half(texel[c]));
        }
    return image;
}

/// The root of the mean squared error of colours in stops, and the greatest of alpha.
std::pair<double, double> light_errors(const Image& image, Format format, int effort) {
    const Image blocks =
        must(encode_blocks(image.view(), format, {.role = Role::hdr, .effort = effort}));
    const Image texels = must(decode_blocks(blocks.view()));
    double sum = 0, alpha = 0;
    for (std::uint32_t y = 0; y < image.height(); ++y)
        for (std::uint32_t x = 0; x < image.width(); ++x)
            for (std::size_t c = 0; c < 4; ++c) {
                const std::size_t at = std::size_t{8} * x + 2 * c;
                const double before =
                    half_to_float(load<std::uint16_t>(image.view().row(y).data() + at));
                const double after =
                    half_to_float(load<std::uint16_t>(texels.view().row(y).data() + at));
                if (c == 3)
                    alpha = std::max(alpha, std::abs(after - before));
                else
                    sum += std::pow(std::log2(std::max(after, 1e-6) / before), 2);
            }
    return {std::sqrt(sum / (3.0 * image.width() * image.height())), alpha};
}

}  // namespace

TEST_CASE("ASTC: light is near its source at every effort, and nearer with more") {
    const Image image = waves(48, false), with_alpha = waves(48, true);
    for (const FormatInfo& f : all_formats()) {
        if (f.family != BlockFamily::astc_hdr)
            continue;
        CAPTURE(f.name);
        const auto [fast, none] = light_errors(image, f.format, 0);
        const auto [usual, still_none] = light_errors(image, f.format, 5);
        CHECK(none == 0);
        CHECK(still_none == 0);
        CHECK(fast < (f.block_width * f.block_height <= 36 ? 0.3 : 0.8));
        CHECK(usual < 0.97 * fast);
        const auto [colors, alpha] = light_errors(with_alpha, f.format, 5);
        CHECK(colors < 3 * usual + 0.05);
        CHECK(alpha < (f.block_width * f.block_height <= 36 ? 0.03 : 0.1));
    }
    // Beside the desktops' format of as many bits.
    CHECK(light_errors(image, Format::astc_4x4_sfloat, 5).first <
          2 * light_errors(image, Format::bc6h_ufloat, 5).first);
}

TEST_CASE("ASTC: ends of high dynamic range are found in every form") {
    std::array<float, 256> all{};
    for (std::size_t i = 0; i < all.size(); ++i)
        all[i] = static_cast<float>(i);
    support::Random random(12);
    std::array<std::size_t, 9> seen{};
    for (int round = 0; round < 20000; ++round) {
        CAPTURE(round);
        std::array<float, 3> low{}, high{};
        const auto spread = static_cast<float>(16 << random() % 9);
        for (std::size_t c = 0; c < 3; ++c) {
            high[c] = 500 + static_cast<float>(random() % 3500);
            if (c > 0)
                high[c] =
                    std::max(0.0F, high[0] - spread * static_cast<float>(random() % 100) / 100);
            low[c] = std::max(0.0F, high[c] - spread * static_cast<float>(random() % 100) / 100);
        }
        const HdrColors colors = encode_rgb_hdr(low, high, all.data());
        std::array<std::uint8_t, 8> values{};
        std::copy(colors.values.begin(), colors.values.end(), values.begin());
        const Endpoints ends = decode_endpoints(EndpointMode::rgb_hdr, values.data());
        CHECK(ends.low == colors.ends.low);
        CHECK(ends.high == colors.ends.high);
        for (std::size_t c = 0; c < 3; ++c) {
            // Of 12 bits, the coarsest form keeps 7 of one channel and 8 of the others.
            CHECK(std::abs(static_cast<float>(ends.low[c]) - low[c]) <= 32);
            CHECK(std::abs(static_cast<float>(ends.high[c]) - high[c]) <= 32);
        }
        const bool is_direct = (values[4] & values[5] & 0x80) != 0;
        ++seen[is_direct ? 8U : (values[1] >> 7) | (values[2] >> 7) << 1 | (values[3] >> 7) << 2];
    }
    for (const std::size_t count : seen)
        CHECK(count > 0);
}

TEST_CASE("ASTC: alphas of high dynamic range are found in every form") {
    std::array<float, 256> all{};
    for (std::size_t i = 0; i < all.size(); ++i)
        all[i] = static_cast<float>(i);
    support::Random random(13);
    std::array<std::size_t, 4> seen{};
    for (int round = 0; round < 20000; ++round) {
        CAPTURE(round);
        const auto spread = static_cast<float>(8 << random() % 9);
        const float low = static_cast<float>(random() % 4000);
        const float high = std::clamp(low + spread * (static_cast<float>(random() % 201) / 100 - 1),
                                      0.0F, 4000.0F);
        const HdrAlphas alphas = encode_alpha_hdr(low, high, all.data());
        const std::array<std::uint8_t, 8> values = {
            0, 0, 0, 0, 0, 0, alphas.values[0], alphas.values[1]};
        const Endpoints ends = decode_endpoints(EndpointMode::rgba_hdr, values.data());
        CHECK(ends.low[3] == alphas.low);
        CHECK(ends.high[3] == alphas.high);
        CHECK(std::abs(static_cast<float>(alphas.low) - low) <= 32);
        CHECK(std::abs(static_cast<float>(alphas.high) - high) <= 32);
        ++seen[alphas.values[0] >> 7 | alphas.values[1] >> 7 << 1];
    }
    for (const std::size_t count : seen)
        CHECK(count > 0);
}

TEST_CASE("ASTC: alpha above 1 is light as colours are") {
    Image image = waves(48, false);
    for (std::uint32_t y = 0; y < 48; ++y)
        for (std::uint32_t x = 0; x < 48; ++x)  // from 1/4 to 8; below 1 in the blocks on the left
            store(image.view().row(y).data() + std::size_t{8} * x + 6,
                  float_to_half(std::exp2(5 * static_cast<float>(x) / 48 - 2)));
    for (const FormatInfo& f : all_formats()) {
        if (f.family != BlockFamily::astc_hdr)
            continue;
        CAPTURE(f.name);
        for (const int effort : {0, 5}) {
            const Image blocks =
                must(encode_blocks(image.view(), f.format, {.role = Role::hdr, .effort = effort}));
            const Image texels = must(decode_blocks(blocks.view()));
            double most = 0;
            for (std::uint32_t y = 0; y < 48; ++y)
                for (std::uint32_t x = 0; x < 48; ++x) {
                    const auto alpha = [&](const Image& of) {
                        return half_to_float(
                            load<std::uint16_t>(of.view().row(y).data() + std::size_t{8} * x + 6));
                    };
                    most = std::max(
                        most, std::abs(std::log2(double(alpha(texels)) / double(alpha(image)))));
                }
            CHECK(most < (f.block_width * f.block_height <= 36 ? 0.5 : 1.0));
        }
    }
}

TEST_CASE("ASTC: half floats and their logarithms") {
    for (unsigned half = 0; half <= 0x7BFF; ++half)
        CHECK(half_of_logarithm(logarithm_of_half(static_cast<std::uint16_t>(half))) == half);
    CHECK(logarithm_of_half(0x8001) == 0);
    CHECK(half_of_logarithm(logarithm_of_half(0x7C00)) == 0x7BFF);
}
