// JPEG that we write, as the general-purpose library reads it.
#include <cmath>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/reference_jpeg.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

/// Waves of several lengths with some noise, in one channel or three.
Image waves(std::uint32_t width, std::uint32_t height, std::uint32_t channels, int noise,
            std::uint32_t seed = 1) {
    support::Random random(seed);
    Image image =
        must(Image::create(channels == 1 ? Format::r8_unorm : Format::rgb8_srgb, width, height));
    for (std::uint32_t y = 0; y < height; ++y) {
        std::byte* at = image.view().row(y).data();
        for (std::uint32_t x = 0; x < width; ++x)
            for (std::uint32_t c = 0; c < channels; ++c) {
                const double wave = 50 * std::sin(0.11 * x + c) +
                                    40 * std::cos(0.07 * y - 2.0 * c) +
                                    20 * std::sin(0.5 * (x + y));
                const int grain =
                    noise > 0 ? static_cast<int>(random() % static_cast<unsigned>(noise)) : 0;
                *at++ = std::byte(std::clamp(static_cast<int>(128 + wave) + grain, 0, 255));
            }
    }
    return image;
}

/// Of the reference's pixels from ours, in decibels.
double psnr(ConstImageView image, const std::vector<int>& read) {
    const std::size_t row = std::size_t{image.width} * info(image.format).channel_count;
    REQUIRE(read.size() == row * image.height);
    double sum = 0;
    for (std::uint32_t y = 0; y < image.height; ++y)
        for (std::size_t i = 0; i < row; ++i) {
            const double off = std::to_integer<int>(image.row(y)[i]) - read[y * row + i];
            sum += off * off;
        }
    return 10 * std::log10(255.0 * 255 * static_cast<double>(read.size()) / std::max(sum, 1e-9));
}

std::vector<std::byte> jpeg_of(const Image& image, const WriteOptions& options) {
    return must(encode_picture("jpg", image.view(), options));
}

}  // namespace

TEST_CASE("JPEG of every size, in both orders, is what it was written of") {
    for (const std::uint32_t channels : {1U, 3U})
        for (const auto& size :
             std::initializer_list<std::pair<std::uint32_t, std::uint32_t>>{{1, 1},
                                                                            {2, 9},
                                                                            {8, 8},
                                                                            {9, 7},
                                                                            {16, 16},
                                                                            {17, 33},
                                                                            {40, 5},
                                                                            {63, 64},
                                                                            {130, 70}}) {
            const std::uint32_t width = size.first, height = size.second;
            CAPTURE(width);
            CAPTURE(height);
            const Image image = waves(width, height, channels, 0);
            for (const bool halve : {false, true}) {
                const WriteOptions options{.quality = 95, .halve_chroma = halve};
                WriteOptions in_steps = options;
                in_steps.is_progressive = true;
                const auto plain = support::read_reference_jpeg(jpeg_of(image, options));
                const auto steps = support::read_reference_jpeg(jpeg_of(image, in_steps));
                CHECK(plain == steps);  // the same coefficients
                CHECK(psnr(image.view(), plain) > (channels == 1 ? 42 : halve ? 22 : 36));
            }
        }
}

TEST_CASE("quality says how much is lost, and how large the file gets") {
    const Image image = waves(200, 150, 3, 12);
    double last = 0;
    std::size_t bytes = 0;
    for (const int quality : {1, 10, 30, 50, 75, 90, 95, 98, 100}) {
        CAPTURE(quality);
        const auto file = jpeg_of(image, {.quality = quality, .halve_chroma = false});
        const double now = psnr(image.view(), support::read_reference_jpeg(file));
        CHECK(now > last);
        CHECK(file.size() > bytes);
        last = now;
        bytes = file.size();
    }
    CHECK(last > 46);
    // Noise of the strongest kind fills every size of coefficients.
    support::Random random(5);
    Image noise = must(Image::create(Format::rgb8_srgb, 64, 64));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::byte& byte : noise.view().row(y))
            byte = std::byte(random() % 2 * 255);
    for (const bool in_steps : {false, true})
        CHECK(psnr(std::as_const(noise).view(),
                   support::read_reference_jpeg(
                       jpeg_of(noise, {.quality = 100, .is_progressive = in_steps}))) > 40);
}

TEST_CASE("files are as small as the reference's of the same quality, within a twentieth") {
    const Image image = waves(256, 256, 3, 16);
    const auto ours = jpeg_of(image, {.quality = 90, .halve_chroma = false});
    const auto in_steps =
        jpeg_of(image, {.quality = 90, .halve_chroma = false, .is_progressive = true});
    MESSAGE("at once " << ours.size() << ", in steps " << in_steps.size());
    CHECK(in_steps.size() < ours.size() * 21 / 20);
    // The reference writes waves of its own: what it reads of them is written again.
    const auto theirs =
        support::write_reference_jpeg({.width = 256, .height = 256, .optimized = true});
    const Picture read = must(read_picture(theirs));
    const auto again = jpeg_of(read.image, {.quality = 90, .halve_chroma = false});
    MESSAGE("the reference " << theirs.size() << ", ours " << again.size());
    CHECK(again.size() < theirs.size() * 21 / 20);
}

TEST_CASE("we read our own JPEG, with its profile, and refuse what it cannot hold") {
    std::vector<std::byte> profile(150'000);
    for (std::size_t i = 0; i < profile.size(); ++i)
        profile[i] = std::byte(i * 7 & 255U);
    const Image image = waves(50, 40, 3, 0);
    const auto file = jpeg_of(image, {.color_profile = profile, .quality = 97});
    const Picture back = must(read_picture(file, {.profile = ProfileUse::keep}));
    CHECK(back.info.color_profile == profile);
    CHECK(back.image.width() == 50);
    CHECK(support::mean_difference(back.image.view(), image.view()) < 1);

    const Image alpha = must(Image::create(Format::rgba8_srgb, 4, 4));
    CHECK(contains(must_fail(encode_picture("jpg", alpha.view())).message, "JPEG does not hold"));
    for (const int quality : {0, 101})
        CHECK(must_fail(encode_picture("jpg", image.view(), {.quality = quality})).kind ==
              ErrorKind::usage);
    const Image wide = must(Image::create(Format::r8_unorm, 65536, 1, Limits::none()));
    CHECK(contains(must_fail(encode_picture("jpeg", wide.view())).message, "65535"));
}
