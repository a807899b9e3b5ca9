// Channels put together, exchanged and inverted.
#pragma once

#include <span>
#include <string_view>
#include <yl/image.hpp>

namespace yl {

/// What one channel of a packed image is filled with: a channel of some image as its numbers are
/// stored, or one number.
struct ChannelSource {
    ConstImageView image = {};  ///< of `width` 0: none, `value` is meant
    Channel channel = Channel::red;
    bool inverted = false;  ///< 1 - value
    float value = 0;        ///< 0 .. 1
};

/// One to four channels of as many sources, which have the same size: occlusion, roughness and
/// metalness in one image, say. Numbers are copied as they are stored, without any colour curve;
/// depth is 16 bits if any source has more than 8, else 8. Fails with `ErrorKind::usage` when there
/// are no images, or their sizes differ.
[[nodiscard]] Result<Image> pack_channels(std::span<const ChannelSource> sources);

/// The image with channels in another order or number, by one to four letters of "rgba01": "bgr",
/// "rrr1", "a". Stored numbers are copied, whatever they mean; depth is kept. Gray is stored in
/// red.
[[nodiscard]] Result<Image> reordered(ConstImageView image, std::string_view letters);

/// Turns one stored channel round: 1 - value, or the opposite of a signed one. For normals whose
/// green axis points the other way.
[[nodiscard]] Status invert_channel(ImageView image, Channel channel);

}  // namespace yl
