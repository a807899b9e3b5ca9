#include "codec/tiff/page.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"

namespace yl::tiff {
namespace {

constexpr std::uint32_t max_channels = 1024;
constexpr std::uint64_t max_tiles = std::uint64_t{1} << 26;

std::string_view name_of_compression(std::uint64_t number) {
    switch (number) {
        case 2:
        case 3:
        case 4:
            return "a fax code (CCITT)";
        case 6:
        case 7:
            return "JPEG";
        case 34712:
            return "JPEG 2000";
        case 34925:
            return "LZMA";
        case 50000:
            return "Zstandard";
        case 50001:
            return "WebP";
        default:
            return "";
    }
}

Result<Compression> compression_of(std::uint64_t number) {
    for (const Compression known : {Compression::none, Compression::lzw, Compression::deflate,
                                    Compression::run_lengths, Compression::old_deflate})
        if (number == static_cast<std::uint64_t>(known))
            return known;
    const std::string_view name = name_of_compression(number);
    return fail(ErrorKind::unsupported,
                fmt::format("TIFF compressed by {} (scheme {}) is not read",
                            name.empty() ? "an unknown scheme" : name, number));
}

Result<Photometric> photometric_of(std::uint64_t number) {
    for (const Photometric known :
         {Photometric::white_is_zero, Photometric::black_is_zero, Photometric::rgb,
          Photometric::palette, Photometric::cmyk, Photometric::ycbcr})
        if (number == static_cast<std::uint64_t>(known))
            return known;
    return fail(ErrorKind::unsupported,
                fmt::format("TIFF with the photometric interpretation {} is not read", number));
}

}  // namespace

std::uint32_t Page::colors() const {
    switch (photometric) {
        case Photometric::rgb:
        case Photometric::ycbcr:
            return 3;
        case Photometric::cmyk:
            return 4;
        default:
            return 1;
    }
}

std::uint32_t Page::picture_channels() const {
    if (photometric == Photometric::palette || photometric == Photometric::cmyk)
        return 3;
    return static_cast<std::uint32_t>(kept.size());
}

Target Page::target() const {
    if (format == SampleFormat::floating)
        return bits == 16 ? Target::half : Target::single;
    if (format == SampleFormat::with_sign)
        return Target::single;
    return bits <= 8 ? Target::byte : Target::word;
}

std::uint32_t Page::rows_of(std::size_t tile) const {
    const auto row = static_cast<std::uint32_t>(tile % tile_count() / tiles_across());
    return is_tiled_ ? tile_height : std::min(tile_height, height - row * tile_height);
}

std::uint64_t Page::unpacked_bytes(std::size_t tile) const {
    constexpr std::uint64_t too_many = ~std::uint64_t{0};
    const std::uint64_t rows = rows_of(tile);
    if (photometric != Photometric::ycbcr || subsampling == std::array{1U, 1U})
        return (CheckedSize(row_bytes()) * rows).value().value_or(too_many);
    const auto [across, down] = subsampling;
    const CheckedSize units = CheckedSize(ceil_div(tile_width, across)) * ceil_div(rows, down);
    return (units * (std::uint64_t{across} * down + 2)).value().value_or(too_many);
}

Status Page::read_kind(const Directory& directory) {
    YL_TRY(const auto wide, directory.number(Tag::width, 0));
    YL_TRY(const auto high, directory.number(Tag::height, 0));
    constexpr std::uint64_t most = 0x7FFFFFFF;
    if (wide == 0 || high == 0 || wide > most || high > most)
        return fail(ErrorKind::malformed, fmt::format("a page of {} x {} pixels", wide, high));
    width = static_cast<std::uint32_t>(wide);
    height = static_cast<std::uint32_t>(high);
    YL_TRY(const auto stored, directory.number(Tag::channels, 1));
    if (stored == 0 || stored > max_channels)
        return fail(ErrorKind::malformed, fmt::format("{} channels in a pixel", stored));
    channels = static_cast<std::uint32_t>(stored);
    YL_TRY(const auto depths, directory.numbers(Tag::bits, max_channels));
    for (const std::uint64_t depth : depths)
        if (depth != depths[0])
            return fail(ErrorKind::unsupported, "TIFF with channels of several depths is not read");
    bits = depths.empty() ? 1 : static_cast<std::uint32_t>(std::min<std::uint64_t>(depths[0], 255));
    YL_TRY(const auto kinds, directory.numbers(Tag::sample_format, max_channels));
    const std::uint64_t kind = kinds.empty() ? 1 : kinds[0];
    if (kind < 1 || kind > 4)
        return fail(ErrorKind::unsupported,
                    fmt::format("TIFF with samples of format {} is not read", kind));
    format = static_cast<SampleFormat>(kind);
    YL_TRY(const auto scheme, directory.number(Tag::compression, 1));
    YL_TRY(compression, compression_of(scheme));
    // Some writers leave it out of gray pages.
    YL_TRY(const auto meaning, directory.number(Tag::photometric, channels < 3 ? 1 : 2));
    YL_TRY(photometric, photometric_of(meaning));
    YL_TRY(const auto difference, directory.number(Tag::predictor, 1));
    predictor = static_cast<std::uint32_t>(std::min<std::uint64_t>(difference, 255));
    YL_TRY(const auto planes, directory.number(Tag::planes, 1));
    is_planar = planes == 2 && channels > 1;
    YL_TRY(const auto order, directory.number(Tag::fill_order, 1));
    reverses_bits = order == 2;
    YL_TRY(const auto sub, directory.numbers(Tag::ycbcr_subsampling, 2));
    if (photometric == Photometric::ycbcr)
        subsampling = {sub.size() == 2 ? static_cast<std::uint32_t>(sub[0] & 0xFFU) : 2U,
                       sub.size() == 2 ? static_cast<std::uint32_t>(sub[1] & 0xFFU) : 2U};
    return check_kind();
}

Status Page::check_kind() const {
    const auto is_one_of = [](std::uint32_t value, std::initializer_list<std::uint32_t> known) {
        return std::ranges::find(known, value) != known.end();
    };
    const bool is_float = format == SampleFormat::floating;
    const bool fits = is_float                            ? is_one_of(bits, {16, 24, 32, 64})
                      : format == SampleFormat::with_sign ? is_one_of(bits, {8, 16, 32})
                                                          : bits >= 1 && bits <= 32;
    if (!fits)
        return fail(ErrorKind::unsupported,
                    fmt::format("TIFF with samples of {} bits of this kind is not read", bits));
    if (channels < colors())
        return fail(ErrorKind::malformed,
                    fmt::format("{} channels are too few for its colours", channels));
    const bool is_plain = format == SampleFormat::whole || format == SampleFormat::undefined;
    if (photometric == Photometric::palette && (!is_plain || bits > 16))
        return fail(ErrorKind::unsupported, "a palette's indices have at most 16 bits");
    if (photometric == Photometric::cmyk && !(is_plain && (bits == 8 || bits == 16)))
        return fail(ErrorKind::unsupported, "CMYK is read in 8 and 16 bits");
    if (photometric == Photometric::ycbcr &&
        (!is_plain || bits != 8 || channels != 3 || is_planar ||
         !is_one_of(subsampling[0], {1, 2, 4}) || !is_one_of(subsampling[1], {1, 2, 4}) ||
         predictor != 1))
        return fail(ErrorKind::unsupported,
                    "YCbCr is read in 8 bits with its three channels together");
    const bool knows_predictor = predictor == 1 ||
                                 (predictor == 2 && is_one_of(bits, {8, 16, 32, 64})) ||
                                 (predictor == 3 && is_float);
    return knows_predictor ? Status{}
                           : fail(ErrorKind::unsupported,
                                  fmt::format("predictor {} with samples of {} bits is not read",
                                              predictor, bits));
}

Status Page::read_extra_samples(const Directory& directory) {
    YL_TRY(const auto extra, directory.numbers(Tag::extra_samples, max_channels));
    for (std::uint32_t i = 0; i < colors(); ++i)
        kept.push_back(i);
    const std::uint32_t more = channels - colors();
    if (more == 0)
        return {};
    constexpr std::uint64_t associated = 1, unassociated = 2;
    const bool has_room = photometric != Photometric::palette && photometric != Photometric::cmyk;
    std::size_t chosen = more;
    for (std::size_t i = 0; i < std::min<std::size_t>(extra.size(), more); ++i)
        if (chosen == more && (extra[i] == associated || extra[i] == unassociated))
            chosen = i;
    if (chosen == more && more == 1) {
        chosen = 0;
        if (has_room)
            remarks.emplace_back("what its extra channel means is not said; it is taken for alpha");
    }
    if (chosen < more && has_room) {
        kept.push_back(colors() + static_cast<std::uint32_t>(chosen));
        const bool is_premultiplied = chosen < extra.size() && extra[chosen] == associated;
        alpha = is_premultiplied ? AlphaMode::premultiplied : AlphaMode::straight;
    }
    const std::uint32_t dropped = channels - static_cast<std::uint32_t>(kept.size());
    if (dropped > 0)
        remarks.push_back(fmt::format("{} of its {} channels {} left out", dropped, channels,
                                      dropped == 1 ? "is" : "are"));
    return {};
}

Status Page::read_tiles(const Directory& directory) {
    is_tiled_ = directory.has(Tag::tile_width);
    YL_TRY(const auto wide, directory.number(Tag::tile_width, width));
    YL_TRY(const auto high,
           directory.number(is_tiled_ ? Tag::tile_height : Tag::rows_per_strip, height));
    constexpr std::uint64_t most = 0x7FFFFFFF;
    if (wide == 0 || high == 0 || (is_tiled_ && (wide > most || high > most)))
        return fail(ErrorKind::malformed, fmt::format("tiles of {} x {} pixels", wide, high));
    tile_width = static_cast<std::uint32_t>(wide);
    tile_height = is_tiled_ ? static_cast<std::uint32_t>(high)
                            : static_cast<std::uint32_t>(std::min<std::uint64_t>(high, height));
    const std::uint64_t count = std::uint64_t{tile_count()} * (is_planar ? channels : 1);
    if (count > max_tiles)
        return fail(ErrorKind::limit, fmt::format("{} strips or tiles", count));
    YL_TRY(offsets,
           directory.numbers(is_tiled_ ? Tag::tile_offsets : Tag::strip_offsets, max_tiles));
    YL_TRY(byte_counts,
           directory.numbers(is_tiled_ ? Tag::tile_bytes : Tag::strip_bytes, max_tiles));
    if (offsets.size() < count)
        return fail(ErrorKind::malformed,
                    fmt::format("{} strips or tiles of {} are there", offsets.size(), count));
    // Old writers leave the lengths of uncompressed strips out.
    if (byte_counts.empty() && compression == Compression::none)
        for (std::size_t i = 0; i < count; ++i)
            byte_counts.push_back(unpacked_bytes(i));
    if (byte_counts.size() < count)
        return fail(ErrorKind::malformed, fmt::format("{} lengths of {} strips or tiles are there",
                                                      byte_counts.size(), count));
    return {};
}

Result<Page> Page::of(const Directory& directory) {
    Page page;
    YL_CHECK(page.read_kind(directory));
    YL_CHECK(page.read_extra_samples(directory));
    YL_CHECK(page.read_tiles(directory));
    return page;
}

}  // namespace yl::tiff
