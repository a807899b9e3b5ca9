// One level of a texture file, written as its rows come.
#pragma once

#include <yl/block.hpp>
#include <yl/texture.hpp>
#include "base/new_file.hpp"
#include "resample/row_source.hpp"

namespace yl {

/// Rows of texels that are held at a time, for so many bytes in one and blocks of so many rows.
[[nodiscard]] std::uint32_t rows_of_strip(std::uint64_t row_bytes, std::uint32_t block_height);

/// Encodes blocks, where the file has them, strip by strip.
class LevelWriter final : public RowSink {
 public:
    /// Of a level of `shape`, whose format is the file's and whose texels come in `texels`. `file`
    /// must outlive it; null: nothing is written.
    LevelWriter(const TextureShape& shape, std::uint32_t level, Format texels, const NewFile* file,
                std::uint64_t offset, const BlockOptions& blocks);

    [[nodiscard]] std::byte* begin_row(std::uint32_t y) override;
    void end_row(std::uint32_t y) override;

    /// Rows that lie together, from `first` on; a multiple of 64 unless they are the last.
    void write(ConstImageView rows, std::uint32_t first);

    /// The first thing that went wrong; nothing is written after that.
    [[nodiscard]] const Status& status() const { return status_; }

 private:
    [[nodiscard]] Status write_strip(ConstImageView rows, std::uint32_t first) const;

    std::uint32_t height_;
    Format format_;
    const NewFile* file_;
    std::uint64_t offset_;
    BlockOptions blocks_;
    Image strip_ = {};
    Status status_ = {};
};

}  // namespace yl
