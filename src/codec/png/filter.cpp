#include "codec/png/filter.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <vector>

namespace yl::png {
namespace {

int value(std::byte byte) {
    return std::to_integer<int>(byte);
}

/// The neighbour that is nearest to left + above - above left; ties in that order.
int paeth(int left, int above, int above_left) {
    const int to_left = std::abs(above - above_left);
    const int to_above = std::abs(left - above_left);
    const int to_above_left = std::abs(left + above - 2 * above_left);
    if (to_left <= to_above && to_left <= to_above_left)
        return left;
    return to_above <= to_above_left ? above : above_left;
}

/// Calls `work` with the prediction that the filter is about: of the bytes to the left, above and
/// above left.
template <class Work>
void with_prediction(RowFilter filter, Work work) {
    switch (filter) {
        case RowFilter::none:
            return work([](int, int, int) { return 0; });
        case RowFilter::sub:
            return work([](int left, int, int) { return left; });
        case RowFilter::up:
            return work([](int, int up, int) { return up; });
        case RowFilter::average:
            return work([](int left, int up, int) { return (left + up) / 2; });
        case RowFilter::paeth:
            return work(paeth);
    }
}

}  // namespace

Result<RowFilter> row_filter(std::byte stored, std::uint64_t row, std::size_t offset) {
    if (std::to_integer<int>(stored) > static_cast<int>(RowFilter::paeth))
        return fail(ErrorKind::malformed,
                    fmt::format("row {} has filter type {}; PNG has 0 to 4", row,
                                std::to_integer<int>(stored)),
                    offset);
    return static_cast<RowFilter>(stored);
}

void undo_filter(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row,
                 std::size_t distance, std::size_t begin) {
    const std::size_t count = filtered.size();
    if (filter == RowFilter::none) {
        std::memmove(row + begin, filtered.data() + begin, count - begin);
        return;
    }
    with_prediction(filter, [&](auto predict) {
        for (std::size_t i = begin; i < count; ++i) {
            const int left = i >= distance ? value(row[i - distance]) : 0;
            const int above_left = i >= distance ? value(above[i - distance]) : 0;
            row[i] = static_cast<std::byte>(value(filtered[i]) +
                                            predict(left, value(above[i]), above_left));
        }
    });
}

void apply_filter(RowFilter filter, ByteSpan row, const std::byte* above, std::byte* filtered,
                  std::size_t distance, std::size_t begin, std::size_t end) {
    with_prediction(filter, [&](auto predict) {
        for (std::size_t i = begin; i < end; ++i) {
            const int left = i >= distance ? value(row[i - distance]) : 0;
            const int above_left = i >= distance ? value(above[i - distance]) : 0;
            filtered[i] =
                static_cast<std::byte>(value(row[i]) - predict(left, value(above[i]), above_left));
        }
    });
}

FilterCosts rate_filters(ByteSpan row, const std::byte* above, std::size_t distance,
                         std::size_t begin, std::size_t end) {
    FilterCosts costs{};
    std::vector<std::byte> filtered(end);
    for (std::size_t f = 0; f < costs.size(); ++f) {
        apply_filter(static_cast<RowFilter>(f), row, above, filtered.data(), distance, begin, end);
        for (std::size_t i = begin; i < end; ++i)
            costs[f] +=
                static_cast<std::uint64_t>(std::min(value(filtered[i]), 256 - value(filtered[i])));
    }
    return costs;
}

}  // namespace yl::png
