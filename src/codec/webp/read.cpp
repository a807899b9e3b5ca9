// Pictures and animations out of WebP files.
#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "codec/animation.hpp"
#include "codec/profile.hpp"
#include "codec/webp/alpha.hpp"
#include "codec/webp/chunks.hpp"
#include "codec/webp/lossless.hpp"
#include "codec/webp/lossy.hpp"
#include "codec/webp/webp.hpp"
#include "codec/webp/yuv_rows.hpp"

namespace yl::webp {
namespace {

void store_pixels(std::span<const std::uint32_t> pixels, std::byte* to, bool has_alpha) {
    if (has_alpha) {
        for (const std::uint32_t pixel : pixels) {
            // As red, green, blue, alpha.
            const std::uint32_t swapped =
                (pixel & 0xFF00FF00U) | (pixel & 255U) << 16U | (pixel >> 16U & 255U);
            store(to, swapped);
            to += 4;
        }
        return;
    }
    for (const std::uint32_t pixel : pixels) {
        to[0] = static_cast<std::byte>(pixel >> 16U & 255U);
        to[1] = static_cast<std::byte>(pixel >> 8U & 255U);
        to[2] = static_cast<std::byte>(pixel & 255U);
        to += 3;
    }
}

/// `room` as for `read_lossless`.
Status fill_lossless(const StoredImage& stored, ImageView view, std::span<std::uint32_t> room,
                     const Progress& progress) {
    const bool has_alpha = info(view.format).channel_count == 4;
    return read_lossless(
        stored.pixels.subspan(lossless_header_bytes), stored.width, stored.height, room,
        [&](std::uint32_t y, std::span<const std::uint32_t> row) {
            store_pixels(row, view.row(y).data(), has_alpha);
        },
        progress);
}

Status fill_lossy(const StoredImage& stored, ImageView view, const Progress& progress) {
    const std::size_t channels = info(view.format).channel_count;
    YL_TRY(const Planes planes, read_lossy(stored.pixels, progress));
    std::vector<std::uint8_t> alpha;
    if (stored.has_alpha) {
        YL_TRY(alpha, read_alpha(stored.alpha, stored.width, stored.height));
    }
    ColorRows rows(planes);
    for (std::uint32_t y = 0; y < view.height; ++y) {
        std::byte* to = view.row(y).data();
        rows.convert(y, to, channels);
        if (!alpha.empty())
            for (std::size_t x = 0; x < view.width; ++x)
                to[4 * x + 3] = static_cast<std::byte>(alpha[y * std::size_t{view.width} + x]);
    }
    return {};
}

Result<Image> image_of(const StoredImage& stored, Format format, const ReadOptions& options) {
    YL_TRY(Image image, Image::create(format, stored.width, stored.height, options.limits));
    YL_CHECK(stored.is_lossless ? fill_lossless(stored, image.view(), {}, options.progress)
                                : fill_lossy(stored, image.view(), options.progress));
    return image;
}

/// Without a profile, colours are sRGB: the format says so.
PictureStart start_of(const WebpFile& file) {
    PictureStart start{
        .width = file.width, .height = file.height, .channels = file.first_is_opaque() ? 3U : 4U};
    if (file.profile.empty())
        start.declared_transfer = Transfer::srgb;
    return start;
}

void describe(Picture& picture, const WebpFile& file, const ReadOptions& options) {
    const PictureStart start = start_of(file);
    picture.info.file_channels = start.channels;
    picture.info.file_bits = start.bits;
    picture.info.declared_transfer = start.declared_transfer;
    if (!file.profile.empty())
        take_profile(picture.info, profile_description(file.profile),
                     {file.profile.begin(), file.profile.end()});
    settle_transfer(picture, options);
}

/// The format of four or three channels for what colours are taken to be.
Format format_for(const WebpFile& file, std::uint32_t channels, const ReadOptions& options) {
    Picture model;
    describe(model, file, options);
    return plain_format({channels, 8, false}, model.transfer);
}

Result<PictureFrames> draw_frames(const WebpFile& file, Format format, std::size_t count,
                                  const ReadOptions& options) {
    YL_CHECK(check_size(file.width, file.height, options.limits));
    YL_TRY(Canvas canvas, Canvas::create(file.width, file.height, format, count, options.limits));
    PictureFrames frames;
    frames.plays = file.plays;
    for (std::size_t i = 0; i < count; ++i) {
        const StoredFrame& stored = file.frames[i];
        YL_TRY(const Image image, image_of(stored.image, format, options));
        YL_CHECK(canvas.show({.image = image.view(),
                              .x = stored.x,
                              .y = stored.y,
                              .replaces = stored.replaces || info(format).channel_count == 3,
                              .disposal = stored.is_cleared ? Disposal::clear : Disposal::keep,
                              .seconds = stored.seconds},
                             frames));
        Picture& picture = frames.pictures.back();
        describe(picture, file, options);
    }
    return frames;
}

}  // namespace

namespace {

Result<PictureHeader> header_of_file(ByteSpan bytes, bool is_strict) {
    YL_TRY(const WebpFile file, parse(bytes, is_strict));
    YL_TRY(PictureHeader header, header_of(start_of(file), file.orientation));
    header.frames = static_cast<std::uint32_t>(file.frames.size());
    return header;
}

}  // namespace

Result<PictureHeader> peek(ByteSpan bytes) {
    return header_of_file(bytes, true);
}

Result<PictureHeader> peek_damaged(ByteSpan bytes) {
    return header_of_file(bytes, false);
}

namespace {

/// Lossless pixels are decoded where they will lie, in four bytes each at first.
Result<Picture> read_still(const WebpFile& file, const ReadOptions& options) {
    const StoredImage& stored = file.frames[0].image;
    PictureStart start = start_of(file);
    const std::size_t pixels = std::size_t{file.width} * file.height;
    start.memory = stored.is_lossless ? pixels * sizeof(std::uint32_t) : 0;
    YL_TRY(Picture picture, start_picture(start, options));
    const ImageView view = picture.image.view();
    if (stored.is_lossless)
        YL_CHECK(fill_lossless(stored, view, {reinterpret_cast<std::uint32_t*>(view.data), pixels},
                               options.progress));
    else
        YL_CHECK(fill_lossy(stored, view, options.progress));
    describe(picture, file, options);
    return picture;
}

Result<Picture> read_first_frame(const WebpFile& file, const ReadOptions& options) {
    const Format format = format_for(file, start_of(file).channels, options);
    YL_TRY(PictureFrames frames, draw_frames(file, format, 1, options));
    return std::move(frames.pictures[0]);
}

}  // namespace

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const WebpFile file, parse(bytes, false));
    YL_TRY(Picture picture,
           file.is_animated ? read_first_frame(file, options) : read_still(file, options));
    YL_CHECK(turn_upright(picture, file.orientation, options));
    return picture;
}

Result<PictureFrames> read_frames(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const WebpFile file, parse(bytes, false));
    if (file.is_animated)
        return draw_frames(file, format_for(file, 4, options), file.frames.size(), options);
    PictureFrames frames;
    YL_TRY(Picture picture, read(bytes, options));
    frames.pictures.push_back(std::move(picture));
    return frames;
}

}  // namespace yl::webp

namespace yl {

PictureFormat webp_format() {
    return {.name = "WebP",
            .endings = {"webp"},
            .recognise = webp::recognise,
            .read = webp::read,
            .peek = webp::peek,
            .write = webp::write,
            .held = {.channels = "34", .bytes = true},
            .read_frames = webp::read_frames,
            .peek_damaged = webp::peek_damaged};
}

}  // namespace yl
