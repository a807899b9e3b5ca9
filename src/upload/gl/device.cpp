// The device behind an OpenGL context, and uploads to it.
#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <set>

#include "base/attempt.hpp"
#include "upload/gl/functions.hpp"
#include "upload/gl/saved_state.hpp"

namespace yl::gl {
namespace {

constexpr GLenum greatest_anisotropy_name = 0x84FF;  // GL_MAX_TEXTURE_MAX_ANISOTROPY
constexpr GLenum anisotropy_name = 0x84FE;           // GL_TEXTURE_MAX_ANISOTROPY

std::set<std::string> extensions(const Functions& gl) {
    std::set<std::string> names;
    const GLint count = gl.integer(GL_NUM_EXTENSIONS);
    for (GLuint i = 0; i < static_cast<GLuint>(count); ++i)
        names.emplace(reinterpret_cast<const char*>(gl.GetStringi(GL_EXTENSIONS, i)));
    return names;
}

/// All of the table's formats are core in OpenGL 3.3, except one- and two-channel sRGB and some
/// block formats.
std::vector<Format> sampled_formats(const std::set<std::string>& available, int version) {
    const auto has = [&](const char* extension) { return available.contains(extension); };
    const bool has_s3tc = has("GL_EXT_texture_compression_s3tc");
    const bool has_s3tc_srgb =
        has_s3tc && (has("GL_EXT_texture_sRGB") || has("GL_EXT_texture_compression_s3tc_srgb"));
    const bool has_bptc = version >= 42 || has("GL_ARB_texture_compression_bptc");
    std::vector<Format> formats;
    for (const FormatInfo& f : all_formats()) {
        if (f.gl.internal_format == 0)
            continue;
        if (f.format == Format::r8_srgb && !has("GL_EXT_texture_sRGB_R8"))
            continue;
        if (f.format == Format::rg8_srgb && !has("GL_EXT_texture_sRGB_RG8"))
            continue;
        if (f.format >= Format::bc1_unorm && f.format <= Format::bc3_srgb &&
            !(f.transfer == Transfer::srgb ? has_s3tc_srgb : has_s3tc))
            continue;
        if (f.format >= Format::bc6h_ufloat && f.format <= Format::bc7_srgb && !has_bptc)
            continue;
        formats.push_back(f.format);
    }
    return formats;
}

GLint swizzle_enumerant(SwizzleSource source) {
    constexpr GLint names[] = {GL_RED, GL_GREEN, GL_BLUE, GL_ALPHA, GL_ZERO, GL_ONE};
    return names[static_cast<std::size_t>(source)];
}

GLint min_filter_enumerant(const Sampler& sampler) {
    const bool linear = sampler.min == Filter::linear;
    switch (sampler.mip) {
        case MipFilter::none:
            return linear ? GL_LINEAR : GL_NEAREST;
        case MipFilter::nearest:
            return linear ? GL_LINEAR_MIPMAP_NEAREST : GL_NEAREST_MIPMAP_NEAREST;
        case MipFilter::linear:
            return linear ? GL_LINEAR_MIPMAP_LINEAR : GL_NEAREST_MIPMAP_LINEAR;
    }
    return GL_NEAREST;
}

GLint wrap_enumerant(Wrap wrap) {
    constexpr GLint mirror_clamp_to_edge = 0x8743;
    constexpr GLint names[] = {GL_REPEAT, GL_MIRRORED_REPEAT, GL_CLAMP_TO_EDGE, GL_CLAMP_TO_BORDER,
                               mirror_clamp_to_edge};
    return names[static_cast<std::size_t>(wrap)];
}

void set_sampler(const Functions& gl, GLuint name, const Sampler& sampler, bool has_anisotropy) {
    gl.SamplerParameteri(name, GL_TEXTURE_MAG_FILTER,
                         sampler.mag == Filter::linear ? GL_LINEAR : GL_NEAREST);
    gl.SamplerParameteri(name, GL_TEXTURE_MIN_FILTER, min_filter_enumerant(sampler));
    gl.SamplerParameteri(name, GL_TEXTURE_WRAP_S, wrap_enumerant(sampler.wrap[0]));
    gl.SamplerParameteri(name, GL_TEXTURE_WRAP_T, wrap_enumerant(sampler.wrap[1]));
    gl.SamplerParameteri(name, GL_TEXTURE_WRAP_R, wrap_enumerant(sampler.wrap[2]));
    gl.SamplerParameterfv(name, GL_TEXTURE_BORDER_COLOR, sampler.border.data());
    gl.SamplerParameterf(name, GL_TEXTURE_MIN_LOD, sampler.min_level);
    gl.SamplerParameterf(name, GL_TEXTURE_MAX_LOD, sampler.max_level);
    gl.SamplerParameterf(name, GL_TEXTURE_LOD_BIAS, sampler.level_bias);
    if (has_anisotropy)
        gl.SamplerParameterf(name, anisotropy_name, sampler.max_anisotropy);
    if (sampler.compare != Compare::off) {
        gl.SamplerParameteri(name, GL_TEXTURE_COMPARE_MODE, GL_COMPARE_REF_TO_TEXTURE);
        // OpenGL numbers the comparisons in the order of `Compare`.
        gl.SamplerParameteri(
            name, GL_TEXTURE_COMPARE_FUNC,
            GL_NEVER + static_cast<int>(sampler.compare) - static_cast<int>(Compare::never));
    }
}

GLenum target_for(const TextureShape& shape) {
    const bool is_array = shape.is_array || shape.layers > 1;
    if (shape.faces == 6)
        return is_array ? GL_TEXTURE_CUBE_MAP_ARRAY : GL_TEXTURE_CUBE_MAP;
    return is_array ? GL_TEXTURE_2D_ARRAY : GL_TEXTURE_2D;
}

/// Arrays have all their layers and faces, one after the other, in the third place.
bool has_third_place(GLenum target) {
    return target == GL_TEXTURE_2D_ARRAY || target == GL_TEXTURE_CUBE_MAP_ARRAY;
}

/// The target by which a single face, or else the whole texture, is named.
GLenum face_target(GLenum target, std::uint32_t face) {
    return target == GL_TEXTURE_CUBE_MAP ? GL_TEXTURE_CUBE_MAP_POSITIVE_X + face : target;
}

void allocate_storage(const Functions& gl, GLenum target, const TextureShape& shape) {
    const GlFormat& format = info(shape.format).gl;
    const auto levels = static_cast<GLsizei>(shape.levels);
    const auto width = static_cast<GLsizei>(shape.width);
    const auto height = static_cast<GLsizei>(shape.height);
    if (has_third_place(target))
        gl.TexStorage3D(target, levels, format.internal_format, width, height,
                        static_cast<GLsizei>(shape.layers * shape.faces));
    else
        gl.TexStorage2D(target, levels, format.internal_format, width, height);
}

/// A level of which nothing is known yet, where storage is not immutable.
void allocate_level(const Functions& gl, GLenum target, const TextureShape& shape,
                    std::uint32_t level) {
    const GlFormat& format = info(shape.format).gl;
    const auto number = static_cast<GLint>(level);
    const auto internal = static_cast<GLint>(format.internal_format);
    const auto width = static_cast<GLsizei>(shape.width_at(level));
    const auto height = static_cast<GLsizei>(shape.height_at(level));
    if (has_third_place(target)) {
        gl.TexImage3D(target, number, internal, width, height,
                      static_cast<GLsizei>(shape.layers * shape.faces), 0, format.format,
                      format.type, nullptr);
        return;
    }
    for (std::uint32_t face = 0; face < shape.faces; ++face)
        gl.TexImage2D(face_target(target, face), number, internal, width, height, 0, format.format,
                      format.type, nullptr);
}

void fill_region(const Functions& gl, GLenum target, const Texture& texture,
                 const UploadRegion& region) {
    const GlFormat& format = info(texture.shape().format).gl;
    const auto level = static_cast<GLint>(region.level);
    const auto width = static_cast<GLsizei>(region.width);
    const auto height = static_cast<GLsizei>(region.height);
    const void* pixels = texture.image(region.level, region.layer, region.face).data;
    const auto place = static_cast<GLint>(region.layer * texture.shape().faces + region.face);
    const auto bytes = static_cast<GLsizei>(texture.shape().surface_bytes(region.level));
    const bool is_block = info(texture.shape().format).is_block();
    if (has_third_place(target) && is_block)
        gl.CompressedTexSubImage3D(target, level, 0, 0, place, width, height, 1,
                                   format.internal_format, bytes, pixels);
    else if (has_third_place(target))
        gl.TexSubImage3D(target, level, 0, 0, place, width, height, 1, format.format, format.type,
                         pixels);
    else if (is_block)
        gl.CompressedTexSubImage2D(face_target(target, region.face), level, 0, 0, width, height,
                                   format.internal_format, bytes, pixels);
    else
        gl.TexSubImage2D(face_target(target, region.face), level, 0, 0, width, height,
                         format.format, format.type, pixels);
}

/// Levels, their range and the swizzle of the texture that is bound.
void fill_texture(const Functions& gl, GLenum target, const Texture& texture,
                  const UploadPlan& plan, LevelRange declared, bool immutable) {
    const TightPixelStore tight(gl, TightPixelStore::Direction::unpack);
    if (immutable)
        allocate_storage(gl, target, plan.shape);
    else
        for (std::uint32_t level = 0; level < plan.shape.levels; ++level)
            allocate_level(gl, target, plan.shape, level);
    for (const UploadRegion& region : plan.regions)
        fill_region(gl, target, texture, region);
    gl.TexParameteri(target, GL_TEXTURE_BASE_LEVEL, static_cast<GLint>(declared.base));
    gl.TexParameteri(target, GL_TEXTURE_MAX_LEVEL, static_cast<GLint>(declared.max));
    std::array<GLint, 4> swizzle{};
    std::transform(texture.traits.swizzle.begin(), texture.traits.swizzle.end(), swizzle.begin(),
                   swizzle_enumerant);
    gl.TexParameteriv(target, GL_TEXTURE_SWIZZLE_RGBA, swizzle.data());
}

}  // namespace

Result<Device> Device::open(const Loader& loader) {
    YL_TRY(const Functions functions, Functions::load(loader));
    Device device;
    device.functions_ = std::make_shared<const Functions>(functions);
    const Functions& gl = *device.functions_;
    const GLint major = gl.integer(GL_MAJOR_VERSION);
    const GLint minor = gl.integer(GL_MINOR_VERSION);
    if (major * 10 + minor < 33)
        return fail(
            ErrorKind::device,
            fmt::format("the context is OpenGL {}.{}; version 3.3 is needed", major, minor));
    const auto available = extensions(gl);
    DeviceProfile& profile = device.profile_;
    profile.name = reinterpret_cast<const char*>(gl.GetString(GL_RENDERER));
    profile.api = fmt::format("OpenGL {}.{}", major, minor);
    profile.greatest_2d_side = static_cast<std::uint32_t>(gl.integer(GL_MAX_TEXTURE_SIZE));
    profile.greatest_cube_side =
        static_cast<std::uint32_t>(gl.integer(GL_MAX_CUBE_MAP_TEXTURE_SIZE));
    profile.greatest_layers = static_cast<std::uint32_t>(gl.integer(GL_MAX_ARRAY_TEXTURE_LAYERS));
    profile.has_cube_arrays = major >= 4 || available.contains("GL_ARB_texture_cube_map_array");
    const bool has_anisotropy = major * 10 + minor >= 46 ||
                                available.contains("GL_EXT_texture_filter_anisotropic") ||
                                available.contains("GL_ARB_texture_filter_anisotropic");
    if (has_anisotropy)
        gl.GetFloatv(greatest_anisotropy_name, &profile.greatest_anisotropy);
    profile.formats = sampled_formats(available, major * 10 + minor);
    YL_CHECK(gl.check("describe the device"));
    return device;
}

Result<GpuTexture> Device::upload(const Texture& texture, const UploadOptions& options) const {
    const Functions& gl = *functions_;
    GpuTexture result(functions_);
    YL_TRY(result.plan_, plan_upload(texture.shape(), profile_));
    result.findings_ = result.plan_.findings;
    result.traits_ = texture.traits;
    result.fitted_sampler_ =
        fit_sampler(options.sampler.value_or(texture.traits.sampler.value_or(Sampler{})), profile_,
                    result.findings_);
    result.declared_levels_ = options.declared_levels.value_or(LevelRange::of(texture.shape()));
    const Findings pair =
        check_sampler(texture.shape(), result.fitted_sampler_, result.declared_levels_);
    result.findings_.insert(result.findings_.end(), pair.begin(), pair.end());

    Texture converted;
    if (result.plan_.converts()) {
        YL_TRY(converted, converted_for(result.plan_, texture));
    }
    gl.GenTextures(1, &result.texture_);
    gl.GenSamplers(1, &result.sampler_);
    result.target_ = target_for(result.plan_.shape);
    const BoundTexture bound(gl, result.target_, result.texture_);
    const bool immutable = options.immutable_storage && !options.declared_levels &&
                           gl.TexStorage2D != nullptr && gl.TexStorage3D != nullptr;
    fill_texture(gl, result.target_, result.plan_.converts() ? converted : texture, result.plan_,
                 result.declared_levels_, immutable);
    set_sampler(gl, result.sampler_, result.fitted_sampler_, profile_.greatest_anisotropy > 1);
    YL_CHECK(gl.check("create the texture"));
    return result;
}

GpuTexture::GpuTexture(GpuTexture&& other) noexcept {
    *this = std::move(other);
}

GpuTexture& GpuTexture::operator=(GpuTexture&& other) noexcept {
    functions_.swap(other.functions_);
    std::swap(texture_, other.texture_);
    std::swap(target_, other.target_);
    std::swap(sampler_, other.sampler_);
    std::swap(plan_, other.plan_);
    std::swap(fitted_sampler_, other.fitted_sampler_);
    std::swap(declared_levels_, other.declared_levels_);
    std::swap(traits_, other.traits_);
    std::swap(findings_, other.findings_);
    return *this;
}

GpuTexture::~GpuTexture() {
    if (texture_ != 0)
        functions_->DeleteTextures(1, &texture_);
    if (sampler_ != 0)
        functions_->DeleteSamplers(1, &sampler_);
}

void GpuTexture::bind(std::uint32_t unit) const {
    const GLint active = functions_->integer(GL_ACTIVE_TEXTURE);
    functions_->ActiveTexture(GL_TEXTURE0 + unit);
    functions_->BindTexture(target_, texture_);
    functions_->BindSampler(unit, sampler_);
    functions_->ActiveTexture(static_cast<GLenum>(active));
}

Result<Texture> GpuTexture::read_back() const {
    const Functions& gl = *functions_;
    YL_TRY(Texture texture, Texture::create(plan_.shape));
    texture.traits = traits_;
    const BoundTexture bound(gl, target_, texture_);
    const TightPixelStore tight(gl, TightPixelStore::Direction::pack);
    const GlFormat& format = info(plan_.shape.format).gl;
    const std::uint32_t parts = target_ == GL_TEXTURE_CUBE_MAP ? plan_.shape.faces : 1;
    for (std::uint32_t level = 0; level < plan_.shape.levels; ++level)
        for (std::uint32_t part = 0; part < parts; ++part) {
            const GLenum target = face_target(target_, part);
            const auto number = static_cast<GLint>(level);
            GLint width = 0;
            GLint height = 0;
            gl.GetTexLevelParameteriv(target, number, GL_TEXTURE_WIDTH, &width);
            gl.GetTexLevelParameteriv(target, number, GL_TEXTURE_HEIGHT, &height);
            if (static_cast<std::uint32_t>(width) != plan_.shape.width_at(level) ||
                static_cast<std::uint32_t>(height) != plan_.shape.height_at(level))
                return fail(
                    ErrorKind::device,
                    fmt::format("level {} is {} x {} texels on the device", level, width, height));
            // Arrays come as a whole: layer by layer, face by face, as they lie here too.
            void* pixels = texture.image(level, 0, part).data;
            if (info(plan_.shape.format).is_block())
                gl.GetCompressedTexImage(target, number, pixels);
            else
                gl.GetTexImage(target, number, format.format, format.type, pixels);
        }
    YL_CHECK(gl.check("read the texture back"));
    return texture;
}

}  // namespace yl::gl
