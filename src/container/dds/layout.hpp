// The fixed parts of a DDS file.
//
//   byte  0  "DDS "
//         4  header, 31 numbers of 32 bits:
//              0  size (124)        1  flags           2  height        3  width
//              4  pitch or size     5  depth           6  levels        7 .. 17  reserved
//             18  size (32)        19  flags          20  four-letter code
//             21  bits a texel     22 .. 25  masks of red, green, blue and alpha
//             26  caps             27  caps 2         28 .. 30  caps 3, caps 4, reserved
//       128  with the code "DX10", 5 more: DXGI format, dimension, flags, array size, flags 2
//            then each layer's or face's chain, one after the other, level 0 first
#pragma once

#include <array>
#include <cstdint>

#include "container/texture_format.hpp"

namespace yl::dds {

inline constexpr std::uint32_t magic = 0x20534444;  // "DDS "
inline constexpr std::size_t header_words = 31;
inline constexpr std::size_t header_bytes = 4 + 4 * header_words;
inline constexpr std::size_t extension_bytes = 20;

// Words of the header.
enum : std::size_t {
    word_size,
    word_flags,
    word_height,
    word_width,
    word_pitch,
    word_depth,
    word_levels,
    word_format_size = 18,
    word_format_flags,
    word_code,
    word_bits,
    word_masks,
    word_caps = 26,
    word_caps2
};

inline constexpr std::uint32_t flags_always = 0x1 | 0x2 | 0x4 | 0x1000;  // caps, sides, format
inline constexpr std::uint32_t flag_pitch = 0x8, flag_levels = 0x20000, flag_size = 0x80000,
                               flag_depth = 0x800000;
inline constexpr std::uint32_t format_alpha = 0x1, format_alpha_only = 0x2, format_code = 0x4,
                               format_rgb = 0x40, format_luminance = 0x20000,
                               format_signed = 0x80000;
inline constexpr std::uint32_t caps_complex = 0x8, caps_texture = 0x1000, caps_levels = 0x400000;
inline constexpr std::uint32_t caps2_cube = 0x200, caps2_first_face = 0x400,
                               caps2_all_faces = 0xFC00, caps2_volume = 0x200000;
inline constexpr std::uint32_t dimension_1d = 2, dimension_2d = 3, dimension_3d = 4;
inline constexpr std::uint32_t extension_cube = 4;
/// The extension's second flags: what alpha means.
inline constexpr std::uint32_t alpha_mask = 7;
inline constexpr std::uint32_t alpha_unknown = 0, alpha_straight = 1, alpha_premultiplied = 2,
                               alpha_opaque = 3, alpha_custom = 4;

[[nodiscard]] constexpr std::uint32_t code_of(const char (&letters)[5]) {
    return static_cast<std::uint32_t>(letters[0]) | static_cast<std::uint32_t>(letters[1]) << 8 |
           static_cast<std::uint32_t>(letters[2]) << 16 |
           static_cast<std::uint32_t>(letters[3]) << 24;
}

/// BC1 without alpha has no number of its own: the flags tell it from BC1 with holes.
[[nodiscard]] inline bool is_opaque_bc1(Format format) {
    return format == Format::bc1_unorm || format == Format::bc1_srgb;
}

/// The pixel format of a header without the extension.
struct PixelFormat {
    std::uint32_t flags = 0, code = 0, bits = 0;
    std::array<std::uint32_t, 4> masks{};
};

/// What a header's pixel format means.
struct KnownFormat {
    Format format = Format::undefined;
    Swizzle swizzle = identity_swizzle;
    AlphaMode alpha = AlphaMode::straight;
    RowExpansion expansion = {};
    std::string remark = {};
};

[[nodiscard]] Result<KnownFormat> known_legacy_format(const PixelFormat& pixels);
[[nodiscard]] Result<KnownFormat> known_dxgi_format(std::uint32_t number);

/// The legacy header's way to say a format, where it has one.
[[nodiscard]] std::optional<PixelFormat> legacy_format(Format format,
                                                       const TextureMetadata& metadata);

}  // namespace yl::dds
