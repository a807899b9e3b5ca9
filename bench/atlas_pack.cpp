// How much of an atlas is empty, and how long packing takes, beside the lower bound: as many texels
// as the cells have. Sprites of several mixtures, turned or not, by seeds.
#include <fmt/format.h>

#include <chrono>
#include <random>

#include "bake/atlas/pack.hpp"

namespace {

using yl::atlas::CellSize;

struct Mixture {
    const char* name;
    std::size_t count;
    std::uint32_t least, most;
    bool has_few_large = false;
};

constexpr Mixture mixtures[] = {{"icons of one size", 300, 12, 12},
                                {"mixed, 8 to 128 texels", 300, 4, 34},
                                {"many small, few large", 300, 3, 12, true},
                                {"mixed, 50 pictures", 50, 4, 34},
                                {"mixed, 3,000 pictures", 3000, 4, 34}};

std::vector<CellSize> cells_of(const Mixture& mixture, bool turn, unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_int_distribution<std::uint32_t> side(mixture.least, mixture.most);
    std::vector<CellSize> cells;
    for (std::size_t i = 0; i < mixture.count; ++i) {
        const std::uint32_t scale = mixture.has_few_large && i % 30 == 0 ? 6 : 1;
        const std::uint32_t width = scale * side(random), height = scale * side(random);
        cells.push_back({width, height, turn});
    }
    return cells;
}

}  // namespace

int main() {
    constexpr int rounds = 5;
    fmt::print("{:<26} {:<7} {:>12} {:>12} {:>10}\n", "cells", "turned", "mean empty", "worst",
               "seconds");
    for (const Mixture& mixture : mixtures)
        for (const bool turn : {false, true}) {
            double sum = 0, worst = 0, seconds = 0;
            for (unsigned seed = 1; seed <= rounds; ++seed) {
                const auto cells = cells_of(mixture, turn, seed);
                const auto begin = std::chrono::steady_clock::now();
                const auto packing = yl::atlas::pack(cells, {.max_side = 4096});
                seconds +=
                    std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
                double used = 0;
                for (const CellSize& cell : cells)
                    used += static_cast<double>(cell.width) * cell.height;
                if (!packing)
                    return 1;
                const double empty =
                    1 - used / (static_cast<double>(packing->width) * packing->height);
                sum += empty;
                worst = std::max(worst, empty);
            }
            fmt::print("{:<26} {:<7} {:>10.2f} % {:>10.2f} % {:>10.3f}\n", mixture.name,
                       turn ? "yes" : "no", 100 * sum / rounds, 100 * worst, seconds / rounds);
        }
    return 0;
}
