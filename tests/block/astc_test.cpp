// ASTC: random blocks of every footprint against a plain decoder that was written from the standard.
#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "block/astc/block_head.hpp"
#include "block/astc/integer_sequence.hpp"
#include "block/astc/quantization.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/random_astc.hpp"
#include "support/reference_astc.hpp"

using namespace yl;
using namespace yl::astc;
using support::must;

namespace {

constexpr std::uint32_t side = 64;  // blocks

/// How many texels of random blocks are not as the plain decoder has them.
std::size_t differing_texels(Format format, std::uint32_t seed) {
    const FormatInfo& f = info(format);
    const std::uint32_t width = f.block_width, height = f.block_height;
    Image image = must(Image::create(format, width * side, height * side));
    support::Random random(seed);
    support::fill_with_astc({image.view().data, std::size_t{side} * side * f.block_bytes}, random);
    const Image texels = must(decode_blocks(std::as_const(image).view()));
    const auto profile = f.is_float()                   ? support::AstcProfile::hdr
                         : f.transfer == Transfer::srgb ? support::AstcProfile::ldr_srgb
                                                        : support::AstcProfile::ldr;
    const std::size_t bytes = info(texels.format()).type_size;
    std::size_t count = 0;
    for (std::uint32_t i = 0; i < side * side; ++i) {
        const auto expected = support::reference_astc(
            image.view().row(i / side).data() + std::size_t{i % side} * f.block_bytes,
            f.block_width, f.block_height, profile);
        for (std::uint32_t t = 0; t < width * height; ++t) {
            const std::byte* texel = texels.view().row(i / side * height + t / width).data() +
                                     4 * bytes * (i % side * width + t % width);
            std::array<std::uint16_t, 4> own{};
            for (std::size_t c = 0; c < 4; ++c)
                own[c] = f.is_float() ? load<std::uint16_t>(texel + 2 * c)
                                      : std::to_integer<std::uint8_t>(texel[c]);
            count += own != expected[t] ? 1 : 0;
        }
    }
    return count;
}

}  // namespace

TEST_CASE("ASTC: random blocks of every footprint decode as the standard's text has it") {
    for (const FormatInfo& f : all_formats()) {
        if (f.family != BlockFamily::astc && f.family != BlockFamily::astc_hdr)
            continue;
        CAPTURE(f.name);
        CHECK(differing_texels(f.format, 7) == 0);
    }
}

TEST_CASE("ASTC: sequences of every range and length are read as they are written") {
    support::Random random(5);
    for (unsigned range = 0; range < sequence_ranges.size(); ++range)
        for (unsigned count = 1; count <= 64 && sequence_bits(range, count) <= 96; ++count) {
            CAPTURE(range);
            CAPTURE(count);
            const auto begin = static_cast<unsigned>(random() % 29);
            std::array<std::uint8_t, 64> numbers{}, read{};
            for (unsigned i = 0; i < count; ++i)
                numbers[i] = static_cast<std::uint8_t>(random() % sequence_ranges[range].levels);
            BlockBits block;
            write_sequence(block, begin, range, count, numbers.data());
            // Nothing before it, and nothing behind.
            const unsigned end = begin + sequence_bits(range, count);
            CHECK(block.at(0, begin) == 0);
            CHECK((end >= 128 || block.at(end, std::min(128 - end, 63U)) == 0));
            read_sequence(block, begin, range, count, read.data());
            CHECK(numbers == read);
        }
}

TEST_CASE("ASTC: every number has a value of its own, and is the nearest to it") {
    for (std::size_t range = least_color_range; range < sequence_ranges.size(); ++range)
        for (unsigned number = 0; number < sequence_ranges[range].levels; ++number)
            CHECK(color_numbers()[range][color_values[range][number]] == number);
    for (std::size_t range = 0; range < weight_ranges; ++range)
        for (unsigned number = 0; number < sequence_ranges[range].levels; ++number)
            CHECK(weight_numbers[range][weight_values[range][number]] == number);
}

TEST_CASE("ASTC: a head is read as it is written") {
    support::Random random(9);
    std::size_t written = 0;
    for (int round = 0; round < 100000; ++round) {
        CAPTURE(round);
        BlockHead head;
        const auto bits = static_cast<unsigned>(random() % block_modes);
        head.mode = all_block_modes()[bits];
        if (!head.mode.fits({12, 12}))
            continue;
        head.partitions = 1 + static_cast<unsigned>(random() % (head.mode.has_two_planes ? 3 : 4));
        head.seed = head.partitions == 1 ? 0 : static_cast<unsigned>(random() % 1024);
        const auto base = static_cast<unsigned>(random() % 13);
        for (unsigned i = 0; i < head.partitions; ++i)
            head.endpoint_modes[i] = static_cast<std::uint8_t>(base + random() % 4);
        if (head.partitions > 1 && random() % 2 == 0)
            head.endpoint_modes.fill(head.endpoint_modes[0]);
        if (head.mode.has_two_planes)
            head.plane_channel = static_cast<unsigned>(random() % 4);
        const auto block = write_head(head, bits);
        if (!block)
            continue;
        ++written;
        const auto read = read_head(*block, {12, 12});
        REQUIRE(read);
        CHECK(read->partitions == head.partitions);
        CHECK(read->seed == head.seed);
        for (unsigned i = 0; i < head.partitions; ++i)
            CHECK(read->endpoint_modes[i] == head.endpoint_modes[i]);
        CHECK(read->plane_channel == head.plane_channel);
        CHECK(read->color_range == head.color_range);
        CHECK(read->color_begin == head.color_begin);
        CHECK(read->color_count == head.color_count);
    }
    CHECK(written > 1000);
}

TEST_CASE("ASTC: a block of one colour, and what the standard reserves in it") {
    // D is high dynamic range, then two reserved bits, and the extents: 13 bits each.
    const auto decoded = [](Format format, std::uint64_t head) {
        Image block = must(Image::create(format, 4, 4));
        store(block.view().data, head);
        store(block.view().data + 8, std::uint64_t{0x8000'C0FF'4001'3C00});
        const Image texels = must(decode_blocks(std::as_const(block).view()));
        std::array<std::uint16_t, 4> texel{};
        for (std::size_t c = 0; c < 4; ++c)
            texel[c] = format == Format::astc_4x4_sfloat
                           ? load<std::uint16_t>(texels.view().data + 8 * 15 + 2 * c)
                           : std::to_integer<std::uint8_t>(texels.view().data[4 * 15 + c]);
        return texel;
    };
    using Texel = std::array<std::uint16_t, 4>;
    constexpr std::uint64_t ldr = 0xDFC, hdr = 0xFFC, everywhere = ~std::uint64_t{0xFFF};
    constexpr Texel magenta = {255, 0, 255, 255}, magenta_half = {0x3C00, 0, 0x3C00, 0x3C00};
    const auto extents = [](std::uint64_t s0, std::uint64_t s1, std::uint64_t t0,
                            std::uint64_t t1) { return s0 << 12 | s1 << 25 | t0 << 38 | t1 << 51; };
    CHECK(decoded(Format::astc_4x4_unorm, ldr | everywhere) == Texel{0x3C, 0x40, 0xC0, 0x80});
    CHECK(decoded(Format::astc_4x4_srgb, ldr | everywhere) == Texel{0x3C, 0x40, 0xC0, 0x80});
    CHECK(decoded(Format::astc_4x4_unorm, ldr | extents(1, 2, 3, 4)) ==
          Texel{0x3C, 0x40, 0xC0, 0x80});
    // 0x3C00, 0x4001, 0xC0FF and 0x8000 of 65,536, rounded towards 0
    CHECK(decoded(Format::astc_4x4_sfloat, ldr | everywhere) ==
          Texel{0x3380, 0x3400, 0x3A07, 0x3800});
    CHECK(decoded(Format::astc_4x4_sfloat, hdr | everywhere) ==
          Texel{0x3C00, 0x4001, 0xC0FF, 0x8000});
    CHECK(decoded(Format::astc_4x4_unorm, hdr | everywhere) == magenta);
    for (const std::uint64_t reserved : {0x400U, 0x800U})
        CHECK(decoded(Format::astc_4x4_unorm, (ldr | everywhere) & ~reserved) == magenta);
    CHECK(decoded(Format::astc_4x4_unorm, ldr | extents(2, 2, 3, 4)) == magenta);
    CHECK(decoded(Format::astc_4x4_unorm, ldr | extents(1, 2, 4, 3)) == magenta);
    CHECK(decoded(Format::astc_4x4_sfloat, ldr | extents(1, 2, 4, 3)) == magenta_half);
}

TEST_CASE("ASTC: colours of high dynamic range, worked out by hand") {
    // Two weights of 5 levels a row and column would be too few: 4 x 4 weights of 4 levels (R = 4, H =
    // 0) are mode 0x42; endpoint mode 2, so that 128 - 32 - 17 bits are left for 2 numbers: 8 bits
    // each. The first is 0x40, the second 0x80: 0x400 and 0x800 of 12 bits.
    Image block = must(Image::create(Format::astc_4x4_sfloat, 4, 4));
    store(block.view().data,
          std::uint64_t{0x42 | 2U << 13 | 0x40U << 17} | std::uint64_t{0x80} << 25);
    // The first weights are the last bits, turned round: 0, 1, 2, 3 become 0, 21, 43, 64 of 64.
    block.view().data[15] = std::byte{0b00'10'01'11};
    const Image texels = must(decode_blocks(std::as_const(block).view()));
    const auto red = [&](std::size_t x) { return load<std::uint16_t>(texels.view().data + 8 * x); };
    // 0x4000 is exponent 8, mantissa 0; 0x8000 exponent 16. Between them: 16384 + 256 w.
    // w = 21: 21760 = exponent 10, mantissa 1280, which becomes 4 * 1280 - 512 = 4608, 576 of 1024.
    // w = 43: 27392 = exponent 13, mantissa 768, which becomes 2560, 320 of 1024.
    const std::array<unsigned, 4> values = {8U << 10, 10U << 10 | 576U, 13U << 10 | 320U,
                                            16U << 10};
    for (std::size_t x = 0; x < 4; ++x)
        CHECK(red(x) == values[x]);
    CHECK(load<std::uint16_t>(texels.view().data + 6) == 0x3C00);
}

namespace {

/// Every texel of its own.
Image noise(std::uint32_t size, bool has_alpha, bool is_gray, std::uint32_t seed) {
    support::Random random(seed);
    Image image = must(Image::create(Format::rgba8_unorm, size, size));
    for (std::uint32_t y = 0; y < size; ++y)
        for (std::uint32_t x = 0; x < size; ++x) {
            std::byte* texel = image.view().row(y).data() + std::size_t{4} * x;
            for (std::size_t c = 0; c < 4; ++c)
                texel[c] = static_cast<std::byte>(random());
            if (is_gray)
                texel[1] = texel[2] = texel[0];
            if (!has_alpha)
                texel[3] = std::byte{255};
        }
    return image;
}

/// The mean squared error of each channel.
std::array<double, 4> errors_of(ConstImageView image, Format format, BlockOptions options) {
    options.source_transfer = info(format).transfer;
    const Image blocks = must(encode_blocks(image, format, options));
    const Image texels = must(decode_blocks(blocks.view()));
    std::array<double, 4> errors{};
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::uint32_t x = 0; x < image.width; ++x)
            for (std::size_t c = 0; c < 4; ++c) {
                const std::size_t at = std::size_t{4} * x + c;
                const double off = std::to_integer<int>(image.row(y)[at]) -
                                   std::to_integer<int>(texels.view().row(y)[at]);
                errors[c] += off * off / image.width / image.height;
            }
    return errors;
}

std::vector<Format> encoded_formats() {
    std::vector<Format> formats;
    for (const FormatInfo& f : all_formats())
        if (f.family == BlockFamily::astc)
            formats.push_back(f.format);
    return formats;
}

}  // namespace

TEST_CASE("ASTC: blocks of one colour are exact") {
    support::Random random(3);
    for (const Format format : encoded_formats()) {
        CAPTURE(info(format).name);
        Image image = must(Image::create(Format::rgba8_unorm, info(format).block_width,
                                         info(format).block_height));
        std::array<std::byte, 4> color;
        for (std::byte& channel : color)
            channel = static_cast<std::byte>(random());
        for (std::uint32_t i = 0; i < image.width() * image.height(); ++i)
            std::copy(color.begin(), color.end(),
                      image.view().row(i / image.width()).data() + i % image.width() * 4);
        CHECK(errors_of(image.view(), format, {.effort = 0}) == std::array<double, 4>{});
    }
}

TEST_CASE("ASTC: noise is near its source at every effort, opaque texels stay opaque") {
    // Noise has 74 codes of deviation in each channel; one weight a block would leave all of it.
    constexpr double all_of_it = 74.0 * 74;
    for (const Format format : encoded_formats())
        for (const bool has_alpha : {false, true})
            for (const bool is_gray : {false, true}) {
                const Image image = noise(36, has_alpha, is_gray, 11);
                for (const int effort : {0, 2, 5, 8}) {
                    CAPTURE(info(format).name);
                    CAPTURE(has_alpha);
                    CAPTURE(is_gray);
                    CAPTURE(effort);
                    const auto errors =
                        errors_of(image.view(), format, {.role = Role::data, .effort = effort});
                    for (std::size_t c = 0; c < 3; ++c)
                        CHECK(errors[c] < all_of_it);
                    if (!has_alpha)
                        CHECK(errors[3] == 0);
                    else
                        CHECK(errors[3] < all_of_it);
                }
            }
}

TEST_CASE("ASTC: gray with an alpha of its own has a plane for it") {
    Image image = must(Image::create(Format::rgba8_unorm, 32, 32));
    for (std::uint32_t y = 0; y < 32; ++y)
        for (std::uint32_t x = 0; x < 32; ++x) {
            std::byte* texel = image.view().row(y).data() + std::size_t{4} * x;
            texel[0] = texel[1] = texel[2] = static_cast<std::byte>(8 * x);
            texel[3] = static_cast<std::byte>(8 * y);
        }
    const auto errors =
        errors_of(image.view(), Format::astc_4x4_unorm, {.role = Role::data, .effort = 5});
    for (const double error : errors)
        CHECK(error < 1);
    // The colour of a channel of its own, too.
    for (std::size_t own = 0; own < 3; ++own) {
        CAPTURE(own);
        for (std::uint32_t y = 0; y < 32; ++y)
            for (std::uint32_t x = 0; x < 32; ++x) {
                std::byte* texel = image.view().row(y).data() + std::size_t{4} * x;
                texel[0] = texel[1] = texel[2] = static_cast<std::byte>(8 * x);
                texel[own] = static_cast<std::byte>(8 * y);
                texel[3] = std::byte{255};
            }
        for (const double error :
             errors_of(image.view(), Format::astc_4x4_unorm, {.role = Role::data, .effort = 5}))
            CHECK(error < 2);
    }
}

TEST_CASE("ASTC: two colours that no line joins are two parts") {
    // Red to black on one side of the block, blue to white on the other.
    Image image = must(Image::create(Format::rgba8_unorm, 8, 8));
    for (std::uint32_t y = 0; y < 8; ++y)
        for (std::uint32_t x = 0; x < 8; ++x) {
            std::byte* texel = image.view().row(y).data() + std::size_t{4} * x;
            const auto level = static_cast<std::byte>(30 * y);
            texel[0] = level;
            texel[1] = x < 4 ? std::byte{0} : level;
            texel[2] = x < 4 ? std::byte{0} : std::byte{255};
            texel[3] = std::byte{255};
        }
    const auto one = errors_of(image.view(), Format::astc_8x8_unorm, {.effort = 1});
    const auto two = errors_of(image.view(), Format::astc_8x8_unorm, {.effort = 6});
    CHECK(two[0] + two[1] + two[2] < 0.25 * (one[0] + one[1] + one[2]));
}

namespace {

/// Texels whose number is in a part of some split of the standard's; each part a ramp of its own.
Image ramps(std::uint32_t size, unsigned parts, bool is_gray, std::uint32_t seed) {
    static constexpr std::array<std::array<int, 3>, 4> colors = {
        {{255, 40, 30}, {30, 230, 60}, {40, 60, 255}, {250, 240, 40}}};
    Image image = must(Image::create(Format::rgba8_unorm, size, size));
    support::Random random(seed);
    const int tilt = static_cast<int>(random() % 3);
    for (std::uint32_t y = 0; y < size; ++y)
        for (std::uint32_t x = 0; x < size; ++x) {
            const int across = static_cast<int>(x * parts + (tilt == 1 ? y : 0)) /
                               static_cast<int>(size + (tilt == 1 ? size : 0));
            const auto& color = colors[static_cast<std::size_t>(across) % 4];
            const int shade = 60 + static_cast<int>((x * 7 + y * 13) % 64) * 3;
            for (std::size_t c = 0; c < 4; ++c) {
                const int value = c == 3    ? 255
                                  : is_gray ? color[0] * shade / 255
                                            : color[c] * shade / 255;
                image.view().row(y)[4 * x + c] = static_cast<std::byte>(value);
            }
        }
    return image;
}

/// How many blocks of ASTC have so many parts.
std::array<int, 5> parts_of(const Image& blocks) {
    std::array<int, 5> counts{};
    const FormatInfo& f = info(blocks.format());
    for (std::uint32_t y = 0; y < blocks.view().row_count(); ++y)
        for (std::size_t at = 0; at < blocks.view().row(y).size(); at += f.block_bytes) {
            const auto bits = load<std::uint16_t>(blocks.view().row(y).data() + at);
            ++counts[(bits & 0x1FF) == 0x1FC ? 0 : 1 + (bits >> 11 & 3)];
        }
    return counts;
}

}  // namespace

TEST_CASE("ASTC: three and four colours in stripes are cut so by the highest effort") {
    std::array<int, 5> seen{};
    for (const Format format : {Format::astc_6x6_unorm, Format::astc_8x8_unorm}) {
        const std::uint32_t size = info(format).block_width;
        for (const unsigned parts : {3U, 4U})
            for (std::uint32_t seed = 0; seed < 6; ++seed) {
                const Image image = ramps(size, parts, false, seed);
                const auto two = errors_of(image.view(), format, {.effort = 8});
                const auto more = errors_of(image.view(), format, {.effort = 10});
                CHECK(more[0] + more[1] + more[2] <= two[0] + two[1] + two[2]);
                CHECK(more[3] == 0);
                const auto counts =
                    parts_of(must(encode_blocks(image.view(), format, {.effort = 10})));
                for (std::size_t k = 0; k < seen.size(); ++k)
                    seen[k] += counts[k];
            }
    }
    CHECK(seen[3] > 0);
    CHECK(seen[4] > 0);
}

TEST_CASE("ASTC: letters, whose blocks have two colours at any place") {
    // Strokes two texels wide on another colour: many blocks have both ends and nothing between.
    Image image = must(Image::create(Format::rgba8_unorm, 96, 48));
    support::Random random(5);
    for (std::uint32_t y = 0; y < 48; ++y)
        for (std::uint32_t x = 0; x < 96; ++x) {
            const bool is_stroke = (x + y / 9) % 11 < 2 || (y + x / 13) % 9 < 2;
            const std::array<int, 4> texel = is_stroke ? std::array<int, 4>{20, 30, 120, 255}
                                                       : std::array<int, 4>{250, 235, 180, 255};
            for (std::size_t c = 0; c < 4; ++c)
                image.view().row(y)[4 * x + c] = static_cast<std::byte>(
                    c == 3 ? 255 : texel[c] + static_cast<int>(random() % 5) - 2);
        }
    const auto sum = [&](int effort) {
        const auto errors = errors_of(image.view(), Format::astc_6x6_unorm, {.effort = effort});
        return errors[0] + errors[1] + errors[2];
    };
    CHECK(sum(5) < 1.5 * sum(8));
}

TEST_CASE("ASTC: colours count as far as they are seen, but not where alpha is data") {
    // Left: nearly opaque shades of gray. Right: transparent noise.
    Image image = noise(16, false, false, 4);
    for (std::uint32_t y = 0; y < 16; ++y)
        for (std::uint32_t x = 0; x < 16; ++x) {
            std::byte* texel = image.view().row(y).data() + std::size_t{4} * x;
            texel[3] = x % 4 < 2 ? std::byte{255} : std::byte{0};
            if (x % 4 < 2)
                texel[0] = texel[1] = texel[2] = static_cast<std::byte>(16 * y);
        }
    const auto seen = [&](const BlockOptions& options) {
        const Image blocks = must(encode_blocks(image.view(), Format::astc_4x4_unorm, options));
        const Image texels = must(decode_blocks(blocks.view()));
        double error = 0;
        for (std::uint32_t y = 0; y < 16; ++y)
            for (std::uint32_t x = 0; x < 16; ++x)
                for (std::size_t c = 0; x % 4 < 2 && c < 3; ++c) {
                    const std::size_t at = std::size_t{4} * x + c;
                    error += std::abs(std::to_integer<int>(image.view().row(y)[at]) -
                                      std::to_integer<int>(texels.view().row(y)[at]));
                }
        return error;
    };
    const double as_color = seen({.role = Role::color, .alpha = AlphaMode::straight}),
                 as_data = seen({.role = Role::data, .alpha = AlphaMode::data});
    CAPTURE(as_color);
    CAPTURE(as_data);
    CHECK(as_color < 0.35 * as_data);
}

TEST_CASE("ASTC: volumes are slices of flat blocks, one after the other, at every level") {
    for (const FormatInfo& f : all_formats()) {
        if (f.family != BlockFamily::astc && f.family != BlockFamily::astc_hdr)
            continue;
        CAPTURE(f.name);
        const TextureShape shape{
            .format = f.format, .width = 23, .height = 14, .depth = 5, .levels = 3};
        Texture volume = must(Texture::create(shape));
        support::Random random(static_cast<std::uint32_t>(f.format));
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            support::fill_with_astc(volume.level(level), random);
        const Texture texels = must(decode_texture(volume));
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            for (std::uint32_t slice = 0; slice < shape.depth_at(level); ++slice) {
                Image blocks =
                    must(Image::create(f.format, shape.width_at(level), shape.height_at(level)));
                const auto own = volume.level(level).subspan(slice * shape.surface_bytes(level),
                                                             shape.surface_bytes(level));
                std::ranges::copy(own, blocks.view().data);
                const Image flat = must(decode_blocks(std::as_const(blocks).view()));
                const std::uint64_t bytes = texels.shape().surface_bytes(level);
                CHECK(std::ranges::equal(
                    support::bytes_of(flat.view()),
                    std::as_const(texels).level(level).subspan(slice * bytes, bytes)));
            }
    }
}
