// Resizing images, and filter kernels.
//
//     yl::Image half = yl::or_exit(yl::resize(image.view(), image.width() / 2, image.height() / 2,
//                                             {.transfer = yl::Transfer::srgb}));
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <string_view>
#include <yl/api.hpp>
#include <yl/image.hpp>
#include <yl/progress.hpp>
#include <yl/result.hpp>
#include <yl/texture.hpp>

namespace yl {

/// A kernel along one axis. Lengths are in texels of the coarser of the two images.
struct YL_API Kernel {
    enum class Kind : std::uint8_t {
        box,       ///< exact areas: each texel counts as much as it is covered
        triangle,  ///< falls off to both neighbours
        cubic,     ///< the family of Mitchell and Netravali, by `b` and `c`
        lanczos,   ///< a sinc under a wider one, `radius` texels to each side
        kaiser,    ///< a sinc under a Kaiser window, `radius` texels to each side
    };

    Kind kind = Kind::box;
    float b = 1.0F / 3, c = 1.0F / 3;  ///< of `cubic`
    float radius = 3;                  ///< of `lanczos` and `kaiser`: 1 to 16
    float shape = 4;  ///< of `kaiser`: 0 to 20; larger is softer, with less ringing

    /// How far the kernel reaches on each side of a texel's centre.
    [[nodiscard]] double reach() const;

    friend bool operator==(const Kernel&, const Kernel&) = default;
};

/// "box", "triangle", "mitchell", "catmull-rom", "cubic:B,C", "lanczos:RADIUS",
/// "kaiser:RADIUS,SHAPE"; numbers may be left out.
/// Fails with `ErrorKind::usage` for anything else, and for numbers out of their range.
[[nodiscard]] YL_API Result<Kernel> parse_kernel(std::string_view text);
[[nodiscard]] YL_API std::string kernel_text(const Kernel& kernel);

/// "clamp", "repeat" or "mirror", or two of them with a comma: across, down.
/// Fails with `ErrorKind::usage` for anything else.
[[nodiscard]] YL_API Result<Edges> parse_edges(std::string_view text);
[[nodiscard]] YL_API std::string edges_text(const Edges& edges);

/// How to resize. All members are optional.
struct ResizeOptions {
    /// By default that of Mitchell and Netravali: soft, with hardly any ringing.
    Kernel kernel = {.kind = Kernel::Kind::cubic};
    Edges edges = {Edge::clamp, Edge::clamp};
    Transfer transfer = Transfer::linear;  ///< of colours, if the format does not say it
    AlphaMode alpha = AlphaMode::straight;
    bool limit_ringing = false;  ///< keep each pixel within the range of those that it covers
    bool dither = false;
    Progress progress = {};
};

/// Resizes in linear light; straight alpha weighs colour. Fails with `ErrorKind::usage` if a side
/// is 0, with `unsupported` for block formats, and with `limit` beyond the limits.
[[nodiscard]] YL_API Result<Image> resize(ConstImageView image, std::uint32_t width,
                                          std::uint32_t height, const ResizeOptions& options = {});

}  // namespace yl
