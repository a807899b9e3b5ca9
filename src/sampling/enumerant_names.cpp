#include <yl/format.hpp>

#include <algorithm>
#include <span>

namespace yl {
namespace {

struct Named {
    std::uint32_t value;
    std::string_view name;
};

// In rising order: OpenGL's registry of enumerants, vulkan_core.h, dxgiformat.h, d3d12.h.
constexpr Named gl_names[] = {
    {0x1400, "GL_BYTE"},
    {0x1401, "GL_UNSIGNED_BYTE"},
    {0x1402, "GL_SHORT"},
    {0x1403, "GL_UNSIGNED_SHORT"},
    {0x1406, "GL_FLOAT"},
    {0x140B, "GL_HALF_FLOAT"},
    {0x1903, "GL_RED"},
    {0x1907, "GL_RGB"},
    {0x1908, "GL_RGBA"},
    {0x2600, "GL_NEAREST"},
    {0x2601, "GL_LINEAR"},
    {0x2700, "GL_NEAREST_MIPMAP_NEAREST"},
    {0x2701, "GL_LINEAR_MIPMAP_NEAREST"},
    {0x2702, "GL_NEAREST_MIPMAP_LINEAR"},
    {0x2703, "GL_LINEAR_MIPMAP_LINEAR"},
    {0x2901, "GL_REPEAT"},
    {0x8051, "GL_RGB8"},
    {0x8054, "GL_RGB16"},
    {0x8058, "GL_RGBA8"},
    {0x8059, "GL_RGB10_A2"},
    {0x805B, "GL_RGBA16"},
    {0x80E1, "GL_BGRA"},
    {0x812D, "GL_CLAMP_TO_BORDER"},
    {0x812F, "GL_CLAMP_TO_EDGE"},
    {0x8227, "GL_RG"},
    {0x8229, "GL_R8"},
    {0x822A, "GL_R16"},
    {0x822B, "GL_RG8"},
    {0x822C, "GL_RG16"},
    {0x822D, "GL_R16F"},
    {0x822E, "GL_R32F"},
    {0x822F, "GL_RG16F"},
    {0x8230, "GL_RG32F"},
    {0x8368, "GL_UNSIGNED_INT_2_10_10_10_REV"},
    {0x8370, "GL_MIRRORED_REPEAT"},
    {0x83F0, "GL_COMPRESSED_RGB_S3TC_DXT1_EXT"},
    {0x83F1, "GL_COMPRESSED_RGBA_S3TC_DXT1_EXT"},
    {0x83F2, "GL_COMPRESSED_RGBA_S3TC_DXT3_EXT"},
    {0x83F3, "GL_COMPRESSED_RGBA_S3TC_DXT5_EXT"},
    {0x8743, "GL_MIRROR_CLAMP_TO_EDGE"},
    {0x8814, "GL_RGBA32F"},
    {0x8815, "GL_RGB32F"},
    {0x881A, "GL_RGBA16F"},
    {0x881B, "GL_RGB16F"},
    {0x8C3A, "GL_R11F_G11F_B10F"},
    {0x8C3B, "GL_UNSIGNED_INT_10F_11F_11F_REV"},
    {0x8C3D, "GL_RGB9_E5"},
    {0x8C3E, "GL_UNSIGNED_INT_5_9_9_9_REV"},
    {0x8C41, "GL_SRGB8"},
    {0x8C43, "GL_SRGB8_ALPHA8"},
    {0x8C4C, "GL_COMPRESSED_SRGB_S3TC_DXT1_EXT"},
    {0x8C4D, "GL_COMPRESSED_SRGB_ALPHA_S3TC_DXT1_EXT"},
    {0x8C4E, "GL_COMPRESSED_SRGB_ALPHA_S3TC_DXT3_EXT"},
    {0x8C4F, "GL_COMPRESSED_SRGB_ALPHA_S3TC_DXT5_EXT"},
    {0x8DBB, "GL_COMPRESSED_RED_RGTC1"},
    {0x8DBC, "GL_COMPRESSED_SIGNED_RED_RGTC1"},
    {0x8DBD, "GL_COMPRESSED_RG_RGTC2"},
    {0x8DBE, "GL_COMPRESSED_SIGNED_RG_RGTC2"},
    {0x8E8C, "GL_COMPRESSED_RGBA_BPTC_UNORM"},
    {0x8E8D, "GL_COMPRESSED_SRGB_ALPHA_BPTC_UNORM"},
    {0x8E8E, "GL_COMPRESSED_RGB_BPTC_SIGNED_FLOAT"},
    {0x8E8F, "GL_COMPRESSED_RGB_BPTC_UNSIGNED_FLOAT"},
    {0x8F94, "GL_R8_SNORM"},
    {0x8F95, "GL_RG8_SNORM"},
    {0x8F96, "GL_RGB8_SNORM"},
    {0x8F97, "GL_RGBA8_SNORM"},
    {0x8F98, "GL_R16_SNORM"},
    {0x8F99, "GL_RG16_SNORM"},
    {0x8F9A, "GL_RGB16_SNORM"},
    {0x8F9B, "GL_RGBA16_SNORM"},
    {0x8FBD, "GL_SR8_EXT"},
    {0x8FBE, "GL_SRG8_EXT"},
    {0x9270, "GL_COMPRESSED_R11_EAC"},
    {0x9271, "GL_COMPRESSED_SIGNED_R11_EAC"},
    {0x9272, "GL_COMPRESSED_RG11_EAC"},
    {0x9273, "GL_COMPRESSED_SIGNED_RG11_EAC"},
    {0x9274, "GL_COMPRESSED_RGB8_ETC2"},
    {0x9275, "GL_COMPRESSED_SRGB8_ETC2"},
    {0x9276, "GL_COMPRESSED_RGB8_PUNCHTHROUGH_ALPHA1_ETC2"},
    {0x9277, "GL_COMPRESSED_SRGB8_PUNCHTHROUGH_ALPHA1_ETC2"},
    {0x9278, "GL_COMPRESSED_RGBA8_ETC2_EAC"},
    {0x9279, "GL_COMPRESSED_SRGB8_ALPHA8_ETC2_EAC"},
};

constexpr Named vulkan_names[] = {
    {9, "VK_FORMAT_R8_UNORM"},
    {10, "VK_FORMAT_R8_SNORM"},
    {15, "VK_FORMAT_R8_SRGB"},
    {16, "VK_FORMAT_R8G8_UNORM"},
    {17, "VK_FORMAT_R8G8_SNORM"},
    {22, "VK_FORMAT_R8G8_SRGB"},
    {23, "VK_FORMAT_R8G8B8_UNORM"},
    {24, "VK_FORMAT_R8G8B8_SNORM"},
    {29, "VK_FORMAT_R8G8B8_SRGB"},
    {37, "VK_FORMAT_R8G8B8A8_UNORM"},
    {38, "VK_FORMAT_R8G8B8A8_SNORM"},
    {43, "VK_FORMAT_R8G8B8A8_SRGB"},
    {44, "VK_FORMAT_B8G8R8A8_UNORM"},
    {50, "VK_FORMAT_B8G8R8A8_SRGB"},
    {64, "VK_FORMAT_A2B10G10R10_UNORM_PACK32"},
    {70, "VK_FORMAT_R16_UNORM"},
    {71, "VK_FORMAT_R16_SNORM"},
    {76, "VK_FORMAT_R16_SFLOAT"},
    {77, "VK_FORMAT_R16G16_UNORM"},
    {78, "VK_FORMAT_R16G16_SNORM"},
    {83, "VK_FORMAT_R16G16_SFLOAT"},
    {84, "VK_FORMAT_R16G16B16_UNORM"},
    {85, "VK_FORMAT_R16G16B16_SNORM"},
    {90, "VK_FORMAT_R16G16B16_SFLOAT"},
    {91, "VK_FORMAT_R16G16B16A16_UNORM"},
    {92, "VK_FORMAT_R16G16B16A16_SNORM"},
    {97, "VK_FORMAT_R16G16B16A16_SFLOAT"},
    {100, "VK_FORMAT_R32_SFLOAT"},
    {103, "VK_FORMAT_R32G32_SFLOAT"},
    {106, "VK_FORMAT_R32G32B32_SFLOAT"},
    {109, "VK_FORMAT_R32G32B32A32_SFLOAT"},
    {122, "VK_FORMAT_B10G11R11_UFLOAT_PACK32"},
    {123, "VK_FORMAT_E5B9G9R9_UFLOAT_PACK32"},
    {131, "VK_FORMAT_BC1_RGB_UNORM_BLOCK"},
    {132, "VK_FORMAT_BC1_RGB_SRGB_BLOCK"},
    {133, "VK_FORMAT_BC1_RGBA_UNORM_BLOCK"},
    {134, "VK_FORMAT_BC1_RGBA_SRGB_BLOCK"},
    {135, "VK_FORMAT_BC2_UNORM_BLOCK"},
    {136, "VK_FORMAT_BC2_SRGB_BLOCK"},
    {137, "VK_FORMAT_BC3_UNORM_BLOCK"},
    {138, "VK_FORMAT_BC3_SRGB_BLOCK"},
    {139, "VK_FORMAT_BC4_UNORM_BLOCK"},
    {140, "VK_FORMAT_BC4_SNORM_BLOCK"},
    {141, "VK_FORMAT_BC5_UNORM_BLOCK"},
    {142, "VK_FORMAT_BC5_SNORM_BLOCK"},
    {143, "VK_FORMAT_BC6H_UFLOAT_BLOCK"},
    {144, "VK_FORMAT_BC6H_SFLOAT_BLOCK"},
    {145, "VK_FORMAT_BC7_UNORM_BLOCK"},
    {146, "VK_FORMAT_BC7_SRGB_BLOCK"},
    {147, "VK_FORMAT_ETC2_R8G8B8_UNORM_BLOCK"},
    {148, "VK_FORMAT_ETC2_R8G8B8_SRGB_BLOCK"},
    {149, "VK_FORMAT_ETC2_R8G8B8A1_UNORM_BLOCK"},
    {150, "VK_FORMAT_ETC2_R8G8B8A1_SRGB_BLOCK"},
    {151, "VK_FORMAT_ETC2_R8G8B8A8_UNORM_BLOCK"},
    {152, "VK_FORMAT_ETC2_R8G8B8A8_SRGB_BLOCK"},
    {153, "VK_FORMAT_EAC_R11_UNORM_BLOCK"},
    {154, "VK_FORMAT_EAC_R11_SNORM_BLOCK"},
    {155, "VK_FORMAT_EAC_R11G11_UNORM_BLOCK"},
    {156, "VK_FORMAT_EAC_R11G11_SNORM_BLOCK"},
};

constexpr Named dxgi_names[] = {
    {0, "DXGI_FORMAT_UNKNOWN"},
    {2, "DXGI_FORMAT_R32G32B32A32_FLOAT"},
    {6, "DXGI_FORMAT_R32G32B32_FLOAT"},
    {10, "DXGI_FORMAT_R16G16B16A16_FLOAT"},
    {11, "DXGI_FORMAT_R16G16B16A16_UNORM"},
    {13, "DXGI_FORMAT_R16G16B16A16_SNORM"},
    {16, "DXGI_FORMAT_R32G32_FLOAT"},
    {24, "DXGI_FORMAT_R10G10B10A2_UNORM"},
    {26, "DXGI_FORMAT_R11G11B10_FLOAT"},
    {28, "DXGI_FORMAT_R8G8B8A8_UNORM"},
    {29, "DXGI_FORMAT_R8G8B8A8_UNORM_SRGB"},
    {31, "DXGI_FORMAT_R8G8B8A8_SNORM"},
    {34, "DXGI_FORMAT_R16G16_FLOAT"},
    {35, "DXGI_FORMAT_R16G16_UNORM"},
    {37, "DXGI_FORMAT_R16G16_SNORM"},
    {41, "DXGI_FORMAT_R32_FLOAT"},
    {49, "DXGI_FORMAT_R8G8_UNORM"},
    {51, "DXGI_FORMAT_R8G8_SNORM"},
    {54, "DXGI_FORMAT_R16_FLOAT"},
    {56, "DXGI_FORMAT_R16_UNORM"},
    {58, "DXGI_FORMAT_R16_SNORM"},
    {61, "DXGI_FORMAT_R8_UNORM"},
    {63, "DXGI_FORMAT_R8_SNORM"},
    {67, "DXGI_FORMAT_R9G9B9E5_SHAREDEXP"},
    {71, "DXGI_FORMAT_BC1_UNORM"},
    {72, "DXGI_FORMAT_BC1_UNORM_SRGB"},
    {74, "DXGI_FORMAT_BC2_UNORM"},
    {75, "DXGI_FORMAT_BC2_UNORM_SRGB"},
    {77, "DXGI_FORMAT_BC3_UNORM"},
    {78, "DXGI_FORMAT_BC3_UNORM_SRGB"},
    {80, "DXGI_FORMAT_BC4_UNORM"},
    {81, "DXGI_FORMAT_BC4_SNORM"},
    {83, "DXGI_FORMAT_BC5_UNORM"},
    {84, "DXGI_FORMAT_BC5_SNORM"},
    {87, "DXGI_FORMAT_B8G8R8A8_UNORM"},
    {91, "DXGI_FORMAT_B8G8R8A8_UNORM_SRGB"},
    {95, "DXGI_FORMAT_BC6H_UF16"},
    {96, "DXGI_FORMAT_BC6H_SF16"},
    {98, "DXGI_FORMAT_BC7_UNORM"},
    {99, "DXGI_FORMAT_BC7_UNORM_SRGB"},
};

constexpr std::string_view vulkan_filters[] = {"VK_FILTER_NEAREST", "VK_FILTER_LINEAR"};
constexpr std::string_view vulkan_mipmap_modes[] = {"VK_SAMPLER_MIPMAP_MODE_NEAREST",
                                                    "VK_SAMPLER_MIPMAP_MODE_LINEAR"};
constexpr std::string_view vulkan_address_modes[] = {
    "VK_SAMPLER_ADDRESS_MODE_REPEAT", "VK_SAMPLER_ADDRESS_MODE_MIRRORED_REPEAT",
    "VK_SAMPLER_ADDRESS_MODE_CLAMP_TO_EDGE", "VK_SAMPLER_ADDRESS_MODE_CLAMP_TO_BORDER",
    "VK_SAMPLER_ADDRESS_MODE_MIRROR_CLAMP_TO_EDGE"};
constexpr std::string_view direct3d_address_modes[] = {"",
                                                       "D3D12_TEXTURE_ADDRESS_MODE_WRAP",
                                                       "D3D12_TEXTURE_ADDRESS_MODE_MIRROR",
                                                       "D3D12_TEXTURE_ADDRESS_MODE_CLAMP",
                                                       "D3D12_TEXTURE_ADDRESS_MODE_BORDER",
                                                       "D3D12_TEXTURE_ADDRESS_MODE_MIRROR_ONCE"};
constexpr Named direct3d_filters[] = {
    {0x00, "D3D12_FILTER_MIN_MAG_MIP_POINT"},
    {0x01, "D3D12_FILTER_MIN_MAG_POINT_MIP_LINEAR"},
    {0x04, "D3D12_FILTER_MIN_POINT_MAG_LINEAR_MIP_POINT"},
    {0x05, "D3D12_FILTER_MIN_POINT_MAG_MIP_LINEAR"},
    {0x10, "D3D12_FILTER_MIN_LINEAR_MAG_MIP_POINT"},
    {0x11, "D3D12_FILTER_MIN_LINEAR_MAG_POINT_MIP_LINEAR"},
    {0x14, "D3D12_FILTER_MIN_MAG_LINEAR_MIP_POINT"},
    {0x15, "D3D12_FILTER_MIN_MAG_MIP_LINEAR"},
    {0x55, "D3D12_FILTER_ANISOTROPIC"},
    {0x80, "D3D12_FILTER_COMPARISON_MIN_MAG_MIP_POINT"},
    {0x81, "D3D12_FILTER_COMPARISON_MIN_MAG_POINT_MIP_LINEAR"},
    {0x84, "D3D12_FILTER_COMPARISON_MIN_POINT_MAG_LINEAR_MIP_POINT"},
    {0x85, "D3D12_FILTER_COMPARISON_MIN_POINT_MAG_MIP_LINEAR"},
    {0x90, "D3D12_FILTER_COMPARISON_MIN_LINEAR_MAG_MIP_POINT"},
    {0x91, "D3D12_FILTER_COMPARISON_MIN_LINEAR_MAG_POINT_MIP_LINEAR"},
    {0x94, "D3D12_FILTER_COMPARISON_MIN_MAG_LINEAR_MIP_POINT"},
    {0x95, "D3D12_FILTER_COMPARISON_MIN_MAG_MIP_LINEAR"},
    {0xD5, "D3D12_FILTER_COMPARISON_ANISOTROPIC"},
};

std::string_view find(std::span<const Named> names, std::uint32_t value) {
    const auto found = std::ranges::lower_bound(names, value, {}, &Named::value);
    return found != names.end() && found->value == value ? found->name : std::string_view();
}

std::string_view at(std::span<const std::string_view> names, std::uint32_t index) {
    return index < names.size() ? names[index] : std::string_view();
}

}  // namespace

std::string_view gl_enumerant(std::uint32_t value) {
    return find(gl_names, value);
}

std::string_view vulkan_enumerant(Format format) {
    return find(vulkan_names, static_cast<std::uint32_t>(format));
}

std::string_view dxgi_enumerant(Format format) {
    return find(dxgi_names, info(format).dxgi);
}

std::string_view vulkan_enumerant(VulkanSamplerPart part, std::uint32_t value) {
    switch (part) {
        case VulkanSamplerPart::filter:
            return at(vulkan_filters, value);
        case VulkanSamplerPart::mipmap_mode:
            return at(vulkan_mipmap_modes, value);
        case VulkanSamplerPart::address_mode:
            return at(vulkan_address_modes, value);
    }
    return {};
}

std::string_view direct3d_enumerant(Direct3dSamplerPart part, std::uint32_t value) {
    return part == Direct3dSamplerPart::filter ? find(direct3d_filters, value)
                                               : at(direct3d_address_modes, value);
}

}  // namespace yl
