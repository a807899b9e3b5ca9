// Rows of any format to and from the working format: linear float RGBA.
#pragma once

#include <array>
#include <cstddef>

#include <yl/format.hpp>
#include "base/internal.hpp"

namespace yl {

/// Channels that the format has not got load as 0, alpha as 1, and are dropped when stored.
/// Values out of the format's range are clamped; NaN is stored as 0 by the normalised formats.
struct RowCodec {
    void (*load)(const std::byte* texels, float* rgba, std::size_t count) = nullptr;
    void (*store)(const float* rgba, std::byte* texels, std::size_t count) = nullptr;
};

/// `transfer` says how the colour values are encoded where the format itself does not say so; it
/// has no meaning for float formats, which are linear. Block formats have no row codec (null).
[[nodiscard]] YL_INTERNAL RowCodec row_codec(Format format, Transfer transfer);

/// The same without vectors, as the reference for those that have them.
[[nodiscard]] RowCodec plain_row_codec(Format format, Transfer transfer);

/// Linear values of 8-bit codes.
using CodeTable = std::array<float, 256>;

/// Whether the format holds 8-bit RGBA in this order, as unsigned fractions.
[[nodiscard]] bool is_rgba8(const FormatInfo& format);

// Rows of 8-bit RGBA, a vector at a time.
void load_rgba8_srgb(const std::byte* texels, float* rgba, std::size_t count);
void store_rgba8_srgb(const float* rgba, std::byte* texels, std::size_t count);
void load_rgba8_unorm(const std::byte* texels, float* rgba, std::size_t count);
void store_rgba8_unorm(const float* rgba, std::byte* texels, std::size_t count);

}  // namespace yl
