// Stored samples to texels.
#pragma once

#include "codec/tiff/page.hpp"

namespace yl::tiff {

/// One tile's or strip's unpacked bytes, put where they belong in `image`, which has one plain
/// channel for each kept one (three for YCbCr and palettes).
class SampleReader {
 public:
    /// `image` holds the page's rows from `first_row` on. `palette`: red, green and blue of each
    /// index, in 8 bits or in 16.
    SampleReader(const Page& page, bool is_big_endian, ImageView image, std::uint32_t first_row,
                 std::vector<std::uint16_t> palette, std::array<double, 3> luma)
        : page_(page),
          is_big_endian_(is_big_endian),
          image_(image),
          first_row_(first_row),
          palette_(std::move(palette)),
          luma_(luma) {}

    void read(std::size_t tile, std::span<std::byte> bytes) const;

    /// The texels of a strip whose bytes they are once its predictor is undone, as `read_in_place`
    /// does; empty where they are not.
    [[nodiscard]] std::span<std::byte> texels_of(std::size_t tile) const;
    void read_in_place(std::span<std::byte> texels) const;

 private:
    /// In the image.
    struct Place {
        std::uint32_t x = 0, y = 0, columns = 0, rows = 0;
    };
    [[nodiscard]] Place place_of(std::size_t tile) const;
    void read_row(std::span<const std::byte> row, std::byte* target, std::uint32_t columns,
                  std::size_t plane) const;
    /// Whether the stored rows are the image's, byte by byte.
    [[nodiscard]] bool is_copy() const;
    void undo_predictor(std::span<std::byte> row) const;
    void read_ycbcr(const Place& place, std::span<const std::byte> bytes) const;
    [[nodiscard]] std::uint64_t sample(std::span<const std::byte> row, std::size_t index) const;
    void store_sample(std::uint64_t sample, std::byte* target) const;

    const Page& page_;
    bool is_big_endian_;
    ImageView image_;
    std::uint32_t first_row_;
    std::vector<std::uint16_t> palette_;
    std::array<double, 3> luma_;
};

/// Cyan, magenta, yellow and black of 8 or 16 bits to red, green and blue, without a profile.
void ink_to_light(ConstImageView ink, ImageView light);

}  // namespace yl::tiff
