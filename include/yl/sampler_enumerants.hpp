// A sampler in the words of each graphics API.
#pragma once

#include <string_view>
#include <yl/sampler.hpp>

namespace yl {

/// Values for glSamplerParameter; OpenGL 4.6, section 8.2.
struct GlSamplerWords {
    std::uint32_t mag_filter = 0, min_filter = 0;
    std::array<std::uint32_t, 3> wrap = {};
    std::uint32_t compare_mode = 0;  ///< GL_NONE or GL_COMPARE_REF_TO_TEXTURE
    std::uint32_t compare_func = 0;
};

/// Values for VkSamplerCreateInfo; Vulkan 1.3, chapter 13.
struct VulkanSamplerWords {
    std::uint32_t mag_filter = 0, min_filter = 0, mipmap_mode = 0;
    std::array<std::uint32_t, 3> address_mode = {};
    bool anisotropy_enable = false, compare_enable = false;
    std::uint32_t compare_op = 0;
    float min_lod = 0, max_lod = 0;  ///< with mip=none, both 0.25 at most: the base level alone
    std::uint32_t border_color = 0;  ///< the preset that is nearest
    bool border_is_preset = true;    ///< or VK_EXT_custom_border_color has to set it
};

/// Values for D3D12_SAMPLER_DESC.
struct Direct3dSamplerWords {
    std::uint32_t filter = 0;  ///< D3D12_FILTER
    std::array<std::uint32_t, 3> address_mode = {};
    std::uint32_t comparison_func = 0;
    float min_lod = 0, max_lod = 0;
    std::uint32_t max_anisotropy = 1;
};

/// Values for GPUSamplerDescriptor. Empty: the API has no such thing.
struct WebGpuSamplerWords {
    std::string_view mag_filter = {}, min_filter = {}, mipmap_filter = {};
    std::array<std::string_view, 3> address_mode = {};
    std::string_view compare = {};
    float lod_min_clamp = 0, lod_max_clamp = 0;
    std::uint32_t max_anisotropy = 1;  ///< 1 unless all filters are linear
};

/// Values for MTLSamplerDescriptor, without their type's name.
struct MetalSamplerWords {
    std::string_view mag_filter = {}, min_filter = {}, mip_filter = {};
    std::array<std::string_view, 3> address_mode = {};
    std::string_view compare_function = {};
    std::string_view border_color = {};
};

[[nodiscard]] GlSamplerWords gl_words(const Sampler& sampler);
[[nodiscard]] VulkanSamplerWords vulkan_words(const Sampler& sampler);
[[nodiscard]] Direct3dSamplerWords direct3d_words(const Sampler& sampler);
[[nodiscard]] WebGpuSamplerWords webgpu_words(const Sampler& sampler);
[[nodiscard]] MetalSamplerWords metal_words(const Sampler& sampler);

}  // namespace yl
