#include "pixel/dither.hpp"

#include <algorithm>
#include <cmath>

#include <yl/format.hpp>

namespace yl {
namespace {

/// 1 / p and 1 / p^2 of the plastic number p.
constexpr double step_x = 0.7548776662466927;
constexpr double step_y = 0.5698402909980532;

}  // namespace

double dither_pattern(std::size_t x, std::uint32_t y, std::size_t channel) {
    const double place =
        static_cast<double>(x) * step_x + y * step_y + static_cast<double>(channel) * 0.25;
    return place - std::floor(place);
}

void dither_row(float* rgba, std::size_t count, std::uint32_t y, Format format, Transfer transfer) {
    const FormatInfo& f = info(format);
    if (f.kind != NumericKind::unorm && f.kind != NumericKind::snorm)
        return;
    const bool is_signed = f.kind == NumericKind::snorm;
    for (std::size_t i = 0; i < f.channel_count; ++i) {
        const auto channel = static_cast<std::size_t>(f.channels[i].channel);
        const bool is_alpha = f.channels[i].channel == Channel::alpha;
        const bool encoded =
            !is_alpha && (f.transfer == Transfer::srgb || transfer == Transfer::srgb);
        const double max = (1U << (f.channels[i].bits - (is_signed ? 1U : 0U))) - 1U;
        for (std::size_t x = 0; x < count; ++x) {
            float& value = rgba[4 * x + channel];
            const double clamped = std::clamp(static_cast<double>(value == value ? value : 0.0F),
                                              is_signed ? -1.0 : 0.0, 1.0);
            const double code = (encoded ? srgb_encode(clamped) : clamped) * max;
            const double chosen = std::min(std::floor(code + dither_pattern(x, y, channel)), max);
            value = static_cast<float>(encoded ? srgb_decode(chosen / max) : chosen / max);
        }
    }
}

}  // namespace yl
