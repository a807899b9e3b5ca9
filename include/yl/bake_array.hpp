// Several pictures as one texture: the layers of an array, or the slices of a volume.
//
//     yl::Picture grass = yl::or_exit(yl::read_picture("grass.png"));
//     yl::Picture stone = yl::or_exit(yl::read_picture("stone.png"));
//     const std::array<const yl::Picture*, 2> pictures = {&grass, &stone};
//     yl::Baked ground = yl::or_exit(yl::bake_array(pictures));
//     yl::or_exit(yl::write_texture("ground.ktx2", ground.texture));
#pragma once

#include <array>
#include <span>
#include <yl/api.hpp>
#include <yl/bake.hpp>

namespace yl {

/// What to do with pictures of different sizes.
enum class UnequalSizes : std::uint8_t {
    refuse,  ///< an error
    resize,  ///< to the size of the first picture
    pad,     ///< to the largest width and height; new texels are 0, on the right and at the bottom
};

/// Options of a texture that is made of several pictures. All members are optional.
struct StackOptions {
    /// Applies to every picture. `given` levels only work for single pictures. Without a format,
    /// the first one that suits them all.
    BakeOptions bake = BakeOptions();
    UnequalSizes sizes = UnequalSizes::refuse;
};

/// Makes a 2D array with one layer for each picture, each with its own mip chain. The findings say
/// which picture they are about. If some pictures with transparent pixels are premultiplied and
/// others are not, the others are premultiplied, too, unless `bake.alpha` is set; a finding says so.
/// Fails with `ErrorKind::usage`, naming the picture by its number from 0, if there are none, if
/// sizes differ and are refused, if the channels of the pictures mean different things, or if
/// `bake.alpha` leaves two ways to read alpha; otherwise as `bake` does.
[[nodiscard]] YL_API Result<Baked> bake_array(std::span<const Picture* const> pictures,
                                              const StackOptions& options = {});

/// Makes a 3D texture with one slice for each picture, the first in front (w = 0). Its mip chain also
/// shrinks in depth. Fails as `bake_array` does, and with `ErrorKind::usage` for `coverage`,
/// `normals` and `mips.sharpen`.
[[nodiscard]] YL_API Result<Baked> bake_volume(std::span<const Picture* const> slices,
                                               const StackOptions& options = {});

}  // namespace yl
