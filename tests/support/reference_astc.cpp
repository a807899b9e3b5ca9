#include "support/reference_astc.hpp"

#include <algorithm>
#include <bitset>
#include <cmath>
#include <string>

#include "support/reference_astc_ends.hpp"

namespace support {
namespace {

using astc::bit_of;
using astc::Ends;
using astc::ends_of;
using astc::Values;

using Texels = std::vector<std::array<std::uint16_t, 4>>;

struct Reserved {};  // thrown where the standard reserves a block

struct Bits {
    std::bitset<128> bits;

    [[nodiscard]] int field(int high, int low) const {
        int value = 0;
        for (int i = high; i >= low; --i)
            value = 2 * value + (i < 128 && bits[static_cast<std::size_t>(i)] ? 1 : 0);
        return value;
    }
    [[nodiscard]] Bits turned() const {
        Bits result;
        for (std::size_t i = 0; i < 128; ++i)
            result.bits[i] = bits[127 - i];
        return result;
    }
};

// Levels, bits, trits, quints of ranges, from least to greatest.
struct Range {
    int levels, bits, trits, quints;
};
constexpr Range ranges[] = {
    {2, 1, 0, 0},   {3, 0, 1, 0},   {4, 2, 0, 0},  {5, 0, 0, 1},  {6, 1, 1, 0},  {8, 3, 0, 0},
    {10, 1, 0, 1},  {12, 2, 1, 0},  {16, 4, 0, 0}, {20, 2, 0, 1}, {24, 3, 1, 0}, {32, 5, 0, 0},
    {40, 3, 0, 1},  {48, 4, 1, 0},  {64, 6, 0, 0}, {80, 4, 0, 1}, {96, 5, 1, 0}, {128, 7, 0, 0},
    {160, 5, 0, 1}, {192, 6, 1, 0}, {256, 8, 0, 0}};

int length_of(const Range& range, int count) {
    return count * range.bits + (range.trits != 0 ? (8 * count + 4) / 5 : 0) +
           (range.quints != 0 ? (7 * count + 2) / 3 : 0);
}

std::array<int, 5> trits_of(int t) {
    int c = 0;
    std::array<int, 5> r{};
    if (bit_of(t, 4) && bit_of(t, 3) && bit_of(t, 2)) {
        c = (t >> 5 & 7) * 4 + (t & 3);
        r[4] = r[3] = 2;
    } else {
        c = t & 31;
        if (bit_of(t, 6) && bit_of(t, 5)) {
            r[4] = 2;
            r[3] = bit_of(t, 7);
        } else {
            r[4] = bit_of(t, 7);
            r[3] = t >> 5 & 3;
        }
    }
    if ((c & 3) == 3) {
        r[2] = 2;
        r[1] = bit_of(c, 4);
        r[0] = 2 * bit_of(c, 3) + (bit_of(c, 2) && !bit_of(c, 3) ? 1 : 0);
    } else if ((c >> 2 & 3) == 3) {
        r[2] = r[1] = 2;
        r[0] = c & 3;
    } else {
        r[2] = bit_of(c, 4);
        r[1] = c >> 2 & 3;
        r[0] = 2 * bit_of(c, 1) + (bit_of(c, 0) && !bit_of(c, 1) ? 1 : 0);
    }
    return r;
}

std::array<int, 3> quints_of(int q) {
    std::array<int, 3> r{};
    if ((q >> 1 & 3) == 3 && (q >> 5 & 3) == 0) {
        r[2] = 4 * bit_of(q, 0) + (bit_of(q, 0) ? 0 : 2 * bit_of(q, 4) + bit_of(q, 3));
        r[1] = r[0] = 4;
        return r;
    }
    int c = 0;
    if ((q >> 1 & 3) == 3) {
        r[2] = 4;
        c = 8 * (q >> 3 & 3) + 4 * !bit_of(q, 6) + 2 * !bit_of(q, 5) + bit_of(q, 0);
    } else {
        r[2] = q >> 5 & 3;
        c = q & 31;
    }
    if ((c & 7) == 5) {
        r[1] = 4;
        r[0] = c >> 3 & 3;
    } else {
        r[1] = c >> 3 & 3;
        r[0] = c & 7;
    }
    return r;
}

/// The sequence, as pairs of a number's own bits and its trit or quint.
std::vector<std::pair<int, int>> sequence(const Bits& block, int begin, const Range& range,
                                          int count) {
    const int end = begin + length_of(range, count);
    int at = begin;
    const auto next = [&](int bits) {  // zeros behind the end
        int value = 0;
        for (int i = 0; i < bits; ++i, ++at)
            value |= (at < end ? block.field(at, at) : 0) << i;
        return value;
    };
    std::vector<std::pair<int, int>> numbers;
    while (static_cast<int>(numbers.size()) < count) {
        const auto own = [&] { return next(range.bits); };
        if (range.trits != 0) {
            std::array<int, 5> m{};
            int t = 0, place = 0;
            constexpr int pieces[] = {2, 2, 1, 2, 1};
            for (std::size_t i = 0; i < 5; ++i) {
                m[i] = own();
                t |= next(pieces[i]) << place;
                place += pieces[i];
            }
            for (std::size_t i = 0; i < 5; ++i)
                numbers.emplace_back(m[i], trits_of(t)[i]);
        } else if (range.quints != 0) {
            std::array<int, 3> m{};
            int q = 0, place = 0;
            constexpr int pieces[] = {3, 2, 2};
            for (std::size_t i = 0; i < 3; ++i) {
                m[i] = own();
                q |= next(pieces[i]) << place;
                place += pieces[i];
            }
            for (std::size_t i = 0; i < 3; ++i)
                numbers.emplace_back(m[i], quints_of(q)[i]);
        } else {
            numbers.emplace_back(own(), 0);
        }
    }
    numbers.resize(static_cast<std::size_t>(count));
    return numbers;
}

int repeated(int value, int bits, int wanted) {
    int result = 0, have = 0;
    while (have < wanted) {
        result = result << bits | value;
        have += bits;
    }
    return result >> (have - wanted);
}

/// The bits of B in the standard's tables by name: a is the lowest bit.
int named_bits(const std::string& names, int value) {
    int result = 0;
    for (const char name : names)
        result = 2 * result + (name == '0' ? 0 : bit_of(value, name - 'a'));
    return result;
}

int color_of(const Range& range, int m, int d) {
    if (range.trits == 0 && range.quints == 0)
        return repeated(m, range.bits, 8);
    const std::string trit_b[] = {"",          "000000000", "b000b0bb0", "cb000cbcb",
                                  "dcb000dcb", "edcb000ed", "fedcb000f"};
    const std::string quint_b[] = {"",          "000000000", "b0000bb00",
                                   "cb0000cbc", "dcb0000dc", "edcb0000e"};
    constexpr int trit_c[] = {0, 204, 93, 44, 22, 11, 5}, quint_c[] = {0, 113, 54, 26, 13, 6};
    const bool is_trit = range.trits != 0;
    const int a = (m & 1) != 0 ? 0x1FF : 0;
    const int b = named_bits((is_trit ? trit_b : quint_b)[range.bits], m);
    const int c = (is_trit ? trit_c : quint_c)[range.bits];
    const int t = (d * c + b) ^ a;
    return (a & 0x80) | t >> 2;
}

int weight_of(const Range& range, int m, int d) {
    int value = 0;
    if (range.levels == 3)
        value = d == 0 ? 0 : d == 1 ? 32 : 63;
    else if (range.levels == 5)
        value = std::array<int, 5>{0, 16, 32, 47, 63}[static_cast<std::size_t>(d)];
    else if (range.trits == 0 && range.quints == 0)
        value = repeated(m, range.bits, 6);
    else {
        const std::string trit_b[] = {"", "0000000", "b000b0b", "cb000cb"};
        const std::string quint_b[] = {"", "0000000", "b0000b0"};
        constexpr int trit_c[] = {0, 50, 23, 11}, quint_c[] = {0, 28, 13};
        const bool is_trit = range.trits != 0;
        const int a = (m & 1) != 0 ? 0x7F : 0;
        const int b = named_bits((is_trit ? trit_b : quint_b)[range.bits], m);
        const int t = (d * (is_trit ? trit_c : quint_c)[range.bits] + b) ^ a;
        value = (a & 0x20) | t >> 2;
    }
    return value > 32 ? value + 1 : value;
}

struct Grid {
    int width = 0, height = 0, planes = 1;
    Range range{};
};

Grid grid_of(const Bits& block) {
    const int a = block.field(6, 5), b = block.field(8, 7);
    int d = block.field(10, 10), h = block.field(9, 9), r = 0;
    Grid grid;
    if (block.field(1, 0) != 0) {
        r = block.field(1, 0) * 2 + block.field(4, 4);
        const int kind = block.field(3, 2);
        if (kind == 0)
            grid.width = b + 4, grid.height = a + 2;
        if (kind == 1)
            grid.width = b + 8, grid.height = a + 2;
        if (kind == 2)
            grid.width = a + 2, grid.height = b + 8;
        if (kind == 3 && block.field(8, 8) == 0)
            grid.width = a + 2, grid.height = block.field(7, 7) + 6;
        if (kind == 3 && block.field(8, 8) == 1)
            grid.width = block.field(7, 7) + 2, grid.height = a + 2;
    } else {
        r = block.field(3, 2) * 2 + block.field(4, 4);
        if (b == 0)
            grid.width = 12, grid.height = a + 2;
        if (b == 1)
            grid.width = a + 2, grid.height = 12;
        if (b == 2) {
            grid.width = a + 6, grid.height = block.field(10, 9) + 6;
            d = h = 0;
        }
        if (b == 3 && a == 0)
            grid.width = 6, grid.height = 10;
        if (b == 3 && a == 1)
            grid.width = 10, grid.height = 6;
        if (b == 3 && a > 1)
            throw Reserved();
    }
    if (r < 2)
        throw Reserved();
    grid.range = ranges[r - 2 + 6 * h];
    grid.planes = 1 + d;
    return grid;
}

std::uint32_t hash52(std::uint32_t p) {
    p ^= p >> 15;
    p *= 0xEEDE0891U;
    p ^= p >> 5;
    p += p << 16;
    p ^= p >> 7;
    p ^= p >> 3;
    p ^= p << 6;
    p ^= p >> 17;
    return p;
}

int partition_of(int index, int x, int y, int count, bool is_small) {
    if (is_small)
        x *= 2, y *= 2;
    const int seed = index + (count - 1) * 1024;
    const std::uint32_t number = hash52(static_cast<std::uint32_t>(seed));
    const auto squared = [&](int at) {
        const int value = static_cast<int>(number >> at & 15U);
        return value * value;
    };
    const int even = (seed & 2) != 0 ? 4 : 5, odd = count == 3 ? 6 : 5;
    const int sh1 = (seed & 1) != 0 ? even : odd, sh2 = (seed & 1) != 0 ? odd : even;
    const auto start = [&](int at) { return static_cast<int>(number >> at & 63U); };
    int a = (squared(0) >> sh1) * x + (squared(4) >> sh2) * y + start(14);
    int b = (squared(8) >> sh1) * x + (squared(12) >> sh2) * y + start(10);
    int c = (squared(16) >> sh1) * x + (squared(20) >> sh2) * y + start(6);
    int d = (squared(24) >> sh1) * x + (squared(28) >> sh2) * y + start(2);
    a &= 63, b &= 63, c &= 63, d &= 63;
    if (count < 4)
        d = 0;
    if (count < 3)
        c = 0;
    if (a >= b && a >= c && a >= d)
        return 0;
    if (b >= c && b >= d)
        return 1;
    return c >= d ? 2 : 3;
}

std::uint16_t half_of(double value) {  // rounded towards 0; from 0 to 65,504
    if (value < 0x1p-14)
        return static_cast<std::uint16_t>(value * 0x1p24);
    const int exponent = std::ilogb(value);
    const auto mantissa = static_cast<int>(std::ldexp(value, 10 - exponent)) - 1024;
    return static_cast<std::uint16_t>((exponent + 15) * 1024 + mantissa);
}

std::uint16_t half_of_unorm(int value) {
    return value == 65535 ? half_of(1) : half_of(value / 65536.0);
}

std::uint16_t half_of_lns(int value) {
    const int e = value / 2048, m = value % 2048;
    const int bent = m < 512 ? 3 * m : m < 1536 ? 4 * m - 512 : 5 * m - 2048;
    return static_cast<std::uint16_t>(std::min(e * 1024 + bent / 8, 0x7BFF));
}

std::uint16_t texel_of(int e0, int e1, int weight, bool is_hdr, AstcProfile profile) {
    if (profile != AstcProfile::hdr) {
        const bool is_srgb = profile == AstcProfile::ldr_srgb;
        const int c0 = e0 * 256 + (is_srgb ? 0x80 : e0), c1 = e1 * 256 + (is_srgb ? 0x80 : e1);
        return static_cast<std::uint16_t>((c0 * (64 - weight) + c1 * weight + 32) / 64 / 256);
    }
    const int c0 = is_hdr ? e0 * 16 : e0 * 257, c1 = is_hdr ? e1 * 16 : e1 * 257;
    const int c = (c0 * (64 - weight) + c1 * weight + 32) / 64;
    return is_hdr ? half_of_lns(c) : half_of_unorm(c);
}

Texels void_extent(const Bits& block, int texels, AstcProfile profile) {
    const bool is_hdr = block.field(9, 9) == 1;
    const int s0 = block.field(24, 12), s1 = block.field(37, 25), t0 = block.field(50, 38),
              t1 = block.field(63, 51);
    const bool everywhere = s0 == 8191 && s1 == 8191 && t0 == 8191 && t1 == 8191;
    if (block.field(11, 10) != 3 || (!everywhere && (s0 >= s1 || t0 >= t1)) ||
        (is_hdr && profile != AstcProfile::hdr))
        throw Reserved();
    std::array<std::uint16_t, 4> texel{};
    for (int c = 0; c < 4; ++c) {
        const int value = block.field(79 + 16 * c, 64 + 16 * c);
        texel[static_cast<std::size_t>(c)] = profile != AstcProfile::hdr
                                                 ? static_cast<std::uint16_t>(value / 256)
                                             : is_hdr ? static_cast<std::uint16_t>(value)
                                                      : half_of_unorm(value);
    }
    return Texels(static_cast<std::size_t>(texels), texel);
}

/// What a block says before its colours and weights.
struct Layout {
    Grid grid;
    int count = 0;  // of weights
    int partitions = 1;
    std::array<int, 4> modes{};
    int plane_channel = -1;
    int begin = 0, below = 0;  // the bits of the colours
    int colors = 0;            // values
};

/// The modes of the partitions; `below` moves down where their bits stand below the weights.
std::array<int, 4> modes_of(const Bits& block, int partitions, int& below) {
    std::array<int, 4> modes{};
    if (partitions == 1) {
        modes[0] = block.field(16, 13);
    } else if (block.field(24, 23) == 0) {
        modes.fill(block.field(28, 25));
    } else {
        const int more = 3 * partitions - 4;
        below -= more;
        const int bits = block.field(28, 25) | block.field(below + more - 1, below) << 4;
        for (int i = 0; i < partitions; ++i)
            modes[static_cast<std::size_t>(i)] = 4 * (block.field(24, 23) - 1 + bit_of(bits, i)) +
                                                 (bits >> (partitions + 2 * i) & 3);
    }
    return modes;
}

Layout layout_of(const Bits& block, int width, int height) {
    Layout layout;
    const Grid& grid = layout.grid = grid_of(block);
    layout.count = grid.width * grid.height * grid.planes;
    const int weight_bits = length_of(grid.range, layout.count);
    layout.partitions = block.field(12, 11) + 1;
    if (grid.width > width || grid.height > height || layout.count > 64 || weight_bits < 24 ||
        weight_bits > 96 || (layout.partitions == 4 && grid.planes == 2))
        throw Reserved();
    layout.below = 128 - weight_bits;
    layout.modes = modes_of(block, layout.partitions, layout.below);
    if (grid.planes == 2) {
        layout.below -= 2;
        layout.plane_channel = block.field(layout.below + 1, layout.below);
    }
    for (int i = 0; i < layout.partitions; ++i)
        layout.colors += 2 * (layout.modes[static_cast<std::size_t>(i)] / 4 + 1);
    layout.begin = layout.partitions == 1 ? 17 : 29;
    if (layout.colors > 18 || layout.below - layout.begin < (13 * layout.colors + 4) / 5)
        throw Reserved();
    return layout;
}

std::array<Ends, 4> all_ends(const Bits& block, const Layout& layout, AstcProfile profile) {
    int range = 20;
    while (length_of(ranges[range], layout.colors) > layout.below - layout.begin)
        --range;
    const auto numbers = sequence(block, layout.begin, ranges[range], layout.colors);
    std::array<Ends, 4> ends;
    std::size_t next = 0;
    for (int i = 0; i < layout.partitions; ++i) {
        const int mode = layout.modes[static_cast<std::size_t>(i)];
        Values values;
        for (int k = 0; k < 2 * (mode / 4 + 1); ++k, ++next)
            values.push_back(color_of(ranges[range], numbers[next].first, numbers[next].second));
        values.resize(8);
        ends[static_cast<std::size_t>(i)] = ends_of(mode, values);
        if (Ends& e = ends[static_cast<std::size_t>(i)]; e.rgb_hdr && profile != AstcProfile::hdr)
            e.e0 = e.e1 = {255, 0, 255, 255};
    }
    return ends;
}

/// Weights of the texel at s, t in each plane, out of the grid's.
std::array<int, 2> weights_at(const Grid& grid, const Values& weights, int width, int height, int s,
                              int t) {
    const auto at_grid = [&](int x, int y, int plane) {
        const int place = (y * grid.width + x) * grid.planes + plane;
        return x < grid.width && y < grid.height ? weights[static_cast<std::size_t>(place)] : 0;
    };
    const int ds = (1024 + width / 2) / (width - 1), dt = (1024 + height / 2) / (height - 1);
    const int gs = (ds * s * (grid.width - 1) + 32) >> 6;
    const int gt = (dt * t * (grid.height - 1) + 32) >> 6;
    const int js = gs >> 4, fs = gs & 15, jt = gt >> 4, ft = gt & 15;
    const int w11 = (fs * ft + 8) >> 4, w10 = ft - w11, w01 = fs - w11, w00 = 16 - fs - ft + w11;
    std::array<int, 2> result{};
    for (int plane = 0; plane < grid.planes; ++plane)
        result[static_cast<std::size_t>(plane)] =
            (at_grid(js, jt, plane) * w00 + at_grid(js + 1, jt, plane) * w01 +
             at_grid(js, jt + 1, plane) * w10 + at_grid(js + 1, jt + 1, plane) * w11 + 8) >>
            4;
    return result;
}

Texels decode(const Bits& block, int width, int height, AstcProfile profile) {
    if (block.field(8, 0) == 0x1FC)
        return void_extent(block, width * height, profile);
    const Layout layout = layout_of(block, width, height);
    const auto ends = all_ends(block, layout, profile);
    Values weights;
    for (const auto& [m, d] : sequence(block.turned(), 0, layout.grid.range, layout.count))
        weights.push_back(weight_of(layout.grid.range, m, d));
    Texels texels;
    for (int t = 0; t < height; ++t)
        for (int s = 0; s < width; ++s) {
            const auto of_planes = weights_at(layout.grid, weights, width, height, s, t);
            const int p = layout.partitions == 1
                              ? 0
                              : partition_of(block.field(22, 13), s, t, layout.partitions,
                                             width * height < 31);
            const Ends& e = ends[static_cast<std::size_t>(p)];
            std::array<std::uint16_t, 4> texel{};
            for (std::size_t c = 0; c < 4; ++c)
                texel[c] = texel_of(e.e0[c], e.e1[c],
                                    of_planes[static_cast<int>(c) == layout.plane_channel ? 1 : 0],
                                    c == 3 ? e.alpha_hdr : e.rgb_hdr, profile);
            texels.push_back(texel);
        }
    return texels;
}

}  // namespace

Texels reference_astc(const std::byte* block, int width, int height, AstcProfile profile) {
    Bits bits;
    for (std::size_t i = 0; i < 128; ++i)
        bits.bits[i] = (std::to_integer<unsigned>(block[i / 8]) >> i % 8 & 1U) != 0;
    try {
        return decode(bits, width, height, profile);
    } catch (const Reserved&) {
        const std::uint16_t one = profile == AstcProfile::hdr ? 0x3C00 : 255;
        return Texels(static_cast<std::size_t>(width * height), {one, 0, one, one});
    }
}

}  // namespace support
