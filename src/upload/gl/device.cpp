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

Result<GpuTexture> Device::create(const TextureRequest& request, UploadPlan plan,
                                  LevelRange declared, bool immutable) const try {
    const Functions& gl = *functions_;
    gl.forget_errors();
    GpuTexture result;
    result.functions_ = functions_;
    result.samplers_ = samplers_;
    result.stream_ = stream_;
    result.profile_ = profile_;
    result.plan_ = std::move(plan);
    result.traits_ = request.traits;
    result.fitted_sampler_ = request.sampler;
    result.declared_levels_ = declared;
    result.is_immutable_ = immutable && gl.has_fixed_storage;
    result.target_ = target_for(result.plan_.shape);
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
