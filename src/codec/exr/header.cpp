#include "codec/exr/header.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include <yl/status_macros.hpp>
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

Status read_channels(ByteReader& value, Header& h) {
    while (true) {
        Channel channel;
        YL_TRY(channel.name, read_name(value));
        if (channel.name.empty())
            break;
        YL_TRY(const auto type, value.read<std::uint32_t>());
        YL_CHECK(value.skip(4));
        YL_TRY(const auto step_x, value.read<std::uint32_t>());
        YL_TRY(const auto step_y, value.read<std::uint32_t>());
        if (type > 2 || step_x < 1 || step_y < 1 || step_x > 64 || step_y > 64)
            return fail(ErrorKind::malformed,
                        fmt::format("channel {} has type {} and steps {} x {}",
                                    printable(channel.name), type, step_x, step_y));
        if (h.channels.size() == most_channels)
            return fail(ErrorKind::limit, "the file has too many channels");
        channel.type = static_cast<SampleType>(type);
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
    return {};
}

Status read_attribute(const std::string& name, const std::string& type, ByteReader& value,
                      Header& h) {
    if (name == "channels" && type == "chlist")
        return read_channels(value, h);
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

Status check_header(const Header& h) {
    static constexpr const char* lossy[] = {"B44", "B44A", "DWAA", "DWAB"};
    constexpr auto first_lossy = static_cast<std::size_t>(Compression::b44);
    const auto compression = static_cast<std::size_t>(h.compression);
    if (compression >= first_lossy)
        return fail(ErrorKind::unsupported, fmt::format("the lossy compression {} is not handled",
                                                        compression < first_lossy + std::size(lossy)
                                                            ? lossy[compression - first_lossy]
                                                            : "of an unknown number"));
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

}  // namespace

std::uint32_t Header::chunk_rows() const {
    switch (compression) {
        case Compression::zip:
        case Compression::pxr24:
            return 16;
        case Compression::piz:
            return 32;
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

Result<Header> read_header(ByteReader& reader) {
    YL_CHECK(reader.skip(4));
    YL_TRY(const auto version, reader.read<std::uint32_t>());
    if ((version & 0xFF) != 2)
        return fail(ErrorKind::unsupported,
                    fmt::format("OpenEXR version {} is not handled", version & 0xFF), 4);
    if ((version & flag_parts) != 0)
        return fail(ErrorKind::unsupported,
                    "this is a multi-part OpenEXR file, which is not handled", 4);
    if ((version & flag_deep) != 0)
        return fail(ErrorKind::unsupported, "this is a deep OpenEXR file, which is not handled", 4);
    Header h;
    h.is_tiled = (version & flag_tiled) != 0;
    while (true) {
        YL_TRY(const std::string name, read_name(reader));
        if (name.empty())
            break;
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
    YL_CHECK(check_header(h));
    return h;
}

}  // namespace yl::exr
