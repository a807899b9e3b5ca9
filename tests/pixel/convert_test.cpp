#include <cstring>
#include <yl/yl.hpp>

#include "pixel/rows.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

namespace {

template <class T>
T at(const Image& image, std::uint32_t x, std::uint32_t y, std::size_t index = 0) {
    T value;
    std::memcpy(
        &value,
        image.view().row(y).data() + x * info(image.format()).block_bytes + index * sizeof(T),
        sizeof(T));
    return value;
}

Image one_pixel(Format format, std::initializer_list<int> bytes) {
    Image image = must(Image::create(format, 1, 1));
    std::size_t i = 0;
    for (const int byte : bytes)
        image.view().row(0)[i++] = static_cast<std::byte>(byte);
    return image;
}

}  // namespace

TEST_CASE("hand-worked conversions") {
    const Image color = one_pixel(Format::rgba8_srgb, {0, 128, 255, 128});
    const Image light =
        must(convert(color.view(), Format::rgba32_float,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(at<float>(light, 0, 0, 0) == 0.0F);
    CHECK(at<float>(light, 0, 0, 1) == doctest::Approx(0.2158605));
    CHECK(at<float>(light, 0, 0, 2) == 1.0F);
    CHECK(at<float>(light, 0, 0, 3) == doctest::Approx(128.0 / 255));  // alpha is no light

    const Image half =
        must(convert(color.view(), Format::rgba16_float,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(at<std::uint16_t>(half, 0, 0, 2) == 0x3C00);
    const Image swapped =
        must(convert(color.view(), Format::bgra8_srgb,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(at<std::uint8_t>(swapped, 0, 0, 0) == 255);
    CHECK(at<std::uint8_t>(swapped, 0, 0, 2) == 0);
    const Image linear =
        must(convert(color.view(), Format::rgba8_unorm,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(at<std::uint8_t>(linear, 0, 0, 1) == 55);  // 0.2158605 * 255 = 55.04
    const Image packed =
        must(convert(linear.view(), Format::rgb10a2_unorm,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(at<std::uint32_t>(packed, 0, 0) ==
          (2U << 30 | 1023U << 20 | 221U << 10));  // 55 * 1023 / 255 = 220.65
    const Image wide =
        must(convert(linear.view(), Format::r16_unorm,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(at<std::uint16_t>(wide, 0, 0) == 0);
}

TEST_CASE("missing channels are 0, missing alpha is 1") {
    const Image red = one_pixel(Format::r8_unorm, {51});
    const Image all =
        must(convert(red.view(), Format::rgba8_unorm,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(at<std::uint32_t>(all, 0, 0) == 0xFF000033);
    const Image gray =
        must(convert(red.view(), Format::rgba8_unorm,
                     {.source_transfer = Transfer::linear, .swizzle = gray_swizzle}));
    CHECK(at<std::uint32_t>(gray, 0, 0) == 0xFF333333);
}

TEST_CASE("signed values: the two least codes are both -1, and 0 stays 0") {
    for (const int code : {-128, -127, 0, 127}) {
        const Image image = one_pixel(Format::r8_snorm, {code & 0xFF});
        const float value = at<float>(must(convert(image.view(), Format::r32_float,
                                                   {.source_transfer = Transfer::linear,
                                                    .to_one_channel = ToOneChannel::red})),
                                      0, 0);
        CHECK(value == doctest::Approx(std::max(code, -127) / 127.0));
    }
    const Image source = one_pixel(Format::r8_unorm, {255});
    CHECK(at<std::int16_t>(must(convert(source.view(), Format::r16_snorm,
                                        {.source_transfer = Transfer::linear,
                                         .to_one_channel = ToOneChannel::red})),
                           0, 0) == 32767);
}

TEST_CASE("16-bit pixels may hold sRGB values, and are told apart by the transfer") {
    Image wide = must(Image::create(Format::r16_unorm, 1, 1));
    const std::uint16_t code = 0x8080;  // 128 in 8 bits
    std::memcpy(wide.view().row(0).data(), &code, 2);
    CHECK(at<std::uint8_t>(must(convert(wide.view(), Format::r8_unorm,
                                        {.source_transfer = Transfer::linear,
                                         .to_one_channel = ToOneChannel::red})),
                           0, 0) == 128);
    CHECK(at<std::uint8_t>(must(convert(wide.view(), Format::r8_srgb,
                                        {.source_transfer = Transfer::linear,
                                         .to_one_channel = ToOneChannel::red})),
                           0, 0) == 188);  // linear 0.50196
    CHECK(at<std::uint8_t>(
              must(convert(wide.view(), Format::r8_srgb, {.source_transfer = Transfer::srgb})), 0,
              0) == 128);
    const Image back =
        must(convert(wide.view(), Format::rgba16_unorm,
                     {.source_transfer = Transfer::srgb, .target_transfer = Transfer::srgb}));
    CHECK(at<std::uint16_t>(back, 0, 0) == code);
}

TEST_CASE("every format to every other: one that can hold more gives the same bytes back") {
    for (const FormatInfo& from : all_formats()) {
        CAPTURE(from.name);
        if (from.is_block())
            continue;
        const Texture source =
            support::random_texture({.format = from.format, .width = 33, .height = 5}, 7);
        for (const FormatInfo& to : all_formats())
            if (!to.is_block())
                must(convert(
                    source.image(0), to.format,
                    {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
        const Image floats = must(
            convert(source.image(0), Format::rgba32_float,
                    {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
        const Image back = must(
            convert(floats.view(), from.format,
                    {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
        if (from.kind == NumericKind::snorm || from.kind == NumericKind::shared_exponent) {
            // -128 and -127 are one value; shared exponents have several patterns for one value.
            const Image again = must(convert(
                back.view(), Format::rgba32_float,
                {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
            CHECK(support::equal_pixels(again.view(), floats.view()));
        } else {
            CHECK(support::equal_pixels(back.view(), source.image(0)));
        }
    }
}

TEST_CASE("sizes that do not fit are refused") {
    const Image a = must(Image::create(Format::r8_unorm, 2, 2));
    Image b = must(Image::create(Format::r8_unorm, 2, 3));
    CHECK(must_fail(
              convert(a.view(), b.view(),
                      {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}))
              .kind == ErrorKind::usage);
}

TEST_CASE("swizzles have a text form") {
    CHECK(swizzle_text(gray_alpha_swizzle) == "rrrg");
    CHECK(parse_swizzle("bgra") == Swizzle{SwizzleSource::blue, SwizzleSource::green,
                                           SwizzleSource::red, SwizzleSource::alpha});
    CHECK(parse_swizzle("01ra") == Swizzle{SwizzleSource::zero, SwizzleSource::one,
                                           SwizzleSource::red, SwizzleSource::alpha});
    CHECK_FALSE(parse_swizzle("rgb"));
    CHECK_FALSE(parse_swizzle("rgbx"));
}

TEST_CASE("blocks are copied as blocks, and no row further") {
    for (const Format format : {Format::bc1_unorm, Format::bc6h_ufloat, Format::bc7_srgb}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 7, .height = 56}, 3);
        // Nothing lies behind the image's rows of blocks but what must stay.
        std::vector<std::byte> memory(texture.level(0).size() + 4096, std::byte{0x5A});
        const ConstImageView source = texture.image(0);
        const ImageView target = {memory.data(), format, 7, 56, source.row_stride};
        must(convert(source, target, {}));
        CHECK(std::equal(texture.level(0).begin(), texture.level(0).end(), memory.begin()));
        CHECK(std::all_of(memory.end() - 4096, memory.end(),
                          [](std::byte byte) { return byte == std::byte{0x5A}; }));
    }
}
