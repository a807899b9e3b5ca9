// Texels of any image, gathered block by block as the encoders take them.
#pragma once

#include <vector>

#include <yl/block.hpp>
#include "pixel/rows.hpp"

namespace yl {

/// Whether an error of colour counts by the texel's alpha.
[[nodiscard]] inline bool weighs_by_alpha(const BlockOptions& options) {
    return options.role == Role::color && options.alpha == AlphaMode::straight;
}

/// How an encoder takes its texels.
enum class TexelKind {
    bytes,   ///< RGBA of 8 bits
    codes,   ///< one or two channels, as numbers in the target's codes
    halves,  ///< RGBA of half floats
};

/// Reads blocks of an image; beyond its edges the last texels are repeated.
class SourceBlocks {
 public:
    SourceBlocks(ConstImageView image, Transfer transfer, const FormatInfo& target,
                 bool are_normals = false);

    [[nodiscard]] bool possible() const { return load_ != nullptr; }

    /// Row `block_y` of blocks as bytes or halves, one block after the other.
    void read(std::uint32_t block_y, std::byte* blocks) const;
    /// The same as codes: all blocks' first channel, then their second.
    void read_codes(std::uint32_t block_y, float* blocks) const;

    [[nodiscard]] std::size_t across() const { return (image_.width + width_ - 1U) / width_; }
    /// Texels of a block.
    [[nodiscard]] std::size_t texels() const { return std::size_t{width_} * height_; }

 private:
    void read_row(std::uint32_t y, std::vector<float>& rgba) const;

    ConstImageView image_;
    FormatInfo target_;
    std::uint32_t width_, height_;  ///< of a block
    Format texel_format_;
    Transfer transfer_;
    void (*load_)(const std::byte*, float*, std::size_t);
    RowCodec texels_;
    float greatest_code_;          ///< of a channel of the target
    float scale_ = 1, shift_ = 0;  ///< of directions whose bias the target has and the source not
};

}  // namespace yl
