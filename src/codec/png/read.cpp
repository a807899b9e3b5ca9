// Reading PNG (ISO/IEC 15948:2004, "Portable Network Graphics").
#include <fmt/format.h>

#include <algorithm>
#include <numeric>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/progress.hpp"
#include "base/text.hpp"
#include "base/zlib_stream.hpp"
#include "codec/color_conversion.hpp"
#include "codec/exif.hpp"
#include "codec/gamma.hpp"
#include "codec/picture_format.hpp"
#include "codec/png/chunks.hpp"
#include "codec/png/expand.hpp"
#include "codec/png/filter.hpp"
#include "codec/png/png.hpp"
#include "codec/profile.hpp"

namespace yl::png {
namespace {

/// DEFLATE cannot expand a byte to more than this (RFC 1951: 258 bytes for two bits).
constexpr std::uint64_t max_expansion = 1032;

/// Everything in the file but the pixels.
struct Parsed {
    Header header;
    SampleMeaning meaning;
    std::vector<ByteSpan> image_data;
    std::size_t image_offset = 0;  ///< in the file, of the first chunk IDAT
    std::optional<Transfer> declared_transfer;
    int transfer_rank =
        0;  ///< of the chunk that declared it; cICP counts more than iCCP, sRGB and gAMA
    std::string profile_name;
    std::vector<std::byte> profile;
    std::optional<double> gamma;         ///< declared, neither linear nor that of sRGB
    bool has_other_primaries = false;    ///< than those of BT.709, by chunk cHRM
    std::optional<StatedColors> stated;  ///< by chunk cHRM, or by chunk cICP
    std::optional<Orientation> orientation;
    PictureInfo info;
};

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

constexpr int gamma_rank = 1, srgb_rank = 2, profile_rank = 3, code_points_rank = 4;

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

tl::unexpected<Error> bad_checksum(const Chunk& chunk) {
    return fail(ErrorKind::malformed,
                fmt::format("the checksum of chunk {} is wrong: the file is damaged", chunk.name()),
                chunk.offset);
}

/// Signature and chunk IHDR.
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

/// Reads the chunks up to IEND.
Result<Parsed> parse(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(Parsed parsed, begin(reader));
    while (true) {
        if (reader.left() == 0 && !parsed.image_data.empty()) {
            parsed.info.remarks.emplace_back("the file ends without its chunk IEND");
            break;
        }
        YL_TRY(const Chunk chunk, read_chunk(reader));
        if (!chunk.checksum_holds) {
            if (!chunk.is_ancillary())
                return bad_checksum(chunk);
            parsed.info.remarks.push_back(
                fmt::format("chunk {} has a wrong checksum and was ignored", chunk.name()));
        } else if (chunk.type == chunk_type("IEND")) {
            break;
        } else if (chunk.type == chunk_type("IDAT")) {
            if (parsed.image_data.empty())
                parsed.image_offset = chunk.offset;
            parsed.image_data.push_back(chunk.data);
        } else if (chunk.type == chunk_type("PLTE")) {
            YL_CHECK(parse_palette(chunk, parsed));
        } else if (chunk.is_ancillary()) {
            YL_CHECK(parse_ancillary(chunk, parsed));
        } else {
            return fail(
                ErrorKind::unsupported,
                fmt::format("chunk {} is marked as needed to read the picture, and is not known",
                            chunk.name()),
                chunk.offset);
        }
    }
    if (reader.left() > 0)
        parsed.info.remarks.push_back(
            fmt::format("{} bytes follow the end of the picture", reader.left()));
    if (parsed.image_data.empty())
        return fail(ErrorKind::malformed, "the file has no image data (no chunk IDAT)");
    if (parsed.header.color == ColorType::palette && parsed.meaning.palette_size == 0)
        return fail(ErrorKind::malformed,
                    "the picture needs a palette and has none (no chunk PLTE)");
    return parsed;
}

/// Decompresses all image data into `target`, which they have to fill.
Status inflate(Parsed& parsed, std::span<std::byte> target) {
    std::vector<std::byte> joined;
    ByteSpan data = parsed.image_data.front();
    if (parsed.image_data.size() > 1) {
        joined.reserve(std::transform_reduce(parsed.image_data.begin(), parsed.image_data.end(),
                                             std::size_t{0}, std::plus<>(),
                                             [](ByteSpan piece) { return piece.size(); }));
        for (const ByteSpan piece : parsed.image_data)
            joined.insert(joined.end(), piece.begin(), piece.end());
        data = joined;
    }
    const auto surplus = unpack_zlib_start(data, target);
    if (!surplus)
        return fail(surplus.error().kind, "the image " + surplus.error().message,
                    parsed.image_offset);
    if (*surplus > 0)
        parsed.info.remarks.push_back(fmt::format(
            "the image data hold {} bytes more than the rows need, which were ignored", *surplus));
    return {};
}

Result<RowFilter> row_filter(std::byte stored, const Parsed& parsed, std::uint64_t row) {
    if (std::to_integer<int>(stored) > static_cast<int>(RowFilter::paeth))
        return fail(ErrorKind::malformed,
                    fmt::format("row {} has filter type {}; PNG has 0 to 4", row,
                                std::to_integer<int>(stored)),
                    parsed.image_offset);
    return static_cast<RowFilter>(stored);
}

constexpr std::size_t rows_in_step = 64;  ///< of progress

/// Rows in order. The stored rows are decompressed to the end of the pixels' own memory and
/// expanded towards its beginning; the space before a stored row always suffices for the expanded
/// rows up to it, so that no second picture's worth of memory is needed.
Result<Buffer> decode_plain(Parsed& parsed, RowExpander& expander, std::size_t expanded_row,
                            const Progress& told) {
    const Header& header = parsed.header;
    const std::size_t height = header.height;
    const auto row_bytes = static_cast<std::size_t>(header.row_bytes(header.width));
    const std::size_t stored_row = row_bytes + 1;
    const std::size_t size = std::max(
        {height * expanded_row, expanded_row + (height - 1) * stored_row, height * stored_row});
    YL_TRY(Buffer pixels, Buffer::allocate(size));
    const auto stored = pixels.bytes().last(height * stored_row);
    YL_CHECK(inflate(parsed, stored));
    ProgressCounter progress(told, Phase::reading, height);
    const bool in_place = expander.changes_nothing();
    std::vector<std::byte> rows(in_place ? row_bytes : 2 * row_bytes);  // starts as zeros
    const std::byte* above = rows.data();
    for (std::size_t y = 0; y < height && !progress.cancelled(); ++y) {
        const ByteSpan filtered = stored.subspan(y * stored_row, stored_row);
        YL_TRY(const RowFilter filter, row_filter(filtered[0], parsed, y));
        std::byte* target = pixels.data() + y * expanded_row;
        std::byte* row = in_place ? target : rows.data() + (y % 2 == 0 ? row_bytes : 0);
        undo_filter_simd(filter, filtered.subspan(1), above, row, header.filter_distance());
        if (!in_place)
            expander.expand(row, target, header.width);
        above = row;
        if (y % rows_in_step == rows_in_step - 1)
            progress.add(rows_in_step);
    }
    YL_CHECK(progress.status());
    return pixels;
}

/// One of the seven passes of Adam7 interlacing (section 8.2): which pixels it holds.
struct Pass {
    std::uint32_t x, y, step_x, step_y;

    [[nodiscard]] std::uint32_t columns(std::uint32_t width) const {
        return width > x ? (width - x + step_x - 1) / step_x : 0;
    }
    [[nodiscard]] std::uint32_t rows(std::uint32_t height) const {
        return height > y ? (height - y + step_y - 1) / step_y : 0;
    }
    /// Bytes of its stored rows with their filter types; a pass without columns stores nothing.
    [[nodiscard]] std::uint64_t stored_bytes(const Header& header) const {
        const std::uint64_t width = columns(header.width);
        return width == 0 ? 0 : rows(header.height) * (header.row_bytes(width) + 1);
    }
};

constexpr Pass passes[] = {{0, 0, 8, 8}, {4, 0, 8, 8}, {0, 4, 4, 8}, {2, 0, 4, 4},
                           {0, 2, 2, 4}, {1, 0, 2, 2}, {0, 1, 1, 2}};

Status decode_pass(const Parsed& parsed, RowExpander& expander, const Pass& pass, ByteSpan stored,
                   std::byte* pixels) {
    const std::size_t pixel_bytes = expander.channels() * expander.bits() / 8;
    const Header& header = parsed.header;
    const std::uint32_t columns = pass.columns(header.width);
    const auto row_bytes = static_cast<std::size_t>(header.row_bytes(columns));
    std::vector<std::byte> rows(2 * row_bytes);
    std::vector<std::byte> expanded(columns * pixel_bytes);
    for (std::uint32_t i = 0; i < pass.rows(header.height); ++i) {
        const ByteSpan filtered = stored.subspan(i * (row_bytes + 1), row_bytes + 1);
        YL_TRY(const RowFilter filter,
               row_filter(filtered[0], parsed, pass.y + std::uint64_t{i} * pass.step_y));
        std::byte* row = rows.data() + (i % 2 == 0 ? row_bytes : 0);
        const std::byte* above = rows.data() + (i % 2 == 0 ? 0 : row_bytes);
        undo_filter_simd(filter, filtered.subspan(1), above, row, header.filter_distance());
        expander.expand(row, expanded.data(), columns);
        const std::size_t y = pass.y + std::size_t{i} * pass.step_y;
        for (std::size_t column = 0; column < columns; ++column) {
            const std::size_t x = pass.x + column * pass.step_x;
            std::copy_n(expanded.data() + column * pixel_bytes, pixel_bytes,
                        pixels + (y * header.width + x) * pixel_bytes);
        }
    }
    return {};
}

Result<Buffer> decode_interlaced(Parsed& parsed, RowExpander& expander, std::size_t expanded_row,
                                 const Progress& told) {
    const Header& header = parsed.header;
    YL_TRY(Buffer pixels, Buffer::allocate(header.height * expanded_row));
    std::uint64_t total = 0;
    for (const Pass& pass : passes)
        total += pass.stored_bytes(header);
    YL_TRY(Buffer stored, Buffer::allocate(total));
    YL_CHECK(inflate(parsed, stored.bytes()));
    ByteSpan left = stored.bytes();
    ProgressCounter progress(told, Phase::reading, total);
    for (const Pass& pass : passes) {
        const auto bytes = static_cast<std::size_t>(pass.stored_bytes(header));
        if (bytes == 0)
            continue;
        YL_CHECK(decode_pass(parsed, expander, pass, left.first(bytes), pixels.data()));
        left = left.subspan(bytes);
        progress.add(bytes);
        YL_CHECK(progress.status());
    }
    return pixels;
}

/// Refuses what is too large, or cannot hold what it claims, before memory is taken for it.
Status check_claim(const Parsed& parsed, Format format, const Limits& limits) {
    const Header& header = parsed.header;
    if (auto fits =
            check_shape({.format = format, .width = header.width, .height = header.height}, limits);
        !fits)
        return fail(ErrorKind::limit, fits.error().message);
    std::uint64_t compressed = 0;
    for (const ByteSpan piece : parsed.image_data)
        compressed += piece.size();
    // Interlaced or not, the stored rows take at least the pixels' own bits.
    const std::uint64_t min = header.row_bytes(std::uint64_t{header.width} * header.height);
    if (min / max_expansion > compressed)
        return fail(ErrorKind::malformed,
                    fmt::format("{} bytes of image data cannot hold {} x {} pixels", compressed,
                                header.width, header.height),
                    parsed.image_offset);
    return {};
}

/// Colours that a gamma of its own has encoded become sRGB (PNG, third edition, section 13.13).
void apply_declared_gamma(const Parsed& parsed, Picture& picture) {
    const bool is_color = picture.transfer == Transfer::srgb;
    if (!parsed.gamma || parsed.transfer_rank != 0 || !is_color)
        return;
    picture.info.leaves_transfer_open = false;
    apply_gamma(picture.image.view(), *parsed.gamma);
    picture.info.transfer_reason = fmt::format(
        "colours were converted to sRGB from the declared gamma of {:.5f}", *parsed.gamma);
    picture.info.remarks.push_back(picture.info.transfer_reason);
}

/// What chunks cHRM, gAMA and cICP say; profiles come later, and in other files as well.
Status settle_colors(Parsed& parsed, Picture& picture, const ReadOptions& options) {
    const std::string said = picture.info.unapplied;
    const bool is_by_chunk = !said.empty() && parsed.transfer_rank != profile_rank;
    if (is_by_chunk && parsed.stated && converts_colors(picture, options)) {
        if (parsed.gamma && parsed.transfer_rank == 0) {
            parsed.stated->curve = StatedColors::Curve::gamma;
            parsed.stated->gamma = 1 / *parsed.gamma;
        }
        const Status status = convert_by_colors(picture, *parsed.stated);
        if (status) {
            picture.transfer = Transfer::srgb;
            note_conversion(picture.info, said);
            return {};
        }
        if (status.error().kind != ErrorKind::unsupported)
            return status;
    }
    if (is_by_chunk)
        picture.info.remarks.push_back(
            fmt::format("{}: not applied; colours were taken as {}", said,
                        picture.transfer == Transfer::srgb ? "sRGB" : "linear, of BT.709"));
    if (!options.transfer)
        apply_declared_gamma(parsed, picture);
    return {};
}

}  // namespace

bool recognise(ByteSpan bytes) {
    return bytes.size() >= signature.size() &&
           std::equal(signature.begin(), signature.end(), bytes.begin(),
                      [](std::uint8_t a, std::byte b) { return std::byte{a} == b; });
}

Result<PictureHeader> peek(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(Parsed parsed, begin(reader));
    std::uint32_t frames = 1;
    // A chunk's type stands behind its length.
    while (as_text(bytes).substr(std::min(reader.offset() + 4, bytes.size()), 4) != "IDAT") {
        YL_TRY(const Chunk chunk, read_chunk(reader));
        if (!chunk.checksum_holds)
            continue;
        if (chunk.type == chunk_type("PLTE"))
            YL_CHECK(parse_palette(chunk, parsed));
        if (chunk.type == chunk_type("tRNS") || chunk.type == chunk_type("eXIf"))
            YL_CHECK(parse_ancillary(chunk, parsed));
        if (chunk.type == chunk_type("acTL") && chunk.data.size() >= 4)
            frames = load<std::uint32_t, std::endian::big>(chunk.data.data());
    }
    const RowExpander expander(parsed.header, parsed.meaning, false);
    YL_TRY(PictureHeader header, header_of({.width = parsed.header.width,
                                            .height = parsed.header.height,
                                            .channels = expander.channels(),
                                            .bits = expander.bits()},
                                           parsed.orientation));
    header.frames = std::max(frames, 1U);
    return header;
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(Parsed parsed, parse(bytes));
    const Header& header = parsed.header;
    RowExpander expander(header, parsed.meaning, options.widen_to_rgba);
    Picture picture;
    picture.info = parsed.info;
    picture.info.file_channels = expander.own_channels();
    picture.info.file_bits = header.bits;
    picture.info.has_palette = header.color == ColorType::palette;
    picture.info.is_interlaced = header.interlaced;
    picture.info.declared_transfer = parsed.declared_transfer;
    const bool counts = info(options.role).transfer == Transfer::srgb;
    if (parsed.transfer_rank <= gamma_rank && parsed.has_other_primaries && counts)
        picture.info.unapplied = "the primaries of chunk cHRM";
    if (parsed.transfer_rank == profile_rank)
        take_profile(picture.info, parsed.profile_name, std::move(parsed.profile));
    settle_transfer(picture, options);
    const Format format = plain_format({expander.channels(), expander.bits()}, picture.transfer);
    picture.swizzle = channel_swizzle(expander.channels());
    YL_CHECK(check_claim(parsed, format, options.limits));
    const std::size_t expanded_row = std::size_t{header.width} * info(format).block_bytes;
    const auto remarks_before = static_cast<std::ptrdiff_t>(parsed.info.remarks.size());
    YL_TRY(Buffer pixels, header.interlaced
                              ? decode_interlaced(parsed, expander, expanded_row, options.progress)
                              : decode_plain(parsed, expander, expanded_row, options.progress));
    YL_TRY(picture.image, Image::adopt(std::move(pixels), format, header.width, header.height));
    // Those of the image data came while it was decoded.
    picture.info.remarks.insert(picture.info.remarks.end(),
                                parsed.info.remarks.begin() + remarks_before,
                                parsed.info.remarks.end());
    YL_CHECK(settle_colors(parsed, picture, options));
    YL_CHECK(turn_upright(picture, parsed.orientation, options));
    return picture;
}

}  // namespace yl::png

namespace yl {

PictureFormat png_format() {
    return {"PNG",
            {"png"},
            png::recognise,
            png::read,
            png::peek,
            png::write,
            {.channels = "1234", .bytes = true, .words = true},
            png::read_frames};
}

}  // namespace yl
