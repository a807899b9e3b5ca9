#include "codec/png/parse.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/text.hpp"
#include "base/zlib_stream.hpp"
#include "codec/exif.hpp"

namespace yl::png {
namespace {

Status parse_transparency(const Chunk& chunk, Parsed& parsed) {
    SampleMeaning& meaning = parsed.meaning;
    const auto wrong_size = [&] {
        return fail(
            ErrorKind::malformed,
            fmt::format("chunk tRNS has {} bytes, which do not fit the picture's colour type",
                        chunk.data.size()),
            chunk.offset);
    };
    const auto remark_surplus = [&](std::size_t needed) {
        if (chunk.data.size() > needed)
            parsed.info.remarks.push_back(
                fmt::format("chunk tRNS has {} bytes more than it needs, which were ignored",
                            chunk.data.size() - needed));
        return std::min(chunk.data.size(), needed);
    };
    if (parsed.header.color == ColorType::palette) {
        meaning.palette_has_alpha = true;
        const std::size_t entries = remark_surplus(meaning.palette_size);
        for (std::size_t i = 0; i < entries; ++i)
            meaning.palette[i][3] = std::to_integer<std::uint8_t>(chunk.data[i]);
        return {};
    }
    const std::uint32_t samples = parsed.header.samples();
    if (parsed.header.color != ColorType::gray && parsed.header.color != ColorType::rgb) {
        parsed.info.remarks.emplace_back(
            "chunk tRNS in a picture with an alpha channel was ignored");
        return {};
    }
    if (chunk.data.size() < samples * 2)
        return wrong_size();
    remark_surplus(samples * 2);
    const std::uint32_t mask = (1U << parsed.header.bits) - 1U;
    meaning.transparent.emplace();
    for (std::size_t c = 0; c < samples; ++c)
        (*meaning.transparent)[c] = static_cast<std::uint16_t>(
            load<std::uint16_t, std::endian::big>(chunk.data.data() + 2 * c) & mask);
    return {};
}

/// A later chunk of a higher rank overrules an earlier one (PNG, third edition, section 4.3).
void declare(Parsed& parsed, Transfer transfer, int rank) {
    if (rank < parsed.transfer_rank)
        return;
    parsed.transfer_rank = rank;
    parsed.declared_transfer = transfer;
}

void parse_gamma(const Chunk& chunk, Parsed& parsed) {
    if (chunk.data.size() != 4)
        return;
    const auto gamma = load<std::uint32_t, std::endian::big>(chunk.data.data());  // times 100,000
    if (gamma == 100000) {
        declare(parsed, Transfer::linear, gamma_rank);
    } else if (gamma > 44000 && gamma < 47000) {
        declare(parsed, Transfer::srgb, gamma_rank);
    } else if (gamma == 0) {
        parsed.info.remarks.emplace_back("a gamma of 0 is declared, which means nothing");
    } else {
        parsed.gamma = gamma / 100000.0;
    }
}

/// Primaries and white of BT.709, in the order of chunk cHRM and times 100,000.
constexpr std::array<std::uint32_t, 8> bt709_primaries_and_white = {31270, 32900, 64000, 33000,
                                                                    30000, 60000, 15000, 6000};

void parse_chromaticities(const Chunk& chunk, Parsed& parsed) {
    constexpr std::uint32_t slack = 500;  // files round to two or three places
    if (chunk.data.size() != 4 * bt709_primaries_and_white.size())
        return;
    for (std::size_t i = 0; i < bt709_primaries_and_white.size(); ++i) {
        const auto place = load<std::uint32_t, std::endian::big>(chunk.data.data() + 4 * i);
        const std::uint32_t usual = bt709_primaries_and_white[i];
        if (place > usual + slack || place + slack < usual)
            parsed.has_other_primaries = true;
    }
    if (parsed.transfer_rank == code_points_rank)
        return;
    parsed.stated.emplace();
    for (std::size_t i = 0; i < bt709_primaries_and_white.size(); ++i)
        parsed.stated->chromaticities[i] =
            load<std::uint32_t, std::endian::big>(chunk.data.data() + 4 * i) / 100000.0;
}

/// Primaries of ITU-T H.273, table 2: x and y of white, red, green and blue.
struct CodedPrimaries {
    std::uint8_t code;
    std::array<double, 8> chromaticities;
};

constexpr double d65_x = 0.3127, d65_y = 0.3290;
constexpr CodedPrimaries coded_primaries[] = {
    {1, {d65_x, d65_y, 0.64, 0.33, 0.30, 0.60, 0.15, 0.06}},
    {4, {0.310, 0.316, 0.67, 0.33, 0.21, 0.71, 0.14, 0.08}},
    {5, {d65_x, d65_y, 0.64, 0.33, 0.29, 0.60, 0.15, 0.06}},
    {6, {d65_x, d65_y, 0.630, 0.340, 0.310, 0.595, 0.155, 0.070}},
    {7, {d65_x, d65_y, 0.630, 0.340, 0.310, 0.595, 0.155, 0.070}},
    {8, {0.310, 0.316, 0.681, 0.319, 0.243, 0.692, 0.145, 0.049}},
    {9, {d65_x, d65_y, 0.708, 0.292, 0.170, 0.797, 0.131, 0.046}},
    {11, {0.314, 0.351, 0.680, 0.320, 0.265, 0.690, 0.150, 0.060}},
    {12, {d65_x, d65_y, 0.680, 0.320, 0.265, 0.690, 0.150, 0.060}},
    {22, {d65_x, d65_y, 0.630, 0.340, 0.295, 0.605, 0.155, 0.077}}};

/// Nothing for what is unknown.
std::optional<std::array<double, 8>> primaries_of_code(std::uint8_t code) {
    const auto known = std::ranges::find(coded_primaries, code, &CodedPrimaries::code);
    if (known == std::end(coded_primaries))
        return std::nullopt;
    return known->chromaticities;
}

/// Both code points as colours; nothing for what is unknown, or made for high dynamic range.
std::optional<StatedColors> colors_of_codes(std::uint8_t primaries, std::uint8_t transfer) {
    const auto chromaticities = primaries_of_code(primaries);
    if (!chromaticities)
        return std::nullopt;
    using Curve = StatedColors::Curve;
    switch (transfer) {
        case 1:
        case 6:
        case 14:
        case 15:
            return StatedColors{*chromaticities, Curve::bt709};
        case 4:
            return StatedColors{*chromaticities, Curve::gamma, 2.2};
        case 5:
            return StatedColors{*chromaticities, Curve::gamma, 2.8};
        case 8:
            return StatedColors{*chromaticities, Curve::gamma, 1};
        case 13:
            return StatedColors{*chromaticities, Curve::srgb};
        default:
            return std::nullopt;
    }
}

/// Coding-independent code points: primaries, transfer function, matrix, range (ITU-T H.273).
void parse_code_points(const Chunk& chunk, Parsed& parsed) {
    constexpr std::uint8_t bt709_primaries = 1, linear_transfer = 8, srgb_transfer = 13;
    if (chunk.data.size() != 4)
        return;
    const auto primaries = std::to_integer<std::uint8_t>(chunk.data[0]);
    const auto transfer = std::to_integer<std::uint8_t>(chunk.data[1]);
    if (transfer == linear_transfer)
        declare(parsed, Transfer::linear, code_points_rank);
    if (transfer == srgb_transfer)
        declare(parsed, Transfer::srgb, code_points_rank);
    parsed.transfer_rank = code_points_rank;
    parsed.stated = colors_of_codes(primaries, transfer);
    if (transfer != linear_transfer && transfer != srgb_transfer) {
        parsed.declared_transfer.reset();
        parsed.info.unapplied = fmt::format("transfer function {} of H.273", transfer);
    }
    if (primaries != bt709_primaries) {
        parsed.info.unapplied +=
            fmt::format("{}the colour primaries {} of H.273",
                        parsed.info.unapplied.empty() ? "" : " with ", primaries);
    }
}

void parse_profile(const Chunk& chunk, Parsed& parsed) {
    constexpr std::size_t sizes[] = {1 << 16, 1 << 20, 1 << 23};  // unpacked sizes are not stored
    const std::string_view text = as_text(chunk.data);
    const std::size_t end = text.find('\0');
    if (end == std::string_view::npos || end == 0 || end > 79 || end + 2 > text.size())
        return;
    parsed.profile_name = printable(text.substr(0, end), 79);
    for (const std::size_t size : sizes)
        if (auto profile = unpack_zlib_within(chunk.data.subspan(end + 2), size)) {
            parsed.profile = std::move(*profile);
            break;
        }
    parsed.transfer_rank = std::max(parsed.transfer_rank, profile_rank);
}

void parse_density(const Chunk& chunk, Parsed& parsed) {
    if (chunk.data.size() != 9 || chunk.data[8] != std::byte{1})
        return;  // without a unit it is a mere ratio
    parsed.info.pixels_per_metre = {
        static_cast<double>(load<std::uint32_t, std::endian::big>(chunk.data.data())),
        static_cast<double>(load<std::uint32_t, std::endian::big>(chunk.data.data() + 4))};
}

tl::unexpected<Error> bad_checksum(const Chunk& chunk) {
    return fail(ErrorKind::malformed,
                fmt::format("the checksum of chunk {} is wrong: the file is damaged", chunk.name()),
                chunk.offset);
}

}  // namespace

Status parse_palette(const Chunk& chunk, Parsed& parsed) {
    const std::size_t entries = chunk.data.size() / 3;
    if (chunk.data.size() % 3 != 0 || entries == 0 || entries > 256)
        return fail(
            ErrorKind::malformed,
            fmt::format("chunk PLTE has {} bytes; a palette has 1 to 256 entries of 3 bytes",
                        chunk.data.size()),
            chunk.offset);
    parsed.meaning.palette_size = static_cast<std::uint32_t>(entries);
    for (std::size_t i = 0; i < entries; ++i)
        for (std::size_t c = 0; c < 3; ++c)
            parsed.meaning.palette[i][c] = std::to_integer<std::uint8_t>(chunk.data[3 * i + c]);
    return {};
}

Status parse_ancillary(const Chunk& chunk, Parsed& parsed) {
    if (chunk.type == chunk_type("tRNS"))
        return parse_transparency(chunk, parsed);
    if (chunk.type == chunk_type("sRGB"))
        declare(parsed, Transfer::srgb, srgb_rank);
    if (chunk.type == chunk_type("gAMA"))
        parse_gamma(chunk, parsed);
    if (chunk.type == chunk_type("cHRM"))
        parse_chromaticities(chunk, parsed);
    if (chunk.type == chunk_type("cICP"))
        parse_code_points(chunk, parsed);
    if (chunk.type == chunk_type("iCCP"))
        parse_profile(chunk, parsed);
    if (chunk.type == chunk_type("pHYs"))
        parse_density(chunk, parsed);
    if (chunk.type == chunk_type("eXIf"))
        parsed.orientation = exif_orientation(chunk.data);
    if (chunk.type == chunk_type("acTL"))
        parsed.info.remarks.emplace_back("the file is animated; its still picture was read");
    return {};
}

Result<Parsed> begin(ByteReader& reader) {
    YL_CHECK(reader.skip(signature.size()));
    YL_TRY(const Chunk first, read_chunk(reader));
    if (!first.checksum_holds)
        return bad_checksum(first);
    Parsed parsed;
    for (auto& entry : parsed.meaning.palette)
        entry = {0, 0, 0, 255};
    YL_TRY(parsed.header, parse_header(first));
    return parsed;
}

Status check_expansion(const Parsed& parsed, std::uint64_t compressed) {
    // DEFLATE cannot expand a byte to more than this (RFC 1951: 258 bytes for two bits).
    constexpr std::uint64_t max_expansion = 1032;
    const Header& header = parsed.header;
    // Interlaced or not, the stored rows take at least the pixels' own bits.
    const std::uint64_t min = header.row_bytes(std::uint64_t{header.width} * header.height);
    if (min / max_expansion > compressed)
        return fail(ErrorKind::malformed,
                    fmt::format("{} bytes of image data cannot hold {} x {} pixels", compressed,
                                header.width, header.height),
                    parsed.image_offset);
    return {};
}

bool image_comes_next(ByteSpan bytes, const ByteReader& reader) {
    // A chunk's type stands behind its length.
    return as_text(bytes).substr(std::min(reader.offset() + 4, bytes.size()), 4) == "IDAT";
}

Status parse_chunk(const Chunk& chunk, Parsed& parsed) {
    if (!chunk.checksum_holds) {
        if (!chunk.is_ancillary())
            return bad_checksum(chunk);
        parsed.info.remarks.push_back(
            fmt::format("chunk {} has a wrong checksum and was ignored", chunk.name()));
        return {};
    }
    if (chunk.type == chunk_type("PLTE"))
        return parse_palette(chunk, parsed);
    if (chunk.is_ancillary())
        return parse_ancillary(chunk, parsed);
    return fail(ErrorKind::unsupported,
                fmt::format("chunk {} is marked as needed to read the picture, and is not known",
                            chunk.name()),
                chunk.offset);
}

Status check_parsed(const Parsed& parsed) {
    if (parsed.header.color == ColorType::palette && parsed.meaning.palette_size == 0)
        return fail(ErrorKind::malformed,
                    "the picture needs a palette and has none (no chunk PLTE)");
    return {};
}

Result<Parsed> parse(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(Parsed parsed, begin(reader));
    while (true) {
        if (reader.left() == 0 && !parsed.image_data.empty()) {
            parsed.info.remarks.emplace_back(no_end);
            break;
        }
        YL_TRY(const Chunk chunk, read_chunk(reader));
        if (chunk.type == chunk_type("IEND") && chunk.checksum_holds)
            break;
        if (chunk.type != chunk_type("IDAT") || !chunk.checksum_holds) {
            YL_CHECK(parse_chunk(chunk, parsed));
            continue;
        }
        if (parsed.image_data.empty())
            parsed.image_offset = chunk.offset;
        parsed.image_data.push_back(chunk.data);
    }
    if (reader.left() > 0)
        parsed.info.remarks.push_back(
            fmt::format("{} bytes follow the end of the picture", reader.left()));
    if (parsed.image_data.empty())
        return fail(ErrorKind::malformed, "the file has no image data (no chunk IDAT)");
    YL_CHECK(check_parsed(parsed));
    return parsed;
}

Result<Parsed> parse_start(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(Parsed parsed, begin(reader));
    while (!image_comes_next(bytes, reader)) {
        YL_TRY(const Chunk chunk, read_chunk(reader));
        if (chunk.type == chunk_type("IEND"))
            return fail(ErrorKind::malformed, "the file has no image data (no chunk IDAT)");
        YL_CHECK(parse_chunk(chunk, parsed));
    }
    parsed.image_offset = reader.offset();
    YL_CHECK(check_parsed(parsed));
    return parsed;
}

}  // namespace yl::png
