// The device behind an OpenGL context, and textures made on it.
#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/device_texture.hpp"
#include "upload/gl/profile.hpp"
#include "upload/gl/saved_state.hpp"
#include "upload/gl/storage.hpp"
#include "upload/gl/targets.hpp"
#include "upload/gl/texture_parts.hpp"

namespace yl::gl {

Result<Device> Device::open(const Loader& loader, const DeviceOptions& options) try {
    YL_TRY(Functions functions, Functions::load(loader));
    functions.forget_errors();
    YL_TRY(DeviceProfile profile, read_profile(functions, options));
    Parts parts;
    parts.functions = std::make_shared<const Functions>(functions);
    parts.samplers = std::make_shared<SamplerCache>(parts.functions, profile.max_anisotropy > 1);
    if (options.streaming)
        parts.stream = std::make_shared<StreamBuffers>(parts.functions);
    parts.profile = std::make_shared<const DeviceProfile>(std::move(profile));
    return Device(std::make_shared<const Parts>(std::move(parts)));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::size_t Device::sampler_count() const {
    return parts_->samplers->size();
}

const DeviceProfile& Device::profile() const {
    return *parts_->profile;
}

const Functions& Device::functions() const {
    return *parts_->functions;
}

GpuTexture Device::unnamed(const TextureDesc& desc, UploadPlan plan) const {
    auto parts = std::make_unique<GpuTexture::Parts>();
    parts->device = parts_;
    parts->target = target_for(plan.shape);
    parts->describe(desc, std::move(plan), parts_->profile);

    return GpuTexture(std::move(parts));
}

Result<GpuTexture> Device::create(const TextureDesc& desc, UploadPlan plan, LevelRange declared,
                                  bool immutable) const try {
    const Functions& gl = *parts_->functions;
    gl.forget_errors();
    GpuTexture result = unnamed(desc, std::move(plan));
    result.parts()->shown = declared;
    result.parts()->is_immutable = immutable && gl.has_fixed_storage;
    const bool directly = gl.has_direct_state_access && result.parts()->is_immutable;
    if (directly)
        gl.CreateTextures(result.parts()->target, 1, &result.parts()->name);
    else
        gl.GenTextures(1, &result.parts()->name);
    if (result.parts()->name == 0)
        return fail(ErrorKind::device,
                    "OpenGL makes no texture: no context is current on this thread");
    std::optional<BoundTexture> bound;  // which also gives a new name its target
    if (!directly)
        bound.emplace(gl, result.parts()->target, result.parts()->name);
    const TextureObject object{gl, result.parts()->target, result.parts()->name};
    if (result.parts()->is_immutable)
        allocate_fixed(object, result.parts()->plan.shape);
    else
        allocate_loose(object, result.parts()->plan.shape);
    YL_CHECK(gl.check("take memory for the texture"));
    declare_levels(object, declared);
    declare_swizzle(object, desc.metadata.swizzle);
    result.parts()->shared_sampler = parts_->samplers->get(desc.sampler);
    if (gl.has_labels && !desc.label.empty()) {
        constexpr std::size_t longest = 255;  // the least GL_MAX_LABEL_LENGTH is 256
        const std::string label = desc.label.substr(0, longest);
        gl.ObjectLabel(GL_TEXTURE, result.parts()->name, static_cast<GLsizei>(label.size()),
                       label.c_str());
    }
    YL_CHECK(gl.check("create the texture"));
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<GpuTexture> Device::upload(const Texture& texture, const UploadOptions& options,
                                  const StorageOptions& storage) const try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_TRY(PreparedUpload prepared, prepare_upload(texture, *parts_->profile, options));
    const LevelRange& filled = prepared.plan.levels;
    const LevelRange declared = storage.declared_levels.value_or(filled);
    if (storage.declared_levels)
        for (Finding& finding : check_sampler(prepared.plan.shape, prepared.desc.sampler, declared))
            prepared.findings.push_back(std::move(finding));
    YL_TRY(GpuTexture result, create(prepared.desc, prepared.plan, declared,
                                     storage.immutable && !storage.declared_levels));
    result.parts()->findings = std::move(prepared.findings);
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
        return fail_at({ErrorKind::usage, fmt::format("{} is not a texture's name", object.name)},
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
                                 const UploadOptions& options, const StorageOptions& storage) const
    try {
    YL_TRY(UploadPlan plan, plan_upload(shape, *parts_->profile));
    if (plan.shape != shape)
        return fail_at({ErrorKind::usage,
                        fmt::format("the device has no textures of {}", info(shape.format).name)},
                       "shape");
    const GLenum target = target_for(shape);
    YL_CHECK(check_adopted(*parts_->functions, {*parts_->functions, target, name}, shape));
    Findings findings;
    TextureDesc desc;
    desc.shape = shape;
    desc.sampler = fit_sampler(options.sampler.value_or(Sampler{}), *parts_->profile, findings);
    GpuTexture result = unnamed(desc, std::move(plan));
    result.parts()->findings = std::move(findings);
    result.parts()->shown = storage.declared_levels.value_or(LevelRange::of(shape));
    result.parts()->shared_sampler = parts_->samplers->get(result.parts()->sampler);
    result.parts()->name = name;
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::unique_ptr<DeviceTexture>> Device::reserve(const TextureDesc& desc) try {
    YL_TRY(UploadPlan plan, plan_to_reserve(desc, *parts_->profile));
    YL_TRY(GpuTexture texture, create(desc, std::move(plan), LevelRange::of(desc.shape), true));
    return std::make_unique<GpuTexture>(std::move(texture));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::gl
