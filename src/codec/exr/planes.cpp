#include "codec/exr/planes.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <string_view>

#include <yl/format.hpp>

namespace yl::exr {
namespace {

/// Planes of all samples, and what they are at each pixel.
class Composer {
 public:
    Composer(const Planes& planes, const Header& h) : planes_(planes), h_(h) {}

    /// Lays the data window into the display window; where it does not reach, pixels are 0.
    void fill(ImageView view) const {
        const FormatInfo& f = info(view.format);
        const auto weights = luminance_weights();
        for (std::uint32_t row = 0; row < view.height; ++row) {
            std::byte* out = view.row(row).data();
            const std::int64_t y = std::int64_t{h_.display.y0} + row;
            for (std::uint32_t column = 0; column < view.width; ++column, out += f.block_bytes) {
                const std::int64_t x = std::int64_t{h_.display.x0} + column;
                const bool inside =
                    x >= h_.data.x0 && x <= h_.data.x1 && y >= h_.data.y0 && y <= h_.data.y1;
                const auto pixel = inside ? pixel_at(x, y, weights) : std::array<float, 4>{};
                for (std::size_t c = 0; c < f.channel_count; ++c) {
                    if (f.type_size == 2)
                        store(out + 2 * c, float_to_half(pixel[c]));
                    else
                        store(out + 4 * c, std::bit_cast<std::uint32_t>(pixel[c]));
                }
            }
        }
    }

 private:
    /// The value at a pixel of the data window; coarser channels are blended between their samples.
    float value_at(const Plane& plane, std::int64_t x, std::int64_t y) const {
        const Channel& c = h_.channels[plane.channel];
        const auto sample = [&](std::int64_t column, std::int64_t row) {
            return plane.samples[static_cast<std::size_t>(
                std::clamp<std::int64_t>(row, 0, plane.rows - 1) * plane.columns +
                std::clamp<std::int64_t>(column, 0, plane.columns - 1))];
        };
        const std::int64_t column = sample_count(c.step_x, h_.data.x0, x) - 1;
        const std::int64_t row = sample_count(c.step_y, h_.data.y0, y) - 1;
        if (c.step_x == 1 && c.step_y == 1)
            return sample(column, row);
        const auto share = [](std::int64_t place, std::int32_t step) {
            return static_cast<float>(((place % step) + step) % step) / static_cast<float>(step);
        };
        const float s = share(x, c.step_x), t = share(y, c.step_y);
        const float top = sample(column, row) * (1 - s) + sample(column + 1, row) * s;
        const float bottom = sample(column, row + 1) * (1 - s) + sample(column + 1, row + 1) * s;
        return top * (1 - t) + bottom * t;
    }

    /// The weights of red, green and blue in luminance: the middle row of the matrix from the
    /// primaries to XYZ.
    std::array<float, 3> luminance_weights() const {
        const auto& p = h_.chromaticities;
        const auto column = [&](std::size_t i) {
            const double x = p[2 * i], y = p[2 * i + 1];
            return std::array{x / y, 1.0, (1 - x - y) / y};
        };
        const auto r = column(0), g = column(1), b = column(2), w = column(3);
        const auto determinant = [](const auto& a, const auto& c, const auto& d) {
            return a[0] * (c[1] * d[2] - c[2] * d[1]) - c[0] * (a[1] * d[2] - a[2] * d[1]) +
                   d[0] * (a[1] * c[2] - a[2] * c[1]);
        };
        const double whole = determinant(r, g, b);
        return {static_cast<float>(determinant(w, g, b) / whole),
                static_cast<float>(determinant(r, w, b) / whole),
                static_cast<float>(determinant(r, g, w) / whole)};
    }

    std::array<float, 4> pixel_at(std::int64_t x, std::int64_t y,
                                  const std::array<float, 3>& weights) const {
        const auto value = [&](Target target) { return value_at(planes_.at(target), x, y); };
        const float alpha = has_alpha(planes_) ? value(Target::alpha) : 1.0F;
        if (is_gray(planes_)) {
            const float gray = value(Target::luminance);
            return {gray, alpha, 0, 0};
        }
        if (!has_chroma(planes_))
            return {value(Target::red), value(Target::green), value(Target::blue), alpha};
        const float luminance = value(Target::luminance);
        const float red = (value(Target::chroma_red) + 1) * luminance;
        const float blue = (value(Target::chroma_blue) + 1) * luminance;
        return {red, (luminance - red * weights[0] - blue * weights[2]) / weights[1], blue, alpha};
    }

    const Planes& planes_;
    const Header& h_;
};

}  // namespace

Planes choose_planes(const Header& h) {
    static const std::map<std::string_view, Target> names = {
        {"R", Target::red},         {"G", Target::green},     {"B", Target::blue},
        {"A", Target::alpha},       {"Y", Target::luminance}, {"RY", Target::chroma_red},
        {"BY", Target::chroma_blue}};
    const auto split = [](const std::string& name) {
        const std::size_t dot = name.rfind('.');
        return std::pair(name.substr(0, dot == std::string::npos ? 0 : dot + 1),
                         name.substr(dot == std::string::npos ? 0 : dot + 1));
    };
    std::map<std::string, Planes> layers;
    for (std::size_t i = 0; i < h.channels.size(); ++i) {
        const auto [layer, name] = split(h.channels[i].name);
        if (const auto known = names.find(name); known != names.end())
            layers[layer][known->second].channel = i;
    }
    for (auto& [layer, planes] : layers) {
        const bool whole_rgb = planes.contains(Target::red) && planes.contains(Target::green) &&
                               planes.contains(Target::blue);
        if (whole_rgb) {
            std::erase_if(planes, [](const auto& entry) { return entry.first > Target::alpha; });
            return planes;
        }
        if (!planes.contains(Target::luminance))
            continue;
        const bool whole_chroma =
            planes.contains(Target::chroma_red) && planes.contains(Target::chroma_blue);
        std::erase_if(planes, [&](const auto& entry) {
            return entry.first < Target::alpha ||
                   (!whole_chroma && entry.first > Target::luminance);
        });
        return planes;
    }
    Planes gray;
    gray[Target::luminance].channel = 0;
    return gray;
}

void fill(const Planes& planes, const Header& h, ImageView picture) {
    Composer(planes, h).fill(picture);
}

}  // namespace yl::exr
