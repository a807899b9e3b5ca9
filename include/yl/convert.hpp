// Pixels from one format to another, and which channel is seen where.
//
//     yl::Image half_floats = yl::or_exit(yl::convert(
//         image.view(), yl::Format::rgba16_float, {.source_transfer = yl::Transfer::srgb}));
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <yl/api.hpp>
#include <yl/image.hpp>

namespace yl {

enum class SwizzleSource : std::uint8_t { red, green, blue, alpha, zero, one };

/// What a shader sees in red, green, blue and alpha, in that order.
using Swizzle = std::array<SwizzleSource, 4>;

/// Every channel as it is stored.
inline constexpr Swizzle identity_swizzle = {SwizzleSource::red, SwizzleSource::green,
                                             SwizzleSource::blue, SwizzleSource::alpha};
/// One stored channel seen as gray, opaque.
inline constexpr Swizzle gray_swizzle = {SwizzleSource::red, SwizzleSource::red, SwizzleSource::red,
                                         SwizzleSource::one};
/// Two stored channels seen as gray with alpha.
inline constexpr Swizzle gray_alpha_swizzle = {SwizzleSource::red, SwizzleSource::red,
                                               SwizzleSource::red, SwizzleSource::green};

/// Four letters of "rgba01", as KTX 2.0 writes them: "rrr1".
[[nodiscard]] YL_API std::string swizzle_text(const Swizzle& swizzle);
[[nodiscard]] YL_API std::optional<Swizzle> parse_swizzle(std::string_view text);

/// Applies the swizzle to `count` RGBA pixels, in place.
YL_API void apply_swizzle(const Swizzle& swizzle, float* rgba, std::size_t count);

/// What becomes of three channels where one is wanted.
enum class ToOneChannel : std::uint8_t {
    refuse,     ///< a usage error
    luminance,  ///< of linear light, by BT.709
    red,        ///< the first channel alone
};

/// How values become others. All parts may be left out.
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
/// A view knows little of its pixels. `convert(const Picture&, Format)` in <yl/picture.hpp> knows
/// all of it, and `convert_normals` in <yl/normals.hpp> is for directions.
[[nodiscard]] YL_API Status convert(ConstImageView source, ImageView target,
                                    const ConvertOptions& options);

/// The same into a new image.
[[nodiscard]] YL_API Result<Image> convert(ConstImageView source, Format format,
                                           const ConvertOptions& options);

}  // namespace yl
