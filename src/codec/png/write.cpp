// Writing PNG: 8 and 16 bits, one to four channels.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/zlib_stream.hpp"
#include "codec/png/chunks.hpp"
#include "codec/png/filter.hpp"
#include "codec/png/png.hpp"

namespace yl::png {
namespace {

/// The compressor's levels by effort. Photographs gain by the slow levels, drawings hardly, for
/// which they are much slower; so these are for data that stay dense after the first.
struct Levels {
    int first, for_dense;
};
constexpr Levels levels_by_effort[] = {{1, 1},  {2, 2},  {3, 3},   {5, 5},   {6, 6},  {7, 10},
                                       {9, 10}, {9, 11}, {11, 11}, {11, 12}, {12, 12}};
constexpr std::size_t max_piece = std::size_t{1} << 30;

Result<Header> header_for(ConstImageView image) {
    const FormatInfo& f = info(image.format);
    const bool holds = f.kind == NumericKind::unorm &&
                       f.type_size * f.channel_count == f.block_bytes &&
                       f.channels[0].channel == Channel::red;
    if (!holds)
        return fail(
            ErrorKind::usage,
            fmt::format(
                "PNG does not hold {}; convert to 8 or 16 bits of one to four channels first",
                f.name));
    static constexpr ColorType colors[] = {ColorType::gray, ColorType::gray_alpha, ColorType::rgb,
                                           ColorType::rgba};
    return Header{image.width, image.height, f.channels[0].bits, colors[f.channel_count - 1U],
                  false};
}

void copy_big_endian(ByteSpan row, std::uint8_t bits, std::byte* target) {
    if (bits == 8) {
        std::copy(row.begin(), row.end(), target);
        return;
    }
    for (std::size_t i = 0; i < row.size(); i += 2)
        store<std::uint16_t, std::endian::big>(target + i, load<std::uint16_t>(row.data() + i));
}

/// All rows with the filter that suits each best.
std::vector<std::byte> filter_rows(ConstImageView image, const Header& header) {
    const auto row_bytes = static_cast<std::size_t>(header.row_bytes(header.width));
    std::vector<std::byte> result((row_bytes + 1) * header.height);
    std::vector<std::byte> rows(2 * row_bytes);
    const std::size_t distance = header.filter_distance();
    for (std::uint32_t y = 0; y < header.height; ++y) {
        std::byte* row = rows.data() + (y % 2 == 0 ? row_bytes : 0);
        const std::byte* above = rows.data() + (y % 2 == 0 ? 0 : row_bytes);
        copy_big_endian(image.row(y), header.bits, row);
        std::byte* target = result.data() + y * (row_bytes + 1);
        const FilterCosts costs = rate_filters_simd({row, row_bytes}, above, distance);
        const auto best = std::min_element(costs.begin(), costs.end()) - costs.begin();
        target[0] = static_cast<std::byte>(best);
        apply_filter_simd(static_cast<RowFilter>(best), {row, row_bytes}, above, target + 1,
                          distance);
    }
    return result;
}

Result<std::vector<std::byte>> compress(ByteSpan rows, int effort) {
    const Levels levels = levels_by_effort[std::clamp(effort, 0, 10)];
    YL_TRY(auto packed, pack_zlib(rows, levels.first));
    const bool is_dense = packed.size() > rows.size() / 4;
    if (is_dense && levels.for_dense > levels.first) {
        YL_TRY(auto again, pack_zlib(rows, levels.for_dense));
        if (again.size() < packed.size())
            packed = std::move(again);
    }
    return packed;
}

Status write_profile(ByteWriter& writer, const WriteOptions& options) {
    constexpr std::size_t longest_name = 79;
    constexpr int level = 9;
    YL_TRY(const auto packed, pack_zlib(options.color_profile, level));
    ByteWriter data;
    const std::string name = options.color_profile_name.substr(0, longest_name);
    data.append(name.empty() ? "ICC profile" : name);
    data.write(std::uint8_t{0});
    data.write(std::uint8_t{0});  // packed by zlib
    data.append(packed);
    write_chunk(writer, chunk_type("iCCP"), data.bytes());
    return {};
}

void write_transfer(ByteWriter& writer, std::optional<Transfer> transfer) {
    if (!transfer)
        return;
    ByteWriter data;
    if (*transfer == Transfer::srgb) {
        data.write(std::uint8_t{0});  // rendering intent: perceptual
        write_chunk(writer, chunk_type("sRGB"), data.bytes());
    } else {
        data.write_big(std::uint32_t{100000});  // gamma 1, times 100,000
        write_chunk(writer, chunk_type("gAMA"), data.bytes());
    }
}

}  // namespace

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions& options) {
    YL_TRY(const Header header, header_for(image));
    YL_TRY(const auto compressed, compress(filter_rows(image, header), options.effort));
    ByteWriter writer;
    writer.append(std::as_bytes(std::span(signature)));
    ByteWriter fields;
    fields.write_big(header.width);
    fields.write_big(header.height);
    fields.write(header.bits);
    fields.write(static_cast<std::uint8_t>(header.color));
    for (int i = 0; i < 3; ++i)
        fields.write(std::uint8_t{0});  // compression, filter, no interlace
    write_chunk(writer, chunk_type("IHDR"), fields.bytes());
    if (options.color_profile.empty()) {
        write_transfer(writer, options.transfer);
    } else {
        YL_CHECK(write_profile(writer, options));
    }
    for (ByteSpan left = compressed; !left.empty();) {
        const ByteSpan piece = left.first(std::min(left.size(), max_piece));
        write_chunk(writer, chunk_type("IDAT"), piece);
        left = left.subspan(piece.size());
    }
    write_chunk(writer, chunk_type("IEND"), {});
    return writer.release();
}

}  // namespace yl::png
