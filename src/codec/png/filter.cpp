#include "codec/png/filter.hpp"

#include <algorithm>
#include <cstdlib>
#include <cstring>

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

/// With the distance known when compiling, a pixel's earlier bytes stay in registers.
template <std::size_t distance, class Predict>
void undo(ByteSpan filtered, const std::byte* above, std::byte* row, Predict predict) {
    int left[distance] = {};
    int above_left[distance] = {};
    std::size_t i = 0;
    const auto step = [&](std::size_t c) {
        const int up = value(above[i]);
        left[c] = (value(filtered[i]) + predict(left[c], up, above_left[c])) & 0xFF;
        above_left[c] = up;
        row[i++] = static_cast<std::byte>(left[c]);
    };
    const std::size_t whole = filtered.size() / distance * distance;
    while (i < whole)
        for (std::size_t c = 0; c < distance; ++c)
            step(c);
    for (std::size_t c = 0; i < filtered.size(); ++c)
        step(c);
}

template <class Predict>
void undo_at(std::size_t distance, ByteSpan filtered, const std::byte* above, std::byte* row,
             Predict predict) {
    switch (distance) {
        case 1:
            return undo<1>(filtered, above, row, predict);
        case 2:
            return undo<2>(filtered, above, row, predict);
        case 3:
            return undo<3>(filtered, above, row, predict);
        case 4:
            return undo<4>(filtered, above, row, predict);
        case 6:
            return undo<6>(filtered, above, row, predict);
        default:
            return undo<8>(filtered, above, row, predict);
    }
}

}  // namespace

void undo_filter(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row,
                 std::size_t distance) {
    switch (filter) {
        case RowFilter::none:
            std::memmove(row, filtered.data(), filtered.size());
            return;
        case RowFilter::sub:
            return undo_at(distance, filtered, above, row, [](int left, int, int) { return left; });
        case RowFilter::up:
            for (std::size_t i = 0; i < filtered.size(); ++i)
                row[i] = static_cast<std::byte>(value(filtered[i]) + value(above[i]));
            return;
        case RowFilter::average:
            return undo_at(distance, filtered, above, row,
                           [](int left, int up, int) { return (left + up) / 2; });
        case RowFilter::paeth:
            return undo_at(distance, filtered, above, row, paeth);
    }
}

void apply_filter(RowFilter filter, ByteSpan row, const std::byte* above, std::byte* filtered,
                  std::size_t distance) {
    const auto subtract = [&](auto predict) {
        for (std::size_t i = 0; i < row.size(); ++i) {
            const int left = i >= distance ? value(row[i - distance]) : 0;
            const int above_left = i >= distance ? value(above[i - distance]) : 0;
            filtered[i] =
                static_cast<std::byte>(value(row[i]) - predict(left, value(above[i]), above_left));
        }
    };
    switch (filter) {
        case RowFilter::none:
            std::copy(row.begin(), row.end(), filtered);
            return;
        case RowFilter::sub:
            return subtract([](int left, int, int) { return left; });
        case RowFilter::up:
            return subtract([](int, int up, int) { return up; });
        case RowFilter::average:
            return subtract([](int left, int up, int) { return (left + up) / 2; });
        case RowFilter::paeth:
            return subtract(paeth);
    }
}

}  // namespace yl::png
