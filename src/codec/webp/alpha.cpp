#include "codec/webp/alpha.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "codec/webp/lossless.hpp"

namespace yl::webp {
namespace {

enum class Filter : std::uint8_t { none, horizontal, vertical, gradient };

/// `above` is empty for the first row, which goes by what is to the left.
void undo_filter(Filter filter, std::span<std::uint8_t> row, std::span<const std::uint8_t> above) {
    if (filter == Filter::none)
        return;
    const auto add = [](std::uint8_t& to, int value) {
        to = static_cast<std::uint8_t>(to + value);
    };
    if (!above.empty())
        add(row[0], above[0]);
    for (std::size_t x = 1; x < row.size(); ++x) {
        if (above.empty() || filter == Filter::horizontal)
            add(row[x], row[x - 1]);
        else if (filter == Filter::gradient)
            add(row[x], std::clamp(row[x - 1] + above[x] - above[x - 1], 0, 255));
        else
            add(row[x], above[x]);
    }
}

}  // namespace

///   reserved (2)  what was done before (2)  filter (2)  packed (2), from the highest bit
Result<std::vector<std::uint8_t>> read_alpha(ByteSpan chunk, std::uint32_t width,
                                             std::uint32_t height) {
    if (chunk.empty())
        return fail(ErrorKind::malformed, "alpha without its header");
    const auto header = std::to_integer<unsigned>(chunk[0]);
    const ByteSpan content = chunk.subspan(1);
    const std::size_t count = std::size_t{width} * height;
    std::vector<std::uint8_t> alpha(count);
    if ((header & 3U) == 0) {
        if (content.size() < count)
            return fail(ErrorKind::malformed,
                        fmt::format("alpha ends early: {} bytes of {}", content.size(), count));
        std::transform(content.begin(), content.begin() + static_cast<std::ptrdiff_t>(count),
                       alpha.begin(), [](std::byte b) { return std::to_integer<std::uint8_t>(b); });
    } else if ((header & 3U) == 1) {
        YL_CHECK(read_lossless(
            content, width, height, {},
            [&](std::uint32_t y, std::span<const std::uint32_t> row) {
                std::transform(
                    row.begin(), row.end(),
                    alpha.begin() + static_cast<std::ptrdiff_t>(std::size_t{y} * width),
                    [](std::uint32_t pixel) { return static_cast<std::uint8_t>(pixel >> 8U); });
            },
            {}));
    } else {
        return fail(ErrorKind::unsupported, fmt::format("alpha packed in way {}", header & 3U));
    }
    const auto filter = static_cast<Filter>(header >> 2U & 3U);
    for (std::size_t y = 0; y < height; ++y) {
        const std::span row(alpha.data() + y * width, width);
        undo_filter(filter, row,
                    y == 0 ? std::span<std::uint8_t>() : std::span(row.data() - width, width));
    }
    return alpha;
}

}  // namespace yl::webp
