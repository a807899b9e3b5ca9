// How texels are weighed when an image is made smaller or larger.
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <string_view>
#include <yl/result.hpp>

namespace yl {

/// A kernel along one axis. Its lengths are in texels of the coarser of the two images.
struct Kernel {
    enum class Kind : std::uint8_t {
        box,       ///< exact areas: each texel weighs as much as is covered of it
        triangle,  ///< falls off to both neighbours
        cubic,     ///< the family of Mitchell and Netravali, by `b` and `c`
        lanczos,   ///< a sinc under a wider one, `radius` texels to each side
        kaiser,    ///< a sinc under a Kaiser window, `radius` texels to each side
    };

    Kind kind = Kind::box;
    float b = 1.0F / 3, c = 1.0F / 3;  ///< of `cubic`
    float radius = 3;                  ///< of `lanczos` and `kaiser`: 1 to 16
    float shape = 4;  ///< of `kaiser`: 0 to 20; larger is softer, with less ringing

    /// How far the kernel reaches to each side of a texel's middle.
    [[nodiscard]] double reach() const;

    friend bool operator==(const Kernel&, const Kernel&) = default;
};

/// "box", "triangle", "mitchell", "catmull-rom", "cubic:B,C", "lanczos:RADIUS",
/// "kaiser:RADIUS,SHAPE"; numbers may be left out.
[[nodiscard]] Result<Kernel> parse_kernel(std::string_view text);
[[nodiscard]] std::string kernel_text(const Kernel& kernel);

/// What lies beyond an image's edge for a kernel that reaches over it.
enum class Edge : std::uint8_t {
    clamp,   ///< the outermost texel, again and again
    repeat,  ///< the image once more: for textures that tile
    mirror,  ///< the image mirrored
};

/// Across and down.
using Edges = std::array<Edge, 2>;

/// "clamp", "repeat" or "mirror", or two of them with a comma: across, down.
[[nodiscard]] Result<Edges> parse_edges(std::string_view text);
[[nodiscard]] std::string edges_text(const Edges& edges);

}  // namespace yl
