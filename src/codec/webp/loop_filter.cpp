#include "codec/webp/loop_filter.hpp"

#include <algorithm>
#include <cstdlib>

namespace yl::webp {
namespace {

int to_signed(std::uint8_t value) {
    return value - 128;
}
int clamped(int value) {
    return std::clamp(value, -128, 127);
}
std::uint8_t to_sample(int value) {
    return static_cast<std::uint8_t>(clamped(value) + 128);
}

/// Eight samples across an edge, p[-4 * step] to p[3 * step]; the edge lies before p[0].
class Segment {
 public:
    Segment(std::uint8_t* samples, std::ptrdiff_t step) : p_(samples), step_(step) {}

    [[nodiscard]] int difference(int a, int b) const { return std::abs(at(a) - at(b)); }
    [[nodiscard]] bool is_smooth(int limit) const {
        return 2 * difference(-1, 0) + difference(-2, 1) / 2 <= limit;
    }
    [[nodiscard]] bool is_smooth_inside(int limit) const {
        return difference(-4, -3) <= limit && difference(-3, -2) <= limit &&
               difference(-2, -1) <= limit && difference(3, 2) <= limit &&
               difference(2, 1) <= limit && difference(1, 0) <= limit;
    }
    [[nodiscard]] bool varies(int threshold) const {
        return difference(-2, -1) > threshold || difference(1, 0) > threshold;
    }

    /// Moves the two next to the edge; gives by how much.
    int adjust(bool with_outer) {
        const int p1 = to_signed(at(-2)), p0 = to_signed(at(-1));
        const int q0 = to_signed(at(0)), q1 = to_signed(at(1));
        const int step = clamped((with_outer ? clamped(p1 - q1) : 0) + 3 * (q0 - p0));
        const int a = clamped(step + 4) >> 3, b = clamped(step + 3) >> 3;
        at(0) = to_sample(q0 - a);
        at(-1) = to_sample(p0 + b);
        return a;
    }
    void adjust_four(bool varies_much) {
        const int p1 = to_signed(at(-2)), q1 = to_signed(at(1));
        const int a = (adjust(varies_much) + 1) >> 1;
        if (varies_much)
            return;
        at(1) = to_sample(q1 - a);
        at(-2) = to_sample(p1 + a);
    }
    void adjust_six() {
        const int step = clamped(clamped(to_signed(at(-2)) - to_signed(at(1))) +
                                 3 * (to_signed(at(0)) - to_signed(at(-1))));
        for (int i = 0; i < 3; ++i) {
            const int a = (9 * (3 - i) * step + 63) >> 7;
            at(i) = to_sample(to_signed(at(i)) - a);
            at(-1 - i) = to_sample(to_signed(at(-1 - i)) + a);
        }
    }

 private:
    [[nodiscard]] std::uint8_t& at(int index) { return p_[index * step_]; }
    [[nodiscard]] std::uint8_t at(int index) const { return p_[index * step_]; }

    std::uint8_t* p_;
    std::ptrdiff_t step_;
};

/// One edge: `across` leads over it, `along` to the next segment.
struct Edge {
    std::uint8_t* begin;
    std::ptrdiff_t across, along;
    int length;
};

template <class Function>
void each_segment(const Edge& edge, Function&& function) {
    for (int i = 0; i < edge.length; ++i)
        function(Segment(edge.begin + i * edge.along, edge.across));
}

void smooth_simple(const Edge& edge, int limit) {
    each_segment(edge, [&](Segment segment) {
        if (segment.is_smooth(limit))
            segment.adjust(true);
    });
}

void smooth_inner(const Edge& edge, int limit, const FilterStrength& strength) {
    each_segment(edge, [&](Segment segment) {
        if (segment.is_smooth(limit) && segment.is_smooth_inside(strength.interior))
            segment.adjust_four(segment.varies(strength.high_variance));
    });
}

void smooth_outer(const Edge& edge, int limit, const FilterStrength& strength) {
    each_segment(edge, [&](Segment segment) {
        if (!segment.is_smooth(limit) || !segment.is_smooth_inside(strength.interior))
            return;
        if (segment.varies(strength.high_variance))
            segment.adjust(true);
        else
            segment.adjust_six();
    });
}

/// The edges of a square in their order: at the left, within, on top, within.
template <class Outer, class Inner>
void each_edge(Plane& plane, int size, std::uint32_t column, std::uint32_t row, bool has_inner,
               Outer&& outer, Inner&& inner) {
    const auto side = static_cast<std::uint32_t>(size);
    std::uint8_t* corner = plane.row(std::size_t{row} * side) + std::size_t{column} * side;
    const auto stride = static_cast<std::ptrdiff_t>(plane.stride);
    if (column > 0)
        outer(Edge{corner, 1, stride, size});
    for (int x = 4; has_inner && x < size; x += 4)
        inner(Edge{corner + x, 1, stride, size});
    if (row > 0)
        outer(Edge{corner, stride, 1, size});
    for (int y = 4; has_inner && y < size; y += 4)
        inner(Edge{corner + y * stride, stride, 1, size});
}

}  // namespace

FilterStrength filter_strength(int level, int sharpness) {
    int interior = level;
    if (sharpness > 0) {
        interior >>= sharpness > 4 ? 2 : 1;
        interior = std::min(interior, 9 - sharpness);
    }
    return {.level = static_cast<std::uint8_t>(level),
            .interior = static_cast<std::uint8_t>(std::max(interior, 1)),
            .high_variance = static_cast<std::uint8_t>(level >= 40   ? 2
                                                       : level >= 15 ? 1
                                                                     : 0)};
}

void filter_edges_plain(Planes& planes, std::uint32_t column, std::uint32_t row,
                        FilterStrength strength, bool is_simple) {
    if (is_simple)
        return each_edge(
            planes.y, 16, column, row, strength.has_inner_edges,
            [&](const Edge& edge) { smooth_simple(edge, outer_limit(strength)); },
            [&](const Edge& edge) { smooth_simple(edge, inner_limit(strength)); });
    for (Plane* plane : {&planes.y, &planes.u, &planes.v})
        each_edge(
            *plane, plane == &planes.y ? 16 : 8, column, row, strength.has_inner_edges,
            [&](const Edge& edge) { smooth_outer(edge, outer_limit(strength), strength); },
            [&](const Edge& edge) { smooth_inner(edge, inner_limit(strength), strength); });
}

}  // namespace yl::webp
