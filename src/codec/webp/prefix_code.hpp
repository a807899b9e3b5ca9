// Canonical prefix codes of lossless WebP (RFC 9649, section 3.7), looked up in tables of two steps.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "codec/webp/bits.hpp"

namespace yl::webp {

constexpr unsigned max_code_length = 15;

/// What bits stand for. In the first step's part of a table, more bits than that step has mean: go
/// on `value` entries behind the table's begin, with what is over.
struct PrefixEntry {
    std::uint16_t bits = 0;
    std::uint16_t value = 0;
};

struct PrefixCode {
    std::uint32_t first = 0;  ///< of its entries in the common table
    std::uint32_t step = 0;   ///< bits of the first step

    /// Takes up to `max_code_length` of the bits held.
    [[nodiscard]] std::uint32_t read(const PrefixEntry* table, BitReader& bits) const {
        const PrefixEntry* entry = table + first + bits.peek(step);
        if (entry->bits > step) {
            bits.drop(step);
            const unsigned left = entry->bits - step;
            entry = table + first + entry->value + bits.peek(left);
        }
        bits.drop(entry->bits);
        return entry->value;
    }
};

/// The code of each symbol by the lengths of all, its first bit lowest.
[[nodiscard]] std::vector<std::uint32_t> prefix_codes(std::span<const std::uint8_t> lengths);

/// Adds the table of a code to the others. One symbol alone takes no bits. Nothing if the lengths
/// are not those of a complete code.
[[nodiscard]] std::optional<PrefixCode> add_prefix_code(std::span<const std::uint8_t> lengths,
                                                        std::vector<PrefixEntry>& table);

}  // namespace yl::webp
