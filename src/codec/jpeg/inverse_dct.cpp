#include "codec/jpeg/inverse_dct.hpp"

#include <algorithm>
#include <type_traits>

namespace yl::jpeg {
namespace {

// The transform is that of Loeffler, Ligtenberg and Moschytz ("Practical fast 1-D DCT algorithms
// with 11 multiplications", 1989), in integers: constants have 13 bits behind the point.
constexpr int constant_bits = 13;

constexpr int fixed(double constant) {
    return static_cast<int>(constant * (1 << constant_bits) + 0.5);
}

/// 12-bit samples need more room than 32 bits have.
template <class Number>
using Grid = std::array<std::array<Number, block_side>, block_side>;

/// All columns at once; results are rounded to `shift` bits fewer.
template <class Number>
void transform_columns(const Grid<Number>& in, Grid<Number>& out, int shift) {
    const Number rounding = 1 << (shift - 1);
    for (std::size_t x = 0; x < block_side; ++x) {
        const Number even_turn = (in[2][x] + in[6][x]) * fixed(0.541196100);
        const Number even_a = even_turn - in[6][x] * fixed(1.847759065);
        const Number even_b = even_turn + in[2][x] * fixed(0.765366865);
        const Number sum = (in[0][x] + in[4][x]) * (1 << constant_bits) + rounding;
        const Number difference = (in[0][x] - in[4][x]) * (1 << constant_bits) + rounding;
        const Number even[4] = {sum + even_b, difference + even_a, difference - even_a,
                                sum - even_b};

        const Number a = in[7][x], b = in[5][x], c = in[3][x], d = in[1][x];
        const Number rotation = (a + c + b + d) * fixed(1.175875602);
        const Number ad = (a + d) * -fixed(0.899976223);
        const Number bc = (b + c) * -fixed(2.562915447);
        const Number ac = (a + c) * -fixed(1.961570560) + rotation;
        const Number bd = (b + d) * -fixed(0.390180644) + rotation;
        const Number odd[4] = {d * fixed(1.501321110) + ad + bd, c * fixed(3.072711026) + bc + ac,
                               b * fixed(2.053119869) + bc + bd, a * fixed(0.298631336) + ad + ac};
        for (std::size_t i = 0; i < 4; ++i) {
            out[i][x] = (even[i] + odd[i]) >> shift;
            out[7 - i][x] = (even[i] - odd[i]) >> shift;
        }
    }
}

template <class Number>
void transpose(const Grid<Number>& in, Grid<Number>& out) {
    for (std::size_t y = 0; y < block_side; ++y)
        for (std::size_t x = 0; x < block_side; ++x)
            out[x][y] = in[y][x];
}

}  // namespace

Scales scales_of(const std::array<std::uint16_t, block_size>& steps) {
    Scales scales{};
    for (std::size_t k = 0; k < block_size; ++k)
        scales.exact[zigzag[k]] = steps[k];
    for (std::size_t i = 0; i < block_size; ++i)
        scales.narrow[i] = static_cast<std::int16_t>(std::min(scales.exact[i], 32767));
    return scales;
}

template <class Sample>
void inverse_dct(const Block& block, const Scales& scales, int bits, Sample* samples,
                 std::size_t stride) {
    const int middle = 1 << (bits - 1);
    const int max = (1 << bits) - 1;
    const int spare_bits = bits == 8 ? 2 : 1;  // kept between the passes; more would overflow
    const auto to_sample = [&](auto value) {
        return static_cast<Sample>(std::clamp<decltype(value)>(value + middle, 0, max));
    };
    const bool is_flat =
        std::all_of(block.begin() + 1, block.end(), [](std::int16_t value) { return value == 0; });
    if (is_flat) {
        const Sample value = to_sample((block[0] * scales.exact[0] + 4) >> 3);
        for (std::size_t y = 0; y < block_side; ++y)
            std::fill_n(samples + y * stride, block_side, value);
        return;
    }
    // Damaged files hold coefficients that no samples have, and that would overflow.
    using Number = std::conditional_t<sizeof(Sample) == 1, std::int32_t, std::int64_t>;
    const Number max_coefficient = Number{1} << (bits + 3);
    constexpr Number max_between = 15000;
    Grid<Number> a, b;
    for (std::size_t i = 0; i < block_size; ++i)
        a[i / block_side][i % block_side] = std::clamp<Number>(Number{block[i]} * scales.exact[i],
                                                               -max_coefficient, max_coefficient);
    transform_columns(a, b, constant_bits - spare_bits);
    if (sizeof(Sample) == 1)
        for (auto& row : b)
            for (Number& value : row)
                value = std::clamp<Number>(value, -max_between, max_between);
    transpose(b, a);
    transform_columns(a, b, constant_bits + spare_bits + 3);
    transpose(b, a);
    for (std::size_t y = 0; y < block_side; ++y)
        for (std::size_t x = 0; x < block_side; ++x)
            samples[y * stride + x] = to_sample(a[y][x]);
}

template void inverse_dct(const Block&, const Scales&, int, std::uint8_t*, std::size_t);
template void inverse_dct(const Block&, const Scales&, int, std::uint16_t*, std::size_t);

}  // namespace yl::jpeg
