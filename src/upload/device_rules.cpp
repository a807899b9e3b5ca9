#include <yl/sampler_rules.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>

namespace yl {
namespace {

bool uses(const Sampler& sampler, Wrap wrap) {
    return std::ranges::find(sampler.wrap, wrap) != sampler.wrap.end();
}

bool uses_linear(const Sampler& sampler) {
    return sampler.mag == Filter::linear || sampler.min == Filter::linear ||
           sampler.mip == MipFilter::linear;
}

bool is_all_linear(const Sampler& sampler) {
    return sampler.mag == Filter::linear && sampler.min == Filter::linear &&
           sampler.mip == MipFilter::linear;
}

/// Transparent black, opaque black or opaque white, whichever is nearest.
std::array<float, 4> nearest_preset(const std::array<float, 4>& color) {
    constexpr std::array<std::array<float, 4>, 3> presets = {
        {{0, 0, 0, 0}, {0, 0, 0, 1}, {1, 1, 1, 1}}};
    const auto distance = [&](const std::array<float, 4>& preset) {
        float sum = 0;
        for (std::size_t i = 0; i < 4; ++i)
            sum += (preset[i] - color[i]) * (preset[i] - color[i]);
        return sum;
    };
    return *std::ranges::min_element(presets, {}, distance);
}

void fit_borders(Sampler& sampler, const DeviceProfile& profile, Findings& findings) {
    if (!uses(sampler, Wrap::clamp_to_border))
        return;
    if (!profile.has_borders) {
        std::ranges::replace(sampler.wrap, Wrap::clamp_to_border, Wrap::clamp_to_edge);
        findings.push_back({"border-replaced",
                            "the device has no clamp-to-border: it became clamp-to-edge",
                            "give the texture a border of its own, or test the coordinates in the "
                            "shader"});
        return;
    }
    const auto preset = nearest_preset(sampler.border);
    if (profile.has_any_border_color || preset == sampler.border)
        return;
    findings.push_back(
        {"border-color-replaced",
         fmt::format("the device has no border of {:g},{:g},{:g},{:g}: it became {:g},{:g},{:g},"
                     "{:g}",
                     sampler.border[0], sampler.border[1], sampler.border[2], sampler.border[3],
                     preset[0], preset[1], preset[2], preset[3]),
         "ask for transparent black, opaque black or opaque white"});
    sampler.border = preset;
}

void add(Findings& all, Findings more) {
    all.insert(all.end(), std::make_move_iterator(more.begin()),
               std::make_move_iterator(more.end()));
}

void check_sizes(const TextureUse& use, const DeviceProfile& profile, Findings& findings) {
    if (!profile.needs_power_of_two ||
        (std::has_single_bit(use.shape.width) && std::has_single_bit(use.shape.height)))
        return;
    const auto repeats = [](Wrap wrap) { return wrap != Wrap::clamp_to_edge; };
    if (std::ranges::any_of(use.sampler.wrap.begin(), use.sampler.wrap.begin() + 2, repeats))
        findings.push_back(
            {"not-power-of-two",
             fmt::format("{} x {} texels are not powers of two: this device samples them as black "
                         "unless they are clamped to the edge",
                         use.shape.width, use.shape.height),
             "resize them, or set wrap=clamp-to-edge", FindingLevel::error});
}

}  // namespace

Findings check_role(Format format, Role wanted) {
    Findings findings;
    const FormatInfo& f = info(format);
    const RoleInfo& role = info(wanted);
    const bool is_light = wanted == Role::color || wanted == Role::hdr;
    if (!is_light && f.transfer == Transfer::srgb)
        findings.push_back(
            {"numbers-as-srgb",
             fmt::format("{} values in {}: the GPU decodes them like colours, and "
                         "the numbers come out wrong",
                         role.name, f.name),
             fmt::format("store them in {}",
                         info(with_transfer(f.format, Transfer::linear).value_or(f.format)).name)});
    const auto twin = with_transfer(f.format, Transfer::srgb);
    if (wanted == Role::color && f.transfer == Transfer::linear && f.channel_count >= 3 && twin &&
        *twin != f.format)
        findings.push_back({"color-as-linear",
                            fmt::format("colours in {}: the GPU does not decode them, and they "
                                        "are filtered and lit as if they were light",
                                        f.name),
                            fmt::format("store them in {}", info(*twin).name)});
    return findings;
}

Sampler fit_sampler(const Sampler& sampler, const DeviceProfile& profile, Findings& findings) {
    Sampler fitting = sampler;
    if (sampler.max_anisotropy > profile.max_anisotropy) {
        fitting.max_anisotropy = profile.max_anisotropy;
        findings.push_back(
            {"anisotropy-lowered",
             fmt::format("anisotropy {} exceeds the device's {} and was lowered to it",
                         sampler.max_anisotropy, profile.max_anisotropy),
             fmt::format("ask for {} or less", profile.max_anisotropy)});
    }
    const bool needs_linear = profile.api_kind == GraphicsApi::direct3d12 ||
                              profile.api_kind == GraphicsApi::direct3d11 ||
                              profile.api_kind == GraphicsApi::webgpu;
    if (needs_linear && fitting.max_anisotropy > 1 && !is_all_linear(fitting)) {
        findings.push_back(
            {"anisotropy-left-out",
             fmt::format("{} filters anisotropically with linear filters alone: anisotropy {} was "
                         "left out",
                         name(profile.api_kind), fitting.max_anisotropy),
             "set mag=linear min=linear mip=linear, or leave aniso out"});
        fitting.max_anisotropy = 1;
    }
    if (std::abs(sampler.level_bias) > profile.max_level_bias) {
        fitting.level_bias = std::copysign(profile.max_level_bias, sampler.level_bias);
        findings.push_back(
            profile.max_level_bias == 0
                ? Finding{"bias-left-out",
                          fmt::format("the device's samplers have no bias: {:g} was left out",
                                      sampler.level_bias),
                          "add the bias in the shader, where it samples"}
                : Finding{"bias-lowered",
                          fmt::format("a bias of {:g} exceeds the device's {:g} and was cut to it",
                                      sampler.level_bias, profile.max_level_bias),
                          "choose a smaller one"});
    }
    fit_borders(fitting, profile, findings);
    if (uses(fitting, Wrap::mirror_once) && !profile.has_mirror_once) {
        std::ranges::replace(fitting.wrap, Wrap::mirror_once, Wrap::mirror);
        findings.push_back({"mirror-once-replaced",
                            "the device has no mirror-once: it became mirror, which goes on beyond "
                            "the first copy",
                            "clamp the coordinates to -1 .. 1 in the shader"});
    }
    return fitting;
}

Findings check_on_device(const TextureUse& use, const DeviceProfile& profile) {
    Findings findings;
    Findings changes;
    const Sampler fitting = fit_sampler(use.sampler, profile, changes);
    add(findings, std::move(changes));
    add(findings,
        check_sampler(use.shape, fitting, use.declared.value_or(LevelRange::of(use.shape))));
    const FormatSupport* support = profile.find(use.shape.format);
    if (support != nullptr && !support->is_filtered && uses_linear(fitting))
        findings.push_back(
            {"format-not-filtered",
             fmt::format("the device does not filter {}: linear filters give black or garbage",
                         info(use.shape.format).name),
             "set mag=nearest min=nearest mip=nearest, or bake it as rgba16-float",
             FindingLevel::error});
    if (use.shape.faces == 6 && !profile.has_seamless_cubes && uses_linear(fitting))
        findings.push_back(
            {"cube-seam-on-device",
             "the device's filters stop at the edges of faces: seams will show",
             "enable GL_TEXTURE_CUBE_MAP_SEAMLESS where that is there, or bake it with its edges "
             "joined"});
    if (fitting.compare != Compare::off)
        findings.push_back({"compare-without-depth",
                            fmt::format("the sampler compares, and {} holds no depth",
                                        info(use.shape.format).name),
                            "leave compare out, or use a depth format"});
    check_sizes(use, profile, findings);
    if (use.role)
        add(findings, check_role(use.shape.format, *use.role));
    return findings;
}

Findings check_counts(std::size_t textures, std::size_t samplers, const DeviceProfile& profile) {
    Findings findings;
    if (textures > profile.max_textures)
        findings.push_back(
            {"too-many-textures",
             fmt::format("{} textures are wanted at once, and a shader stage of the device samples "
                         "{}",
                         textures, profile.max_textures),
             "put textures of one size into an array, use an atlas, or index descriptors where the "
             "device can",
             FindingLevel::error});
    if (samplers > profile.max_samplers)
        findings.push_back({"too-many-samplers",
                            fmt::format("{} samplers are wanted, and the device holds {}", samplers,
                                        profile.max_samplers),
                            "share samplers of equal description", FindingLevel::error});
    return findings;
}

}  // namespace yl
