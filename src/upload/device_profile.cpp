#include <yl/device_profile.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace yl {
namespace {

bool is_three_channels(const FormatInfo& f) {
    return f.channel_count == 3 && f.channels[0].bits == f.channels[2].bits && !f.is_block() &&
           f.kind != NumericKind::shared_exponent;
}

bool is_bgra(const FormatInfo& f) {
    return f.channels[0].channel == Channel::blue;
}

bool has_normalized_16(const FormatInfo& f) {
    return !f.is_float() && f.channels[0].bits == 16;
}

bool has_32_float(const FormatInfo& f) {
    return f.is_float() && f.channels[0].bits == 32;
}

/// Blocks that desktops have hardly ever.
bool has_phone_blocks(const FormatInfo& f) {
    return f.is_block() && f.family != BlockFamily::bc;
}

bool is_small_srgb(const FormatInfo& f) {
    return f.transfer == Transfer::srgb && f.channel_count < 3;
}

/// All formats of the table that `keep` wants, each touched up by `touch`.
template <class Keep, class Touch>
std::vector<FormatSupport> formats_where(const Keep& keep, const Touch& touch) {
    std::vector<FormatSupport> formats;
    for (const FormatInfo& f : all_formats())
        if (keep(f)) {
            formats.emplace_back(f.format);
            touch(f, formats.back());
        }
    return formats;
}

bool is_bc6h_or_bc7(const FormatInfo& f) {
    return f.family == BlockFamily::bc && f.format >= Format::bc6h_ufloat;
}

/// Block formats are for surfaces only, but BC6H and BC7 in volumes of OpenGL (4.6, section 8.7).
void keep_blocks_flat(const FormatInfo& f, FormatSupport& support) {
    if (!f.is_block())
        return;
    support.allows_1d = false;
    support.allows_3d = is_bc6h_or_bc7(f);
}

DeviceProfile opengl_33() {
    DeviceProfile p;
    p.name = "gl33";
    p.api = "OpenGL 3.3";
    p.api_kind = GraphicsApi::opengl;
    p.max_1d_side = p.max_2d_side = p.max_cube_side = 16384;
    p.max_3d_side = 2048;
    p.max_layers = 2048;
    p.guaranteed_2d_side = 1024;  // OpenGL 3.3, table 6.51
    p.guaranteed_3d_side = p.guaranteed_layers = 256;
    p.max_level_bias = 2;
    p.has_mirror_once = false;
    p.max_textures = 16;
    p.row_pitch_alignment = 4;  // GL_UNPACK_ALIGNMENT as it is at first
    p.offset_alignment = 4;
    p.formats = formats_where(
        [](const FormatInfo& f) {
            return f.gl.internal_format != 0 && !is_small_srgb(f) && !has_phone_blocks(f) &&
                   !is_bc6h_or_bc7(f);
        },
        keep_blocks_flat);
    return p;
}

/// OpenGL ES 3.0, tables 3.13, 3.14 and 3.16; it has no formats of 16 bits, no BGRA, no blocks but
/// ETC2.
bool is_es_format(const FormatInfo& f) {
    if (f.is_block())
        return f.family == BlockFamily::etc2;
    return !has_normalized_16(f) && !is_bgra(f) && !is_small_srgb(f);
}

/// WebGL 2.0 has blocks by extensions only.
bool is_webgl_format(const FormatInfo& f) {
    return !f.is_block() && is_es_format(f);
}

DeviceProfile opengl_es_30() {
    DeviceProfile p;
    p.name = "gles30";
    p.api = "OpenGL ES 3.0";
    p.api_kind = GraphicsApi::opengl_es;
    p.max_2d_side = p.max_cube_side = 4096;
    p.max_3d_side = 1024;
    p.max_layers = 256;
    p.guaranteed_2d_side = 2048;  // OpenGL ES 3.0, table 6.30
    p.guaranteed_3d_side = 256;
    p.max_level_bias = 0;  // the sampler has none; a shader may
    p.has_borders = p.has_any_border_color = p.has_mirror_once = false;
    p.max_textures = 16;
    p.row_pitch_alignment = 4;
    p.offset_alignment = 4;
    p.formats = formats_where(is_es_format, [](const FormatInfo& f, FormatSupport& support) {
        support.is_filtered = !has_32_float(f);
        support.allows_1d = false;
        support.allows_3d = !f.is_block();
    });
    return p;
}

DeviceProfile webgl_2() {
    DeviceProfile p = opengl_es_30();
    p.name = "webgl2";
    p.api = "WebGL 2.0";
    p.api_kind = GraphicsApi::webgl;
    p.has_swizzle = false;  // WebGL 2.0, section 5.20
    std::erase_if(p.formats,
                  [](const FormatSupport& f) { return !is_webgl_format(info(f.format)); });
    return p;
}

/// Vulkan 1.3, table 68: formats that every device has to sample and filter.
bool is_mandatory_vulkan(const FormatInfo& f) {
    return !is_three_channels(f) && !is_small_srgb(f) && !f.is_block();
}

DeviceProfile vulkan_desktop() {
    DeviceProfile p;
    p.name = "vulkan-desktop";
    p.api = "Vulkan 1.1";
    p.api_kind = GraphicsApi::vulkan;
    p.max_1d_side = p.max_2d_side = p.max_cube_side = 16384;
    p.max_3d_side = 2048;
    p.max_layers = 2048;
    p.has_cube_arrays = true;
    p.max_anisotropy = 16;
    p.max_level_bias = 15.99F;
    p.has_any_border_color = false;
    p.max_textures = 128;
    p.row_pitch_alignment = 1;
    p.offset_alignment = 64;  // optimalBufferCopyOffsetAlignment in practice
    p.formats = formats_where(
        [](const FormatInfo& f) { return is_mandatory_vulkan(f) || f.family == BlockFamily::bc; },
        [](const FormatInfo& f, FormatSupport& support) { support.allows_1d = !f.is_block(); });
    return p;
}

DeviceProfile vulkan_mobile() {
    DeviceProfile p = vulkan_desktop();
    p.name = "vulkan-mobile";
    p.max_1d_side = p.max_2d_side = p.max_cube_side = 4096;
    p.max_3d_side = 256;
    p.max_layers = 256;
    p.has_cube_arrays = false;
    p.max_anisotropy = 1;
    p.max_level_bias = 2;
    p.has_mirror_once = false;
    p.max_textures = 16;
    p.formats = formats_where(
        [](const FormatInfo& f) {
            return f.family == BlockFamily::etc2 || f.family == BlockFamily::astc ||
                   (is_mandatory_vulkan(f) && !has_normalized_16(f));
        },
        [](const FormatInfo& f, FormatSupport& support) {
            support.is_filtered = !has_32_float(f);
            support.allows_1d = support.allows_3d = !f.is_block();
        });
    return p;
}

DeviceProfile webgpu() {
    DeviceProfile p;
    p.name = "webgpu";
    p.api = "WebGPU";
    p.api_kind = GraphicsApi::webgpu;
    p.max_1d_side = p.max_2d_side = p.max_cube_side = 8192;
    p.max_3d_side = 2048;
    p.max_layers = 256;
    p.has_cube_arrays = true;
    p.has_1d_levels = p.has_1d_arrays = false;
    p.needs_whole_blocks = true;
    p.has_swizzle = false;
    p.max_anisotropy = 16;
    p.max_level_bias = 0;
    p.has_borders = p.has_any_border_color = p.has_mirror_once = false;
    p.max_textures = 16;
    p.max_samplers = 16;          // maxSamplersPerShaderStage
    p.row_pitch_alignment = 256;  // bytesPerRow of copies from buffers
    p.offset_alignment = 4;
    p.formats = formats_where(
        [](const FormatInfo& f) {  // of the features for blocks, a desktop has BC's
            return !f.webgpu.empty() && !has_normalized_16(f) && !has_phone_blocks(f);
        },
        [](const FormatInfo& f, FormatSupport& support) {
            support.is_filtered = !has_32_float(f);  // without "float32-filterable"
            support.allows_1d = support.allows_3d = !f.is_block();
        });
    return p;
}

DeviceProfile direct3d_12() {
    DeviceProfile p;
    p.name = "d3d12";
    p.api = "Direct3D 12, feature level 11.0";
    p.api_kind = GraphicsApi::direct3d12;
    p.max_1d_side = p.max_2d_side = p.max_cube_side = 16384;
    p.max_3d_side = 2048;
    p.max_layers = 2048;
    p.has_cube_arrays = true;
    p.needs_whole_blocks = true;
    p.max_anisotropy = 16;
    p.max_level_bias = 15.99F;
    p.max_textures = 128;
    p.max_samplers = 2048;        // of one heap that shaders see
    p.row_pitch_alignment = 256;  // D3D12_TEXTURE_DATA_PITCH_ALIGNMENT
    p.offset_alignment = 512;     // D3D12_TEXTURE_DATA_PLACEMENT_ALIGNMENT
    p.formats = formats_where([](const FormatInfo& f) { return f.dxgi != 0; },
                              [](const FormatInfo& f, FormatSupport& support) {
                                  // three floats need not be filtered
                                  support.is_filtered = f.format != Format::rgb32_float;
                                  support.allows_1d = !f.is_block();
                              });
    return p;
}

/// Textures are made of memory of the program's (D3D11_SUBRESOURCE_DATA), whose pitches are its own.
DeviceProfile direct3d_11() {
    DeviceProfile p = direct3d_12();
    p.name = "d3d11";
    p.api = "Direct3D 11, feature level 11.0";
    p.api_kind = GraphicsApi::direct3d11;
    p.has_swizzle = false;  // views have no component mapping
    p.max_samplers = 4096;  // D3D11_REQ_SAMPLER_OBJECT_COUNT_PER_DEVICE
    p.row_pitch_alignment = 1;
    p.offset_alignment = 16;
    return p;
}

DeviceProfile metal() {
    DeviceProfile p;
    p.name = "metal";
    p.api = "Metal 3 on a Mac";
    p.api_kind = GraphicsApi::metal;
    p.max_1d_side = p.max_2d_side = p.max_cube_side = 16384;
    p.max_3d_side = 2048;
    p.max_layers = 2048;
    p.has_cube_arrays = true;
    p.has_1d_levels = false;
    p.max_anisotropy = 16;
    p.max_level_bias = 0;
    p.has_any_border_color = false;
    p.max_textures = 128;
    p.max_samplers = 1024;
    p.row_pitch_alignment = 1;
    p.offset_alignment = 16;
    p.formats =
        formats_where([](const FormatInfo& f) { return !f.metal.empty() && !is_small_srgb(f); },
                      [](const FormatInfo& f, FormatSupport& support) {
                          support.allows_1d = !f.is_block();
                          support.allows_3d = !has_phone_blocks(f);
                      });
    return p;
}

}  // namespace

std::string_view name(GraphicsApi api) {
    constexpr std::array<std::string_view, 8> names = {
        "OpenGL", "OpenGL ES", "WebGL", "Vulkan", "WebGPU", "Direct3D 12", "Metal", "Direct3D 11"};
    return names[static_cast<std::size_t>(api)];
}

const FormatSupport* DeviceProfile::find(Format format) const {
    const auto place = std::ranges::lower_bound(formats, format, {}, &FormatSupport::format);
    return place != formats.end() && place->format == format ? &*place : nullptr;
}

std::span<const DeviceProfile> built_in_profiles() {
    static const std::array<DeviceProfile, 9> profiles = {
        opengl_33(),     opengl_es_30(), webgl_2(), webgpu(),     vulkan_desktop(),
        vulkan_mobile(), direct3d_12(),  metal(),   direct3d_11()};
    return profiles;
}

Result<DeviceProfile> find_profile(std::string_view name) {
    std::string names;
    for (const DeviceProfile& profile : built_in_profiles()) {
        if (profile.name == name)
            return profile;
        names += (names.empty() ? "" : ", ") + profile.name;
    }
    return fail(ErrorKind::usage,
                fmt::format("there is no device profile '{}'; there are {}", name, names));
}

}  // namespace yl
