#include "codec/png/chunks.hpp"

#include <fmt/format.h>
#include <libdeflate.h>

#include <cctype>

#include <yl/status_macros.hpp>

namespace yl::png {
namespace {

constexpr std::uint32_t max_length = 0x7FFFFFFF;

std::uint32_t checksum(std::uint32_t type, ByteSpan data) {
    std::array<std::byte, 4> name{};
    store<std::uint32_t, std::endian::big>(name.data(), type);
    const std::uint32_t start = libdeflate_crc32(0, name.data(), name.size());
    // A null pointer would mean "start over" to libdeflate.
    return data.empty() ? start : libdeflate_crc32(start, data.data(), data.size());
}

bool depth_fits(ColorType color, std::uint8_t bits) {
    switch (color) {
        case ColorType::gray:
            return bits == 1 || bits == 2 || bits == 4 || bits == 8 || bits == 16;
        case ColorType::palette:
            return bits == 1 || bits == 2 || bits == 4 || bits == 8;
        case ColorType::rgb:
        case ColorType::gray_alpha:
        case ColorType::rgba:
            return bits == 8 || bits == 16;
    }
    return false;
}

}  // namespace

std::string Chunk::name() const {
    std::string text;
    for (int shift = 24; shift >= 0; shift -= 8) {
        const auto letter = static_cast<unsigned char>(type >> shift);
        text += std::isalpha(letter) != 0 ? std::string(1, static_cast<char>(letter))
                                          : fmt::format("\\x{:02x}", letter);
    }
    return text;
}

Result<Chunk> read_chunk(ByteReader& reader) {
    Chunk chunk;
    chunk.offset = reader.offset();
    YL_TRY(const auto length, reader.read_big<std::uint32_t>());
    YL_TRY(chunk.type, reader.read_big<std::uint32_t>());
    if (length > max_length || length > reader.left())
        return fail(
            ErrorKind::malformed,
            fmt::format("chunk {} claims {} bytes, but the file has only {} more: it is truncated "
                        "or damaged",
                        chunk.name(), length, reader.left()),
            chunk.offset);
    YL_TRY(chunk.data, reader.take(length));
    YL_TRY(const auto stored, reader.read_big<std::uint32_t>());
    chunk.checksum_holds = stored == checksum(chunk.type, chunk.data);
    return chunk;
}

void write_chunk(ByteWriter& writer, std::uint32_t type, ByteSpan data) {
    writer.write_big(static_cast<std::uint32_t>(data.size()));
    writer.write_big(type);
    writer.append(data);
    writer.write_big(checksum(type, data));
}

std::uint32_t Header::samples() const {
    switch (color) {
        case ColorType::gray:
        case ColorType::palette:
            return 1;
        case ColorType::gray_alpha:
            return 2;
        case ColorType::rgb:
            return 3;
        case ColorType::rgba:
            return 4;
    }
    return 0;
}

Result<Header> parse_header(const Chunk& chunk) {
    const auto wrong = [&](std::string message) {
        return fail(ErrorKind::malformed, std::move(message), chunk.offset);
    };
    if (chunk.type != chunk_type("IHDR") || chunk.data.size() != 13)
        return wrong("a PNG file must begin with a chunk IHDR of 13 bytes");
    ByteReader reader(chunk.data);
    Header header;
    YL_TRY(header.width, reader.read_big<std::uint32_t>());
    YL_TRY(header.height, reader.read_big<std::uint32_t>());
    YL_TRY(header.bits, reader.read<std::uint8_t>());
    YL_TRY(const auto color, reader.read<std::uint8_t>());
    YL_TRY(const auto compression, reader.read<std::uint8_t>());
    YL_TRY(const auto filter, reader.read<std::uint8_t>());
    YL_TRY(const auto interlace, reader.read<std::uint8_t>());
    header.color = static_cast<ColorType>(color);
    header.interlaced = interlace == 1;
    if (header.width == 0 || header.height == 0)
        return wrong(fmt::format("IHDR gives a size of {} x {}", header.width, header.height));
    if (!depth_fits(header.color, header.bits))
        return wrong(fmt::format("IHDR gives colour type {} with {} bits, which PNG does not have",
                                 color, header.bits));
    if (compression != 0 || filter != 0 || interlace > 1)
        return wrong(
            fmt::format("IHDR gives compression {}, filter {} and interlace {}, which PNG does "
                        "not have",
                        compression, filter, interlace));
    return header;
}

}  // namespace yl::png
