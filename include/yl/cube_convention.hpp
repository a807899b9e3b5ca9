// How a set of six faces is stored, and in which world.
#pragma once

#include <string>
#include <yl/cube.hpp>

namespace yl {

/// How one image of a cube lies in a world: the axes, with their signs, that its middle looks
/// along, and that its columns and rows run along. `CubeFace` stands for an axis here: `right` is
/// +X.
struct FaceFrame {
    CubeFace middle = CubeFace::right;
    CubeFace to_right = CubeFace::back;
    CubeFace downwards = CubeFace::bottom;

    friend bool operator==(const FaceFrame&, const FaceFrame&) = default;
};

/// The faces in the order in which they are stored, in the axes of their own world; and which of
/// that world's axes a viewer has at the right, above and ahead.
struct CubeConvention {
    std::string name = {};
    std::string about = {};
    std::array<FaceFrame, 6> faces = {};
    std::array<CubeFace, 3> right_up_ahead = {CubeFace::right, CubeFace::top, CubeFace::front};
};

/// standard, right-handed, z-up, y-down, bottom-rows, from-outside, round.
[[nodiscard]] std::span<const CubeConvention> all_cube_conventions();

/// That of `CubeFace`.
[[nodiscard]] const CubeConvention& standard_cube_convention();

/// One of the names above; or six frames, each of three signed axes (middle, to the right,
/// downwards), and if wanted the axes at the right, above and ahead:
///     "+x-z-y -x+z-y +y+x+z -y+x-z +z+x-y -z-x-y ahead +x+y+z"
[[nodiscard]] Result<CubeConvention> parse_cube_convention(std::string_view text);

/// Every convention in that form.
[[nodiscard]] std::string cube_convention_text(const CubeConvention& convention);

/// Faces of one convention, all levels and layers, stored in the order and frames of another. The
/// viewer sees the same. Fails with `ErrorKind::usage` when the texture is no cube.
[[nodiscard]] Result<Texture> with_convention(const Texture& cube, const CubeConvention& from,
                                              const CubeConvention& to);

}  // namespace yl
