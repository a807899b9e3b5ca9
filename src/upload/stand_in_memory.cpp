#include "upload/stand_in_memory.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"

namespace yl {

Status check_planned(const TextureShape& shape, const DeviceProfile& profile) {
    YL_TRY(const UploadPlan plan, plan_upload(shape, profile));
    if (plan.shape != shape)
        return fail_at(
            {ErrorKind::usage,
             fmt::format("{} as asked cannot be on this device: {}", info(shape.format).name,
                         plan.findings.empty() ? "" : plan.findings[0].problem)},
            "shape");
    return {};
}

Result<std::unique_ptr<StandInMemory>> StandInMemory::create(const TextureShape& shape) {
    auto memory = std::make_unique<StandInMemory>();
    YL_TRY(memory->texture, Texture::create(shape));
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        std::ranges::fill(memory->texture.level(level), std::byte{0});
    memory->written.resize(shape.levels);
    return memory;
}

Status StandInMemory::check_box(const TextureBox& b, bool ends_whole) const {
    const TextureShape& s = texture.shape();
    const FormatInfo& f = info(s.format);
    if (b.level >= s.levels || b.layer >= s.layers || b.face >= s.faces)
        return fail(ErrorKind::usage, fmt::format("there is no level {}, layer {}, face {}",
                                                  b.level, b.layer, b.face));
    const std::uint64_t width = s.width_at(b.level), height = s.height_at(b.level);
    const std::uint64_t right = std::uint64_t{b.x} + b.width,
                        bottom = std::uint64_t{b.y} + b.height;
    if (b.width == 0 || b.height == 0 || b.depth == 0)
        return fail(ErrorKind::usage, "the region is empty");
    if (right > (ends_whole ? round_up(width, f.block_width) : width) ||
        bottom > (ends_whole ? round_up(height, f.block_height) : height) ||
        std::uint64_t{b.z} + b.depth > s.depth_at(b.level))
        return fail(ErrorKind::usage, fmt::format("a region leaves level {}", b.level));
    if (b.x % f.block_width != 0 || b.y % f.block_height != 0)
        return fail(ErrorKind::usage, "a region begins within a block");
    const auto ends_within = [&](std::uint64_t end, std::uint64_t side, unsigned block) {
        return end % block != 0 && (ends_whole || end != side);
    };
    if (ends_within(right, width, f.block_width) || ends_within(bottom, height, f.block_height))
        return fail(ErrorKind::usage, "a region ends within a block");
    return {};
}

Status StandInMemory::check_rows(const TextureBox& b, std::uint64_t bytes, std::uint64_t row_pitch,
                                 std::uint64_t slice_pitch) const {
    const FormatInfo& f = info(texture.shape().format);
    const std::uint64_t row = ceil_div(b.width, f.block_width) * f.block_bytes;
    const std::uint64_t rows = ceil_div(b.height, f.block_height);
    if (row_pitch < row && rows > 1)
        return fail(ErrorKind::usage, fmt::format("a row pitch of {} bytes is too short for rows "
                                                  "of {}",
                                                  row_pitch, row));
    const CheckedSize slice = CheckedSize(rows - 1) * row_pitch + row;
    if (b.depth > 1 && !slice.fits(slice_pitch))
        return fail(ErrorKind::usage,
                    fmt::format("a slice pitch of {} bytes is too short for {} rows at {}",
                                slice_pitch, rows, row_pitch));
    if (!(CheckedSize(b.depth - 1) * slice_pitch + slice).fits(bytes))
        return fail(ErrorKind::usage, "a region leaves its memory");
    return {};
}

void StandInMemory::write(const TextureBox& b, const std::byte* from, std::uint64_t row_pitch,
                          std::uint64_t slice_pitch) {
    const TextureShape& s = texture.shape();
    const FormatInfo& f = info(s.format);
    const std::uint64_t row = ceil_div(b.width, f.block_width) * f.block_bytes;
    const ImageView surface = texture.image(b.level, b.layer, b.face);
    for (std::uint64_t z = 0; z < b.depth; ++z)
        for (std::uint64_t y = 0; y < ceil_div(b.height, f.block_height); ++y)
            std::memcpy(surface.data + (b.z + z) * s.surface_bytes(b.level) +
                            (b.y / f.block_height + y) * surface.row_stride +
                            std::uint64_t{b.x / f.block_width} * f.block_bytes,
                        from + z * slice_pitch + y * row_pitch, row);
    const std::uint64_t width = std::min(b.width, s.width_at(b.level) - b.x);
    const std::uint64_t height = std::min(b.height, s.height_at(b.level) - b.y);
    written[b.level] += width * height * b.depth;
}

bool StandInMemory::is_complete(std::uint32_t level) const {
    const TextureShape& s = texture.shape();
    return written[level] >= std::uint64_t{s.width_at(level)} * s.height_at(level) *
                                 s.depth_at(level) * s.layers * s.faces;
}

bool StandInMemory::is_complete() const {
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        if (!is_complete(level))
            return false;
    return true;
}

TextureBox StandInMemory::box_in(std::uint32_t level, std::uint32_t slice) const {
    const std::uint32_t faces = texture.shape().faces;
    TextureBox box;
    box.level = level;
    box.layer = slice / faces;
    box.face = slice % faces;
    return box;
}

}  // namespace yl
