#include <yl/texture_device.hpp>

#include "base/attempt.hpp"

namespace yl {

Result<PreparedUpload> prepare_upload(const Texture& texture, const DeviceProfile& profile,
                                      const PrepareOptions& options) {
    PreparedUpload prepared;
    YL_TRY(prepared.plan,
           plan_upload(texture.shape(), profile, options.wish, texture.traits.swizzle));
    const Sampler asked = options.sampler.value_or(texture.traits.sampler.value_or(Sampler{}));
    Findings changes;
    prepared.request.shape = prepared.plan.shape;
    prepared.request.traits = texture.traits;
    prepared.request.traits.swizzle = prepared.plan.swizzle;
    prepared.request.sampler = fit_sampler(asked, profile, changes);
    prepared.request.label = options.label;
    prepared.findings = prepared.plan.findings;
    for (Finding& finding : check_on_device(
             {.shape = prepared.plan.shape, .sampler = asked, .role = options.role}, profile))
        prepared.findings.push_back(std::move(finding));
    if (prepared.plan.converts()) {
        YL_TRY(prepared.converted, converted_for(prepared.plan, texture));
    }
    return prepared;
}

Result<UploadedTexture> upload_texture(TextureDevice& device, const Texture& texture,
                                       const PrepareOptions& options) {
    YL_TRY(PreparedUpload prepared, prepare_upload(texture, device.profile(), options));
    UploadedTexture uploaded;
    YL_TRY(uploaded.texture, device.reserve(prepared.request));
    for (std::size_t batch = 0; batch < prepared.plan.batches.size(); ++batch)
        YL_CHECK(uploaded.texture->write(prepared.plan, batch, prepared.source(texture)));
    const LevelSpan& levels = prepared.plan.levels;
    YL_CHECK(uploaded.texture->show_levels({levels.first, levels.first + levels.count - 1}));
    uploaded.plan = std::move(prepared.plan);
    uploaded.findings = std::move(prepared.findings);
    return uploaded;
}

}  // namespace yl
