#include <yl/sampler.hpp>

#include <algorithm>
#include <cmath>

namespace yl {
namespace {

template <class T, class E>
T pick(const T* names, E value) {
    return names[static_cast<std::size_t>(value)];
}

bool is_all_linear(const Sampler& s) {
    return s.mag == Filter::linear && s.min == Filter::linear && s.mip == MipFilter::linear;
}

/// `compare` counted from never; nothing to compare counts as always.
std::uint32_t compare_number(Compare compare) {
    return compare == Compare::off
               ? 7U
               : static_cast<std::uint32_t>(compare) - static_cast<std::uint32_t>(Compare::never);
}

/// 0: transparent black, 1: opaque black, 2: opaque white.
std::uint32_t nearest_preset(const std::array<float, 4>& border) {
    if (border[3] < 0.5F)
        return 0;
    return border[0] + border[1] + border[2] < 1.5F ? 1 : 2;
}

bool is_preset(const std::array<float, 4>& border) {
    constexpr std::array<std::array<float, 4>, 3> presets = {
        {{0, 0, 0, 0}, {0, 0, 0, 1}, {1, 1, 1, 1}}};
    return std::ranges::find(presets, border) != presets.end();
}

/// The greatest level of detail where the base level alone is to be sampled: a quarter, which is
/// rounded to level 0, leaves the choice between mag and min filter as it is (Vulkan 1.3, note in
/// chapter 13); at 0, nothing would ever be minified.
constexpr float base_alone = 0.25F;

template <class T>
std::array<T, 3> wraps(const Sampler& sampler, const T* names) {
    return {pick(names, sampler.wrap[0]), pick(names, sampler.wrap[1]),
            pick(names, sampler.wrap[2])};
}

}  // namespace

GlSampler gl_sampler(const Sampler& s) {
    constexpr std::uint32_t nearest = 0x2600, linear = 0x2601;
    // GL_NEAREST_MIPMAP_NEAREST and the three that follow: min filter in bit 0, mip filter in bit 1
    constexpr std::uint32_t first_mipmapped = 0x2700;
    constexpr std::uint32_t wrap_names[] = {0x2901, 0x8370, 0x812F, 0x812D, 0x8743};
    GlSampler words;
    words.mag_filter = s.mag == Filter::linear ? linear : nearest;
    words.min_filter = s.min == Filter::linear ? linear : nearest;
    if (s.mip != MipFilter::none)
        words.min_filter = first_mipmapped + (s.min == Filter::linear ? 1U : 0U) +
                           (s.mip == MipFilter::linear ? 2U : 0U);
    words.wrap = wraps(s, wrap_names);
    words.compare_mode = s.compare == Compare::off ? 0U : 0x884EU;
    words.compare_func = s.compare == Compare::off ? 0x0203U : 0x0200U + compare_number(s.compare);
    return words;
}

VulkanSampler vulkan_sampler(const Sampler& s) {
    constexpr std::uint32_t address_names[] = {0, 1, 2, 3, 4};
    constexpr std::uint32_t border_names[] = {0, 2, 4};  // VK_BORDER_COLOR_FLOAT_...
    VulkanSampler words;
    words.mag_filter = s.mag == Filter::linear ? 1 : 0;
    words.min_filter = s.min == Filter::linear ? 1 : 0;
    words.mipmap_mode = s.mip == MipFilter::linear ? 1 : 0;
    words.address_mode = wraps(s, address_names);
    words.anisotropy_enable = s.max_anisotropy > 1;
    words.compare_enable = s.compare != Compare::off;
    words.compare_op = compare_number(s.compare);
    words.min_lod = s.min_level;
    words.max_lod = s.max_level;
    if (s.mip == MipFilter::none) {
        words.min_lod = 0;
        words.max_lod = base_alone;
    }
    words.border_color = border_names[nearest_preset(s.border)];
    words.border_is_preset = is_preset(s.border);
    return words;
}

D3d12Sampler d3d12_sampler(const Sampler& s) {
    // Bits of D3D12_FILTER: mip 0, mag 2, min 4, anisotropic 6, comparison 7
    constexpr std::uint32_t address_names[] = {1, 2, 3, 4, 5};
    D3d12Sampler words;
    words.filter = (s.mip == MipFilter::linear ? 1U : 0U) | (s.mag == Filter::linear ? 4U : 0U) |
                   (s.min == Filter::linear ? 16U : 0U);
    if (s.max_anisotropy > 1 && is_all_linear(s))
        words.filter |= 64U;
    if (s.compare != Compare::off)
        words.filter |= 128U;
    words.address_mode = wraps(s, address_names);
    words.comparison_func = s.compare == Compare::off ? 0 : compare_number(s.compare) + 1;
    words.min_lod = s.mip == MipFilter::none ? 0 : s.min_level;
    words.max_lod = s.mip == MipFilter::none ? base_alone : s.max_level;
    words.max_anisotropy = static_cast<std::uint32_t>(std::lround(s.max_anisotropy));
    return words;
}

WebGpuSampler webgpu_sampler(const Sampler& s) {
    constexpr std::string_view filter_names[] = {"nearest", "linear"};
    constexpr std::string_view address_names[] = {"repeat", "mirror-repeat", "clamp-to-edge", "",
                                                  ""};
    constexpr std::string_view compare_names[] = {
        "never", "less", "equal", "less-equal", "greater", "not-equal", "greater-equal", "always"};
    WebGpuSampler words;
    words.mag_filter = pick(filter_names, s.mag);
    words.min_filter = pick(filter_names, s.min);
    words.mipmap_filter = s.mip == MipFilter::linear ? "linear" : "nearest";
    words.address_mode = wraps(s, address_names);
    if (s.compare != Compare::off)
        words.compare = compare_names[compare_number(s.compare)];
    words.lod_min_clamp = s.mip == MipFilter::none ? 0 : s.min_level;
    words.lod_max_clamp = s.mip == MipFilter::none ? base_alone : s.max_level;
    words.max_anisotropy =
        is_all_linear(s) ? static_cast<std::uint32_t>(std::lround(s.max_anisotropy)) : 1;
    return words;
}

MetalSampler metal_sampler(const Sampler& s) {
    constexpr std::string_view filter_names[] = {"Nearest", "Linear"};
    constexpr std::string_view mip_names[] = {"NotMipmapped", "Nearest", "Linear"};
    constexpr std::string_view address_names[] = {"Repeat", "MirrorRepeat", "ClampToEdge",
                                                  "ClampToBorderColor", "MirrorClampToEdge"};
    constexpr std::string_view compare_names[] = {
        "Never", "Less", "Equal", "LessEqual", "Greater", "NotEqual", "GreaterEqual", "Always"};
    constexpr std::string_view border_names[] = {"TransparentBlack", "OpaqueBlack", "OpaqueWhite"};
    MetalSampler words;
    words.mag_filter = pick(filter_names, s.mag);
    words.min_filter = pick(filter_names, s.min);
    words.mip_filter = pick(mip_names, s.mip);
    words.address_mode = wraps(s, address_names);
    words.compare_function =
        s.compare == Compare::off ? "Never" : compare_names[compare_number(s.compare)];
    words.border_color = border_names[nearest_preset(s.border)];
    return words;
}

}  // namespace yl
