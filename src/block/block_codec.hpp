// What can be done with each block format: a row of a table for each, in the folder of its family.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include <yl/format.hpp>

namespace yl {

inline constexpr int default_effort = 5;
inline constexpr std::size_t texels_of_block = 16;        ///< of families whose blocks are 4 x 4
inline constexpr std::size_t most_texels_of_block = 144;  ///< of any family

struct ColorSettings {
    int effort = default_effort;
    std::array<float, 4> channel_weights = {1, 1, 1, 1};  ///< of red, green, blue and alpha
    bool weigh_by_alpha = false;                          ///< colours count as far as they are seen
    bool black_of_three = false;  ///< BC1: blocks of three colours may use their black
    bool etc1_only = false;       ///< ETC2: halves alone
    bool are_normals = false;     ///< errors along the vector itself do not count
};

struct ChannelSettings {
    int effort = default_effort;
    float min = 0;  ///< codes: 0 and 255, or -127 and 127
    float max = 255;
    std::size_t block_words = 2;  ///< from one block to the next
};

/// Decodes `count` blocks that lie side by side.
using RowDecoder = void (*)(const std::byte* blocks, std::size_t count, std::byte* texels,
                            std::size_t stride);

/// A row by a decoder of single blocks.
template <std::size_t block_bytes, std::size_t quad_bytes, auto decode>
void each_block(const std::byte* blocks, std::size_t count, std::byte* texels, std::size_t stride) {
    for (std::size_t i = 0; i < count; ++i)
        decode(blocks + i * block_bytes, texels + i * quad_bytes, stride);
}

/// Encodes blocks of RGBA, all texels of a block row by row before those of the next: 4 bytes a
/// texel, or 8 for formats that decode to half floats.
using TexelEncoder = void (*)(const std::byte* texels, std::size_t count,
                              const ColorSettings& settings, std::byte* blocks);

/// Encodes one channel: 16 values a block, in codes, which may lie between whole ones; `weights` as
/// many, or null.
using ChannelEncoder = void (*)(const float* values, const float* weights, std::size_t count,
                                const ChannelSettings& settings, std::byte* blocks);

/// Bytes of a block that may be taken from an earlier one, where both have them.
struct BlockPart {
    std::size_t begin = 0, end = 0;
};

struct BlockCodec {
    Format format = Format::undefined;
    Format decoded = Format::undefined;  ///< what blocks become
    RowDecoder decode = nullptr;
    TexelEncoder encode_texels = nullptr;     ///< null for one or two channels
    ChannelEncoder encode_channel = nullptr;  ///< null for more
    float greatest_code = 255;                ///< of a channel
    std::span<const BlockPart> parts = {};
};

/// The alphas of texels of 8 bits.
[[nodiscard]] inline std::vector<float> alphas_of(const std::byte* texels, std::size_t count) {
    std::vector<float> alphas(count * texels_of_block);
    for (std::size_t i = 0; i < alphas.size(); ++i)
        alphas[i] = static_cast<float>(std::to_integer<int>(texels[i * 4 + 3]));
    return alphas;
}

/// Null for formats that have no blocks.
[[nodiscard]] const BlockCodec* find_block_codec(Format format);

namespace bc {
[[nodiscard]] std::span<const BlockCodec> block_codecs();
}
namespace etc {
[[nodiscard]] std::span<const BlockCodec> block_codecs();
}
namespace astc {
[[nodiscard]] std::span<const BlockCodec> block_codecs();
}

}  // namespace yl
