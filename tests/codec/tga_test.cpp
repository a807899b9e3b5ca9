#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/damage.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::bytes_of;
using support::contains;
using support::must;
using support::must_fail;

namespace {

struct Targa {
    int type = 2;
    int width = 2;
    int height = 1;
    int bits = 24;
    int descriptor = 0x20;
    int map_first = 0;
    int map_length = 0;
    int map_bits = 0;
    std::vector<int> map = {};
    std::vector<int> pixels = {};
    int alpha_meaning = -1;  ///< with a footer and an extension area, unless negative
};

std::vector<std::byte> file_of(const Targa& t) {
    ByteWriter file;
    const auto bytes = [&](const std::vector<int>& values) {
        for (const int value : values)
            file.write(static_cast<std::uint8_t>(value));
    };
    bytes({3, t.map_length > 0 ? 1 : 0, t.type, t.map_first, 0, t.map_length, 0, t.map_bits, 0, 0,
           0, 0});
    file.write(static_cast<std::uint16_t>(t.width));
    file.write(static_cast<std::uint16_t>(t.height));
    bytes({t.bits, t.descriptor, 'i', 'd', '!'});
    bytes(t.map);
    bytes(t.pixels);
    if (t.alpha_meaning >= 0) {
        const std::size_t extension = file.offset();
        for (int i = 0; i < 495; ++i)
            file.write(static_cast<std::uint8_t>(i == 494 ? t.alpha_meaning : 0));
        file.write(static_cast<std::uint32_t>(extension));
        file.write(std::uint32_t{0});
        file.append("TRUEVISION-XFILE.");
        file.write(std::uint8_t{0});
    }
    return file.release();
}

Picture read(const Targa& t) {
    return must(read_picture(file_of(t)));
}
std::vector<std::byte> pixels_of(const Targa& t) {
    return bytes_of(support::view_of(read(t).image));
}

}  // namespace

TEST_CASE("colour of 15, 16, 24 and 32 bits, and gray") {
    CHECK(pixels_of({.pixels = {3, 2, 1, 6, 5, 4}}) == bytes_of({1, 2, 3, 4, 5, 6}));
    CHECK(pixels_of({.width = 1, .bits = 32, .descriptor = 0x28, .pixels = {3, 2, 1, 9}}) ==
          bytes_of({1, 2, 3, 9}));
    CHECK(pixels_of({.width = 1, .bits = 32, .pixels = {3, 2, 1, 9}}) == bytes_of({1, 2, 3}));
    CHECK(pixels_of({.width = 1, .bits = 15, .pixels = {0x1F, 0x42}}) == bytes_of({132, 132, 255}));
    CHECK(pixels_of(
              {.width = 2, .bits = 16, .descriptor = 0x21, .pixels = {0x1F, 0x80, 0x00, 0x7C}}) ==
          bytes_of({0, 0, 255, 255, 255, 0, 0, 0}));
    CHECK(pixels_of({.type = 3, .bits = 8, .pixels = {7, 9}}) == bytes_of({7, 9}));
    CHECK(read({.type = 3, .bits = 8, .pixels = {7, 9}}).swizzle == gray_swizzle);
    CHECK(pixels_of({.type = 3, .width = 1, .bits = 16, .descriptor = 0x28, .pixels = {7, 9}}) ==
          bytes_of({7, 9}));
    CHECK(read({.type = 3, .width = 1, .bits = 16, .descriptor = 0x28, .pixels = {7, 9}}).swizzle ==
          gray_alpha_swizzle);
}

TEST_CASE("all four origins") {
    const auto corners = [](int descriptor) {
        return pixels_of({.type = 3,
                          .width = 2,
                          .height = 2,
                          .bits = 8,
                          .descriptor = descriptor,
                          .pixels = {1, 2, 3, 4}});
    };
    CHECK(corners(0x20) == bytes_of({1, 2, 3, 4}));
    CHECK(corners(0x00) == bytes_of({3, 4, 1, 2}));
    CHECK(corners(0x30) == bytes_of({2, 1, 4, 3}));
    CHECK(corners(0x10) == bytes_of({4, 3, 2, 1}));
}

TEST_CASE("colour maps, with a first index and entries of every depth") {
    CHECK(pixels_of({.type = 1,
                     .width = 3,
                     .bits = 8,
                     .map_first = 5,
                     .map_length = 2,
                     .map_bits = 24,
                     .map = {3, 2, 1, 6, 5, 4},
                     .pixels = {6, 5, 7}}) == bytes_of({4, 5, 6, 1, 2, 3, 0, 0, 0}));
    CHECK(pixels_of({.type = 1,
                     .width = 1,
                     .bits = 16,
                     .descriptor = 0x28,
                     .map_length = 1,
                     .map_bits = 32,
                     .map = {3, 2, 1, 9},
                     .pixels = {0, 0}}) == bytes_of({1, 2, 3, 9}));
    CHECK(pixels_of({.type = 9,
                     .width = 3,
                     .bits = 8,
                     .map_length = 2,
                     .map_bits = 16,
                     .map = {0, 0, 0x1F, 0},
                     .pixels = {0x81, 1, 0, 0}}) == bytes_of({0, 0, 255, 0, 0, 255, 0, 0, 0}));
}

TEST_CASE("run lengths may cross rows") {
    CHECK(
        pixels_of({.type = 11, .width = 3, .height = 2, .bits = 8, .pixels = {0x83, 7, 1, 8, 9}}) ==
        bytes_of({7, 7, 7, 7, 8, 9}));
    CHECK(pixels_of({.type = 10, .width = 3, .pixels = {0x81, 3, 2, 1, 0, 6, 5, 4}}) ==
          bytes_of({1, 2, 3, 1, 2, 3, 4, 5, 6}));
}

TEST_CASE("the extension area says what alpha means") {
    const auto with = [](int meaning, int descriptor) {
        return read({.width = 1,
                     .bits = 32,
                     .descriptor = descriptor,
                     .pixels = {3, 2, 1, 9},
                     .alpha_meaning = meaning});
    };
    CHECK(info(with(0, 0x28).image.format()).channel_count == 3);
    CHECK(info(with(1, 0x28).image.format()).channel_count == 3);
    CHECK(info(with(3, 0x20).image.format()).channel_count == 4);
    CHECK(with(3, 0x28).alpha == AlphaMode::straight);
    CHECK(with(4, 0x28).alpha == AlphaMode::premultiplied);
}

TEST_CASE("alpha that differs from pixel to pixel is kept, whatever the file says of it") {
    const std::vector<int> varied = {3, 2, 1, 9, 6, 5, 4, 200};
    for (const int type : {2, 10})
        for (const auto& stated : {std::pair{0x28, 0}, {0x20, 0}, {0x20, -1}, {0x28, -1}}) {
            CAPTURE(type);
            const int descriptor = stated.first, meaning = stated.second;
            CAPTURE(descriptor);
            CAPTURE(meaning);
            Targa file{.type = type, .width = 2, .bits = 32, .descriptor = descriptor};
            file.pixels = type == 10 ? std::vector<int>{1} : std::vector<int>();
            file.pixels.insert(file.pixels.end(), varied.begin(), varied.end());
            file.alpha_meaning = meaning;
            const Picture picture = read(file);
            CHECK(bytes_of(picture.image.view()) == bytes_of({1, 2, 3, 9, 4, 5, 6, 200}));
            CHECK(picture.info.remarks.size() == (meaning == 0 || descriptor == 0x20 ? 1 : 0));
            file.pixels.back() = 9;  // the same everywhere: no alpha, as the file says
            CHECK(read(file).image.format() ==
                  (descriptor == 0x28 && meaning == -1 ? Format::rgba8_srgb : Format::rgb8_srgb));
        }
    const Picture undefined =
        read({.width = 2, .bits = 32, .descriptor = 0x28, .pixels = varied, .alpha_meaning = 1});
    CHECK(undefined.image.format() == Format::rgb8_srgb);
    REQUIRE(undefined.info.remarks.size() == 1);
    CHECK(undefined.info.remarks[0].find("undefined") != std::string::npos);
}

TEST_CASE("what is written is read back, and recognised without its name") {
    for (const Format format : {Format::r8_srgb, Format::rgb8_srgb, Format::rgba8_srgb}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 7, .height = 3}, 2);
        const Picture back = must(read_picture(must(encode_picture("tga", texture.image(0)))));
        CHECK(back.info.file_format == "TGA");
        CHECK(support::equal_pixels(back.image.view(), texture.image(0)));
    }
}

TEST_CASE("files cut off anywhere are errors, flipped bits never more than wrong pixels") {
    for (const Targa& t :
         {Targa{.pixels = {3, 2, 1, 6, 5, 4}},
          Targa{.type = 11, .width = 3, .height = 2, .bits = 8, .pixels = {0x83, 7, 1, 8, 9}},
          Targa{.type = 1,
          .width = 2,
          .bits = 8,
          .map_length = 2,
          .map_bits = 24,
          .map = {3, 2, 1, 6, 5, 4},
          .pixels = {0, 1}}}) {
        const auto file = file_of(t);
        support::check_every_cut(file);
        support::flip_every_bit(file);
    }
}
