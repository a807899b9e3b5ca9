// Predicting the samples of a macroblock from those around it, and adding what differs (RFC 6386,
// sections 12 and 14).
//
//   P A A A A A A A A A A A A A A A A B B B B     P, A, B: the row above
//   L . . . . . . . . . . . . . . . . b b b b     L: the column to the left
//   L . . . . . . . . . . . . . . . .             b: copies of B, at rows 3, 7 and 11, for the
//   :                                                blocks at the right
#pragma once

#include <array>
#include <cstdint>
#include <span>

namespace yl::webp {

/// The samples of one component and those around them.
struct Surrounded {
    static constexpr int stride = 32, left = 8;
    std::array<std::uint8_t, 17 * stride> samples{};

    [[nodiscard]] std::uint8_t* at(int y, int x) {
        return samples.data() + (y + 1) * stride + left + x;
    }
};

enum class Prediction : std::uint8_t { dc, true_motion, vertical, horizontal };

/// Of blocks of 4 x 4. In the order of their contexts; the first four as `Prediction`.
enum class BlockPrediction : std::uint8_t {
    dc,
    true_motion,
    vertical,
    horizontal,
    left_down,
    right_down,
    vertical_right,
    vertical_left,
    horizontal_down,
    horizontal_up,
};

/// Fills a square of 16 or 8.
void predict(Surrounded& samples, int size, Prediction mode, bool has_above, bool has_left);

/// Fills the block at these coordinates.
void predict_block(Surrounded& samples, int y, int x, BlockPrediction mode);

using Coefficients = std::span<std::int16_t, 16>;

/// Adds what the coefficients transform to. `count`: those after it are 0.
void add_residue(Surrounded& samples, int y, int x, Coefficients coefficients, int count);

/// The same of all 16 coefficients, to 4 x 4 samples in rows of a `Surrounded`.
void add_transformed(const std::int16_t* coefficients, std::uint8_t* to);
void add_transformed_plain(const std::int16_t* coefficients, std::uint8_t* to);

/// Adds a number to these samples.
void add_constant(int value, std::uint8_t* to);
void add_constant_plain(int value, std::uint8_t* to);

/// Makes the first coefficients of 16 blocks of theirs, which lie 16 apart.
void spread_means(Coefficients means, std::int16_t* blocks);

}  // namespace yl::webp
