// Texels for samplers, whatever the format.
#pragma once

#include <memory>

#include <yl/block.hpp>
#include <yl/status_macros.hpp>

namespace yl {

/// The decoded texture of one of a block format; null when it can be sampled as it is.
[[nodiscard]] inline Result<std::shared_ptr<const Texture>> decoded_if_blocks(
    const Texture& texture) {
    if (!info(texture.shape().format).is_block())
        return nullptr;
    YL_TRY(Texture decoded, decode_texture(texture));
    return std::make_shared<const Texture>(std::move(decoded));
}

}  // namespace yl
