#include <yl/tone.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

/// A cubic between two points by their slopes.
class Curve {
 public:
    explicit Curve(std::span<const std::array<float, 2>> points)
        : points_(points.begin(), points.end()), slopes_(points.size()) {
        const std::size_t last = points.size() - 1;
        std::vector<float> secants;
        for (std::size_t i = 0; i < last; ++i)
            secants.push_back((points[i + 1][1] - points[i][1]) /
                              (points[i + 1][0] - points[i][0]));
        slopes_[0] = secants[0];
        slopes_[last] = secants[last - 1];
        for (std::size_t i = 1; i < last; ++i)
            slopes_[i] = secants[i - 1] * secants[i] <= 0 ? 0 : (secants[i - 1] + secants[i]) / 2;
        for (std::size_t i = 0; i < last; ++i)
            limit(i, secants[i]);
    }

    [[nodiscard]] float at(float x) const {
        if (!(x > points_.front()[0]))
            return points_.front()[1];
        if (x >= points_.back()[0])
            return points_.back()[1];
        std::size_t i = 0;
        while (x >= points_[i + 1][0])
            ++i;
        const float width = points_[i + 1][0] - points_[i][0];
        const float t = (x - points_[i][0]) / width, s = 1 - t;
        return s * s * (1 + 2 * t) * points_[i][1] + t * t * (3 - 2 * t) * points_[i + 1][1] +
               width * t * s * (s * slopes_[i] - t * slopes_[i + 1]);
    }

 private:
    /// Slopes beyond three times the secant would overshoot.
    void limit(std::size_t i, float secant) {
        if (secant == 0) {
            slopes_[i] = slopes_[i + 1] = 0;
            return;
        }
        const float a = slopes_[i] / secant, b = slopes_[i + 1] / secant;
        const float size = std::sqrt(a * a + b * b);
        if (size <= 3)
            return;
        slopes_[i] = 3 / size * a * secant;
        slopes_[i + 1] = 3 / size * b * secant;
    }

    std::vector<std::array<float, 2>> points_;
    std::vector<float> slopes_;
};

}  // namespace

Result<Tone> levels(float black, float white, float gamma) {
    if (!std::isfinite(black) || !std::isfinite(white) || black == white)
        return fail(ErrorKind::usage,
                    fmt::format("black at {} and white at {} leave nothing between", black, white));
    if (!(gamma > 0) || !std::isfinite(gamma))
        return fail(ErrorKind::usage, fmt::format("a gamma of {} is not above 0", gamma));
    return [=](float value) {
        const float stretched = std::max((value - black) / (white - black), 0.0F);
        return gamma == 1 ? stretched : std::pow(stretched, 1 / gamma);
    };
}

Result<Tone> tone_curve(std::span<const std::array<float, 2>> points) try {
    if (points.size() < 2)
        return fail(ErrorKind::usage, "a curve needs two points or more");
    for (const auto& point : points)
        if (!std::isfinite(point[0]) || !std::isfinite(point[1]))
            return fail(ErrorKind::usage, "a point of the curve is not a number");
    for (std::size_t i = 1; i < points.size(); ++i)
        if (!(points[i][0] > points[i - 1][0]))
            return fail(ErrorKind::usage, fmt::format("the curve's points do not grow: {} after {}",
                                                      points[i][0], points[i - 1][0]));
    return [curve = Curve(points)](float value) { return curve.at(value); };
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status apply_tone(ImageView image, const Tone& tone) try {
    YL_CHECK(check_view(image, "image"));
    const FormatInfo& f = info(image.format);
    if (!plain_channels(image.format))
        return fail(ErrorKind::usage, fmt::format("{} has no plain channels to change", f.name));
    edit_rows(image, number_codec(image.format), [&](std::vector<float>& rgba, std::uint32_t) {
        for (std::size_t i = 0; i < rgba.size(); ++i)
            if (i % 4 != 3 && i % 4 < f.channel_count)
                rgba[i] = tone(rgba[i]);
    });
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
