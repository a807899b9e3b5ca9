#include <yl/codec.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <mutex>

#include "base/attempt.hpp"
#include "base/file.hpp"
#include "base/parallel.hpp"
#include "codec/picture_format.hpp"
#include "pixel/channels.hpp"

namespace yl {
namespace {

const std::vector<PictureFormat>& picture_formats() {
    static const std::vector<PictureFormat> formats = {
        png_format(), jpeg_format(), bmp_format(), qoi_format(), ppm_format(), pgm_format(),
        pbm_format(), pam_format(),  pfm_format(), hdr_format(), exr_format(),
        tga_format(),  // has no signature and comes last
    };
    return formats;
}

const PictureFormat* find_by_content(ByteSpan bytes) {
    const auto found = std::find_if(picture_formats().begin(), picture_formats().end(),
                                    [&](const auto& format) { return format.recognise(bytes); });
    return found != picture_formats().end() ? &*found : nullptr;
}

const PictureFormat* find_by_ending(std::string ending) {
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char letter) { return static_cast<char>(std::tolower(letter)); });
    for (const PictureFormat& format : picture_formats())
        if (std::find(format.endings.begin(), format.endings.end(), ending) != format.endings.end())
            return &format;
    return nullptr;
}

std::string ending_of(const std::filesystem::path& path) {
    const std::string ending = path.extension().string();
    return ending.empty() ? ending : ending.substr(1);
}

std::string known_endings() {
    std::string text;
    for (const PictureFormat& format : picture_formats())
        for (const std::string_view ending : format.endings)
            text += fmt::format("{}.{}", text.empty() ? "" : ", ", ending);
    return text;
}

}  // namespace

void settle_transfer(Picture& picture, Role role) {
    const bool can_be_srgb = info(role).transfer == Transfer::srgb;
    if (!can_be_srgb) {
        picture.transfer = Transfer::linear;
        picture.info.transfer_reason = fmt::format("the role {} is no colour", info(role).name);
    } else if (picture.info.declared_transfer) {
        picture.transfer = *picture.info.declared_transfer;
        picture.info.transfer_reason = "the file says so";
    } else {
        picture.transfer = Transfer::srgb;
        picture.info.transfer_reason = "the file does not say; colour without a tag is sRGB";
    }
}

Format integer_format(std::uint32_t channels, std::uint32_t bits, Transfer transfer) {
    static constexpr Format unorm8[] = {Format::r8_unorm, Format::rg8_unorm, Format::rgb8_unorm,
                                        Format::rgba8_unorm};
    static constexpr Format unorm16[] = {Format::r16_unorm, Format::rg16_unorm, Format::rgb16_unorm,
                                         Format::rgba16_unorm};
    if (bits == 16)
        return unorm16[channels - 1];
    // The GPU would decode both channels of rg8-srgb, but the second is alpha.
    if (channels == 2)
        return Format::rg8_unorm;
    return with_transfer(unorm8[channels - 1], transfer).value_or(unorm8[channels - 1]);
}

Status turn_upright(Picture& picture, std::optional<Turn> turn, const ReadOptions& options) {
    if (!turn || *turn == Turn::none)
        return {};
    const std::string asked = fmt::format("EXIF asks for the picture to be turned {}", name(*turn));
    if (options.apply_orientation) {
        YL_TRY(picture.image, turned(std::as_const(picture.image).view(), *turn));
        picture.info.applied_turn = *turn;
    }
    picture.info.remarks.push_back(
        asked + (options.apply_orientation ? ", which was done" : "; it was not"));
    return {};
}

std::optional<PlainChannels> plain_channels(Format format) {
    const FormatInfo& f = info(format);
    const bool number = f.kind == NumericKind::unorm || f.kind == NumericKind::signed_float;
    if (!number || f.channel_count == 0 || f.type_size * f.channel_count != f.block_bytes ||
        f.channels[0].channel != Channel::red)
        return {};
    return PlainChannels{f.channel_count, f.channels[0].bits, f.is_float()};
}

Result<Picture> start_picture(const PictureStart& start, const ReadOptions& options) {
    if (start.width == 0 || start.height == 0)
        return fail(ErrorKind::malformed,
                    fmt::format("the header gives a size of {} x {}", start.width, start.height));
    if (std::max(start.width, start.height) > options.limits.greatest_side)
        return fail(ErrorKind::limit,
                    fmt::format("{} x {} pixels exceed the limit of {} for a side", start.width,
                                start.height, options.limits.greatest_side));
    Picture picture;
    picture.info.file_channels = start.channels;
    picture.info.file_bits = start.bits;
    picture.info.declared_transfer = start.declared_transfer;
    picture.swizzle = channel_swizzle(start.channels);
    Format format = Format::undefined;
    if (start.is_float) {
        static constexpr Format halves[] = {Format::r16_float, Format::rg16_float,
                                            Format::rgb16_float, Format::rgba16_float};
        static constexpr Format singles[] = {Format::r32_float, Format::rg32_float,
                                             Format::rgb32_float, Format::rgba32_float};
        format = (start.bits == 16 ? halves : singles)[start.channels - 1];
        picture.transfer = Transfer::linear;
        picture.info.transfer_reason = "floating point is linear";
    } else {
        settle_transfer(picture, options.role);
        format = integer_format(start.channels, start.bits, picture.transfer);
    }
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

Swizzle channel_swizzle(std::uint32_t channels) {
    return channels == 1 ? gray_swizzle : channels == 2 ? gray_alpha_swizzle : identity_swizzle;
}

Result<Picture> read_picture(ByteSpan bytes, const ReadOptions& options) {
    if (bytes.empty())
        return fail(ErrorKind::malformed, "the file is empty");
    for (const PictureReader& reader : options.further_readers) {
        if (!reader.recognise(bytes))
            continue;
        YL_TRY(Picture picture, reader.read(bytes, options));
        picture.info.file_format = reader.name;
        return picture;
    }
    const PictureFormat* format = find_by_content(bytes);
    if (format == nullptr)
        return fail(
            ErrorKind::unsupported,
            fmt::format("this is no picture that can be read (known: {})", known_endings()));
    YL_TRY(Picture picture, format->read(bytes, options));
    picture.info.file_format = format->name;
    if (options.widen_to_rgba && info(picture.image.format()).channel_count < 4) {
        YL_CHECK(widen_to_rgba(picture.image, picture.transfer));
        picture.swizzle = identity_swizzle;
    }
    return picture;
}

Result<Picture> read_picture(const std::filesystem::path& path, const ReadOptions& options) {
    YL_TRY(const MappedFile file, MappedFile::open(path));
    auto picture = read_picture(file.bytes(), options);
    if (!picture)
        return fail_at(picture.error(), path.string());
    const PictureFormat* named = find_by_ending(ending_of(path));
    if (named != nullptr && named->name != picture->info.file_format)
        picture->info.remarks.push_back(fmt::format("the file's name says {}, but it holds {}",
                                                    named->name, picture->info.file_format));
    return picture;
}

void read_pictures(std::span<const std::filesystem::path> paths, const PictureHandler& handler,
                   const ReadOptions& options) {
    std::mutex one_at_a_time;
    parallel_each(paths.size(), [&](std::size_t index) {
        auto picture = read_picture(paths[index], options);
        const std::lock_guard lock(one_at_a_time);
        handler(index, std::move(picture));
    });
}

Result<std::vector<std::byte>> encode_picture(std::string_view file_format, ConstImageView image,
                                              const WriteOptions& options) {
    const PictureFormat* format = find_by_ending(std::string(file_format));
    if (format == nullptr)
        return fail(ErrorKind::usage,
                    fmt::format("no picture format has the ending '.{}' (known: {})", file_format,
                                known_endings()));
    if (format->write == nullptr)
        return fail(ErrorKind::usage,
                    fmt::format("{} files are read, but not written", format->name));
    return format->write(image, options);
}

Status write_picture(const std::filesystem::path& path, ConstImageView image,
                     const WriteOptions& options) {
    const auto bytes = encode_picture(ending_of(path), image, options);
    if (!bytes)
        return fail_at(bytes.error(), path.string());
    return write_file(path, *bytes);
}

bool looks_like_picture(ByteSpan bytes) {
    return find_by_content(bytes) != nullptr;
}

}  // namespace yl
