#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::bytes_of;
using support::must;
using support::must_fail;

namespace {

std::vector<std::byte> file_of(int width, int height, int channels,
                               std::initializer_list<int> stream) {
    auto file = bytes_of({'q', 'o', 'i', 'f', 0, 0, 0, width, 0, 0, 0, height, channels, 0});
    for (const int byte : stream)
        file.push_back(static_cast<std::byte>(byte));
    for (const int byte : {0, 0, 0, 0, 0, 0, 0, 1})
        file.push_back(static_cast<std::byte>(byte));
    return file;
}

}  // namespace

TEST_CASE("each kind of code, worked out by hand") {
    // rgb 10 20 30; one more by a run; differences +1 -2 0; luma +5 with red +7 and blue +1; rgba;
    // the first again by its place (10 * 3 + 20 * 5 + 30 * 7 + 255 * 11) % 64 = 9
    const auto file = file_of(7, 1, 4,
                              {0xFE, 10, 20, 30, 0xC0, 0x40 | 3 << 4 | 0 << 2 | 2, 0x80 | 37,
                               10 << 4 | 4, 0xFF, 1, 2, 3, 4, 9, 0xC0});
    const auto pixels = bytes_of(support::view_of(must(read_picture(file)).image));
    CHECK(pixels == bytes_of({10, 20,  30, 255, 10, 20, 30, 255, 11, 18,  30, 255, 18, 23,
                              31, 255, 1,  2,   3,  4,  10, 20,  30, 255, 10, 20,  30, 255}));
}

TEST_CASE("what is written is read back: noise, slopes, runs and alpha") {
    support::Random random(4);
    for (const Format format : {Format::rgb8_srgb, Format::rgba8_srgb, Format::rgba8_unorm})
        for (const int kind : {0, 1, 2}) {
            Texture texture =
                support::random_texture({.format = format, .width = 130, .height = 9}, 2);
            const auto bytes = texture.level(0);
            for (std::size_t i = info(format).block_bytes; kind > 0 && i < bytes.size(); ++i)
                bytes[i] = static_cast<std::byte>(
                    std::to_integer<int>(bytes[i - info(format).block_bytes]) +
                    (kind == 1            ? static_cast<int>(random() % 3)
                     : random() % 90 == 0 ? 1
                                          : 0));
            const Transfer transfer = info(format).transfer;
            const auto file = must(encode_picture("qoi", texture.image(0), {.transfer = transfer}));
            CHECK(support::equal_pixels(support::view_of(must(read_picture(file)).image),
                                        texture.image(0)));
            if (kind == 2)
                CHECK(file.size() < bytes.size() / 4);
        }
}

TEST_CASE("broken files are refused") {
    const auto file = file_of(3, 1, 3, {0xFE, 10, 20, 30, 0xC1});
    must(read_picture(file));
    for (std::size_t size = 0; size < file.size(); ++size)
        CHECK_FALSE(read_picture(std::span(file).first(size)));
    CHECK_FALSE(read_picture(file_of(1, 1, 5, {0xC0})));
    CHECK_FALSE(read_picture(file_of(0, 1, 3, {0xC0})));
    auto huge = file;
    huge[5] = std::byte{9};
    CHECK(must_fail(read_picture(huge)).kind == ErrorKind::malformed);
}
