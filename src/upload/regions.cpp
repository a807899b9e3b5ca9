#include "upload/regions.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"

namespace yl {

namespace {

/// Of a plan: beyond it the plan alone would take gigabytes.
constexpr std::uint64_t most_regions = 1U << 22;

/// By GL_UNPACK_ALIGNMENT, to multiples of a few bytes.
bool pads_rows(const DeviceProfile& profile) {
    const bool is_gl = profile.api_kind == GraphicsApi::opengl ||
                       profile.api_kind == GraphicsApi::opengl_es ||
                       profile.api_kind == GraphicsApi::webgl;
    return is_gl && profile.row_pitch_alignment > 1 && profile.row_pitch_alignment <= 8;
}

}  // namespace

RegionLayout::RegionLayout(UploadPlan& plan, const DeviceProfile& profile, std::uint64_t budget)
    : plan_(plan), budget_(budget) {
    const FormatInfo& f = info(plan.shape.format);
    // OpenGL pads rows to an alignment; other APIs count pitches in texels and need whole ones, and
    // offsets are at whole texels or blocks.
    const std::uint64_t alignment = std::max(profile.row_pitch_alignment, 1U);
    pitch_step_ =
        pads_rows(profile) ? alignment : std::lcm<std::uint64_t>(alignment, f.block_bytes);
    copies_whole_blocks_ = profile.needs_whole_blocks;
    offset_step_ = std::lcm<std::uint64_t>(std::max(profile.offset_alignment, 1U), f.block_bytes);
    block_height_ = f.block_height;
}

Status RegionLayout::add(const UploadRegion& whole) {
    const FormatInfo& f = info(plan_.shape.format);
    UploadRegion region = whole;
    if (copies_whole_blocks_)
        region.width = static_cast<std::uint32_t>(round_up(whole.width, f.block_width));
    const std::uint64_t row_bytes =
        ceil_div(region.width, f.block_width) * std::uint64_t{f.block_bytes};
    region.row_pitch = round_up(row_bytes, pitch_step_);
    const std::uint64_t rows = ceil_div(region.height, block_height_);
    if (region.row_pitch > budget_)
        return fail(ErrorKind::limit,
                    fmt::format("one row of level {} takes {} bytes; the staging budget is {}",
                                region.level, region.row_pitch, budget_));
    const std::uint64_t rows_at_once = std::min(rows, budget_ / region.row_pitch);
    const std::uint64_t slices_at_once =
        rows_at_once < rows
            ? 1
            : std::min<std::uint64_t>(region.depth, budget_ / (region.row_pitch * rows));
    const std::uint64_t pieces =
        ceil_div(whole.depth, slices_at_once) * ceil_div(rows, rows_at_once);
    if (pieces > most_regions - std::min<std::uint64_t>(plan_.regions.size(), most_regions))
        return fail_at({ErrorKind::limit,
                        fmt::format("a staging budget of {} bytes divides the texture into more "
                                    "than {} regions",
                                    budget_, most_regions)},
                       "staging_budget");
    for (std::uint64_t slice = 0; slice < whole.depth; slice += slices_at_once)
        for (std::uint64_t row = 0; row < rows; row += rows_at_once) {
            const auto first = static_cast<std::uint32_t>(row) * block_height_;
            const auto most = static_cast<std::uint32_t>(rows_at_once) * block_height_;
            region.y = whole.y + first;
            region.height = std::min(whole.height - first, most);
            if (copies_whole_blocks_)
                region.height = static_cast<std::uint32_t>(round_up(region.height, block_height_));
            region.z = whole.z + static_cast<std::uint32_t>(slice);
            region.depth = static_cast<std::uint32_t>(
                std::min<std::uint64_t>(whole.depth - slice, slices_at_once));
            region.slice_pitch = region.row_pitch * ceil_div(region.height, block_height_);
            place(region);
        }
    return {};
}

void RegionLayout::place(UploadRegion region) {
    const std::uint64_t bytes = region.slice_pitch * region.depth;
    region.offset = round_up(batch_.bytes, offset_step_);
    if (batch_.region_count > 0 && (region.offset > budget_ || bytes > budget_ - region.offset)) {
        finish();
        region.offset = 0;
    }
    batch_.bytes = region.offset + bytes;
    ++batch_.region_count;
    plan_.regions.push_back(region);
}

void RegionLayout::finish() {
    if (batch_.region_count > 0) {
        plan_.batches.push_back(batch_);
        plan_.staging_bytes += batch_.bytes;
        plan_.max_batch = std::max(plan_.max_batch, batch_.bytes);
    }
    batch_ = {.first_region = plan_.regions.size()};
}

}  // namespace yl
