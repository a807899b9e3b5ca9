// TIFF against the general-purpose library: it writes every variant, and reads what is written here.
#include <cmath>
#include <cstring>
#include <limits>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/reference_tiff.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::reference_tiff;
using support::TiffKind;

namespace {

constexpr std::uint16_t white_is_zero = 0, black_is_zero = 1, rgb = 2, palette = 3, cmyk = 5;
constexpr std::uint16_t whole = 1, with_sign = 2, floating = 3;
constexpr std::uint16_t none = 1, lzw = 5, deflate = 8, run_lengths = 32773, old_deflate = 32946;

std::uint64_t bits_of(float value) {
    std::uint32_t bits = 0;
    std::memcpy(&bits, &value, 4);
    return bits;
}

std::uint64_t bits_of(double value) {
    std::uint64_t bits = 0;
    std::memcpy(&bits, &value, 8);
    return bits;
}

/// Random samples with runs in them, so that every scheme has something to pack.
std::vector<std::uint64_t> samples_of(const TiffKind& kind, unsigned seed) {
    support::Random random(seed);
    std::uniform_int_distribution<std::uint64_t> code(
        0, kind.bits == 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << kind.bits) - 1);
    std::uniform_real_distribution<float> number(-4, 4);
    std::vector<std::uint64_t> samples;
    const std::size_t count = std::size_t{kind.width} * kind.height * kind.channels;
    while (samples.size() < count) {
        std::uint64_t sample = code(random);
        if (kind.format == floating) {
            const float value = number(random);
            sample = kind.bits == 64   ? bits_of(static_cast<double>(value))
                     : kind.bits == 32 ? bits_of(value)
                                       : sample & (kind.bits == 16 ? 0xBBFFU : 0xBEFFFFU);
        }
        for (std::uint64_t run = random() % 5 == 0 ? random() % 40 : 1;
             run > 0 && samples.size() < count; --run)
            samples.push_back(sample);
    }
    return samples;
}

/// What a sample is worth: 0 to 1 for whole numbers, otherwise its value.
double value_of(const TiffKind& kind, std::uint64_t sample) {
    if (kind.format == with_sign) {
        const std::uint64_t sign = std::uint64_t{1} << (kind.bits - 1);
        const auto value = static_cast<double>(static_cast<std::int64_t>((sample ^ sign) - sign));
        return std::max(value / static_cast<double>(sign - 1), -1.0);
    }
    if (kind.format == whole)
        return static_cast<double>(sample) /
               static_cast<double>((std::uint64_t{1} << kind.bits) - 1);
    if (kind.bits == 64) {
        double value = 0;
        std::memcpy(&value, &sample, 8);
        return value;
    }
    if (kind.bits == 32) {
        float value = 0;
        std::memcpy(&value, &sample, 4);
        return static_cast<double>(value);
    }
    const unsigned mantissa_bits = kind.bits == 16 ? 10 : 16,
                   exponent_bits = kind.bits == 16 ? 5 : 7;
    const std::uint64_t mantissa = sample & ((1U << mantissa_bits) - 1);
    const auto exponent = static_cast<int>(sample >> mantissa_bits & ((1U << exponent_bits) - 1));
    const int bias = (1 << (exponent_bits - 1)) - 1;
    const double sign = (sample >> (kind.bits - 1)) != 0 ? -1 : 1;
    const double fraction = static_cast<double>(mantissa) / (1U << mantissa_bits);
    return sign * (exponent == 0 ? std::ldexp(fraction, 1 - bias)
                                 : std::ldexp(1 + fraction, exponent - bias));
}

/// A channel of a picture as a number; the formats are plain.
double channel_of(const Picture& picture, std::uint32_t x, std::uint32_t y, std::size_t c) {
    const FormatInfo& f = info(picture.image.format());
    const std::byte* texel = &picture.image.view().row(y)[x * std::size_t{f.block_bytes}];
    const unsigned bits = f.channels[0].bits;
    std::uint32_t code = 0;
    std::memcpy(&code, texel + c * bits / 8, bits / 8);
    if (!f.is_float())
        return code / (bits == 8 ? 255.0 : 65535.0);
    TiffKind as_float = {.bits = bits, .format = floating};
    return value_of(as_float, code);
}

/// The greatest difference to the samples that were written, channel by channel.
double worst_difference(const Picture& picture, const TiffKind& kind,
                        const std::vector<std::uint64_t>& samples,
                        const std::vector<std::size_t>& kept) {
    double worst = 0;
    for (std::uint32_t y = 0; y < kind.height; ++y)
        for (std::uint32_t x = 0; x < kind.width; ++x)
            for (std::size_t c = 0; c < kept.size(); ++c) {
                const std::uint64_t sample =
                    samples[(std::size_t{y} * kind.width + x) * kind.channels + kept[c]];
                double wanted = value_of(kind, sample);
                if (kind.photometric == white_is_zero)
                    wanted = 1 - wanted;
                worst = std::max(worst, std::abs(channel_of(picture, x, y, c) - wanted));
            }
    return worst;
}

/// The library turns the bytes of big-endian numbers before its predictor of floating point splits
/// them, so that it cannot read what it writes; turned twice, the planes are as they should be.
std::vector<std::uint64_t> as_written(const TiffKind& kind, std::vector<std::uint64_t> samples) {
    if (kind.predictor != 3 || !kind.big_endian)
        return samples;
    for (std::uint64_t& sample : samples) {
        std::uint64_t turned = 0;
        for (unsigned bit = 0; bit < kind.bits; bit += 8)
            turned = turned << 8 | (sample >> bit & 0xFF);
        sample = turned;
    }
    return samples;
}

std::vector<std::size_t> all_channels(std::size_t count) {
    std::vector<std::size_t> channels(count);
    for (std::size_t i = 0; i < count; ++i)
        channels[i] = i;
    return channels;
}

/// Half a code of 8 or 16 bits, and what rounding to floats costs.
double slack_of(const TiffKind& kind) {
    if (kind.format != whole)
        return kind.format == with_sign || kind.bits == 64 ? 1e-6 : 0;
    return kind.bits <= 8 ? 0.5 / 255 + 1e-9 : 0.5 / 65535 + 1e-9;
}

}  // namespace

TEST_CASE("every depth, kind of number, scheme, order and layout: the samples that were written") {
    struct Depth {
        std::uint16_t format;
        std::uint32_t bits;
    };
    const Depth depths[] = {{whole, 1},      {whole, 2},      {whole, 4},     {whole, 8},
                            {whole, 12},     {whole, 16},     {whole, 32},    {with_sign, 8},
                            {with_sign, 16}, {with_sign, 32}, {floating, 16}, {floating, 24},
                            {floating, 32},  {floating, 64}};
    std::size_t files = 0;
    for (const Depth& depth : depths)
        for (const std::uint16_t compression : {none, lzw, deflate, run_lengths, old_deflate})
            for (const std::uint32_t layout : {0U, 1U, 2U, 3U})  // bit 0: tiles, bit 1: planes
                for (const std::uint32_t order : {0U, 1U, 2U}) {
                    const std::uint16_t format = depth.format;
                    const std::uint32_t bits = depth.bits;
                    TiffKind kind = {.width = 37, .height = 29, .bits = bits, .format = format};
                    kind.channels = static_cast<std::uint32_t>(files % 4 + 1);
                    kind.photometric = kind.channels < 3 ? black_is_zero : rgb;
                    if (kind.channels % 2 == 0)
                        kind.extra = {2};
                    kind.compression = compression;
                    kind.tile_width = (layout & 1U) != 0 ? 16 : 0;
                    kind.tile_height = 32;
                    kind.is_planar = (layout & 2U) != 0;
                    kind.big_endian = order == 1;
                    kind.big_tiff = order == 2;
                    const bool can_predict = compression != none && compression != run_lengths;
                    if (can_predict && format == floating && bits != 16 && files % 2 == 0)
                        kind.predictor = 3;
                    else if (can_predict && format != floating && bits % 8 == 0 && files % 2 == 0)
                        kind.predictor = 2;
                    const auto samples = samples_of(kind, static_cast<unsigned>(++files));
                    const Picture picture = must(read_picture(
                        reference_tiff(kind, as_written(kind, samples)), {.role = Role::data}));
                    CAPTURE(bits);
                    CAPTURE(format);
                    CAPTURE(compression);
                    CAPTURE(layout);
                    CAPTURE(order);
                    CAPTURE(kind.predictor);
                    REQUIRE(picture.image.width() == 37);
                    REQUIRE(picture.image.height() == 29);
                    CHECK(info(picture.image.format()).channel_count == kind.channels);
                    CHECK(picture.info.file_bits == bits);
                    CHECK(worst_difference(picture, kind, samples, all_channels(kind.channels)) <=
                          slack_of(kind));
                }
    CHECK(files >= 500);
}

TEST_CASE("white is zero, palettes, bits in the other order") {
    for (const std::uint32_t bits : {1U, 4U, 8U, 16U}) {
        TiffKind kind = {.width = 21,
                         .height = 9,
                         .bits = bits,
                         .photometric = white_is_zero,
                         .compression = lzw};
        const auto samples = samples_of(kind, bits);
        CHECK(worst_difference(must(read_picture(reference_tiff(kind, samples))), kind, samples,
                               {0}) <= slack_of(kind));
        kind.photometric = black_is_zero;
        kind.compression = none;
        kind.reverses_bits = true;
        CHECK(worst_difference(must(read_picture(reference_tiff(kind, samples))), kind, samples,
                               {0}) <= slack_of(kind));
    }
    for (const std::uint32_t bits : {1U, 2U, 4U, 8U})
        for (const std::uint32_t scale : {1U, 257U, 251U}) {  // 8 bits as they are, widened, and 16
            TiffKind kind = {.width = 23, .height = 11, .bits = bits, .photometric = palette};
            const std::size_t count = std::size_t{1} << bits;
            for (std::size_t i = 0; i < 3 * count; ++i)
                kind.palette.push_back(static_cast<std::uint16_t>((i * 37 + 5) % 256 * scale));
            const auto samples = samples_of(kind, bits + scale);
            const Picture picture = must(read_picture(reference_tiff(kind, samples)));
            CAPTURE(bits);
            CAPTURE(scale);
            CHECK(picture.info.has_palette);
            CHECK(info(picture.image.format()).channels[0].bits == (scale == 251 ? 16 : 8));
            double worst = 0;
            for (std::uint32_t i = 0; i < samples.size(); ++i)
                for (std::size_t c = 0; c < 3; ++c)
                    worst = std::max(worst, std::abs(channel_of(picture, i % 23, i / 23, c) -
                                                     kind.palette[c * count + samples[i]] /
                                                         (scale == 1 ? 255.0 : 65535.0)));
            CHECK(worst < 1e-9);
        }
}

TEST_CASE("extra channels: alpha by its kind, others left out with a remark") {
    const auto read = [](std::uint32_t channels, std::uint16_t meaning,
                         std::vector<std::uint16_t> extra, std::vector<std::size_t> kept) {
        TiffKind kind = {.width = 9,
                         .height = 8,
                         .channels = channels,
                         .photometric = meaning,
                         .extra = std::move(extra)};
        const auto samples = samples_of(kind, channels);
        Picture picture = must(read_picture(reference_tiff(kind, samples)));
        CHECK(info(picture.image.format()).channel_count == kept.size());
        CHECK(picture.info.file_channels == kept.size());
        CHECK(worst_difference(picture, kind, samples, kept) <= slack_of(kind));
        return picture;
    };
    CHECK(read(4, rgb, {1}, {0, 1, 2, 3}).alpha == AlphaMode::premultiplied);
    CHECK(read(4, rgb, {2}, {0, 1, 2, 3}).alpha == AlphaMode::straight);
    CHECK(read(2, black_is_zero, {2}, {0, 1}).swizzle == gray_alpha_swizzle);
    const auto remarks = [](const Picture& picture) {
        std::string all;
        for (const std::string& remark : picture.info.remarks)
            all += remark + "\n";
        return all;
    };
    CHECK(contains(remarks(read(4, rgb, {0}, {0, 1, 2, 3})), "taken for alpha"));
    CHECK(contains(remarks(read(5, rgb, {0, 2}, {0, 1, 2, 4})), "1 of its 5 channels is left out"));
    CHECK(
        contains(remarks(read(6, rgb, {0, 0, 0}, {0, 1, 2})), "3 of its 6 channels are left out"));
}

TEST_CASE("inks, brightness with colour differences") {
    for (const std::uint32_t bits : {8U, 16U})
        for (const bool is_planar : {false, true}) {
            TiffKind kind = {.width = 13,
                             .height = 7,
                             .channels = 4,
                             .bits = bits,
                             .photometric = cmyk,
                             .is_planar = is_planar};
            const auto samples = samples_of(kind, bits);
            const Picture picture = must(read_picture(reference_tiff(kind, samples)));
            CHECK(picture.info.file_channels == 3);  // inks are no alpha
            double worst = 0;
            for (std::uint32_t i = 0; i < 13 * 7; ++i)
                for (std::size_t c = 0; c < 3; ++c) {
                    const double light = (1 - value_of(kind, samples[4 * i + c])) *
                                         (1 - value_of(kind, samples[4 * i + 3]));
                    worst =
                        std::max(worst, std::abs(channel_of(picture, i % 13, i / 13, c) - light));
                }
            CHECK(worst <= slack_of(kind));
        }
    support::Random random(4);
    for (const std::uint16_t across : std::array<std::uint16_t, 3>{1, 2, 4})
        for (const std::uint16_t down : std::array<std::uint16_t, 3>{1, 2, 4}) {
            const std::uint32_t wide = 10, high = 7;
            const std::size_t columns = (wide + across - 1U) / across;
            const std::size_t unit = across * down + 2U;
            std::vector<std::byte> units(columns * ((high + down - 1U) / down) * unit);
            for (std::byte& byte : units)
                byte = std::byte(random());
            const Picture picture =
                must(read_picture(support::reference_ycbcr_tiff(wide, high, across, down, units)));
            double worst = 0;
            for (std::uint32_t y = 0; y < high; ++y)
                for (std::uint32_t x = 0; x < wide; ++x) {
                    const std::byte* const from = &units[(y / down * columns + x / across) * unit];
                    const auto code = [&](std::size_t i) {
                        return static_cast<double>(std::to_integer<int>(from[i]));
                    };
                    const double light = code(y % down * std::size_t{across} + x % across);
                    const double blue = code(unit - 2) - 128, red = code(unit - 1) - 128;
                    const double wanted[] = {light + 1.402 * red,
                                             light - 0.344136 * blue - 0.714136 * red,
                                             light + 1.772 * blue};
                    for (std::size_t c = 0; c < 3; ++c)
                        worst = std::max(worst, std::abs(255 * channel_of(picture, x, y, c) -
                                                         std::clamp(wanted[c], 0.0, 255.0)));
                }
            CAPTURE(across);
            CAPTURE(down);
            CHECK(worst <= 0.51);
        }
}

TEST_CASE("orientation, pages, header alone, limits") {
    TiffKind kind = {.width = 5, .height = 3, .compression = deflate};
    const auto samples = samples_of(kind, 1);
    const Picture upright = must(read_picture(reference_tiff(kind, samples)));
    for (std::uint16_t number = 2; number <= 8; ++number) {
        kind.orientation = number;
        const auto file = reference_tiff(kind, samples);
        const Picture turned = must(read_picture(file));
        CHECK(support::equal_pixels(support::view_of(turned.image),
                                    support::view_of(must(with_orientation(
                                        upright.image.view(), static_cast<Orientation>(number))))));
        CHECK(must(peek_picture(file)).width == turned.image.width());
    }
    kind.orientation = 1;
    kind.pages = 3;
    const auto file = reference_tiff(kind, samples);
    CHECK(must(peek_picture(file)).frames == 3);
    const PictureFrames pages = must(read_frames(file));
    REQUIRE(pages.pictures.size() == 3);
    CHECK(pages.seconds.empty());
    for (const Picture& page : pages.pictures)
        CHECK(support::equal_pixels(support::view_of(page.image), support::view_of(upright.image)));
    CHECK(contains(must(read_picture(file)).info.remarks.back(), "first of its 3 pages"));
    CHECK(must_fail(read_picture(file, {.limits = {.max_side = 4}})).kind == ErrorKind::limit);
    CHECK(must_fail(read_frames(file, {.limits = {.max_bytes = 40}})).kind == ErrorKind::limit);
    // One picture is one frame, whatever its format.
    const auto png = must(encode_picture("png", upright));
    CHECK(must(read_frames(png)).pictures.size() == 1);
}

TEST_CASE("written files hold the texels, as the reference reads them and as they are read here") {
    for (const Format format :
         {Format::r8_unorm, Format::rg8_unorm, Format::rgb8_srgb, Format::rgba8_srgb,
          Format::r16_unorm, Format::rg16_unorm, Format::rgb16_unorm, Format::rgba16_unorm,
          Format::r16_float, Format::rgba16_float, Format::rgb32_float, Format::rgba32_float})
        for (const std::uint32_t wide : {1U, 7U, 400U}) {
            Picture picture;
            picture.image = must(Image::create(format, wide, 300));
            support::Random random(wide);
            support::fill_random(picture.image.view(), random);
            const auto file = must(encode_picture("tif", picture.image.view()));
            const FormatInfo& f = info(format);
            CAPTURE(f.name);
            CAPTURE(wide);
            const support::ReadTiff by_reference = support::read_by_reference(file);
            CHECK(by_reference.kind.channels == f.channel_count);
            CHECK(by_reference.kind.bits == f.channels[0].bits);
            CHECK(by_reference.kind.format == (f.is_float() ? floating : whole));
            CHECK(by_reference.kind.extra == (f.channel_count % 2 == 0
                                                  ? std::vector<std::uint16_t>{2}
                                                  : std::vector<std::uint16_t>{}));
            const auto bytes = support::bytes_of(picture.image.view());
            const std::size_t size = f.channels[0].bits / 8U;
            bool equal = by_reference.samples.size() * size == bytes.size();
            for (std::size_t i = 0; equal && i < by_reference.samples.size(); ++i)
                equal = std::memcmp(&by_reference.samples[i], &bytes[i * size], size) == 0;
            CHECK(equal);
            const Role role = f.transfer == Transfer::srgb ? Role::color : Role::data;
            const Picture again = must(read_picture(file, {.role = role}));
            CHECK(support::bytes_of(again.image.view()) == bytes);
        }
}

TEST_CASE("damaged TIFF files end with an error or a picture, and claim no memory") {
    TiffKind kind = {.width = 40, .height = 30, .channels = 3, .photometric = rgb};
    for (const std::uint16_t compression : {none, lzw, deflate, run_lengths}) {
        kind.compression = compression;
        auto file = reference_tiff(kind, samples_of(kind, 9));
        for (std::size_t length = 0; length < file.size(); length += 1 + length / 40) {
            const auto part = std::span(file).first(length);
            const auto picture = read_picture(part);
            if (!picture)
                CHECK(!picture.error().message.empty());
        }
        support::Random random(compression);
        for (int i = 0; i < 2000; ++i) {
            auto damaged = file;
            for (int hits = 0; hits < 3; ++hits)
                damaged[random() % damaged.size()] = std::byte(random());
            const auto picture = read_picture(damaged);
            if (!picture)
                CHECK(!picture.error().message.empty());
        }
    }
    // A few bytes that claim a picture of 16,000 x 16,000.
    kind = {.width = 16, .height = 16, .compression = deflate, .rows_per_strip = 20000};
    auto small = reference_tiff(kind, samples_of(kind, 2));
    for (std::size_t i = 0; i + 12 <= small.size(); ++i)
        if ((small[i] == std::byte{0} || small[i] == std::byte{1}) &&
            small[i + 1] == std::byte{1} && small[i + 8] == std::byte{16} &&
            small[i + 9] == std::byte{0}) {
            small[i + 8] = std::byte{0x80};
            small[i + 9] = std::byte{0x3E};
        }
    const Error error = must_fail(read_picture(small));
    CHECK(error.kind == ErrorKind::malformed);
    CHECK(contains(error.message, "ends early"));
}

TEST_CASE("sizes of tiles whose product no number holds are refused") {
    const auto file = [](std::uint32_t wide, std::uint32_t high, std::uint32_t channels) {
        const std::uint32_t entries[][3] = {
            {256, 4, 16},       {257, 4, 16},   {258, 3, 32},   {259, 3, 1}, {262, 3, 1},
            {277, 3, channels}, {322, 4, wide}, {323, 4, high}, {324, 4, 8}, {325, 4, 0xFFFFFFF}};
        ByteWriter writer;
        writer.append("II");
        writer.write(std::uint16_t{42});
        writer.write(std::uint32_t{8});
        writer.write(static_cast<std::uint16_t>(std::size(entries)));
        for (const auto& [tag, type, value] : entries) {
            writer.write(static_cast<std::uint16_t>(tag));
            writer.write(static_cast<std::uint16_t>(type));
            writer.write(std::uint32_t{1});
            writer.write(value);
        }
        writer.write(std::uint32_t{0});
        return writer.release();
    };
    for (const Limits& limits : {Limits{}, Limits::none()})
        for (const std::uint32_t side : {0x7FFFFFFFU, 0x40000000U, 0x10000U})
            for (const std::uint32_t channels : {1U, 1024U}) {
                CAPTURE(side);
                CAPTURE(channels);
                CHECK_FALSE(read_picture(file(side, side, channels), {.limits = limits}));
            }
    // A file without any page.
    const auto nothing = support::bytes_of({'I', 'I', 42, 0, 0, 0, 0, 0});
    CHECK(must_fail(read_picture(nothing)).kind == ErrorKind::malformed);
    CHECK(must_fail(read_frames(nothing)).kind == ErrorKind::malformed);
    // The same layout is read when it is true.
    auto sound = file(16, 16, 1);
    sound.resize(8 + 16 * 16 * 4);
    CHECK(read_picture(sound).has_value());
}
