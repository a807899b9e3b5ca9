// Free room as maximal rectangles, which may overlap (Jylanki, "A Thousand Ways to Pack the Bin",
// 2010, section 2.4); a cell goes where the shorter of the two rests is least.
#include <algorithm>
#include <numeric>
#include <tuple>

#include "bake/atlas/pack.hpp"

namespace yl::atlas {
namespace {

struct Rectangle {
    std::uint32_t x = 0, y = 0, right = 0, bottom = 0;

    [[nodiscard]] bool meets(const Rectangle& other) const {
        return x < other.right && other.x < right && y < other.bottom && other.y < bottom;
    }
    [[nodiscard]] bool holds(const Rectangle& other) const {
        return x <= other.x && y <= other.y && right >= other.right && bottom >= other.bottom;
    }
    friend bool operator==(const Rectangle&, const Rectangle&) = default;
};

class FreeSpace {
 public:
    FreeSpace(std::uint32_t width, std::uint32_t height) : free_{{0, 0, width, height}} {}

    void occupy(const Rectangle& taken) {
        std::vector<Rectangle> rest;
        for (const Rectangle& room : free_) {
            if (!room.meets(taken)) {
                rest.push_back(room);
                continue;
            }
            if (taken.x > room.x)
                rest.push_back({room.x, room.y, taken.x, room.bottom});
            if (taken.right < room.right)
                rest.push_back({taken.right, room.y, room.right, room.bottom});
            if (taken.y > room.y)
                rest.push_back({room.x, room.y, room.right, taken.y});
            if (taken.bottom < room.bottom)
                rest.push_back({room.x, taken.bottom, room.right, room.bottom});
        }
        drop_held(rest);
    }

    /// The two rests, the shorter first, and the slot.
    using Offer = std::tuple<std::uint32_t, std::uint32_t, Slot>;

    [[nodiscard]] std::optional<Offer> offer(const CellSize& cell) const {
        std::optional<Offer> best;
        for (const Rectangle& room : free_)
            for (const bool turned : {false, true}) {
                const std::uint32_t width = turned ? cell.height : cell.width;
                const std::uint32_t height = turned ? cell.width : cell.height;
                if ((turned && !cell.may_turn) || width > room.right - room.x ||
                    height > room.bottom - room.y)
                    continue;
                const std::uint32_t across = room.right - room.x - width;
                const std::uint32_t down = room.bottom - room.y - height;
                const Offer here = {
                    std::min(across, down), std::max(across, down), {0, room.x, room.y, turned}};
                if (!best || std::tie(std::get<0>(here), std::get<1>(here)) <
                                 std::tie(std::get<0>(*best), std::get<1>(*best)))
                    best = here;
            }
        return best;
    }

 private:
    void drop_held(const std::vector<Rectangle>& rooms) {
        free_.clear();
        for (std::size_t i = 0; i < rooms.size(); ++i) {
            const auto is_needless = [&](std::size_t j) {
                return j != i && rooms[j].holds(rooms[i]) && !(rooms[j] == rooms[i] && j > i);
            };
            bool is_held = false;
            for (std::size_t j = 0; j < rooms.size() && !is_held; ++j)
                is_held = is_needless(j);
            if (!is_held)
                free_.push_back(rooms[i]);
        }
    }

    std::vector<Rectangle> free_;
};

Rectangle rectangle_of(const CellSize& cell, const Slot& slot) {
    const std::uint32_t width = slot.is_turned ? cell.height : cell.width;
    const std::uint32_t height = slot.is_turned ? cell.width : cell.height;
    return {slot.x, slot.y, slot.x + width, slot.y + height};
}

/// The largest first; those that keep their slots are not in it.
std::vector<std::size_t> newcomers(std::span<const CellSize> cells,
                                   std::span<const std::optional<Slot>> kept) {
    std::vector<std::size_t> result;
    for (std::size_t i = 0; i < cells.size(); ++i)
        if (!kept[i])
            result.push_back(i);
    std::ranges::stable_sort(result, [&](std::size_t a, std::size_t b) {
        const auto rank = [](const CellSize& cell) {
            return std::tuple(std::max(cell.width, cell.height), cell.width * cell.height);
        };
        return rank(cells[a]) > rank(cells[b]);
    });
    return result;
}

std::optional<Packing> pack_into(std::span<const CellSize> cells,
                                 std::span<const std::optional<Slot>> kept, Packing packing) {
    std::vector<FreeSpace> layers(packing.layers, FreeSpace(packing.width, packing.height));
    packing.slots.assign(cells.size(), {});
    for (std::size_t i = 0; i < cells.size(); ++i)
        if (kept[i]) {
            packing.slots[i] = *kept[i];
            layers[kept[i]->layer].occupy(rectangle_of(cells[i], *kept[i]));
        }
    for (const std::size_t i : newcomers(cells, kept)) {
        std::optional<Slot> slot;
        for (std::uint32_t layer = 0; layer < packing.layers && !slot; ++layer)
            if (const auto offer = layers[layer].offer(cells[i])) {
                slot = std::get<Slot>(*offer);
                slot->layer = layer;
            }
        if (!slot)
            return std::nullopt;
        layers[slot->layer].occupy(rectangle_of(cells[i], *slot));
        packing.slots[i] = *slot;
    }
    return packing;
}

}  // namespace

std::optional<Packing> pack_beside(std::span<const CellSize> cells,
                                   std::span<const std::optional<Slot>> kept, const Packing& old,
                                   const PackOptions& options) {
    Packing room = old;
    for (;;) {
        if (auto packing = pack_into(cells, kept, room))
            return packing;
        const bool is_full = room.width >= options.max_side && room.height >= options.max_side;
        if (is_full && (!options.layers || room.layers > cells.size()))
            return std::nullopt;
        if (is_full) {
            ++room.layers;
            continue;
        }
        const bool grows_down = room.width >= options.max_side ||
                                (room.height <= room.width && room.height < options.max_side);
        std::uint32_t& side = grows_down ? room.height : room.width;
        const std::uint32_t larger =
            options.powers_of_two ? 2 * side : side + std::max(1U, side / 16);
        if (options.powers_of_two && larger > options.max_side)
            return std::nullopt;
        side = std::min(larger, options.max_side);
    }
}

}  // namespace yl::atlas
