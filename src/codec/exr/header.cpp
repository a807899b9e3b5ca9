#include "codec/exr/header.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/text.hpp"

namespace yl::exr {
namespace {

constexpr std::uint32_t flag_tiled = 0x200;
constexpr std::uint32_t flag_deep = 0x800;
constexpr std::uint32_t flag_parts = 0x1000;
constexpr std::size_t longest_name = 255;
constexpr std::size_t most_channels = 1024;

std::int32_t as_signed(std::uint32_t value) {
    return std::bit_cast<std::int32_t>(value);
}

Status read_channels(ByteReader& value, Header& h) {
    while (true) {
        Channel channel;
        YL_TRY(channel.name, read_name(value));
        if (channel.name.empty())
            break;
        YL_TRY(const auto type, value.read<std::uint32_t>());
        YL_TRY(const auto perceptual, value.read<std::uint8_t>());
        YL_CHECK(value.skip(3));
        YL_TRY(const auto step_x, value.read<std::uint32_t>());
        YL_TRY(const auto step_y, value.read<std::uint32_t>());
        if (type > 2 || step_x < 1 || step_y < 1 || step_x > 64 || step_y > 64)
            return fail(ErrorKind::malformed,
                        fmt::format("channel {} has type {} and steps {} x {}",
                                    printable(channel.name), type, step_x, step_y));
        if (h.channels.size() == most_channels)
            return fail(ErrorKind::limit, "the file has too many channels");
        channel.type = static_cast<SampleType>(type);
        channel.is_perceptual = perceptual != 0;
        channel.step_x = as_signed(step_x);
        channel.step_y = as_signed(step_y);
        h.channels.push_back(channel);
    }
    return {};
}

Status read_window(ByteReader& value, Window& window) {
    for (std::int32_t* side : {&window.x0, &window.y0, &window.x1, &window.y1}) {
        YL_TRY(const auto number, value.read<std::uint32_t>());
        *side = as_signed(number);
    }
    return {};
}

Status read_tiles(ByteReader& value, Header& h) {
    YL_TRY(h.tile_width, value.read<std::uint32_t>());
    YL_TRY(h.tile_height, value.read<std::uint32_t>());
    YL_TRY(const auto mode, value.read<std::uint8_t>());
    if ((mode & 0xFU) > 2 || mode >> 4U > 1)
        return fail(ErrorKind::malformed, fmt::format("levels of kind {}", mode));
    h.level_mode = static_cast<LevelMode>(mode & 0xFU);
    h.rounds_up = mode >> 4U == 1;
    return {};
}

Status read_attribute(const std::string& name, const std::string& type, ByteReader& value,
                      Header& h) {
    if (name == "channels" && type == "chlist")
        return read_channels(value, h);
    if (name == "name" || name == "type") {
        YL_TRY(const ByteSpan text, value.take(value.left()));
        (name == "name" ? h.name : h.type) = std::string(as_text(text));
    }
    if (name == "chunkCount") {
        YL_TRY(h.chunk_count, value.read<std::uint32_t>());
    }
    if (name == "dataWindow")
        return read_window(value, h.data);
    if (name == "displayWindow")
        return read_window(value, h.display);
    if (name == "tiles")
        return read_tiles(value, h);
    if (name == "compression") {
        YL_TRY(const auto compression, value.read<std::uint8_t>());
        h.compression = static_cast<Compression>(compression);
    }
    if (name == "chromaticities") {
        for (float& number : h.chromaticities) {
            YL_TRY(const auto bits, value.read<std::uint32_t>());
            number = std::bit_cast<float>(bits);
        }
    }
    return {};
}

/// The attributes of one part; without a channel list at the end of all parts.
Status read_attributes(ByteReader& reader, Header& h) {
    while (true) {
        YL_TRY(const std::string name, read_name(reader));
        if (name.empty())
            return {};
        YL_TRY(const std::string type, read_name(reader));
        YL_TRY(const auto size, reader.read<std::uint32_t>());
        const std::size_t offset = reader.offset();
        YL_TRY(const ByteSpan data, reader.take(size));
        ByteReader value(data);
        if (auto status = read_attribute(name, type, value, h); !status) {
            status.error().message =
                fmt::format("attribute {}: {}", printable(name), status.error().message);
            status.error().offset = offset;
            return tl::unexpected(status.error());
        }
    }
}

}  // namespace

std::uint32_t Header::chunk_rows() const {
    switch (compression) {
        case Compression::zip:
        case Compression::pxr24:
            return 16;
        case Compression::piz:
        case Compression::b44:
        case Compression::b44a:
        case Compression::dwaa:
            return 32;
        case Compression::dwab:
            return 256;
        default:
            return 1;
    }
}

std::int64_t sample_count(std::int32_t step, std::int64_t first, std::int64_t last) {
    const auto floor_div = [&](std::int64_t a) {
        return a >= 0 ? a / step : -((-a + step - 1) / step);
    };
    return floor_div(last) - floor_div(first - 1);
}

std::int64_t Header::level_side(std::int64_t side, std::uint32_t level) const {
    const std::int64_t last = (std::int64_t{1} << level) - 1;
    return std::max<std::int64_t>((side + (rounds_up ? last : 0)) >> level, 1);
}

std::uint32_t Header::axis_levels(std::int64_t side) const {
    std::uint32_t count = 1;
    while (level_side(side, count - 1) > 1)
        ++count;
    return count;
}

std::uint32_t Header::level_count() const {
    if (!is_tiled || level_mode == LevelMode::one)
        return 1;
    const std::uint32_t across = axis_levels(data.width()), down = axis_levels(data.height());
    return level_mode == LevelMode::both_axes ? std::max(across, down) : std::min(across, down);
}

std::uint64_t Header::tiles_across(std::uint32_t level) const {
    return ceil_div(static_cast<std::uint64_t>(level_side(data.width(), level)), tile_width);
}

std::uint64_t Header::tiles_down(std::uint32_t level) const {
    return ceil_div(static_cast<std::uint64_t>(level_side(data.height(), level)), tile_height);
}

std::uint64_t Header::chunks_before_level(std::uint32_t end) const {
    if (level_mode != LevelMode::each_axis) {
        std::uint64_t chunks = 0;
        for (std::uint32_t level = 0; level < end; ++level)
            chunks += tiles_across(level) * tiles_down(level);
        return chunks;
    }
    // All widths of one height come before the next height; a level of both is at their crossing.
    const std::uint32_t across = axis_levels(data.width()), down = axis_levels(data.height());
    std::uint64_t in_a_row = 0, chunks = 0;
    for (std::uint32_t x = 0; x < across; ++x)
        in_a_row += tiles_across(x);
    for (std::uint32_t y = 0; y < std::min(end, down); ++y)
        chunks += in_a_row * tiles_down(y);
    for (std::uint32_t x = 0; x < end && end < down; ++x)
        chunks += tiles_across(x) * tiles_down(end);
    return chunks;
}

std::uint64_t Header::total_chunks() const {
    if (chunk_count > 0)
        return chunk_count;
    constexpr std::uint32_t all = 64;
    return is_tiled ? chunks_before_level(level_mode == LevelMode::each_axis ? all : level_count())
                    : ceil_div(static_cast<std::uint64_t>(data.height()), chunk_rows());
}

Result<std::string> read_name(ByteReader& reader) {
    std::string text;
    while (text.size() <= longest_name) {
        YL_TRY(const auto byte, reader.read<std::uint8_t>());
        if (byte == 0)
            return text;
        text += static_cast<char>(byte);
    }
    return fail(ErrorKind::malformed, "a name in the header is too long", reader.offset());
}

Status check_part(const Header& h) {
    if (h.type.starts_with("deep"))
        return fail(ErrorKind::unsupported, "this part is deep, which is not handled");
    if (h.compression > Compression::dwab)
        return fail(ErrorKind::unsupported,
                    fmt::format("the compression of number {} is not handled",
                                static_cast<int>(h.compression)));
    if (h.channels.empty())
        return fail(ErrorKind::malformed, "the header lists no channels");
    if (h.data.width() < 1 || h.data.height() < 1 || h.display.width() < 1 ||
        h.display.height() < 1)
        return fail(ErrorKind::malformed, "the data window or the display window is empty");
    if (h.is_tiled &&
        (h.tile_width == 0 || h.tile_height == 0 || h.tile_width > 16384 || h.tile_height > 16384))
        return fail(ErrorKind::malformed,
                    fmt::format("tiles of {} x {} pixels", h.tile_width, h.tile_height));
    return {};
}

Result<FileHeader> read_header(ByteReader& reader) {
    constexpr std::size_t most_parts = 4096;
    YL_CHECK(reader.skip(4));
    YL_TRY(const auto version, reader.read<std::uint32_t>());
    if ((version & 0xFF) != 2)
        return fail(ErrorKind::unsupported,
                    fmt::format("OpenEXR version {} is not handled", version & 0xFF), 4);
    FileHeader file;
    file.has_parts = (version & flag_parts) != 0;
    if ((version & flag_deep) != 0 && !file.has_parts)
        return fail(ErrorKind::unsupported, "this is a deep OpenEXR file, which is not handled", 4);
    while (true) {
        Header h;
        h.is_tiled = (version & flag_tiled) != 0;
        const std::size_t begin = reader.offset();
        YL_CHECK(read_attributes(reader, h));
        const bool is_end = file.has_parts && reader.offset() == begin + 1;
        if (is_end)
            break;
        if (file.has_parts)
            h.is_tiled = h.type == "tiledimage";
        else
            h.chunk_count = 0;
        file.parts.push_back(std::move(h));
        if (!file.has_parts)
            break;
        if (file.parts.size() > most_parts)
            return fail(ErrorKind::limit, fmt::format("more than {} parts", most_parts), begin);
    }
    if (file.parts.empty())
        return fail(ErrorKind::malformed, "the file has no part", 8);
    return file;
}

}  // namespace yl::exr
