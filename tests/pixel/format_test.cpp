#include <GL/glcorearb.h>
#include <vulkan/vulkan_core.h>

#include <algorithm>
#include <set>
#include <string>
#include <yl/format.hpp>

#include "support/check.hpp"

using namespace yl;

namespace {

/// What the standards' own headers say about a format of the table.
struct Reference {
    VkFormat vulkan;
    GLenum internal_format, format, type;
    Format ours;
};

constexpr GLenum sr8 = 0x8FBD;   // EXT_texture_sRGB_R8
constexpr GLenum srg8 = 0x8FBE;  // EXT_texture_sRGB_RG8

const Reference references[] = {
    {VK_FORMAT_R8_UNORM, GL_R8, GL_RED, GL_UNSIGNED_BYTE, Format::r8_unorm},
    {VK_FORMAT_R8_SNORM, GL_R8_SNORM, GL_RED, GL_BYTE, Format::r8_snorm},
    {VK_FORMAT_R8_SRGB, sr8, GL_RED, GL_UNSIGNED_BYTE, Format::r8_srgb},
    {VK_FORMAT_R8G8_UNORM, GL_RG8, GL_RG, GL_UNSIGNED_BYTE, Format::rg8_unorm},
    {VK_FORMAT_R8G8_SNORM, GL_RG8_SNORM, GL_RG, GL_BYTE, Format::rg8_snorm},
    {VK_FORMAT_R8G8_SRGB, srg8, GL_RG, GL_UNSIGNED_BYTE, Format::rg8_srgb},
    {VK_FORMAT_R8G8B8_UNORM, GL_RGB8, GL_RGB, GL_UNSIGNED_BYTE, Format::rgb8_unorm},
    {VK_FORMAT_R8G8B8_SNORM, GL_RGB8_SNORM, GL_RGB, GL_BYTE, Format::rgb8_snorm},
    {VK_FORMAT_R8G8B8_SRGB, GL_SRGB8, GL_RGB, GL_UNSIGNED_BYTE, Format::rgb8_srgb},
    {VK_FORMAT_R8G8B8A8_UNORM, GL_RGBA8, GL_RGBA, GL_UNSIGNED_BYTE, Format::rgba8_unorm},
    {VK_FORMAT_R8G8B8A8_SNORM, GL_RGBA8_SNORM, GL_RGBA, GL_BYTE, Format::rgba8_snorm},
    {VK_FORMAT_R8G8B8A8_SRGB, GL_SRGB8_ALPHA8, GL_RGBA, GL_UNSIGNED_BYTE, Format::rgba8_srgb},
    {VK_FORMAT_B8G8R8A8_UNORM, GL_RGBA8, GL_BGRA, GL_UNSIGNED_BYTE, Format::bgra8_unorm},
    {VK_FORMAT_B8G8R8A8_SRGB, GL_SRGB8_ALPHA8, GL_BGRA, GL_UNSIGNED_BYTE, Format::bgra8_srgb},
    {VK_FORMAT_A2B10G10R10_UNORM_PACK32, GL_RGB10_A2, GL_RGBA, GL_UNSIGNED_INT_2_10_10_10_REV,
     Format::rgb10a2_unorm},
    {VK_FORMAT_R16_UNORM, GL_R16, GL_RED, GL_UNSIGNED_SHORT, Format::r16_unorm},
    {VK_FORMAT_R16_SNORM, GL_R16_SNORM, GL_RED, GL_SHORT, Format::r16_snorm},
    {VK_FORMAT_R16_SFLOAT, GL_R16F, GL_RED, GL_HALF_FLOAT, Format::r16_float},
    {VK_FORMAT_R16G16_UNORM, GL_RG16, GL_RG, GL_UNSIGNED_SHORT, Format::rg16_unorm},
    {VK_FORMAT_R16G16_SNORM, GL_RG16_SNORM, GL_RG, GL_SHORT, Format::rg16_snorm},
    {VK_FORMAT_R16G16_SFLOAT, GL_RG16F, GL_RG, GL_HALF_FLOAT, Format::rg16_float},
    {VK_FORMAT_R16G16B16_UNORM, GL_RGB16, GL_RGB, GL_UNSIGNED_SHORT, Format::rgb16_unorm},
    {VK_FORMAT_R16G16B16_SNORM, GL_RGB16_SNORM, GL_RGB, GL_SHORT, Format::rgb16_snorm},
    {VK_FORMAT_R16G16B16_SFLOAT, GL_RGB16F, GL_RGB, GL_HALF_FLOAT, Format::rgb16_float},
    {VK_FORMAT_R16G16B16A16_UNORM, GL_RGBA16, GL_RGBA, GL_UNSIGNED_SHORT, Format::rgba16_unorm},
    {VK_FORMAT_R16G16B16A16_SNORM, GL_RGBA16_SNORM, GL_RGBA, GL_SHORT, Format::rgba16_snorm},
    {VK_FORMAT_R16G16B16A16_SFLOAT, GL_RGBA16F, GL_RGBA, GL_HALF_FLOAT, Format::rgba16_float},
    {VK_FORMAT_R32_SFLOAT, GL_R32F, GL_RED, GL_FLOAT, Format::r32_float},
    {VK_FORMAT_R32G32_SFLOAT, GL_RG32F, GL_RG, GL_FLOAT, Format::rg32_float},
    {VK_FORMAT_R32G32B32_SFLOAT, GL_RGB32F, GL_RGB, GL_FLOAT, Format::rgb32_float},
    {VK_FORMAT_R32G32B32A32_SFLOAT, GL_RGBA32F, GL_RGBA, GL_FLOAT, Format::rgba32_float},
    {VK_FORMAT_B10G11R11_UFLOAT_PACK32, GL_R11F_G11F_B10F, GL_RGB, GL_UNSIGNED_INT_10F_11F_11F_REV,
     Format::rg11b10_float},
    {VK_FORMAT_E5B9G9R9_UFLOAT_PACK32, GL_RGB9_E5, GL_RGB, GL_UNSIGNED_INT_5_9_9_9_REV,
     Format::rgb9e5_float},
    // EXT_texture_compression_s3tc and EXT_texture_sRGB
    {VK_FORMAT_BC1_RGB_UNORM_BLOCK, 0x83F0, GL_RGB, GL_UNSIGNED_BYTE, Format::bc1_unorm},
    {VK_FORMAT_BC1_RGB_SRGB_BLOCK, 0x8C4C, GL_RGB, GL_UNSIGNED_BYTE, Format::bc1_srgb},
    {VK_FORMAT_BC1_RGBA_UNORM_BLOCK, 0x83F1, GL_RGBA, GL_UNSIGNED_BYTE, Format::bc1a_unorm},
    {VK_FORMAT_BC1_RGBA_SRGB_BLOCK, 0x8C4D, GL_RGBA, GL_UNSIGNED_BYTE, Format::bc1a_srgb},
    {VK_FORMAT_BC2_UNORM_BLOCK, 0x83F2, GL_RGBA, GL_UNSIGNED_BYTE, Format::bc2_unorm},
    {VK_FORMAT_BC2_SRGB_BLOCK, 0x8C4E, GL_RGBA, GL_UNSIGNED_BYTE, Format::bc2_srgb},
    {VK_FORMAT_BC3_UNORM_BLOCK, 0x83F3, GL_RGBA, GL_UNSIGNED_BYTE, Format::bc3_unorm},
    {VK_FORMAT_BC3_SRGB_BLOCK, 0x8C4F, GL_RGBA, GL_UNSIGNED_BYTE, Format::bc3_srgb},
    {VK_FORMAT_BC4_UNORM_BLOCK, GL_COMPRESSED_RED_RGTC1, GL_RED, GL_UNSIGNED_BYTE,
     Format::bc4_unorm},
    {VK_FORMAT_BC4_SNORM_BLOCK, GL_COMPRESSED_SIGNED_RED_RGTC1, GL_RED, GL_BYTE, Format::bc4_snorm},
    {VK_FORMAT_BC5_UNORM_BLOCK, GL_COMPRESSED_RG_RGTC2, GL_RG, GL_UNSIGNED_BYTE, Format::bc5_unorm},
    {VK_FORMAT_BC5_SNORM_BLOCK, GL_COMPRESSED_SIGNED_RG_RGTC2, GL_RG, GL_BYTE, Format::bc5_snorm},
    {VK_FORMAT_BC6H_UFLOAT_BLOCK, GL_COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT, GL_RGB, GL_FLOAT,
     Format::bc6h_ufloat},
    {VK_FORMAT_BC6H_SFLOAT_BLOCK, GL_COMPRESSED_RGB_BPTC_SIGNED_FLOAT, GL_RGB, GL_FLOAT,
     Format::bc6h_sfloat},
    {VK_FORMAT_BC7_UNORM_BLOCK, GL_COMPRESSED_RGBA_BPTC_UNORM, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::bc7_unorm},
    {VK_FORMAT_BC7_SRGB_BLOCK, GL_COMPRESSED_SRGB_ALPHA_BPTC_UNORM, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::bc7_srgb},
    {VK_FORMAT_ETC2_R8G8B8_UNORM_BLOCK, GL_COMPRESSED_RGB8_ETC2, GL_RGB, GL_UNSIGNED_BYTE,
     Format::etc2_rgb8_unorm},
    {VK_FORMAT_ETC2_R8G8B8_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ETC2, GL_RGB, GL_UNSIGNED_BYTE,
     Format::etc2_rgb8_srgb},
    {VK_FORMAT_ETC2_R8G8B8A1_UNORM_BLOCK, GL_COMPRESSED_RGB8_PUNCHTHROUGH_ALPHA1_ETC2, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::etc2_rgb8a1_unorm},
    {VK_FORMAT_ETC2_R8G8B8A1_SRGB_BLOCK, GL_COMPRESSED_SRGB8_PUNCHTHROUGH_ALPHA1_ETC2, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::etc2_rgb8a1_srgb},
    {VK_FORMAT_ETC2_R8G8B8A8_UNORM_BLOCK, GL_COMPRESSED_RGBA8_ETC2_EAC, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::etc2_rgba8_unorm},
    {VK_FORMAT_ETC2_R8G8B8A8_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ETC2_EAC, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::etc2_rgba8_srgb},
    {VK_FORMAT_EAC_R11_UNORM_BLOCK, GL_COMPRESSED_R11_EAC, GL_RED, GL_UNSIGNED_SHORT,
     Format::eac_r11_unorm},
    {VK_FORMAT_EAC_R11_SNORM_BLOCK, GL_COMPRESSED_SIGNED_R11_EAC, GL_RED, GL_SHORT,
     Format::eac_r11_snorm},
    {VK_FORMAT_EAC_R11G11_UNORM_BLOCK, GL_COMPRESSED_RG11_EAC, GL_RG, GL_UNSIGNED_SHORT,
     Format::eac_rg11_unorm},
    {VK_FORMAT_EAC_R11G11_SNORM_BLOCK, GL_COMPRESSED_SIGNED_RG11_EAC, GL_RG, GL_SHORT,
     Format::eac_rg11_snorm},
    {VK_FORMAT_ASTC_4x4_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_4x4_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_4x4_unorm},
    {VK_FORMAT_ASTC_4x4_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_4x4_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_4x4_srgb},
    {VK_FORMAT_ASTC_4x4_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_4x4_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_4x4_sfloat},
    {VK_FORMAT_ASTC_5x4_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_5x4_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_5x4_unorm},
    {VK_FORMAT_ASTC_5x4_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_5x4_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_5x4_srgb},
    {VK_FORMAT_ASTC_5x4_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_5x4_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_5x4_sfloat},
    {VK_FORMAT_ASTC_5x5_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_5x5_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_5x5_unorm},
    {VK_FORMAT_ASTC_5x5_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_5x5_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_5x5_srgb},
    {VK_FORMAT_ASTC_5x5_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_5x5_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_5x5_sfloat},
    {VK_FORMAT_ASTC_6x5_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_6x5_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_6x5_unorm},
    {VK_FORMAT_ASTC_6x5_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_6x5_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_6x5_srgb},
    {VK_FORMAT_ASTC_6x5_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_6x5_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_6x5_sfloat},
    {VK_FORMAT_ASTC_6x6_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_6x6_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_6x6_unorm},
    {VK_FORMAT_ASTC_6x6_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_6x6_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_6x6_srgb},
    {VK_FORMAT_ASTC_6x6_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_6x6_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_6x6_sfloat},
    {VK_FORMAT_ASTC_8x5_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_8x5_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_8x5_unorm},
    {VK_FORMAT_ASTC_8x5_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_8x5_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_8x5_srgb},
    {VK_FORMAT_ASTC_8x5_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_8x5_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_8x5_sfloat},
    {VK_FORMAT_ASTC_8x6_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_8x6_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_8x6_unorm},
    {VK_FORMAT_ASTC_8x6_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_8x6_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_8x6_srgb},
    {VK_FORMAT_ASTC_8x6_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_8x6_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_8x6_sfloat},
    {VK_FORMAT_ASTC_8x8_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_8x8_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_8x8_unorm},
    {VK_FORMAT_ASTC_8x8_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_8x8_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_8x8_srgb},
    {VK_FORMAT_ASTC_8x8_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_8x8_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_8x8_sfloat},
    {VK_FORMAT_ASTC_10x5_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x5_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_10x5_unorm},
    {VK_FORMAT_ASTC_10x5_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_10x5_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_10x5_srgb},
    {VK_FORMAT_ASTC_10x5_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x5_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_10x5_sfloat},
    {VK_FORMAT_ASTC_10x6_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x6_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_10x6_unorm},
    {VK_FORMAT_ASTC_10x6_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_10x6_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_10x6_srgb},
    {VK_FORMAT_ASTC_10x6_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x6_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_10x6_sfloat},
    {VK_FORMAT_ASTC_10x8_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x8_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_10x8_unorm},
    {VK_FORMAT_ASTC_10x8_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_10x8_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_10x8_srgb},
    {VK_FORMAT_ASTC_10x8_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x8_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_10x8_sfloat},
    {VK_FORMAT_ASTC_10x10_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x10_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_10x10_unorm},
    {VK_FORMAT_ASTC_10x10_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_10x10_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_10x10_srgb},
    {VK_FORMAT_ASTC_10x10_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_10x10_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_10x10_sfloat},
    {VK_FORMAT_ASTC_12x10_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_12x10_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_12x10_unorm},
    {VK_FORMAT_ASTC_12x10_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_12x10_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_12x10_srgb},
    {VK_FORMAT_ASTC_12x10_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_12x10_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_12x10_sfloat},
    {VK_FORMAT_ASTC_12x12_UNORM_BLOCK, GL_COMPRESSED_RGBA_ASTC_12x12_KHR, GL_RGBA, GL_UNSIGNED_BYTE,
     Format::astc_12x12_unorm},
    {VK_FORMAT_ASTC_12x12_SRGB_BLOCK, GL_COMPRESSED_SRGB8_ALPHA8_ASTC_12x12_KHR, GL_RGBA,
     GL_UNSIGNED_BYTE, Format::astc_12x12_srgb},
    {VK_FORMAT_ASTC_12x12_SFLOAT_BLOCK, GL_COMPRESSED_RGBA_ASTC_12x12_KHR, GL_RGBA, GL_HALF_FLOAT,
     Format::astc_12x12_sfloat},
};

}  // namespace

TEST_CASE("the table agrees with the Vulkan and OpenGL headers, row by row") {
    CHECK(std::size(references) == all_formats().size());
    for (const Reference& reference : references) {
        const FormatInfo& row = info(reference.ours);
        CAPTURE(row.name);
        CHECK(static_cast<std::uint32_t>(row.format) ==
              static_cast<std::uint32_t>(reference.vulkan));
        CHECK(row.gl.internal_format == reference.internal_format);
        CHECK(row.gl.format == reference.format);
        CHECK(row.gl.type == reference.type);
    }
}

TEST_CASE("each row is sound: rising numbers, one name each, channels that fill the texel") {
    std::set<std::string_view> names;
    std::uint32_t last = 0;
    for (const FormatInfo& row : all_formats()) {
        CAPTURE(row.name);
        CHECK(static_cast<std::uint32_t>(row.format) > last);
        last = static_cast<std::uint32_t>(row.format);
        CHECK(names.insert(row.name).second);
        CHECK(find_format(row.format) == &row);
        CHECK(find_format(row.name) == &row);
        int bits = row.kind == NumericKind::shared_exponent ? 5 : 0;
        for (std::size_t i = 0; i < row.channel_count; ++i)
            bits += row.channels[i].bits;
        CHECK((row.is_block() || bits == row.block_bytes * 8));
        CHECK(row.block_bytes % row.type_size == 0);
        const bool says_srgb = row.name.find("srgb") != std::string_view::npos;
        CHECK(says_srgb == (row.transfer == Transfer::srgb));
        const bool other_names_say_srgb = row.webgpu.find("srgb") != std::string_view::npos ||
                                          row.metal.find("sRGB") != std::string_view::npos;
        if (!row.metal.empty())
            CHECK(says_srgb == other_names_say_srgb);
    }
}

TEST_CASE("names and numbers that are not in the table") {
    CHECK(find_format("rgba8") == &info(Format::rgba8_unorm));
    CHECK(find_format("rgba7") == nullptr);
    CHECK(find_format(static_cast<Format>(1)) == nullptr);
    CHECK(find_format(Format::undefined) == nullptr);
    CHECK(info(Format::undefined).block_bytes == 0);
}

TEST_CASE("the twin with the other transfer function") {
    CHECK(with_transfer(Format::rgba8_unorm, Transfer::srgb) == Format::rgba8_srgb);
    CHECK(with_transfer(Format::bgra8_srgb, Transfer::linear) == Format::bgra8_unorm);
    CHECK(with_transfer(Format::rgba16_unorm, Transfer::srgb) == std::nullopt);
    CHECK(with_transfer(Format::rgba8_snorm, Transfer::srgb) == std::nullopt);
    CHECK(with_transfer(Format::r8_srgb, Transfer::srgb) == Format::r8_srgb);
}

TEST_CASE("alpha is found where there is one") {
    CHECK(info(Format::rgba8_srgb).has(Channel::alpha));
    CHECK(info(Format::rgb10a2_unorm).has(Channel::alpha));
    CHECK_FALSE(info(Format::rgb8_unorm).has(Channel::alpha));
    CHECK(info(Format::bgra8_unorm).channels[0].channel == Channel::blue);
    CHECK_FALSE(info(Format::rgb9e5_float).has(Channel::alpha));
}
