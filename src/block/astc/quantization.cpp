#include "block/astc/quantization.hpp"

#include <string_view>

namespace yl::astc {
namespace {

/// `bits` repeated from the top until `wanted` are full.
constexpr unsigned replicated(unsigned value, unsigned bits, unsigned wanted) {
    unsigned result = 0;
    for (int left = static_cast<int>(wanted); left > 0; left -= static_cast<int>(bits)) {
        const int shift = left - static_cast<int>(bits);
        result |= shift >= 0 ? value << shift : value >> -shift;
    }
    return result;
}

/// The standard's tables for numbers with trits or quints: where a number's own bits, whose second
/// lowest is called b, go to, from the highest; and by how much a trit or quint counts.
struct Spread {
    std::uint8_t base, bits;
    std::string_view places;
    unsigned step;
};
constexpr Spread color_spreads[] = {
    {3, 1, "000000000", 204}, {3, 2, "b000b0bb0", 93}, {3, 3, "cb000cbcb", 44},
    {3, 4, "dcb000dcb", 22},  {3, 5, "edcb000ed", 11}, {3, 6, "fedcb000f", 5},
    {5, 1, "000000000", 113}, {5, 2, "b0000bb00", 54}, {5, 3, "cb0000cbc", 26},
    {5, 4, "dcb0000dc", 13},  {5, 5, "edcb0000e", 6},
};
constexpr Spread weight_spreads[] = {
    {3, 1, "0000000", 50}, {3, 2, "b000b0b", 23}, {3, 3, "cb000cb", 11},
    {5, 1, "0000000", 28}, {5, 2, "b0000b0", 13},
};

constexpr unsigned spread_value(const Spread& spread, unsigned number) {
    const auto width = static_cast<unsigned>(spread.places.size());
    const unsigned low = number & ((1U << spread.bits) - 1), high = number >> spread.bits;
    unsigned b = 0;
    for (const char place : spread.places)
        b = b << 1 | (place == '0' ? 0 : low >> (place - 'a') & 1U);
    const unsigned a = (low & 1U) != 0 ? (1U << width) - 1 : 0;
    const unsigned sum = (high * spread.step + b) ^ a;
    return (a & 1U << (width - 2)) | sum >> 2;
}

template <std::size_t count>
constexpr const Spread& find(const Spread (&spreads)[count], const SequenceRange& range) {
    std::size_t at = 0;
    while (spreads[at].base != range.base || spreads[at].bits != range.bits)
        ++at;
    return spreads[at];
}

constexpr unsigned color_value(const SequenceRange& range, unsigned number) {
    return range.base == 1 ? replicated(number, range.bits, 8)
                           : spread_value(find(color_spreads, range), number);
}

constexpr unsigned weight_value(const SequenceRange& range, unsigned number) {
    constexpr unsigned of_trits[] = {0, 32, 63}, of_quints[] = {0, 16, 32, 47, 63};
    const unsigned value = range.bits == 0   ? (range.base == 3 ? of_trits : of_quints)[number]
                           : range.base == 1 ? replicated(number, range.bits, 6)
                                             : spread_value(find(weight_spreads, range), number);
    return value > 32 ? value + 1 : value;
}

/// The number of each value's nearest.
template <std::size_t values, class Row>
constexpr std::array<std::uint8_t, values> nearest_numbers(const Row& row, unsigned levels) {
    std::array<std::uint8_t, values> numbers{};
    for (std::size_t value = 0; value < values; ++value) {
        unsigned least = 1000, lowest = 0;
        for (unsigned number = 0; number < levels; ++number) {
            const unsigned other = row[number];
            const unsigned off = other > value ? other - static_cast<unsigned>(value)
                                               : static_cast<unsigned>(value) - other;
            if (off > least || (off == least && other > lowest))
                continue;
            least = off;
            lowest = other;
            numbers[value] = static_cast<std::uint8_t>(number);
        }
    }
    return numbers;
}

}  // namespace

constexpr std::array<std::array<std::uint8_t, 256>, 21> color_values = [] {
    std::array<std::array<std::uint8_t, 256>, 21> rows{};
    for (std::size_t r = least_color_range; r < rows.size(); ++r)
        for (unsigned number = 0; number < sequence_ranges[r].levels; ++number)
            rows[r][number] = static_cast<std::uint8_t>(color_value(sequence_ranges[r], number));
    return rows;
}();

constexpr std::array<std::array<std::uint8_t, 32>, weight_ranges> weight_values = [] {
    std::array<std::array<std::uint8_t, 32>, weight_ranges> rows{};
    for (std::size_t r = 0; r < rows.size(); ++r)
        for (unsigned number = 0; number < sequence_ranges[r].levels; ++number)
            rows[r][number] = static_cast<std::uint8_t>(weight_value(sequence_ranges[r], number));
    return rows;
}();

const std::array<std::array<std::uint8_t, 256>, 21>& color_numbers() {
    static const auto numbers = [] {
        std::array<std::array<std::uint8_t, 256>, 21> rows{};
        for (std::size_t r = least_color_range; r < rows.size(); ++r)
            rows[r] = nearest_numbers<256>(color_values[r], sequence_ranges[r].levels);
        return rows;
    }();
    return numbers;
}

constexpr std::array<std::array<std::uint8_t, 65>, weight_ranges> weight_numbers = [] {
    std::array<std::array<std::uint8_t, 65>, weight_ranges> rows{};
    for (std::size_t r = 0; r < rows.size(); ++r)
        rows[r] = nearest_numbers<65>(weight_values[r], sequence_ranges[r].levels);
    return rows;
}();

std::uint8_t weight_number_of_rank(unsigned range, unsigned rank) {
    static constexpr auto table = [] {
        std::array<std::array<std::uint8_t, 32>, weight_ranges> rows{};
        for (std::size_t r = 0; r < rows.size(); ++r)
            for (unsigned number = 0; number < sequence_ranges[r].levels; ++number) {
                unsigned below = 0;
                for (unsigned other = 0; other < sequence_ranges[r].levels; ++other)
                    below += weight_values[r][other] < weight_values[r][number] ? 1U : 0U;
                rows[r][below] = static_cast<std::uint8_t>(number);
            }
        return rows;
    }();
    return table[range][rank];
}

}  // namespace yl::astc
