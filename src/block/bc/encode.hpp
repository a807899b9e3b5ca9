// Encoders of many blocks at once.
#pragma once

#include <cstddef>

#include "block/block_codec.hpp"

namespace yl::bc {

/// Texels are RGBA of 8 bits, 64 bytes a block; blocks follow one another.
void encode_bc1(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::byte* blocks);
/// With three colours and a hole where alpha is below a half.
void encode_bc1a(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                 std::byte* blocks);
/// The second half of blocks of BC2 and BC3, 16 bytes each: always four colours.
void encode_bc3_color(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                      std::byte* blocks);
void encode_bc7(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::byte* blocks);

/// One channel: 16 values a block, in codes, which may lie between whole ones; `weights` as many,
/// or null.
void encode_bc4(const float* values, const float* weights, std::size_t count,
                const ChannelSettings& settings, std::byte* blocks);

struct LightSettings {
    int effort = default_effort;
    bool is_signed = false;
};

/// Texels are RGBA of half floats, 128 bytes a block; alpha is passed over.
void encode_bc6h(const std::byte* texels, std::size_t count, const LightSettings& settings,
                 std::byte* blocks);

}  // namespace yl::bc
