#include "codec/jpeg/forward_dct.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yl::jpeg {
namespace {

/// cos((2 x + 1) u pi / 16) / 2, less for u = 0: by frequency u and place x of the first half; the
/// second half is the same, for odd frequencies with the other sign.
using Basis = std::array<std::array<float, block_side / 2>, block_side>;

Basis make_basis() {
    Basis basis{};
    for (std::size_t u = 0; u < block_side; ++u)
        for (std::size_t x = 0; x < block_side / 2; ++x) {
            const double angle =
                static_cast<double>((2 * x + 1) * u) * std::numbers::pi / (2 * block_side);
            basis[u][x] = static_cast<float>(std::cos(angle) * (u == 0 ? std::sqrt(0.125) : 0.5));
        }
    return basis;
}

/// Transforms eight numbers that lie `step` apart.
void transform(const float* in, float* out, std::size_t step) {
    static const Basis basis = make_basis();
    std::array<float, 4> sums, differences;
    for (std::size_t x = 0; x < 4; ++x) {
        sums[x] = in[x * step] + in[(7 - x) * step];
        differences[x] = in[x * step] - in[(7 - x) * step];
    }
    for (std::size_t u = 0; u < block_side; ++u) {
        const auto& half = u % 2 == 0 ? sums : differences;
        out[u * step] = (basis[u][0] * half[0] + basis[u][1] * half[1]) +
                        (basis[u][2] * half[2] + basis[u][3] * half[3]);
    }
}

}  // namespace

CodedBlock coded_block(std::span<const float, block_size> samples, const Steps& steps) {
    std::array<float, block_size> rows, both;
    for (std::size_t y = 0; y < block_side; ++y)
        transform(samples.data() + y * block_side, rows.data() + y * block_side, 1);
    for (std::size_t x = 0; x < block_side; ++x)
        transform(rows.data() + x, both.data() + x, block_side);
    CodedBlock block;
    for (std::size_t k = 0; k < block_size; ++k)
        block[k] =
            static_cast<std::int16_t>(std::lround(both[zigzag[k]] / static_cast<float>(steps[k])));
    return block;
}

}  // namespace yl::jpeg
