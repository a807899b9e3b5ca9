// Lossless WebP written: 8 bits, three or four channels.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "codec/webp/entropy_writer.hpp"
#include "codec/webp/forward_transforms.hpp"
#include "codec/webp/lossless.hpp"
#include "codec/webp/predictors.hpp"
#include "codec/webp/webp.hpp"

namespace yl::webp {
namespace {

constexpr std::uint32_t max_side = 16384;

/// What the writer tries, by effort.
struct Effort {
    bool predicts = true;        ///< where nothing is tried
    std::size_t ways_tried = 0;  ///< in full; 0: no way is tried at all
    EntropyEffort entropy{};
};

Effort effort_of(int effort) {
    if (effort <= 1)
        return {.predicts = effort == 1, .entropy = {.depth = 2, .tries_caches = false}};
    if (effort <= 3)
        return {.entropy = {.depth = 8}};
    if (effort <= 6)
        return {.ways_tried = 1, .entropy = {.depth = 24, .max_groups = 16}};
    if (effort <= 8)
        return {.ways_tried = 1, .entropy = {.depth = 64, .max_groups = 24}};
    return {.ways_tried = 2, .entropy = {.depth = 400, .max_groups = 48}};
}

std::vector<std::uint32_t> pixels_of(ConstImageView image) {
    const std::size_t channels = info(image.format).channel_count;
    std::vector<std::uint32_t> pixels;
    pixels.reserve(std::size_t{image.width} * image.height);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const std::byte* at = image.row(y).data();
        for (std::uint32_t x = 0; x < image.width; ++x, at += channels) {
            const auto byte = [&](std::size_t i) { return std::to_integer<std::uint32_t>(at[i]); };
            pixels.push_back((channels == 4 ? byte(3) : 255U) << 24U | byte(0) << 16U |
                             byte(1) << 8U | byte(2));
        }
    }
    return pixels;
}

void write_header(BitWriter& bits, ConstImageView image, bool has_alpha) {
    constexpr std::uint32_t signature = 0x2F;
    bits.write(signature, 8);
    bits.write(image.width - 1, 14);
    bits.write(image.height - 1, 14);
    bits.write(has_alpha ? 1 : 0, 1);
    bits.write(0, 3);  // version
}

void write_transform(BitWriter& bits, const Transform& transform, const EntropyEffort& effort) {
    bits.write(1, 1);
    bits.write(static_cast<std::uint32_t>(transform.kind), 2);
    if (transform.kind == TransformKind::subtract_green)
        return;
    if (transform.kind == TransformKind::palette) {
        bits.write(static_cast<std::uint32_t>(transform.data.size() - 1), 8);
        std::vector<std::uint32_t> steps(transform.data);
        for (std::size_t i = steps.size(); i-- > 1;)
            steps[i] = difference(steps[i], steps[i - 1]);
        return write_pixels(bits, steps, static_cast<std::uint32_t>(steps.size()), false, effort);
    }
    bits.write(transform.bits - 2, 3);
    write_pixels(bits, transform.data, blocks_over(transform.width, transform.bits), false, effort);
}

/// What is done to pixels before they are coded.
struct Way {
    bool palette = false, subtracts_green = false, predicts = false, shares_colors = false;
};

/// Does that to them, and writes what undoes it; gives the width of what is to be coded. Nothing if
/// there are too many colours for a palette.
std::optional<std::uint32_t> write_transforms(BitWriter& bits, std::vector<std::uint32_t>& pixels,
                                              std::uint32_t width, const Way& way,
                                              const EntropyEffort& effort) {
    constexpr unsigned predictor_bits = 4, color_bits = 5;
    if (way.palette) {
        const auto palette = take_palette(pixels, width);
        if (!palette)
            return std::nullopt;
        write_transform(bits, *palette, effort);
        width = blocks_over(width, palette->bits);
    }
    if (way.subtracts_green) {
        subtract_green(pixels);
        write_transform(bits, {.kind = TransformKind::subtract_green}, effort);
    }
    if (way.predicts)
        write_transform(bits, take_predictions(pixels, width, predictor_bits), effort);
    if (way.shares_colors)
        write_transform(bits, take_color_shares(pixels, width, color_bits), effort);
    bits.write(0, 1);  // no more transforms
    return width;
}

std::optional<std::vector<std::byte>> packed(std::span<const std::uint32_t> source,
                                             ConstImageView image, const Way& way,
                                             const EntropyEffort& effort) {
    BitWriter bits;
    const bool has_alpha = std::any_of(source.begin(), source.end(),
                                       [](std::uint32_t pixel) { return pixel >> 24U != 255; });
    write_header(bits, image, has_alpha);
    std::vector<std::uint32_t> pixels(source.begin(), source.end());
    const auto width = write_transforms(bits, pixels, image.width, way, effort);
    if (!width)
        return std::nullopt;
    write_pixels(bits, pixels, *width, true, effort);
    return bits.release();
}

constexpr Way ways[] = {
    {.palette = true},
    {.palette = true, .predicts = true},
    {},
    {.predicts = true},
    {.subtracts_green = true},
    {.subtracts_green = true, .predicts = true},
    {.predicts = true, .shares_colors = true},
    {.subtracts_green = true, .predicts = true, .shares_colors = true},
};

/// Those that make least of rows from the middle of the picture.
std::vector<Way> promising_ways(std::span<const std::uint32_t> pixels, ConstImageView image,
                                std::size_t count) {
    constexpr std::uint32_t enough_pixels = 1U << 17U;
    constexpr EntropyEffort little{.depth = 4};
    const std::uint32_t rows = std::clamp(enough_pixels / image.width, 1U, image.height);
    const auto sample = pixels.subspan(std::size_t{(image.height - rows) / 2} * image.width,
                                       std::size_t{rows} * image.width);
    // A palette of the sample may not do for the rest.
    const bool is_all = rows == image.height;
    std::vector<std::pair<std::size_t, Way>> sizes;
    for (const Way& way : ways)
        if (is_all || !way.palette)
            if (const auto bytes = packed(sample, image, way, little))
                sizes.emplace_back(bytes->size(), way);
    std::stable_sort(sizes.begin(), sizes.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<Way> best;
    if (!is_all)
        best.push_back(ways[0]);
    for (const auto& [size, way] : sizes)
        if (best.size() < count + (is_all ? 0 : 1))
            best.push_back(way);
    return best;
}

std::vector<std::byte> smallest(ConstImageView image, const Effort& effort) {
    const std::vector<std::uint32_t> pixels = pixels_of(image);
    if (effort.ways_tried == 0) {
        if (auto few = packed(pixels, image, ways[0], effort.entropy))
            return std::move(*few);
        const Way plain{.subtracts_green = true, .predicts = effort.predicts};
        return std::move(*packed(pixels, image, plain, effort.entropy));
    }
    std::vector<std::byte> best;
    for (const Way& way : promising_ways(pixels, image, effort.ways_tried)) {
        auto bytes = packed(pixels, image, way, effort.entropy);
        if (bytes && (best.empty() || bytes->size() < best.size()))
            best = std::move(*bytes);
    }
    return best;
}

void write_chunk(ByteWriter& file, std::string_view name, ByteSpan content) {
    file.append(name);
    file.write(static_cast<std::uint32_t>(content.size()));
    file.append(content);
    file.pad_to(2);
}

/// Only with a profile does the file need a list of features.
void write_features(ByteWriter& file, ConstImageView image, bool has_alpha) {
    constexpr std::uint32_t with_profile = 0x20, with_alpha = 0x10;
    ByteWriter content;
    content.write(with_profile | (has_alpha ? with_alpha : 0));
    for (const std::uint32_t side : {image.width - 1, image.height - 1}) {
        content.write(static_cast<std::uint16_t>(side & 0xFFFFU));
        content.write(static_cast<std::uint8_t>(side >> 16U));
    }
    write_chunk(file, "VP8X", content.bytes());
}

}  // namespace

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions& options) {
    const FormatInfo& f = info(image.format);
    const bool holds = f.kind == NumericKind::unorm && f.channel_count >= 3 &&
                       f.block_bytes == f.channel_count && f.channels[0].channel == Channel::red;
    if (!holds)
        return fail(ErrorKind::usage,
                    fmt::format("WebP does not hold {}; convert to 8 bits of three or four "
                                "channels first",
                                f.name));
    if (std::max(image.width, image.height) > max_side)
        return fail(ErrorKind::usage, fmt::format("WebP holds no more than {0} x {0} pixels; this "
                                                  "picture has {1} x {2}",
                                                  max_side, image.width, image.height));
    const auto stream = smallest(image, effort_of(options.effort));
    ByteWriter chunks;
    if (!options.color_profile.empty()) {
        YL_TRY(const LosslessHeader header, lossless_header(stream));
        write_features(chunks, image, header.has_alpha);
        write_chunk(chunks, "ICCP", options.color_profile);
    }
    write_chunk(chunks, "VP8L", stream);
    ByteWriter file;
    file.append("RIFF");
    file.write(static_cast<std::uint32_t>(4 + chunks.offset()));
    file.append("WEBP");
    file.append(chunks.bytes());
    return file.release();
}

}  // namespace yl::webp
