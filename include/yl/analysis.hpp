// What the pixels of a picture really use, and whether it tiles.
#pragma once

#include <array>
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

/// What the pixels could be meant for, as shares of all of them.
struct ContentMeasure {
    bool is_uniform = true;  ///< all pixels are equal
    float transparent = 0;   ///< alpha is under one half
    /// Could be normals as they are stored: 2c - 1 is about 1 long and does not look inwards.
    float directions = 0;
    std::array<float, 4> mean = {};  ///< of the stored numbers, as seen

    /// Whether the image as a whole looks like a normal map: nearly all texels are directions, and
    /// together they look outwards. A picture of a blue sky has directions too, but they lean.
    [[nodiscard]] bool looks_like_normals() const;
};

[[nodiscard]] ContentMeasure measure_content(ConstImageView image,
                                             const Swizzle& swizzle = identity_swizzle);

/// The least of 1, 2, 4, 8 and 16 bits that hold every value of the image without loss: a 16-bit
/// picture that was widened from 8 bits uses 8. Floats and packed formats use all of theirs.
[[nodiscard]] std::uint32_t bits_in_use(ConstImageView image);

/// How an image meets itself when it is repeated, one number an axis: the mean step from the last
/// column (row) to the first, over the mean step between neighbours within the image.
struct SeamMeasure {
    float across = 0;  ///< from the right edge to the left
    float down = 0;    ///< from the bottom edge to the top

    /// Above this a seam shows.
    static constexpr float visible = 2.0F;
};

/// Measured on the stored values, which are about as far apart as they look. An image of one row
/// or column meets itself in that axis.
[[nodiscard]] SeamMeasure measure_seams(ConstImageView image);

}  // namespace yl
