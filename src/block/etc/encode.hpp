// Encoders of many blocks at once.
#pragma once

#include <array>
#include <cstddef>

#include "block/block_codec.hpp"
#include "block/etc/eac_values.hpp"

namespace yl::etc {

/// One channel: 16 values a block, in codes, which may lie between whole ones; `weights` as many,
/// or null.
void encode_eac(EacKind kind, const float* values, const float* weights, std::size_t count,
                const ChannelSettings& settings, std::byte* blocks);

/// Texels are RGBA of 8 bits, 64 bytes a block; `block_words` from one block to the next.
void encode_rgb(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::size_t block_words, std::byte* blocks);
/// With a hole where alpha is below a half.
void encode_rgb_cut_out(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                        std::byte* blocks);

}  // namespace yl::etc
