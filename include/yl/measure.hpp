// How far two pictures are apart.
#pragma once

#include <cstdint>
#include <yl/image.hpp>

namespace yl {

/// Differences of 8-bit pictures, in code values.
struct PictureDifference {
    std::uint64_t pixels = 0;
    std::uint64_t pixels_beyond = 0;  ///< with a channel that is off by more than the tolerance
    int greatest = 0;
    std::uint32_t worst_x = 0;  ///< where the greatest difference is
    std::uint32_t worst_y = 0;
    double mean = 0;  ///< over all channels

    /// Share of the pixels within the tolerance, 0 .. 1.
    [[nodiscard]] double share_within() const {
        return pixels == 0 ? 1.0
                           : 1.0 - static_cast<double>(pixels_beyond) / static_cast<double>(pixels);
    }
};

/// Compares two images of the same size and the same 8-bit format, byte by byte. Fails with
/// `ErrorKind::usage` when they are not.
[[nodiscard]] Result<PictureDifference> compare_pictures(ConstImageView a, ConstImageView b,
                                                         int tolerance);

}  // namespace yl
