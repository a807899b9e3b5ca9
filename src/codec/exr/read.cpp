// Reading OpenEXR: scan lines and tiles, of one part or of several.
#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cstring>

#include <yl/format.hpp>
#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/progress.hpp"
#include "base/text.hpp"
#include "codec/color_conversion.hpp"
#include "codec/exr/chunk.hpp"
#include "codec/exr/exr.hpp"
#include "codec/exr/header.hpp"
#include "codec/exr/planes.hpp"

namespace yl::exr {
namespace {

float sample_at(const std::byte* bytes, SampleType type) {
    switch (type) {
        case SampleType::half:
            return half_to_float(load<std::uint16_t>(bytes));
        case SampleType::single:
            return std::bit_cast<float>(load<std::uint32_t>(bytes));
        case SampleType::uint:
            return static_cast<float>(load<std::uint32_t>(bytes));
    }
    return 0;
}

class Reader {
 public:
    Reader(ByteSpan file, const ReadOptions& options)
        : file_(file), reader_(file), options_(options) {}

    /// The header, and the part that is asked for.
    Result<std::size_t> open_header() {
        YL_TRY(file_header_, read_header(reader_));
        YL_TRY(const std::size_t part, choose_part());
        whole_ = h_ = file_header_.parts[part];
        YL_CHECK(check_part(h_));
        planes_ = choose_planes(h_);
        return part;
    }

    /// The list of its chunks as well.
    Status open() {
        YL_TRY(const std::size_t part, open_header());
        for (std::size_t before = 0; before < part; ++before) {
            const Header& other = file_header_.parts[before];
            if (other.is_tiled && (other.tile_width == 0 || other.tile_height == 0))
                return fail(ErrorKind::malformed, "a part has tiles of no size");
            if (other.total_chunks() > reader_.left() / 8)
                return fail(ErrorKind::malformed, "the file ends within its list of chunks",
                            reader_.offset());
            YL_CHECK(reader_.skip(8 * other.total_chunks()));
        }
        first_offset_ = reader_.offset();
        return {};
    }

    Result<PictureHeader> peek() {
        YL_CHECK(open_header());
        return header_of(beginning());
    }

    [[nodiscard]] std::uint32_t level_count() const { return whole_.level_count(); }

    Result<Picture> read(std::uint32_t level) {
        h_ = whole_;
        level_ = level;
        if (level > 0) {
            h_.data.x1 = static_cast<std::int32_t>(h_.data.x0 +
                                                   h_.level_side(whole_.data.width(), level) - 1);
            h_.data.y1 = static_cast<std::int32_t>(h_.data.y0 +
                                                   h_.level_side(whole_.data.height(), level) - 1);
            h_.display = h_.data;
        }
        reader_ = ByteReader(file_);
        YL_CHECK(reader_.seek(first_offset_));
        if (std::max(h_.data.width(), h_.data.height()) > options_.limits.max_side)
            return fail(
                ErrorKind::limit,
                fmt::format("a data window of {} x {} pixels exceeds the limit of {} for a side",
                            h_.data.width(), h_.data.height(), options_.limits.max_side));
        YL_TRY(Picture picture, start());
        // A chunk has an offset, a place and a size; so many have to be there before memory is
        // taken.
        const std::uint64_t chunks = chunk_count();
        if (!CheckedSize(chunks * 16).fits(reader_.left()))
            return fail(ErrorKind::malformed,
                        fmt::format("the file ends early: {} bytes are too few for {} chunks",
                                    reader_.left(), chunks),
                        reader_.offset());
        YL_CHECK(reader_.skip(8 * (h_.is_tiled ? whole_.chunks_before_level(level) : 0)));
        view_ = picture.image.view();
        is_direct_ = !has_chroma(planes_) &&
                     std::none_of(planes_.begin(), planes_.end(), [&](const auto& e) {
                         const Channel& channel = h_.channels[e.second.channel];
                         return channel.step_x != 1 || channel.step_y != 1;
                     });
        if (is_direct_) {
            clear();
            YL_CHECK(read_chunks(chunks));
            YL_CHECK(settle_colors(picture));
            return picture;
        }
        for (auto& [target, plane] : planes_) {
            const Channel& channel = h_.channels[plane.channel];
            plane.columns = sample_count(channel.step_x, h_.data.x0, h_.data.x1);
            plane.rows = sample_count(channel.step_y, h_.data.y0, h_.data.y1);
            if (plane.columns <= 0 || plane.rows <= 0)
                return fail(ErrorKind::malformed,
                            fmt::format("the data window has no sample of channel {}",
                                        printable(channel.name)));
            plane.samples.resize(static_cast<std::size_t>(plane.columns * plane.rows));
        }
        YL_CHECK(read_chunks(chunks));
        fill(planes_, h_, picture.image.view());
        YL_CHECK(settle_colors(picture));
        return picture;
    }

 private:
    /// Other primaries than those of sRGB, as those of film.
    Status settle_colors(Picture& picture) const {
        StatedColors stated{.curve = StatedColors::Curve::gamma, .gamma = 1};
        const auto& c = h_.chromaticities;  // white comes last
        stated.chromaticities = {c[6], c[7], c[0], c[1], c[2], c[3], c[4], c[5]};
        const bool is_color = info(options_.role).transfer == Transfer::srgb && !is_gray(planes_);
        if (!is_color || has_srgb_primaries(stated.chromaticities))
            return {};
        const std::string said = "the primaries of attribute chromaticities";
        picture.info.unapplied = said;
        return settle_stated(picture, stated, said, options_);
    }

    [[nodiscard]] bool is_all_half() const {
        return std::all_of(planes_.begin(), planes_.end(), [&](const auto& entry) {
            return h_.channels[entry.second.channel].type == SampleType::half;
        });
    }

    [[nodiscard]] PictureStart beginning() const {
        PictureStart begin;
        begin.width = static_cast<std::uint64_t>(h_.display.width());
        begin.height = static_cast<std::uint64_t>(h_.display.height());
        begin.channels = (is_gray(planes_) ? 1U : 3U) + (has_alpha(planes_) ? 1U : 0U);
        begin.bits = is_all_half() ? 16 : 32;
        begin.is_float = true;
        return begin;
    }

    Result<Picture> start() {
        YL_TRY(Picture picture, start_picture(beginning(), options_));
        if (has_alpha(planes_))
            picture.alpha = AlphaMode::premultiplied;
        picture.info.file_channels = static_cast<std::uint32_t>(h_.channels.size());
        if (h_.compression == Compression::pxr24 && !is_all_half())
            picture.info.remarks.emplace_back(
                "PXR24 has kept 24 bits of each number in single precision");
        if (file_header_.parts.size() > 1)
            picture.info.remarks.push_back(fmt::format("part '{}' was read; the file has {}",
                                                       printable(h_.name), part_names()));
        if (h_.channels.size() > planes_.size())
            picture.info.remarks.push_back(fmt::format("{} of the file's {} channels were read",
                                                       planes_.size(), h_.channels.size()));
        if (h_.data.x0 != h_.display.x0 || h_.data.y0 != h_.display.y0 ||
            h_.data.x1 != h_.display.x1 || h_.data.y1 != h_.display.y1)
            picture.info.remarks.push_back(
                fmt::format("the data window ({}, {}) to ({}, {}) was laid into the display window "
                            "({}, {}) to ({}, {})",
                            h_.data.x0, h_.data.y0, h_.data.x1, h_.data.y1, h_.display.x0,
                            h_.display.y0, h_.display.x1, h_.display.y1));
        return picture;
    }

    /// Of this level.
    [[nodiscard]] std::uint64_t chunk_count() const {
        return h_.is_tiled
                   ? whole_.tiles_across(level_) * whole_.tiles_down(level_)
                   : ceil_div(static_cast<std::uint64_t>(h_.data.height()), h_.chunk_rows());
    }

    /// The index of the part that is asked for, or of the first that holds pixels.
    Result<std::size_t> choose_part() const {
        const auto& parts = file_header_.parts;
        const auto known = std::ranges::find_if(parts, [&](const Header& part) {
            return options_.part.empty() ? !part.type.starts_with("deep")
                                         : part.name == options_.part;
        });
        if (known != parts.end())
            return static_cast<std::size_t>(known - parts.begin());
        if (options_.part.empty())
            return fail(ErrorKind::unsupported, "all parts are deep, which is not handled");
        const std::string wanted = printable(options_.part);
        if (!file_header_.has_parts)
            return fail(ErrorKind::usage,
                        fmt::format("the file has no parts, and '{}' was asked for", wanted));
        return fail(ErrorKind::usage,
                    fmt::format("there is no part '{}'; the file has {}", wanted, part_names()));
    }

    [[nodiscard]] std::string part_names() const {
        std::string names;
        for (const Header& part : file_header_.parts)
            names += fmt::format("{}'{}'", names.empty() ? "" : ", ", printable(part.name));
        return names;
    }

    Status read_chunks(std::uint64_t count) {
        ProgressCounter progress(options_.progress, Phase::reading, count);
        for (std::uint64_t i = 0; i < count && !progress.cancelled(); ++i) {
            YL_TRY(const auto offset, reader_.read<std::uint64_t>());
            ByteReader chunk(file_);
            auto status = chunk.seek(offset);
            if (status)
                status = read_chunk(chunk);
            if (!status) {
                if (!status.error().offset)
                    status.error().offset = offset;
                return status;
            }
            progress.add(1);
        }
        return progress.status();
    }

    Result<Area> read_place(ByteReader& chunk) {
        const auto read_signed = [&]() -> Result<std::int64_t> {
            YL_TRY(const auto number, chunk.read<std::uint32_t>());
            return std::int64_t{std::bit_cast<std::int32_t>(number)};
        };
        Area area{h_.data.x0, h_.data.y0, h_.data.x1, h_.data.y1};
        if (h_.is_tiled) {
            YL_TRY(const auto tile_x, read_signed());
            YL_TRY(const auto tile_y, read_signed());
            YL_TRY(const auto level_x, read_signed());
            YL_TRY(const auto level_y, read_signed());
            if (tile_x < 0 || tile_y < 0 || level_x != level_ || level_y != level_)
                return fail(ErrorKind::malformed, "a tile is not where its offset says");
            area.x0 += tile_x * h_.tile_width;
            area.y0 += tile_y * h_.tile_height;
            area.x1 = std::min(area.x1, area.x0 + h_.tile_width - 1);
            area.y1 = std::min(area.y1, area.y0 + h_.tile_height - 1);
        } else {
            YL_TRY(area.y0, read_signed());
            area.y1 = std::min<std::int64_t>(area.y1, area.y0 + h_.chunk_rows() - 1);
        }
        if (area.x0 > h_.data.x1 || area.y0 > h_.data.y1 || area.y0 < h_.data.y0)
            return fail(ErrorKind::malformed, "a chunk lies outside the data window");
        return area;
    }

    Status read_chunk(ByteReader& chunk) {
        if (file_header_.has_parts)
            YL_CHECK(chunk.skip(4));  // the number of the part
        YL_TRY(const Area area, read_place(chunk));
        YL_TRY(const auto packed_size, chunk.read<std::uint32_t>());
        YL_TRY(const ByteSpan packed, chunk.take(packed_size));
        YL_TRY(const auto rows, unpack_chunk(packed, h_, area));
        const std::byte* next = rows.data();
        for (std::int64_t y = area.y0; y <= area.y1; ++y)
            for (std::size_t i = 0; i < h_.channels.size(); ++i) {
                const Channel& c = h_.channels[i];
                if (sample_count(c.step_y, y, y) == 0)
                    continue;
                take_row(i, area, y, next);
                next += area.columns(c) * c.sample_bytes();
            }
        return {};
    }

    void take_row(std::size_t channel, const Area& area, std::int64_t y, const std::byte* bytes) {
        const Channel& c = h_.channels[channel];
        for (auto& [target, plane] : planes_) {
            if (plane.channel != channel)
                continue;
            if (is_direct_) {
                place_row(target, c, area, y, bytes);
                continue;
            }
            const std::int64_t row = sample_count(c.step_y, h_.data.y0, y) - 1;
            const std::int64_t first = sample_count(c.step_x, h_.data.x0, area.x0 - 1);
            float* samples = plane.samples.data() + row * plane.columns + first;
            for (std::size_t x = 0; x < area.columns(c); ++x)
                samples[x] = sample_at(bytes + x * c.sample_bytes(), c.type);
        }
    }

    /// Pixels that no chunk reaches are 0.
    void clear() const {
        for (std::uint32_t y = 0; y < view_.height; ++y)
            std::fill(view_.row(y).begin(), view_.row(y).end(), std::byte{0});
    }

    /// A row of samples into its channel of the picture, as far as it lies in the display window.
    void place_row(Target target, const Channel& c, const Area& area, std::int64_t y,
                   const std::byte* bytes) const {
        const std::int64_t first = std::max<std::int64_t>(area.x0, h_.display.x0);
        const std::int64_t last = std::min<std::int64_t>(area.x1, h_.display.x1);
        if (y < h_.display.y0 || y > h_.display.y1 || first > last)
            return;
        const FormatInfo& f = info(view_.format);
        const std::size_t place = target == Target::alpha   ? f.channel_count - 1U
                                  : target == Target::blue  ? 2
                                  : target == Target::green ? 1
                                                            : 0;
        const std::byte* sample =
            bytes + static_cast<std::size_t>(first - area.x0) * c.sample_bytes();
        std::byte* out = view_.row(static_cast<std::uint32_t>(y - h_.display.y0)).data() +
                         static_cast<std::size_t>(first - h_.display.x0) * f.block_bytes +
                         place * f.type_size;
        const auto count = static_cast<std::size_t>(last - first + 1);
        if (f.type_size == 2) {  // then so are the samples
            for (std::size_t x = 0; x < count; ++x)
                std::copy_n(sample + x * 2, 2, out + x * f.block_bytes);
            return;
        }
        for (std::size_t x = 0; x < count; ++x)
            store(out + x * f.block_bytes,
                  std::bit_cast<std::uint32_t>(sample_at(sample + x * c.sample_bytes(), c.type)));
    }

    ByteSpan file_;
    ByteReader reader_;
    const ReadOptions& options_;
    FileHeader file_header_;
    Header whole_;  ///< the part
    Header h_;      ///< with the windows of the level that is read
    std::uint32_t level_ = 0;
    std::size_t first_offset_ = 0;  ///< of the part's list of chunks
    Planes planes_;
    ImageView view_;
    bool is_direct_ = false;  ///< every channel has a sample for every pixel of the picture
};

bool recognise(ByteSpan bytes) {
    return bytes.size() >= 8 && load<std::uint32_t>(bytes.data()) == magic;
}

Result<PictureHeader> peek(ByteSpan bytes) {
    const ReadOptions options;
    return Reader(bytes, options).peek();
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    Reader reader(bytes, options);
    YL_CHECK(reader.open());
    return reader.read(0);
}

Result<std::vector<Picture>> read_levels(ByteSpan bytes, const ReadOptions& options) {
    Reader reader(bytes, options);
    YL_CHECK(reader.open());
    std::vector<Picture> levels;
    std::uint64_t total = 0;
    for (std::uint32_t level = 0; level < reader.level_count(); ++level) {
        YL_TRY(levels.emplace_back(), reader.read(level));
        const Image& image = levels.back().image;
        total += std::uint64_t{image.row_stride()} * image.height();
        if (total > options.limits.max_bytes)
            return fail(ErrorKind::limit,
                        fmt::format("its {} levels take more than {} bytes", reader.level_count(),
                                    options.limits.max_bytes));
    }
    return levels;
}

}  // namespace
}  // namespace yl::exr

namespace yl {

PictureFormat exr_format() {
    return {.name = "OpenEXR",
            .endings = {"exr"},
            .recognise = exr::recognise,
            .read = exr::read,
            .peek = exr::peek,
            .write = exr::write,
            .held = {.channels = "134", .halves = true},
            .read_levels = exr::read_levels,
            .has_parts = true};
}

}  // namespace yl
