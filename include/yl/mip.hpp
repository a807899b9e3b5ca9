// Mip chains.
#pragma once

#include <optional>
#include <yl/kernel.hpp>
#include <yl/progress.hpp>
#include <yl/texture.hpp>

namespace yl {

/// How the texels of a level become those of the next.
enum class Reduction : std::uint8_t {
    average,  ///< weighted by the filter
    minimum,  ///< the least of the texels that a texel covers: for tests that must not miss any
    maximum,
};

/// Where a chain loses its contrast, level by level: detail maps that should not shimmer. Levels up
/// to `begin` keep it, those from `end` on have the texture's mean colour alone.
struct Fade {
    std::uint32_t begin = 0;
    std::uint32_t end = 1;

    friend bool operator==(const Fade&, const Fade&) = default;
};

/// All parts may be left out.
struct MipOptions {
    std::optional<Kernel> kernel = {};  ///< the box when left out; `bake` asks the role
    Edges edges = {Edge::clamp, Edge::clamp};
    Reduction reduction = Reduction::average;
    bool from_top = false;  ///< each level from level 0, not from the level above
    /// No texel leaves the range of those that it covers. Off when left out, unless `bake` chooses
    /// the kernel.
    std::optional<bool> limit_ringing = {};
    bool dither = false;  ///< integer formats: spread the rounding error as fine noise
    /// Directions, 0.5 + 0.5 n in unsigned formats and n in all others: averaged as vectors, then
    /// made one long again. Formats with two channels have their third rebuilt; alpha weighs
    /// nothing.
    bool are_normals = false;
    /// Single texels that outshine their eight neighbours by far are dimmed before they are
    /// averaged: floating point only. A sun of one texel is such a texel; `light_of_fireflies`
    /// tells how much light is lost.
    bool guard_fireflies = false;
    std::optional<Fade> fade = {};
    float sharpen = 0;  ///< 0 .. 2: how much of the lost detail each level is given back
    /// Bit n tells that level n is there already: it stays as it is, and the next are made of it.
    std::uint32_t given_levels = 1;
    Progress progress = {};

    friend bool operator==(const MipOptions&, const MipOptions&) = default;
};

/// The kernel with which `bake` filters a role. Colours and normals: Kaiser's window of radius 3,
/// with limited ringing, which lets a sixth of the contrast alias that the box lets through. Masks,
/// data, heights and light: the box, whose texels are the means of those that they cover.
[[nodiscard]] Kernel default_kernel(Role role);

/// Fills levels from level 0 on, for every layer and face; of 3D textures in depth as well.
///
/// By default each texel is the exact area average of the level above, also where a side is odd: a
/// side of 5 shrinks to 2 texels of 2.5 each. Colour is averaged in linear light, and alpha weighs
/// it where the texture says that alpha is straight (`traits.alpha`): where all is transparent the
/// plain average keeps the colour. Alpha that is data is one more channel. Levels are computed from
/// the unrounded level above, so that rounding does not add up. The bytes do not depend on the
/// number of threads, nor on the processor. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] Status build_mips(Texture& texture, const MipOptions& options = {});

/// The share of an image's light, 0 .. 1, that `guard_fireflies` takes away; 0 for formats that are
/// no floating point.
[[nodiscard]] double light_of_fireflies(ConstImageView image, const Edges& edges);

}  // namespace yl
