// What all ways to bake have in common: the format that is asked for, and the last step to a block
// format, whose chain is made of plain texels first.
#pragma once

#include <concepts>
#include <optional>

#include "bake/formats.hpp"

#include <yl/bake.hpp>
#include <yl/block.hpp>
#include <yl/finding.hpp>

namespace yl {

/// What a texture is made in before its blocks are encoded: the decoded format, with 16 bits where
/// the encoder makes use of them. Other formats stay as they are.
[[nodiscard]] Format format_of_chain(Format wanted);

/// The options of pictures and of cubes say the same of the texture that is made, by the same
/// names.
template <class T>
concept TextureBakeOptions = requires(const T& options) {
    { options.role } -> std::same_as<const std::optional<Role>&>;
    { options.format } -> std::same_as<const std::optional<Format>&>;
    { options.compressed } -> std::same_as<const BlockFamily&>;
    { options.bits_per_texel } -> std::same_as<const float&>;
    { options.blocks } -> std::same_as<const BlockOptions&>;
    { options.levels } -> std::same_as<const std::optional<std::uint32_t>&>;
    { options.sampler } -> std::same_as<const std::optional<Sampler>&>;
    { options.progress } -> std::same_as<const Progress&>;
};

/// The format that is asked for, or the one that suits; `blocks(family)` says that of a family.
template <TextureBakeOptions Options, class Blocks>
[[nodiscard]] Format wanted_format(const Options& options, Format plain, const Blocks& blocks) {
    if (options.format)
        return *options.format;
    if (options.compressed == BlockFamily::none)
        return plain;
    return with_bits_per_texel(blocks(options.compressed), options.bits_per_texel);
}

/// How blocks are encoded, and who is told of it.
template <TextureBakeOptions Options>
[[nodiscard]] BlockOptions block_options(const Options& options, Role role) {
    BlockOptions blocks = options.blocks;
    blocks.role = role;
    if (options.progress)
        blocks.progress = options.progress;
    return blocks;
}

/// Encodes the finished chain, if `wanted` is a block format, and adds what some devices object to
/// in its size.
[[nodiscard]] Status encode_chain(Texture& texture, Format wanted, const BlockOptions& blocks,
                                  BlockFamily family, Findings& findings);

/// What some devices object to in the size of such a texture; and whether it has no blocks although a
/// family of them was asked for.
[[nodiscard]] Findings check_blocks(const TextureShape& shape, BlockFamily family);

/// The family of blocks that is asked for; a format that is named goes before it.
template <TextureBakeOptions Options>
[[nodiscard]] BlockFamily wanted_family(const Options& options) {
    return options.format ? BlockFamily::none : options.compressed;
}

}  // namespace yl
