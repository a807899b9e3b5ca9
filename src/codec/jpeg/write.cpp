// Writing JPEG: 8 bits, gray or colours, baseline or progressive (ITU-T T.81, annexes B, F and G;
// JFIF, ITU-T T.871).
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "codec/jpeg/jpeg.hpp"
#include "codec/jpeg/scan_writer.hpp"

namespace yl::jpeg {
namespace {

constexpr std::uint32_t max_side = 65535;
constexpr std::size_t max_segment = 65535;

// Steps for a quality of 50, row by row: tables K.1 and K.2.
constexpr Steps luma_steps = {16,  11,  10,  16,  24, 40, 51,  61,  12,  12,  14,  19,  26,
                              58,  60,  55,  14,  13, 16, 24,  40,  57,  69,  56,  14,  17,
                              22,  29,  51,  87,  80, 62, 18,  22,  37,  56,  68,  109, 103,
                              77,  24,  35,  55,  64, 81, 104, 113, 92,  49,  64,  78,  87,
                              103, 121, 120, 101, 72, 92, 95,  98,  112, 100, 103, 99};
constexpr Steps chroma_steps = {17, 18, 24, 47, 99, 99, 99, 99, 18, 21, 26, 66, 99, 99, 99, 99,
                                24, 26, 56, 99, 99, 99, 99, 99, 47, 66, 99, 99, 99, 99, 99, 99,
                                99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99,
                                99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99, 99};

/// In coded order. The usual scale of qualities: below 50 steps grow with its inverse, above it they
/// shrink in a straight line to 1.
Steps steps_for(const Steps& middle, int quality) {
    const int percent = quality < 50 ? 5000 / quality : 200 - 2 * quality;
    Steps steps{};
    for (std::size_t k = 0; k < block_size; ++k)
        steps[k] = static_cast<std::uint16_t>(
            std::clamp((middle[zigzag[k]] * percent + 50) / 100, 1, 255));
    return steps;
}

/// A component's samples around 0, up to whole blocks: the last row and column go on.
struct Samples {
    std::uint32_t width = 0, height = 0;
    std::vector<float> values{};

    [[nodiscard]] float at(std::uint32_t x, std::uint32_t y) const {
        return values[std::size_t{std::min(y, height - 1)} * width + std::min(x, width - 1)];
    }
};

/// Luminance and two differences of a colour, or gray.
std::vector<Samples> samples_of(ConstImageView image) {
    const std::size_t channels = info(image.format).channel_count;
    const std::size_t pixels = std::size_t{image.width} * image.height;
    std::vector<Samples> planes(channels, {image.width, image.height, {}});
    for (Samples& plane : planes)
        plane.values.reserve(pixels);
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (const std::byte *at = image.row(y).data(), *end = at + image.width * channels;
             at < end; at += channels) {
            const auto value = [&](std::size_t c) {
                return static_cast<float>(std::to_integer<int>(at[c]));
            };
            if (channels == 1) {
                planes[0].values.push_back(value(0) - 128);
                continue;
            }
            const float luma = 0.299F * value(0) + 0.587F * value(1) + 0.114F * value(2);
            planes[0].values.push_back(luma - 128);
            planes[1].values.push_back((value(2) - luma) / 1.772F);
            planes[2].values.push_back((value(0) - luma) / 1.402F);
        }
    return planes;
}

/// Averages of two by two samples.
Samples halved(const Samples& from) {
    Samples half{(from.width + 1) / 2, (from.height + 1) / 2, {}};
    half.values.reserve(std::size_t{half.width} * half.height);
    for (std::uint32_t y = 0; y < half.height; ++y)
        for (std::uint32_t x = 0; x < half.width; ++x)
            half.values.push_back((from.at(2 * x, 2 * y) + from.at(2 * x + 1, 2 * y) +
                                   from.at(2 * x, 2 * y + 1) + from.at(2 * x + 1, 2 * y + 1)) /
                                  4);
    return half;
}

constexpr std::uint32_t side = block_side;

std::uint32_t blocks_over(std::uint32_t size) {
    return (size + side - 1) / side;
}

CodedPlane coded_plane(const Samples& samples, const Steps& steps, std::uint32_t factor,
                       std::uint32_t units_x, std::uint32_t units_y) {
    CodedPlane plane{.h = factor,
                     .v = factor,
                     .blocks_x = units_x * factor,
                     .blocks_y = units_y * factor,
                     .own_x = blocks_over(samples.width),
                     .own_y = blocks_over(samples.height)};
    plane.blocks.reserve(std::size_t{plane.blocks_x} * plane.blocks_y);
    std::array<float, block_size> block;
    for (std::uint32_t by = 0; by < plane.blocks_y; ++by)
        for (std::uint32_t bx = 0; bx < plane.blocks_x; ++bx) {
            for (std::uint32_t i = 0; i < block_size; ++i)
                block[i] = samples.at(bx * side + i % side, by * side + i / side);
            plane.blocks.push_back(coded_block(block, steps));
        }
    return plane;
}

void begin_segment(ByteWriter& file, std::uint8_t marker, std::size_t content) {
    file.write(std::uint8_t{0xFF});
    file.write(marker);
    file.write_big(static_cast<std::uint16_t>(2 + content));
}

void write_jfif(ByteWriter& file) {
    begin_segment(file, app0, 14);
    file.append(std::string_view("JFIF\0\1\1\0", 8));
    file.write_big(std::uint16_t{1});  // pixels are square
    file.write_big(std::uint16_t{1});
    file.write(std::uint16_t{0});  // no preview
}

/// In pieces, if need be (ICC.1:2022, annex B.4).
void write_profile(ByteWriter& file, ByteSpan profile) {
    constexpr std::string_view mark("ICC_PROFILE\0", 12);
    constexpr std::size_t piece = max_segment - 2 - mark.size() - 2;
    const std::size_t pieces = (profile.size() + piece - 1) / piece;
    for (std::size_t i = 0; i < pieces; ++i) {
        const ByteSpan content =
            profile.subspan(i * piece).first(std::min(piece, profile.size() - i * piece));
        begin_segment(file, app2, mark.size() + 2 + content.size());
        file.append(mark);
        file.write(static_cast<std::uint8_t>(i + 1));
        file.write(static_cast<std::uint8_t>(pieces));
        file.append(content);
    }
}

void write_steps(ByteWriter& file, const Steps& steps, std::uint8_t number) {
    begin_segment(file, dqt, 1 + block_size);
    file.write(number);  // of 8 bits each
    for (const std::uint16_t step : steps)
        file.write(static_cast<std::uint8_t>(step));
}

void write_frame(ByteWriter& file, ConstImageView image, std::span<const CodedPlane> planes,
                 bool is_progressive) {
    begin_segment(file, is_progressive ? sof_progressive : sof_baseline, 6 + 3 * planes.size());
    file.write(std::uint8_t{8});  // bits
    file.write_big(static_cast<std::uint16_t>(image.height));
    file.write_big(static_cast<std::uint16_t>(image.width));
    file.write(static_cast<std::uint8_t>(planes.size()));
    for (std::size_t i = 0; i < planes.size(); ++i) {
        file.write(static_cast<std::uint8_t>(i + 1));
        file.write(static_cast<std::uint8_t>(planes[i].h << 4U | planes[i].v));
        file.write(static_cast<std::uint8_t>(i == 0 ? 0 : 1));
    }
}

/// All at once, or: what blocks are on average, their coarse structure, and the last bit of each.
std::vector<Scan> scans_for(std::size_t components, bool is_progressive) {
    std::vector<std::size_t> all;
    for (std::size_t i = 0; i < components; ++i)
        all.push_back(i);
    if (!is_progressive)
        return {{.components = all}};
    const auto part = [](std::vector<std::size_t> of, unsigned first, unsigned last, unsigned high,
                         unsigned low) {
        return Scan{std::move(of), first, last, high, low, true};
    };
    std::vector<Scan> scans = {part(all, 0, 0, 0, 1), part({0}, 1, 8, 0, 1)};
    for (std::size_t i = 1; i < components; ++i)
        scans.push_back(part({i}, 1, 63, 0, 1));
    scans.push_back(part({0}, 9, 63, 0, 1));
    scans.push_back(part(all, 0, 0, 1, 0));
    for (std::size_t i = components; i-- > 0;)
        scans.push_back(part({i}, 1, 63, 1, 0));
    return scans;
}

Status check(ConstImageView image, const WriteOptions& options) {
    const FormatInfo& f = info(image.format);
    const bool holds = f.kind == NumericKind::unorm && f.block_bytes == f.channel_count &&
                       (f.channel_count == 1 || f.channel_count == 3) &&
                       f.channels[0].channel == Channel::red;
    if (!holds)
        return fail(ErrorKind::usage,
                    fmt::format("JPEG does not hold {}; convert to 8 bits of one or three channels "
                                "first",
                                f.name));
    if (std::max(image.width, image.height) > max_side)
        return fail(ErrorKind::usage, fmt::format("JPEG holds no more than {0} x {0} pixels; this "
                                                  "picture has {1} x {2}",
                                                  max_side, image.width, image.height));
    if (options.quality < 1 || options.quality > 100)
        return fail(ErrorKind::usage,
                    fmt::format("a quality of {} is not in 1 .. 100", options.quality));
    constexpr std::size_t max_profile = 255 * (max_segment - 16);
    if (options.color_profile.size() > max_profile)
        return fail(ErrorKind::usage, fmt::format("a colour profile of {} bytes exceeds {} of JPEG",
                                                  options.color_profile.size(), max_profile));
    return {};
}

}  // namespace

Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions& options) {
    YL_CHECK(check(image, options));
    constexpr int all_chroma = 96;  // from this quality on
    const std::array<Steps, 2> steps = {steps_for(luma_steps, options.quality),
                                        steps_for(chroma_steps, options.quality)};
    std::vector<Samples> samples = samples_of(image);
    const bool halves = samples.size() > 1 && options.halve_chroma && options.quality < all_chroma;
    const std::uint32_t unit = halves ? 2 * side : side;
    const std::uint32_t units_x = (image.width + unit - 1) / unit,
                        units_y = (image.height + unit - 1) / unit;
    std::vector<CodedPlane> planes;
    for (std::size_t i = 0; i < samples.size(); ++i) {
        if (halves && i > 0)
            samples[i] = halved(samples[i]);
        planes.push_back(coded_plane(samples[i], steps[i == 0 ? 0 : 1], halves && i == 0 ? 2 : 1,
                                     units_x, units_y));
    }
    ByteWriter file;
    file.write(std::uint8_t{0xFF});
    file.write(static_cast<std::uint8_t>(soi));
    write_jfif(file);
    write_profile(file, options.color_profile);
    for (std::size_t i = 0; i < std::min<std::size_t>(planes.size(), 2); ++i)
        write_steps(file, steps[i], static_cast<std::uint8_t>(i));
    write_frame(file, image, planes, options.is_progressive);
    for (const Scan& scan : scans_for(planes.size(), options.is_progressive))
        write_scan(file, planes, scan);
    file.write(std::uint8_t{0xFF});
    file.write(static_cast<std::uint8_t>(eoi));
    return file.release();
}

}  // namespace yl::jpeg
