#include <yl/format.hpp>

#include <algorithm>
#include <array>
#include <iterator>
#include <string>

namespace yl {
namespace {

// Enumerants of the OpenGL registry for pixel transfer.
constexpr std::uint32_t gl_red = 0x1903, gl_rg = 0x8227, gl_rgb = 0x1907, gl_rgba = 0x1908,
                        gl_bgra = 0x80E1;
constexpr std::uint32_t gl_u8 = 0x1401, gl_s8 = 0x1400, gl_u16 = 0x1403, gl_s16 = 0x1402,
                        gl_f16 = 0x140B, gl_f32 = 0x1406;

constexpr std::array<ChannelLayout, 4> packed_layout(std::uint8_t red, std::uint8_t green,
                                                     std::uint8_t blue, std::uint8_t alpha) {
    const auto at = [](int bits) { return static_cast<std::uint8_t>(bits); };
    return {{{Channel::red, 0, red},
             {Channel::green, red, green},
             {Channel::blue, at(red + green), blue},
             {Channel::alpha, at(red + green + blue), alpha}}};
}

constexpr std::array<ChannelLayout, 4> rgba_layout(std::uint8_t bits) {
    return packed_layout(bits, bits, bits, bits);
}

/// Channels of a block's texels, as decoding gives them.
constexpr std::array<ChannelLayout, 4> decoded_layout(std::uint8_t bits) {
    auto layout = rgba_layout(bits);
    for (ChannelLayout& channel : layout)
        channel.offset = 0;
    return layout;
}

constexpr std::array<ChannelLayout, 4> bgra_layout(std::uint8_t bits) {
    auto layout = rgba_layout(bits);
    std::swap(layout[0].channel, layout[2].channel);
    return layout;
}

// format, name, block width, height and bytes, type size, kind, transfer, channels and their
// layout, OpenGL (internal format, format, type), DXGI, WebGPU, Metal, family of blocks
// clang-format off
constexpr FormatInfo table[] = {
    {Format::r8_unorm, "r8-unorm", 1, 1, 1, 1, NumericKind::unorm, Transfer::linear, 1, rgba_layout(8), {0x8229, gl_red, gl_u8}, 61, "r8unorm", "R8Unorm"},
    {Format::r8_snorm, "r8-snorm", 1, 1, 1, 1, NumericKind::snorm, Transfer::linear, 1, rgba_layout(8), {0x8F94, gl_red, gl_s8}, 63, "r8snorm", "R8Snorm"},
    {Format::r8_srgb, "r8-srgb", 1, 1, 1, 1, NumericKind::unorm, Transfer::srgb, 1, rgba_layout(8), {0x8FBD, gl_red, gl_u8}, 0, "", "R8Unorm_sRGB"},
    {Format::rg8_unorm, "rg8-unorm", 1, 1, 2, 1, NumericKind::unorm, Transfer::linear, 2, rgba_layout(8), {0x822B, gl_rg, gl_u8}, 49, "rg8unorm", "RG8Unorm"},
    {Format::rg8_snorm, "rg8-snorm", 1, 1, 2, 1, NumericKind::snorm, Transfer::linear, 2, rgba_layout(8), {0x8F95, gl_rg, gl_s8}, 51, "rg8snorm", "RG8Snorm"},
    {Format::rg8_srgb, "rg8-srgb", 1, 1, 2, 1, NumericKind::unorm, Transfer::srgb, 2, rgba_layout(8), {0x8FBE, gl_rg, gl_u8}, 0, "", "RG8Unorm_sRGB"},
    {Format::rgb8_unorm, "rgb8-unorm", 1, 1, 3, 1, NumericKind::unorm, Transfer::linear, 3, rgba_layout(8), {0x8051, gl_rgb, gl_u8}, 0, "", ""},
    {Format::rgb8_snorm, "rgb8-snorm", 1, 1, 3, 1, NumericKind::snorm, Transfer::linear, 3, rgba_layout(8), {0x8F96, gl_rgb, gl_s8}, 0, "", ""},
    {Format::rgb8_srgb, "rgb8-srgb", 1, 1, 3, 1, NumericKind::unorm, Transfer::srgb, 3, rgba_layout(8), {0x8C41, gl_rgb, gl_u8}, 0, "", ""},
    {Format::rgba8_unorm, "rgba8-unorm", 1, 1, 4, 1, NumericKind::unorm, Transfer::linear, 4, rgba_layout(8), {0x8058, gl_rgba, gl_u8}, 28, "rgba8unorm", "RGBA8Unorm"},
    {Format::rgba8_snorm, "rgba8-snorm", 1, 1, 4, 1, NumericKind::snorm, Transfer::linear, 4, rgba_layout(8), {0x8F97, gl_rgba, gl_s8}, 31, "rgba8snorm", "RGBA8Snorm"},
    {Format::rgba8_srgb, "rgba8-srgb", 1, 1, 4, 1, NumericKind::unorm, Transfer::srgb, 4, rgba_layout(8), {0x8C43, gl_rgba, gl_u8}, 29, "rgba8unorm-srgb", "RGBA8Unorm_sRGB"},
    {Format::bgra8_unorm, "bgra8-unorm", 1, 1, 4, 1, NumericKind::unorm, Transfer::linear, 4, bgra_layout(8), {0x8058, gl_bgra, gl_u8}, 87, "bgra8unorm", "BGRA8Unorm"},
    {Format::bgra8_srgb, "bgra8-srgb", 1, 1, 4, 1, NumericKind::unorm, Transfer::srgb, 4, bgra_layout(8), {0x8C43, gl_bgra, gl_u8}, 91, "bgra8unorm-srgb", "BGRA8Unorm_sRGB"},
    {Format::rgb10a2_unorm, "rgb10a2-unorm", 1, 1, 4, 4, NumericKind::unorm, Transfer::linear, 4, packed_layout(10, 10, 10, 2), {0x8059, gl_rgba, 0x8368}, 24, "rgb10a2unorm", "RGB10A2Unorm"},
    {Format::r16_unorm, "r16-unorm", 1, 1, 2, 2, NumericKind::unorm, Transfer::linear, 1, rgba_layout(16), {0x822A, gl_red, gl_u16}, 56, "r16unorm", "R16Unorm"},
    {Format::r16_snorm, "r16-snorm", 1, 1, 2, 2, NumericKind::snorm, Transfer::linear, 1, rgba_layout(16), {0x8F98, gl_red, gl_s16}, 58, "r16snorm", "R16Snorm"},
    {Format::r16_float, "r16-float", 1, 1, 2, 2, NumericKind::signed_float, Transfer::linear, 1, rgba_layout(16), {0x822D, gl_red, gl_f16}, 54, "r16float", "R16Float"},
    {Format::rg16_unorm, "rg16-unorm", 1, 1, 4, 2, NumericKind::unorm, Transfer::linear, 2, rgba_layout(16), {0x822C, gl_rg, gl_u16}, 35, "rg16unorm", "RG16Unorm"},
    {Format::rg16_snorm, "rg16-snorm", 1, 1, 4, 2, NumericKind::snorm, Transfer::linear, 2, rgba_layout(16), {0x8F99, gl_rg, gl_s16}, 37, "rg16snorm", "RG16Snorm"},
    {Format::rg16_float, "rg16-float", 1, 1, 4, 2, NumericKind::signed_float, Transfer::linear, 2, rgba_layout(16), {0x822F, gl_rg, gl_f16}, 34, "rg16float", "RG16Float"},
    {Format::rgb16_unorm, "rgb16-unorm", 1, 1, 6, 2, NumericKind::unorm, Transfer::linear, 3, rgba_layout(16), {0x8054, gl_rgb, gl_u16}, 0, "", ""},
    {Format::rgb16_snorm, "rgb16-snorm", 1, 1, 6, 2, NumericKind::snorm, Transfer::linear, 3, rgba_layout(16), {0x8F9A, gl_rgb, gl_s16}, 0, "", ""},
    {Format::rgb16_float, "rgb16-float", 1, 1, 6, 2, NumericKind::signed_float, Transfer::linear, 3, rgba_layout(16), {0x881B, gl_rgb, gl_f16}, 0, "", ""},
    {Format::rgba16_unorm, "rgba16-unorm", 1, 1, 8, 2, NumericKind::unorm, Transfer::linear, 4, rgba_layout(16), {0x805B, gl_rgba, gl_u16}, 11, "rgba16unorm", "RGBA16Unorm"},
    {Format::rgba16_snorm, "rgba16-snorm", 1, 1, 8, 2, NumericKind::snorm, Transfer::linear, 4, rgba_layout(16), {0x8F9B, gl_rgba, gl_s16}, 13, "rgba16snorm", "RGBA16Snorm"},
    {Format::rgba16_float, "rgba16-float", 1, 1, 8, 2, NumericKind::signed_float, Transfer::linear, 4, rgba_layout(16), {0x881A, gl_rgba, gl_f16}, 10, "rgba16float", "RGBA16Float"},
    {Format::r32_float, "r32-float", 1, 1, 4, 4, NumericKind::signed_float, Transfer::linear, 1, rgba_layout(32), {0x822E, gl_red, gl_f32}, 41, "r32float", "R32Float"},
    {Format::rg32_float, "rg32-float", 1, 1, 8, 4, NumericKind::signed_float, Transfer::linear, 2, rgba_layout(32), {0x8230, gl_rg, gl_f32}, 16, "rg32float", "RG32Float"},
    {Format::rgb32_float, "rgb32-float", 1, 1, 12, 4, NumericKind::signed_float, Transfer::linear, 3, rgba_layout(32), {0x8815, gl_rgb, gl_f32}, 6, "", ""},
    {Format::rgba32_float, "rgba32-float", 1, 1, 16, 4, NumericKind::signed_float, Transfer::linear, 4, rgba_layout(32), {0x8814, gl_rgba, gl_f32}, 2, "rgba32float", "RGBA32Float"},
    {Format::rg11b10_float, "rg11b10-float", 1, 1, 4, 4, NumericKind::unsigned_float, Transfer::linear, 3, packed_layout(11, 11, 10, 0), {0x8C3A, gl_rgb, 0x8C3B}, 26, "rg11b10ufloat", "RG11B10Float"},
    {Format::rgb9e5_float, "rgb9e5-float", 1, 1, 4, 4, NumericKind::shared_exponent, Transfer::linear, 3, packed_layout(9, 9, 9, 0), {0x8C3D, gl_rgb, 0x8C3E}, 67, "rgb9e5ufloat", "RGB9E5Float"},
    {Format::bc1_unorm, "bc1-unorm", 4, 4, 8, 1, NumericKind::unorm, Transfer::linear, 3, decoded_layout(8), {0x83F0, gl_rgb, gl_u8}, 71, "bc1-rgba-unorm", "BC1_RGBA", BlockFamily::bc},
    {Format::bc1_srgb, "bc1-srgb", 4, 4, 8, 1, NumericKind::unorm, Transfer::srgb, 3, decoded_layout(8), {0x8C4C, gl_rgb, gl_u8}, 72, "bc1-rgba-unorm-srgb", "BC1_RGBA_sRGB", BlockFamily::bc},
    {Format::bc1a_unorm, "bc1a-unorm", 4, 4, 8, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x83F1, gl_rgba, gl_u8}, 71, "bc1-rgba-unorm", "BC1_RGBA", BlockFamily::bc},
    {Format::bc1a_srgb, "bc1a-srgb", 4, 4, 8, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x8C4D, gl_rgba, gl_u8}, 72, "bc1-rgba-unorm-srgb", "BC1_RGBA_sRGB", BlockFamily::bc},
    {Format::bc2_unorm, "bc2-unorm", 4, 4, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x83F2, gl_rgba, gl_u8}, 74, "bc2-rgba-unorm", "BC2_RGBA", BlockFamily::bc},
    {Format::bc2_srgb, "bc2-srgb", 4, 4, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x8C4E, gl_rgba, gl_u8}, 75, "bc2-rgba-unorm-srgb", "BC2_RGBA_sRGB", BlockFamily::bc},
    {Format::bc3_unorm, "bc3-unorm", 4, 4, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x83F3, gl_rgba, gl_u8}, 77, "bc3-rgba-unorm", "BC3_RGBA", BlockFamily::bc},
    {Format::bc3_srgb, "bc3-srgb", 4, 4, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x8C4F, gl_rgba, gl_u8}, 78, "bc3-rgba-unorm-srgb", "BC3_RGBA_sRGB", BlockFamily::bc},
    {Format::bc4_unorm, "bc4-unorm", 4, 4, 8, 1, NumericKind::unorm, Transfer::linear, 1, decoded_layout(8), {0x8DBB, gl_red, gl_u8}, 80, "bc4-r-unorm", "BC4_RUnorm", BlockFamily::bc},
    {Format::bc4_snorm, "bc4-snorm", 4, 4, 8, 1, NumericKind::snorm, Transfer::linear, 1, decoded_layout(8), {0x8DBC, gl_red, gl_s8}, 81, "bc4-r-snorm", "BC4_RSnorm", BlockFamily::bc},
    {Format::bc5_unorm, "bc5-unorm", 4, 4, 16, 1, NumericKind::unorm, Transfer::linear, 2, decoded_layout(8), {0x8DBD, gl_rg, gl_u8}, 83, "bc5-rg-unorm", "BC5_RGUnorm", BlockFamily::bc},
    {Format::bc5_snorm, "bc5-snorm", 4, 4, 16, 1, NumericKind::snorm, Transfer::linear, 2, decoded_layout(8), {0x8DBE, gl_rg, gl_s8}, 84, "bc5-rg-snorm", "BC5_RGSnorm", BlockFamily::bc},
    {Format::bc6h_ufloat, "bc6h-ufloat", 4, 4, 16, 1, NumericKind::unsigned_float, Transfer::linear, 3, decoded_layout(16), {0x8E8F, gl_rgb, gl_f32}, 95, "bc6h-rgb-ufloat", "BC6H_RGBUfloat", BlockFamily::bc},
    {Format::bc6h_sfloat, "bc6h-sfloat", 4, 4, 16, 1, NumericKind::signed_float, Transfer::linear, 3, decoded_layout(16), {0x8E8E, gl_rgb, gl_f32}, 96, "bc6h-rgb-float", "BC6H_RGBFloat", BlockFamily::bc},
    {Format::bc7_unorm, "bc7-unorm", 4, 4, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x8E8C, gl_rgba, gl_u8}, 98, "bc7-rgba-unorm", "BC7_RGBAUnorm", BlockFamily::bc},
    {Format::bc7_srgb, "bc7-srgb", 4, 4, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x8E8D, gl_rgba, gl_u8}, 99, "bc7-rgba-unorm-srgb", "BC7_RGBAUnorm_sRGB", BlockFamily::bc},
    {Format::etc2_rgb8_unorm, "etc2-rgb8-unorm", 4, 4, 8, 1, NumericKind::unorm, Transfer::linear, 3, decoded_layout(8), {0x9274, gl_rgb, gl_u8}, 0, "etc2-rgb8unorm", "ETC2_RGB8", BlockFamily::etc2},
    {Format::etc2_rgb8_srgb, "etc2-rgb8-srgb", 4, 4, 8, 1, NumericKind::unorm, Transfer::srgb, 3, decoded_layout(8), {0x9275, gl_rgb, gl_u8}, 0, "etc2-rgb8unorm-srgb", "ETC2_RGB8_sRGB", BlockFamily::etc2},
    {Format::etc2_rgb8a1_unorm, "etc2-rgb8a1-unorm", 4, 4, 8, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x9276, gl_rgba, gl_u8}, 0, "etc2-rgb8a1unorm", "ETC2_RGB8A1", BlockFamily::etc2},
    {Format::etc2_rgb8a1_srgb, "etc2-rgb8a1-srgb", 4, 4, 8, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x9277, gl_rgba, gl_u8}, 0, "etc2-rgb8a1unorm-srgb", "ETC2_RGB8A1_sRGB", BlockFamily::etc2},
    {Format::etc2_rgba8_unorm, "etc2-rgba8-unorm", 4, 4, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x9278, gl_rgba, gl_u8}, 0, "etc2-rgba8unorm", "EAC_RGBA8", BlockFamily::etc2},
    {Format::etc2_rgba8_srgb, "etc2-rgba8-srgb", 4, 4, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x9279, gl_rgba, gl_u8}, 0, "etc2-rgba8unorm-srgb", "EAC_RGBA8_sRGB", BlockFamily::etc2},
    {Format::eac_r11_unorm, "eac-r11-unorm", 4, 4, 8, 1, NumericKind::unorm, Transfer::linear, 1, decoded_layout(16), {0x9270, gl_red, gl_u16}, 0, "eac-r11unorm", "EAC_R11Unorm", BlockFamily::etc2},
    {Format::eac_r11_snorm, "eac-r11-snorm", 4, 4, 8, 1, NumericKind::snorm, Transfer::linear, 1, decoded_layout(16), {0x9271, gl_red, gl_s16}, 0, "eac-r11snorm", "EAC_R11Snorm", BlockFamily::etc2},
    {Format::eac_rg11_unorm, "eac-rg11-unorm", 4, 4, 16, 1, NumericKind::unorm, Transfer::linear, 2, decoded_layout(16), {0x9272, gl_rg, gl_u16}, 0, "eac-rg11unorm", "EAC_RG11Unorm", BlockFamily::etc2},
    {Format::eac_rg11_snorm, "eac-rg11-snorm", 4, 4, 16, 1, NumericKind::snorm, Transfer::linear, 2, decoded_layout(16), {0x9273, gl_rg, gl_s16}, 0, "eac-rg11snorm", "EAC_RG11Snorm", BlockFamily::etc2},
    {Format::astc_4x4_unorm, "astc-4x4-unorm", 4, 4, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B0, gl_rgba, gl_u8}, 0, "astc-4x4-unorm", "ASTC_4x4_LDR", BlockFamily::astc},
    {Format::astc_4x4_srgb, "astc-4x4-srgb", 4, 4, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D0, gl_rgba, gl_u8}, 0, "astc-4x4-unorm-srgb", "ASTC_4x4_sRGB", BlockFamily::astc},
    {Format::astc_5x4_unorm, "astc-5x4-unorm", 5, 4, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B1, gl_rgba, gl_u8}, 0, "astc-5x4-unorm", "ASTC_5x4_LDR", BlockFamily::astc},
    {Format::astc_5x4_srgb, "astc-5x4-srgb", 5, 4, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D1, gl_rgba, gl_u8}, 0, "astc-5x4-unorm-srgb", "ASTC_5x4_sRGB", BlockFamily::astc},
    {Format::astc_5x5_unorm, "astc-5x5-unorm", 5, 5, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B2, gl_rgba, gl_u8}, 0, "astc-5x5-unorm", "ASTC_5x5_LDR", BlockFamily::astc},
    {Format::astc_5x5_srgb, "astc-5x5-srgb", 5, 5, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D2, gl_rgba, gl_u8}, 0, "astc-5x5-unorm-srgb", "ASTC_5x5_sRGB", BlockFamily::astc},
    {Format::astc_6x5_unorm, "astc-6x5-unorm", 6, 5, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B3, gl_rgba, gl_u8}, 0, "astc-6x5-unorm", "ASTC_6x5_LDR", BlockFamily::astc},
    {Format::astc_6x5_srgb, "astc-6x5-srgb", 6, 5, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D3, gl_rgba, gl_u8}, 0, "astc-6x5-unorm-srgb", "ASTC_6x5_sRGB", BlockFamily::astc},
    {Format::astc_6x6_unorm, "astc-6x6-unorm", 6, 6, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B4, gl_rgba, gl_u8}, 0, "astc-6x6-unorm", "ASTC_6x6_LDR", BlockFamily::astc},
    {Format::astc_6x6_srgb, "astc-6x6-srgb", 6, 6, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D4, gl_rgba, gl_u8}, 0, "astc-6x6-unorm-srgb", "ASTC_6x6_sRGB", BlockFamily::astc},
    {Format::astc_8x5_unorm, "astc-8x5-unorm", 8, 5, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B5, gl_rgba, gl_u8}, 0, "astc-8x5-unorm", "ASTC_8x5_LDR", BlockFamily::astc},
    {Format::astc_8x5_srgb, "astc-8x5-srgb", 8, 5, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D5, gl_rgba, gl_u8}, 0, "astc-8x5-unorm-srgb", "ASTC_8x5_sRGB", BlockFamily::astc},
    {Format::astc_8x6_unorm, "astc-8x6-unorm", 8, 6, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B6, gl_rgba, gl_u8}, 0, "astc-8x6-unorm", "ASTC_8x6_LDR", BlockFamily::astc},
    {Format::astc_8x6_srgb, "astc-8x6-srgb", 8, 6, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D6, gl_rgba, gl_u8}, 0, "astc-8x6-unorm-srgb", "ASTC_8x6_sRGB", BlockFamily::astc},
    {Format::astc_8x8_unorm, "astc-8x8-unorm", 8, 8, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B7, gl_rgba, gl_u8}, 0, "astc-8x8-unorm", "ASTC_8x8_LDR", BlockFamily::astc},
    {Format::astc_8x8_srgb, "astc-8x8-srgb", 8, 8, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D7, gl_rgba, gl_u8}, 0, "astc-8x8-unorm-srgb", "ASTC_8x8_sRGB", BlockFamily::astc},
    {Format::astc_10x5_unorm, "astc-10x5-unorm", 10, 5, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B8, gl_rgba, gl_u8}, 0, "astc-10x5-unorm", "ASTC_10x5_LDR", BlockFamily::astc},
    {Format::astc_10x5_srgb, "astc-10x5-srgb", 10, 5, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D8, gl_rgba, gl_u8}, 0, "astc-10x5-unorm-srgb", "ASTC_10x5_sRGB", BlockFamily::astc},
    {Format::astc_10x6_unorm, "astc-10x6-unorm", 10, 6, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93B9, gl_rgba, gl_u8}, 0, "astc-10x6-unorm", "ASTC_10x6_LDR", BlockFamily::astc},
    {Format::astc_10x6_srgb, "astc-10x6-srgb", 10, 6, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93D9, gl_rgba, gl_u8}, 0, "astc-10x6-unorm-srgb", "ASTC_10x6_sRGB", BlockFamily::astc},
    {Format::astc_10x8_unorm, "astc-10x8-unorm", 10, 8, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93BA, gl_rgba, gl_u8}, 0, "astc-10x8-unorm", "ASTC_10x8_LDR", BlockFamily::astc},
    {Format::astc_10x8_srgb, "astc-10x8-srgb", 10, 8, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93DA, gl_rgba, gl_u8}, 0, "astc-10x8-unorm-srgb", "ASTC_10x8_sRGB", BlockFamily::astc},
    {Format::astc_10x10_unorm, "astc-10x10-unorm", 10, 10, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93BB, gl_rgba, gl_u8}, 0, "astc-10x10-unorm", "ASTC_10x10_LDR", BlockFamily::astc},
    {Format::astc_10x10_srgb, "astc-10x10-srgb", 10, 10, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93DB, gl_rgba, gl_u8}, 0, "astc-10x10-unorm-srgb", "ASTC_10x10_sRGB", BlockFamily::astc},
    {Format::astc_12x10_unorm, "astc-12x10-unorm", 12, 10, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93BC, gl_rgba, gl_u8}, 0, "astc-12x10-unorm", "ASTC_12x10_LDR", BlockFamily::astc},
    {Format::astc_12x10_srgb, "astc-12x10-srgb", 12, 10, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93DC, gl_rgba, gl_u8}, 0, "astc-12x10-unorm-srgb", "ASTC_12x10_sRGB", BlockFamily::astc},
    {Format::astc_12x12_unorm, "astc-12x12-unorm", 12, 12, 16, 1, NumericKind::unorm, Transfer::linear, 4, decoded_layout(8), {0x93BD, gl_rgba, gl_u8}, 0, "astc-12x12-unorm", "ASTC_12x12_LDR", BlockFamily::astc},
    {Format::astc_12x12_srgb, "astc-12x12-srgb", 12, 12, 16, 1, NumericKind::unorm, Transfer::srgb, 4, decoded_layout(8), {0x93DD, gl_rgba, gl_u8}, 0, "astc-12x12-unorm-srgb", "ASTC_12x12_sRGB", BlockFamily::astc},
    {Format::astc_4x4_sfloat, "astc-4x4-sfloat", 4, 4, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B0, gl_rgba, gl_f16}, 0, "", "ASTC_4x4_HDR", BlockFamily::astc_hdr},
    {Format::astc_5x4_sfloat, "astc-5x4-sfloat", 5, 4, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B1, gl_rgba, gl_f16}, 0, "", "ASTC_5x4_HDR", BlockFamily::astc_hdr},
    {Format::astc_5x5_sfloat, "astc-5x5-sfloat", 5, 5, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B2, gl_rgba, gl_f16}, 0, "", "ASTC_5x5_HDR", BlockFamily::astc_hdr},
    {Format::astc_6x5_sfloat, "astc-6x5-sfloat", 6, 5, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B3, gl_rgba, gl_f16}, 0, "", "ASTC_6x5_HDR", BlockFamily::astc_hdr},
    {Format::astc_6x6_sfloat, "astc-6x6-sfloat", 6, 6, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B4, gl_rgba, gl_f16}, 0, "", "ASTC_6x6_HDR", BlockFamily::astc_hdr},
    {Format::astc_8x5_sfloat, "astc-8x5-sfloat", 8, 5, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B5, gl_rgba, gl_f16}, 0, "", "ASTC_8x5_HDR", BlockFamily::astc_hdr},
    {Format::astc_8x6_sfloat, "astc-8x6-sfloat", 8, 6, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B6, gl_rgba, gl_f16}, 0, "", "ASTC_8x6_HDR", BlockFamily::astc_hdr},
    {Format::astc_8x8_sfloat, "astc-8x8-sfloat", 8, 8, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B7, gl_rgba, gl_f16}, 0, "", "ASTC_8x8_HDR", BlockFamily::astc_hdr},
    {Format::astc_10x5_sfloat, "astc-10x5-sfloat", 10, 5, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B8, gl_rgba, gl_f16}, 0, "", "ASTC_10x5_HDR", BlockFamily::astc_hdr},
    {Format::astc_10x6_sfloat, "astc-10x6-sfloat", 10, 6, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93B9, gl_rgba, gl_f16}, 0, "", "ASTC_10x6_HDR", BlockFamily::astc_hdr},
    {Format::astc_10x8_sfloat, "astc-10x8-sfloat", 10, 8, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93BA, gl_rgba, gl_f16}, 0, "", "ASTC_10x8_HDR", BlockFamily::astc_hdr},
    {Format::astc_10x10_sfloat, "astc-10x10-sfloat", 10, 10, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93BB, gl_rgba, gl_f16}, 0, "", "ASTC_10x10_HDR", BlockFamily::astc_hdr},
    {Format::astc_12x10_sfloat, "astc-12x10-sfloat", 12, 10, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93BC, gl_rgba, gl_f16}, 0, "", "ASTC_12x10_HDR", BlockFamily::astc_hdr},
    {Format::astc_12x12_sfloat, "astc-12x12-sfloat", 12, 12, 16, 1, NumericKind::signed_float, Transfer::linear, 4, decoded_layout(16), {0x93BD, gl_rgba, gl_f16}, 0, "", "ASTC_12x12_HDR", BlockFamily::astc_hdr},
};
// clang-format on

}  // namespace

bool FormatInfo::has(Channel channel) const {
    return std::any_of(channels.begin(), channels.begin() + channel_count,
                       [&](const ChannelLayout& layout) { return layout.channel == channel; });
}

std::span<const FormatInfo> all_formats() {
    return table;
}

namespace {

/// The row of each small number, counted from 1; the formats of Vulkan 1.0 have such numbers.
constexpr auto row_of_number = [] {
    std::array<std::uint8_t, 256> rows{};
    for (std::size_t row = 0; row < std::size(table); ++row)
        if (static_cast<std::size_t>(table[row].format) < rows.size())
            rows[static_cast<std::size_t>(table[row].format)] = static_cast<std::uint8_t>(row + 1);
    return rows;
}();

}  // namespace

const FormatInfo* find_format(Format format) {
    // Every access to a row of pixels asks for its format.
    if (const auto number = static_cast<std::size_t>(format); number < row_of_number.size())
        return row_of_number[number] != 0 ? &table[row_of_number[number] - 1] : nullptr;
    const auto row = std::lower_bound(
        std::begin(table), std::end(table), format,
        [](const FormatInfo& entry, Format wanted) { return entry.format < wanted; });
    return row != std::end(table) && row->format == format ? row : nullptr;
}

const FormatInfo* find_format(std::string_view name) {
    const std::string full = std::string(name) + "-unorm";
    for (const FormatInfo& entry : table)
        if (entry.name == name || entry.name == full)
            return &entry;
    return nullptr;
}

const FormatInfo& info(Format format) {
    static constexpr FormatInfo none{
        Format::undefined, "undefined", 1, 1, 0, 1, {}, {}, 0, {}, {}, 0, "", ""};
    const FormatInfo* row = find_format(format);
    return row != nullptr ? *row : none;
}

std::optional<Format> with_transfer(Format format, Transfer transfer) {
    const FormatInfo& from = info(format);
    if (from.transfer == transfer)
        return format;
    const std::string_view stem = from.name.substr(0, from.name.rfind('-'));
    const std::string wanted =
        std::string(stem) + (transfer == Transfer::srgb ? "-srgb" : "-unorm");
    const FormatInfo* to = from.kind == NumericKind::unorm ? find_format(wanted) : nullptr;
    return to != nullptr ? std::optional(to->format) : std::nullopt;
}

std::optional<PlainChannels> plain_channels(Format format) {
    const FormatInfo& f = info(format);
    const bool number = f.kind == NumericKind::unorm || f.kind == NumericKind::signed_float;
    if (!number || f.is_block() || f.channel_count == 0 ||
        f.type_size * f.channel_count != f.block_bytes || f.channels[0].channel != Channel::red)
        return {};
    return PlainChannels{f.channel_count, f.channels[0].bits, f.is_float()};
}

Format plain_format(const PlainChannels& plain, Transfer transfer) {
    static constexpr Format bytes[] = {Format::r8_unorm, Format::rg8_unorm, Format::rgb8_unorm,
                                       Format::rgba8_unorm};
    static constexpr Format words[] = {Format::r16_unorm, Format::rg16_unorm, Format::rgb16_unorm,
                                       Format::rgba16_unorm};
    static constexpr Format halves[] = {Format::r16_float, Format::rg16_float, Format::rgb16_float,
                                        Format::rgba16_float};
    static constexpr Format singles[] = {Format::r32_float, Format::rg32_float, Format::rgb32_float,
                                         Format::rgba32_float};
    const std::size_t place = plain.channels - 1;
    if (plain.is_float)
        return (plain.bits == 32 ? singles : halves)[place];
    if (plain.bits == 16)
        return words[place];
    return plain.channels == 2 ? bytes[place]
                               : with_transfer(bytes[place], transfer).value_or(bytes[place]);
}

}  // namespace yl
