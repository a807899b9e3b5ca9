#include <fmt/format.h>

#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "codec/png/chunks.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_png.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::ReferencePng;

namespace {

void check_against_reference(const ReferencePng& kind) {
    CAPTURE(kind.color_type);
    CAPTURE(kind.bits);
    CAPTURE(kind.width);
    CAPTURE(kind.interlaced);
    CAPTURE(kind.transparency);
    const auto file = support::write_reference_png(kind);
    const support::ReferencePixels expected = support::read_reference_png(file);
    const Picture picture = must(read_picture(file));
    const FormatInfo& format = info(picture.image.format());
    REQUIRE(picture.image.width() == expected.width);
    REQUIRE(picture.image.height() == expected.height);
    REQUIRE(format.channel_count == expected.channels);
    REQUIRE(format.channels[0].bits == expected.bits);
    CHECK(support::bytes_of(picture.image.view()) == expected.bytes);
    CHECK(picture.info.is_interlaced == kind.interlaced);
    CHECK(picture.info.has_palette == (kind.color_type == 3));
}

/// A file whose chunks can be put together by hand.
std::vector<std::byte> assemble(
    const std::vector<std::pair<std::string, std::vector<std::byte>>>& chunks) {
    ByteWriter writer;
    writer.append(std::as_bytes(std::span(png::signature)));
    for (const auto& [name, data] : chunks) {
        const auto type = load<std::uint32_t, std::endian::big>(as_bytes(name).data());
        png::write_chunk(writer, type, data);
    }
    return writer.release();
}

std::vector<std::byte> raw(std::initializer_list<int> values) {
    std::vector<std::byte> result;
    for (const int value : values)
        result.push_back(static_cast<std::byte>(value));
    return result;
}

std::vector<std::byte> header(int width, int height, int bits, int color) {
    return raw(
        {0, 0, width >> 8, width & 255, 0, 0, height >> 8, height & 255, bits, color, 0, 0, 0});
}

/// One black 8-bit gray pixel: two zero bytes, stored without compression by zlib.
std::vector<std::byte> black_pixel() {
    return raw({0x78, 0x01, 1, 2, 0, 0xFD, 0xFF, 0, 0, 0, 2, 0, 1});
}

}  // namespace

TEST_CASE("every colour type and depth, interlaced or not, equals the reference decoder") {
    const std::pair<int, std::vector<int>> kinds[] = {
        {0, {1, 2, 4, 8, 16}}, {2, {8, 16}}, {3, {1, 2, 4, 8}}, {4, {8, 16}}, {6, {8, 16}}};
    const std::pair<std::uint32_t, std::uint32_t> sizes[] = {
        {1, 1}, {1, 7}, {5, 3}, {33, 17}, {255, 257}};
    std::uint32_t seed = 1;
    for (const auto& [color, depths] : kinds)
        for (const int bits : depths)
            for (const bool interlaced : {false, true})
                for (const bool transparency : {false, true})
                    for (const auto& [width, height] : sizes) {
                        if (transparency && (color == 4 || color == 6))
                            continue;
                        check_against_reference(
                            {width, height, color, bits, interlaced, transparency, seed++});
                    }
}

TEST_CASE("what is written is read back by the reference decoder, pixel for pixel") {
    for (const Format format :
         {Format::r8_unorm, Format::rg8_unorm, Format::rgb8_srgb, Format::rgba8_srgb,
          Format::r16_unorm, Format::rg16_unorm, Format::rgb16_unorm, Format::rgba16_unorm}) {
        for (const int effort : {0, 5, 10}) {
            CAPTURE(info(format).name);
            CAPTURE(effort);
            const Texture texture =
                support::random_texture({.format = format, .width = 37, .height = 19}, 3);
            const auto file = must(encode_picture("png", texture.image(0), {.effort = effort}));
            const auto reference = support::read_reference_png(file);
            CHECK(reference.bytes == support::bytes_of(texture.image(0)));
            const Picture back = must(read_picture(file));
            CHECK(support::bytes_of(back.image.view()) == support::bytes_of(texture.image(0)));
            CHECK(back.transfer == Transfer::srgb);
        }
    }
}

TEST_CASE("smooth pictures are packed by filters, and effort makes files smaller") {
    Image image = must(Image::create(Format::rgb8_srgb, 200, 200));
    for (std::uint32_t y = 0; y < 200; ++y)
        for (std::uint32_t x = 0; x < 600; ++x)
            image.view().row(y)[x] = static_cast<std::byte>(x / 3 + y / 2);
    const auto fast = must(encode_picture("png", image.view(), {.effort = 0}));
    const auto slow = must(encode_picture("png", image.view(), {.effort = 10}));
    CHECK(slow.size() <= fast.size());
    CHECK(slow.size() < 200 * 600 / 50);
}

TEST_CASE("the colour space is what the file declares, unless the role has none") {
    const auto pixel_with = [](const std::string& name, const std::vector<std::byte>& data) {
        return assemble(
            {{"IHDR", header(1, 1, 8, 0)}, {name, data}, {"IDAT", black_pixel()}, {"IEND", {}}});
    };
    const auto srgb = pixel_with("sRGB", raw({0}));
    const auto linear = pixel_with("gAMA", raw({0, 1, 0x86, 0xA0}));
    const auto display = pixel_with("gAMA", raw({0, 0, 0xB1, 0x8F}));
    const auto odd = pixel_with("gAMA", raw({0, 0, 0xD9, 0x03}));
    CHECK(must(read_picture(srgb)).image.format() == Format::r8_srgb);
    CHECK(must(read_picture(display)).info.declared_transfer == Transfer::srgb);
    CHECK(must(read_picture(linear)).image.format() == Format::r8_unorm);
    CHECK(must(read_picture(odd)).transfer == Transfer::srgb);
    CHECK(must(read_picture(odd)).info.remarks.size() == 1);
    const Picture normal = must(read_picture(srgb, {.role = Role::normal}));
    CHECK(normal.image.format() == Format::r8_unorm);
    CHECK(contains(normal.info.transfer_reason, "normal"));
    const auto silent =
        assemble({{"IHDR", header(1, 1, 8, 0)}, {"IDAT", black_pixel()}, {"IEND", {}}});
    CHECK(must(read_picture(silent)).transfer == Transfer::srgb);
    CHECK_FALSE(must(read_picture(silent)).info.declared_transfer);
}

TEST_CASE(
    "code points, profile, sRGB and gamma overrule each other in that order, wherever they stand") {
    const auto file_with =
        [](const std::vector<std::pair<std::string, std::vector<std::byte>>>& between) {
            std::vector<std::pair<std::string, std::vector<std::byte>>> chunks = {
                {"IHDR", header(1, 1, 8, 0)}};
            chunks.insert(chunks.end(), between.begin(), between.end());
            chunks.insert(chunks.end(), {{"IDAT", black_pixel()}, {"IEND", {}}});
            return must(read_picture(assemble(chunks)));
        };
    const std::pair<std::string, std::vector<std::byte>> linear_points = {"cICP",
                                                                          raw({1, 8, 0, 1})},
                                                         pq = {"cICP", raw({9, 16, 0, 1})},
                                                         srgb = {"sRGB", raw({0})},
                                                         linear_gamma = {"gAMA",
                                                                         raw({0, 1, 0x86, 0xA0})};
    CHECK(file_with({linear_points, srgb}).transfer == Transfer::linear);
    CHECK(file_with({srgb, linear_points}).transfer == Transfer::linear);
    CHECK(file_with({srgb, linear_gamma}).transfer == Transfer::srgb);
    CHECK(file_with({linear_gamma, srgb}).transfer == Transfer::srgb);
    const Picture odd = file_with({pq});
    CHECK(contains(odd.info.remarks.at(0), "transfer function 16"));
    CHECK(contains(odd.info.remarks.at(0), "primaries 9"));
    CHECK(contains(odd.info.remarks.at(0), "not applied"));
    // "Garden", method 0, and "green" as a stored zlib stream
    const Picture profiled =
        file_with({{"iCCP", raw({'G', 'a',  'r',  'd', 'e', 'n', 0,   0,   0x78, 0x01, 1, 5,
                                 0,   0xFA, 0xFF, 'g', 'r', 'e', 'e', 'n', 6,    0x37, 2, 0x12})},
                   linear_gamma});
    CHECK(profiled.info.color_profile_name == "Garden");
    CHECK(as_text(profiled.info.color_profile) == "green");
    CHECK(profiled.transfer == Transfer::srgb);
}

TEST_CASE("density, orientation and animation are reported") {
    const auto file = assemble({{"IHDR", header(1, 1, 8, 0)},
                                {"pHYs", raw({0, 0, 0x0B, 0x13, 0, 0, 0x16, 0x26, 1})},
                                {"acTL", raw({0, 0, 0, 2, 0, 0, 0, 0})},
                                {"IDAT", black_pixel()},
                                {"fdAT", raw({0, 0, 0, 1, 9})},
                                {"IEND", {}}});
    const Picture picture = must(read_picture(file));
    CHECK(picture.info.pixels_per_metre == std::array<double, 2>{2835, 5670});
    CHECK(contains(picture.info.remarks.at(0), "animated"));
    Image image = must(Image::create(Format::r8_unorm, 2, 1));
    image.view().row(0)[0] = std::byte{1};
    image.view().row(0)[1] = std::byte{2};
    auto turned_file = must(encode_picture("png", image.view()));
    const auto exif = assemble({{"eXIf", raw({'M', 'M', 0, 42, 0, 0, 0, 8, 0, 1, 1, 0x12, 0,
                                              3,   0,   0, 0,  1, 0, 6, 0, 0, 0, 0, 0,    0})}});
    turned_file.insert(turned_file.begin() + 33, exif.begin() + 8,
                       exif.end());  // after the chunk IHDR
    const Picture upright = must(read_picture(turned_file));
    CHECK(upright.info.applied_orientation == Orientation::quarter_right);
    CHECK(upright.image.height() == 2);
    CHECK(must(read_picture(turned_file, {.apply_orientation = false})).image.width() == 2);
}

TEST_CASE("our own files declare what they hold") {
    const Texture texture =
        support::random_texture({.format = Format::rgba16_unorm, .width = 2, .height = 2}, 3);
    for (const Transfer transfer : {Transfer::srgb, Transfer::linear})
        CHECK(must(read_picture(
                       must(encode_picture("png", texture.image(0), {.transfer = transfer}))))
                  .info.declared_transfer == transfer);
    CHECK_FALSE(must(read_picture(must(encode_picture("png", texture.image(0), {.transfer = {}}))))
                    .info.declared_transfer);
}

TEST_CASE("gray is seen as gray") {
    const auto file =
        assemble({{"IHDR", header(1, 1, 8, 0)}, {"IDAT", black_pixel()}, {"IEND", {}}});
    CHECK(must(read_picture(file)).swizzle == gray_swizzle);
    const auto pair = support::write_reference_png({3, 3, 4, 8});
    CHECK(must(read_picture(pair)).swizzle == gray_alpha_swizzle);
}

TEST_CASE("harmless oddities are read and remarked") {
    auto file = assemble({{"IHDR", header(1, 1, 8, 0)},
                          {"teXt", raw({1, 2})},
                          {"IDAT", black_pixel()},
                          {"IEND", {}}});
    CHECK(must(read_picture(file)).info.remarks.empty());
    file.push_back(std::byte{0});
    CHECK(contains(must(read_picture(file)).info.remarks.at(0), "1 bytes follow"));
    auto split = assemble({{"IHDR", header(1, 1, 8, 0)},
                           {"IDAT", raw({0x78, 0x01, 1, 2})},
                           {"IDAT", {}},
                           {"IDAT", raw({0, 0xFD, 0xFF, 0, 0, 0, 2, 0, 1})},
                           {"IEND", {}}});
    CHECK(support::view_of(must(read_picture(split)).image).row(0)[0] == std::byte{0});
}

TEST_CASE("broken files are refused with the reason and the place") {
    const auto reason = [](const std::vector<std::byte>& file) {
        return must_fail(read_picture(file));
    };
    Error error = reason(assemble({{"IHDR", header(1, 1, 3, 0)}, {"IEND", {}}}));
    CHECK(contains(error.message, "colour type 0 with 3 bits"));
    CHECK(error.offset == 8);
    CHECK(contains(reason(assemble({{"IHDR", header(0, 1, 8, 0)}})).message, "0 x 1"));
    CHECK(contains(reason(assemble({{"IDAT", black_pixel()}})).message, "IHDR"));
    CHECK(contains(reason(assemble({{"IHDR", header(1, 1, 8, 0)}, {"IEND", {}}})).message, "IDAT"));
    CHECK(contains(
        reason(assemble({{"IHDR", header(1, 1, 8, 3)}, {"IDAT", black_pixel()}, {"IEND", {}}}))
            .message,
        "PLTE"));
    CHECK(contains(reason(assemble({{"IHDR", header(1, 1, 8, 3)}, {"PLTE", raw({1, 2})}})).message,
                   "PLTE"));
    CHECK(contains(reason(assemble({{"IHDR", header(1, 1, 8, 0)}, {"tRNS", raw({1})}})).message,
                   "tRNS"));
    CHECK(contains(
        reason(assemble({{"IHDR", header(1, 2, 8, 0)}, {"IDAT", black_pixel()}, {"IEND", {}}}))
            .message,
        "end early"));
    CHECK(contains(
        reason(assemble({{"IHDR", header(1, 1, 16, 2)}, {"IDAT", black_pixel()}, {"IEND", {}}}))
            .message,
        "end early"));
    CHECK(contains(
        reason(assemble({{"IHDR", header(1, 1, 8, 0)}, {"FuTu", {}}, {"IEND", {}}})).message,
        "FuTu"));
    const auto filter_9 = raw({0x78, 0x01, 1, 2, 0, 0xFD, 0xFF, 9, 0, 0, 0x14, 0, 0x0A});
    CHECK(contains(
        reason(assemble({{"IHDR", header(1, 1, 8, 0)}, {"IDAT", filter_9}, {"IEND", {}}})).message,
        "filter type 9"));
    const auto huge = reason(
        assemble({{"IHDR", header(60000, 60000, 8, 6)}, {"IDAT", black_pixel()}, {"IEND", {}}}));
    CHECK(huge.kind == ErrorKind::limit);
    const auto empty_promise = reason(
        assemble({{"IHDR", header(16000, 16000, 8, 6)}, {"IDAT", black_pixel()}, {"IEND", {}}}));
    CHECK(contains(empty_promise.message, "cannot hold"));
    CHECK(contains(reason({}).message, "empty"));
    CHECK(reason(raw({1, 2, 3})).kind == ErrorKind::unsupported);
}

TEST_CASE("formats that PNG does not hold are refused") {
    for (const Format format :
         {Format::rgba16_float, Format::bgra8_srgb, Format::r8_snorm, Format::rgb10a2_unorm}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 2, .height = 2}, 3);
        CHECK(must_fail(encode_picture("png", texture.image(0))).kind == ErrorKind::usage);
    }
    const Image image = must(Image::create(Format::r8_unorm, 1, 1));
    CHECK(contains(must_fail(encode_picture("gif", image.view())).message, ".png"));
    CHECK(must_fail(write_picture("picture", image.view())).place == "picture");
}

TEST_CASE("a failed write leaves no file") {
    const support::TemporaryFolder folder;
    const Image image = must(Image::create(Format::rgba16_float, 1, 1));
    CHECK_FALSE(write_picture(folder.path("x.png"), image.view()));
    CHECK(folder.entries().empty());
}
