// One 2D surface of pixels. An Image owns its bytes; views do not.
//
//     yl::Image image = yl::or_exit(yl::Image::create(yl::Format::rgba8_srgb, 64, 64));
//     for (std::uint32_t y = 0; y < image.height(); ++y)
//         std::ranges::fill(image.view().row(y), std::byte{255});
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <utility>
#include <yl/api.hpp>
#include <yl/bytes.hpp>
#include <yl/format.hpp>

namespace yl {

/// Every reader checks these before it allocates. The defaults allow any 16,384 x 16,384 texture
/// with a full mip chain, in any format.
struct Limits {
    /// No limits, for input that the caller trusts.
    [[nodiscard]] static constexpr Limits none() { return {~std::uint32_t{0}, ~std::uint64_t{0}}; }

    std::uint32_t max_side = 16384;                    ///< texels, for width, height and depth
    std::uint64_t max_bytes = std::uint64_t{6} << 30;  ///< of decoded pixels in one texture
};

/// Pixels owned by someone else. Row 0 is the top row; rows start `row_stride` bytes apart.
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
    /// The number of stored rows: rows of texels or, in a block format, of blocks.
    [[nodiscard]] std::uint32_t row_count() const {
        const FormatInfo& f = info(format);
        return (height + f.block_height - 1U) / f.block_height;
    }
    /// Row `y`, of texels or, in a block format, of blocks.
    [[nodiscard]] std::span<Byte> row(std::uint32_t y) const {
        return {data + y * row_stride, row_bytes()};
    }
    operator BasicImageView<const Byte>() const requires(!std::is_const_v<Byte>) {
        return {data, format, width, height, row_stride};
    }
};

/// Writable pixels.
using ImageView = BasicImageView<std::byte>;
/// Read-only pixels. An `ImageView` converts to it.
using ConstImageView = BasicImageView<const std::byte>;

/// A surface that owns its pixels. Movable; copied only by `clone`.
class YL_API Image {
 public:
    Image() = default;
    /// The moved-from image is empty.
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

    /// Allocates uninitialised pixels. Fails with `ErrorKind::usage` if a side is 0 and with
    /// `ErrorKind::limit` beyond `limits`.
    [[nodiscard]] static Result<Image> create(Format format, std::uint32_t width,
                                              std::uint32_t height, const Limits& limits = {});

    /// Takes ownership of `pixels`, which begins with the rows, tightly packed.
    /// Fails with `ErrorKind::usage` if it has too few bytes.
    [[nodiscard]] static Result<Image> adopt(Buffer pixels, Format format, std::uint32_t width,
                                             std::uint32_t height);

    /// A deep copy. Fails with `ErrorKind::memory`.
    [[nodiscard]] Result<Image> clone() const;

    /// Gives the memory away; the image is empty afterwards.
    [[nodiscard]] Buffer release() && {
        Image taken = std::move(*this);
        return std::move(taken.pixels_);
    }

    /// `Format::undefined` and 0 x 0 after the image was moved from.
    [[nodiscard]] Format format() const { return format_; }
    [[nodiscard]] std::uint32_t width() const { return width_; }
    [[nodiscard]] std::uint32_t height() const { return height_; }
    /// Bytes from one row to the next; rows are tightly packed.
    [[nodiscard]] std::size_t row_stride() const;

    /// Valid as long as the image. Deleted for temporaries, whose pixels would be gone.
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

/// What a filter kernel sees beyond the edge of an image.
enum class Edge : std::uint8_t {
    clamp,   ///< the outermost texel, repeated
    repeat,  ///< the opposite side of the image: for textures that tile
    mirror,  ///< the image mirrored
};

/// Across and down.
using Edges = std::array<Edge, 2>;

}  // namespace yl
