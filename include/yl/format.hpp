// Pixel formats: one table that says everything about each of them.
//
//     const yl::FormatInfo& f = yl::info(yl::Format::bc7_srgb);
//     std::printf("%s: blocks of %u x %u in %u bytes\n", std::string(f.name).c_str(),
//                 f.block_width, f.block_height, f.block_bytes);
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <yl/api.hpp>

namespace yl {

/// A pixel format. The values are the VkFormat numbers of the Vulkan standard.
enum class Format : std::uint32_t {
    undefined = 0,
    r8_unorm = 9,
    r8_snorm = 10,
    r8_srgb = 15,
    rg8_unorm = 16,
    rg8_snorm = 17,
    rg8_srgb = 22,
    rgb8_unorm = 23,
    rgb8_snorm = 24,
    rgb8_srgb = 29,
    rgba8_unorm = 37,
    rgba8_snorm = 38,
    rgba8_srgb = 43,
    bgra8_unorm = 44,
    bgra8_srgb = 50,
    rgb10a2_unorm = 64,
    r16_unorm = 70,
    r16_snorm = 71,
    r16_float = 76,
    rg16_unorm = 77,
    rg16_snorm = 78,
    rg16_float = 83,
    rgb16_unorm = 84,
    rgb16_snorm = 85,
    rgb16_float = 90,
    rgba16_unorm = 91,
    rgba16_snorm = 92,
    rgba16_float = 97,
    r32_float = 100,
    rg32_float = 103,
    rgb32_float = 106,
    rgba32_float = 109,
    rg11b10_float = 122,
    rgb9e5_float = 123,
    bc1_unorm = 131,
    bc1_srgb = 132,
    bc1a_unorm = 133,
    bc1a_srgb = 134,
    bc2_unorm = 135,
    bc2_srgb = 136,
    bc3_unorm = 137,
    bc3_srgb = 138,
    bc4_unorm = 139,
    bc4_snorm = 140,
    bc5_unorm = 141,
    bc5_snorm = 142,
    bc6h_ufloat = 143,
    bc6h_sfloat = 144,
    bc7_unorm = 145,
    bc7_srgb = 146,
    etc2_rgb8_unorm = 147,
    etc2_rgb8_srgb = 148,
    etc2_rgb8a1_unorm = 149,
    etc2_rgb8a1_srgb = 150,
    etc2_rgba8_unorm = 151,
    etc2_rgba8_srgb = 152,
    eac_r11_unorm = 153,
    eac_r11_snorm = 154,
    eac_rg11_unorm = 155,
    eac_rg11_snorm = 156,
    astc_4x4_unorm = 157,
    astc_4x4_srgb = 158,
    astc_5x4_unorm = 159,
    astc_5x4_srgb = 160,
    astc_5x5_unorm = 161,
    astc_5x5_srgb = 162,
    astc_6x5_unorm = 163,
    astc_6x5_srgb = 164,
    astc_6x6_unorm = 165,
    astc_6x6_srgb = 166,
    astc_8x5_unorm = 167,
    astc_8x5_srgb = 168,
    astc_8x6_unorm = 169,
    astc_8x6_srgb = 170,
    astc_8x8_unorm = 171,
    astc_8x8_srgb = 172,
    astc_10x5_unorm = 173,
    astc_10x5_srgb = 174,
    astc_10x6_unorm = 175,
    astc_10x6_srgb = 176,
    astc_10x8_unorm = 177,
    astc_10x8_srgb = 178,
    astc_10x10_unorm = 179,
    astc_10x10_srgb = 180,
    astc_12x10_unorm = 181,
    astc_12x10_srgb = 182,
    astc_12x12_unorm = 183,
    astc_12x12_srgb = 184,
    astc_4x4_sfloat = 1000066000,
    astc_5x4_sfloat = 1000066001,
    astc_5x5_sfloat = 1000066002,
    astc_6x5_sfloat = 1000066003,
    astc_6x6_sfloat = 1000066004,
    astc_8x5_sfloat = 1000066005,
    astc_8x6_sfloat = 1000066006,
    astc_8x8_sfloat = 1000066007,
    astc_10x5_sfloat = 1000066008,
    astc_10x6_sfloat = 1000066009,
    astc_10x8_sfloat = 1000066010,
    astc_10x10_sfloat = 1000066011,
    astc_12x10_sfloat = 1000066012,
    astc_12x12_sfloat = 1000066013,
};

/// How stored numbers relate to light.
enum class Transfer : std::uint8_t {
    linear,  ///< proportional to light, or not a colour at all
    srgb,    ///< the piecewise curve of IEC 61966-2-1; alpha is linear
};

/// How the bits of a channel become a number.
enum class NumericKind : std::uint8_t {
    unorm,            ///< 0 .. 2^n - 1 stands for 0 .. 1
    snorm,            ///< -(2^(n-1) - 1) .. 2^(n-1) - 1 stands for -1 .. 1
    signed_float,     ///< IEEE 754 half or single
    unsigned_float,   ///< 5 exponent bits, no sign
    shared_exponent,  ///< mantissas without a leading one, and one exponent for all
};

enum class Channel : std::uint8_t { red, green, blue, alpha };

/// Block formats that devices have, or lack, together.
enum class BlockFamily : std::uint8_t {
    none,      ///< texels of their own
    bc,        ///< BC1 to BC7, in desktops and consoles
    etc2,      ///< ETC2 and EAC, in phones
    astc,      ///< ASTC of 8 bits, in phones and some desktops
    astc_hdr,  ///< ASTC in floating point, in fewer of these
};

/// The position of a channel in a texel, in bits from the lowest bit of the first byte. In a block
/// format the offset is 0 and the bits are those of the decoded texel.
struct ChannelLayout {
    Channel channel = Channel::red;
    std::uint8_t offset = 0;
    std::uint8_t bits = 0;
};

/// The three OpenGL enumerants of a format. In a block format, the last two describe the decoded
/// texels.
struct GlFormat {
    std::uint32_t internal_format = 0;  ///< 0: OpenGL has no such format
    std::uint32_t format = 0;
    std::uint32_t type = 0;
};

/// One row of the format table.
struct YL_API FormatInfo {
    Format format;
    std::string_view name;  ///< the name in `ylat`, such as "rgba8-srgb"
    std::uint8_t block_width;
    std::uint8_t block_height;
    std::uint8_t block_bytes;
    std::uint8_t type_size;  ///< bytes of the unit whose byte order matters (KTX 2.0 `typeSize`)
    NumericKind kind;
    Transfer transfer;
    std::uint8_t channel_count;
    std::array<ChannelLayout, 4> channels;  ///< the first `channel_count`, by offset
    GlFormat gl;
    std::uint32_t dxgi;       ///< DXGI_FORMAT number; 0: none
    std::string_view webgpu;  ///< GPUTextureFormat; empty: none
    std::string_view metal;   ///< MTLPixelFormat without that prefix; empty: none
    BlockFamily family = BlockFamily::none;

    /// Whether the format has the channel.
    [[nodiscard]] bool has(Channel channel) const;
    /// Half, single, packed and shared-exponent floats, which hold values beyond 0 .. 1.
    [[nodiscard]] bool is_float() const { return kind >= NumericKind::signed_float; }
    /// Texels share blocks and must be decoded before other functions can use them.
    [[nodiscard]] bool is_block() const { return block_width * block_height > 1; }
};

/// All formats, in the order of their numbers.
[[nodiscard]] YL_API std::span<const FormatInfo> all_formats();

/// The row of a format; null for a number that is not in the table.
[[nodiscard]] YL_API const FormatInfo* find_format(Format format);

/// The row with this name; "-unorm" may be left out ("rgba8").
[[nodiscard]] YL_API const FormatInfo* find_format(std::string_view name);

/// The row of a format. For a number that is not in the table, a row named "undefined" without
/// channels or bytes.
[[nodiscard]] YL_API const FormatInfo& info(Format format);

/// The format with the same layout and this transfer function, if the table has one
/// (`rgba8_unorm` and `rgba8_srgb`).
[[nodiscard]] YL_API std::optional<Format> with_transfer(Format format, Transfer transfer);

/// One to four channels in the order red, green, blue, alpha, all of the same depth.
struct PlainChannels {
    std::uint32_t channels = 0;  ///< 1 to 4
    std::uint32_t bits = 0;      ///< 8 or 16 for integers, 16 or 32 for floating point
    bool is_float = false;
};

/// Nothing for formats that are not plain unsigned integers or floating point.
[[nodiscard]] YL_API std::optional<PlainChannels> plain_channels(Format format);

/// The format with these channels. With 8 bits it is an sRGB format if `transfer` says so, except
/// for two channels: in pictures these are gray and alpha, and a GPU would decode both.
[[nodiscard]] YL_API Format plain_format(const PlainChannels& plain,
                                         Transfer transfer = Transfer::linear);

/// The sRGB curve of IEC 61966-2-1, piecewise, on [0, 1]; odd-symmetric below 0, extended above 1.
[[nodiscard]] YL_API double srgb_decode(double encoded);
[[nodiscard]] YL_API double srgb_encode(double linear);

/// Linear light of each 8-bit sRGB code, rounded once from double precision.
[[nodiscard]] YL_API const std::array<float, 256>& srgb8_to_linear();

/// The 8-bit sRGB code nearest to `linear` on the encoded scale, exactly; NaN gives 0.
[[nodiscard]] YL_API std::uint8_t linear_to_srgb8(float linear);

/// IEEE 754 binary16. To float: exact. From float: to nearest, ties to even; NaN keeps its top
/// bits.
[[nodiscard]] YL_API float half_to_float(std::uint16_t half);
[[nodiscard]] YL_API std::uint16_t float_to_half(float value);

/// The unsigned small floats of `rg11b10-float`: 5 exponent bits and 6 or 5 mantissa bits.
/// From float: to nearest, ties to even; negative gives 0; finite values beyond the range give the
/// greatest finite value (Khronos Data Format 1.3, sections 10.3 and 10.4).
[[nodiscard]] YL_API float small_float_to_float(std::uint32_t bits, int mantissa_bits);
[[nodiscard]] YL_API std::uint32_t float_to_small_float(float value, int mantissa_bits);

/// `rgb9e5-float`: three 9-bit mantissas and a common exponent of bias 15
/// (Khronos Data Format 1.3; encoding after the OpenGL extension EXT_texture_shared_exponent).
[[nodiscard]] YL_API std::array<float, 3> rgb9e5_to_float(std::uint32_t bits);
[[nodiscard]] YL_API std::uint32_t float_to_rgb9e5(float red, float green, float blue);

/// Formats, types, filters and wraps, such as "GL_SRGB8_ALPHA8"; empty for any other number.
[[nodiscard]] YL_API std::string_view gl_enumerant(std::uint32_t value);

/// "VK_FORMAT_R8G8B8A8_SRGB" and its like, for every format.
[[nodiscard]] YL_API std::string_view vulkan_enumerant(Format format);

/// "DXGI_FORMAT_R8G8B8A8_UNORM_SRGB"; "DXGI_FORMAT_UNKNOWN" where DXGI has no such format.
[[nodiscard]] YL_API std::string_view dxgi_enumerant(Format format);

/// Which member of `VulkanSampler` a number comes from.
enum class VulkanSamplerPart : std::uint8_t { filter, mipmap_mode, address_mode };
[[nodiscard]] YL_API std::string_view vulkan_enumerant(VulkanSamplerPart part, std::uint32_t value);

/// Which member of `D3d12Sampler` a number comes from.
enum class Direct3dSamplerPart : std::uint8_t { filter, address_mode };
[[nodiscard]] YL_API std::string_view direct3d_enumerant(Direct3dSamplerPart part,
                                                         std::uint32_t value);

}  // namespace yl
