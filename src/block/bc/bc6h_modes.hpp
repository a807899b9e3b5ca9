// The fourteen modes of BC6H (Khronos Data Format Specification 1.3, section 20.2).
//
// A mode's fields are spelt from its lowest bit on, as runs of bits: "g2:4" is bit 4 of green of
// endpoint 2, "r0:9-0" are bits 0 to 9 of red of endpoint 0 (its lowest bit first), "r0:10-15" are
// bits 15 to 10 (its highest bit first). Endpoints 0 and 1 make the first subset, 2 and 3 the
// second; "d" is the partition. Indices follow.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

namespace yl::bc {

struct Bc6hMode {
    std::uint8_t number;  ///< the mode's bits
    std::uint8_t number_bits;
    std::uint8_t subsets;
    bool is_delta;  ///< endpoints 1 to 3 are stored as differences from endpoint 0
    std::uint8_t base_bits;
    std::array<std::uint8_t, 3> delta_bits;  ///< of red, green and blue
    std::string_view fields;
};

inline constexpr std::array<Bc6hMode, 14> bc6h_modes = {{
    {0b00,
     2,
     2,
     true,
     10,
     {5, 5, 5},
     "g2:4 b2:4 b3:4 r0:9-0 g0:9-0 b0:9-0 r1:4-0 g3:4 g2:3-0 g1:4-0 b3:0 g3:3-0 b1:4-0 b3:1 b2:3-0 "
     "r2:4-0 b3:2 r3:4-0 b3:3 d"},
    {0b01,
     2,
     2,
     true,
     7,
     {6, 6, 6},
     "g2:5 g3:4 g3:5 r0:6-0 b3:0 b3:1 b2:4 g0:6-0 b2:5 b3:2 g2:4 b0:6-0 b3:3 b3:5 b3:4 r1:5-0 "
     "g2:3-0 g1:5-0 g3:3-0 b1:5-0 b2:3-0 r2:5-0 r3:5-0 d"},
    {0b00010,
     5,
     2,
     true,
     11,
     {5, 4, 4},
     "r0:9-0 g0:9-0 b0:9-0 r1:4-0 r0:10 g2:3-0 g1:3-0 g0:10 b3:0 g3:3-0 b1:3-0 b0:10 b3:1 b2:3-0 "
     "r2:4-0 b3:2 r3:4-0 b3:3 d"},
    {0b00110,
     5,
     2,
     true,
     11,
     {4, 5, 4},
     "r0:9-0 g0:9-0 b0:9-0 r1:3-0 r0:10 g3:4 g2:3-0 g1:4-0 g0:10 g3:3-0 b1:3-0 b0:10 b3:1 b2:3-0 "
     "r2:3-0 b3:0 b3:2 r3:3-0 g2:4 b3:3 d"},
    {0b01010,
     5,
     2,
     true,
     11,
     {4, 4, 5},
     "r0:9-0 g0:9-0 b0:9-0 r1:3-0 r0:10 b2:4 g2:3-0 g1:3-0 g0:10 b3:0 g3:3-0 b1:4-0 b0:10 b2:3-0 "
     "r2:3-0 b3:1 b3:2 r3:3-0 b3:4 b3:3 d"},
    {0b01110,
     5,
     2,
     true,
     9,
     {5, 5, 5},
     "r0:8-0 b2:4 g0:8-0 g2:4 b0:8-0 b3:4 r1:4-0 g3:4 g2:3-0 g1:4-0 b3:0 g3:3-0 b1:4-0 b3:1 b2:3-0 "
     "r2:4-0 b3:2 r3:4-0 b3:3 d"},
    {0b10010,
     5,
     2,
     true,
     8,
     {6, 5, 5},
     "r0:7-0 g3:4 b2:4 g0:7-0 b3:2 g2:4 b0:7-0 b3:3 b3:4 r1:5-0 g2:3-0 g1:4-0 b3:0 g3:3-0 b1:4-0 "
     "b3:1 b2:3-0 r2:5-0 r3:5-0 d"},
    {0b10110,
     5,
     2,
     true,
     8,
     {5, 6, 5},
     "r0:7-0 b3:0 b2:4 g0:7-0 g2:5 g2:4 b0:7-0 g3:5 b3:4 r1:4-0 g3:4 g2:3-0 g1:5-0 g3:3-0 b1:4-0 "
     "b3:1 b2:3-0 r2:4-0 b3:2 r3:4-0 b3:3 d"},
    {0b11010,
     5,
     2,
     true,
     8,
     {5, 5, 6},
     "r0:7-0 b3:1 b2:4 g0:7-0 b2:5 g2:4 b0:7-0 b3:5 b3:4 r1:4-0 g3:4 g2:3-0 g1:4-0 b3:0 g3:3-0 "
     "b1:5-0 b2:3-0 r2:4-0 b3:2 r3:4-0 b3:3 d"},
    {0b11110,
     5,
     2,
     false,
     6,
     {6, 6, 6},
     "r0:5-0 g3:4 b3:0 b3:1 b2:4 g0:5-0 g2:5 b2:5 b3:2 g2:4 b0:5-0 g3:5 b3:3 b3:5 b3:4 r1:5-0 "
     "g2:3-0 g1:5-0 g3:3-0 b1:5-0 b2:3-0 r2:5-0 r3:5-0 d"},
    {0b00011, 5, 1, false, 10, {10, 10, 10}, "r0:9-0 g0:9-0 b0:9-0 r1:9-0 g1:9-0 b1:9-0"},
    {0b00111,
     5,
     1,
     true,
     11,
     {9, 9, 9},
     "r0:9-0 g0:9-0 b0:9-0 r1:8-0 r0:10 g1:8-0 g0:10 b1:8-0 b0:10"},
    {0b01011,
     5,
     1,
     true,
     12,
     {8, 8, 8},
     "r0:9-0 g0:9-0 b0:9-0 r1:7-0 r0:10-11 g1:7-0 g0:10-11 b1:7-0 b0:10-11"},
    {0b01111,
     5,
     1,
     true,
     16,
     {4, 4, 4},
     "r0:9-0 g0:9-0 b0:9-0 r1:3-0 r0:10-15 g1:3-0 g0:10-15 b1:3-0 b0:10-15"},
}};

/// Endpoint fields of a block, and its partition: red, green and blue of endpoints 0 to 3.
struct Bc6hFields {
    std::array<std::array<std::uint32_t, 3>, 4> endpoints{};
    std::uint32_t partition = 0;
};

/// A run of bits of one field, as the block holds them.
struct Bc6hRun {
    std::uint8_t endpoint;  ///< 4: the partition
    std::uint8_t channel;
    std::uint8_t lowest;
    std::uint8_t count;
    bool is_reversed;
};

struct Bc6hLayout {
    std::array<Bc6hRun, 32> runs{};
    std::size_t count = 0;
};

[[nodiscard]] constexpr Bc6hLayout parse_bc6h_fields(std::string_view fields) {
    Bc6hLayout layout;
    const auto number = [&](std::size_t& at) {
        std::uint8_t value = 0;
        while (at < fields.size() && fields[at] >= '0' && fields[at] <= '9')
            value = static_cast<std::uint8_t>(value * 10 + (fields[at++] - '0'));
        return value;
    };
    for (std::size_t at = 0; at < fields.size(); ++at) {
        Bc6hRun& run = layout.runs[layout.count++];
        if (fields[at] == 'd') {
            run = {4, 0, 0, 5, false};
            break;
        }
        run.channel = fields[at] == 'r' ? 0 : (fields[at] == 'g' ? 1 : 2);
        run.endpoint = static_cast<std::uint8_t>(fields[at + 1] - '0');
        at += 3;
        const std::uint8_t first = number(at);
        std::uint8_t second = first;
        if (at < fields.size() && fields[at] == '-')
            second = number(++at);
        run.lowest = first < second ? first : second;
        run.count =
            static_cast<std::uint8_t>((first < second ? second - first : first - second) + 1);
        run.is_reversed = first < second;
    }
    return layout;
}

inline constexpr std::array<Bc6hLayout, 14> bc6h_layouts = [] {
    std::array<Bc6hLayout, 14> layouts{};
    for (std::size_t mode = 0; mode < layouts.size(); ++mode)
        layouts[mode] = parse_bc6h_fields(bc6h_modes[mode].fields);
    return layouts;
}();

[[nodiscard]] constexpr std::uint32_t reversed_bits(std::uint32_t bits, unsigned count) {
    std::uint32_t reversed = 0;
    for (unsigned i = 0; i < count; ++i)
        reversed |= (bits >> i & 1U) << (count - 1 - i);
    return reversed;
}

}  // namespace yl::bc
