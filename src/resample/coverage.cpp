#include <yl/mip.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <vector>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "pixel/dither.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

constexpr std::uint32_t places = 4;  ///< looked at in a texel, across and down each

std::size_t tested_channel(Format format) {
    return info(format).has(Channel::alpha) ? 3 : 0;
}

/// What is tested of an image: one number a texel.
struct TestedPlane {
    std::uint32_t width = 0, height = 0;
    std::vector<float> values = {};

    explicit TestedPlane(ConstImageView image)
        : width(image.width), height(image.height), values(std::size_t{width} * height) {
        const RowCodec codec = number_codec(image.format);
        const std::size_t place = tested_channel(image.format);
        parallel_ranges(height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
            std::vector<float> rgba(std::size_t{width} * 4);
            for (std::size_t y = begin; y < end; ++y) {
                codec.load(image.row(static_cast<std::uint32_t>(y)).data(), rgba.data(), width);
                for (std::size_t x = 0; x < width; ++x)
                    values[y * width + x] = rgba[4 * x + place];
            }
        });
    }

    /// Calls `visit(row)` with the values at `places` times `width` places of each row of places,
    /// bilinear between the middles of texels; rows at the same time.
    template <class Visit>
    void for_each_row(const Visit& visit) const {
        parallel_ranges(height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
            std::vector<float> between(width), row(std::size_t{width} * places);
            for (std::size_t line = begin * places; line < end * places; ++line) {
                blend(line, height, [&](std::size_t a, std::size_t b, float share) {
                    for (std::size_t x = 0; x < width; ++x)
                        between[x] = values[a * width + x] +
                                     (values[b * width + x] - values[a * width + x]) * share;
                });
                for (std::size_t i = 0; i < row.size(); ++i)
                    blend(i, width, [&](std::size_t a, std::size_t b, float share) {
                        row[i] = between[a] + (between[b] - between[a]) * share;
                    });
                visit(row);
            }
        });
    }

 private:
    /// The two texels around a place, and how near it is to the second.
    template <class Use>
    static void blend(std::size_t place, std::size_t count, const Use& use) {
        const std::size_t texel = place / places;
        const float offset =
            (static_cast<float>(place % places) + 0.5F) / static_cast<float>(places) - 0.5F;
        const std::size_t other =
            offset < 0 ? (texel > 0 ? texel - 1 : 0) : std::min(texel + 1, count - 1);
        use(texel, other, std::abs(offset));
    }
};

double share_passing(const TestedPlane& plane, float threshold) {
    std::atomic<std::uint64_t> passing = 0;
    plane.for_each_row([&](const std::vector<float>& row) {
        passing += static_cast<std::uint64_t>(std::count_if(
            row.begin(), row.end(), [&](float value) { return value >= threshold - 1e-6F; }));
    });
    return static_cast<double>(passing) /
           (static_cast<double>(plane.values.size()) * places * places);
}

/// How a level's values are changed: scaled, and, where too many are alike for any scale to tell
/// them apart, spread by a fine pattern.
struct Change {
    float scale = 1;
    float spread = 0;

    [[nodiscard]] float of(float value, std::size_t x, std::uint32_t y) const {
        const float moved =
            spread == 0 ? 0.0F : spread * (static_cast<float>(dither_pattern(x, y)) - 0.5F);
        return std::clamp(value * scale + moved, 0.0F, 1.0F);
    }
};

/// A number as the format stores it.
float stored(float value, float max) {
    return max > 0 ? std::floor(value * max + 0.5F) / max : value;
}

float max_code(const FormatInfo& f) {
    const std::uint32_t bits = f.channels[f.channel_count == 4 ? 3 : 0].bits;
    return f.is_float() ? 0.0F : static_cast<float>((1U << std::min(bits, 16U)) - 1);
}

class Search {
 public:
    Search(const TestedPlane& plane, float threshold, double wanted, float max)
        : plane_(plane), changed_(plane), threshold_(threshold), wanted_(wanted), max_(max) {}

    Change run() {
        Change best;
        double off = std::abs(measure(best) - wanted_);
        const double texel = 1.0 / static_cast<double>(plane_.values.size());
        const float room = std::min(threshold_, 1 - threshold_);
        for (const float spread : {0.0F, 0.25F * room, 0.5F * room, room}) {
            if (off <= std::max(min_off, texel / 4))
                break;
            const Change found = with_spread(spread);
            const double now = std::abs(measure(found) - wanted_);
            if (now < off) {
                off = now;
                best = found;
            }
        }
        return best;
    }

 private:
    static constexpr double min_off = 0.002;
    static constexpr int halvings = 14;

    double measure(const Change& change) {
        for (std::uint32_t y = 0; y < plane_.height; ++y)
            for (std::size_t x = 0; x < plane_.width; ++x) {
                const std::size_t at = std::size_t{y} * plane_.width + x;
                changed_.values[at] = stored(change.of(plane_.values[at], x, y), max_);
            }
        return share_passing(changed_, threshold_);
    }

    /// More passes the larger the scale is.
    Change with_spread(float spread) {
        float low = 0, high = 1;
        while (high < 256 && measure({high, spread}) < wanted_) {
            low = high;
            high *= 2;
        }
        for (int i = 0; i < halvings; ++i) {
            const float middle = 0.5F * (low + high);
            const double share = measure({middle, spread});
            if (std::abs(share - wanted_) <= min_off / 2)
                return {middle, spread};
            (share < wanted_ ? low : high) = middle;
        }
        const bool low_is_nearer = std::abs(measure({low, spread}) - wanted_) <
                                   std::abs(measure({high, spread}) - wanted_);
        return {low_is_nearer ? low : high, spread};
    }

    const TestedPlane& plane_;
    TestedPlane changed_;
    float threshold_;
    double wanted_;
    float max_;
};

void apply(ImageView image, const Change& change, bool premultiplied) {
    const std::size_t place = tested_channel(image.format);
    const bool scales_colors = premultiplied && place == 3;
    const RowCodec codec =
        scales_colors ? row_codec(image.format, Transfer::linear) : number_codec(image.format);
    edit_rows(image, codec, [&](std::vector<float>& rgba, std::uint32_t y) {
        for (std::size_t x = 0; x < image.width; ++x) {
            float* pixel = &rgba[4 * x];
            const float before = pixel[place];
            pixel[place] = change.of(before, x, y);
            for (std::size_t c = 0; scales_colors && c < 3 && before > 0; ++c)
                pixel[c] *= pixel[place] / before;
        }
    });
}

}  // namespace

double coverage(ConstImageView image, float threshold) {
    if (number_codec(image.format).load == nullptr || image.width == 0 || image.height == 0)
        return 0;
    return share_passing(TestedPlane(image), threshold);
}

Status preserve_coverage(Texture& texture, float threshold) try {
    YL_CHECK(check_texture(texture, "texture"));
    const TextureShape& shape = texture.shape();
    if (!(threshold > 0 && threshold < 1))
        return fail(ErrorKind::usage,
                    fmt::format("an alpha test against {} has no coverage to keep; the threshold "
                                "lies between 0 and 1",
                                threshold));
    if (number_codec(shape.format).load == nullptr || shape.depth > 1)
        return fail(ErrorKind::unsupported,
                    fmt::format("the coverage of {} cannot be kept", info(shape.format).name));
    const bool premultiplied = texture.metadata.alpha == AlphaMode::premultiplied;
    const float max = max_code(info(shape.format));
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face) {
            const double wanted = coverage(texture.image(0, layer, face), threshold);
            for (std::uint32_t level = 1; level < shape.levels; ++level) {
                const ImageView image = texture.image(level, layer, face);
                const TestedPlane plane(image);
                const Change change = Search(plane, threshold, wanted, max).run();
                if (change.scale != 1 || change.spread != 0)
                    apply(image, change, premultiplied);
            }
        }
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
