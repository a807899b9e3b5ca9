// Converting pixels from one format to another, and channel swizzles.
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

/// Every channel as stored.
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

/// How three channels become one.
enum class ToOneChannel : std::uint8_t {
    refuse,     ///< not at all: a usage error
    luminance,  ///< of linear light, by BT.709
    red,        ///< the first channel alone
};

/// How values are converted. All members are optional.
struct ConvertOptions {
    /// How the source's colours are encoded. Required for unsigned normalised formats that do not
    /// say it themselves (`rgba8_unorm`, `rgba16_unorm` ...).
    std::optional<Transfer> source_transfer = {};
    /// How the target's colours are to be encoded, if its format does not say.
    Transfer target_transfer = Transfer::linear;
    /// Applied during the conversion, for example to turn gray into RGB. A channel that becomes
    /// alpha is never decoded.
    Swizzle swizzle = identity_swizzle;
    bool dither = false;          ///< integer targets: turn rounding errors into fine noise
    std::uint32_t first_row = 0;  ///< of the views within their picture, for the noise
    ToOneChannel to_one_channel = ToOneChannel::refuse;  ///< where the swizzle is the identity
};

/// Converts every pixel by way of linear float RGBA; equal formats and transfers are copied.
/// Missing channels become 0, missing alpha 1. Values are clamped to the target's range and rounded
/// to the nearest. Fails with `ErrorKind::usage` if the views differ in size, if the source's
/// encoding is unknown, or if three channels would become one without `to_one_channel`.
///
/// A view does not know what its pixels mean; `convert(const Picture&, Format)` in <yl/picture.hpp>
/// does. For directions use `convert_normals` in <yl/normals.hpp>.
[[nodiscard]] YL_API Status convert(ConstImageView source, ImageView target,
                                    const ConvertOptions& options);

/// The same, into a new image.
[[nodiscard]] YL_API Result<Image> convert(ConstImageView source, Format format,
                                           const ConvertOptions& options);

}  // namespace yl
