#include "bake/atlas/pack.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numeric>
#include <tuple>

namespace yl::atlas {
namespace {

std::vector<std::size_t> all_of(std::span<const CellSize> cells) {
    std::vector<std::size_t> numbers(cells.size());
    std::iota(numbers.begin(), numbers.end(), std::size_t{0});
    return numbers;
}

std::uint64_t area_of(std::span<const CellSize> cells) {
    std::uint64_t area = 0;
    for (const CellSize& cell : cells)
        area += std::uint64_t{cell.width} * cell.height;
    return area;
}

/// Widths around that of a square, so many that all of them together take a bounded time.
std::vector<std::uint32_t> widths_to_try(std::span<const CellSize> cells,
                                         const PackOptions& options) {
    std::vector<std::uint32_t> widths;
    if (options.powers_of_two) {
        for (std::uint32_t width = 1; width <= options.max_side; width *= 2)
            widths.push_back(width);
        return widths;
    }
    std::uint32_t widest = 1;
    for (const CellSize& cell : cells)
        widest = std::max(widest, cell.may_turn ? std::min(cell.width, cell.height) : cell.width);
    const double square = std::sqrt(static_cast<double>(area_of(cells)));
    const auto at = [&](double share) {
        return std::clamp(static_cast<std::uint32_t>(share * square) + 1, widest,
                          std::max(widest, options.max_side));
    };
    constexpr double narrow = 0.7, wide = 1.5;
    constexpr std::size_t steps_in_all = 30'000'000, fewest = 8, most = 256;
    const std::size_t tries =
        std::clamp(steps_in_all / (cells.size() * cells.size() + 1), fewest, most);
    const std::uint32_t first = at(narrow), last = at(wide);
    const std::uint32_t step = std::max(1U, (last - first) / static_cast<std::uint32_t>(tries));
    for (std::uint32_t width = first; width <= last; width += step)
        widths.push_back(width);
    return widths;
}

/// The least area; of equal ones, the one that is nearest to a square.
std::optional<Packing> pack_one_layer(std::span<const CellSize> cells, const PackOptions& options) {
    const auto numbers = all_of(cells);
    const std::uint64_t least = area_of(cells);
    std::optional<Packing> best;
    const auto rank = [](const Packing& packing) {
        return std::tuple(std::uint64_t{packing.width} * packing.height,
                          std::max(packing.width, packing.height));
    };
    std::vector<Slot> slots(cells.size());
    for (const std::uint32_t width : widths_to_try(cells, options))
        for (const Choice choice : all_choices) {
            const Strip strip = pack_strip(cells, numbers, width, options.max_side, choice, slots);
            const std::uint32_t height =
                options.powers_of_two ? std::bit_ceil(strip.height) : strip.height;
            if (!strip.left_over.empty() || height > options.max_side)
                continue;
            Packing packing{width, height, 1, {}};
            if (!best || rank(packing) < rank(*best)) {
                packing.slots = slots;
                best = std::move(packing);
            }
            if (std::get<0>(rank(*best)) == least)
                return best;
        }
    return best;
}

/// Layers of the greatest size, one after the other.
std::optional<Packing> pack_layers(std::span<const CellSize> cells, const PackOptions& options) {
    const std::uint32_t side =
        options.powers_of_two ? std::bit_floor(options.max_side) : options.max_side;
    Packing packing{side, side, 0, std::vector<Slot>(cells.size())};
    std::vector<std::size_t> left = all_of(cells);
    while (!left.empty()) {
        Strip strip = pack_strip(cells, left, side, side, Choice::snug, packing.slots);
        if (strip.left_over.size() == left.size())
            return std::nullopt;
        for (const std::size_t cell : left)
            if (!std::ranges::binary_search(strip.left_over, cell))
                packing.slots[cell].layer = packing.layers;
        ++packing.layers;
        left = std::move(strip.left_over);
    }
    return packing;
}

}  // namespace

std::optional<Packing> pack(std::span<const CellSize> cells, const PackOptions& options) {
    auto packing = pack_one_layer(cells, options);
    if (!packing && options.layers)
        packing = pack_layers(cells, options);
    return packing;
}

}  // namespace yl::atlas
