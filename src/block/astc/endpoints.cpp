#include "block/astc/endpoints.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>
#include <utility>

namespace yl::astc {
namespace {

using Color = std::array<int, 4>;

constexpr int one = 255;
constexpr int hdr_one = 0x780;  // of 12 bits
constexpr int hdr_most = 0xFFF;

/// The top bit of an offset of 7 bits goes to its base; what is left are 6 bits with a sign.
void move_bit(int& offset, int& base) {
    base = base >> 1 | (offset & 0x80);
    offset = offset >> 1 & 0x3F;
    if ((offset & 0x20) != 0)
        offset -= 0x40;
}

/// Red and green halfway to blue.
Color contracted(const Color& color) {
    return {(color[0] + color[2]) >> 1, (color[1] + color[2]) >> 1, color[2], color[3]};
}

Color clamped(const Color& color) {
    Color result;
    for (std::size_t c = 0; c < 4; ++c)
        result[c] = std::clamp(color[c], 0, one);
    return result;
}

Endpoints luminance_offset(const std::array<int, 8>& v) {
    const int low = v[0] >> 2 | (v[1] & 0xC0);
    const int high = std::min(low + (v[1] & 0x3F), one);
    return {{low, low, low, one}, {high, high, high, one}};
}

Endpoints luminance_alpha_offset(std::array<int, 8> v) {
    move_bit(v[1], v[0]);
    move_bit(v[3], v[2]);
    return {clamped({v[0], v[0], v[0], v[2]}),
            clamped({v[0] + v[1], v[0] + v[1], v[0] + v[1], v[2] + v[3]})};
}

Endpoints scaled(const std::array<int, 8>& v, int low_alpha, int high_alpha) {
    return {{v[0] * v[3] >> 8, v[1] * v[3] >> 8, v[2] * v[3] >> 8, low_alpha},
            {v[0], v[1], v[2], high_alpha}};
}

/// Whether the second is the darker one says whether colours are contracted.
Endpoints direct(const std::array<int, 8>& v, int low_alpha, int high_alpha) {
    const Color first = {v[0], v[2], v[4], low_alpha}, second = {v[1], v[3], v[5], high_alpha};
    if (v[1] + v[3] + v[5] >= v[0] + v[2] + v[4])
        return {first, second};
    return {contracted(second), contracted(first)};
}

Endpoints offset(std::array<int, 8> v, bool has_alpha) {
    for (std::size_t c = 0; c < (has_alpha ? 4U : 3U); ++c)
        move_bit(v[2 * c + 1], v[2 * c]);
    const Color base = {v[0], v[2], v[4], has_alpha ? v[6] : one};
    const Color sum = {v[0] + v[1], v[2] + v[3], v[4] + v[5], has_alpha ? v[6] + v[7] : one};
    if (v[1] + v[3] + v[5] >= 0)
        return {clamped(base), clamped(sum)};
    return {clamped(contracted(sum)), clamped(contracted(base))};
}

Endpoints luminance_hdr(int low, int high) {
    return {{low, low, low, hdr_one}, {high, high, high, hdr_one}, true, true};
}

Endpoints luminance_hdr_wide(const std::array<int, 8>& v) {
    if (v[1] >= v[0])
        return luminance_hdr(v[0] << 4, v[1] << 4);
    return luminance_hdr((v[1] << 4) + 8, (v[0] << 4) - 8);
}

Endpoints luminance_hdr_narrow(const std::array<int, 8>& v) {
    const bool is_coarse = (v[0] & 0x80) != 0;
    const int low = is_coarse ? (v[1] & 0xE0) << 4 | (v[0] & 0x7F) << 2
                              : (v[1] & 0xF0) << 4 | (v[0] & 0x7F) << 1;
    const int step = is_coarse ? (v[1] & 0x1F) << 2 : (v[1] & 0x0F) << 1;
    return luminance_hdr(low, std::min(low + step, hdr_most));
}

/// Bit `from` of `value` goes to bit `to` in those submodes whose bit is set in `submodes`.
struct MovedBit {
    std::uint8_t value, from;  // of the values of a mode
    std::uint8_t submodes;
    std::uint8_t part, to;
};

template <std::size_t parts, std::size_t count>
void move_bits(const MovedBit (&moves)[count], const std::array<int, 8>& v, int submode,
               std::array<int, parts>& to) {
    for (const MovedBit& move : moves)
        if ((move.submodes >> submode & 1) != 0)
            to[move.part] |= (v[move.value] >> move.from & 1) << move.to;
}

int signed_bits(int value, int bits) {
    const int sign = 1 << (bits - 1);
    return ((value & (2 * sign - 1)) ^ sign) - sign;
}

void put_major_first(Color& color, int major) {
    if (major > 0)
        std::swap(color[0], color[static_cast<std::size_t>(major)]);
}

Color clamped_hdr(int red, int green, int blue, int major) {
    Color color = {std::clamp(red, 0, hdr_most), std::clamp(green, 0, hdr_most),
                   std::clamp(blue, 0, hdr_most), hdr_one};
    put_major_first(color, major);
    return color;
}

Endpoints rgb_hdr_scale(const std::array<int, 8>& v) {
    const int bits = (v[0] & 0xC0) >> 6 | (v[1] & 0x80) >> 5 | (v[2] & 0x80) >> 4;
    int major = 0, submode = 5;
    if ((bits & 0xC) != 0xC) {
        major = bits >> 2;
        submode = bits & 3;
    } else if (bits != 0xF) {
        major = bits & 3;
        submode = 4;
    }
    enum : std::uint8_t { red, green, blue, scale };
    static constexpr MovedBit moves[] = {
        {1, 6, 0x30, green, 6}, {1, 5, 0x3A, green, 5}, {2, 6, 0x30, blue, 6},
        {2, 5, 0x3A, blue, 5},  {3, 5, 0x3D, scale, 5}, {3, 6, 0x2D, scale, 6},
        {3, 7, 0x04, scale, 7}, {3, 7, 0x3B, red, 6},   {2, 5, 0x04, red, 6},
        {3, 6, 0x10, red, 7},   {2, 6, 0x0F, red, 7},   {1, 5, 0x05, red, 8},
        {1, 6, 0x0A, red, 8},   {1, 6, 0x05, red, 9},   {3, 5, 0x02, red, 9},
        {2, 5, 0x01, red, 10},  {3, 6, 0x02, red, 10},
    };
    std::array<int, 4> parts = {v[0] & 0x3F, v[1] & 0x1F, v[2] & 0x1F, v[3] & 0x1F};
    move_bits(moves, v, submode, parts);
    static constexpr std::array<int, 6> shifts = {1, 1, 2, 3, 4, 5};
    for (int& part : parts)
        part *= 1 << shifts[static_cast<std::size_t>(submode)];
    if (submode != 5) {
        parts[green] = parts[red] - parts[green];
        parts[blue] = parts[red] - parts[blue];
    }
    const auto at = [&](int less) {
        return clamped_hdr(parts[red] - less, parts[green] - less, parts[blue] - less, major);
    };
    return {at(parts[scale]), at(0), true, true};
}

// Of colours of high dynamic range: the high end's greatest channel a; how far the others, b0 and b1, are
// below it; how far the low end is, c; and what its others differ, d0 and d1.
enum HdrPart : std::uint8_t { a, b0, b1, c };
constexpr MovedBit hdr_moves[] = {
    {1, 6, 0xFF, a, 8},  {2, 6, 0xA4, a, 9},  {4, 6, 0x08, a, 9},  {4, 5, 0x50, a, 9},
    {5, 5, 0x50, a, 10}, {3, 6, 0xA0, a, 10}, {4, 6, 0xC0, a, 11}, {3, 6, 0x04, c, 6},
    {5, 6, 0xE8, c, 6},  {4, 6, 0x20, c, 7},  {2, 6, 0x5B, b0, 6}, {3, 6, 0x5B, b1, 6},
    {4, 6, 0x12, b0, 7}, {5, 6, 0x12, b1, 7},
};
constexpr std::array<int, 8> step_bits = {7, 6, 7, 6, 5, 6, 5, 6};
constexpr std::array<int, 8> part_bits[] = {  // of a, of b0 and b1, of c, by submode
    {9, 9, 10, 10, 11, 11, 12, 12},
    {7, 8, 6, 7, 8, 6, 7, 6},
    {6, 6, 7, 7, 6, 8, 7, 7}};

Endpoints rgb_hdr(const std::array<int, 8>& v) {
    const int major = (v[4] & 0x80) >> 7 | (v[5] & 0x80) >> 6;
    if (major == 3)
        return {{v[0] << 4, v[2] << 4, (v[4] & 0x7F) << 5, hdr_one},
                {v[1] << 4, v[3] << 4, (v[5] & 0x7F) << 5, hdr_one},
                true,
                true};
    const int submode = (v[1] & 0x80) >> 7 | (v[2] & 0x80) >> 6 | (v[3] & 0x80) >> 5;
    std::array<int, 4> parts = {v[0], v[2] & 0x3F, v[3] & 0x3F, v[1] & 0x3F};
    move_bits(hdr_moves, v, submode, parts);
    const int bits = step_bits[static_cast<std::size_t>(submode)];
    const int scale = 1 << (submode >> 1 ^ 3);
    const int d0 = signed_bits(v[4], bits) * scale, d1 = signed_bits(v[5], bits) * scale;
    for (int& part : parts)
        part *= scale;
    return {clamped_hdr(parts[a] - parts[c], parts[a] - parts[b0] - parts[c] - d0,
                        parts[a] - parts[b1] - parts[c] - d1, major),
            clamped_hdr(parts[a], parts[a] - parts[b0], parts[a] - parts[b1], major), true, true};
}

Endpoints rgb_hdr_with_alpha(const std::array<int, 8>& v) {
    Endpoints ends = rgb_hdr(v);
    ends.low[3] = v[6];
    ends.high[3] = v[7];
    ends.has_hdr_alpha = false;
    return ends;
}

/// Alphas of both ends, by the two values behind those of colours.
std::pair<int, int> hdr_alphas(int first, int second) {
    const int mode = (first >> 7 & 1) | (second >> 6 & 2);
    int base = first & 0x7F, step = second & 0x7F;
    if (mode == 3)
        return {base << 5, step << 5};
    base |= step << (mode + 1) & 0x780;
    step = ((step & 0x3F >> mode) ^ 0x20 >> mode) - (0x20 >> mode);
    base *= 1 << (4 - mode);
    step *= 1 << (4 - mode);
    return {base, std::clamp(base + step, 0, hdr_most)};
}

Endpoints rgba_hdr(const std::array<int, 8>& v) {
    Endpoints ends = rgb_hdr(v);
    std::tie(ends.low[3], ends.high[3]) = hdr_alphas(v[6], v[7]);
    return ends;
}

}  // namespace

Endpoints decode_endpoints(EndpointMode mode, const std::uint8_t* values) {
    std::array<int, 8> v{};
    std::copy_n(values, 2 * (static_cast<unsigned>(mode) / 4 + 1), v.begin());
    switch (mode) {
        case EndpointMode::luminance:
            return {{v[0], v[0], v[0], one}, {v[1], v[1], v[1], one}};
        case EndpointMode::luminance_offset:
            return luminance_offset(v);
        case EndpointMode::luminance_hdr_wide:
            return luminance_hdr_wide(v);
        case EndpointMode::luminance_hdr_narrow:
            return luminance_hdr_narrow(v);
        case EndpointMode::luminance_alpha:
            return {{v[0], v[0], v[0], v[2]}, {v[1], v[1], v[1], v[3]}};
        case EndpointMode::luminance_alpha_offset:
            return luminance_alpha_offset(v);
        case EndpointMode::rgb_scale:
            return scaled(v, one, one);
        case EndpointMode::rgb_hdr_scale:
            return rgb_hdr_scale(v);
        case EndpointMode::rgb:
            return direct(v, one, one);
        case EndpointMode::rgb_offset:
            return offset(v, false);
        case EndpointMode::rgb_scale_alpha:
            return scaled(v, v[4], v[5]);
        case EndpointMode::rgb_hdr:
            return rgb_hdr(v);
        case EndpointMode::rgba:
            return direct(v, v[6], v[7]);
        case EndpointMode::rgba_offset:
            return offset(v, true);
        case EndpointMode::rgb_hdr_alpha:
            return rgb_hdr_with_alpha(v);
        case EndpointMode::rgba_hdr:
            return rgba_hdr(v);
    }
    return {};
}

namespace {

int rounded_shift(float value, int shift) {
    return static_cast<int>(std::lround(value / static_cast<float>(1 << shift)));
}

/// Values that say the ends by submode 0 to 7, as far as these have room.
std::array<int, 8> values_by_submode(std::array<float, 3> low, std::array<float, 3> high, int major,
                                     int submode) {
    const auto at = static_cast<std::size_t>(submode);
    std::swap(low[0], low[static_cast<std::size_t>(major)]);
    std::swap(high[0], high[static_cast<std::size_t>(major)]);
    const int shift = submode >> 1 ^ 3;
    const auto fitting = [&](float value, std::size_t part) {
        return std::clamp(rounded_shift(value, shift), 0, (1 << part_bits[part][at]) - 1);
    };
    std::array<int, 4> parts{};
    parts[a] = fitting(high[0], 0);
    const auto top = static_cast<float>(parts[a] << shift);
    parts[b0] = fitting(top - high[1], 1);
    parts[b1] = fitting(top - high[2], 1);
    parts[c] = fitting(top - low[0], 2);
    const int most = (1 << (step_bits[at] - 1)) - 1;
    const auto step = [&](int below, float wanted) {
        const auto from = static_cast<float>((parts[a] - below - parts[c]) * (1 << shift));
        return std::clamp(rounded_shift(from - wanted, shift), -most - 1, most) &
               ((1 << step_bits[at]) - 1);
    };
    std::array<int, 8> v = {parts[a] & 0xFF,
                            (parts[c] & 0x3F) | (submode & 1) << 7,
                            (parts[b0] & 0x3F) | (submode >> 1 & 1) << 7,
                            (parts[b1] & 0x3F) | (submode >> 2 & 1) << 7,
                            step(parts[b0], low[1]) | (major & 1) << 7,
                            step(parts[b1], low[2]) | (major >> 1) << 7,
                            0,
                            0};
    for (const MovedBit& move : hdr_moves)
        if ((move.submodes >> submode & 1) != 0)
            v[move.value] |= (parts[move.part] >> move.to & 1) << move.from;
    return v;
}

/// Values that say both ends on their own, coarsely.
std::array<int, 8> direct_values(const std::array<float, 3>& low,
                                 const std::array<float, 3>& high) {
    const auto top = [](float value, int shift) {
        return std::clamp(rounded_shift(value, shift), 0, (1 << (12 - shift)) - 1);
    };
    return {top(low[0], 4),
            top(high[0], 4),
            top(low[1], 4),
            top(high[1], 4),
            top(low[2], 5) | 0x80,
            top(high[2], 5) | 0x80,
            0,
            0};
}

}  // namespace

HdrColors encode_rgb_hdr(const std::array<float, 3>& low, const std::array<float, 3>& high,
                         const float* nearest) {
    const auto major = static_cast<int>(std::ranges::max_element(high) - high.begin());
    HdrColors best;
    float least = std::numeric_limits<float>::infinity();
    for (int submode = 0; submode <= 8; ++submode) {
        std::array<int, 8> v =
            submode == 8 ? direct_values(low, high) : values_by_submode(low, high, major, submode);
        for (std::size_t i = 0; i < 6; ++i)
            v[i] = static_cast<int>(nearest[v[i]]);
        const Endpoints ends = rgb_hdr(v);
        float error = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const float below = static_cast<float>(ends.low[k]) - low[k];
            const float above = static_cast<float>(ends.high[k]) - high[k];
            error += below * below + above * above;
        }
        if (error >= least)
            continue;
        least = error;
        best.ends = ends;
        for (std::size_t i = 0; i < 6; ++i)
            best.values[i] = static_cast<std::uint8_t>(v[i]);
    }
    return best;
}

namespace {

/// By submode 0 to 2 a base of 8 to 10 bits and a step of 6 to 4; by submode 3 both ends in 7 bits.
std::array<int, 2> alpha_values(float low, float high, int submode) {
    if (submode == 3)
        return {std::clamp(rounded_shift(low, 5), 0, 127) | 0x80,
                std::clamp(rounded_shift(high, 5), 0, 127) | 0x80};
    const int shift = 4 - submode, half = 0x20 >> submode;
    const int base = std::clamp(rounded_shift(low, shift), 0, (1 << (8 + submode)) - 1);
    const int step = std::clamp(
        rounded_shift(high - static_cast<float>(base * (1 << shift)), shift), -half, half - 1);
    return {(base & 0x7F) | (submode & 1) << 7,
            (step & (2 * half - 1)) | (base >> 7) << (6 - submode) | (submode >> 1) << 7};
}

}  // namespace

HdrAlphas encode_alpha_hdr(float low, float high, const float* nearest) {
    HdrAlphas best;
    float least = std::numeric_limits<float>::infinity();
    for (int submode = 0; submode <= 3; ++submode) {
        std::array<int, 2> values = alpha_values(low, high, submode);
        for (int& value : values)
            value = static_cast<int>(nearest[value]);
        const auto [first, second] = hdr_alphas(values[0], values[1]);
        const float below = static_cast<float>(first) - low;
        const float above = static_cast<float>(second) - high;
        const float error = below * below + above * above;
        if (error >= least)
            continue;
        least = error;
        best = {{static_cast<std::uint8_t>(values[0]), static_cast<std::uint8_t>(values[1])},
                first,
                second};
    }
    return best;
}

}  // namespace yl::astc
