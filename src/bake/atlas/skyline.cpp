// The best fit of Burke, Kendall and Whitwell ("A New Placement Heuristic for the Orthogonal
// Stock-Cutting Problem", Operations Research 52, 2004): the lowest gap of the skyline takes the
// cell that suits it best, beside its higher neighbour; a gap that takes none is filled up.
#include <algorithm>
#include <map>
#include <tuple>

#include "bake/atlas/pack.hpp"

namespace yl::atlas {
namespace {

constexpr std::uint32_t wall = std::numeric_limits<std::uint32_t>::max();  ///< beside the strip

struct Segment {
    std::uint32_t x = 0, width = 0, y = 0;
};

/// Cells of one size, of which the last is taken next.
struct Group {
    std::uint32_t width = 0, height = 0;
    bool may_turn = false;
    std::vector<std::size_t> cells = {};
};

struct Fit {
    std::size_t group = 0;
    std::uint32_t width = 0, height = 0;
    bool is_turned = false;
};

class Skyline {
 public:
    Skyline(std::uint32_t width, std::uint32_t max_height, Choice choice)
        : max_height_(max_height), choice_(choice), segments_{{0, width, 0}} {}

    std::uint32_t fill(std::vector<Group>& groups, std::span<Slot> slots) {
        std::uint32_t height = 0;
        while (!groups.empty()) {
            const std::size_t lowest = lowest_segment();
            const auto fit = best_fit(groups, lowest);
            if (!fit) {
                if (segments_.size() == 1)
                    break;
                raise(lowest);
                continue;
            }
            Group& group = groups[fit->group];
            const std::size_t cell = group.cells.back();
            group.cells.pop_back();
            slots[cell] = place(lowest, *fit);
            height = std::max(height, slots[cell].y + fit->height);
            if (group.cells.empty())
                groups.erase(groups.begin() + static_cast<std::ptrdiff_t>(fit->group));
        }
        return height;
    }

 private:
    [[nodiscard]] std::size_t lowest_segment() const {
        const auto lowest = std::ranges::min_element(segments_, {}, &Segment::y);
        return static_cast<std::size_t>(lowest - segments_.begin());
    }

    [[nodiscard]] std::array<std::uint32_t, 2> neighbours(std::size_t at) const {
        return {at > 0 ? segments_[at - 1].y : wall,
                at + 1 < segments_.size() ? segments_[at + 1].y : wall};
    }

    [[nodiscard]] std::optional<Fit> best_fit(std::span<const Group> groups, std::size_t at) const {
        const Segment& gap = segments_[at];
        const auto [left, right] = neighbours(at);
        std::optional<Fit> best;
        std::tuple<int, std::uint32_t, std::uint32_t> best_score = {};
        for (std::size_t g = 0; g < groups.size(); ++g)
            for (const bool turned : {false, true}) {
                if (turned && !groups[g].may_turn)
                    continue;
                const Fit fit = {g, turned ? groups[g].height : groups[g].width,
                                 turned ? groups[g].width : groups[g].height, turned};
                if (fit.width > gap.width || fit.height > max_height_ - gap.y)
                    continue;
                const std::uint32_t top = gap.y + fit.height;
                const int snug = 2 * static_cast<int>(fit.width == gap.width) +
                                 static_cast<int>(top == left || top == right);
                const std::tuple score(choice_ == Choice::snug ? snug : 0, fit.width, fit.height);
                if (!best || score > best_score) {
                    best = fit;
                    best_score = score;
                }
            }
        return best;
    }

    /// Beside the higher neighbour, on the left if they are alike.
    Slot place(std::size_t at, const Fit& fit) {
        const Segment gap = segments_[at];
        const auto [left, right] = neighbours(at);
        const bool goes_left = left >= right;
        const std::uint32_t x = goes_left ? gap.x : gap.x + gap.width - fit.width;
        const Segment filled = {x, fit.width, gap.y + fit.height};
        const Segment rest = {goes_left ? gap.x + fit.width : gap.x, gap.width - fit.width, gap.y};
        segments_[at] = filled;
        if (rest.width > 0)
            segments_.insert(
                segments_.begin() + static_cast<std::ptrdiff_t>(at) + (goes_left ? 1 : 0), rest);
        merge();
        return {0, x, gap.y, fit.is_turned};
    }

    void raise(std::size_t at) {
        const auto [left, right] = neighbours(at);
        segments_[at].y = std::min(left, right);
        merge();
    }

    void merge() {
        std::size_t last = 0;
        for (std::size_t i = 1; i < segments_.size(); ++i) {
            if (segments_[i].y == segments_[last].y)
                segments_[last].width += segments_[i].width;
            else
                segments_[++last] = segments_[i];
        }
        segments_.resize(last + 1);
    }

    std::uint32_t max_height_;
    Choice choice_;
    std::vector<Segment> segments_;
};

}  // namespace

Strip pack_strip(std::span<const CellSize> sizes, std::span<const std::size_t> cells,
                 std::uint32_t width, std::uint32_t max_height, Choice choice,
                 std::span<Slot> slots) {
    std::map<std::tuple<std::uint32_t, std::uint32_t, bool>, std::vector<std::size_t>> by_size;
    for (const std::size_t cell : cells) {
        const CellSize& size = sizes[cell];
        by_size[{size.width, size.height, size.may_turn}].push_back(cell);
    }
    std::vector<Group> groups;
    for (auto& [size, members] : by_size) {
        std::ranges::reverse(members);  // taken from the end
        groups.push_back({std::get<0>(size), std::get<1>(size), std::get<2>(size), members});
    }
    Strip strip;
    strip.height = Skyline(width, max_height, choice).fill(groups, slots);
    for (const Group& group : groups)
        strip.left_over.insert(strip.left_over.end(), group.cells.begin(), group.cells.end());
    std::ranges::sort(strip.left_over);
    return strip;
}

}  // namespace yl::atlas
