// PNG's chunks (ISO/IEC 15948, section 5): a length, a type, data and a checksum.
#pragma once

#include <array>
#include <optional>

#include "base/bytes.hpp"

namespace yl::png {

inline constexpr std::array<std::uint8_t, 8> signature = {0x89, 'P',  'N',  'G',
                                                          '\r', '\n', 0x1A, '\n'};

enum class ColorType : std::uint8_t { gray = 0, rgb = 2, palette = 3, gray_alpha = 4, rgba = 6 };

/// The filter types of section 9, as stored before each row.
enum class RowFilter : std::uint8_t { none, sub, up, average, paeth };

[[nodiscard]] constexpr std::uint32_t chunk_type(const char (&name)[5]) {
    std::uint32_t type = 0;
    for (int i = 0; i < 4; ++i)
        type = type << 8 | static_cast<std::uint8_t>(name[i]);
    return type;
}

struct Chunk {
    std::uint32_t type = 0;
    std::size_t offset = 0;  ///< of its length field in the file
    ByteSpan data;
    bool checksum_holds = true;

    [[nodiscard]] bool is_ancillary() const { return (type >> 29 & 1U) != 0; }
    [[nodiscard]] std::string name() const;
};

/// The next chunk. A length beyond the file's end is an error; a wrong checksum is only noted.
[[nodiscard]] Result<Chunk> read_chunk(ByteReader& reader);

void write_chunk(ByteWriter& writer, std::uint32_t type, ByteSpan data);

/// The header, chunk IHDR (section 11.2.1).
struct Header {
    std::uint32_t width = 0;
    std::uint32_t height = 0;
    std::uint8_t bits = 0;  ///< of a sample or palette index: 1, 2, 4, 8 or 16
    ColorType color = ColorType::gray;
    bool interlaced = false;

    [[nodiscard]] std::uint32_t samples() const;  ///< in a pixel, as stored
    /// Bytes of a row of `pixels` pixels, without the filter type.
    [[nodiscard]] std::uint64_t row_bytes(std::uint64_t pixels) const {
        return (pixels * samples() * bits + 7) / 8;
    }
    /// The distance of the byte to the left that the filters refer to.
    [[nodiscard]] std::size_t filter_distance() const {
        return static_cast<std::size_t>(row_bytes(1));
    }
};

[[nodiscard]] Result<Header> parse_header(const Chunk& chunk);

}  // namespace yl::png
