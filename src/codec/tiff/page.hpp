// What a directory says of a page's pixels.
#pragma once

#include <array>
#include <vector>

#include <yl/picture.hpp>
#include "codec/tiff/directory.hpp"
#include "codec/tiff/unpack.hpp"

namespace yl::tiff {

enum class Photometric : std::uint16_t {
    white_is_zero = 0,
    black_is_zero = 1,
    rgb = 2,
    palette = 3,
    cmyk = 5,
    ycbcr = 6,
};

enum class SampleFormat : std::uint16_t { whole = 1, with_sign = 2, floating = 3, undefined = 4 };

/// What a stored sample becomes.
enum class Target : std::uint8_t { byte, word, half, single };

/// Strips are tiles as wide as the page.
struct Page {
    std::uint32_t width = 0, height = 0;
    std::uint32_t channels = 1;  ///< stored ones
    std::uint32_t bits = 1;      ///< of each
    SampleFormat format = SampleFormat::whole;
    Photometric photometric = Photometric::black_is_zero;
    Compression compression = Compression::none;
    std::uint32_t predictor = 1;
    bool is_planar = false, reverses_bits = false;
    std::uint32_t tile_width = 0, tile_height = 0;
    std::vector<std::uint64_t> offsets = {}, byte_counts = {};
    std::vector<std::uint32_t> kept = {};  ///< stored channels that become the picture's
    AlphaMode alpha = AlphaMode::straight;
    std::array<std::uint32_t, 2> subsampling = {1, 1};  ///< of YCbCr
    std::vector<std::string> remarks = {};

    [[nodiscard]] static Result<Page> of(const Directory& directory);

    [[nodiscard]] std::uint32_t tiles_across() const {
        return (width + tile_width - 1) / tile_width;
    }
    [[nodiscard]] std::uint32_t tiles_down() const {
        return (height + tile_height - 1) / tile_height;
    }
    /// Of one plane, or of all channels together.
    [[nodiscard]] std::size_t tile_count() const {
        return std::size_t{tiles_across()} * tiles_down();
    }
    [[nodiscard]] std::uint32_t tile_channels() const { return is_planar ? 1 : channels; }
    [[nodiscard]] std::uint64_t row_bytes() const {
        return (std::uint64_t{tile_width} * tile_channels() * bits + 7) / 8;
    }
    /// Strips end with the page; tiles are whole.
    [[nodiscard]] std::uint32_t rows_of(std::size_t tile) const;
    /// The greatest number there is where it is larger than that.
    [[nodiscard]] std::uint64_t unpacked_bytes(std::size_t tile) const;

    /// In tiles of its own, not in strips.
    [[nodiscard]] bool is_tiled() const { return is_tiled_; }

    [[nodiscard]] Target target() const;
    /// As it is handed over: CMYK is RGB then, and a palette its colours.
    [[nodiscard]] std::uint32_t picture_channels() const;

 private:
    [[nodiscard]] Status read_kind(const Directory& directory);
    [[nodiscard]] Status read_extra_samples(const Directory& directory);
    [[nodiscard]] Status read_tiles(const Directory& directory);
    [[nodiscard]] Status check_kind() const;
    [[nodiscard]] std::uint32_t colors() const;
    bool is_tiled_ = false;
};

}  // namespace yl::tiff
