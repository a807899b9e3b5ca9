// The colours along the edges of square images, and how well two of them meet.
#pragma once

#include <vector>

#include <yl/cube.hpp>

namespace yl {

/// Clockwise from above. Strips run to the right or downwards.
enum class Side : std::uint8_t { upper, right, lower, left };
inline constexpr std::array<Side, 4> all_sides = {Side::upper, Side::right, Side::lower,
                                                  Side::left};

/// A side, and whether it is run along backwards.
struct DirectedSide {
    Side side = Side::upper;
    bool is_backwards = false;
};

/// Which side of the untouched image becomes a side of the turned one.
[[nodiscard]] DirectedSide side_before(Orientation orientation, Side side);

/// The side of another face that a side of a face meets, and whether the two run in opposite
/// directions.
struct Neighbour {
    CubeFace face = CubeFace::right;
    DirectedSide side = {};
};
[[nodiscard]] Neighbour neighbour_of(CubeFace face, Side side);

/// Each of the twelve edges once.
struct CubeEdge {
    CubeFace a = CubeFace::right;
    Side side_of_a = Side::upper;
    CubeFace b = CubeFace::right;
    DirectedSide side_of_b = {};
};
[[nodiscard]] const std::array<CubeEdge, 12>& cube_edges();

/// What the finding of an order needs of six images: in cube roots of light, so that a sun does not
/// outshine all else.
class EdgeStrips {
 public:
    [[nodiscard]] static Result<EdgeStrips> of(std::span<const ConstImageView, 6> images,
                                               Transfer transfer);

    /// The mean square of the difference where two images' sides meet.
    [[nodiscard]] double misfit(std::size_t a, DirectedSide side_a, std::size_t b,
                                DirectedSide side_b) const {
        return table_[place(a, side_a.side)][place(b, side_b.side)]
                     [side_a.is_backwards != side_b.is_backwards ? 1 : 0];
    }

    /// The mean square of the steps between the texels next to the edges: what is usual here.
    [[nodiscard]] double usual_step() const { return usual_step_; }

    /// How unlike two images look, one of them turned: the mean square over a coarse grid. Searches
    /// ask for the same ones again and again, and they are kept: of one thread at a time.
    [[nodiscard]] double difference(std::size_t a, Orientation turn_a, std::size_t b,
                                    Orientation turn_b) const;

 private:
    [[nodiscard]] double measured_difference(std::size_t a, Orientation turn_a, std::size_t b,
                                             Orientation turn_b) const;

    using Color = std::array<float, 3>;
    static constexpr std::uint32_t samples = 64;   ///< of an edge
    static constexpr std::size_t ways = 6 * 8;     ///< images, each turned in all ways
    static constexpr std::uint32_t grid_side = 8;  ///< of the coarse pictures

    static std::size_t place(std::size_t image, Side side) {
        return image * 4 + static_cast<std::size_t>(side);
    }
    void compare_all(const std::array<std::vector<Color>, 24>& strips);

    std::array<std::array<std::array<double, 2>, 24>, 24> table_{};
    std::array<std::array<Color, std::size_t{grid_side} * grid_side>, 6> grids_{};
    /// Of each two ways, or NaN where nobody has asked.
    mutable std::vector<double> differences_ = {};
    double usual_step_ = 0;
};

}  // namespace yl
