// What pixels hold: channels and bits in use, directions, seams; and pictures held side by side.
#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

TEST_CASE("channels in use are found") {
    Image image = must(Image::create(Format::rgba8_unorm, 3, 2));
    for (std::uint32_t y = 0; y < 2; ++y)
        for (std::byte& byte : image.view().row(y))
            byte = std::byte{255};
    ChannelUse use = analyse_channels(image.view());
    CHECK(use.useful_channels() == 1);
    image.view().row(1)[11] = std::byte{0};
    use = analyse_channels(image.view());
    CHECK(use.useful_channels() == 2);
    CHECK(use.alpha_is_binary);
    image.view().row(0)[2] = std::byte{254};
    image.view().row(0)[3] = std::byte{7};
    use = analyse_channels(image.view());
    CHECK(use.useful_channels() == 4);
    CHECK_FALSE(use.alpha_is_binary);
}

TEST_CASE("content is measured in shares of the pixels, through the swizzle") {
    Image image = must(Image::create(Format::rgba8_srgb, 4, 1));
    const int codes[] = {128, 128, 255, 255,  // straight out
                         218, 128, 37,  255,  // as long, but inwards
                         218, 128, 218, 100,  // aslant
                         128, 128, 140, 0};   // no length
    std::ranges::transform(codes, image.view().row(0).begin(),
                           [](int code) { return static_cast<std::byte>(code); });
    const ContentMeasure content = measure_content(image.view());
    CHECK_FALSE(content.is_uniform);
    CHECK(content.directions == 0.5F);
    CHECK(content.transparent == 0.5F);
    CHECK(measure_content(image.view(), gray_swizzle).transparent == 0);
    CHECK(measure_content(image.view(), gray_swizzle).directions == 0);
    ConstImageView first = image.view();
    first.width = 1;
    CHECK(measure_content(first).is_uniform);
}

TEST_CASE("bits in use: values widened from fewer bits are seen through") {
    for (const auto& [bits, step] : {std::pair{1U, 255U}, {2U, 85U}, {4U, 17U}, {8U, 1U}}) {
        Image narrow = must(Image::create(Format::rg8_unorm, 64, 4));
        Image wide = must(Image::create(Format::rg16_unorm, 64, 4));
        for (std::uint32_t y = 0; y < 4; ++y)
            for (std::uint32_t i = 0; i < 128; ++i) {
                const std::uint32_t code = (i * 7 + y) % (255 / step + 1) * step;
                narrow.view().row(y)[i] = static_cast<std::byte>(code);
                const auto widened = static_cast<std::uint16_t>(code * 257);
                std::memcpy(wide.view().row(y).data() + 2 * i, &widened, 2);
            }
        CHECK(bits_in_use(narrow.view()) == bits);
        CHECK(bits_in_use(wide.view()) == bits);
        wide.view().row(3)[0] ^= std::byte{1};
        CHECK(bits_in_use(wide.view()) == 16);
    }
    CHECK(bits_in_use(support::view_of(must(Image::create(Format::rgba16_float, 1, 1)))) == 16);
}

TEST_CASE("a seam is the step over the edge against the steps within") {
    const auto measure = [](auto value_at) {
        Image image = must(Image::create(Format::r8_srgb, 64, 32));
        for (std::uint32_t y = 0; y < 32; ++y)
            for (std::uint32_t x = 0; x < 64; ++x)
                image.view().row(y)[x] = static_cast<std::byte>(value_at(x, y));
        return measure_seams(image.view());
    };
    const SeamMeasure ramp = measure([](auto x, auto) { return 2 * x; });
    CHECK(ramp.across == doctest::Approx(63));  // one step of 126 against steps of 2
    CHECK(ramp.down == 0);
    const SeamMeasure downwards = measure([](auto, auto y) { return 4 * y; });
    CHECK(downwards.down == doctest::Approx(31));
    CHECK(downwards.across == 0);
    const SeamMeasure tiles =
        measure([](auto x, auto y) { return x % 16 * 4 + (y % 8 < 4 ? y % 8 : 8 - y % 8) * 10; });
    CHECK(tiles.across < 10 * SeamMeasure::visible);
    CHECK(tiles.down == doctest::Approx(1).epsilon(0.1));
    const SeamMeasure flat = measure([](auto, auto) { return 9; });
    CHECK(flat.across == 0);
    CHECK(flat.down == 0);
    const SeamMeasure one_line =
        measure([](auto x, auto y) { return x == 63 || y == 31 ? 200 : 0; });
    CHECK(one_line.across > SeamMeasure::visible);
}

TEST_CASE("every step of a small picture counts in its seam, across and down") {
    const int codes[] = {0, 50, 10};
    for (const bool is_down : {false, true}) {
        Image line = must(Image::create(Format::r8_unorm, is_down ? 1 : 3, is_down ? 3 : 1));
        for (std::uint32_t i = 0; i < 3; ++i)
            line.view().row(is_down ? i : 0)[is_down ? 0 : i] = static_cast<std::byte>(codes[i]);
        const SeamMeasure seam = measure_seams(line.view());
        CHECK((is_down ? seam.down : seam.across) == doctest::Approx(10 / 45.0));  // steps 50, 40
        CHECK((is_down ? seam.across : seam.down) == 0);
    }
}

TEST_CASE("pictures are compared where sizes and formats are equal, and differ in one of them") {
    const auto image = [](std::uint32_t width, std::uint32_t height, Format format) {
        Image made = must(Image::create(format, width, height));
        for (std::uint32_t y = 0; y < height; ++y)
            std::ranges::fill(made.view().row(y), std::byte{9});
        return made;
    };
    const Image own = image(4, 3, Format::rgba8_unorm);
    CHECK(must(compare_pictures(own.view(), own.view(), 0)).pixels == 12);
    const auto refused = [&](std::uint32_t width, std::uint32_t height, Format format) {
        const Image other = image(width, height, format);
        const Error error = must_fail(compare_pictures(own.view(), other.view(), 0));
        CHECK(error.kind == ErrorKind::usage);
        return error.message;
    };
    CHECK(contains(refused(5, 3, Format::rgba8_unorm),
                   "4 x 3 pixels of rgba8-unorm cannot be compared with 5 x 3 of rgba8-unorm"));
    CHECK(contains(refused(4, 2, Format::rgba8_unorm), "with 4 x 2 of rgba8-unorm"));
    CHECK(contains(refused(4, 3, Format::rgba8_srgb), "with 4 x 3 of rgba8-srgb"));
    // Where the greatest difference lies, in a picture that is not square.
    Image changed = image(4, 3, Format::rgba8_unorm);
    changed.view().row(2)[4 * 3 + 1] = std::byte{29};
    const PictureDifference difference = must(compare_pictures(own.view(), changed.view(), 19));
    CHECK(difference.max == 20);
    CHECK(difference.worst_x == 3);
    CHECK(difference.worst_y == 2);
    CHECK(difference.pixels_beyond == 1);
    CHECK(must(compare_pictures(own.view(), changed.view(), 20)).pixels_beyond == 0);
}
