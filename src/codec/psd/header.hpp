// What a PSD file says before its merged picture (Adobe Photoshop File Formats Specification, 2019).
//
//   8BPS (32)  version: 1, large files 2 (16)  zeros (48)  channels (16)  height (32)  width (32)
//   bits (16)  colour mode (16), then sections, each behind its length:
//   colours of a palette | resources | layers (a length of 64 bits in large files) | the picture
#pragma once

#include <optional>

#include "base/bytes.hpp"

namespace yl::psd {

enum class ColorMode : std::uint16_t {
    bitmap = 0,
    gray = 1,
    palette = 2,
    rgb = 3,
    cmyk = 4,
    multichannel = 7,
    duotone = 8,
    lab = 9,
};

struct Document {
    bool is_large = false;
    std::uint32_t width = 0, height = 0;
    std::uint32_t channels = 0;  ///< stored
    std::uint32_t bits = 8;
    ColorMode mode = ColorMode::rgb;
    ByteSpan palette{};  ///< 256 reds, then greens, then blues
    ByteSpan profile{};
    std::optional<std::uint32_t> clear_index{};  ///< of the palette
    std::optional<double> pixels_per_metre{};
    bool has_merged = true;       ///< else the picture's place is filled with nothing
    bool is_see_through = false;  ///< the first channel behind the colours is the picture's alpha
    bool has_layers = false;
    ByteSpan picture{};
    std::size_t picture_offset = 0;

    /// Of the colour mode.
    [[nodiscard]] std::uint32_t color_channels() const;
    [[nodiscard]] bool has_alpha() const;
    /// As they are handed over: 1 to 4.
    [[nodiscard]] std::uint32_t texel_channels() const;
    [[nodiscard]] bool is_float() const { return bits == 32; }
};

[[nodiscard]] bool recognise(ByteSpan bytes);

/// Fails with `ErrorKind::malformed`, and with `unsupported` for modes that are not read.
[[nodiscard]] Result<Document> parse(ByteSpan bytes);
/// The same of a file's beginning: the sections behind the header may be cut off.
[[nodiscard]] Result<Document> parse_header(ByteReader& reader);

}  // namespace yl::psd
