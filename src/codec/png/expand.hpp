// PNG's stored samples to whole channels: depths under 8 bits, palettes, transparency, byte order.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "codec/png/chunks.hpp"

namespace yl::png {

/// What is needed to turn stored samples into channels, beside the header.
struct SampleMeaning {
    std::array<std::array<std::uint8_t, 4>, 256> palette{};  ///< RGBA; unused entries opaque black
    std::uint32_t palette_size = 0;
    bool palette_has_alpha = false;
    std::optional<std::array<std::uint16_t, 3>> transparent;  ///< the one transparent gray or RGB
};

/// Turns stored rows into rows of pixels.
class RowExpander {
 public:
    /// `to_rgba` asks for four channels whatever the file has. Both references must outlive it.
    RowExpander(const Header& header, const SampleMeaning& meaning, bool to_rgba);

    /// Of a pixel: 1 to 4 channels of 8 or 16 bits.
    [[nodiscard]] std::uint32_t channels() const { return to_rgba_ ? 4 : own_channels_; }
    [[nodiscard]] std::uint32_t bits() const { return header_.bits == 16 ? 16 : 8; }
    [[nodiscard]] std::uint32_t own_channels() const { return own_channels_; }

    /// Whether the stored bytes are the pixels already.
    [[nodiscard]] bool changes_nothing() const { return is_plain_ && channels() == own_channels_; }

    /// Expands `count` pixels of one unfiltered row.
    void expand(const std::byte* stored, std::byte* pixels, std::uint32_t count);

 private:
    void expand_own(const std::byte* stored, std::byte* pixels, std::uint32_t count) const;

    const Header& header_;
    const SampleMeaning& meaning_;
    bool to_rgba_;
    std::uint32_t own_channels_;
    bool is_plain_;  ///< the stored bytes are those of the file's own channels
    std::vector<std::byte> own_;
};

}  // namespace yl::png
