// One 2D surface of pixels: Image owns its bytes, the views do not.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <utility>
#include <yl/buffer.hpp>
#include <yl/format.hpp>
#include <yl/limits.hpp>

namespace yl {

/// Pixels that somebody else owns. Row 0 is the top row; rows start `row_stride` bytes apart.
template <class Byte>
struct BasicImageView {
    Byte* data = nullptr;
    Format format = Format::undefined;
    std::uint32_t width = 0;   ///< texels
    std::uint32_t height = 0;  ///< texels
    std::size_t row_stride = 0;

    [[nodiscard]] std::size_t row_bytes() const {
        const FormatInfo& f = info(format);
        return std::size_t{(width + f.block_width - 1U) / f.block_width} * f.block_bytes;
    }
    /// Rows that are stored: of texels, or of blocks.
    [[nodiscard]] std::uint32_t row_count() const {
        const FormatInfo& f = info(format);
        return (height + f.block_height - 1U) / f.block_height;
    }
    /// Row `y` of texels; of blocks, for a block format.
    [[nodiscard]] std::span<Byte> row(std::uint32_t y) const {
        return {data + y * row_stride, row_bytes()};
    }
    operator BasicImageView<const Byte>() const requires(!std::is_const_v<Byte>) {
        return {data, format, width, height, row_stride};
    }
};

using ImageView = BasicImageView<std::byte>;
using ConstImageView = BasicImageView<const std::byte>;

class Image {
 public:
    Image() = default;
    /// An image that was moved from is empty.
    Image(Image&& other) noexcept
        : pixels_(std::move(other.pixels_)),
          format_(std::exchange(other.format_, Format::undefined)),
          width_(std::exchange(other.width_, 0)),
          height_(std::exchange(other.height_, 0)) {}
    Image& operator=(Image&& other) noexcept {
        pixels_ = std::move(other.pixels_);
        format_ = std::exchange(other.format_, Format::undefined);
        width_ = std::exchange(other.width_, 0);
        height_ = std::exchange(other.height_, 0);
        return *this;
    }

    /// Pixels that are not set yet. Fails with `ErrorKind::usage` on a zero side and with
    /// `ErrorKind::limit` beyond `limits`.
    [[nodiscard]] static Result<Image> create(Format format, std::uint32_t width,
                                              std::uint32_t height, const ReadLimits& limits = {});

    /// Takes over `pixels`, whose first bytes hold the rows, tightly packed.
    [[nodiscard]] static Result<Image> adopt(Buffer pixels, Format format, std::uint32_t width,
                                             std::uint32_t height);

    /// A copy of all of it. Fails with `ErrorKind::memory`.
    [[nodiscard]] Result<Image> clone() const;

    /// The memory itself; the image is empty afterwards.
    [[nodiscard]] Buffer release() && {
        Image taken = std::move(*this);
        return std::move(taken.pixels_);
    }

    [[nodiscard]] Format format() const { return format_; }
    [[nodiscard]] std::uint32_t width() const { return width_; }
    [[nodiscard]] std::uint32_t height() const { return height_; }
    [[nodiscard]] std::size_t row_stride() const;

    /// Valid as long as the image is; not of a temporary, whose pixels would be gone.
    [[nodiscard]] ImageView view() & {
        return {pixels_.data(), format_, width_, height_, row_stride()};
    }
    [[nodiscard]] ConstImageView view() const& {
        return {pixels_.data(), format_, width_, height_, row_stride()};
    }
    ConstImageView view() const&& = delete;

 private:
    Buffer pixels_;
    Format format_ = Format::undefined;
    std::uint32_t width_ = 0;
    std::uint32_t height_ = 0;
};

}  // namespace yl
