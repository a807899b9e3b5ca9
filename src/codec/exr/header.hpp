// The header of an OpenEXR file ("OpenEXR File Layout").
//
//   byte 0  magic 76 2F 31 01   version (8)  flags (24)
//        8  attributes: name 0, type 0, size (32), value; a single 0 ends them
//           offsets of the chunks (64 each), chunks
//
// With several parts: the attributes of each part, and another 0 behind the last; the offsets of all
// chunks, part by part; chunks, each after the number of its part (32).
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
    bool is_perceptual = false;           ///< "linear" to the eye, by its flag
    std::int32_t step_x = 1, step_y = 1;  ///< one sample for so many pixels

    [[nodiscard]] std::size_t sample_bytes() const { return type == SampleType::half ? 2 : 4; }
};

/// Whole pixels, both ends included.
struct Window {
    std::int32_t x0 = 0, y0 = 0, x1 = -1, y1 = -1;

    [[nodiscard]] std::int64_t width() const { return std::int64_t{x1} - x0 + 1; }
    [[nodiscard]] std::int64_t height() const { return std::int64_t{y1} - y0 + 1; }
};

/// The levels of a part in tiles.
enum class LevelMode : std::uint8_t { one, both_axes, each_axis };

/// Of one part.
struct Header {
    std::string name, type;         ///< of files with several parts
    std::uint32_t chunk_count = 0;  ///< likewise
    std::vector<Channel> channels;  ///< by name
    Compression compression = Compression::none;
    Window data, display;
    bool is_tiled = false;
    std::uint32_t tile_width = 0, tile_height = 0;
    LevelMode level_mode = LevelMode::one;
    bool rounds_up = false;  ///< sides of levels
    std::array<float, 8> chromaticities = {0.64F, 0.33F, 0.30F,   0.60F,
                                           0.15F, 0.06F, 0.3127F, 0.3290F};

    /// Rows of a chunk of scan lines.
    [[nodiscard]] std::uint32_t chunk_rows() const;

    /// Those that halve both sides.
    [[nodiscard]] std::uint32_t level_count() const;
    [[nodiscard]] std::int64_t level_side(std::int64_t side, std::uint32_t level) const;
    /// Chunks of the part; in tiles, of the levels before `end` in the order in which they are listed.
    [[nodiscard]] std::uint64_t chunks_before_level(std::uint32_t end) const;
    [[nodiscard]] std::uint64_t tiles_across(std::uint32_t level) const;
    [[nodiscard]] std::uint64_t tiles_down(std::uint32_t level) const;
    [[nodiscard]] std::uint64_t total_chunks() const;

 private:
    /// Until a side is 1.
    [[nodiscard]] std::uint32_t axis_levels(std::int64_t side) const;
};

struct FileHeader {
    std::vector<Header> parts;
    bool has_parts = false;  ///< chunks say of which part they are
};

/// Reads magic, version and the attributes of all parts.
[[nodiscard]] Result<FileHeader> read_header(ByteReader& reader);

/// Refuses a part that is not handled.
[[nodiscard]] Status check_part(const Header& h);

/// Up to the zero that ends it.
[[nodiscard]] Result<std::string> read_name(ByteReader& reader);

/// The samples of a channel that fall on pixels first .. last of an axis.
[[nodiscard]] std::int64_t sample_count(std::int32_t step, std::int64_t first, std::int64_t last);

}  // namespace yl::exr
