#include "codec/webp/prefix_code.hpp"

#include <algorithm>
#include <array>

namespace yl::webp {
namespace {

constexpr unsigned max_step = 9;

std::uint32_t reversed(std::uint32_t code, unsigned length) {
    std::uint32_t result = 0;
    for (unsigned i = 0; i < length; ++i)
        result |= (code >> i & 1U) << (length - 1 - i);
    return result;
}

bool is_complete(const std::array<std::uint32_t, max_code_length + 1>& counts) {
    std::uint32_t used = 0;
    for (unsigned length = 1; length <= max_code_length; ++length)
        used += counts[length] << (max_code_length - length);
    return used == 1U << max_code_length;
}

}  // namespace

std::vector<std::uint32_t> prefix_codes(std::span<const std::uint8_t> lengths) {
    std::array<std::uint32_t, max_code_length + 1> counts{};
    for (const std::uint8_t length : lengths)
        ++counts[length];
    counts[0] = 0;
    std::array<std::uint32_t, max_code_length + 2> next{};
    for (unsigned length = 1; length <= max_code_length; ++length)
        next[length + 1] = (next[length] + counts[length]) << 1U;
    std::vector<std::uint32_t> codes(lengths.size());
    for (std::size_t symbol = 0; symbol < lengths.size(); ++symbol)
        if (const unsigned length = lengths[symbol]; length > 0)
            codes[symbol] = reversed(next[length]++, length);
    return codes;
}

namespace {

/// Adds the tables of the second step: each as large as the longest code that begins so.
void add_second_tables(std::span<const std::uint8_t> lengths, std::span<const std::uint32_t> codes,
                       const PrefixCode& code, std::vector<PrefixEntry>& table) {
    const std::uint32_t first_size = 1U << code.step;
    for (std::size_t symbol = 0; symbol < lengths.size(); ++symbol)
        if (lengths[symbol] > code.step) {
            PrefixEntry& entry = table[code.first + (codes[symbol] & (first_size - 1))];
            entry.bits = std::max<std::uint16_t>(entry.bits, lengths[symbol]);
        }
    for (std::uint32_t start = 0; start < first_size; ++start)
        if (const unsigned bits = table[code.first + start].bits; bits > code.step) {
            table[code.first + start].value = static_cast<std::uint16_t>(table.size() - code.first);
            table.resize(table.size() + (std::size_t{1} << (bits - code.step)));
        }
}

}  // namespace

std::optional<PrefixCode> add_prefix_code(std::span<const std::uint8_t> lengths,
                                          std::vector<PrefixEntry>& table) {
    std::array<std::uint32_t, max_code_length + 1> counts{};
    unsigned longest = 0;
    std::size_t last = 0;
    for (std::size_t symbol = 0; symbol < lengths.size(); ++symbol) {
        const unsigned length = lengths[symbol];
        if (length == 0)
            continue;
        ++counts[length];
        longest = std::max(longest, length);
        last = symbol;
    }
    PrefixCode code{static_cast<std::uint32_t>(table.size()), 0};
    const std::uint32_t used = [&] {
        std::uint32_t sum = 0;
        for (const std::uint32_t count : counts)
            sum += count;
        return sum;
    }();
    if (used == 1) {
        table.push_back({0, static_cast<std::uint16_t>(last)});
        return code;
    }
    if (!is_complete(counts))
        return std::nullopt;
    code.step = std::min(longest, max_step);
    const std::uint32_t first_size = 1U << code.step;
    table.resize(table.size() + first_size);
    const auto codes = prefix_codes(lengths);
    add_second_tables(lengths, codes, code, table);
    for (std::size_t symbol = 0; symbol < lengths.size(); ++symbol) {
        const unsigned length = lengths[symbol];
        if (length == 0)
            continue;
        std::size_t begin = code.first;
        std::uint32_t index = codes[symbol], size = first_size;
        unsigned taken = length;
        if (length > code.step) {
            const PrefixEntry& entry = table[code.first + (index & (first_size - 1))];
            begin += entry.value;
            index >>= code.step;
            size = 1U << (entry.bits - code.step);
            taken = length - code.step;
        }
        for (; index < size; index += 1U << taken)
            table[begin + index] = {static_cast<std::uint16_t>(taken),
                                    static_cast<std::uint16_t>(symbol)};
    }
    return code;
}

}  // namespace yl::webp
