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

struct Bitmap {
    std::uint32_t header = 40;
    int width = 2;
    int height = 1;
    int bits = 24;
    std::uint32_t packing = 0;
    std::vector<std::uint32_t> masks =
        {};                         ///< within headers of 52 bytes and more, else after them
    std::vector<int> palette = {};  ///< bytes
    std::vector<int> pixels = {};   ///< bytes
};

void append(ByteWriter& writer, const std::vector<int>& bytes) {
    for (const int byte : bytes)
        writer.write(static_cast<std::uint8_t>(byte));
}

std::vector<std::byte> file_of(const Bitmap& bitmap) {
    ByteWriter info;
    info.write(bitmap.header);
    if (bitmap.header == 12) {
        for (const int field : {bitmap.width, bitmap.height, 1, bitmap.bits})
            info.write(static_cast<std::uint16_t>(field));
    } else {
        info.write(static_cast<std::uint32_t>(bitmap.width));
        info.write(static_cast<std::uint32_t>(bitmap.height));
        info.write(std::uint16_t{1});
        info.write(static_cast<std::uint16_t>(bitmap.bits));
        const auto colors = static_cast<std::uint32_t>(bitmap.palette.size() / 4);
        for (const std::uint32_t field : {bitmap.packing, 0U, 0U, 0U, colors, 0U})
            info.write(field);
        for (const std::uint32_t mask : bitmap.masks)
            info.write(mask);
        while (info.offset() < bitmap.header)
            info.write(std::uint8_t{0});
    }
    append(info, bitmap.palette);
    ByteWriter file;
    file.append("BM");
    for (const std::size_t field :
         {14 + info.offset() + bitmap.pixels.size(), std::size_t{0}, 14 + info.offset()})
        file.write(static_cast<std::uint32_t>(field));
    file.append(info.bytes());
    append(file, bitmap.pixels);
    return file.release();
}

std::vector<std::byte> pixels_of(const Bitmap& bitmap) {
    return bytes_of(support::view_of(must(read_picture(file_of(bitmap))).image));
}

}  // namespace

TEST_CASE("24 bits, from the bottom and from the top, rows padded to four bytes") {
    const std::vector<int> pixels = {3, 2, 1, 6, 5, 4, 0, 0, 9, 8, 7, 12, 11, 10, 0, 0};
    CHECK(pixels_of({.height = 2, .pixels = pixels}) ==
          bytes_of({7, 8, 9, 10, 11, 12, 1, 2, 3, 4, 5, 6}));
    CHECK(pixels_of({.height = -2, .pixels = pixels}) ==
          bytes_of({1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}));
    CHECK(pixels_of({.header = 12, .height = 2, .pixels = pixels}) ==
          bytes_of({7, 8, 9, 10, 11, 12, 1, 2, 3, 4, 5, 6}));
    CHECK(pixels_of({.header = 16, .height = 1, .pixels = {3, 2, 1, 6, 5, 4, 0, 0}}) ==
          bytes_of({1, 2, 3, 4, 5, 6}));
}

TEST_CASE("palettes of 1, 4 and 8 bits, in the order blue, green, red") {
    const std::vector<int> two = {1, 2, 3, 0, 4, 5, 6, 0};
    CHECK(pixels_of({.width = 3, .bits = 1, .palette = two, .pixels = {0xA0, 0, 0, 0}}) ==
          bytes_of({6, 5, 4, 3, 2, 1, 6, 5, 4}));
    CHECK(pixels_of({.width = 2, .bits = 4, .palette = two, .pixels = {0x10, 0, 0, 0}}) ==
          bytes_of({6, 5, 4, 3, 2, 1}));
    CHECK(pixels_of({.width = 2, .bits = 8, .palette = two, .pixels = {0, 1, 0, 0}}) ==
          bytes_of({3, 2, 1, 6, 5, 4}));
    CHECK(pixels_of({.width = 1, .bits = 8, .palette = two, .pixels = {9, 0, 0, 0}}) ==
          bytes_of({0, 0, 0}));  // beyond it
    CHECK(pixels_of({.header = 12,
                     .width = 1,
                     .bits = 1,
                     .palette = {1, 2, 3, 4, 5, 6},
                     .pixels = {0x80, 0, 0, 0}}) == bytes_of({6, 5, 4}));
    CHECK(
        must(read_picture(file_of({.width = 1, .bits = 4, .palette = two, .pixels = {0, 0, 0, 0}})))
            .info.has_palette);
}

TEST_CASE(
    "16 and 32 bits by the usual masks and by any others, alpha where there is a mask for it") {
    // 5 bits: 31 is 255, 16 is 132
    CHECK(pixels_of({.width = 1, .bits = 16, .pixels = {0x1F, 0x42, 0, 0}}) ==
          bytes_of({132, 132, 255}));
    CHECK(pixels_of({.width = 1,
                     .bits = 16,
                     .packing = 3,
                     .masks = {0xF800, 0x07E0, 0x001F},
                     .pixels = {0x00, 0xF8, 0, 0}}) == bytes_of({255, 0, 0}));
    CHECK(pixels_of({.header = 56,
                     .width = 1,
                     .bits = 16,
                     .packing = 3,
                     .masks = {0x0F00, 0x00F0, 0x000F, 0xF000},
                     .pixels = {0x20, 0xF1, 0, 0}}) == bytes_of({17, 34, 0, 255}));
    CHECK(pixels_of({.width = 1, .bits = 32, .pixels = {1, 2, 3, 99}}) == bytes_of({3, 2, 1}));
    CHECK(pixels_of({.header = 108,
                     .width = 1,
                     .bits = 32,
                     .packing = 3,
                     .masks = {0xFF, 0xFF00, 0xFF0000, 0xFF000000},
                     .pixels = {1, 2, 3, 99}}) == bytes_of({1, 2, 3, 99}));
    CHECK(pixels_of({.header = 124,
                     .width = 1,
                     .bits = 32,
                     .packing = 3,
                     .masks = {0xFF0000, 0xFF00, 0xFF, 0},
                     .pixels = {1, 2, 3, 99}}) == bytes_of({3, 2, 1}));
    CHECK(pixels_of({.header = 40,
                     .width = 1,
                     .bits = 32,
                     .packing = 6,
                     .masks = {0xFF0000, 0xFF00, 0xFF, 0xFF000000},
                     .pixels = {1, 2, 3, 99}}) == bytes_of({3, 2, 1, 99}));
}

TEST_CASE("run lengths: runs, literals, jumps, ends of rows and of the picture") {
    const std::vector<int> palette = {0, 0, 0, 0, 1, 1, 1, 0, 2, 2, 2, 0, 3, 3, 3, 0};
    const auto red = [](const std::vector<std::byte>& pixels) {
        std::vector<int> values;
        for (std::size_t i = 0; i < pixels.size(); i += 3)
            values.push_back(std::to_integer<int>(pixels[i]));
        return values;
    };
    // bottom row: 1 1 1 2 3; middle: a jump of two to the right and one up from its start; top: 3 _
    // 2
    CHECK(red(pixels_of({.width = 5,
                         .height = 3,
                         .bits = 8,
                         .packing = 1,
                         .palette = palette,
                         .pixels = {3, 1, 1, 2, 1, 3, 0, 0, 0, 2, 2, 1, 2, 3, 0, 1}})) ==
          std::vector<int>{0, 0, 3, 3, 0, 0, 0, 0, 0, 0, 1, 1, 1, 2, 3});
    CHECK(red(pixels_of({.width = 5,
                         .height = 1,
                         .bits = 8,
                         .packing = 1,
                         .palette = palette,
                         .pixels = {0, 3, 1, 2, 3, 0, 9, 1, 0, 1}})) ==
          std::vector<int>{1, 2, 3, 1, 1});
    CHECK(red(pixels_of({.width = 6,
                         .height = 1,
                         .bits = 4,
                         .packing = 2,
                         .palette = palette,
                         .pixels = {3, 0x12, 0, 3, 0x32, 0x10, 0, 1}})) ==
          std::vector<int>{1, 2, 1, 3, 2, 1});
}

TEST_CASE("what is written is read back") {
    for (const Format format : {Format::rgb8_srgb, Format::rgba8_srgb}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 7, .height = 3}, 2);
        CHECK(support::equal_pixels(
            support::view_of(
                must(read_picture(must(encode_picture("bmp", texture.image(0))))).image),
            texture.image(0)));
    }
    CHECK(must_fail(
              encode_picture("bmp", support::view_of(must(Image::create(Format::r8_unorm, 1, 1)))))
              .kind == ErrorKind::usage);
}

TEST_CASE("broken files are refused, and cut-off ones at every byte") {
    const auto reason = [](const Bitmap& bitmap) {
        return must_fail(read_picture(file_of(bitmap)));
    };
    CHECK(contains(reason({.bits = 7}).message, "7 bits"));
    CHECK(contains(reason({.packing = 1}).message, "compression 1 with 24 bits"));
    CHECK(contains(reason({.packing = 5}).message, "PNG"));
    CHECK(contains(reason({.width = 0}).message, "0 x 1"));
    CHECK(reason({.width = 60000, .height = 60000}).kind != ErrorKind::io);
    CHECK(contains(reason({.header = 56,
                           .bits = 32,
                           .packing = 3,
                           .masks = {5, 0, 0, 0},
                           .pixels = {0, 0, 0, 0, 0, 0, 0, 0}})
                       .message,
                   "mask"));
    for (const Bitmap& bitmap :
         {Bitmap{.pixels = {3, 2, 1, 6, 5, 4, 0, 0}},
          Bitmap{.bits = 8, .packing = 1, .palette = {1, 2, 3, 0}, .pixels = {2, 0, 0, 1}}}) {
        const auto file = file_of(bitmap);
        must(read_picture(file));
        support::check_every_cut(file);
        support::flip_every_bit(file);
    }
}
