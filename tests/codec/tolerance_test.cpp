// Files that break a rule although every pixel is there, and what files say of their colours.
#include <fmt/format.h>

#include <cmath>
#include <cstring>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "base/text.hpp"
#include "base/zlib_stream.hpp"
#include "codec/png/chunks.hpp"
#include "codec/profile.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_exr.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

using Bytes = std::vector<std::byte>;

struct Piece {
    std::string type;
    Bytes data;
};

Bytes bytes_of_text(std::string_view text) {
    const auto bytes = std::as_bytes(std::span(text.data(), text.size()));
    return {bytes.begin(), bytes.end()};
}

Bytes numbers(std::initializer_list<std::uint32_t> values) {
    ByteWriter writer;
    for (const std::uint32_t value : values)
        writer.write_big(value);
    return writer.release();
}

/// A PNG of 2 x 1 pixels of one of the colour types, with chunks before its image data.
Bytes png_of(std::uint8_t color_type, const Bytes& rows, const std::vector<Piece>& before,
             bool with_end = true) {
    ByteWriter writer;
    writer.append(std::as_bytes(std::span(png::signature)));
    const auto chunk = [&](const std::string& type, const Bytes& data) {
        const char name[5] = {type[0], type[1], type[2], type[3], 0};
        png::write_chunk(writer, png::chunk_type(name), data);
    };
    Bytes header = numbers({2, 1});
    for (const std::uint8_t field :
         {std::uint8_t{8}, color_type, std::uint8_t{0}, std::uint8_t{0}, std::uint8_t{0}})
        header.push_back(std::byte{field});
    chunk("IHDR", header);
    for (const Piece& piece : before)
        chunk(piece.type, piece.data);
    chunk("IDAT", must(pack_zlib(rows, 6)));
    if (with_end)
        chunk("IEND", {});
    return writer.release();
}

const Bytes gray_row = support::bytes_of({0, 64, 128});
const Bytes rgb_row = support::bytes_of({0, 64, 128, 255, 0, 10, 20});

int first_code(const Picture& picture) {
    return std::to_integer<int>(picture.image.view().row(0)[0]);
}

/// A profile of ICC version 2 with these primaries (XYZ, D50) and curves of one gamma or the sRGB
/// table.
Bytes profile_of(const std::array<std::array<double, 3>, 3>& primaries, bool srgb_curve) {
    struct Tag {
        std::string name;
        Bytes data;
    };
    std::vector<Tag> tags;
    const auto fixed = [](double value) {
        return static_cast<std::uint32_t>(static_cast<std::int32_t>(std::lround(value * 65536)));
    };
    for (std::size_t i = 0; i < 3; ++i) {
        Bytes xyz = bytes_of_text(std::string_view("XYZ \0\0\0\0", 8));
        const Bytes places =
            numbers({fixed(primaries[i][0]), fixed(primaries[i][1]), fixed(primaries[i][2])});
        xyz.insert(xyz.end(), places.begin(), places.end());
        tags.push_back({std::string(1, "rgb"[i]) + "XYZ", xyz});
        Bytes curve = bytes_of_text(std::string_view("curv\0\0\0\0", 8));
        ByteWriter writer;
        writer.append(curve);
        if (srgb_curve) {
            writer.write_big(std::uint32_t{1024});
            for (int entry = 0; entry < 1024; ++entry)
                writer.write_big(
                    static_cast<std::uint16_t>(std::lround(srgb_decode(entry / 1023.0) * 65535)));
        } else {
            writer.write_big(std::uint32_t{1});
            writer.write_big(std::uint16_t{0x0233});  // 2.2
        }
        tags.push_back({std::string(1, "rgb"[i]) + "TRC", writer.release()});
    }
    ByteWriter head;
    for (int i = 0; i < 4; ++i)
        head.write_big(std::uint32_t{0});
    head.append("RGB ");
    while (head.offset() < 128)
        head.write(std::uint8_t{0});
    head.write_big(static_cast<std::uint32_t>(tags.size()));
    std::size_t at = 132 + 12 * tags.size();
    for (const Tag& tag : tags) {
        head.append(tag.name);
        head.write_big(static_cast<std::uint32_t>(at));
        head.write_big(static_cast<std::uint32_t>(tag.data.size()));
        at += tag.data.size();
    }
    for (const Tag& tag : tags)
        head.append(tag.data);
    return head.release();
}

constexpr std::array<std::array<double, 3>, 3> srgb_primaries = {
    {{0.43607, 0.22249, 0.01392}, {0.38515, 0.71687, 0.09708}, {0.14307, 0.06061, 0.71410}}};
constexpr std::array<std::array<double, 3>, 3> p3_primaries = {
    {{0.51512, 0.24120, -0.00105}, {0.29198, 0.69225, 0.04189}, {0.15710, 0.06657, 0.78407}}};

Piece profile_chunk(const std::string& name, const Bytes& profile) {
    Bytes data = bytes_of_text(name);
    data.push_back(std::byte{0});
    data.push_back(std::byte{0});
    const Bytes packed = must(pack_zlib(profile, 6));
    data.insert(data.end(), packed.begin(), packed.end());
    return {"iCCP", data};
}

}  // namespace

TEST_CASE("PNG without its end, with surplus rows or transparency, is read with a remark") {
    const Picture endless = must(read_picture(png_of(0, gray_row, {}, false)));
    CHECK(first_code(endless) == 64);
    CHECK(contains(endless.info.remarks.at(0), "without its chunk IEND"));
    const Picture surplus =
        must(read_picture(png_of(0, support::bytes_of({0, 64, 128, 0, 1, 2}), {})));
    CHECK(first_code(surplus) == 64);
    CHECK(contains(surplus.info.remarks.at(0), "3 bytes more than the rows need"));
    const Picture pale =
        must(read_picture(png_of(0, gray_row, {{"tRNS", support::bytes_of({0, 64, 9, 9})}})));
    CHECK(contains(pale.info.remarks.at(0), "2 bytes more than it needs"));
    CHECK(std::to_integer<int>(pale.image.view().row(0)[1]) == 0);
    const Picture indexed =
        must(read_picture(png_of(3, support::bytes_of({0, 1, 0}),
                                 {{"PLTE", support::bytes_of({1, 2, 3, 4, 5, 6})},
                                  {"tRNS", support::bytes_of({7, 8, 9})}})));
    CHECK(support::bytes_of(indexed.image.view()) == support::bytes_of({4, 5, 6, 8, 1, 2, 3, 7}));
    CHECK(contains(indexed.info.remarks.at(0), "1 bytes more"));
    CHECK(must_fail(read_picture(png_of(0, support::bytes_of({0, 64}), {}))).kind ==
          ErrorKind::malformed);
    CHECK(must_fail(read_picture(png_of(2, rgb_row, {{"tRNS", support::bytes_of({0, 1})}}))).kind ==
          ErrorKind::malformed);
}

TEST_CASE("a gamma of its own is applied to colours, and to nothing else") {
    const auto with_gamma = [](std::uint32_t gamma) {
        return png_of(0, gray_row, {{"gAMA", numbers({gamma})}});
    };
    const Picture darker = must(read_picture(with_gamma(55556)));  // 1 / 1.8
    CHECK(first_code(darker) == std::lround(255 * srgb_encode(std::pow(64.0 / 255, 1 / 0.55556))));
    CHECK(contains(darker.info.transfer_reason, "gamma of 0.55556"));
    CHECK(darker.transfer == Transfer::srgb);
    CHECK(first_code(must(read_picture(with_gamma(55556), {.role = Role::data}))) == 64);
    CHECK(first_code(must(read_picture(with_gamma(55556), {.transfer = Transfer::srgb}))) == 64);
    CHECK(first_code(must(read_picture(with_gamma(45455)))) == 64);
    CHECK(must(read_picture(with_gamma(100000))).transfer == Transfer::linear);
    // sRGB's own chunk counts more.
    CHECK(first_code(must(read_picture(png_of(
              0, gray_row, {{"sRGB", support::bytes_of({0})}, {"gAMA", numbers({55556})}})))) ==
          64);
}

TEST_CASE("primaries that are not BT.709's are converted, or remarked on") {
    const Bytes usual = numbers({31270, 32900, 64000, 33000, 30000, 60000, 15000, 6000});
    const Bytes wide = numbers({31270, 32900, 68000, 32000, 26500, 69000, 15000, 6000});
    CHECK(must(read_picture(png_of(2, rgb_row, {{"cHRM", usual}}))).info.remarks.empty());
    const Picture converted = must(read_picture(png_of(2, rgb_row, {{"cHRM", wide}})));
    CHECK(contains(converted.info.transfer_reason, "converted to sRGB from the primaries"));
    CHECK(converted.info.unapplied.empty());
    for (const ProfileUse use : {ProfileUse::keep, ProfileUse::ignore}) {
        const Picture kept =
            must(read_picture(png_of(2, rgb_row, {{"cHRM", wide}}), {.profile = use}));
        CHECK(contains(kept.info.remarks.at(0), "cHRM: not applied"));
        CHECK(contains(kept.info.transfer_reason, "was not applied"));
        CHECK_FALSE(
            support::equal_pixels(support::view_of(kept.image), support::view_of(converted.image)));
    }
    CHECK(must(read_picture(png_of(2, rgb_row, {{"cHRM", wide}}), {.role = Role::data}))
              .info.remarks.empty());
}

TEST_CASE("profiles: sRGB is known as such, any other is said not to be applied, and goes on") {
    CHECK(is_srgb_profile(profile_of(srgb_primaries, true)));
    CHECK_FALSE(is_srgb_profile(profile_of(srgb_primaries, false)));
    CHECK_FALSE(is_srgb_profile(profile_of(p3_primaries, true)));
    CHECK_FALSE(is_srgb_profile(Bytes(10)));
    const Picture usual = must(read_picture(
        png_of(2, rgb_row, {profile_chunk("sRGB", profile_of(srgb_primaries, true))})));
    CHECK(usual.info.transfer_reason == "the file says so");
    CHECK(usual.info.remarks.empty());
    const Bytes p3 = profile_of(p3_primaries, true);
    const Picture wide = must(read_picture(png_of(2, rgb_row, {profile_chunk("Wide one", p3)})));
    CHECK(contains(wide.info.transfer_reason, "'Wide one' was not applied"));
    CHECK(wide.info.unapplied == "the colour profile 'Wide one'");
    CHECK_FALSE(wide.info.declared_transfer);
    // What is written of it says the same again, and never sRGB.
    const support::TemporaryFolder folder;
    must(write_picture(folder.path("out.png"), wide));
    const Picture again = must(read_picture(folder.path("out.png")));
    CHECK(again.info.color_profile == p3);
    CHECK(again.info.unapplied == wide.info.unapplied);
    const Baked baked = must(bake(wide));
    CHECK(contains(baked.findings.at(0).problem, "kept, not applied"));
}

TEST_CASE("text headers: spaces, plus signs, and words of other programs") {
    const Picture hdr = must(read_picture(bytes_of_text(
        std::string("#?RADIANCE\nFORMAT= 32-bit_rle_rgbe \nEXPOSURE=+2.0\n\n-Y 1 +X 1\n") +
        std::string("\x80\x80\x80\x81", 4))));
    float red = 0;
    std::memcpy(&red, hdr.image.view().row(0).data(), 4);
    CHECK(red == doctest::Approx(0.5));
    const Picture pam = must(read_picture(bytes_of_text(
        std::string("P7\nWIDTH 1\nHEIGHT 1\nDEPTH 1\nMAXVAL 255\nTUPLTYPE MY OWN KIND\nENDHDR\n") +
        "x")));
    CHECK(first_code(pam) == 'x');
    ByteWriter pfm;
    pfm.append("Pf\n1 1\n+1.0\n");
    pfm.write_big(std::bit_cast<std::uint32_t>(0.25F));
    std::memcpy(&red, support::view_of(must(read_picture(pfm.bytes())).image).row(0).data(), 4);
    CHECK(red == 0.25F);
}

TEST_CASE("BMP: run lengths without their end, and pixels that would lie in the header") {
    ByteWriter writer;
    writer.append("BM");
    for (const std::uint32_t field :
         {0U, 0U, 62U, 40U, 2U, 1U, 1U | 8U << 16, 1U, 0U, 0U, 0U, 2U, 0U, 0x000000U, 0xFFFFFFU})
        writer.write(field);
    writer.append(support::bytes_of({2, 1}));  // two pixels of index 1, and no end
    const Bytes runs = writer.release();
    const Picture picture = must(read_picture(runs));
    CHECK(first_code(picture) == 255);
    CHECK(contains(picture.info.remarks.at(0), "without its end mark"));
    Bytes inside = runs;
    store(&inside[10], std::uint32_t{0});
    CHECK(contains(must_fail(read_picture(inside)).message, "within the headers"));
}

TEST_CASE("messages hold no bytes that command a terminal") {
    const std::string evil = "\x1b[31mred\x07";
    const Error pam = must_fail(read_picture(bytes_of_text("P7\n" + evil + " 1\nENDHDR\n")));
    const Error hdr = must_fail(read_picture(bytes_of_text("#?RADIANCE\nFORMAT=" + evil + "\n\n")));
    for (const Error& error : {pam, hdr, Error{.message = evil}}) {
        const std::string sentence = error.sentence();
        CHECK(contains(sentence, "\\x1b"));
        CHECK(
            std::ranges::none_of(sentence, [](char c) { return (c >= 0 && c < ' ') || c == 127; }));
    }
    CHECK(printable("a\tb\xff") == "a\\x09b\\xff");
    CHECK(printable(std::string(100, 'x'), 10) == "xxxxxxxxxx...");
}

TEST_CASE("OpenEXR: PXR24 of halves, floats and whole numbers is what the reference reads") {
    for (const int type : {0, 1, 2})
        for (const int tile : {0, 16}) {
            CAPTURE(type);
            CAPTURE(tile);
            const auto file = support::write_reference_exr({.compression = 5,
                                                            .type = type,
                                                            .data = {0, 0, 40, 50},
                                                            .display = {0, 0, 40, 50},
                                                            .tile = tile});
            const Picture picture = must(read_picture(file));
            const Image floats = must(convert(picture.image.view(), Format::rgba32_float, {}));
            if (type == 0)
                continue;  // the reference hands over no whole numbers as colours
            const auto reference = support::read_reference_exr(file);
            double most = 0;
            for (std::size_t i = 0; i < reference.size(); ++i) {
                float value = 0;
                std::memcpy(&value, floats.view().data + 4 * i, 4);
                most = std::max(most, std::abs(static_cast<double>(value - reference[i])));
            }
            CHECK(most == 0);
        }
}

TEST_CASE("PNG: the transparent colour has the lowest bits of the picture's depth") {
    // 0x0140 in 8 bits is 0x40, the first of the two texels.
    const Picture gray =
        must(read_picture(png_of(0, gray_row, {{"tRNS", support::bytes_of({1, 64})}})));
    CHECK(support::bytes_of(gray.image.view()) == support::bytes_of({64, 0, 128, 255}));
    const Picture color = must(read_picture(
        png_of(2, rgb_row, {{"tRNS", support::bytes_of({7, 64, 1, 128, 0xFF, 255})}})));
    CHECK(support::bytes_of(color.image.view()) ==
          support::bytes_of({64, 128, 255, 0, 0, 10, 20, 255}));
}

TEST_CASE("PNG: a wrong checksum of a chunk that pixels depend on is an error, else a remark") {
    const auto damaged = [](const char* type) {
        Bytes file = png_of(
            3, support::bytes_of({0, 1, 0}),
            {{"PLTE", support::bytes_of({1, 2, 3, 4, 5, 6})}, {"tEXt", bytes_of_text("Title")}});
        const auto name = std::as_bytes(std::span(type, 4));
        const auto at = std::search(file.begin(), file.end(), name.begin(), name.end());
        REQUIRE(at != file.end());
        const std::size_t offset = static_cast<std::size_t>(at - file.begin());
        const auto size = load<std::uint32_t, std::endian::big>(file.data() + offset - 4);
        file[offset + 4 + size] ^= std::byte{1};
        return read_picture(file);
    };
    for (const char* type : {"IHDR", "PLTE", "IDAT", "IEND"}) {
        CAPTURE(type);
        const auto picture = damaged(type);
        REQUIRE_FALSE(picture);
        CHECK(contains(picture.error().message, "checksum"));
        CHECK(contains(picture.error().message, type));
    }
    const Picture fine = must(damaged("tEXt"));
    REQUIRE(fine.info.remarks.size() == 1);
    CHECK(contains(fine.info.remarks[0], "tEXt has a wrong checksum"));
}
