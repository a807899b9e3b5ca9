// Rectangles packed into a rectangle, or into several of one size. Lengths are in units of the
// cells' alignment.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <optional>
#include <span>
#include <vector>

namespace yl::atlas {

/// A cell to be packed.
struct CellSize {
    std::uint32_t width = 0, height = 0;
    bool may_turn = false;
};

/// Where a cell is.
struct Slot {
    std::uint32_t layer = 0, x = 0, y = 0;
    bool is_turned = false;
};

struct PackOptions {
    std::uint32_t max_side = 1;
    bool powers_of_two = false;
    bool layers = false;
};

struct Packing {
    std::uint32_t width = 0, height = 0, layers = 1;
    std::vector<Slot> slots = {};
};

/// Packs everything from scratch; nothing if it does not fit.
[[nodiscard]] std::optional<Packing> pack(std::span<const CellSize> cells,
                                          const PackOptions& options);

/// Packs what has no slot beside what has one, and enlarges `old` where there is no room; nothing
/// if that is not enough. `old.slots` is not used.
[[nodiscard]] std::optional<Packing> pack_beside(std::span<const CellSize> cells,
                                                 std::span<const std::optional<Slot>> kept,
                                                 const Packing& old, const PackOptions& options);

/// How a strip's next cell is chosen for a gap.
enum class Choice : std::uint8_t {
    widest,  ///< the widest one that fits, then the highest
    snug,    ///< first one that fills the gap's width, or ends level with a neighbour
};
inline constexpr std::array<Choice, 2> all_choices = {Choice::widest, Choice::snug};

/// What a strip holds.
struct Strip {
    std::uint32_t height = 0;
    std::vector<std::size_t> left_over = {};  ///< cells that do not fit below the greatest height
};

/// Packs `cells` (numbers of `sizes`) into a strip of a width; fills in their slots.
[[nodiscard]] Strip pack_strip(std::span<const CellSize> sizes, std::span<const std::size_t> cells,
                               std::uint32_t width, std::uint32_t max_height, Choice choice,
                               std::span<Slot> slots);

}  // namespace yl::atlas
