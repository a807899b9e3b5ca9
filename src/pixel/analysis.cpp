#include <yl/analysis.hpp>

#include <atomic>
#include <vector>

#include "base/parallel.hpp"
#include "pixel/rows.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 64;

void look_at_row(const std::vector<float>& rgba, ChannelUse& use) {
    for (std::size_t i = 0; i < rgba.size(); i += 4) {
        use.is_gray = use.is_gray && rgba[i] == rgba[i + 1] && rgba[i] == rgba[i + 2];
        use.is_opaque = use.is_opaque && rgba[i + 3] >= 1.0F;
        use.alpha_is_binary = use.alpha_is_binary && (rgba[i + 3] >= 1.0F || rgba[i + 3] <= 0.0F);
    }
}

}  // namespace

ChannelUse analyse_channels(ConstImageView image, const Swizzle& swizzle) {
    const RowCodec codec = row_codec(image.format, Transfer::linear);
    if (codec.load == nullptr)
        return {};
    std::atomic<bool> gray = true;
    std::atomic<bool> opaque = true;
    std::atomic<bool> binary = true;
    parallel_ranges(image.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        ChannelUse use{gray, opaque, binary};
        std::vector<float> rgba(std::size_t{image.width} * 4);
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            codec.load(image.row(y).data(), rgba.data(), image.width);
            apply_swizzle(swizzle, rgba.data(), image.width);
            look_at_row(rgba, use);
        }
        if (!use.is_gray)
            gray = false;
        if (!use.is_opaque)
            opaque = false;
        if (!use.alpha_is_binary)
            binary = false;
    });
    return {gray, opaque, binary};
}

}  // namespace yl
