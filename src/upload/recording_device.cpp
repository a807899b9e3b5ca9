#include <yl/upload.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "upload/device_texture.hpp"
#include "upload/staging.hpp"
#include "upload/stand_in_memory.hpp"

namespace yl {
namespace {

tl::unexpected<Error> broken(std::string rule) {
    return fail(ErrorKind::usage, std::move(rule));
}

using Kind = DeviceRecord::Kind;

}  // namespace

struct RecordingDevice::State {
    DeviceProfile profile = {};
    std::uint64_t memory = 0;
    std::uint64_t in_use = 0;
    std::size_t alive = 0;
    std::uint64_t next_number = 1;
    bool is_lost = false;
    DeviceTrouble trouble = {};
    std::vector<DeviceRecord> records = {};

    /// Fails when the device is lost, or when trouble is wanted; otherwise keeps the record.
    Status happen(DeviceRecord record) {
        if (is_lost)
            return fail(ErrorKind::device, "the device is lost");
        if (trouble)
            YL_CHECK(trouble(record));
        records.push_back(std::move(record));
        return {};
    }
};

namespace {

using State = RecordingDevice::State;

class RecordedTexture final : public DeviceTexture {
 public:
    RecordedTexture(std::shared_ptr<State> state, std::uint64_t number,
                    std::unique_ptr<StandInMemory> memory)
        : state_(std::move(state)), number_(number), memory_(std::move(memory)) {}

    ~RecordedTexture() override {
        state_->in_use -= shape().total_bytes();
        --state_->alive;
        state_->records.push_back({Kind::release, number_, shape().total_bytes(),
                                   fmt::format("release texture {}", number_)});
    }

    [[nodiscard]] const void* backend() const override { return &key_; }
    [[nodiscard]] const TextureShape& shape() const override { return memory_->texture.shape(); }
    [[nodiscard]] LevelRange level_range() const override { return shown_; }

    [[nodiscard]] Status write(const UploadPlan& plan, std::size_t batch,
                               const Texture& texture) override {
        YL_CHECK(check_write(plan, batch, texture, shape()));
        const UploadBatch& part = plan.batches[batch];
        for (const UploadRegion& region : plan.regions_of(part))
            YL_CHECK(check_region(region, part));
        YL_CHECK(check_overlaps(plan.regions_of(part)));
        YL_CHECK(state_->happen({Kind::write, number_, part.bytes,
                                 fmt::format("write {} regions of texture {}, {} bytes",
                                             part.region_count, number_, part.bytes)}));
        YL_TRY(Buffer staging, Buffer::allocate(part.bytes));
        lay_out(plan, part, texture, staging.bytes());
        for (const UploadRegion& region : plan.regions_of(part))
            memory_->write(box_of(region), staging.bytes().data() + region.offset, region.row_pitch,
                           region.slice_pitch);
        return {};
    }

    [[nodiscard]] Status set_level_range(LevelRange range) override {
        const auto checked = checked_levels(shape(), range);
        if (!checked)
            return broken(checked.error().message);
        range = *checked;
        for (std::uint32_t level = range.first; level <= range.last(); ++level)
            if (!memory_->is_complete(level))
                return broken(fmt::format("level {} is shown before all of it is written", level));
        YL_CHECK(state_->happen({Kind::set_level_range, number_, 0,
                                 fmt::format("show levels {} to {} of texture {}", range.first,
                                             range.last(), number_)}));
        shown_ = range;
        return {};
    }

    [[nodiscard]] Result<Texture> read_back() const override {
        YL_CHECK(state_->happen({Kind::read_back, number_, shape().total_bytes(),
                                 fmt::format("read texture {} back", number_)}));
        YL_TRY(Texture copy, Texture::create(shape()));
        copy.metadata = memory_->texture.metadata;
        for (std::uint32_t level = 0; level < copy.shape().levels; ++level)
            std::ranges::copy(memory_->texture.level(level), copy.level(level).begin());
        return copy;
    }

 private:
    [[nodiscard]] Status check_region(const UploadRegion& r, const UploadBatch& batch) const {
        const FormatInfo& f = info(shape().format);
        const DeviceProfile& profile = state_->profile;
        YL_CHECK(memory_->check_box(box_of(r), profile.needs_whole_blocks));
        if (r.offset % std::max(profile.offset_alignment, 1U) != 0 || r.offset % f.block_bytes != 0)
            return broken(fmt::format("offset {} is not aligned to {} bytes", r.offset,
                                      profile.offset_alignment));
        const std::uint64_t row_bytes =
            ceil_div(r.width, f.block_width) * std::uint64_t{f.block_bytes};
        if (r.row_pitch < row_bytes || r.row_pitch % std::max(profile.row_pitch_alignment, 1U) != 0)
            return broken(fmt::format("a row pitch of {} bytes is too short or not aligned to {}",
                                      r.row_pitch, profile.row_pitch_alignment));
        if (r.slice_pitch < r.row_pitch * ceil_div(r.height, f.block_height) ||
            r.offset + r.slice_pitch * r.depth > batch.bytes)
            return broken("a region leaves its staging memory");
        return {};
    }

    [[nodiscard]] static Status check_overlaps(std::span<const UploadRegion> regions) {
        std::vector<std::pair<std::uint64_t, std::uint64_t>> spans;
        for (const UploadRegion& r : regions)
            spans.emplace_back(r.offset, r.offset + r.slice_pitch * r.depth);
        std::ranges::sort(spans);
        for (std::size_t i = 1; i < spans.size(); ++i)
            if (spans[i].first < spans[i - 1].second)
                return broken("two regions share staging memory");
        return {};
    }

    [[nodiscard]] static TextureBox box_of(const UploadRegion& r) {
        return {r.level, r.layer, r.face, r.x, r.y, r.z, r.width, r.height, r.depth};
    }

    static constexpr char key_ = 0;

    std::shared_ptr<State> state_;
    std::uint64_t number_;
    std::unique_ptr<StandInMemory> memory_;
    LevelRange shown_ = {0, 1};
};

}  // namespace

RecordingDevice::RecordingDevice(DeviceProfile profile, std::uint64_t memory)
    : state_(std::make_shared<State>()) {
    state_->profile = std::move(profile);
    state_->memory = memory;
}

RecordingDevice::~RecordingDevice() = default;

const DeviceProfile& RecordingDevice::profile() const {
    return state_->profile;
}

Result<std::unique_ptr<DeviceTexture>> RecordingDevice::reserve(const TextureDesc& desc) try {
    YL_CHECK(check_planned(desc.shape, state_->profile));
    if (!state_->profile.has_swizzle && desc.metadata.swizzle != identity_swizzle)
        return broken("the device has no swizzle");
    Findings changes;
    if (fit_sampler(desc.sampler, state_->profile, changes) != desc.sampler)
        return broken("the sampler does not fit the device: " + changes[0].problem);
    const std::uint64_t bytes = desc.shape.total_bytes();
    if (bytes > state_->memory - state_->in_use)
        return fail(ErrorKind::limit,
                    fmt::format("the device is out of memory: {} bytes are wanted, {} of {} are "
                                "free",
                                bytes, state_->memory - state_->in_use, state_->memory));
    const std::uint64_t number = state_->next_number;
    YL_CHECK(state_->happen(
        {Kind::reserve, number, bytes,
         fmt::format("reserve texture {}{}: {} x {} x {}, {}, {} levels, {} "
                     "layers, {} faces",
                     number, desc.label.empty() ? "" : " (" + desc.label + ")", desc.shape.width,
                     desc.shape.height, desc.shape.depth, info(desc.shape.format).name,
                     desc.shape.levels, desc.shape.layers, desc.shape.faces)}));
    YL_TRY(auto memory, StandInMemory::create(desc.shape));
    memory->texture.metadata = desc.metadata;
    ++state_->next_number;
    ++state_->alive;
    state_->in_use += bytes;
    return std::make_unique<RecordedTexture>(state_, number, std::move(memory));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

const std::vector<DeviceRecord>& RecordingDevice::records() const {
    return state_->records;
}

void RecordingDevice::forget_records() {
    state_->records.clear();
}

void RecordingDevice::fail_next(DeviceTrouble trouble) {
    state_->trouble = std::move(trouble);
}

void RecordingDevice::lose() {
    state_->is_lost = true;
}

std::size_t RecordingDevice::textures_alive() const {
    return state_->alive;
}

std::uint64_t RecordingDevice::bytes_in_use() const {
    return state_->in_use;
}

}  // namespace yl
