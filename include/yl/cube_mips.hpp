// Mip chains of cubes whose faces join at every level.
#pragma once

#include <yl/cube.hpp>
#include <yl/kernel.hpp>
#include <yl/progress.hpp>

namespace yl {

struct CubeMipOptions {
    Kernel kernel = {.kind = Kernel::Kind::triangle};
    /// Texels that meet at an edge or corner become equal: for devices that do not filter across
    /// edges (OpenGL ES 2.0, WebGL 1).
    bool joined_edges = false;
    bool dither = false;
    /// Bit n tells that level n is there already: it stays as it is, and the next are made of it.
    std::uint32_t given_levels = 1;
    Progress progress = {};
};

/// Fills the levels of a cube, or of each cube of an array. The kernel goes on over edges and
/// corners, to where the texels of the other faces are seen from the middle of the cube, and every
/// texel counts for the part of the sphere that it covers. The level of
/// two texels a face is gathered around their directions, and that of one texel a face is the mean
/// of all. Linear light; straight alpha weighs colour. Fails with `ErrorKind::usage` when the
/// texture is no cube, and with `unsupported` for block formats.
[[nodiscard]] Status build_cube_mips(Texture& cube, const CubeMipOptions& options = {});

}  // namespace yl
