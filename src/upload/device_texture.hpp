// What the devices and textures of all backends have in common.
#pragma once

#include <deque>
#include <memory>

#include <yl/status_macros.hpp>
#include <yl/upload.hpp>

#include "base/internal.hpp"

namespace yl {

/// What the textures of all backends keep.
struct YL_INTERNAL PlannedTexture::Common {
    Common() = default;
    Common(const Common&) = delete;
    Common& operator=(const Common&) = delete;
    /// Gives the backend's objects back.
    virtual ~Common();

    /// What is known before anything is made on the device.
    void describe(const TextureDesc& desc, UploadPlan planned,
                  std::shared_ptr<const DeviceProfile> of_device);
    /// Whether samplers may see the level, and hence copies may read it.
    [[nodiscard]] virtual bool is_shown(std::uint32_t) const { return true; }

    std::shared_ptr<const DeviceProfile> profile = {};
    UploadPlan plan = {};
    Sampler sampler = {};  ///< fitted
    LevelRange shown = {};
    TextureMetadata metadata = {};
    Findings findings = {};
};

/// What a texture answers once it was moved from.
[[nodiscard]] YL_INTERNAL tl::unexpected<Error> moved_from();

/// What goes while frames under way may use it stays alive for some frames more.
class YL_INTERNAL DeferredRelease {
 public:
    explicit DeferredRelease(std::uint32_t frames_in_flight) : frames_(frames_in_flight) {}
    void keep(std::shared_ptr<void> object);
    void next_frame();
    void release_all() { kept_.clear(); }

 private:
    struct Kept {
        std::uint64_t frame = 0;  ///< in which it went
        std::shared_ptr<void> object = {};
    };
    std::uint32_t frames_ = 0;
    std::uint64_t frame_ = 0;
    std::deque<Kept> kept_ = {};
};

/// The levels that samplers are to see, with their number; an error for levels that are not there.
[[nodiscard]] YL_INTERNAL Result<LevelRange> checked_levels(const TextureShape& shape,
                                                            LevelRange range);

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
