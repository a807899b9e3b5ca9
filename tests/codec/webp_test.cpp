// WebP against the general-purpose library: pixels of every kind of file, animations, what files
// say besides, and files that we write.
#include <array>
#include <cstdlib>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_webp.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::read_reference_webp;
using support::reference_webp;
using support::WebpFrame;
using support::WebpKind;

namespace {

using Bytes = std::vector<std::byte>;

/// Gradients, flat pieces, few colours, and noise, each in a part of the picture: every transform
/// and prediction has something to do.
Bytes mixed_pixels(int width, int height, bool has_alpha, support::Random& random) {
    Bytes pixels;
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    const int kind = below(5), noise = 1 + below(60), colors = 1 + below(40);
    const std::array<int, 3> slope = {below(9) - 4, below(9) - 4, below(9) - 4};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const int part = kind == 4 ? (x / 16 + y / 12) % 4 : kind;
            const int patch = (x / 5 * 7 + y / 3 * 11) % colors;
            for (int c = 0; c < 3; ++c) {
                const int ramp = 128 + (slope[static_cast<std::size_t>(c)] * x + y * (c - 1)) % 120;
                const int value = part == 0   ? ramp
                                  : part == 1 ? patch * (37 + 31 * c) % 256
                                  : part == 2 ? ramp + below(noise) - noise / 2
                                              : below(256);
                pixels.push_back(std::byte(std::clamp(value, 0, 255)));
            }
            const int alpha = part == 1   ? (patch % 3) * 127
                              : part == 3 ? below(256)
                                          : 255 - x % 200;
            pixels.push_back(std::byte(has_alpha ? std::clamp(alpha, 0, 255) : 255));
        }
    return pixels;
}

WebpKind random_kind(support::Random& random, bool is_lossless) {
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    WebpKind kind{.width = 1 + below(90), .height = 1 + below(70), .is_lossless = is_lossless};
    kind.has_alpha = below(2) == 1;
    kind.method = below(7);
    kind.quality = static_cast<float>(below(101));
    kind.is_exact = below(3) > 0;
    if (is_lossless && below(4) == 0)
        kind.near_lossless = 20 * below(6);
    kind.segments = 1 + below(4);
    kind.partitions = below(4);
    kind.filter_strength = below(101);
    kind.filter_sharpness = below(8);
    kind.has_strong_filter = below(3) > 0;
    kind.alpha_quality = below(2) == 1 ? 100 : below(101);
    kind.alpha_compression = below(2);
    kind.alpha_filtering = below(3);
    return kind;
}

struct Off {
    int worst = 0, worst_alpha = 0;
    std::size_t all = 0;
};

/// From four bytes for each pixel.
void add_difference(Off& off, ConstImageView ours, const Bytes& theirs) {
    const std::size_t channels = info(ours.format).channel_count;
    REQUIRE(theirs.size() == std::size_t{4} * ours.width * ours.height);
    for (std::uint32_t y = 0; y < ours.height; ++y)
        for (std::size_t x = 0; x < ours.width; ++x)
            for (std::size_t c = 0; c < 4; ++c) {
                const int own =
                    c < channels ? std::to_integer<int>(ours.row(y)[x * channels + c]) : 255;
                const int other =
                    std::to_integer<int>(theirs[4 * (std::size_t{y} * ours.width + x) + c]);
                int& worst = c == 3 ? off.worst_alpha : off.worst;
                worst = std::max(worst, std::abs(own - other));
                ++off.all;
            }
}

/// The greatest ones of colours as much as they are seen, and of alpha.
std::array<int, 2> visible_difference(ConstImageView ours, const Bytes& theirs) {
    std::array<int, 2> worst{};
    for (std::uint32_t y = 0; y < ours.height; ++y)
        for (std::size_t x = 0; x < ours.width; ++x) {
            const auto own = [&](std::size_t c) {
                return std::to_integer<int>(ours.row(y)[4 * x + c]);
            };
            const auto other = [&](std::size_t c) {
                return std::to_integer<int>(theirs[4 * (std::size_t{y} * ours.width + x) + c]);
            };
            worst[1] = std::max(worst[1], std::abs(own(3) - other(3)));
            for (std::size_t c = 0; c < 3; ++c)
                worst[0] =
                    std::max(worst[0], std::abs(own(c) * own(3) - other(c) * other(3)) / 255);
        }
    return worst;
}

}  // namespace

TEST_CASE("WebP of every kind is read to the last bit, without loss and with") {
    for (const bool is_lossless : {true, false}) {
        CAPTURE(is_lossless);
        support::Random random(is_lossless ? 9 : 10);
        Off off;
        for (int i = 0; i < 700; ++i) {
            const WebpKind kind = random_kind(random, is_lossless);
            const Bytes file =
                reference_webp(kind, mixed_pixels(kind.width, kind.height, kind.has_alpha, random));
            CAPTURE(i);
            const Picture picture = must(read_picture(file));
            CHECK(picture.info.file_format == "WebP");
            CHECK(picture.image.format() ==
                  (picture.info.file_channels == 4 ? Format::rgba8_srgb : Format::rgb8_srgb));
            add_difference(off, picture.image.view(), read_reference_webp(file));
        }
        CHECK(off.worst == 0);
        CHECK(off.worst_alpha == 0);
        CHECK(off.all > 1'000'000);
    }
}

TEST_CASE("a large picture with several parts and groups of codes") {
    support::Random random(11);
    for (const bool is_lossless : {false, true}) {
        const WebpKind kind{.width = 700,
                            .height = 500,
                            .has_alpha = true,
                            .is_lossless = is_lossless,
                            .method = 6,
                            .quality = 90,
                            .partitions = 3};
        const Bytes file = reference_webp(kind, mixed_pixels(700, 500, true, random));
        Off off;
        const Picture picture = must(read_picture(file));
        add_difference(off, picture.image.view(), read_reference_webp(file));
        CHECK(off.worst == 0);
        CHECK(off.worst_alpha == 0);
    }
}

TEST_CASE("animations of WebP are drawn as the reference draws them") {
    support::Random random(12);
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    for (int round = 0; round < 40; ++round) {
        const int width = 12 + below(20), height = 10 + below(20);
        std::vector<WebpFrame> frames;
        for (int i = 0; i < 5; ++i) {
            WebpFrame frame{.x = 2 * below(3), .y = 2 * below(3), .milliseconds = 10 * below(50)};
            frame.is_cleared = below(2) == 1;
            frame.replaces = below(2) == 1;
            const WebpKind kind{.width = 1 + below(width - frame.x),
                                .height = 1 + below(height - frame.y),
                                .has_alpha = true,
                                .is_lossless = true};
            frame.file = reference_webp(kind, mixed_pixels(kind.width, kind.height, true, random));
            frames.push_back(std::move(frame));
        }
        const Bytes file = support::reference_webp_animation(width, height, frames, round % 3);
        const auto shown = support::read_reference_animation(file);
        const PictureFrames read = must(read_frames(file));
        REQUIRE(read.pictures.size() == shown.size());
        CHECK(read.plays == static_cast<std::uint32_t>(round % 3));
        CHECK(must(peek_picture(file)).frames == 5);
        for (std::size_t i = 0; i < shown.size(); ++i) {
            CAPTURE(i);
            CHECK(read.seconds[i] == doctest::Approx(frames[i].milliseconds / 1000.0));
            const auto [color, alpha] = visible_difference(read.pictures[i].image.view(), shown[i]);
            CHECK(alpha <= 2);  // roundings of five frames, one over the other
            CHECK(color <= 3);
        }
        const Picture picture = must(read_picture(file));
        const Picture first = must(convert(picture, Format::rgba8_srgb));
        CHECK(support::equal_pixels(first.image.view(),
                                    std::as_const(read.pictures[0].image).view()));
    }
}

TEST_CASE("what a WebP file says besides its pixels") {
    support::Random random(13);
    const WebpKind kind{.width = 9, .height = 5, .is_lossless = true};
    const Bytes plain = reference_webp(kind, mixed_pixels(9, 5, false, random));
    const Picture upright = must(read_picture(plain));
    CHECK(upright.info.declared_transfer == Transfer::srgb);
    CHECK_FALSE(upright.info.leaves_transfer_open);

    // Orientation 6: the first row is to be at the right.
    ByteWriter exif;
    exif.append("II*");
    exif.write(std::uint8_t{0});
    exif.write(std::uint32_t{8});
    exif.write(std::uint16_t{1});
    for (const auto number : std::initializer_list<std::uint16_t>{0x0112, 3, 1, 0, 6, 0})
        exif.write<std::uint16_t>(number);
    exif.write(std::uint32_t{0});
    for (const std::string_view prefix : {std::string_view(), std::string_view("Exif\0\0", 6)}) {
        ByteWriter content;
        content.append(prefix);
        content.append(exif.bytes());
        const Bytes file = support::with_webp_chunk(plain, "EXIF", content.bytes());
        const Picture turned = must(read_picture(file));
        CHECK(turned.info.applied_orientation == Orientation::quarter_right);
        CHECK(turned.image.width() == 5);
        CHECK(must(peek_picture(file)).width == 5);
        const Image expected =
            must(with_orientation(upright.image.view(), Orientation::quarter_right));
        CHECK(support::equal_pixels(turned.image.view(), expected.view()));
    }

    const Bytes profile(200, std::byte{7});
    const Bytes with_profile = support::with_webp_chunk(plain, "ICCP", profile);
    const Picture kept = must(read_picture(with_profile, {.profile = ProfileUse::keep}));
    CHECK(kept.info.color_profile == profile);
}

TEST_CASE("WebP that we write is read back by the reference, and by us") {
    support::Random random(14);
    for (int i = 0; i < 200; ++i) {
        const int width = 1 + static_cast<int>(random() % 120),
                  height = 1 + static_cast<int>(random() % 90);
        const bool has_alpha = i % 2 == 0;
        const Bytes pixels = mixed_pixels(width, height, has_alpha, random);
        Image image = must(Image::create(Format::rgba8_srgb, static_cast<std::uint32_t>(width),
                                         static_cast<std::uint32_t>(height)));
        for (std::uint32_t y = 0; y < image.height(); ++y)
            std::copy_n(pixels.begin() + static_cast<std::ptrdiff_t>(4 * y * image.width()),
                        4 * image.width(), image.view().row(y).begin());
        const int effort = i % 11;
        CAPTURE(i);
        const Bytes file = must(
            encode_picture("webp", std::as_const(image).view(), WriteOptions{.effort = effort}));
        CHECK(read_reference_webp(file) == pixels);
        const Picture back = must(read_picture(file, {.widen_to_rgba = true}));
        CHECK(support::equal_pixels(back.image.view(), std::as_const(image).view()));
    }
}

TEST_CASE("WebP that we write: what it holds, what it says, and how small it is") {
    support::Random random(15);
    Image wide = must(Image::create(Format::rgb8_srgb, 64, 64));
    support::fill_random(wide.view(), random);
    const Bytes profile(100, std::byte{9});
    const Bytes file = must(
        encode_picture("webp", std::as_const(wide).view(), WriteOptions{.color_profile = profile}));
    const Picture back = must(read_picture(file, {.profile = ProfileUse::keep}));
    CHECK(back.info.color_profile == profile);
    CHECK(support::equal_pixels(back.image.view(), std::as_const(wide).view()));
    CHECK(read_reference_webp(file).size() == 64 * 64 * 4);

    const Image deep = must(Image::create(Format::rgba16_unorm, 4, 4));
    CHECK(contains(must_fail(encode_picture("webp", deep.view())).message, "WebP does not hold"));
    const Image long_one = must(Image::create(Format::rgb8_srgb, 16385, 1, Limits::none()));
    CHECK(contains(must_fail(encode_picture("webp", long_one.view())).message, "16384"));

    // Of every kind of picture: no larger than a tenth more than the reference makes of all.
    std::size_t ours = 0, theirs = 0;
    for (int i = 0; i < 16; ++i) {
        const Bytes pixels = mixed_pixels(200, 150, i % 2 == 0, random);
        Image picture = must(Image::create(Format::rgba8_srgb, 200, 150));
        std::copy(pixels.begin(), pixels.end(), picture.view().data);
        ours += must(encode_picture("webp", std::as_const(picture).view())).size();
        theirs += reference_webp(
                      {.width = 200, .height = 150, .has_alpha = true, .is_lossless = true}, pixels)
                      .size();
    }
    MESSAGE("ours " << ours << ", the reference's " << theirs);
    CHECK(ours < theirs * 11 / 10);
}

TEST_CASE("damaged WebP is refused with a place, or read as far as it goes") {
    support::Random random(16);
    for (const bool is_lossless : {true, false}) {
        const WebpKind kind{.width = 60,
                            .height = 50,
                            .has_alpha = true,
                            .is_lossless = is_lossless,
                            .quality = 90};
        const Bytes file = reference_webp(kind, mixed_pixels(60, 50, true, random));
        std::size_t refused = 0;
        for (std::size_t size = 12; size + 1 < file.size(); size += file.size() / 97) {
            const auto cut = read_picture(std::span(file).first(size));
            if (cut)
                continue;
            ++refused;
            CHECK_FALSE(cut.error().message.empty());
            CHECK(cut.error().kind == ErrorKind::malformed);
        }
        CHECK(refused > 80);
        for (int i = 0; i < 2000; ++i) {
            Bytes damaged = file;
            for (int n = 0; n <= i % 3; ++n)
                damaged[random() % damaged.size()] = std::byte(random() % 256);
            const auto read = read_picture(damaged, {.limits = {.max_bytes = 1 << 22}});
            if (!read)
                CHECK_FALSE(read.error().message.empty());
        }
    }
    // Cut off within the alpha, which comes first.
    const Bytes alpha_first = reference_webp({.width = 60, .height = 50, .has_alpha = true},
                                             mixed_pixels(60, 50, true, random));
    CHECK(contains(must_fail(read_picture(std::span(alpha_first).first(50))).message,
                   "ends before its pixels"));
    // The pixels' size and the picture's differ.
    const Bytes one = reference_webp({.width = 8, .height = 8, .is_lossless = true},
                                     mixed_pixels(8, 8, false, random));
    Bytes other = support::with_webp_chunk(one, "EXIF", Bytes(4));
    other[12 + 8 + 4] = std::byte{9};  // the width less one
    CHECK(contains(must_fail(read_picture(other)).message, "but the picture is 10 x 8"));
    CHECK(contains(must_fail(peek_picture(other)).message, "10 x 8"));
}
