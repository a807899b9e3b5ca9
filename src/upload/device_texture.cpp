#include "upload/device_texture.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {

PlannedTexture::Common::~Common() = default;

void PlannedTexture::Common::describe(const TextureDesc& desc, UploadPlan planned,
                                      std::shared_ptr<const DeviceProfile> of_device) {
    profile = std::move(of_device);
    plan = std::move(planned);
    sampler = desc.sampler;
    shown = LevelRange::of(plan.shape);
    metadata = desc.metadata;
}

PlannedTexture::PlannedTexture(std::unique_ptr<Common> common) : common_(std::move(common)) {}
PlannedTexture::PlannedTexture(PlannedTexture&&) noexcept = default;
PlannedTexture& PlannedTexture::operator=(PlannedTexture&&) noexcept = default;
PlannedTexture::~PlannedTexture() = default;

namespace {

const UploadPlan& no_plan() {
    static const UploadPlan none;
    return none;
}

}  // namespace

const UploadPlan& PlannedTexture::plan() const {
    return common_ != nullptr ? common_->plan : no_plan();
}

const Sampler& PlannedTexture::sampler() const {
    static const Sampler none;
    return common_ != nullptr ? common_->sampler : none;
}

const Findings& PlannedTexture::findings() const {
    return common_ != nullptr ? common_->findings : no_plan().findings;
}

const TextureShape& PlannedTexture::shape() const {
    return plan().shape;
}

LevelRange PlannedTexture::level_range() const {
    return common_ != nullptr ? common_->shown : LevelRange{};
}

Status PlannedTexture::update(const TextureBox& box, const Texture& texels) {
    if (common_ == nullptr)
        return moved_from();
    YL_CHECK(check_texture(texels, "texels"));
    YL_TRY(const PreparedUpdate update,
           prepare_update(common_->plan, box, texels, *common_->profile));
    return write(update.plan, 0, update.source(texels));
}

Result<Texture> PlannedTexture::read_back() const try {
    if (common_ == nullptr)
        return moved_from();
    const TextureShape& shape = common_->plan.shape;
    YL_TRY(Texture texture, Texture::create(shape));
    texture.metadata = common_->metadata;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        if (!common_->is_shown(level)) {
            std::ranges::fill(texture.level(level), std::byte{0});
            continue;
        }
        for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
            for (std::uint32_t face = 0; face < shape.faces; ++face) {
                YL_TRY(const Texture one, read_back(level, layer, face));
                std::ranges::copy(one.level(0), texture.image(level, layer, face).data);
            }
    }
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

tl::unexpected<Error> moved_from() {
    return fail(ErrorKind::usage, "the texture was moved from");
}

void DeferredRelease::keep(std::shared_ptr<void> object) {
    if (frames_ > 0)
        kept_.push_back({frame_, std::move(object)});
}

void DeferredRelease::next_frame() {
    ++frame_;
    while (!kept_.empty() && kept_.front().frame + frames_ < frame_)
        kept_.pop_front();
}

Result<LevelRange> checked_levels(const TextureShape& shape, LevelRange range) {
    if (range.count == 0)
        return fail(ErrorKind::usage, "no level is asked for");
    const LevelRange resolved = range.resolved(shape.levels);
    const std::uint32_t last = resolved.count == 0 ? range.first : resolved.last();
    if (last >= shape.levels)
        return fail(
            ErrorKind::usage,
            fmt::format("the texture has no level {}, as it has {} in all", last, shape.levels));
    return resolved;
}

Result<UploadPlan> plan_to_reserve(const TextureDesc& desc, const DeviceProfile& profile) {
    YL_TRY(UploadPlan plan, plan_upload(desc.shape, profile, {}, desc.metadata.swizzle));
    if (plan.shape != desc.shape)
        return fail(ErrorKind::usage, "the shape does not come from a plan for this device");
    return plan;
}

BatchOffsets batch_offsets(const UploadPlan& plan, std::uint64_t alignment) {
    BatchOffsets result;
    for (const UploadBatch& batch : plan.batches) {
        result.offsets.push_back(result.bytes);
        result.bytes += round_up(batch.bytes, alignment);
    }
    return result;
}

}  // namespace yl
