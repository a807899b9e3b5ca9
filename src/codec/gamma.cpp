#include "codec/gamma.hpp"

#include <cmath>
#include <vector>

#include <yl/format.hpp>
#include "base/bytes.hpp"
#include "base/parallel.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 64;

template <class Code>
void apply(ImageView image, double gamma) {
    constexpr std::size_t codes = std::size_t{1} << (8 * sizeof(Code));
    constexpr auto last = static_cast<double>(codes - 1);
    std::vector<Code> converted(codes);
    for (std::size_t code = 0; code < codes; ++code) {
        const double light = std::pow(static_cast<double>(code) / last, 1 / gamma);
        converted[code] = static_cast<Code>(std::lround(srgb_encode(light) * last));
    }
    const std::size_t channels = info(image.format).channel_count;
    const std::size_t colors = channels < 3 ? 1 : 3;
    parallel_ranges(image.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        for (std::size_t y = begin; y < end; ++y) {
            const auto row = image.row(static_cast<std::uint32_t>(y));
            for (std::size_t x = 0; x < image.width; ++x)
                for (std::size_t c = 0; c < colors; ++c) {
                    std::byte* value = row.data() + (x * channels + c) * sizeof(Code);
                    store(value, converted[load<Code>(value)]);
                }
        }
    });
}

}  // namespace

void apply_gamma(ImageView image, double gamma) {
    if (info(image.format).channels[0].bits == 16)
        apply<std::uint16_t>(image, gamma);
    else
        apply<std::uint8_t>(image, gamma);
}

}  // namespace yl
