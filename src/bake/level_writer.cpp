#include "bake/level_writer.hpp"

#include <algorithm>

#include <yl/status_macros.hpp>

namespace yl {
namespace {

/// Rows of blocks that encoders look at together where they choose what packs better. Rows of texels
/// come in at least four times as many.
constexpr std::uint32_t block_rows_together = 16, least_block_height = 4;

}  // namespace

std::uint32_t rows_of_strip(std::uint64_t row_bytes, std::uint32_t block_height) {
    const std::uint32_t rows_together =
        block_rows_together * std::max(block_height, least_block_height);
    constexpr std::uint64_t most_bytes = std::uint64_t{64} << 20U, most_together = 4;
    const std::uint64_t together =
        most_bytes / std::max<std::uint64_t>(row_bytes * rows_together, 1);
    return rows_together *
           static_cast<std::uint32_t>(std::clamp<std::uint64_t>(together, 1, most_together));
}

LevelWriter::LevelWriter(const TextureShape& shape, std::uint32_t level, Format texels,
                         const NewFile* file, std::uint64_t offset, const BlockOptions& blocks)
    : height_(shape.height_at(level)),
      format_(shape.format),
      file_(file),
      offset_(offset),
      blocks_(blocks) {
    if (level == 0)
        return;  // comes in bands
    const std::uint32_t width = shape.width_at(level);
    const std::uint32_t rows = rows_of_strip(std::uint64_t{width} * info(texels).block_bytes,
                                             info(shape.format).block_height);
    auto strip = Image::create(texels, width, std::min(height_, rows), Limits::none());
    if (strip)
        strip_ = std::move(*strip);
    else
        status_ = tl::unexpected(strip.error());
}

std::byte* LevelWriter::begin_row(std::uint32_t y) {
    return strip_.view().row(y % strip_.height()).data();
}

void LevelWriter::end_row(std::uint32_t y) {
    const std::uint32_t in_strip = y % strip_.height() + 1;
    if (in_strip < strip_.height() && y + 1 < height_)
        return;
    ConstImageView rows = std::as_const(strip_).view();
    rows.height = in_strip;
    write(rows, y + 1 - in_strip);
}

void LevelWriter::write(ConstImageView rows, std::uint32_t first) {
    if (status_ && file_ != nullptr)
        status_ = write_strip(rows, first);
}

Status LevelWriter::write_strip(ConstImageView rows, std::uint32_t first) const {
    const FormatInfo& f = info(format_);
    Image blocks;
    if (f.is_block()) {
        YL_TRY(blocks, Image::create(format_, rows.width, rows.height, Limits::none()));
        YL_CHECK(encode_blocks(rows, blocks.view(), blocks_));
        rows = std::as_const(blocks).view();
    }
    const std::size_t row_bytes = rows.row_bytes();
    return file_->write_at(offset_ + std::uint64_t{first / f.block_height} * row_bytes,
                           {rows.data, row_bytes * rows.row_count()});
}

}  // namespace yl
