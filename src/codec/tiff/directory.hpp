// The directory of a TIFF page (TIFF 6.0, Adobe 1992; BigTIFF as libtiff's design document has it).
//
//   byte 0  "II" (little-endian) or "MM" (16)  42 (16)  offset of the first directory (32)
//   or      "II" or "MM" (16)  43 (16)  8 (16)  0 (16)  offset of the first directory (64)
//
//   directory:  number of entries (16; 64 in BigTIFF)  entries  offset of the next directory
//   entry:      tag (16)  type (16)  count (32; 64)  value, or its offset where it is larger than
//               4 bytes (8)
#pragma once

#include <map>
#include <optional>
#include <vector>

#include <yl/result.hpp>
#include "base/byte_source.hpp"

namespace yl::tiff {

enum class Tag : std::uint16_t {
    subfile_type = 254,
    width = 256,
    height = 257,
    bits = 258,
    compression = 259,
    photometric = 262,
    fill_order = 266,
    strip_offsets = 273,
    orientation = 274,
    channels = 277,
    rows_per_strip = 278,
    strip_bytes = 279,
    x_resolution = 282,
    y_resolution = 283,
    planes = 284,
    resolution_unit = 296,
    transfer_function = 301,
    predictor = 317,
    white_point = 318,
    primaries = 319,
    color_map = 320,
    tile_width = 322,
    tile_height = 323,
    tile_offsets = 324,
    tile_bytes = 325,
    extra_samples = 338,
    sample_format = 339,
    ycbcr_coefficients = 529,
    ycbcr_subsampling = 530,
    reference_black_white = 532,
    color_profile = 34675,
};

/// What an entry says: where its values are.
struct Entry {
    std::uint16_t type = 0;
    std::uint64_t count = 0;
    std::uint64_t offset = 0;  ///< of the values, in the file
};

/// A file's bytes, in its own order; in memory, or read as they are asked for.
class File {
 public:
    /// Fails with `ErrorKind::malformed` where it is not a TIFF.
    [[nodiscard]] static Result<File> open(ByteSource source);

    [[nodiscard]] const ByteSource& source() const { return source_; }
    [[nodiscard]] std::uint64_t size() const { return source_.size(); }
    [[nodiscard]] bool is_big_endian() const { return is_big_endian_; }
    [[nodiscard]] std::uint64_t first_directory() const { return first_; }
    [[nodiscard]] bool is_big_tiff() const { return is_big_tiff_; }

    /// A number of 1, 2, 4 or 8 bytes; nothing beyond the end. Of one thread at a time.
    [[nodiscard]] std::optional<std::uint64_t> number(std::uint64_t offset,
                                                      std::size_t bytes) const;

 private:
    explicit File(ByteSource source) : source_(std::move(source)) {}
    [[nodiscard]] Status read_header();
    [[nodiscard]] bool read_window(std::uint64_t offset, std::size_t count) const;

    ByteSource source_;
    /// The last bytes that numbers were read from, for a file that is not in memory.
    mutable std::vector<std::byte> window_ = {};
    mutable std::uint64_t window_begin_ = 0;
    bool is_big_endian_ = false, is_big_tiff_ = false;
    std::uint64_t first_ = 0;
};

/// One page's entries.
class Directory {
 public:
    [[nodiscard]] static Result<Directory> read(const File& file, std::uint64_t offset);

    [[nodiscard]] const File& file() const { return *file_; }
    [[nodiscard]] std::uint64_t next() const { return next_; }
    [[nodiscard]] bool has(Tag tag) const { return entries_.contains(tag); }

    /// The first value; `otherwise` where there is no such entry. Errors name the tag.
    [[nodiscard]] Result<std::uint64_t> number(Tag tag, std::uint64_t otherwise) const;
    /// All values as whole numbers, at most `most` of them; none where there is no such entry.
    [[nodiscard]] Result<std::vector<std::uint64_t>> numbers(Tag tag, std::uint64_t most) const;
    /// Fractions and floating point as well; nothing where there is no such entry.
    [[nodiscard]] std::vector<double> fractions(Tag tag, std::uint64_t most) const;
    /// The values' bytes as they are stored; none where there is no such entry.
    [[nodiscard]] std::vector<std::byte> raw(Tag tag) const;

 private:
    /// Whether the values are there, in the file.
    [[nodiscard]] bool has_values(const Entry& entry) const;

    const File* file_ = nullptr;
    std::map<Tag, Entry> entries_ = {};
    std::uint64_t next_ = 0;
};

/// Pages in their order, previews and masks left out unless there is nothing else. Fails where there
/// is none at all.
[[nodiscard]] Result<std::vector<Directory>> pages_of(const File& file);

}  // namespace yl::tiff
