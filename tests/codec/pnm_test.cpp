#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

std::vector<std::byte> file_of(std::string_view text) {
    const auto bytes = as_bytes(text);
    return {bytes.begin(), bytes.end()};
}

}  // namespace

TEST_CASE("headers with comments and odd spaces, and samples of any greatest value") {
    const Picture picture =
        must(read_picture(file_of("P6\n# a comment\n 2\t1 #another\n255\nabcdef")));
    CHECK(picture.image.format() == Format::rgb8_srgb);
    CHECK(as_text(picture.image.view().row(0)) == "abcdef");
    const Picture gray = must(read_picture(file_of("P5 3 1 5 \x01\x05\x07")));
    CHECK(gray.swizzle == gray_swizzle);
    CHECK(support::bytes_of(gray.image.view()) == support::bytes_of({51, 255, 255}));
    const Picture wide =
        must(read_picture(file_of(std::string_view("P5 1 1 65535\n\x12\x34", 15))));
    CHECK(wide.image.format() == Format::r16_unorm);
    CHECK(load<std::uint16_t>(wide.image.view().row(0).data()) == 0x1234);
}

TEST_CASE("text files and bits") {
    const Picture text =
        must(read_picture(file_of("P3\n# three\n1 2 15\n0 15 5 # in the middle\n 15 0\n10")));
    CHECK(support::bytes_of(text.image.view()) == support::bytes_of({0, 255, 85, 255, 0, 170}));
    const Picture gray = must(read_picture(file_of("P2 2 1 255 7 9")));
    CHECK(support::bytes_of(gray.image.view()) == support::bytes_of({7, 9}));
    const Picture crowded = must(read_picture(file_of("P1\n3 2\n101\n0 1 0")));
    CHECK(support::bytes_of(crowded.image.view()) == support::bytes_of({0, 255, 0, 255, 0, 255}));
    CHECK(crowded.info.file_bits == 1);
    const Picture packed = must(read_picture(file_of("P4 10 1\n\xA5\x40")));
    CHECK(support::bytes_of(packed.image.view()) ==
          support::bytes_of({0, 255, 0, 255, 255, 0, 255, 0, 255, 0}));
    CHECK_FALSE(read_picture(file_of("P1 2 1 2 0")));
    CHECK_FALSE(read_picture(file_of("P3 1 1 255 1 2")));
}

TEST_CASE("PAM holds one to four channels") {
    for (const Format format : {Format::r8_srgb, Format::rg8_unorm, Format::rgb8_srgb,
                                Format::rgba8_srgb, Format::rgba16_unorm, Format::rg16_unorm}) {
        CAPTURE(info(format).name);
        const Texture texture =
            support::random_texture({.format = format, .width = 7, .height = 3}, 2);
        const Picture back = must(read_picture(must(encode_picture("pam", texture.image(0)))));
        CHECK(support::equal_pixels(back.image.view(), texture.image(0)));
    }
    CHECK(contains(must_fail(read_picture(file_of(
                                 "P7\nWIDTH 1\nHEIGHT 1\nDEPTH 5\nMAXVAL 255\nENDHDR\n12345")))
                       .message,
                   "5 channels"));
    CHECK(contains(must_fail(read_picture(file_of("P7\nCOLOR 1\nENDHDR\n"))).message, "COLOR"));
}

TEST_CASE("PFM in both byte orders, from the bottom") {
    const Picture little =
        must(read_picture(file_of(std::string_view("Pf\n1 2\n-1.0\n\0\0\x80\x3F\0\0\0\x40", 20))));
    CHECK(little.image.format() == Format::r32_float);
    CHECK(little.transfer == Transfer::linear);
    const auto* values = reinterpret_cast<const float*>(little.image.view().data);
    CHECK(values[0] == 2);
    CHECK(values[1] == 1);
    const Picture big = must(read_picture(
        file_of(std::string_view("PF\n1 1\n2.5\n\x3F\x80\0\0\x40\0\0\0\xC0\0\0\0", 23))));
    const auto* rgb = reinterpret_cast<const float*>(big.image.view().data);
    CHECK(rgb[0] == 1);
    CHECK(rgb[1] == 2);
    CHECK(rgb[2] == -2);
    CHECK(contains(big.info.remarks.at(0), "2.5"));
    const Texture texture =
        support::random_texture({.format = Format::rgb32_float, .width = 5, .height = 4}, 2);
    CHECK(support::equal_pixels(
        support::view_of(must(read_picture(must(encode_picture("pfm", texture.image(0))))).image),
        texture.image(0)));
    CHECK_FALSE(read_picture(file_of("Pf 1 1 0\nabcd")));
    CHECK_FALSE(read_picture(file_of("Pf 1 1 -1\nabc")));
}

TEST_CASE("what is written is read back") {
    for (const Format format :
         {Format::rgb8_srgb, Format::rgb16_unorm, Format::r8_srgb, Format::r16_unorm}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 7, .height = 3}, 2);
        const char* ending = info(format).channel_count == 3 ? "ppm" : "pgm";
        const auto file = must(encode_picture(ending, texture.image(0)));
        CHECK(support::equal_pixels(support::view_of(must(read_picture(file)).image),
                                    texture.image(0)));
    }
    CHECK_FALSE(encode_picture(
        "pgm", support::surface_of(support::random_texture({.format = Format::rgb8_srgb}, 1), 0)));
}

TEST_CASE("broken files are refused") {
    const auto reason = [](std::string_view text) {
        return must_fail(read_picture(file_of(text)));
    };
    CHECK(contains(reason("P6 2 x 255\n").message, "height"));
    CHECK(contains(reason("P6 2 99999999999 255\n").message, "too large"));
    CHECK(contains(reason("P6 0 1 255\n").message, "0 x 1"));
    CHECK(contains(reason("P6 1 1 0\nabc").message, "greatest value"));
    CHECK(contains(reason("P6 1 1 255\nab").message, "ends early"));
    CHECK(reason("P6 60000 60000 255\n").kind == ErrorKind::limit);
    const std::string whole = "P6 2 1 255\nabcdef";
    for (std::size_t size = 0; size < whole.size(); ++size)
        CHECK_FALSE(read_picture(file_of(whole.substr(0, size))));
}
