// The second factor of split sums: what a surface reflects of a white sky.
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include <yl/environment.hpp>
#include <yl/format.hpp>
#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"

namespace yl {
namespace {

using std::numbers::pi;

constexpr int steps_of_tilt = 512;  ///< half vectors drawn by importance, in even shares
constexpr int steps_of_turn = 32;   ///< over half a circle: the other half is alike

/// The height-correlated Smith term over 4 (n.l) (n.v) (Heitz, "Understanding the Masking-Shadowing
/// Function in Microfacet-Based BRDFs", 2014, equation 99).
double visibility(double n_l, double n_v, double alpha) {
    const double a2 = alpha * alpha;
    const double of_light = n_v * std::sqrt(n_l * n_l * (1 - a2) + a2);
    const double of_view = n_l * std::sqrt(n_v * n_v * (1 - a2) + a2);
    return 0.5 / std::max(of_light + of_view, 1e-12);
}

}  // namespace

ScaleAndBias split_sum(double n_v, double roughness) {
    const double alpha = std::max(roughness * roughness, 1e-4);
    const double sine = std::sqrt(std::max(0.0, 1 - n_v * n_v));
    ScaleAndBias sum;
    for (int i = 0; i < steps_of_tilt; ++i) {
        const double u = (i + 0.5) / steps_of_tilt;
        const double cosine = std::sqrt((1 - u) / (1 + (alpha * alpha - 1) * u));
        const double across = std::sqrt(std::max(0.0, 1 - cosine * cosine));
        for (int j = 0; j < steps_of_turn; ++j) {
            const double azimuth = pi * (j + 0.5) / steps_of_turn;
            const double v_h = sine * across * std::cos(azimuth) + n_v * cosine;
            const double n_l = 2 * v_h * cosine - n_v;
            if (n_l <= 0 || v_h <= 0)
                continue;
            // D (n.h) cancels out against the density of half vectors.
            const double weight = visibility(n_l, n_v, alpha) * 4 * n_l * v_h / cosine;
            const double fresnel = std::pow(1 - v_h, 5);
            sum.scale += (1 - fresnel) * weight;
            sum.bias += fresnel * weight;
        }
    }
    constexpr double count = steps_of_tilt * steps_of_turn;
    return {sum.scale / count, sum.bias / count};
}

Result<Texture> split_sum_table(std::uint32_t size, Format format) try {
    if (format != Format::rg16_float && format != Format::rg16_unorm)
        return fail(ErrorKind::usage, fmt::format("the table has two channels of 16 bits, not {}",
                                                  info(format).name));
    if (size < 2 || size > 1024)
        return fail(ErrorKind::usage,
                    fmt::format("a table of {} x {} texels; it has 2 to 1024 a side", size, size));
    YL_TRY(Texture table, Texture::create({.format = format, .width = size, .height = size}));
    table.metadata.key_values[split_sum_note] =
        "u = (n.v), v = roughness, at texel middles; red = scale of f0, green = bias; GGX with "
        "alpha = "
        "roughness^2, height-correlated Smith, Schlick's Fresnel";
    const ImageView image = table.image(0);
    parallel_each(size, [&](std::size_t y) {
        for (std::uint32_t x = 0; x < size; ++x) {
            const ScaleAndBias value =
                split_sum((x + 0.5) / size, (static_cast<double>(y) + 0.5) / size);
            std::byte* texel = image.row(static_cast<std::uint32_t>(y)).data() + std::size_t{x} * 4;
            const auto put = [&](std::byte* at, double number) {
                store(at, format == Format::rg16_float
                              ? float_to_half(static_cast<float>(number))
                              : static_cast<std::uint16_t>(
                                    std::lround(std::clamp(number, 0.0, 1.0) * 65535)));
            };
            put(texel, value.scale);
            put(texel + 2, value.bias);
        }
    });
    return table;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
