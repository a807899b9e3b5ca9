// Searches of everything, or nearly: what the best encoding of a block could be.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace bench {

/// The least squared error of one channel in BC4, over all ends near the values.
inline double best_bc4_error(const std::array<double, 16>& values) {
    const auto error_of = [&](int low, int high, int parts) {
        double sum = 0;
        for (const double value : values) {
            const double step = high > low ? std::round((value - low) * parts / (high - low)) : 0;
            const double shown = low + std::clamp(step, 0.0, double(parts)) * (high - low) / parts;
            double min = (value - shown) * (value - shown);
            if (parts == 5)
                min = std::min({min, value * value, (value - 255) * (value - 255)});
            sum += min;
        }
        return sum;
    };
    const auto [min, max] = std::minmax_element(values.begin(), values.end());
    const int reach = 8 + static_cast<int>(*max - *min) / 3;
    double best = 1e30;
    for (int low = 0; low < 256; ++low)
        for (int high = low; high < 256; ++high) {
            if (low > *min - reach && low < *max + 1 && high < *max + reach && high > *min - 1) {
                if (high > low)
                    best = std::min(best, error_of(low, high, 7));
                best = std::min(best, error_of(low, high, 5));
            }
        }
    return best;
}

/// The squared error of an encoded block, of values that are not rounded.
inline double bc4_error(const std::array<double, 16>& values, int first, int second) {
    const int parts = first > second ? 7 : 5;
    double sum = 0;
    for (const double value : values) {
        double min = parts == 5 ? std::min(value * value, (value - 255) * (value - 255)) : 1e30;
        for (int i = 0; i <= parts; ++i) {
            const double shown = (first * (parts - i) + second * i) / double(parts);
            min = std::min(min, (value - shown) * (value - shown));
        }
        sum += min;
    }
    return sum;
}

using Rgb = std::array<double, 3>;

/// A BC1 block searched from every pair of its texels, settled by least squares and by steps of
/// every code, with four colours, with three, and with three and black. Not proved to be the best,
/// since all 2^64 blocks cannot be tried: for some blocks a search from elsewhere finds a better
/// one.
class Bc1Search {
 public:
    explicit Bc1Search(const std::array<Rgb, 16>& texels) : texels_(texels) {}

    double run() {
        for (int a = 0; a < 16; ++a)
            for (int b = a + 1; b < 16; ++b)
                for (const int form : {0, 1, 2})
                    settle(nearest(texels_[static_cast<std::size_t>(a)]),
                           nearest(texels_[static_cast<std::size_t>(b)]), form);
        settle(nearest(texels_[0]), nearest(texels_[0]), 0);
        return best_;
    }

 private:
    using Code = std::array<int, 3>;

    static constexpr int max(std::size_t c) { return c == 1 ? 63 : 31; }
    static double value(int code, std::size_t c) {
        return c == 1 ? code << 2 | code >> 4 : code << 3 | code >> 2;
    }
    static Code nearest(const Rgb& color) {
        Code code{};
        for (std::size_t c = 0; c < 3; ++c)
            code[c] = std::clamp(static_cast<int>(std::lround(color[c] * max(c) / 255)), 0, max(c));
        return code;
    }

    double assign(const Code& a, const Code& b, int form) {
        const int steps = form == 0 ? 3 : 2;
        double sum = 0;
        for (std::size_t i = 0; i < 16; ++i) {
            double min = 1e30;
            for (int k = 0; k <= steps; ++k) {
                const double share = static_cast<double>(k) / steps;
                double error = 0;
                for (std::size_t c = 0; c < 3; ++c) {
                    const double off =
                        value(a[c], c) * (1 - share) + value(b[c], c) * share - texels_[i][c];
                    error += off * off;
                }
                if (error < min) {
                    min = error;
                    share_[i] = 1 - share;
                }
            }
            const double black = texels_[i][0] * texels_[i][0] + texels_[i][1] * texels_[i][1] +
                                 texels_[i][2] * texels_[i][2];
            if (form == 2 && black < min) {
                min = black;
                share_[i] = -1;
            }
            sum += min;
        }
        return sum;
    }

    /// The best codes for the present shares, each channel by trying all within reach.
    void improve(Code& a, Code& b) const {
        for (std::size_t c = 0; c < 3; ++c) {
            double min = 1e30;
            const Code from_a = a, from_b = b;
            for (int x = std::max(from_a[c] - 4, 0); x <= std::min(from_a[c] + 4, max(c)); ++x)
                for (int y = std::max(from_b[c] - 4, 0); y <= std::min(from_b[c] + 4, max(c));
                     ++y) {
                    double sum = 0;
                    for (std::size_t i = 0; i < 16; ++i) {
                        if (share_[i] < 0)
                            continue;
                        const double off =
                            value(x, c) * share_[i] + value(y, c) * (1 - share_[i]) - texels_[i][c];
                        sum += off * off;
                    }
                    if (sum < min) {
                        min = sum;
                        a[c] = x;
                        b[c] = y;
                    }
                }
        }
    }

    void settle(Code a, Code b, int form) {
        double last = 1e30;
        for (int round = 0; round < 12; ++round) {
            const double error = assign(a, b, form);
            best_ = std::min(best_, error);
            if (error >= last)
                return;
            last = error;
            improve(a, b);
        }
    }

    const std::array<Rgb, 16>& texels_;
    std::array<double, 16> share_{};
    double best_ = 1e30;
};

}  // namespace bench
