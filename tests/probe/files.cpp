// Pictures read, peeked at, read row by row and written.
#include <yl/picture_rows.hpp>

#include "hash.hpp"

namespace probe {
namespace {

void add(Hash& hash, const yl::Picture& picture) {
    const yl::PictureInfo& info = picture.info;
    hash.add_all(picture.image, picture.transfer, picture.alpha, yl::swizzle_text(picture.swizzle),
                 info.file_format, info.file_channels, info.file_bits, info.has_palette,
                 info.is_interlaced, info.declared_transfer, info.applied_orientation,
                 info.pixels_per_metre, info.color_profile_name, info.color_profile,
                 info.applied_profile, info.unapplied, info.transfer_reason,
                 info.leaves_transfer_open, info.remarks);
}

/// All that a file says, by every way to read it.
void read_in_all_ways(const std::string& name, const std::filesystem::path& file) {
    const auto header = yl::peek_picture(file);
    if (is_there("peek " + name, header))
        print("peek " + name, header->file_format, header->width, header->height, header->channels,
              header->bits, header->is_float, header->frames);
    // As data, so that no library's arithmetic of colour profiles has a part in it.
    const auto frames = yl::read_frames(file, {.role = yl::Role::data});
    if (is_there("read " + name, frames)) {
        Hash hash;
        hash.add_all(frames->pictures.size(), frames->seconds, frames->plays);
        for (const yl::Picture& picture : frames->pictures)
            add(hash, picture);
        print("read " + name, hash.value());
    }
    const auto levels = yl::read_levels(file, {.role = yl::Role::data});
    if (levels && levels->size() > 1) {
        Hash hash;
        for (const yl::Picture& picture : *levels)
            add(hash, picture);
        print("levels of " + name, hash.value());
    }
    auto rows = yl::PictureRows::open(file, {.role = yl::Role::data});
    if (!is_there("rows of " + name, rows))
        return;
    Hash hash;
    hash.add_all(rows->width(), rows->height(), rows->format(), rows->flows(),
                 rows->picture().info.remarks);
    while (rows->rows_left() > 0) {
        yl::Image band = yl::or_exit(
            yl::Image::create(rows->format(), rows->width(), std::min(rows->rows_left(), 3U)));
        const yl::Status status = rows->read(band.view());
        if (!status) {
            hash.add(status.error().message);
            break;
        }
        hash.add(band);
    }
    print("rows of " + name, hash.value());
}

void read_damaged(const std::string& name, const std::filesystem::path& file) {
    print_damaged(name, file, [](Hash& hash, std::span<const std::byte> bytes) {
        const yl::ReadOptions options = {.role = yl::Role::data,
                                         .limits = {.max_side = 300, .max_bytes = 1 << 18}};
        const auto header = yl::peek_picture(bytes);
        hash.add(header.has_value());
        if (header)
            hash.add_all(header->width, header->height, header->channels, header->bits);
        const auto frames = yl::read_frames(bytes, options);
        if (!frames)
            return hash.add_all(frames.error().kind, frames.error().message, frames.error().offset);
        for (const yl::Picture& picture : frames->pictures)
            add(hash, picture);
    });
}

/// The least limits that a file needs.
void print_limits(const std::string& name, const std::filesystem::path& file) {
    const std::vector<std::byte> bytes = bytes_of(file);
    const auto least = [&](std::uint64_t most, const auto& limits_of) {
        std::uint64_t too_small = 0;
        while (most - too_small > 1) {
            const std::uint64_t middle = too_small + (most - too_small) / 2;
            const bool fits =
                yl::read_picture(bytes, {.role = yl::Role::data, .limits = limits_of(middle)})
                    .has_value();
            (fits ? most : too_small) = middle;
        }
        return most;
    };
    print("limits of " + name,
          least(4096,
                [](std::uint64_t side) {
                    return yl::Limits{.max_side = static_cast<std::uint32_t>(side)};
                }),
          least(1 << 24, [](std::uint64_t size) { return yl::Limits{.max_bytes = size}; }));
}

bool is_packed(std::string_view ending) {
    return ending == "png" || ending == "tif" || ending == "exr";
}

void write(std::string_view ending, const yl::FormatInfo& f, const yl::WriteOptions& options,
           const std::string& how) {
    yl::Picture picture;
    picture.image = waves_in(f.format, 29, 23);
    picture.transfer = f.transfer;
    const auto file = yl::encode_picture(ending, picture, options);
    const std::string name = fmt::format("{}{} of {}", ending, how, f.name);
    if (!is_there("write " + name, file))
        return;
    if (is_packed(ending))
        print_packed("write " + name, std::span<const std::byte>(*file));
    else
        print("write " + name, std::span<const std::byte>(*file));
    const auto back = yl::read_picture(*file);
    if (!is_there("read " + name, back))
        return;
    Hash hash;
    add(hash, *back);
    print("read " + name, hash.value());
}

void writers() {
    constexpr std::string_view endings[] = {"png", "bmp", "tga", "qoi", "ppm",  "pgm", "pam",
                                            "pfm", "exr", "hdr", "tif", "webp", "jpg"};
    for (const std::string_view ending : endings)
        for (const yl::FormatInfo& f : yl::all_formats())
            if (!f.is_block() && (f.transfer == yl::Transfer::linear || f.channel_count > 2))
                write(ending, f, {}, "");
    for (const yl::Format format : {yl::Format::rgb8_srgb, yl::Format::r8_unorm})
        for (const int quality : {1, 50, 100}) {
            write("jpg", yl::info(format), {.quality = quality},
                  fmt::format(", quality {}", quality));
            write("jpg", yl::info(format),
                  {.quality = quality, .halve_chroma = false, .is_progressive = true},
                  fmt::format(", quality {}, whole chroma, progressive", quality));
        }
}

}  // namespace

void files(const Places& places) {
    for (const auto& file : files_in(places.demo))
        if (file.extension() != ".glb")
            read_in_all_ways(file.filename().string(), file);
    for (const char* folder : {"bmp", "exr", "gif", "hdr", "jpeg", "pam", "pbm", "pfm", "pgm",
                               "png", "ppm", "psd", "qoi", "tga", "tiff", "webp"})
        for (const auto& file : files_in(places.seeds / folder)) {
            const std::string name = folder + ("/" + file.filename().string());
            read_in_all_ways(name, file);
            read_damaged(name, file);
            if (yl::read_picture(file))
                print_limits(name, file);
        }
    writers();
}

}  // namespace probe
