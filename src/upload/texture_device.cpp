#include <yl/upload.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/block.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// APIs that know BC1 with alpha alone.
bool shows_black_as_holes(const DeviceProfile& profile) {
    return profile.api_kind == GraphicsApi::direct3d12 ||
           profile.api_kind == GraphicsApi::direct3d11 || profile.api_kind == GraphicsApi::metal ||
           profile.api_kind == GraphicsApi::webgpu;
}

}  // namespace

Result<PreparedUpload> prepare_upload(const Texture& texture, const DeviceProfile& profile,
                                      const UploadOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    PreparedUpload prepared;
    YL_TRY(prepared.plan, plan_upload(texture, profile, options));
    const Sampler asked = options.sampler.value_or(texture.metadata.sampler.value_or(Sampler{}));
    Findings changes;
    prepared.desc.shape = prepared.plan.shape;
    prepared.desc.metadata = texture.metadata;
    prepared.desc.metadata.swizzle = prepared.plan.swizzle;
    prepared.desc.sampler = fit_sampler(asked, profile, changes);
    prepared.desc.label = options.label;
    prepared.findings = prepared.plan.findings;
    if (prepared.plan.shape.format == texture.shape().format && shows_black_as_holes(profile))
        if (const auto blocks = count_blocks_with_black_of_three(texture); blocks > 0)
            prepared.findings.push_back(
                {"black-as-holes",
                 fmt::format("{} blocks of {} hold black that the device shows as holes", blocks,
                             info(texture.shape().format).name),
                 "encode it again, without the black of three colours"});
    const bool has_border = std::ranges::find(prepared.desc.sampler.wrap, Wrap::clamp_to_border) !=
                            prepared.desc.sampler.wrap.end();
    if (profile.api_kind == GraphicsApi::vulkan && has_border &&
        prepared.plan.swizzle != identity_swizzle)
        prepared.findings.push_back(
            {"border-through-swizzle",
             fmt::format("Vulkan leaves open which border colour is seen through the swizzle {}",
                         swizzle_text(prepared.plan.swizzle)),
             "bake it with all channels, or clamp to the edge"});
    for (Finding& finding : check_on_device(
             {.shape = prepared.plan.shape, .sampler = asked, .role = options.role}, profile))
        prepared.findings.push_back(std::move(finding));
    if (prepared.plan.converts()) {
        YL_TRY(prepared.converted, converted_for(prepared.plan, texture));
    }
    return prepared;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<PreparedUpdate> prepare_update(const UploadPlan& whole, const TextureBox& box,
                                      const Texture& texels, const DeviceProfile& profile) try {
    YL_CHECK(check_texture(texels, "texels"));
    PreparedUpdate prepared;
    YL_TRY(prepared.plan, plan_update(whole, box, profile));
    const TextureShape& given = texels.shape();
    if (given.format != whole.source_format || given.width != box.width ||
        given.height != box.height || given.depth != box.depth)
        return fail(
            ErrorKind::usage,
            fmt::format("{} x {} x {} texels of {} do not fill a box of {} x {} x {} texels "
                        "of {}",
                        given.width, given.height, given.depth, info(given.format).name, box.width,
                        box.height, box.depth, info(whole.source_format).name));
    if (prepared.plan.converts()) {
        YL_TRY(prepared.converted, converted_for(prepared.plan, texels));
    }
    return prepared;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<TextureShape> shape_of_part(const TextureShape& whole, std::uint32_t level,
                                   std::uint32_t layer, std::uint32_t face) {
    if (level >= whole.levels || layer >= whole.layers || face >= whole.faces)
        return fail(ErrorKind::usage, fmt::format("the texture has no level {}, layer {}, face {}",
                                                  level, layer, face));
    TextureShape part{.format = whole.format,
                      .width = whole.width_at(level),
                      .height = whole.height_at(level),
                      .depth = whole.depth_at(level)};
    part.is_1d = whole.is_1d;
    part.is_3d = whole.dimensions() == 3 && part.depth == 1;
    return part;
}

Result<UploadedTexture> upload_texture(TextureDevice& device, const Texture& texture,
                                       const UploadOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_TRY(PreparedUpload prepared, prepare_upload(texture, device.profile(), options));
    UploadedTexture uploaded;
    YL_TRY(uploaded.texture, device.reserve(prepared.desc));
    for (std::size_t batch = 0; batch < prepared.plan.batches.size(); ++batch)
        YL_CHECK(uploaded.texture->write(prepared.plan, batch, prepared.source(texture)));
    YL_CHECK(uploaded.texture->set_level_range(prepared.plan.levels));
    uploaded.plan = std::move(prepared.plan);
    uploaded.findings = std::move(prepared.findings);
    return uploaded;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
