#include "upload/gl/profile.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include <yl/status_macros.hpp>

namespace yl::gl {
namespace {

constexpr GLenum max_anisotropy_name = 0x84FF;  // GL_MAX_TEXTURE_MAX_ANISOTROPY

/// The context's version, as 45 for 4.5, and its extensions.
struct Context {
    int version = 0;
    bool is_embedded = false;
    std::set<std::string> extensions = {};

    /// Core from a version on (of OpenGL, of ES; 99: never), or by one of these extensions.
    [[nodiscard]] bool has(int core, int core_of_es,
                           std::initializer_list<const char*> names) const {
        return version >= (is_embedded ? core_of_es : core) ||
               std::ranges::any_of(names,
                                   [&](const char* name) { return extensions.contains(name); });
    }
};

std::uint32_t limit(const Functions& gl, GLenum name) {
    return static_cast<std::uint32_t>(std::max(gl.integer(name), 0));
}

Context read_context(const Functions& gl) {
    Context context;
    const auto* text = reinterpret_cast<const char*>(gl.GetString(GL_VERSION));
    context.is_embedded = text != nullptr && std::string(text).starts_with("OpenGL ES");
    context.version = gl.integer(GL_MAJOR_VERSION) * 10 + gl.integer(GL_MINOR_VERSION);
    const GLint count = gl.integer(GL_NUM_EXTENSIONS);
    for (GLuint i = 0; i < static_cast<GLuint>(count); ++i)
        context.extensions.emplace(reinterpret_cast<const char*>(gl.GetStringi(GL_EXTENSIONS, i)));
    return context;
}

bool has_block_format(const Context& context, const FormatInfo& f) {
    if (f.family == BlockFamily::etc2)
        return context.has(43, 30, {"GL_ARB_ES3_compatibility"});
    if (f.family == BlockFamily::astc)
        return context.has(99, 32, {"GL_KHR_texture_compression_astc_ldr"});
    if (f.family == BlockFamily::astc_hdr)
        return context.has(99, 99, {"GL_KHR_texture_compression_astc_hdr"});
    const bool is_srgb = f.transfer == Transfer::srgb;
    if (f.format <= Format::bc3_srgb) {
        const bool has_plain = context.has(99, 99, {"GL_EXT_texture_compression_s3tc"}) ||
                               (f.format <= Format::bc1a_srgb &&
                                context.has(99, 99, {"GL_EXT_texture_compression_dxt1"}));
        return has_plain && (!is_srgb || context.has(99, 99,
                                                     {"GL_EXT_texture_sRGB",
                                                      "GL_EXT_texture_compression_s3tc_srgb"}));
    }
    if (f.format <= Format::bc5_snorm)
        return context.has(30, 99, {"GL_EXT_texture_compression_rgtc"});
    return context.has(42, 99,
                       {"GL_ARB_texture_compression_bptc", "GL_EXT_texture_compression_bptc"});
}

bool has_format(const Context& context, const FormatInfo& f) {
    if (f.gl.internal_format == 0)
        return false;
    if (f.is_block())
        return has_block_format(context, f);
    if (f.format == Format::r8_srgb)
        return context.has(99, 99, {"GL_EXT_texture_sRGB_R8"});
    if (f.format == Format::rg8_srgb)
        return context.has(99, 99, {"GL_EXT_texture_sRGB_RG8"});
    if (f.channels[0].channel == Channel::blue)
        return !context.is_embedded;  // ES has BGRA in memory of its own kind only
    const bool has_16_bits = !f.is_float() && f.channels[0].bits == 16;
    return !has_16_bits || context.has(33, 99, {"GL_EXT_texture_norm16"});
}

std::vector<FormatSupport> read_formats(const Context& context) {
    std::vector<FormatSupport> formats;
    for (const FormatInfo& f : all_formats()) {
        if (!has_format(context, f))
            continue;
        FormatSupport& support = formats.emplace_back(f.format);
        const bool is_32_float = f.is_float() && f.channels[0].bits == 32;
        support.is_filtered = !is_32_float || context.has(33, 99, {"GL_OES_texture_float_linear"});
        support.allows_1d = !context.is_embedded && !f.is_block();
        // In volumes, blocks are BC6H and BC7 only (OpenGL 4.6, section 8.7); not in ES.
        support.allows_3d = !f.is_block() || (!context.is_embedded && f.family == BlockFamily::bc &&
                                              f.format >= Format::bc6h_ufloat);
    }
    return formats;
}

/// What the context can do beyond what every one can.
void read_abilities(Functions& gl, const Context& context, const DeviceOptions& options) {
    const bool es = context.is_embedded;
    gl.is_embedded = es;
    gl.has_direct_state_access = options.direct_state_access && !es &&
                                 gl.TextureStorage3D != nullptr && gl.BindTextureUnit != nullptr &&
                                 context.has(45, 99, {"GL_ARB_direct_state_access"});
    gl.has_fixed_storage = gl.TexStorage2D != nullptr && gl.TexStorage3D != nullptr &&
                           context.has(42, 30, {"GL_ARB_texture_storage"});
    gl.has_bindless = gl.GetTextureSamplerHandleARB != nullptr &&
                      gl.MakeTextureHandleResidentARB != nullptr &&
                      gl.MakeTextureHandleNonResidentARB != nullptr &&
                      context.has(99, 99, {"GL_ARB_bindless_texture"});
    gl.has_labels = gl.ObjectLabel != nullptr && context.has(43, 32, {"GL_KHR_debug"});
    gl.has_part_reads = !es && gl.GetTextureSubImage != nullptr &&
                        gl.GetCompressedTextureSubImage != nullptr &&
                        context.has(45, 99, {"GL_ARB_get_texture_sub_image"});
    gl.has_pixel_transfer =
        !es && gl.PixelTransferf != nullptr &&
        (gl.integer(GL_CONTEXT_PROFILE_MASK) & GL_CONTEXT_COMPATIBILITY_PROFILE_BIT) != 0;
    gl.has_block_pixel_store =
        !es && context.has(42, 99, {"GL_ARB_compressed_texture_pixel_storage"});
}

/// Sizes, samplers and kinds of texture.
DeviceProfile read_limits(const Functions& gl, const Context& context) {
    const bool es = context.is_embedded;
    DeviceProfile profile;
    profile.max_2d_side = limit(gl, GL_MAX_TEXTURE_SIZE);
    profile.max_1d_side = es ? 0 : profile.max_2d_side;
    profile.max_3d_side = limit(gl, GL_MAX_3D_TEXTURE_SIZE);
    profile.max_cube_side = limit(gl, GL_MAX_CUBE_MAP_TEXTURE_SIZE);
    profile.max_layers = limit(gl, GL_MAX_ARRAY_TEXTURE_LAYERS);
    profile.has_cube_arrays =
        context.has(40, 32,
                    {"GL_ARB_texture_cube_map_array", "GL_OES_texture_cube_map_array",
                     "GL_EXT_texture_cube_map_array"});
    if (context.has(46, 99,
                    {"GL_EXT_texture_filter_anisotropic", "GL_ARB_texture_filter_anisotropic"}))
        gl.GetFloatv(max_anisotropy_name, &profile.max_anisotropy);
    profile.max_level_bias = 0;
    if (!es)
        gl.GetFloatv(GL_MAX_TEXTURE_LOD_BIAS, &profile.max_level_bias);
    profile.has_borders =
        context.has(33, 32, {"GL_OES_texture_border_clamp", "GL_EXT_texture_border_clamp"});
    profile.has_any_border_color = profile.has_borders;
    profile.has_mirror_once =
        context.has(44, 99,
                    {"GL_ARB_texture_mirror_clamp_to_edge", "GL_EXT_texture_mirror_clamp_to_edge",
                     "GL_EXT_texture_mirror_clamp"});
    // A switch of the context in OpenGL, always on in ES.
    constexpr GLenum seamless_name = 0x884F;  // GL_TEXTURE_CUBE_MAP_SEAMLESS
    profile.has_seamless_cubes =
        es || (gl.IsEnabled != nullptr && gl.IsEnabled(seamless_name) == GL_TRUE);
    profile.max_textures = limit(gl, GL_MAX_TEXTURE_IMAGE_UNITS);
    return profile;
}

}  // namespace

Result<DeviceProfile> read_profile(Functions& gl, const DeviceOptions& options) {
    const Context context = read_context(gl);
    const bool es = context.is_embedded;
    const int major = context.version / 10, minor = context.version % 10;
    if (context.version < (es ? 30 : 33))
        return fail(ErrorKind::device,
                    fmt::format("the context is OpenGL {}{}.{}; version {} is needed",
                                es ? "ES " : "", major, minor, es ? "3.0" : "3.3"));
    read_abilities(gl, context, options);
    DeviceProfile profile = read_limits(gl, context);
    profile.name = reinterpret_cast<const char*>(gl.GetString(GL_RENDERER));
    profile.api = fmt::format("OpenGL {}{}.{}", es ? "ES " : "", major, minor);
    profile.api_kind = es ? GraphicsApi::opengl_es : GraphicsApi::opengl;
    profile.row_pitch_alignment = 1;  // rows are sent tightly packed, whatever the format
    profile.offset_alignment = 16;
    profile.formats = read_formats(context);
    YL_CHECK(gl.check("describe the device"));
    return profile;
}

}  // namespace yl::gl
