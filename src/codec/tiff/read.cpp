#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <mutex>
#include <set>

#include <yl/status_macros.hpp>
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "codec/profile.hpp"
#include "codec/tiff/samples.hpp"
#include "codec/tiff/tiff.hpp"

namespace yl::tiff {
namespace {

constexpr std::size_t max_pages = 65536;

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

/// Red, green and blue of each index, in 8 bits where that loses nothing.
struct Palette {
    std::vector<std::uint16_t> codes = {};
    bool is_wide = false;
};

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

std::optional<Orientation> orientation_of(const Directory& directory) {
    const auto number = directory.number(Tag::orientation, 1);
    if (!number || *number < 1 || *number > 8)
        return {};
    return static_cast<Orientation>(*number);
}

PictureStart start_of(const Page& page, bool has_wide_palette) {
    const Target target = page.target();
    PictureStart start{.width = page.width, .height = page.height};
    start.channels = page.picture_channels();
    start.is_float = target == Target::half || target == Target::single;
    start.bits = target == Target::byte ? 8 : target == Target::single ? 32 : 16;
    if (page.photometric == Photometric::palette)
        start.bits = has_wide_palette ? 16 : 8;
    return start;
}

class PageReader {
 public:
    PageReader(const Directory& directory, const ReadOptions& options)
        : directory_(directory), options_(options) {}

    Result<Picture> run() {
        YL_TRY(page_, Page::of(directory_));
        YL_TRY(Palette palette, palette_of(directory_, page_));
        YL_CHECK(check_size(page_.width, page_.height, options_.limits));
        YL_CHECK(check_claims());
        YL_TRY(Picture picture, start_picture(start_of(page_, palette.is_wide), options_));
        describe(picture);
        YL_CHECK(read_tiles(picture, std::move(palette.codes)));
        YL_CHECK(turn_upright(picture, orientation_of(directory_), options_));
        return picture;
    }

 private:
    [[nodiscard]] bool is_needed(std::size_t tile) const {
        const auto plane = static_cast<std::uint32_t>(tile / page_.tile_count());
        return !page_.is_planar || std::ranges::find(page_.kept, plane) != page_.kept.end();
    }

    [[nodiscard]] ByteSpan packed(std::size_t tile) const {
        const ByteSpan bytes = directory_.file().bytes();
        const std::uint64_t offset = page_.offsets[tile];
        if (offset > bytes.size())
            return {};
        const std::uint64_t count =
            std::min<std::uint64_t>(page_.byte_counts[tile], bytes.size() - offset);
        return bytes.subspan(static_cast<std::size_t>(offset), static_cast<std::size_t>(count));
    }

    /// Nothing is allocated for pixels that the file cannot hold.
    [[nodiscard]] Status check_claims() const {
        const std::uint64_t growth = max_growth(page_.compression);
        for (std::size_t tile = 0; tile < tiles(); ++tile) {
            const std::uint64_t wanted = page_.unpacked_bytes(tile);
            if (is_needed(tile) &&
                (wanted > options_.limits.max_bytes || wanted / growth > packed(tile).size()))
                return fail(ErrorKind::malformed,
                            fmt::format("strip or tile {} ends early: {} bytes cannot hold {}",
                                        tile, packed(tile).size(), wanted),
                            page_.offsets[tile]);
        }
        return {};
    }

    [[nodiscard]] std::size_t tiles() const {
        return page_.tile_count() * (page_.is_planar ? page_.channels : 1);
    }

    void describe(Picture& picture) const {
        PictureInfo& info = picture.info;
        info.file_channels = page_.picture_channels();
        info.file_bits = page_.bits;
        info.has_palette = page_.photometric == Photometric::palette;
        info.remarks.insert(info.remarks.end(), page_.remarks.begin(), page_.remarks.end());
        if (page_.kept.size() % 2 == 0 && page_.photometric != Photometric::cmyk)
            picture.alpha = page_.alpha;
        if (page_.photometric == Photometric::cmyk)
            info.remarks.emplace_back("its inks were turned into RGB without a profile");
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
        const ByteSpan profile = directory_.raw(Tag::color_profile);
        if (!profile.empty() && !yl::info(picture.image.format()).is_float()) {
            std::vector<std::byte> copy(profile.begin(), profile.end());
            std::string name = profile_description(copy);
            take_profile(info, std::move(name), std::move(copy));
            settle_transfer(picture, options_);
        }
    }

    /// Weights of red, green and blue in brightness; those of BT.601 where nothing sound is said.
    [[nodiscard]] std::array<double, 3> luma() const {
        const auto said = directory_.fractions(Tag::ycbcr_coefficients, 3);
        if (said.size() == 3 && said[0] > 0 && said[1] > 0 && said[2] > 0 && said[0] < 1 &&
            said[1] < 1 && said[2] < 1)
            return {said[0], said[1], said[2]};
        return {0.299, 0.587, 0.114};
    }

    Status read_tiles(Picture& picture, std::vector<std::uint16_t> palette) {
        Image ink;
        ImageView target = picture.image.view();
        if (page_.photometric == Photometric::cmyk) {
            const FormatInfo& f = info(picture.image.format());
            YL_TRY(ink, Image::create(plain_format({4, f.channels[0].bits, false}), page_.width,
                                      page_.height, options_.limits));
            target = ink.view();
        }
        const SampleReader reader(page_, directory_.file().is_big_endian(), target,
                                  std::move(palette), luma());
        ProgressCounter progress(options_.progress, Phase::reading, tiles());
        YL_CHECK(progress.status());
        std::mutex mutex;
        std::optional<std::pair<std::size_t, Error>> first;
        parallel_each(tiles(), [&](std::size_t tile) {
            if (progress.cancelled())
                return;
            const Status status = is_needed(tile) ? read_tile(reader, tile) : Status{};
            if (!status) {
                const std::lock_guard lock(mutex);
                if (!first || tile < first->first)
                    first.emplace(tile, status.error());
            }
            progress.add(1);
        });
        YL_CHECK(progress.status());
        if (first)
            return fail(first->second.kind,
                        fmt::format("strip or tile {}: {}", first->first, first->second.message),
                        page_.offsets[first->first]);
        if (page_.photometric == Photometric::cmyk)
            ink_to_light(std::as_const(ink).view(), picture.image.view());
        return {};
    }

    [[nodiscard]] Status read_tile(const SampleReader& reader, std::size_t tile) const {
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

    [[nodiscard]] Status unpack_tile(std::size_t tile, std::span<std::byte> target) const {
        const ByteSpan stored = packed(tile);
        if (!page_.reverses_bits)
            return unpack(page_.compression, stored, target);
        std::vector<std::byte> turned(stored.begin(), stored.end());
        std::ranges::transform(turned, turned.begin(), reversed);
        return unpack(page_.compression, turned, target);
    }

    const Directory& directory_;
    const ReadOptions& options_;
    Page page_ = {};
};

/// Pages in their order, previews and masks left out unless there is nothing else.
Result<std::vector<Directory>> pages_of(const File& file) {
    constexpr std::uint64_t preview = 1, mask = 4;
    std::vector<Directory> pages, others;
    std::set<std::uint64_t> seen;
    for (std::uint64_t at = file.first_directory(); at != 0 && seen.insert(at).second;) {
        auto directory = Directory::read(file, at);
        if (!directory && pages.empty() && others.empty())
            return tl::unexpected(directory.error());
        if (!directory || seen.size() > max_pages)
            break;
        const auto kind = directory->number(Tag::subfile_type, 0);
        const bool is_other = kind && (*kind & (preview | mask)) != 0;
        (is_other ? others : pages).push_back(*directory);
        at = directory->next();
    }
    return pages.empty() ? others : pages;
}

}  // namespace

bool recognise(ByteSpan bytes) {
    const std::string_view start = as_text(bytes).substr(0, 4);
    using namespace std::string_view_literals;
    return start == "II\x2A\0"sv || start == "MM\0\x2A"sv || start == "II\x2B\0"sv ||
           start == "MM\0\x2B"sv;
}

Result<PictureHeader> peek(ByteSpan bytes) {
    YL_TRY(const File file, File::open(bytes));
    YL_TRY(const auto pages, pages_of(file));
    if (pages.empty())
        return fail(ErrorKind::malformed, "the file has no page");
    YL_TRY(const Page page, Page::of(pages[0]));
    YL_TRY(const Palette palette, palette_of(pages[0], page));
    YL_TRY(PictureHeader header,
           header_of(start_of(page, palette.is_wide), orientation_of(pages[0])));
    header.frames = static_cast<std::uint32_t>(pages.size());
    return header;
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const File file, File::open(bytes));
    YL_TRY(const auto pages, pages_of(file));
    if (pages.empty())
        return fail(ErrorKind::malformed, "the file has no page");
    YL_TRY(Picture picture, PageReader(pages[0], options).run());
    if (pages.size() > 1)
        picture.info.remarks.push_back(
            fmt::format("this is the first of its {} pages", pages.size()));
    return picture;
}

Result<PictureFrames> read_pages(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const File file, File::open(bytes));
    YL_TRY(const auto pages, pages_of(file));
    if (pages.empty())
        return fail(ErrorKind::malformed, "the file has no page");
    PictureFrames frames;
    std::uint64_t total = 0;
    for (const Directory& page : pages) {
        YL_TRY(Picture picture, PageReader(page, options).run());
        total += picture.image.view().row(0).size() * std::uint64_t{picture.image.height()};
        if (total > options.limits.max_bytes)
            return fail(ErrorKind::limit, fmt::format("its {} pages take more than {} bytes",
                                                      pages.size(), options.limits.max_bytes));
        frames.pictures.push_back(std::move(picture));
    }
    return frames;
}

}  // namespace yl::tiff

namespace yl {

PictureFormat tiff_format() {
    return {
        .name = "TIFF",
        .endings = {"tif", "tiff"},
        .recognise = tiff::recognise,
        .read = tiff::read,
        .peek = tiff::peek,
        .write = tiff::write,
        .held = {.channels = "1234", .bytes = true, .words = true, .halves = true, .singles = true},
        .read_frames = tiff::read_pages};
}

}  // namespace yl
