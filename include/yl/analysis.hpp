// What the pixels of a picture really use.
#pragma once

#include <yl/image.hpp>
#include <yl/swizzle.hpp>

namespace yl {

struct ChannelUse {
    bool is_gray = false;          ///< red, green and blue are equal everywhere
    bool is_opaque = false;        ///< alpha is 1 everywhere
    bool alpha_is_binary = false;  ///< alpha is 0 or 1 everywhere
    /// The channels that carry something: 1 gray, 2 gray and alpha, 3 RGB, 4 RGBA.
    [[nodiscard]] std::uint32_t useful_channels() const {
        return (is_gray ? 1U : 3U) + (is_opaque ? 0U : 1U);
    }
};

/// Looks at every pixel, as seen through the swizzle. Block formats count as RGBA.
[[nodiscard]] ChannelUse analyse_channels(ConstImageView image,
                                          const Swizzle& swizzle = identity_swizzle);

}  // namespace yl
