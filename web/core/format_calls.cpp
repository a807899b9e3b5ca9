// The table of formats, and profiles of the devices that a page finds.
#include <algorithm>
#include <array>

#include "request.hpp"

namespace yl::web {
namespace {

Json describe(const FormatInfo& f) {
    return {{"name", f.name},
            {"vk", static_cast<std::uint32_t>(f.format)},
            {"block", {f.block_width, f.block_height, f.block_bytes}},
            {"gl", {f.gl.internal_format, f.gl.format, f.gl.type}},
            {"webgpu", f.webgpu},
            {"channels", f.channel_count},
            {"is_float", f.is_float()},
            {"transfer", f.transfer == Transfer::srgb ? "srgb" : "linear"}};
}

Result<Json> formats(Objects&, const Json&) {
    Json list = Json::array();
    for (const FormatInfo& f : all_formats())
        list.push_back(describe(f));
    return Json{{"formats", std::move(list)}};
}

/// Which switch of a page a format needs: blocks come by extensions of WebGL and features of WebGPU.
struct Switch {
    const char* name;
    bool (*has)(const FormatInfo& f);
};

bool is_bc(const FormatInfo& f, Format first, Format last) {
    return f.format >= first && f.format <= last;
}

bool is_32_float(const FormatInfo& f) {
    return f.kind == NumericKind::signed_float && f.channels[0].bits == 32;
}

bool is_norm_16(const FormatInfo& f) {
    return !f.is_block() && !f.is_float() && f.channels[0].bits == 16;
}

constexpr std::array<Switch, 8> switches = {{
    {"s3tc",
     [](const FormatInfo& f) {
         return is_bc(f, Format::bc1_unorm, Format::bc3_srgb) && f.transfer == Transfer::linear;
     }},
    {"s3tc-srgb",
     [](const FormatInfo& f) {
         return is_bc(f, Format::bc1_unorm, Format::bc3_srgb) && f.transfer == Transfer::srgb;
     }},
    {"rgtc", [](const FormatInfo& f) { return is_bc(f, Format::bc4_unorm, Format::bc5_snorm); }},
    {"bptc", [](const FormatInfo& f) { return is_bc(f, Format::bc6h_ufloat, Format::bc7_srgb); }},
    {"etc", [](const FormatInfo& f) { return f.family == BlockFamily::etc2; }},
    {"astc", [](const FormatInfo& f) { return f.family == BlockFamily::astc && !f.is_float(); }},
    {"astc-hdr", [](const FormatInfo& f) { return f.family == BlockFamily::astc && f.is_float(); }},
    {"norm16", is_norm_16},
}};

/// `base` is the name of a profile; `has` lists switches and "float-linear", "bc-3d", "astc-3d"; limits
/// replace those of the base.
Result<Json> profile(Objects& objects, const Json& request) {
    YL_TRY(const std::string base, text(request, "base"));
    YL_TRY(DeviceProfile made, find_profile(base));
    const auto is_on = [&](std::string_view name) {
        const Json& on = request.contains("has") ? request["has"] : Json::array();
        return std::any_of(on.begin(), on.end(), [&](const Json& one) { return one == name; });
    };
    const bool is_gpu = made.api_kind == GraphicsApi::webgpu;
    std::vector<FormatSupport> formats;
    for (const FormatInfo& f : all_formats()) {
        const bool has_word = is_gpu ? !f.webgpu.empty() : f.gl.internal_format != 0;
        const auto needed =
            std::ranges::find_if(switches, [&](const Switch& s) { return s.has(f); });
        const bool is_there =
            needed != switches.end() ? is_on(needed->name) : made.supports(f.format);
        if (!has_word || !is_there)
            continue;
        FormatSupport support(f.format);
        if (const FormatSupport* known = made.find(f.format))
            support = *known;
        support.allows_1d = support.allows_1d && !f.is_block() && is_gpu;
        if (f.is_block())
            support.allows_3d = is_on(f.family == BlockFamily::bc ? "bc-3d" : "astc-3d") &&
                                f.family != BlockFamily::etc2;
        if (f.family == BlockFamily::bc && !is_gpu)
            support.needs_whole_sides = true;  // of level 0, by all three extensions of WebGL
        if (is_32_float(f))
            support.is_filtered = is_on("float-linear");
        formats.push_back(support);
    }
    made.formats = std::move(formats);
    struct Limit {
        const char* name;
        std::uint32_t DeviceProfile::*member;
    };
    for (const Limit& limit : {Limit{"max_2d_side", &DeviceProfile::max_2d_side},
                               {"max_3d_side", &DeviceProfile::max_3d_side},
                               {"max_cube_side", &DeviceProfile::max_cube_side},
                               {"max_layers", &DeviceProfile::max_layers}}) {
        YL_TRY(made.*limit.member, number_or(request, limit.name, made.*limit.member));
    }
    YL_TRY(made.max_anisotropy, decimal_or(request, "max_anisotropy", made.max_anisotropy));
    made.guaranteed_2d_side = made.guaranteed_3d_side = made.guaranteed_layers = 0;
    Json names = Json::array();
    for (const FormatSupport& support : made.formats)
        names.push_back(info(support.format).name);
    return Json{{"profile", objects.keep(std::move(made))}, {"formats", std::move(names)}};
}

Result<Json> free_object(Objects& objects, const Json& request) {
    YL_TRY(const std::uint32_t found, number(request, "object"));
    objects.drop(found);
    return Json{{"alive", objects.count()}};
}

constexpr NamedCall calls[] = {
    {"formats", formats, ""},
    {"profile", profile,
     "base has max_2d_side max_3d_side max_cube_side max_layers max_anisotropy"},
    {"free", free_object, "object"}};

}  // namespace

std::span<const NamedCall> format_calls() {
    return calls;
}

}  // namespace yl::web
