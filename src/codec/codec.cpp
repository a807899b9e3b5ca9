#include <yl/picture.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include <yl/convert.hpp>

#include <yl/status_macros.hpp>
#include "base/file.hpp"
#include "base/files.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "base/text.hpp"
#include "codec/color_conversion.hpp"
#include "codec/formats.hpp"
#include "pixel/channels.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

const std::vector<PictureFormat>& picture_formats() {
    static const std::vector<PictureFormat> formats = {
        png_format(), jpeg_format(), bmp_format(), qoi_format(),  ppm_format(),
        pgm_format(), pbm_format(),  pam_format(), pfm_format(),  hdr_format(),
        exr_format(), tiff_format(), gif_format(), webp_format(), psd_format(),
        tga_format(),  // has no signature and comes last
    };
    return formats;
}

const PictureFormat* find_by_ending(const std::string& given) {
    const std::string ending = lower_case(given);
    for (const PictureFormat& format : picture_formats())
        if (std::find(format.endings.begin(), format.endings.end(), ending) != format.endings.end())
            return &format;
    return nullptr;
}

std::string known_endings(bool written = false) {
    std::string text;
    for (const PictureFormat& format : picture_formats()) {
        if (written && format.write == nullptr)
            continue;
        for (const std::string_view ending : format.endings)
            text += fmt::format("{}.{}", text.empty() ? "" : ", ", ending);
    }
    return text;
}

/// What begins like a file of another kind is called by its name.
std::string problem_of_unknown(ByteSpan bytes) {
    static constexpr std::pair<std::string_view, std::string_view> others[] = {
        {"\xABKTX ", "a KTX texture file: read it with read_texture"},
        {"DDS ", "a DDS texture file: read it with read_texture"},
        {"glTF", "a model: read it with read_model"},
        {"PK\x03\x04", "a ZIP archive: name a file in it"},
    };
    for (const auto& [start, what] : others)
        if (as_text(bytes).starts_with(start))
            return fmt::format("this is not a picture, but {}", what);
    return fmt::format("this is not a picture that can be read (known: {})", known_endings());
}

}  // namespace

const PictureFormat* find_picture_format(ByteSpan bytes) {
    const auto found = std::find_if(picture_formats().begin(), picture_formats().end(),
                                    [&](const auto& format) { return format.recognise(bytes); });
    return found != picture_formats().end() ? &*found : nullptr;
}

void remark_on_name(const std::filesystem::path& path, PictureInfo& info) {
    const PictureFormat* named = find_by_ending(ending_of(path));
    if (named != nullptr && named->name != info.file_format)
        info.remarks.push_back(
            fmt::format("the file's name says {}, but it holds {}", named->name, info.file_format));
}

void settle_transfer(Picture& picture, const ReadOptions& options) {
    const Role role = options.role;
    const bool can_be_srgb = info(role).transfer == Transfer::srgb;
    picture.info.leaves_transfer_open = false;
    if (options.transfer) {
        picture.transfer = *options.transfer;
        picture.info.transfer_reason = "as asked";
    } else if (!can_be_srgb) {
        picture.transfer = Transfer::linear;
        picture.info.transfer_reason = fmt::format("the role {} is not a colour", info(role).name);
    } else if (!picture.info.unapplied.empty()) {
        picture.transfer = picture.info.declared_transfer.value_or(Transfer::srgb);
        picture.info.transfer_reason =
            fmt::format("{} was not applied: colours are taken as {}", picture.info.unapplied,
                        picture.transfer == Transfer::srgb ? "sRGB" : "linear");
    } else if (picture.info.declared_transfer) {
        picture.transfer = *picture.info.declared_transfer;
        picture.info.transfer_reason = "the file says so";
    } else {
        picture.transfer = Transfer::srgb;
        picture.info.transfer_reason = "the file does not say; colour without a tag is sRGB";
        picture.info.leaves_transfer_open = true;
    }
}

Status turn_upright(Picture& picture, std::optional<Orientation> orientation,
                    const ReadOptions& options) {
    if (!orientation || *orientation == Orientation::none)
        return {};
    const std::string asked =
        fmt::format("EXIF asks for the picture to be turned {}", name(*orientation));
    if (options.apply_orientation) {
        YL_TRY(picture.image, with_orientation(std::as_const(picture.image).view(), *orientation));
        picture.info.applied_orientation = *orientation;
    }
    picture.info.remarks.push_back(
        asked + (options.apply_orientation ? ", which was done" : "; it was not"));
    return {};
}

Result<void> check_size(std::uint64_t width, std::uint64_t height, const Limits& limits) {
    if (width == 0 || height == 0)
        return fail(ErrorKind::malformed,
                    fmt::format("the header gives a size of {} x {}", width, height));
    if (std::max(width, height) > limits.max_side)
        return fail(ErrorKind::limit,
                    fmt::format("{} x {} pixels exceed the limit of {} for a side", width, height,
                                limits.max_side));
    return {};
}

Status check_row(std::uint64_t row_bytes, const Limits& limits) {
    constexpr std::uint64_t rows = 1024;  // of all kinds that are held at a time
    if (row_bytes <= limits.max_bytes / rows)
        return {};
    return fail(ErrorKind::limit,
                fmt::format("rows of {} bytes: {} of them exceed the limit of {} bytes", row_bytes,
                            rows, limits.max_bytes));
}

Format describe_start(const PictureStart& start, const ReadOptions& options, Picture& picture) {
    picture.info.file_channels = start.channels;
    picture.info.file_bits = start.bits;
    picture.info.declared_transfer = start.declared_transfer;
    picture.swizzle = channel_swizzle(start.channels);
    if (start.is_float) {
        picture.transfer = Transfer::linear;
        picture.info.transfer_reason = "floating point is linear";
    } else {
        settle_transfer(picture, options);
    }
    return plain_format({start.channels, start.bits, start.is_float}, picture.transfer);
}

Result<Picture> start_picture(const PictureStart& start, const ReadOptions& options) {
    YL_CHECK(check_size(start.width, start.height, options.limits));
    Picture picture;
    const Format format = describe_start(start, options, picture);
    TextureShape shape{.format = format,
                       .width = static_cast<std::uint32_t>(start.width),
                       .height = static_cast<std::uint32_t>(start.height)};
    YL_CHECK(check_shape(shape, options.limits));
    std::uint64_t memory = std::max<std::uint64_t>(shape.total_bytes(), start.memory);
    if (options.widen_to_rgba) {
        shape.format = rgba_format(format, picture.transfer);
        YL_CHECK(check_shape(shape, options.limits));
        memory = std::max(memory, shape.total_bytes());
    }
    YL_TRY(Buffer pixels, Buffer::allocate(memory));
    YL_TRY(picture.image, Image::adopt(std::move(pixels), format, shape.width, shape.height));
    return picture;
}

Result<PictureHeader> header_of(const PictureStart& start, std::optional<Orientation> orientation) {
    YL_CHECK(check_size(start.width, start.height, Limits::none()));
    PictureHeader header{.width = static_cast<std::uint32_t>(start.width),
                         .height = static_cast<std::uint32_t>(start.height),
                         .channels = start.channels,
                         .bits = start.bits,
                         .is_float = start.is_float};
    if (orientation && exchanges_sides(*orientation))
        std::swap(header.width, header.height);
    return header;
}

Swizzle channel_swizzle(std::uint32_t channels) {
    return channels == 1 ? gray_swizzle : channels == 2 ? gray_alpha_swizzle : identity_swizzle;
}

namespace {

/// What is done alike whoever has read the picture.
Result<Picture> finished(Result<Picture> picture, std::string_view reader,
                         const ReadOptions& options, ProgressCounter& progress) {
    if (!picture)
        return picture;
    YL_CHECK(progress.finish());
    picture->info.file_format = reader;
    if (options.transfer == Transfer::srgb && info(picture->image.format()).is_float())
        return fail(
            ErrorKind::usage,
            "the picture is in floating point, which is linear: its transfer function cannot "
            "be sRGB");
    picture->alpha = alpha_mode(options.role, picture->alpha);
    YL_CHECK(settle_profile(*picture, options));
    if (options.widen_to_rgba && info(picture->image.format()).channel_count < 4) {
        YL_CHECK(widen_to_rgba(picture->image, picture->transfer));
        picture->swizzle = identity_swizzle;
    }
    return picture;
}

}  // namespace

namespace {

Status check_part(const PictureFormat& format, const ReadOptions& options) {
    if (options.part.empty() || format.has_parts)
        return {};
    return fail(ErrorKind::usage, fmt::format("{} has no parts, and '{}' was asked for",
                                              format.name, printable(options.part)));
}

}  // namespace

Result<Picture> read_picture(ByteSpan bytes, const ReadOptions& options) try {
    if (bytes.empty())
        return fail(ErrorKind::malformed, "the file is empty");
    ProgressCounter progress(options.progress, Phase::reading, 1);
    YL_CHECK(progress.status());
    for (const PictureReader& reader : options.further_readers)
        if (reader.recognise(bytes))
            return finished(reader.read(bytes, options), reader.name, options, progress);
    const PictureFormat* format = find_picture_format(bytes);
    if (format == nullptr)
        return fail(ErrorKind::unsupported, problem_of_unknown(bytes));
    YL_CHECK(check_part(*format, options));
    return finished(format->read(bytes, options), format->name, options, progress);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Picture> read_picture(const std::filesystem::path& path, const ReadOptions& options) try {
    const auto file = read_file(options.files, path);
    if (!file)
        return no_such_file(file.error(), path, &looks_like_picture);
    auto picture = read_picture(file->bytes(), options);
    if (!picture)
        return fail_at(picture.error(), path.string());
    remark_on_name(path, picture->info);
    return picture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::vector<Picture>> read_levels(ByteSpan bytes, const ReadOptions& options) try {
    const PictureFormat* format = find_picture_format(bytes);
    std::vector<Picture> levels;
    if (format == nullptr || format->read_levels == nullptr) {
        YL_TRY(levels.emplace_back(), read_picture(bytes, options));
        return levels;
    }
    ProgressCounter progress(options.progress, Phase::reading, 1);
    YL_CHECK(progress.status());
    YL_TRY(levels, format->read_levels(bytes, options));
    for (Picture& level : levels) {
        YL_TRY(level, finished(std::move(level), format->name, options, progress));
    }
    return levels;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::vector<Picture>> read_levels(const std::filesystem::path& path,
                                         const ReadOptions& options) try {
    const auto file = read_file(options.files, path);
    if (!file)
        return no_such_file(file.error(), path, &looks_like_picture);
    auto levels = read_levels(file->bytes(), options);
    if (!levels)
        return fail_at(levels.error(), path.string());
    remark_on_name(path, levels->front().info);
    return levels;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<PictureFrames> read_frames(ByteSpan bytes, const ReadOptions& options) try {
    const PictureFormat* format = find_picture_format(bytes);
    PictureFrames frames;
    if (format != nullptr)
        YL_CHECK(check_part(*format, options));
    if (format == nullptr || format->read_frames == nullptr) {
        YL_TRY(Picture picture, read_picture(bytes, options));
        frames.pictures.push_back(std::move(picture));
        return frames;
    }
    ProgressCounter progress(options.progress, Phase::reading, 1);
    YL_CHECK(progress.status());
    YL_TRY(frames, format->read_frames(bytes, options));
    for (Picture& picture : frames.pictures) {
        YL_TRY(picture, finished(std::move(picture), format->name, options, progress));
    }
    return frames;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<PictureFrames> read_frames(const std::filesystem::path& path,
                                  const ReadOptions& options) try {
    const auto file = read_file(options.files, path);
    if (!file)
        return no_such_file(file.error(), path, &looks_like_picture);
    auto frames = read_frames(file->bytes(), options);
    return frames ? std::move(frames) : fail_at(frames.error(), path.string());
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<PictureHeader> peek_picture(ByteSpan bytes) try {
    if (bytes.empty())
        return fail(ErrorKind::malformed, "the file is empty");
    const PictureFormat* format = find_picture_format(bytes);
    if (format == nullptr)
        return fail(ErrorKind::unsupported, problem_of_unknown(bytes));
    YL_TRY(PictureHeader header, format->peek(bytes));
    header.file_format = format->name;
    return header;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

namespace {

/// The header of a whole file that could not be read to its end; else the error of that.
Result<PictureHeader> peek_damaged(ByteSpan bytes, const Error& error) {
    const PictureFormat* format = find_picture_format(bytes);
    if (format == nullptr || format->peek_damaged == nullptr)
        return tl::unexpected(error);
    auto header = format->peek_damaged(bytes);
    if (header)
        header->file_format = format->name;
    return header;
}

}  // namespace

Result<PictureHeader> peek_picture(const std::filesystem::path& path,
                                   const std::shared_ptr<const Files>& files) try {
    // Some headers follow a large profile or preview.
    constexpr std::size_t first_bytes = std::size_t{16} << 10U, growth = 16;
    for (std::size_t size = first_bytes;; size *= growth) {
        YL_TRY(Buffer buffer, Buffer::allocate(size));
        const auto count = read_start(files, path, buffer.bytes());
        if (!count)
            return no_such_file(count.error(), path, &looks_like_picture);
        const ByteSpan bytes = buffer.bytes().first(*count);
        auto header = peek_picture(bytes);
        const bool is_whole = *count < size;
        if (!header && !is_whole && header.error().kind != ErrorKind::unsupported)
            continue;
        if (!header && is_whole)
            header = peek_damaged(bytes, header.error());
        return header ? header : fail_at(header.error(), path.string());
    }
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

void read_pictures(std::span<const std::filesystem::path> paths, const PictureHandler& handler,
                   const ReadOptions& options) {
    Mutex one_at_a_time;
    parallel_each(paths.size(), [&](std::size_t index) {
        auto picture = read_picture(paths[index], options);
        const Locked lock(one_at_a_time);
        handler(index, std::move(picture));
    });
}

namespace {

/// The least number of channels that has room for so many, or the greatest there is.
std::uint32_t held_channels(const HeldPixels& held, std::uint32_t wanted) {
    std::uint32_t best = 0;
    for (const char digit : held.channels) {
        const auto channels = static_cast<std::uint32_t>(digit - '0');
        // Gray with alpha has room in four channels, not in three.
        const bool has_room = channels >= wanted && !(wanted == 2 && channels == 3);
        if (has_room && (best < wanted || channels < best || (wanted == 2 && best == 3)))
            best = channels;
        else if (!has_room && best < wanted)
            best = std::max(best, channels);
    }
    return best;
}

Format held_format(const HeldPixels& held, const FormatInfo& from, std::uint32_t channels,
                   Transfer transfer) {
    const bool is_deep = from.channels[0].bits > 8;
    const bool floats = held.halves || held.singles;
    if (floats && (from.is_float() || !held.bytes))
        return plain_format({channels, held.halves ? 16U : 32U, true});
    return plain_format({channels, is_deep && held.words ? 16U : 8U}, transfer);
}

/// Of channels that are seen as they are stored. Files hold gray and alpha in two channels: red and
/// green need three.
std::uint32_t seen_channels(std::uint32_t stored) {
    return stored == 2 ? 3 : stored;
}

}  // namespace

Result<Picture> fitted_to(std::string_view file_format, const Picture& picture, bool dither) try {
    YL_CHECK(check_view(picture.image.view(), "picture"));
    const PictureFormat* format = find_by_ending(std::string(file_format));
    if (format == nullptr || format->write == nullptr)
        return fail(ErrorKind::usage,
                    fmt::format("'.{}' is not a picture format that is written", file_format));
    const ConstImageView image = picture.image.view();
    const bool is_spread = picture.swizzle != identity_swizzle;
    const std::uint32_t own = is_spread ? (picture.swizzle == gray_alpha_swizzle ? 2U : 1U)
                                        : seen_channels(info(image.format).channel_count);
    const std::uint32_t channels = held_channels(format->held, own);
    Picture fitted;
    fitted.info = picture.info;
    fitted.alpha = picture.alpha;
    fitted.transfer = picture.transfer;
    if (info(image.format).is_float() && format->held.bytes)
        fitted.transfer = Transfer::srgb;
    const Format target = held_format(format->held, info(image.format), channels, fitted.transfer);
    if (info(target).is_float())
        fitted.transfer = Transfer::linear;
    fitted.swizzle = channel_swizzle(channels);
    // Two channels are gray and alpha in files, red and alpha of what is seen.
    static constexpr Swizzle gray_then_alpha = {SwizzleSource::red, SwizzleSource::alpha,
                                                SwizzleSource::zero, SwizzleSource::one};
    const bool keeps_layout = is_spread && channels == own;
    const Swizzle on_the_way = keeps_layout    ? identity_swizzle
                               : channels == 2 ? gray_then_alpha
                                               : picture.swizzle;
    YL_TRY(fitted.image, convert(image, target,
                                 {.source_transfer = picture.transfer,
                                  .target_transfer = fitted.transfer,
                                  .swizzle = on_the_way,
                                  .dither = dither,
                                  .to_one_channel = ToOneChannel::luminance}));
    return fitted;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::vector<std::byte>> encode_picture(std::string_view file_format, ConstImageView image,
                                              const WriteOptions& options) try {
    YL_CHECK(check_view(image, "image"));
    const PictureFormat* format = find_by_ending(std::string(file_format));
    if (format == nullptr)
        return fail(ErrorKind::usage,
                    fmt::format("no picture format has the ending '.{}' (written are {})",
                                file_format, known_endings(true)));
    if (format->write == nullptr)
        return fail(ErrorKind::usage,
                    fmt::format("{} files are read, but not written (written are {})", format->name,
                                known_endings(true)));
    return format->write(image, options);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status write_picture(const std::filesystem::path& path, ConstImageView image,
                     const WriteOptions& options) try {
    YL_CHECK(check_view(image, "image"));
    const auto bytes = encode_picture(ending_of(path), image, options);
    if (!bytes)
        return fail_at(bytes.error(), path.string());
    return write_file(path, *bytes);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Picture> convert(const Picture& picture, Format format, bool dither) try {
    YL_CHECK(check_view(picture.image.view(), "picture"));
    const FormatInfo& f = info(format);
    const bool is_spread = picture.swizzle != identity_swizzle;
    // One and two channels of gray stay as they are stored, and are seen so again.
    const bool keeps_gray =
        is_spread && f.channel_count == info(picture.image.format()).channel_count;
    Picture converted;
    converted.info = picture.info;
    converted.alpha = picture.alpha;
    converted.transfer = f.transfer;
    YL_TRY(converted.image, convert(picture.image.view(), format,
                                    {.source_transfer = picture.transfer,
                                     .target_transfer = f.transfer,
                                     .swizzle = keeps_gray ? identity_swizzle : picture.swizzle,
                                     .dither = dither,
                                     .to_one_channel = ToOneChannel::luminance}));
    converted.swizzle = keeps_gray             ? picture.swizzle
                        : f.channel_count == 1 ? gray_swizzle
                                               : identity_swizzle;
    return converted;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Picture> read_picture_as(ByteSpan bytes, Format format, const ReadOptions& options) {
    YL_TRY(const Picture picture, read_picture(bytes, options));
    return convert(picture, format);
}

Result<Picture> read_picture_as(const std::filesystem::path& path, Format format,
                                const ReadOptions& options) try {
    YL_TRY(const Picture picture, read_picture(path, options));
    auto converted = convert(picture, format);
    if (!converted)
        return fail_at(converted.error(), path.string());
    return converted;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

namespace {

/// With what the file is to say of a whole picture.
WriteOptions options_for(const Picture& picture, WriteOptions options) {
    const PictureInfo& info = picture.info;
    options.transfer = picture.transfer;
    if (!info.unapplied.empty() && picture.transfer == Transfer::srgb) {
        options.transfer.reset();
        options.color_profile = info.color_profile;
        options.color_profile_name = info.color_profile_name;
    }
    return options;
}

}  // namespace

Status write_picture(const std::filesystem::path& path, const Picture& picture,
                     WriteOptions options) try {
    YL_CHECK(check_view(picture.image.view(), "picture"));
    return write_picture(path, picture.image.view(), options_for(picture, std::move(options)));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::vector<std::byte>> encode_picture(std::string_view file_format, const Picture& picture,
                                              WriteOptions options) try {
    YL_CHECK(check_view(picture.image.view(), "picture"));
    return encode_picture(file_format, picture.image.view(),
                          options_for(picture, std::move(options)));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

bool looks_like_picture(ByteSpan bytes) {
    return find_picture_format(bytes) != nullptr;
}

}  // namespace yl
