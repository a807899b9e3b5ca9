// The last step of baking to a block format: the chain is made of plain texels first.
#pragma once

#include <yl/bake.hpp>
#include <yl/block.hpp>
#include <yl/finding.hpp>

namespace yl {

/// What a texture is made in before its blocks are encoded: the decoded format, with 16 bits where
/// the encoder makes use of them. Other formats stay as they are.
[[nodiscard]] Format format_of_chain(Format wanted);

/// How the blocks of a texture that is baked are encoded.
[[nodiscard]] BlockOptions block_options(const BakeOptions& options);

/// Encodes the finished chain, if `wanted` is a block format.
[[nodiscard]] Status encode_chain(Texture& texture, Format wanted, Role role,
                                  const BlockOptions& options);

/// What some devices object to in the size of such a texture.
[[nodiscard]] Findings check_block_size(const TextureShape& shape);

}  // namespace yl
