#include "report/page/histogram.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "pixel/stored_rows.hpp"

namespace yl::report {
namespace {

constexpr std::size_t bins = 256;

/// The values that the bins cover.
struct Scale {
    std::string_view unit = "codes";
    float from = 0, to = 1;
};

Scale scale_of(const FormatInfo& format) {
    if (format.is_float())
        return {"stops", -16, 16};
    return format.kind == NumericKind::snorm ? Scale{"codes", -1, 1} : Scale{};
}

struct Counts {
    std::array<std::uint64_t, bins> in_bins = {};
    std::uint64_t without = 0;  ///< of stops: 0 and below
};

void count(float value, const Scale& scale, Counts& counts) {
    float position = value;
    if (scale.unit == "stops") {
        if (!(value > 0)) {
            ++counts.without;
            return;
        }
        position = std::log2(value);
    }
    // A code lies at the beginning of its bin, where rounding must not move it to the one before.
    constexpr float slack = 0.001F;
    const float share = (position - scale.from) / (scale.to - scale.from);
    const float bin = std::clamp(std::floor(share * bins + slack), 0.0F, float{bins - 1});
    ++counts.in_bins[static_cast<std::size_t>(bin)];
}

}  // namespace

Json histogram_of(const Texture& plain, bool has_alpha) {
    const TextureShape& shape = plain.shape();
    const FormatInfo& format = info(shape.format);
    Scale scale = scale_of(format);
    // The 256 codes of eight bits have a bin each.
    if (scale.unit == "codes")
        scale.to += (scale.to - scale.from) / (bins - 1);
    std::array<Counts, 4> counts{};
    const std::size_t channels = has_alpha ? 4 : 3;
    const RowCodec codec = number_codec(shape.format);
    std::vector<float> rgba(std::size_t{shape.width} * 4);
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face) {
            const ConstImageView view = plain.image(0, layer, face);
            for (std::uint32_t y = 0; y < view.height; ++y) {
                codec.load(view.row(y).data(), rgba.data(), view.width);
                apply_swizzle(plain.metadata.swizzle, rgba.data(), view.width);
                for (std::size_t i = 0; i < rgba.size(); ++i)
                    if (i % 4 < channels)
                        count(rgba[i], scale, counts[i % 4]);
            }
        }
    Json json = {
        {"unit", scale.unit}, {"from", scale.from}, {"to", scale.to}, {"channels", Json::array()}};
    constexpr std::array names = {"red", "green", "blue", "alpha"};
    for (std::size_t c = 0; c < channels; ++c)
        json["channels"].push_back(
            {{"name", names[c]}, {"without", counts[c].without}, {"counts", counts[c].in_bins}});
    return json;
}

}  // namespace yl::report
