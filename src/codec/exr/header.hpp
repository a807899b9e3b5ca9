// The header of an OpenEXR file ("OpenEXR File Layout").
//
//   byte 0  magic 76 2F 31 01   version (8)  flags (24)
//        8  attributes: name 0, type 0, size (32), value; a single 0 ends them
//           offsets of the chunks (64 each), chunks
#pragma once

#include <string>
#include <vector>

#include "base/bytes.hpp"

namespace yl::exr {

inline constexpr std::uint32_t magic = 0x01312F76;

enum class Compression : std::uint8_t { none, rle, zips, zip, piz, pxr24, b44, b44a, dwaa, dwab };

enum class SampleType : std::uint32_t { uint, half, single };

struct Channel {
    std::string name;
    SampleType type = SampleType::half;
    std::int32_t step_x = 1, step_y = 1;  ///< one sample for so many pixels

    [[nodiscard]] std::size_t sample_bytes() const { return type == SampleType::half ? 2 : 4; }
};

/// Whole pixels, both ends included.
struct Window {
    std::int32_t x0 = 0, y0 = 0, x1 = -1, y1 = -1;

    [[nodiscard]] std::int64_t width() const { return std::int64_t{x1} - x0 + 1; }
    [[nodiscard]] std::int64_t height() const { return std::int64_t{y1} - y0 + 1; }
};

struct Header {
    std::vector<Channel> channels;  ///< by name
    Compression compression = Compression::none;
    Window data, display;
    bool is_tiled = false;
    std::uint32_t tile_width = 0, tile_height = 0;
    std::array<float, 8> chromaticities = {0.64F, 0.33F, 0.30F,   0.60F,
                                           0.15F, 0.06F, 0.3127F, 0.3290F};

    /// Rows of a chunk of scan lines.
    [[nodiscard]] std::uint32_t chunk_rows() const;
};

/// Reads magic, version and attributes, and refuses what is not handled.
[[nodiscard]] Result<Header> read_header(ByteReader& reader);

/// The samples of a channel that fall on pixels first .. last of an axis.
[[nodiscard]] std::int64_t sample_count(std::int32_t step, std::int64_t first, std::int64_t last);

}  // namespace yl::exr
