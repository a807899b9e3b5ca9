// Cubes laid out in one picture: crosses, rows, panoramas, balls.
#pragma once

#include <optional>
#include <span>
#include <yl/codec.hpp>
#include <yl/cube.hpp>

namespace yl {

/// How one picture holds a whole cube. T, F, R, B, L, D are the faces top, front, right, back, left
/// and bottom (down).
enum class CubeLayout : std::uint8_t {
    horizontal_cross,  ///< 4 x 3 faces:  . T . .  /  L F R B  /  . D . .
    vertical_cross,    ///< 3 x 4 faces:  . T .  /  L F R  /  . D .  /  . B .  (B is half round)
    row,               ///< 6 x 1 faces: R L T D F B, the order of `CubeFace`
    column,            ///< 1 x 6 faces, the same order downwards
    panorama,     ///< 2 x 1, equirectangular: the middle column is the front, the top row the top
    angular_map,  ///< a disc: the front in its middle, the distance from it the angle
    /// A disc: a photograph of a polished ball, taken by a camera that looks to the front. The back
    /// is in its middle, and its rim shows what is ahead.
    mirror_ball,
    half_panorama,  ///< 4 x 1: the upper half of a panorama, whose bottom row is the horizon
    /// Square: the octahedron |x| + |y| + |z| = 1 unfolded (Cigolle and others, 2014).
    /// The top is in the middle, the bottom at the corners, ahead at the upper edge.
    octahedral,
    /// 2 x 1: two paraboloids, the front on the left, the back on the right, each going on in its
    /// corners (Heidrich and Seidel, 1998).
    dual_paraboloid,
};

/// Of every layout.
[[nodiscard]] std::span<const CubeLayout> all_cube_layouts();

[[nodiscard]] std::string_view name(CubeLayout layout);  ///< "horizontal-cross" ...
[[nodiscard]] std::optional<CubeLayout> find_cube_layout(std::string_view name);

/// What a picture of these sides may be, the likeliest first; nothing when no layout has such
/// sides.
[[nodiscard]] std::vector<CubeLayout> possible_cube_layouts(std::uint32_t width,
                                                            std::uint32_t height);

/// What a picture seems to hold.
struct CubeLayoutGuess {
    CubeLayout layout = CubeLayout::panorama;
    std::uint32_t face_size = 0;
    /// Whether its content agrees: faces join along their edges, and the rest of a cross is
    /// plain; a panorama's sides meet, and its
    /// top and bottom rows are each one place; nothing is outside a disc.
    bool agrees = false;
    double misfit = 0;  ///< of faces, as in `FaceOrder`
};

/// By sides and content; nothing when no layout has such sides, or for squares that are no disc.
[[nodiscard]] std::optional<CubeLayoutGuess> guess_cube_layout(const Picture& picture);

/// Whether each face lies in the picture as it is, texel by texel.
[[nodiscard]] bool is_cut_layout(CubeLayout layout);

struct CubeSourceOptions {
    std::optional<CubeLayout> layout = {};  ///< the likeliest one when left out
    /// Texels; crosses, rows and columns have one already. When left out a quarter of the width of
    /// a panorama or of two paraboloids, or half of a disc's or an octahedron's.
    std::optional<std::uint32_t> face_size = {};
};

/// The cube in a picture, one level, in the picture's format. Faces of crosses, rows and columns
/// are copied; panoramas and balls are filtered in linear light, with more samples where they are
/// finer than the faces. Fails with `ErrorKind::usage` when the sides do not fit the layout.
[[nodiscard]] Result<Texture> cube_of_picture(const Picture& picture,
                                              const CubeSourceOptions& options = {});

/// One level of a cube as a picture, in the cube's format; texels that belong to no face are 0.
/// `width` is the picture's, for panoramas and balls; four faces' or two faces' when left out.
[[nodiscard]] Result<Image> picture_of_cube(const Texture& cube, CubeLayout layout,
                                            std::uint32_t level = 0, std::uint32_t layer = 0,
                                            std::optional<std::uint32_t> width = {});

/// Where in a picture of this layout a direction lies, from 0 to 1 across and down; and back, where
/// nothing lies outside a disc. For all layouts that are not cut. Below the horizon of half a
/// panorama its last row goes on.
[[nodiscard]] std::array<double, 2> place_of_direction(CubeLayout layout,
                                                       const Direction& direction);
[[nodiscard]] std::optional<Direction> direction_of_place(CubeLayout layout,
                                                          const std::array<double, 2>& place);

}  // namespace yl
