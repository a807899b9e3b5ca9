// What the devices and textures of all backends have in common.
#pragma once

#include <functional>

#include <yl/status_macros.hpp>
#include <yl/upload.hpp>

#include "base/internal.hpp"

namespace yl {

/// What a texture answers once it was moved from.
[[nodiscard]] YL_INTERNAL tl::unexpected<Error> moved_from();

/// The levels that samplers are to see, with their number; an error for levels that are not there.
[[nodiscard]] YL_INTERNAL Result<LevelRange> checked_levels(const TextureShape& shape,
                                                            LevelRange range);

/// Replaces a box of a texture that `plan` uploaded.
[[nodiscard]] YL_INTERNAL Status replace_box(DeviceTexture& texture, const UploadPlan& plan,
                                             const DeviceProfile& profile, const TextureBox& box,
                                             const Texture& texels);

/// Reads a part: one level of one layer and face.
using ReadPart =
    std::function<Result<Texture>(std::uint32_t level, std::uint32_t layer, std::uint32_t face)>;

/// A whole texture part by part; levels that are not shown are zeros.
[[nodiscard]] YL_INTERNAL Result<Texture> read_parts(
    const TextureShape& shape, const TextureMetadata& metadata,
    const std::function<bool(std::uint32_t level)>& is_shown, const ReadPart& read_part);

/// The plan for a shape that comes from a plan for this device.
[[nodiscard]] YL_INTERNAL Result<UploadPlan> plan_to_reserve(const TextureDesc& desc,
                                                             const DeviceProfile& profile);

/// Where each batch begins in one buffer for all of them, and how large that is.
struct BatchOffsets {
    std::vector<std::uint64_t> offsets = {};
    std::uint64_t bytes = 0;
};
[[nodiscard]] YL_INTERNAL BatchOffsets batch_offsets(const UploadPlan& plan,
                                                     std::uint64_t alignment);

/// All of a texture, within the staging memory of the device: `create` makes it of a `PreparedUpload`.
template <class Create>
[[nodiscard]] auto upload_within(std::uint64_t staging_budget, const DeviceProfile& profile,
                                 const Texture& texture, const UploadOptions& options,
                                 const Create& create)
    -> decltype(create(std::declval<PreparedUpload&>())) {
    UploadOptions within = options;
    within.staging_budget = std::min(within.staging_budget, staging_budget);
    YL_TRY(PreparedUpload prepared, prepare_upload(texture, profile, within));
    YL_TRY(auto result, create(prepared));
    for (std::size_t batch = 0; batch < prepared.plan.batches.size(); ++batch)
        YL_CHECK(result.write(prepared.plan, batch, prepared.source(texture)));
    YL_CHECK(result.set_level_range(prepared.plan.levels));
    return result;
}

}  // namespace yl
