// Cube maps: faces, directions, and six images made one texture.
#pragma once

#include <algorithm>
#include <array>
#include <span>
#include <string_view>
#include <yl/texture.hpp>

namespace yl {

/// In the order of all graphics APIs. The cube's space is left-handed: somebody inside who looks
/// to the front (+Z) with +Y above has +X at the right. Each face is seen from inside, row 0 at its
/// top (OpenGL 4.6, table 8.19; Vulkan 1.3, "Cube Map Face Selection").
enum class CubeFace : std::uint8_t { right, left, top, bottom, front, back };

inline constexpr std::array<CubeFace, 6> all_cube_faces = {CubeFace::right, CubeFace::left,
                                                           CubeFace::top,   CubeFace::bottom,
                                                           CubeFace::front, CubeFace::back};

[[nodiscard]] std::string_view name(CubeFace face);       ///< "right"
[[nodiscard]] std::string_view axis_name(CubeFace face);  ///< "+X"

using Direction = std::array<double, 3>;  ///< x, y, z; of any length but 0

/// A place on a face: s to the right, t downwards, both 0 to 1 from edge to edge.
struct FacePoint {
    CubeFace face = CubeFace::right;
    double s = 0, t = 0;
};

/// Where a direction meets the cube.
[[nodiscard]] FacePoint face_point(const Direction& direction);

/// Where a place of a face lies; its greatest coordinate is 1. Beyond 0 to 1 the face's plane goes
/// on.
[[nodiscard]] Direction direction_at(const FacePoint& point);

/// The part of the sphere, in steradians, that a texel of a face of `size` texels covers; all of
/// them together are 4 pi (Driscoll, "Cubemap Texel Solid Angle", 2012: by the areas of corners).
[[nodiscard]] double texel_solid_angle(std::uint32_t x, std::uint32_t y, std::uint32_t size);

/// Six square images of one size and format, in the order of `CubeFace`, to a cube of one level.
/// Fails with `ErrorKind::usage`, and says which face is unlike the others.
[[nodiscard]] Result<Texture> cube_of_faces(std::span<const ConstImageView, 6> faces,
                                            const TextureTraits& traits = {});

/// How far the faces of one level are from joining: steps from texel to texel, of all channels of
/// colour the greatest, in cube roots of light, which is about how lightness is seen.
struct CubeSeams {
    double greatest_across = 0;  ///< between texels that meet at an edge of the cube
    double greatest_within = 0;  ///< between neighbours in a face
    double mean_across = 0;
    double mean_within = 0;

    /// 1 is a step like any other.
    [[nodiscard]] double ratio() const { return mean_across / std::max(mean_within, 1e-9); }
    /// Above it, and above a step that can be seen at all, the faces do not join.
    static constexpr double visible = 4;
    [[nodiscard]] bool shows() const { return mean_across > 0.02 && ratio() > visible; }
};

/// Fails with `ErrorKind::usage` when the texture is no cube, and `unsupported` for block formats.
[[nodiscard]] Result<CubeSeams> measure_cube_seams(const Texture& cube, std::uint32_t level = 0,
                                                   std::uint32_t layer = 0);

}  // namespace yl
