// Searches of every block of EAC, and of every one of ETC2 with two halves.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <vector>

#include "block/etc/color_block.hpp"
#include "block/etc/eac_values.hpp"

namespace bench {

/// The least squared error of a channel of 11 bits, in codes of 8.
inline double best_eac_error(const std::array<double, 16>& values) {
    constexpr auto kind = yl::etc::EacKind::unorm11;
    std::array<float, 16> wanted{};
    for (std::size_t i = 0; i < 16; ++i)
        wanted[i] = static_cast<float>(values[i] * 2047 / 255);
    float best = 1e30F;
    for (std::uint32_t base = 0; base < 256; ++base)
        for (std::uint32_t multiplier = 0; multiplier < 16; ++multiplier)
            for (const auto& row : yl::etc::modifiers) {
                std::array<float, 8> shown{};
                for (std::size_t k = 0; k < 8; ++k)
                    shown[k] = static_cast<float>(
                        std::clamp(yl::etc::eac_center(kind, base) +
                                       row[k] * yl::etc::eac_step(kind, multiplier),
                                   yl::etc::eac_min(kind), yl::etc::eac_max(kind)));
                float sum = 0;
                for (std::size_t i = 0; i < 16 && sum < best; ++i) {
                    float least = 1e30F;
                    for (const float value : shown)
                        least = std::min(least, (value - wanted[i]) * (value - wanted[i]));
                    sum += least;
                }
                best = std::min(best, sum);
            }
    return static_cast<double>(best) * (255.0 / 2047) * (255.0 / 2047);
}

using Texels8 = std::array<yl::etc::Color, 8>;

/// The least error of each colour of `levels` values a channel for the eight texels of one half.
class HalfErrors {
 public:
    HalfErrors(const Texels8& texels, int levels) : levels_(levels), errors_(count()) {
        std::vector<Squares> squares(3 * static_cast<std::size_t>(levels));
        for (std::size_t c = 0; c < 3; ++c)
            for (int value = 0; value < levels; ++value)
                squares[c * static_cast<std::size_t>(levels) + static_cast<std::size_t>(value)] =
                    squares_of(texels, c, widened(value));
        const auto of = [&](std::size_t c, int value) -> const Squares& {
            return squares[c * static_cast<std::size_t>(levels) + static_cast<std::size_t>(value)];
        };
        Squares two;
        for (int r = 0; r < levels; ++r)
            for (int g = 0; g < levels; ++g) {
                for (std::size_t i = 0; i < two.size(); ++i)
                    two[i] = of(0, r)[i] + of(1, g)[i];
                for (int b = 0; b < levels; ++b)
                    at(r, g, b) = least_of(two, of(2, b));
            }
    }

    [[nodiscard]] int& at(int r, int g, int b) {
        return errors_[static_cast<std::size_t>((r * levels_ + g) * levels_ + b)];
    }
    [[nodiscard]] int least() const { return *std::min_element(errors_.begin(), errors_.end()); }

    /// Each error replaced by the least of those whose colours are -4 to 3 steps away.
    void spread_steps() {
        for (int axis = 0; axis < 3; ++axis) {
            std::vector<int> spread(count());
            for (int r = 0; r < levels_; ++r)
                for (int g = 0; g < levels_; ++g)
                    for (int b = 0; b < levels_; ++b) {
                        int least = 1 << 30;
                        for (int step = -4; step <= 3; ++step) {
                            std::array<int, 3> color = {r, g, b};
                            int& moved = color[static_cast<std::size_t>(axis)];
                            moved += step;
                            if (moved >= 0 && moved < levels_)
                                least = std::min(least, at(color[0], color[1], color[2]));
                        }
                        spread[static_cast<std::size_t>((r * levels_ + g) * levels_ + b)] = least;
                    }
            errors_ = std::move(spread);
        }
    }

 private:
    [[nodiscard]] std::size_t count() const {
        return static_cast<std::size_t>(levels_ * levels_ * levels_);
    }
    [[nodiscard]] int widened(int value) const {
        return levels_ == 16 ? value * 17 : value << 3 | value >> 2;
    }

    /// Of eight texels, four shifts each, in eight rows of shifts.
    using Squares = std::array<int, 8 * 4 * 8>;

    static Squares squares_of(const Texels8& texels, std::size_t c, int value) {
        Squares squares{};
        for (std::size_t t = 0; t < 8; ++t)
            for (std::size_t row = 0; row < 8; ++row) {
                const int small = yl::etc::intensities[row][0],
                          large = yl::etc::intensities[row][1];
                const std::array<int, 4> shifts = {-large, -small, small, large};
                for (std::size_t k = 0; k < 4; ++k) {
                    const int off = std::clamp(value + shifts[k], 0, 255) - texels[t][c];
                    squares[(t * 4 + k) * 8 + row] = off * off;
                }
            }
        return squares;
    }

    static int least_of(const Squares& two, const Squares& third) {
        std::array<int, 8> sums{};
        for (std::size_t t = 0; t < 8; ++t)
            for (std::size_t row = 0; row < 8; ++row) {
                int least = 1 << 30;
                for (std::size_t k = 0; k < 4; ++k)
                    least =
                        std::min(least, two[(t * 4 + k) * 8 + row] + third[(t * 4 + k) * 8 + row]);
                sums[row] += least;
            }
        return *std::min_element(sums.begin(), sums.end());
    }

    int levels_;
    std::vector<int> errors_;
};

/// The least squared error of two halves, each with a colour of its own: of 4 bits, or of 5 bits and a
/// step from the first to the second.
inline double best_halves_error(const std::array<yl::etc::Color, 16>& texels) {
    int best = 1 << 30;
    for (const bool is_flipped : {false, true}) {
        std::array<Texels8, 2> halves{};
        std::array<std::size_t, 2> filled{};
        for (std::size_t i = 0; i < 16; ++i) {
            const std::size_t half = is_flipped ? i / 8 : i % 4 / 2;
            halves[half][filled[half]++] = texels[i];
        }
        best =
            std::min(best, HalfErrors(halves[0], 16).least() + HalfErrors(halves[1], 16).least());
        HalfErrors first(halves[0], 32), second(halves[1], 32);
        second.spread_steps();
        for (int r = 0; r < 32; ++r)
            for (int g = 0; g < 32; ++g)
                for (int b = 0; b < 32; ++b)
                    best = std::min(best, first.at(r, g, b) + second.at(r, g, b));
    }
    return best;
}

}  // namespace bench
