// The device behind an OpenGL context, and textures made on it.
#include <fmt/format.h>

#include "base/attempt.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/gl/profile.hpp"
#include "upload/gl/sampler_cache.hpp"
#include "upload/gl/saved_state.hpp"
#include "upload/gl/storage.hpp"
#include "upload/gl/stream_buffers.hpp"
#include "upload/gl/targets.hpp"

namespace yl::gl {

Result<Device> Device::open(const Loader& loader, const DeviceOptions& options) try {
    YL_TRY(Functions functions, Functions::load(loader));
    functions.forget_errors();
    YL_TRY(DeviceProfile profile, read_profile(functions, options));
    Device device;
    device.functions_ = std::make_shared<const Functions>(functions);
    device.samplers_ =
        std::make_shared<SamplerCache>(device.functions_, profile.greatest_anisotropy > 1);
    if (options.streaming)
        device.stream_ = std::make_shared<StreamBuffers>(device.functions_);
    device.profile_ = std::make_shared<const DeviceProfile>(std::move(profile));
    return device;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::size_t Device::sampler_count() const {
    return samplers_->size();
}

GpuTexture Device::unnamed(UploadPlan plan) const {
    GpuTexture texture;
    texture.functions_ = functions_;
    texture.samplers_ = samplers_;
    texture.stream_ = stream_;
    texture.profile_ = profile_;
    texture.target_ = target_for(plan.shape);
    texture.plan_ = std::move(plan);
    return texture;
}

Result<GpuTexture> Device::create(const TextureRequest& request, UploadPlan plan,
                                  LevelRange declared, bool immutable) const try {
    const Functions& gl = *functions_;
    gl.forget_errors();
    GpuTexture result = unnamed(std::move(plan));
    result.traits_ = request.traits;
    result.fitted_sampler_ = request.sampler;
    result.declared_levels_ = declared;
    result.is_immutable_ = immutable && gl.has_fixed_storage;
    const bool directly = gl.has_direct_state_access && result.is_immutable_;
    if (directly)
        gl.CreateTextures(result.target_, 1, &result.texture_);
    else
        gl.GenTextures(1, &result.texture_);
    if (result.texture_ == 0)
        return fail(ErrorKind::device,
                    "OpenGL makes no texture: no context is current on this thread");
    std::optional<BoundTexture> bound;  // which also gives a new name its target
    if (!directly)
        bound.emplace(gl, result.target_, result.texture_);
    const TextureObject object{gl, result.target_, result.texture_};
    if (result.is_immutable_)
        allocate_fixed(object, result.plan_.shape);
    else
        allocate_loose(object, result.plan_.shape);
    YL_CHECK(gl.check("take memory for the texture"));
    declare_levels(object, declared);
    declare_swizzle(object, request.traits.swizzle);
    result.sampler_ = samplers_->get(request.sampler);
    if (gl.has_labels && !request.label.empty()) {
        constexpr std::size_t longest = 255;  // the least GL_MAX_LABEL_LENGTH is 256
        const std::string label = request.label.substr(0, longest);
        gl.ObjectLabel(GL_TEXTURE, result.texture_, static_cast<GLsizei>(label.size()),
                       label.c_str());
    }
    YL_CHECK(gl.check("create the texture"));
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<GpuTexture> Device::upload(const Texture& texture, const UploadOptions& options) const try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_TRY(PreparedUpload prepared, prepare_upload(texture, *profile_,
                                                   {.wish = options.wish,
                                                    .sampler = options.sampler,
                                                    .role = options.role,
                                                    .label = options.label}));
    const LevelSpan& filled = prepared.plan.levels;
    const LevelRange declared =
        options.declared_levels.value_or(LevelRange{filled.first, filled.first + filled.count - 1});
    if (options.declared_levels)
        for (Finding& finding :
             check_sampler(prepared.plan.shape, prepared.request.sampler, declared))
            prepared.findings.push_back(std::move(finding));
    YL_TRY(GpuTexture result, create(prepared.request, prepared.plan, declared,
                                     options.immutable_storage && !options.declared_levels));
    result.findings_ = std::move(prepared.findings);
    for (std::size_t batch = 0; batch < prepared.plan.batches.size(); ++batch)
        YL_CHECK(result.write(prepared.plan, batch, prepared.source(texture)));
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

namespace {

/// Whether a name is a texture of this target, and its level 0 of this size where OpenGL tells.
Status check_adopted(const Functions& gl, const TextureObject& object, const TextureShape& shape) {
    gl.forget_errors();
    if (gl.IsTexture(object.name) != GL_TRUE)
        return fail_at({ErrorKind::usage, fmt::format("{} is no texture's name", object.name)},
                       "name");
    const BoundTexture bound(gl, object.target, object.name);
    if (gl.GetError() != GL_NO_ERROR)
        return fail_at({ErrorKind::usage, "the texture has another target than its shape asks for"},
                       "shape");
    if (gl.is_embedded || gl.GetTexLevelParameteriv == nullptr)
        return {};
    const GLenum image =
        object.target == GL_TEXTURE_CUBE_MAP ? GL_TEXTURE_CUBE_MAP_POSITIVE_X : object.target;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        GLint width = 0, height = 0;
        gl.GetTexLevelParameteriv(image, static_cast<GLint>(level), GL_TEXTURE_WIDTH, &width);
        gl.GetTexLevelParameteriv(image, static_cast<GLint>(level), GL_TEXTURE_HEIGHT, &height);
        const bool is_line = object.target == GL_TEXTURE_1D || object.target == GL_TEXTURE_1D_ARRAY;
        if (width != static_cast<GLint>(shape.width_at(level)) ||
            (!is_line && height != static_cast<GLint>(shape.height_at(level))))
            return fail_at(
                {ErrorKind::usage,
                 fmt::format("level {} of the texture is {} x {}, and of the shape "
                             "{} x {}",
                             level, width, height, shape.width_at(level), shape.height_at(level))},
                "shape");
    }
    return gl.check("look at the texture");
}

}  // namespace

Result<GpuTexture> Device::adopt(std::uint32_t name, const TextureShape& shape,
                                 const UploadOptions& options) const try {
    YL_TRY(UploadPlan plan, plan_upload(shape, *profile_));
    if (plan.shape != shape)
        return fail_at({ErrorKind::usage,
                        fmt::format("the device has no textures of {}", info(shape.format).name)},
                       "shape");
    const GLenum target = target_for(shape);
    YL_CHECK(check_adopted(*functions_, {*functions_, target, name}, shape));
    GpuTexture result = unnamed(std::move(plan));
    result.declared_levels_ = options.declared_levels.value_or(LevelRange::of(shape));
    result.fitted_sampler_ =
        fit_sampler(options.sampler.value_or(Sampler{}), *profile_, result.findings_);
    result.sampler_ = samplers_->get(result.fitted_sampler_);
    result.texture_ = name;
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::unique_ptr<DeviceTexture>> Device::reserve(const TextureRequest& request) try {
    YL_TRY(UploadPlan plan, plan_upload(request.shape, *profile_, {}, request.traits.swizzle));
    if (plan.shape != request.shape)
        return fail(ErrorKind::usage, "the shape does not come from a plan for this device");
    YL_TRY(GpuTexture texture,
           create(request, std::move(plan), LevelRange::of(request.shape), true));
    return std::make_unique<GpuTexture>(std::move(texture));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::gl
