// Sampler states, and their values for each graphics API.
//
//     yl::Sampler sampler = yl::or_exit(yl::parse_sampler("wrap=clamp-to-edge aniso=8"));
//     sampler.mag = yl::Filter::nearest;
//     yl::GlSampler values = yl::gl_sampler(sampler);   // for glSamplerParameteri
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <yl/api.hpp>
#include <yl/result.hpp>

namespace yl {

enum class Filter : std::uint8_t { nearest, linear };

/// How mip levels are chosen.
enum class MipFilter : std::uint8_t {
    none,     ///< always the base level
    nearest,  ///< the nearest level
    linear,   ///< a blend of two levels
};

/// What texture coordinates beyond 0 .. 1 show.
enum class Wrap : std::uint8_t {
    repeat,
    mirror,  ///< repeated, every other time mirrored
    clamp_to_edge,
    clamp_to_border,
    mirror_once,  ///< mirrored about 0, then clamped to the edge
};

enum class Compare : std::uint8_t {
    off,  ///< no comparison
    never,
    less,
    equal,
    less_or_equal,
    greater,
    not_equal,
    greater_or_equal,
    always,
};

/// The defaults suit a tiling texture with a mip chain.
struct Sampler {
    Filter mag = Filter::linear;
    Filter min = Filter::linear;
    MipFilter mip = MipFilter::linear;
    std::array<Wrap, 3> wrap = {Wrap::repeat, Wrap::repeat, Wrap::repeat};  ///< u, v, w
    std::array<float, 4> border = {0, 0, 0, 0};                             ///< RGBA, linear
    float max_anisotropy = 1;                                               ///< 1 .. 16; 1 is none
    float min_level = 0;  ///< level of detail, clamped to this range
    float max_level = 1000;
    float level_bias = 0;
    Compare compare = Compare::off;

    friend bool operator==(const Sampler&, const Sampler&) = default;
};

/// Reads the text form: "mag=linear min=linear mip=linear wrap=repeat,clamp-to-edge border=0,0,0,1
/// aniso=8 lod=0..4 bias=0 compare=less". All parts are optional; one wrap applies to all axes, two
/// to u and to v and w. Parts that are left out are taken from `otherwise`. Fails with
/// `ErrorKind::usage`, naming the part.
[[nodiscard]] YL_API Result<Sampler> parse_sampler(std::string_view text,
                                                   const Sampler& otherwise = Sampler());

/// The text form; parts with their default value are left out, except the three filters.
[[nodiscard]] YL_API std::string sampler_text(const Sampler& sampler);

/// The words of the text form: "clamp-to-edge", "linear" ...
[[nodiscard]] YL_API std::string_view name(Wrap wrap);
[[nodiscard]] YL_API std::string_view name(Filter filter);
[[nodiscard]] YL_API std::string_view name(MipFilter filter);

/// Values for glSamplerParameter; OpenGL 4.6, section 8.2.
struct GlSampler {
    std::uint32_t mag_filter = 0, min_filter = 0;
    std::array<std::uint32_t, 3> wrap = {};
    std::uint32_t compare_mode = 0;  ///< GL_NONE or GL_COMPARE_REF_TO_TEXTURE
    std::uint32_t compare_func = 0;
};

/// Values for VkSamplerCreateInfo; Vulkan 1.3, chapter 13.
struct VulkanSampler {
    std::uint32_t mag_filter = 0, min_filter = 0, mipmap_mode = 0;
    std::array<std::uint32_t, 3> address_mode = {};
    bool anisotropy_enable = false, compare_enable = false;
    std::uint32_t compare_op = 0;
    float min_lod = 0, max_lod = 0;  ///< with mip=none at most 0.25: only the base level
    std::uint32_t border_color = 0;  ///< the nearest preset
    bool border_is_preset = true;    ///< else it needs VK_EXT_custom_border_color
};

/// Values for D3D12_SAMPLER_DESC.
struct D3d12Sampler {
    std::uint32_t filter = 0;  ///< D3D12_FILTER
    std::array<std::uint32_t, 3> address_mode = {};
    std::uint32_t comparison_func = 0;
    float min_lod = 0, max_lod = 0;
    std::uint32_t max_anisotropy = 1;
};

/// Values for GPUSamplerDescriptor. Empty: the API has no such thing.
struct WebGpuSampler {
    std::string_view mag_filter = {}, min_filter = {}, mipmap_filter = {};
    std::array<std::string_view, 3> address_mode = {};
    std::string_view compare = {};
    float lod_min_clamp = 0, lod_max_clamp = 0;
    std::uint32_t max_anisotropy = 1;  ///< 1 unless all filters are linear
};

/// Values for MTLSamplerDescriptor, without their type's name.
struct MetalSampler {
    std::string_view mag_filter = {}, min_filter = {}, mip_filter = {};
    std::array<std::string_view, 3> address_mode = {};
    std::string_view compare_function = {};
    std::string_view border_color = {};
};

/// A sampler in the values of an API. Does not check against a device; `fit_sampler` does.
[[nodiscard]] YL_API GlSampler gl_sampler(const Sampler& sampler);
[[nodiscard]] YL_API VulkanSampler vulkan_sampler(const Sampler& sampler);
[[nodiscard]] YL_API D3d12Sampler d3d12_sampler(const Sampler& sampler);
[[nodiscard]] YL_API WebGpuSampler webgpu_sampler(const Sampler& sampler);
[[nodiscard]] YL_API MetalSampler metal_sampler(const Sampler& sampler);

}  // namespace yl
