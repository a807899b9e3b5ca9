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
    CHECK(support::bytes_of(gray.image.view()) ==
          std::vector<std::byte>{std::byte{51}, std::byte{255}, std::byte{255}});
    const Picture wide =
        must(read_picture(file_of(std::string_view("P5 1 1 65535\n\x12\x34", 15))));
    CHECK(wide.image.format() == Format::r16_unorm);
    CHECK(load<std::uint16_t>(wide.image.view().row(0).data()) == 0x1234);
}

TEST_CASE("what is written is read back") {
    for (const Format format :
         {Format::rgb8_srgb, Format::rgb16_unorm, Format::r8_srgb, Format::r16_unorm}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 7, .height = 3}, 2);
        const char* ending = info(format).channel_count == 3 ? "ppm" : "pgm";
        const auto file = must(encode_picture(ending, texture.image(0)));
        CHECK(support::equal_pixels(must(read_picture(file)).image.view(), texture.image(0)));
    }
    CHECK_FALSE(
        encode_picture("pgm", support::random_texture({.format = Format::rgb8_srgb}, 1).image(0)));
}

TEST_CASE("broken files are refused") {
    const auto reason = [](std::string_view text) {
        return must_fail(read_picture(file_of(text)));
    };
    CHECK(contains(reason("P6 2 x 255\n").message, "height"));
    CHECK(contains(reason("P6 2 99999999999 255\n").message, "too large"));
    CHECK(contains(reason("P6 0 1 255\n").message, "empty"));
    CHECK(contains(reason("P6 1 1 0\nabc").message, "greatest value"));
    CHECK(contains(reason("P6 1 1 255\nab").message, "ends early"));
    CHECK(reason("P6 60000 60000 255\n").kind == ErrorKind::limit);
    const std::string whole = "P6 2 1 255\nabcdef";
    for (std::size_t size = 0; size < whole.size(); ++size)
        CHECK_FALSE(read_picture(file_of(whole.substr(0, size))));
}
