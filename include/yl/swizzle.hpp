// Which stored channel a shader sees in each of red, green, blue and alpha.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace yl {

enum class SwizzleSource : std::uint8_t { red, green, blue, alpha, zero, one };

using Swizzle = std::array<SwizzleSource, 4>;

inline constexpr Swizzle identity_swizzle = {SwizzleSource::red, SwizzleSource::green,
                                             SwizzleSource::blue, SwizzleSource::alpha};
/// One stored channel seen as gray, opaque.
inline constexpr Swizzle gray_swizzle = {SwizzleSource::red, SwizzleSource::red, SwizzleSource::red,
                                         SwizzleSource::one};
/// Two stored channels seen as gray with alpha.
inline constexpr Swizzle gray_alpha_swizzle = {SwizzleSource::red, SwizzleSource::red,
                                               SwizzleSource::red, SwizzleSource::green};

/// Four letters of "rgba01", as KTX 2.0 writes them: "rrr1".
[[nodiscard]] std::string swizzle_text(const Swizzle& swizzle);
[[nodiscard]] std::optional<Swizzle> parse_swizzle(std::string_view text);

/// Applies the swizzle to `count` RGBA pixels, in place.
void apply_swizzle(const Swizzle& swizzle, float* rgba, std::size_t count);

}  // namespace yl
