#include "codec/tiff/page_reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <yl/status_macros.hpp>
#include "base/parallel.hpp"
#include "codec/profile.hpp"
#include "codec/tiff/samples.hpp"

namespace yl::tiff {
namespace {

/// The most bytes that one byte unpacks to.
std::uint64_t max_growth(Compression compression) {
    switch (compression) {
        case Compression::none:
            return 1;
        case Compression::run_lengths:
            return 64;
        case Compression::lzw:
            return 2731;  // codes of 12 bits for strings of at most 4096 bytes
        case Compression::deflate:
        case Compression::old_deflate:
            return 1040;
    }
    return 1;
}

std::byte reversed(std::byte byte) {
    auto bits = std::to_integer<unsigned>(byte);
    bits = (bits & 0xF0U) >> 4U | (bits & 0x0FU) << 4U;
    bits = (bits & 0xCCU) >> 2U | (bits & 0x33U) << 2U;
    return std::byte((bits & 0xAAU) >> 1U | (bits & 0x55U) << 1U);
}

Result<Palette> palette_of(const Directory& directory, const Page& page) {
    Palette palette;
    if (page.photometric != Photometric::palette)
        return palette;
    const std::size_t count = std::size_t{1} << page.bits;
    YL_TRY(const auto map, directory.numbers(Tag::color_map, 3 * count));
    if (map.size() != 3 * count)
        return fail(ErrorKind::malformed,
                    fmt::format("the palette has {} of {} entries", map.size() / 3, count));
    // Some writers store codes of 8 bits as they are.
    const bool is_narrow = std::ranges::all_of(map, [](auto code) { return code < 256; });
    palette.is_wide =
        !is_narrow && !std::ranges::all_of(map, [](auto code) { return code % 257 == 0; });
    for (std::size_t i = 0; i < count; ++i)
        for (std::size_t c = 0; c < 3; ++c) {
            const std::uint64_t code = map[c * count + i];
            palette.codes.push_back(
                static_cast<std::uint16_t>(is_narrow || palette.is_wide ? code : code / 257));
        }
    return palette;
}

}  // namespace

Result<PageReader> PageReader::open(const Directory& directory, const ReadOptions& options) {
    PageReader reader(directory, options);
    YL_TRY(reader.page_, Page::of(directory));
    YL_TRY(reader.palette_, palette_of(directory, reader.page_));
    if (reader.page_.photometric == Photometric::cmyk) {
        auto profile = directory.raw(Tag::color_profile);
        if (applies_ink_profile(profile, options))
            reader.ink_profile_ = std::move(profile);
    }
    reader.read_stated_colors();
    return reader;
}

/// What tags 301, 318 and 319 say where there is no profile: white, primaries, and the light of each
/// code (section 20).
void PageReader::read_stated_colors() {
    const Target target = page_.target();
    const bool has_codes = target == Target::byte || target == Target::word;
    if (!has_codes || directory_.has(Tag::color_profile) || page_.bits > 16 ||
        page_.photometric == Photometric::cmyk || page_.photometric == Photometric::palette)
        return;
    StatedColors stated;
    const auto white = directory_.fractions(Tag::white_point, 2);
    const auto primaries = directory_.fractions(Tag::primaries, 6);
    std::ranges::copy(white, stated.chromaticities.begin());
    if (primaries.size() == 6)
        std::ranges::copy(primaries, stated.chromaticities.begin() + 2);
    const bool is_sound = std::ranges::all_of(stated.chromaticities,
                                              [](double place) { return place > 0 && place < 1; });
    const std::size_t entries = std::size_t{1} << page_.bits;
    const auto table = directory_.numbers(Tag::transfer_function, 3 * entries);
    if (table && (table->size() == entries || table->size() == 3 * entries)) {
        stated.curve = StatedColors::Curve::table;
        // Of 16 bits, one in sixteen: curves of more numbers are refused by who applies them.
        const std::size_t kept = std::min<std::size_t>(entries, 4096);
        for (std::size_t at = 0; at < table->size(); at += entries) {
            auto& channel = stated.tables.emplace_back();
            for (std::size_t i = 0; i < kept; ++i)
                channel.push_back(static_cast<std::uint16_t>(
                    std::min<std::uint64_t>((*table)[at + i * (entries - 1) / (kept - 1)], 65535)));
        }
    }
    if (is_sound &&
        (stated.curve == StatedColors::Curve::table || !has_srgb_primaries(stated.chromaticities)))
        stated_ = std::move(stated);
}

PictureStart PageReader::start() const {
    const Target target = page_.target();
    PictureStart start{.width = page_.width, .height = page_.height};
    start.channels = page_.picture_channels();
    start.is_float = target == Target::half || target == Target::single;
    start.bits = target == Target::byte ? 8 : target == Target::single ? 32 : 16;
    if (page_.photometric == Photometric::palette)
        start.bits = palette_.is_wide ? 16 : 8;
    return start;
}

std::optional<Orientation> PageReader::orientation() const {
    const auto number = directory_.number(Tag::orientation, 1);
    if (!number || *number < 1 || *number > 8)
        return {};
    return static_cast<Orientation>(*number);
}

bool PageReader::is_needed(std::size_t tile) const {
    const auto plane = static_cast<std::uint32_t>(tile / page_.tile_count());
    return !page_.is_planar || std::ranges::find(page_.kept, plane) != page_.kept.end();
}

/// As far as they lie within the file.
std::uint64_t PageReader::stored_bytes(std::size_t tile) const {
    const std::uint64_t size = directory_.file().size(), offset = page_.offsets[tile];
    return offset > size ? 0 : std::min(page_.byte_counts[tile], size - offset);
}

Status PageReader::check_claims() const {
    const std::uint64_t growth = max_growth(page_.compression);
    for (std::size_t tile = 0; tile < tiles(); ++tile) {
        const std::uint64_t wanted = page_.unpacked_bytes(tile);
        if (is_needed(tile) &&
            (wanted > options_.limits.max_bytes || wanted / growth > stored_bytes(tile)))
            return fail(ErrorKind::malformed,
                        fmt::format("strip or tile {} ends early: {} bytes cannot hold {}", tile,
                                    stored_bytes(tile), wanted),
                        page_.offsets[tile]);
    }
    return {};
}

void PageReader::describe(Picture& picture, Format format) const {
    PictureInfo& info = picture.info;
    info.file_channels = page_.picture_channels();
    info.file_bits = page_.bits;
    info.has_palette = page_.photometric == Photometric::palette;
    info.remarks.insert(info.remarks.end(), page_.remarks.begin(), page_.remarks.end());
    if (page_.kept.size() % 2 == 0 && page_.photometric != Photometric::cmyk)
        picture.alpha = page_.alpha;
    if (page_.photometric == Photometric::cmyk)
        describe_inks(info, ink_profile_, !ink_profile_.empty());
    const auto x = directory_.fractions(Tag::x_resolution, 1);
    const auto y = directory_.fractions(Tag::y_resolution, 1);
    const auto unit = directory_.number(Tag::resolution_unit, 2);
    constexpr double inches = 1 / 0.0254, centimetres = 100;
    const bool is_said = x.size() == 1 && y.size() == 1 && std::isfinite(x[0]) &&
                         std::isfinite(y[0]) && x[0] > 0 && y[0] > 0;
    if (is_said && unit && (*unit == 2 || *unit == 3)) {
        const double scale = *unit == 2 ? inches : centimetres;
        info.pixels_per_metre = {x[0] * scale, y[0] * scale};
    }
    std::vector<std::byte> profile = directory_.raw(Tag::color_profile);
    const bool is_of_inks = page_.photometric == Photometric::cmyk;
    if (!profile.empty() && !is_of_inks && !yl::info(format).is_float()) {
        std::string name = profile_description(profile);
        take_profile(info, std::move(name), std::move(profile));
        settle_transfer(picture, options_);
    }
}

/// Weights of red, green and blue in brightness; those of BT.601 where nothing sound is said.
std::array<double, 3> PageReader::luma() const {
    const auto said = directory_.fractions(Tag::ycbcr_coefficients, 3);
    if (said.size() == 3 && said[0] > 0 && said[1] > 0 && said[2] > 0 && said[0] < 1 &&
        said[1] < 1 && said[2] < 1)
        return {said[0], said[1], said[2]};
    return {0.299, 0.587, 0.114};
}

void PageReader::cut_strips(std::uint32_t rows) {
    const bool is_plain = page_.compression == Compression::none && !page_.is_tiled() &&
                          page_.photometric != Photometric::ycbcr;
    if (!is_plain || page_.tile_height <= rows)
        return;
    const std::uint32_t old_height = page_.tile_height;
    const std::size_t old_count = page_.tile_count();
    const std::uint32_t planes = page_.is_planar ? page_.channels : 1;
    // Rows of a new strip never reach over an old one.
    const std::uint32_t in_old = (old_height + rows - 1) / rows;
    if (old_count > 1 && old_height % rows != 0)
        return;
    std::vector<std::uint64_t> offsets, byte_counts;
    for (std::size_t strip = 0; strip < old_count * planes; ++strip) {
        const std::uint32_t height = page_.rows_of(strip);
        for (std::uint32_t piece = 0; piece < in_old && piece * rows < height; ++piece) {
            const std::uint64_t before = page_.row_bytes() * piece * rows;
            const std::uint64_t left = stored_bytes(strip) - std::min(before, stored_bytes(strip));
            offsets.push_back(page_.offsets[strip] + before);
            byte_counts.push_back(
                std::min(left, page_.row_bytes() * std::min(rows, height - piece * rows)));
        }
    }
    page_.offsets = std::move(offsets);
    page_.byte_counts = std::move(byte_counts);
    page_.tile_height = rows;
}

Status PageReader::read(std::uint32_t begin, std::uint32_t end, ImageView image,
                        ProgressCounter& progress) const {
    if (page_.photometric != Photometric::cmyk)
        return read_samples(begin, end, image, progress);
    YL_TRY(Image ink,
           Image::create(plain_format({4, info(image.format).channels[0].bits, false}), image.width,
                         image.height, {~std::uint32_t{0}, options_.limits.max_bytes}));
    YL_CHECK(read_samples(begin, end, ink.view(), progress));
    if (!ink_profile_.empty())
        return convert_inks(std::as_const(ink).view(), ink_profile_, image);
    ink_to_light(std::as_const(ink).view(), image);
    return {};
}

Status PageReader::settle_colors(Picture& picture) const {
    if (!stated_ || yl::info(options_.role).transfer != Transfer::srgb)
        return {};
    const std::string said = stated_->curve == StatedColors::Curve::table
                                 ? "the transfer function of tag 301"
                                 : "the primaries of tag 319";
    picture.info.unapplied = said;
    return settle_stated(picture, *stated_, said, options_);
}

Status PageReader::read_samples(std::uint32_t begin, std::uint32_t end, ImageView image,
                                ProgressCounter& progress) const {
    const SampleReader reader(page_, directory_.file().is_big_endian(), image,
                              begin * page_.tile_height, palette_.codes, luma());
    const std::size_t in_plane = std::size_t{end - begin} * page_.tiles_across();
    const std::size_t first = std::size_t{begin} * page_.tiles_across();
    const std::size_t planes = page_.is_planar ? page_.channels : 1;
    Mutex mutex;
    std::optional<std::pair<std::size_t, Error>> error;
    parallel_each(planes * in_plane, [&](std::size_t i) {
        if (progress.cancelled())
            return;
        const std::size_t tile = i / in_plane * page_.tile_count() + first + i % in_plane;
        const Status status = is_needed(tile) ? read_tile(reader, tile) : Status{};
        if (!status) {
            const Locked lock(mutex);
            if (!error || tile < error->first)
                error.emplace(tile, status.error());
        }
        progress.add(1);
    });
    YL_CHECK(progress.status());
    if (error)
        return fail(error->second.kind,
                    fmt::format("strip or tile {}: {}", error->first, error->second.message),
                    page_.offsets[error->first]);
    return {};
}

Status PageReader::read_tile(const SampleReader& reader, std::size_t tile) const {
    if (const auto texels = reader.texels_of(tile); !texels.empty()) {
        YL_CHECK(unpack_tile(tile, texels));
        reader.read_in_place(texels);
        return {};
    }
    YL_TRY(Buffer unpacked, Buffer::allocate(page_.unpacked_bytes(tile)));
    YL_CHECK(unpack_tile(tile, unpacked.bytes()));
    reader.read(tile, unpacked.bytes());
    return {};
}

Status PageReader::unpack_tile(std::size_t tile, std::span<std::byte> target) const {
    std::vector<std::byte> space;
    const auto count = static_cast<std::size_t>(stored_bytes(tile));
    if (count == 0)
        return unpack(page_.compression, {}, target);
    YL_TRY(const ByteSpan stored,
           directory_.file().source().piece(page_.offsets[tile], count, space));
    if (!page_.reverses_bits)
        return unpack(page_.compression, stored, target);
    std::vector<std::byte> turned(stored.begin(), stored.end());
    std::ranges::transform(turned, turned.begin(), reversed);
    return unpack(page_.compression, turned, target);
}

}  // namespace yl::tiff
