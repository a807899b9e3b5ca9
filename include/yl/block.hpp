// Block-compressed formats: BC1 to BC7, ETC2 and EAC, decoded and encoded.
//
//     yl::Texture blocks = yl::or_exit(yl::encode_texture(
//         texture, yl::Format::bc7_srgb, {.role = yl::Role::color, .effort = 5}));
//     yl::Texture texels = yl::or_exit(yl::decode_texture(blocks));
#pragma once

#include <optional>
#include <yl/api.hpp>
#include <yl/image.hpp>
#include <yl/progress.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

/// The format that a block format decodes to: 8-bit RGBA for BC1, BC2, BC3, BC7 and ETC2, one or two
/// 8-bit channels for BC4 and BC5, 16-bit ones for EAC, half-float RGBA for BC6H. Nothing for other
/// formats.
[[nodiscard]] YL_API std::optional<Format> decoded_format(Format format);

/// Decodes every block. `pixels` has the same size and the format above. The colours between two
/// endpoints are rounded to the nearest code; those of BC6H, BC7, ETC2 and EAC are exact, as their
/// standard says, the 11 bits of EAC as the nearest of 16. Blocks of reserved modes are black:
/// transparent in BC7, opaque in BC6H.
/// Fails with `ErrorKind::usage` if `blocks` is not in a block format or `pixels` does not match.
[[nodiscard]] YL_API Status decode_blocks(ConstImageView blocks, ImageView pixels);

/// The same, into a new image.
[[nodiscard]] YL_API Result<Image> decode_blocks(ConstImageView blocks);

/// Decodes every level, layer, face and slice and keeps the metadata. Textures in other formats are
/// copied. Fails only with `ErrorKind::memory`.
[[nodiscard]] YL_API Result<Texture> decode_texture(const Texture& texture);

/// How colour errors are weighed.
enum class ErrorWeights : std::uint8_t {
    uniform,     ///< all channels alike: squared differences of code values
    perceptual,  ///< by how much each channel adds to the perceived brightness
};

/// How blocks are encoded. All members are optional.
struct BlockOptions {
    /// `normal`: the angle between vectors, and components are biased where one format is unsigned
    /// and the other is not. Others: the plain square.
    Role role = Role::color;
    /// With `straight`, texels of the role `color` are weighed by their alpha, because transparent
    /// ones are invisible. A texture's own alpha mode takes precedence.
    AlphaMode alpha = AlphaMode::straight;
    ErrorWeights weights = ErrorWeights::uniform;
    int effort = 5;  ///< 0 (fastest) .. 10 (exhaustive)
    /// How colour values are encoded where the source's format does not say it (16 bits).
    Transfer source_transfer = Transfer::linear;
    /// How much squared error one saved bit of the compressed file is worth: 0 (none) to about 100.
    /// Blocks are then chosen to compress better by Zstandard or DEFLATE.
    float rate_distortion = 0;
    /// BC1 without alpha, from effort 8 on: use the fourth colour of blocks of three, black. OpenGL
    /// and Vulkan show it opaque; Direct3D, Metal, WebGPU and readers of DDS files show a hole.
    bool black_of_three = false;
    /// ETC2 RGB: only blocks that devices with ETC1 alone (OES_compressed_ETC1_RGB8_texture) decode
    /// the same: two halves, no planes and no pairs of colours.
    bool etc1_only = false;
    Progress progress = {};

    friend bool operator==(const BlockOptions&, const BlockOptions&) = default;
};

/// Encodes an image. `blocks` has the same size and a block format; at edges that are not a multiple
/// of four, the last texels are repeated. Any format that can be converted will do as the source;
/// BC4, BC5 and EAC use 16 bits and floats in full. The bytes do not depend on threads and processor.
/// Fails with `ErrorKind::cancelled` when `progress` says so.
[[nodiscard]] YL_API Status encode_blocks(ConstImageView pixels, ImageView blocks,
                                          const BlockOptions& options = {});

/// The same, into a new image.
[[nodiscard]] YL_API Result<Image> encode_blocks(ConstImageView pixels, Format format,
                                                 const BlockOptions& options = {});

/// Encodes every level, layer, face and slice and keeps the metadata.
/// Fails as `encode_blocks` does.
[[nodiscard]] YL_API Result<Texture> encode_texture(const Texture& texture, Format format,
                                                    const BlockOptions& options = {});

/// Converts a texture to any format, decoding and encoding blocks as needed. Keeps the metadata as
/// far as the format allows.
/// Fails with `ErrorKind::unsupported` for block formats without an encoder.
[[nodiscard]] YL_API Result<Texture> texture_in_format(const Texture& texture, Format format,
                                                       Role role, const BlockOptions& options = {});

/// The number of blocks in a `bc1` texture whose black appears transparent on devices that only
/// have BC1 with alpha; 0 for other formats.
[[nodiscard]] YL_API std::uint64_t count_blocks_with_black_of_three(const Texture& texture);

/// The number of blocks in an `etc2-rgb8` texture that a device with ETC1 alone would decode to
/// something else; 0 for other formats, of which ETC1 has none.
[[nodiscard]] YL_API std::uint64_t count_blocks_beyond_etc1(const Texture& texture);

}  // namespace yl
