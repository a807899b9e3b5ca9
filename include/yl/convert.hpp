// Pixels from one format to another.
#pragma once

#include <optional>
#include <yl/image.hpp>
#include <yl/swizzle.hpp>

namespace yl {

/// What becomes of three channels where one is wanted.
enum class ToOneChannel : std::uint8_t {
    refuse,     ///< a usage error
    luminance,  ///< of linear light, by BT.709
    red,        ///< the first channel alone
};

struct ConvertOptions {
    /// How the source's colours are encoded. It has to be said of unsigned fractions in a format
    /// that does not say it (`rgba8_unorm`, `rgba16_unorm` ...): nobody else knows.
    std::optional<Transfer> source_transfer = {};
    /// How the target's are to be, where its format does not say it.
    Transfer target_transfer = Transfer::linear;
    /// Applied on the way: gray to RGB, for one. A channel that becomes alpha is never decoded.
    Swizzle swizzle = identity_swizzle;
    bool dither = false;  ///< integer targets: spread the rounding error as fine noise
    ToOneChannel to_one_channel = ToOneChannel::refuse;  ///< where the swizzle is the identity
};

/// Converts every pixel by way of linear float RGBA; equal formats and transfers are copied.
/// Channels that the source has not got are 0, alpha 1; numbers out of the target's range are
/// clamped and rounded to the nearest. Fails with `ErrorKind::usage` when the views differ in size,
/// when nothing says how the source's colours are encoded, and when three channels meet one.
///
/// A view knows little of its pixels. `convert(const Picture&, Format)` in <yl/codec.hpp> knows all
/// of it, and `convert_normals` in <yl/normals.hpp> is for directions.
[[nodiscard]] Status convert(ConstImageView source, ImageView target,
                             const ConvertOptions& options);

/// The same into a new image.
[[nodiscard]] Result<Image> convert(ConstImageView source, Format format,
                                    const ConvertOptions& options);

}  // namespace yl
