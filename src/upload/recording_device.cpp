#include <yl/upload.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "upload/staging.hpp"

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
    RecordedTexture(std::shared_ptr<State> state, std::uint64_t number, Texture memory)
        : state_(std::move(state)), number_(number), memory_(std::move(memory)) {
        written_.resize(memory_.shape().levels);
    }

    ~RecordedTexture() override {
        state_->in_use -= memory_.shape().total_bytes();
        --state_->alive;
        state_->records.push_back({Kind::release, number_, memory_.shape().total_bytes(),
                                   fmt::format("release texture {}", number_)});
    }

    [[nodiscard]] const void* backend() const override { return &key_; }
    [[nodiscard]] const TextureShape& shape() const override { return memory_.shape(); }
    [[nodiscard]] LevelRange level_range() const override { return shown_; }

    [[nodiscard]] Status write(const UploadPlan& plan, std::size_t batch,
                               const Texture& texture) override {
        YL_CHECK(check_write(plan, batch, texture, memory_.shape()));
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
            keep(region, staging.bytes());
        return {};
    }

    [[nodiscard]] Status set_level_range(LevelRange range) override {
        range = range.resolved(memory_.shape().levels);
        if (range.count == 0 || range.last() >= memory_.shape().levels)
            return broken(fmt::format("levels {} to {} are shown, of {}", range.first, range.last(),
                                      memory_.shape().levels));
        for (std::uint32_t level = range.first; level <= range.last(); ++level)
            if (written_[level] < surfaces_texels(level))
                return broken(fmt::format("level {} is shown before all of it is written", level));
        YL_CHECK(state_->happen({Kind::set_level_range, number_, 0,
                                 fmt::format("show levels {} to {} of texture {}", range.first,
                                             range.last(), number_)}));
        shown_ = range;
        return {};
    }

    [[nodiscard]] Result<Texture> read_back() const override {
        YL_CHECK(state_->happen({Kind::read_back, number_, memory_.shape().total_bytes(),
                                 fmt::format("read texture {} back", number_)}));
        YL_TRY(Texture copy, Texture::create(memory_.shape()));
        copy.metadata = memory_.metadata;
        for (std::uint32_t level = 0; level < copy.shape().levels; ++level)
            std::ranges::copy(memory_.level(level), copy.level(level).begin());
        return copy;
    }

 private:
    [[nodiscard]] std::uint64_t surfaces_texels(std::uint32_t level) const {
        const TextureShape& s = memory_.shape();
        return std::uint64_t{s.width_at(level)} * s.height_at(level) * s.depth_at(level) *
               s.layers * s.faces;
    }

    [[nodiscard]] Status check_region(const UploadRegion& r, const UploadBatch& batch) const {
        const TextureShape& s = memory_.shape();
        const FormatInfo& f = info(s.format);
        const DeviceProfile& profile = state_->profile;
        if (r.level >= s.levels || r.layer >= s.layers || r.face >= s.faces)
            return broken(fmt::format("a region writes level {}, layer {}, face {}", r.level,
                                      r.layer, r.face));
        const bool is_whole = profile.needs_whole_blocks;
        const auto end = [&](std::uint32_t side, unsigned block) {
            return is_whole ? round_up(side, block) : std::uint64_t{side};
        };
        if (is_whole && (r.width % f.block_width != 0 || r.height % f.block_height != 0))
            return broken("a region ends within a block");
        if (r.x + r.width > end(s.width_at(r.level), f.block_width) ||
            r.y + r.height > end(s.height_at(r.level), f.block_height) ||
            r.z + r.depth > s.depth_at(r.level) || r.width == 0 || r.height == 0 || r.depth == 0)
            return broken(fmt::format("a region leaves level {}", r.level));
        if (r.x % f.block_width != 0 || r.y % f.block_height != 0)
            return broken("a region begins within a block");
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

    /// The region's texels into the texture's memory, and its texels counted.
    void keep(const UploadRegion& r, std::span<const std::byte> staging) {
        const TextureShape& s = memory_.shape();
        const FormatInfo& f = info(s.format);
        const std::uint64_t row_bytes =
            ceil_div(r.width, f.block_width) * std::uint64_t{f.block_bytes};
        const ImageView surface = memory_.image(r.level, r.layer, r.face);
        for (std::uint32_t z = 0; z < r.depth; ++z)
            for (std::uint64_t y = 0; y < ceil_div(r.height, f.block_height); ++y)
                std::memcpy(surface.data + (r.z + z) * s.surface_bytes(r.level) +
                                (r.y / f.block_height + y) * surface.row_stride +
                                std::uint64_t{r.x / f.block_width} * f.block_bytes,
                            staging.data() + r.offset + z * r.slice_pitch + y * r.row_pitch,
                            row_bytes);
        const std::uint32_t width = std::min(r.width, s.width_at(r.level) - r.x);
        const std::uint32_t height = std::min(r.height, s.height_at(r.level) - r.y);
        written_[r.level] += std::uint64_t{width} * height * r.depth;
    }

    static constexpr char key_ = 0;

    std::shared_ptr<State> state_;
    std::uint64_t number_;
    Texture memory_;
    LevelRange shown_ = {0, 1};
    std::vector<std::uint64_t> written_;  // texels of each level
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
    // A plan for this device, of this very shape, has nothing to change.
    YL_TRY(const UploadPlan plan, plan_upload(desc.shape, state_->profile));
    if (plan.shape != desc.shape)
        return broken(fmt::format("{} as asked cannot be on this device: {}",
                                  info(desc.shape.format).name,
                                  plan.findings.empty() ? "" : plan.findings[0].problem));
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
    YL_TRY(Texture memory, Texture::create(desc.shape));
    memory.metadata = desc.metadata;
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
