// Where cells of an atlas go, by a map of what is taken.
#include <algorithm>
#include <vector>

#include "bake/atlas/pack.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl::atlas;

namespace {

using Kept = std::vector<std::optional<Slot>>;

/// Whether each cell lies within the packing, turned only where it may be, and on nothing else.
bool is_sound(const Packing& packing, const std::vector<CellSize>& cells) {
    std::vector<bool> taken(std::size_t{packing.width} * packing.height * packing.layers);
    for (std::size_t i = 0; i < cells.size(); ++i) {
        const Slot& slot = packing.slots.at(i);
        const auto [width, height] = slot.is_turned ? std::pair(cells[i].height, cells[i].width)
                                                    : std::pair(cells[i].width, cells[i].height);
        if ((slot.is_turned && !cells[i].may_turn) || slot.layer >= packing.layers ||
            slot.x + width > packing.width || slot.y + height > packing.height)
            return false;
        for (std::uint32_t y = slot.y; y < slot.y + height; ++y)
            for (std::uint32_t x = slot.x; x < slot.x + width; ++x) {
                const std::size_t at =
                    (std::size_t{slot.layer} * packing.height + y) * packing.width + x;
                if (taken[at])
                    return false;
                taken[at] = true;
            }
    }
    return true;
}

/// A full packing of 12 x 9 in 3 x 3 cells of 4 x 3, but for the newcomer's place.
struct Board {
    static constexpr std::uint32_t columns = 3, rows = 3;
    std::vector<CellSize> cells;
    Kept kept;

    Board(std::uint32_t hole, const CellSize& newcomer) {
        for (std::uint32_t i = 0; i < columns * rows; ++i) {
            cells.push_back(i == hole ? newcomer : CellSize{4, 3, false});
            kept.emplace_back(Slot{0, i % columns * 4, i / columns * 3, false});
        }
        kept[hole].reset();
    }
    [[nodiscard]] std::optional<Packing> packed(const PackOptions& options) const {
        return pack_beside(cells, kept, {.width = 12, .height = 9}, options);
    }
};

}  // namespace

TEST_CASE("a newcomer that fills a hole exactly goes there, upright or turned, and none moves") {
    for (std::uint32_t hole = 0; hole < 9; ++hole)
        for (const CellSize& newcomer : {CellSize{4, 3, false}, {4, 3, true}, {3, 4, true}}) {
            const Board board(hole, newcomer);
            const auto packing = board.packed({.max_side = 64});
            REQUIRE(packing);
            CHECK(packing->width == 12);
            CHECK(packing->height == 9);
            CHECK(is_sound(*packing, board.cells));
            const Slot& slot = packing->slots[hole];
            CHECK(slot.x == hole % 3 * 4);
            CHECK(slot.y == hole / 3 * 3);
            CHECK(slot.is_turned == (newcomer.width == 3));
        }
}

TEST_CASE("a newcomer that is larger than its hole in one direction makes the atlas grow") {
    for (std::uint32_t hole = 0; hole < 9; ++hole)
        for (const CellSize& newcomer : {CellSize{5, 3, false},
                                         {4, 4, false},
                                         {3, 4, false},
                                         {4, 4, true},
                                         {3, 5, true},
                                         {5, 3, true}}) {
            const Board board(hole, newcomer);
            const auto packing = board.packed({.max_side = 64});
            REQUIRE(packing);
            CHECK(packing->width * packing->height > 12 * 9);
            CHECK(is_sound(*packing, board.cells));
            CHECK(packing->height > 9);  // the lower side grows first
            // Where it is as wide as may be, three rows more are room for what is as low.
            const auto wide = board.packed({.max_side = 12});
            const bool is_low = newcomer.height == 3 || (newcomer.may_turn && newcomer.width == 3);
            CHECK(wide.has_value() == (is_low || hole >= 6));
            if (wide) {
                CHECK(wide->width == 12);
                CHECK(is_sound(*wide, board.cells));
            }
        }
}

TEST_CASE("a full atlas gets layers where it may have them, and is refused where not") {
    const Board board(4, {12, 9, false});
    CHECK_FALSE(board.packed({.max_side = 12}));
    const auto packing = board.packed({.max_side = 12, .layers = true});
    REQUIRE(packing);
    CHECK(packing->layers == 2);
    CHECK(packing->width == 12);
    CHECK(packing->height == 12);
    CHECK(packing->slots[4].layer == 1);
    CHECK(is_sound(*packing, board.cells));
    CHECK_FALSE(Board(4, {13, 9, false}).packed({.max_side = 12, .layers = true}));
}

TEST_CASE("sides that are powers of two double, the lower one first") {
    const std::vector<CellSize> cells = {{8, 8, false}, {8, 4, false}, {16, 16, false}};
    const Kept kept = {Slot{}, std::nullopt, std::nullopt};
    const Packing old = {.width = 8, .height = 8};
    const auto packing = pack_beside(cells, kept, old, {.max_side = 64, .powers_of_two = true});
    REQUIRE(packing);
    CHECK(packing->height == 32);
    CHECK(packing->width == 16);
    CHECK(is_sound(*packing, cells));
    CHECK_FALSE(pack_beside(cells, kept, old, {.max_side = 31, .powers_of_two = true}));
}

TEST_CASE(
    "packings of many cells, from scratch and beside others, are sound and within their limits") {
    support::Random random(3);
    for (int round = 0; round < 40; ++round) {
        std::vector<CellSize> cells;
        for (std::size_t i = 0, count = 1 + random() % 40; i < count; ++i)
            cells.push_back({1 + static_cast<std::uint32_t>(random() % 12),
                             1 + static_cast<std::uint32_t>(random() % 12), random() % 2 == 0});
        const PackOptions options = {
            .max_side = 48, .powers_of_two = round % 2 == 0, .layers = round % 3 == 0};
        const auto packing = pack(cells, options);
        if (!packing)
            continue;
        CHECK(is_sound(*packing, cells));
        CHECK(std::max(packing->width, packing->height) <= 48);
        // Half of them change size, and the others stay.
        Kept kept;
        for (std::size_t i = 0; i < cells.size(); ++i) {
            kept.push_back(i % 2 == 0 ? std::optional(packing->slots[i]) : std::nullopt);
            if (!kept[i])
                cells[i].width = 1 + static_cast<std::uint32_t>(random() % 12);
        }
        const auto beside = pack_beside(cells, kept, *packing, options);
        if (!beside)
            continue;
        CHECK(is_sound(*beside, cells));
        for (std::size_t i = 0; i < cells.size(); i += 2) {
            CHECK(beside->slots[i].x == packing->slots[i].x);
            CHECK(beside->slots[i].y == packing->slots[i].y);
            CHECK(beside->slots[i].layer == packing->slots[i].layer);
        }
    }
}
