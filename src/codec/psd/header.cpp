#include "codec/psd/header.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>

#include <yl/status_macros.hpp>

namespace yl::psd {
namespace {

constexpr std::uint32_t max_side = 30000, max_large_side = 300000, max_channels = 56;

// Numbers of resources.
enum Resource : std::uint16_t {
    resolution = 1005,
    profile = 1039,
    transparent_index = 1047,
    version = 1057,
};

template <class T>
T big(ByteSpan bytes, std::size_t at) {
    return load<T, std::endian::big>(bytes.data() + at);
}

Result<ByteSpan> section(ByteReader& reader, bool has_long_length) {
    std::uint64_t length = 0;
    if (has_long_length) {
        YL_TRY(length, reader.read_big<std::uint64_t>());
    } else {
        YL_TRY(length, reader.read_big<std::uint32_t>());
    }
    return reader.take(length);
}

void take_resource(Document& document, std::uint16_t number, ByteSpan content) {
    if (number == profile)
        document.profile = content;
    if (number == transparent_index && content.size() >= 2)
        document.clear_index = big<std::uint16_t>(content, 0);
    if (number == version && content.size() >= 5)
        document.has_merged = content[4] != std::byte{0};
    if (number == resolution && content.size() >= 4) {
        constexpr double inches = 1 / 0.0254;
        document.pixels_per_metre = big<std::uint32_t>(content, 0) / 65536.0 * inches;
    }
}

///   8BIM (32)  number (16)  name, its length before it, padded to even  length (32)  content, padded
void take_resources(Document& document, ByteSpan resources) {
    ByteReader reader(resources);
    const auto read_one = [&]() -> Status {
        YL_CHECK(reader.skip(4));
        YL_TRY(const auto number, reader.read_big<std::uint16_t>());
        YL_TRY(const auto name, reader.read<std::uint8_t>());
        YL_CHECK(reader.skip(name + (name % 2 == 0 ? 1U : 0U)));
        YL_TRY(const ByteSpan content, section(reader, false));
        take_resource(document, number, content);
        if (content.size() % 2 != 0)
            YL_CHECK(reader.skip(1));
        return {};
    };
    // What is damaged here says nothing of the pixels.
    while (reader.left() > 0 && read_one()) {
    }
}

/// A count below zero says that the picture's first extra channel is its alpha.
void take_layers(Document& document, ByteSpan layers) {
    const std::size_t before = document.is_large ? 8 : 4;
    if (layers.size() < before + 2)
        return;
    const auto count = std::bit_cast<std::int16_t>(big<std::uint16_t>(layers, before));
    document.has_layers = count != 0;
    document.is_see_through = count < 0;
}

Status check(const Document& document) {
    static constexpr std::array<std::string_view, 10> names = {
        "", "", "", "", "", "", "", "multichannel", "", "Lab"};
    const auto mode = static_cast<std::size_t>(document.mode);
    if (mode >= names.size() || mode == 5 || mode == 6)
        return fail(ErrorKind::malformed, fmt::format("colour mode {} is unknown", mode));
    if (!names[mode].empty())
        return fail(ErrorKind::unsupported,
                    fmt::format("PSD in {} colours is not read", names[mode]));
    const std::uint32_t most = document.is_large ? max_large_side : max_side;
    if (std::max(document.width, document.height) > most)
        return fail(ErrorKind::malformed, fmt::format("{} x {} pixels exceed the {} of PSD",
                                                      document.width, document.height, most));
    if (document.channels < document.color_channels() || document.channels > max_channels)
        return fail(ErrorKind::malformed, fmt::format("{} channels", document.channels));
    const bool is_bitmap = document.mode == ColorMode::bitmap;
    const bool fits = is_bitmap ? document.bits == 1
                      : document.mode == ColorMode::palette
                          ? document.bits == 8
                          : document.bits == 8 || document.bits == 16 || document.bits == 32;
    if (!fits || (document.bits == 32 && document.mode == ColorMode::cmyk))
        return fail(ErrorKind::malformed,
                    fmt::format("{} bits in colour mode {}", document.bits, mode));
    return {};
}

}  // namespace

std::uint32_t Document::color_channels() const {
    return mode == ColorMode::rgb ? 3 : mode == ColorMode::cmyk ? 4 : 1;
}

/// Files without layers do not say what an extra channel is: an alpha, as everyone takes it.
bool Document::has_alpha() const {
    if (mode == ColorMode::palette)
        return clear_index.has_value();
    return channels > color_channels() && mode != ColorMode::bitmap && mode != ColorMode::cmyk &&
           (is_see_through || !has_layers);
}

std::uint32_t Document::texel_channels() const {
    const bool is_colored =
        mode == ColorMode::rgb || mode == ColorMode::cmyk || mode == ColorMode::palette;
    return (is_colored ? 3U : 1U) + (has_alpha() ? 1U : 0U);
}

bool recognise(ByteSpan bytes) {
    return as_text(bytes).starts_with("8BPS");
}

Result<Document> parse_header(ByteReader& reader) {
    YL_CHECK(reader.skip(4));
    Document document;
    YL_TRY(const auto version, reader.read_big<std::uint16_t>());
    if (version != 1 && version != 2)
        return fail(ErrorKind::unsupported, fmt::format("PSD of version {}", version));
    document.is_large = version == 2;
    YL_CHECK(reader.skip(6));
    YL_TRY(document.channels, reader.read_big<std::uint16_t>());
    YL_TRY(document.height, reader.read_big<std::uint32_t>());
    YL_TRY(document.width, reader.read_big<std::uint32_t>());
    YL_TRY(document.bits, reader.read_big<std::uint16_t>());
    YL_TRY(const auto mode, reader.read_big<std::uint16_t>());
    document.mode = static_cast<ColorMode>(mode);
    YL_CHECK(check(document));
    YL_TRY(document.palette, section(reader, false));
    if (document.mode == ColorMode::palette && document.palette.size() < 768)
        return fail(ErrorKind::malformed,
                    fmt::format("a palette of {} bytes", document.palette.size()));
    YL_TRY(const ByteSpan resources, section(reader, false));
    take_resources(document, resources);
    // The length and the count of the layers are all that is needed of them.
    const std::size_t begin = reader.offset();
    const std::size_t length = document.is_large ? 8 : 4;
    YL_CHECK(reader.skip(length));
    const auto count = reader.take(std::min<std::size_t>(length + 2, reader.left()));
    take_layers(document, *count);
    YL_CHECK(reader.seek(begin));
    return document;
}

Result<Document> parse(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(Document document, parse_header(reader));
    YL_TRY(const ByteSpan layers, section(reader, document.is_large));
    static_cast<void>(layers);
    document.picture_offset = reader.offset();
    document.picture = bytes.subspan(reader.offset());
    return document;
}

}  // namespace yl::psd
