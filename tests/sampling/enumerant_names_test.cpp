// Names of enumerants against the headers of the standards.
#include <yl/yl.hpp>

#include <GL/gl.h>
#include <GL/glext.h>
#include <vulkan/vulkan_core.h>

#include "support/check.hpp"

using namespace yl;

namespace {

// The preprocessor gives the number and the name that a header has.
#define NAMED(name) \
    { static_cast<std::uint32_t>(name), #name }

struct Named {
    std::uint32_t value;
    std::string_view name;
};

constexpr Named gl[] = {
    NAMED(GL_BYTE),
    NAMED(GL_UNSIGNED_BYTE),
    NAMED(GL_SHORT),
    NAMED(GL_UNSIGNED_SHORT),
    NAMED(GL_FLOAT),
    NAMED(GL_HALF_FLOAT),
    NAMED(GL_RED),
    NAMED(GL_RGB),
    NAMED(GL_RGBA),
    NAMED(GL_NEAREST),
    NAMED(GL_LINEAR),
    NAMED(GL_NEAREST_MIPMAP_NEAREST),
    NAMED(GL_LINEAR_MIPMAP_NEAREST),
    NAMED(GL_NEAREST_MIPMAP_LINEAR),
    NAMED(GL_LINEAR_MIPMAP_LINEAR),
    NAMED(GL_REPEAT),
    NAMED(GL_RGB8),
    NAMED(GL_RGB16),
    NAMED(GL_RGBA8),
    NAMED(GL_RGB10_A2),
    NAMED(GL_RGBA16),
    NAMED(GL_BGRA),
    NAMED(GL_CLAMP_TO_BORDER),
    NAMED(GL_CLAMP_TO_EDGE),
    NAMED(GL_RG),
    NAMED(GL_R8),
    NAMED(GL_R16),
    NAMED(GL_RG8),
    NAMED(GL_RG16),
    NAMED(GL_R16F),
    NAMED(GL_R32F),
    NAMED(GL_RG16F),
    NAMED(GL_RG32F),
    NAMED(GL_UNSIGNED_INT_2_10_10_10_REV),
    NAMED(GL_MIRRORED_REPEAT),
    NAMED(GL_COMPRESSED_RGB_S3TC_DXT1_EXT),
    NAMED(GL_COMPRESSED_RGBA_S3TC_DXT1_EXT),
    NAMED(GL_COMPRESSED_RGBA_S3TC_DXT3_EXT),
    NAMED(GL_COMPRESSED_RGBA_S3TC_DXT5_EXT),
    NAMED(GL_MIRROR_CLAMP_TO_EDGE),
    NAMED(GL_RGBA32F),
    NAMED(GL_RGB32F),
    NAMED(GL_RGBA16F),
    NAMED(GL_RGB16F),
    NAMED(GL_R11F_G11F_B10F),
    NAMED(GL_UNSIGNED_INT_10F_11F_11F_REV),
    NAMED(GL_RGB9_E5),
    NAMED(GL_UNSIGNED_INT_5_9_9_9_REV),
    NAMED(GL_SRGB8),
    NAMED(GL_SRGB8_ALPHA8),
    NAMED(GL_COMPRESSED_SRGB_S3TC_DXT1_EXT),
    NAMED(GL_COMPRESSED_SRGB_ALPHA_S3TC_DXT1_EXT),
    NAMED(GL_COMPRESSED_SRGB_ALPHA_S3TC_DXT3_EXT),
    NAMED(GL_COMPRESSED_SRGB_ALPHA_S3TC_DXT5_EXT),
    NAMED(GL_COMPRESSED_RED_RGTC1),
    NAMED(GL_COMPRESSED_SIGNED_RED_RGTC1),
    NAMED(GL_COMPRESSED_RG_RGTC2),
    NAMED(GL_COMPRESSED_SIGNED_RG_RGTC2),
    NAMED(GL_COMPRESSED_RGBA_BPTC_UNORM),
    NAMED(GL_COMPRESSED_SRGB_ALPHA_BPTC_UNORM),
    NAMED(GL_COMPRESSED_RGB_BPTC_SIGNED_FLOAT),
    NAMED(GL_COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT),
    NAMED(GL_R8_SNORM),
    NAMED(GL_RG8_SNORM),
    NAMED(GL_RGB8_SNORM),
    NAMED(GL_RGBA8_SNORM),
    NAMED(GL_R16_SNORM),
    NAMED(GL_RG16_SNORM),
    NAMED(GL_RGB16_SNORM),
    NAMED(GL_RGBA16_SNORM),
};

constexpr Named vulkan[] = {
    NAMED(VK_FORMAT_R8_UNORM),
    NAMED(VK_FORMAT_R8_SNORM),
    NAMED(VK_FORMAT_R8_SRGB),
    NAMED(VK_FORMAT_R8G8_UNORM),
    NAMED(VK_FORMAT_R8G8_SNORM),
    NAMED(VK_FORMAT_R8G8_SRGB),
    NAMED(VK_FORMAT_R8G8B8_UNORM),
    NAMED(VK_FORMAT_R8G8B8_SNORM),
    NAMED(VK_FORMAT_R8G8B8_SRGB),
    NAMED(VK_FORMAT_R8G8B8A8_UNORM),
    NAMED(VK_FORMAT_R8G8B8A8_SNORM),
    NAMED(VK_FORMAT_R8G8B8A8_SRGB),
    NAMED(VK_FORMAT_B8G8R8A8_UNORM),
    NAMED(VK_FORMAT_B8G8R8A8_SRGB),
    NAMED(VK_FORMAT_A2B10G10R10_UNORM_PACK32),
    NAMED(VK_FORMAT_R16_UNORM),
    NAMED(VK_FORMAT_R16_SNORM),
    NAMED(VK_FORMAT_R16_SFLOAT),
    NAMED(VK_FORMAT_R16G16_UNORM),
    NAMED(VK_FORMAT_R16G16_SNORM),
    NAMED(VK_FORMAT_R16G16_SFLOAT),
    NAMED(VK_FORMAT_R16G16B16_UNORM),
    NAMED(VK_FORMAT_R16G16B16_SNORM),
    NAMED(VK_FORMAT_R16G16B16_SFLOAT),
    NAMED(VK_FORMAT_R16G16B16A16_UNORM),
    NAMED(VK_FORMAT_R16G16B16A16_SNORM),
    NAMED(VK_FORMAT_R16G16B16A16_SFLOAT),
    NAMED(VK_FORMAT_R32_SFLOAT),
    NAMED(VK_FORMAT_R32G32_SFLOAT),
    NAMED(VK_FORMAT_R32G32B32_SFLOAT),
    NAMED(VK_FORMAT_R32G32B32A32_SFLOAT),
    NAMED(VK_FORMAT_B10G11R11_UFLOAT_PACK32),
    NAMED(VK_FORMAT_E5B9G9R9_UFLOAT_PACK32),
    NAMED(VK_FORMAT_BC1_RGB_UNORM_BLOCK),
    NAMED(VK_FORMAT_BC1_RGB_SRGB_BLOCK),
    NAMED(VK_FORMAT_BC1_RGBA_UNORM_BLOCK),
    NAMED(VK_FORMAT_BC1_RGBA_SRGB_BLOCK),
    NAMED(VK_FORMAT_BC2_UNORM_BLOCK),
    NAMED(VK_FORMAT_BC2_SRGB_BLOCK),
    NAMED(VK_FORMAT_BC3_UNORM_BLOCK),
    NAMED(VK_FORMAT_BC3_SRGB_BLOCK),
    NAMED(VK_FORMAT_BC4_UNORM_BLOCK),
    NAMED(VK_FORMAT_BC4_SNORM_BLOCK),
    NAMED(VK_FORMAT_BC5_UNORM_BLOCK),
    NAMED(VK_FORMAT_BC5_SNORM_BLOCK),
    NAMED(VK_FORMAT_BC6H_UFLOAT_BLOCK),
    NAMED(VK_FORMAT_BC6H_SFLOAT_BLOCK),
    NAMED(VK_FORMAT_BC7_UNORM_BLOCK),
    NAMED(VK_FORMAT_BC7_SRGB_BLOCK),
};

}  // namespace

TEST_CASE("numbers have the names of the headers, every format one of each API that knows it") {
    for (const Named& each : gl)
        CHECK(gl_enumerant(each.value) == each.name);
    for (const Named& each : vulkan)
        CHECK(vulkan_enumerant(static_cast<Format>(each.value)) == each.name);
    for (const FormatInfo& f : all_formats()) {
        CAPTURE(f.name);
        CHECK(vulkan_enumerant(f.format).starts_with("VK_FORMAT_"));
        CHECK(dxgi_enumerant(f.format).starts_with("DXGI_FORMAT_"));
        CHECK((f.dxgi == 0) == (dxgi_enumerant(f.format) == "DXGI_FORMAT_UNKNOWN"));
        if (f.gl.internal_format == 0)
            continue;
        for (const std::uint32_t number : {f.gl.internal_format, f.gl.format, f.gl.type})
            CHECK(gl_enumerant(number).starts_with("GL_"));
    }
    CHECK(gl_enumerant(0x8FBD) == "GL_SR8_EXT");  // GL_EXT_texture_sRGB_R8
    CHECK(gl_enumerant(0x8FBE) == "GL_SRG8_EXT");
    CHECK(gl_enumerant(12345).empty());
    CHECK(dxgi_enumerant(Format::rgba8_srgb) == "DXGI_FORMAT_R8G8B8A8_UNORM_SRGB");
}

TEST_CASE("every sampler's numbers have names") {
    using Part = VulkanSamplerPart;
    for (const Filter mag : {Filter::nearest, Filter::linear})
        for (const Filter min : {Filter::nearest, Filter::linear})
            for (const MipFilter mip : {MipFilter::none, MipFilter::nearest, MipFilter::linear})
                for (const float aniso : {1.0F, 8.0F})
                    for (const Compare compare : {Compare::off, Compare::less})
                        for (const Wrap wrap : {Wrap::repeat, Wrap::mirror, Wrap::clamp_to_edge,
                                                Wrap::clamp_to_border, Wrap::mirror_once}) {
                            Sampler sampler{.mag = mag, .min = min, .mip = mip};
                            sampler.max_anisotropy = aniso;
                            sampler.compare = compare;
                            sampler.wrap.fill(wrap);
                            const auto words = gl_sampler(sampler);
                            CHECK_FALSE(gl_enumerant(words.mag_filter).empty());
                            CHECK_FALSE(gl_enumerant(words.min_filter).empty());
                            CHECK_FALSE(gl_enumerant(words.wrap[0]).empty());
                            const auto direct3d = d3d12_sampler(sampler);
                            CHECK_FALSE(
                                direct3d_enumerant(Direct3dSamplerPart::filter, direct3d.filter)
                                    .empty());
                            CHECK_FALSE(direct3d_enumerant(Direct3dSamplerPart::address_mode,
                                                           direct3d.address_mode[0])
                                            .empty());
                            const auto vk = vulkan_sampler(sampler);
                            CHECK_FALSE(vulkan_enumerant(Part::filter, vk.mag_filter).empty());
                            CHECK_FALSE(
                                vulkan_enumerant(Part::mipmap_mode, vk.mipmap_mode).empty());
                            CHECK_FALSE(
                                vulkan_enumerant(Part::address_mode, vk.address_mode[0]).empty());
                        }
    CHECK(vulkan_enumerant(Part::address_mode, VK_SAMPLER_ADDRESS_MODE_MIRRORED_REPEAT) ==
          "VK_SAMPLER_ADDRESS_MODE_MIRRORED_REPEAT");
    CHECK(vulkan_enumerant(Part::filter, VK_FILTER_LINEAR) == "VK_FILTER_LINEAR");
    CHECK(vulkan_enumerant(Part::filter, 9).empty());
}
