// Reading PNG (ISO/IEC 15948:2004, "Portable Network Graphics").
#include <fmt/format.h>

#include <algorithm>
#include <numeric>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/progress.hpp"
#include "base/zlib_stream.hpp"
#include "codec/picture_format.hpp"
#include "codec/png/chunks.hpp"
#include "codec/png/colors.hpp"
#include "codec/png/expand.hpp"
#include "codec/png/filter.hpp"
#include "codec/png/parse.hpp"
#include "codec/png/png.hpp"

namespace yl::png {
namespace {

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
        YL_TRY(const RowFilter filter, row_filter(filtered[0], y, parsed.image_offset));
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
        YL_TRY(
            const RowFilter filter,
            row_filter(filtered[0], pass.y + std::uint64_t{i} * pass.step_y, parsed.image_offset));
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
    return check_expansion(parsed, compressed);
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
    while (!image_comes_next(bytes, reader)) {
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
    const Format format = begin_picture(parsed, expander, options, picture);
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
    return {.name = "PNG",
            .endings = {"png"},
            .recognise = png::recognise,
            .read = png::read,
            .peek = png::peek,
            .write = png::write,
            .held = {.channels = "1234", .bytes = true, .words = true},
            .read_frames = png::read_frames,
            .open_rows = png::open_rows};
}

}  // namespace yl
