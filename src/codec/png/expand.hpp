// PNG's stored samples to whole channels: depths under 8 bits, palettes, transparency, byte order.
#pragma once

#include <array>
#include <optional>

#include "codec/png/chunks.hpp"

namespace yl::png {

/// What is needed to turn stored samples into channels, beside the header.
struct SampleMeaning {
    std::array<std::array<std::uint8_t, 4>, 256> palette{};  ///< RGBA; unused entries opaque black
    std::uint32_t palette_size = 0;
    bool palette_has_alpha = false;
    std::optional<std::array<std::uint16_t, 3>> transparent;  ///< the one transparent gray or RGB
};

/// Channels of a pixel after expansion, 1 to 4, each of `expanded_bits`.
[[nodiscard]] std::uint32_t expanded_channels(const Header& header, const SampleMeaning& meaning);
[[nodiscard]] std::uint32_t expanded_bits(const Header& header);

/// Whether the stored bytes are the expanded ones already.
[[nodiscard]] bool is_expanded(const Header& header, const SampleMeaning& meaning);

/// Expands `count` pixels of one unfiltered row.
void expand_row(const Header& header, const SampleMeaning& meaning, const std::byte* stored,
                std::byte* expanded, std::uint32_t count);

}  // namespace yl::png
