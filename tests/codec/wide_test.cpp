// Pictures of every file format, handed over as RGBA.
#include <cmath>
#include <filesystem>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/damage.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_jpeg.hpp"

using namespace yl;
using support::must;

namespace {

/// What a picture's own channels look like as four.
std::vector<float> seen(const Picture& picture) {
    std::vector<float> result;
    const Image wide =
        must(convert(picture.image.view(), Format::rgba32_float,
                     {.source_transfer = picture.transfer, .swizzle = picture.swizzle}));
    for (std::uint32_t y = 0; y < wide.height(); ++y) {
        const auto row = wide.view().row(y);
        for (std::size_t i = 0; i < row.size(); i += 4)
            result.push_back(std::bit_cast<float>(load<std::uint32_t>(row.data() + i)));
    }
    return result;
}

void check_wide(const std::vector<std::byte>& file) {
    const Picture own = must(read_picture(file));
    const Picture wide = must(read_picture(file, {.widen_to_rgba = true}));
    CHECK(info(wide.image.format()).channel_count == 4);
    CHECK(wide.swizzle == identity_swizzle);
    CHECK(wide.info.file_channels == own.info.file_channels);
    CHECK(wide.transfer == own.transfer);
    const auto a = seen(wide), b = seen(own);
    REQUIRE(a.size() == b.size());
    for (std::size_t i = 0; i < a.size(); ++i)
        if (!(std::abs(a[i] - b[i]) <= 1e-6F))
            FAIL_CHECK("channel " << i << " is " << a[i] << ", not " << b[i]);
}

}  // namespace

TEST_CASE("every format that is written is read as RGBA on request") {
    for (const char* ending :
         {"png", "bmp", "tga", "qoi", "ppm", "pgm", "pam", "pfm", "hdr", "exr"})
        for (const FormatInfo& format : all_formats()) {
            if (format.is_block())
                continue;
            const Texture texture =
                support::random_texture({.format = format.format, .width = 37, .height = 5}, 7);
            const auto file = encode_picture(ending, texture.image(0));
            if (!file)
                continue;
            CAPTURE(ending);
            CAPTURE(format.name);
            check_wide(*file);
        }
}

TEST_CASE("JPEG of one, three and four components as RGBA") {
    for (const int components : {1, 3, 4})
        for (const bool progressive : {false, true})
            check_wide(support::write_reference_jpeg({.width = 50,
                                                      .height = 21,
                                                      .components = components,
                                                      .luma = {2, 2},
                                                      .progressive = progressive}));
}

TEST_CASE("a program's own reader is widened like any other") {
    PictureReader reader{
        "Two bytes", [](std::span<const std::byte>) { return true; },
        [](std::span<const std::byte> bytes, const ReadOptions&) -> Result<Picture> {
            Picture picture;
            picture.image = must(Image::create(Format::rg8_unorm, 1, 1));
            std::copy_n(bytes.begin(), 2, picture.image.view().data);
            picture.swizzle = gray_alpha_swizzle;
            return picture;
        }};
    const Picture wide = must(read_picture(support::bytes_of({9, 7}),
                                           {.widen_to_rgba = true, .further_readers = {reader}}));
    CHECK(support::bytes_of(wide.image.view()) == support::bytes_of({9, 9, 9, 7}));
    CHECK(wide.swizzle == identity_swizzle);
    CHECK(wide.info.file_format == "Two bytes");
}

TEST_CASE("a picture is fitted to what a file format holds") {
    const auto fitted = [](const char* ending, Format from, Transfer transfer) {
        Picture picture;
        picture.image = must(Image::create(from, 3, 2));
        std::fill_n(picture.image.view().data, picture.image.row_stride() * 2, std::byte{0});
        picture.transfer = transfer;
        const std::uint32_t channels = info(from).channel_count;
        if (channels < 3)
            picture.swizzle = channels == 1 ? gray_swizzle : gray_alpha_swizzle;
        const Picture result = must(fitted_to(ending, picture));
        must(encode_picture(ending, result.image.view()));
        return info(result.image.format()).name;
    };
    constexpr Transfer srgb = Transfer::srgb, linear = Transfer::linear;
    CHECK(fitted("png", Format::rgb32_float, linear) == "rgb16-unorm");
    CHECK(fitted("png", Format::rg8_unorm, srgb) == "rg8-unorm");
    CHECK(fitted("bmp", Format::r8_srgb, srgb) == "rgb8-srgb");
    CHECK(fitted("tga", Format::rg8_unorm, srgb) == "rgba8-srgb");
    CHECK(fitted("qoi", Format::rgba16_unorm, srgb) == "rgba8-srgb");
    CHECK(fitted("pgm", Format::rgb8_srgb, srgb) == "r8-srgb");
    CHECK(fitted("hdr", Format::rgba8_srgb, srgb) == "rgb32-float");
    CHECK(fitted("exr", Format::rg16_unorm, linear) == "rgba16-float");
    CHECK(fitted("pfm", Format::r8_unorm, linear) == "r32-float");
    CHECK_FALSE(fitted_to("jpg", Picture()));
}

TEST_CASE("files that once broke a reader give an error or a picture") {
    std::size_t count = 0;
    for (const auto& entry : std::filesystem::directory_iterator(DAMAGED_FILES)) {
        CAPTURE(entry.path().string());
        const auto picture = read_picture(entry.path(), {.limits = support::damage_limits});
        CHECK((picture || !picture.error().message.empty()));
        ++count;
    }
    CHECK(count >= 1);
}

TEST_CASE("12-bit JPEG fills the range of 16 bits") {
    // One gray block whose only coefficient is DC: a code of one bit for numbers of 11 bits.
    std::vector<std::byte> file;
    const auto put = [&](std::initializer_list<int> bytes) {
        for (const int byte : bytes)
            file.push_back(static_cast<std::byte>(byte));
    };
    put({0xFF, 0xD8, 0xFF, 0xDB, 0, 67, 0});
    for (int i = 0; i < 64; ++i)
        put({8});
    put({0xFF, 0xC1, 0, 11, 12, 0, 8, 0, 8, 1, 1, 0x11, 0});
    put({0xFF, 0xC4, 0, 20, 0x00, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 11});
    put({0xFF, 0xC4, 0, 20, 0x10, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0});
    put({0xFF, 0xDA, 0, 8, 1, 1, 0, 0, 63, 0});
    // Code 0, the number 1500 in 11 bits, end of block 0, ones to the byte's end; every sample is
    // 2048 + 1500 * 8 / 8.
    const int bits = 1500 << 4 | 0x7;
    put({bits >> 8, bits & 0xFF, 0xFF, 0xD9});
    const Picture picture = must(read_picture(file));
    REQUIRE(picture.image.format() == Format::r16_unorm);
    CHECK(picture.info.file_bits == 12);
    for (std::uint32_t y = 0; y < 8; ++y)
        for (std::uint32_t x = 0; x < 8; ++x)
            CHECK(load<std::uint16_t>(picture.image.view().row(y).data() + 2 * x) ==
                  (3548 * 65535 + 2047) / 4095);
}

TEST_CASE("QOI and PNM survive every flipped bit, QOI every cut") {
    const Texture texture =
        support::random_texture({.format = Format::rgba8_srgb, .width = 5, .height = 3}, 3);
    support::flip_every_bit(must(encode_picture("qoi", texture.image(0))));
    for (const char* text :
         {"P1 3 2 1 0 1 0 1 1", "P2 3 1 9 1 2 3", "P3 1 1 255 1 2 3", "P4 3 2 ab", "P5 2 1 255 ab",
          "P6 1 1 65535 abcdef", "P7\nWIDTH 1\nHEIGHT 1\nDEPTH 2\nMAXVAL 255\nENDHDR\nab",
          "PF 1 1 -1\nabcdefghijkl"}) {
        const std::string_view view(text);
        const auto bytes = std::as_bytes(std::span(view));
        const std::vector<std::byte> file(bytes.begin(), bytes.end());
        CAPTURE(text);
        must(read_picture(file));
        support::flip_every_bit(file);
    }
}
