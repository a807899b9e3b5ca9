// Pixels from one format to another.
#pragma once

#include <yl/image.hpp>
#include <yl/swizzle.hpp>

namespace yl {

struct ConvertOptions {
    /// How colour values are encoded where a format does not say it itself (8 and 16 bits).
    Transfer source_transfer = Transfer::linear;
    Transfer target_transfer = Transfer::linear;
    /// Applied on the way: gray to RGB, for one. A channel that becomes alpha is never decoded.
    Swizzle swizzle = identity_swizzle;
    bool dither = false;  ///< integer targets: spread the rounding error as fine noise
};

/// Converts every pixel by way of linear float RGBA; equal formats and transfers are copied.
/// Channels that the source has not got are 0, alpha 1; numbers out of the target's range are
/// clamped and rounded to the nearest. The views must have the same size.
[[nodiscard]] Status convert(ConstImageView source, ImageView target,
                             const ConvertOptions& options = {});

/// The same into a new image.
[[nodiscard]] Result<Image> convert(ConstImageView source, Format format,
                                    const ConvertOptions& options = {});

}  // namespace yl
