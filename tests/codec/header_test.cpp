// Headers of picture files, against the pictures that are read of them.
#include <fmt/format.h>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_exr.hpp"
#include "support/reference_jpeg.hpp"
#include "support/reference_png.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

void check_header(std::span<const std::byte> file) {
    const Picture picture = must(read_picture(file));
    const PictureHeader header = must(peek_picture(file));
    const FormatInfo& f = info(picture.image.format());
    CHECK(header.file_format == picture.info.file_format);
    CHECK(header.width == picture.image.width());
    CHECK(header.height == picture.image.height());
    CHECK(header.bits == f.channels[0].bits);
    CHECK(header.is_float == f.is_float());
    CHECK(header.frames == 1);
    // TGA alone tells by its pixels whether the alpha is one.
    if (header.file_format == "TGA")
        CHECK(header.channels >= f.channel_count);
    else
        CHECK(header.channels == f.channel_count);
}

/// EXIF data that ask for a turn, and fill as many bytes.
std::string exif_turned(int orientation, std::size_t bytes) {
    std::string text("Exif\0\0II\x2A\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0", 24);
    text += static_cast<char>(orientation);
    text.resize(std::max(bytes, text.size() + 7));
    return text;
}

}  // namespace

TEST_CASE("headers of every format and kind say what the pictures are") {
    for (const char* format :
         {"png", "jpeg", "bmp", "tga", "qoi", "ppm", "pgm", "pbm", "pam", "pfm", "hdr", "exr"}) {
        int count = 0;
        for (const auto& entry :
             std::filesystem::directory_iterator(fmt::format("{}/{}", SEEDS, format))) {
            CAPTURE(entry.path());
            const auto file = support::read_bytes(entry.path());
            if (!read_picture(std::span<const std::byte>(file)))  // seeds of other kinds of trouble
                continue;
            check_header(file);
            ++count;
        }
        CAPTURE(format);
        CHECK(count > 0);
    }
    for (const int color_type : {0, 2, 3, 4, 6})
        for (const int bits : {1, 2, 4, 8, 16})
            for (const bool transparency : {false, true}) {
                const bool exists =
                    color_type == 0 || bits == 8 || (color_type == 3 ? bits < 8 : bits == 16);
                if (!exists || (transparency && color_type >= 4))
                    continue;
                check_header(support::write_reference_png({.width = 5,
                                                           .height = 3,
                                                           .color_type = color_type,
                                                           .bits = bits,
                                                           .transparency = transparency}));
            }
    for (const char* channels : {"RGB", "RGBA", "Y", "YA", "Z"})
        for (const int type : {0, 1, 2})
            check_header(support::write_reference_exr({.channels = channels, .type = type}));
    check_header(support::write_reference_exr({.data = {2, 2, 30, 30}, .display = {0, 0, 9, 6}}));
}

TEST_CASE("headers of turned JPEG pictures, however long what stands before them") {
    const support::TemporaryFolder folder;
    for (int orientation = 1; orientation <= 8; ++orientation)
        for (const std::size_t bytes : {std::size_t{0}, std::size_t{60000}}) {
            const auto file = support::write_reference_jpeg(
                {.width = 24, .height = 16, .exif = exif_turned(orientation, bytes)});
            check_header(file);
            support::write_bytes(folder.path("turned.jpg"), file);
            const PictureHeader header = must(peek_picture(folder.path("turned.jpg")));
            CHECK(header.width == (orientation >= 5 ? 16 : 24));
            CHECK(header.height == (orientation >= 5 ? 24 : 16));
        }
    check_header(support::write_reference_jpeg({.components = 4, .progressive = true}));
}

TEST_CASE("the beginning of a file is enough, and what is no header is an error") {
    Image image = must(Image::create(Format::rgba16_unorm, 900, 700));
    support::Random random(1);
    support::fill_random(image.view(), random);
    const auto file = must(encode_picture("png", image.view()));
    const PictureHeader header = must(peek_picture(std::span(file).first(100)));
    CHECK(header.width == 900);
    CHECK(header.bits == 16);
    for (std::size_t size = 0; size < 41; ++size)
        CHECK_FALSE(peek_picture(std::span(file).first(size)));
    const support::TemporaryFolder folder;
    CHECK(must_fail(peek_picture(folder.path("none.png"))).kind == ErrorKind::missing);
    support::write_text(folder.path("odd.png"), "no picture at all");
    const Error odd = must_fail(peek_picture(folder.path("odd.png")));
    CHECK(odd.kind == ErrorKind::unsupported);
    CHECK(contains(odd.place, "odd.png"));
    // Cut off within its header, and a size of nothing.
    support::write_bytes(folder.path("cut.png"), std::span(file).first(30));
    CHECK(must_fail(peek_picture(folder.path("cut.png"))).kind == ErrorKind::malformed);
    support::write_text(folder.path("flat.ppm"), "P6 0 4 255\n");
    CHECK(must_fail(peek_picture(folder.path("flat.ppm"))).kind == ErrorKind::malformed);
}

TEST_CASE("an animated PNG tells its frames") {
    auto file = must(
        encode_picture("png", support::view_of(must(Image::create(Format::rgba8_srgb, 4, 4)))));
    // Chunk acTL, after the header: 7 frames, played without end.
    const auto chunk = support::bytes_of(
        {0, 0, 0, 8, 'a', 'c', 'T', 'L', 0, 0, 0, 7, 0, 0, 0, 0, 0x3B, 0x6D, 0x1C, 0x00});
    file.insert(file.begin() + 33, chunk.begin(), chunk.end());
    const PictureHeader header = must(peek_picture(std::span<const std::byte>(file)));
    CHECK(header.frames == 7);
}
