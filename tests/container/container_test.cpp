// DDS, KTX 1, and reading texture files level by level.
#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

void check_equal(const Texture& a, const Texture& b) {
    REQUIRE(a.shape() == b.shape());
    for (std::uint32_t level = 0; level < a.shape().levels; ++level) {
        CAPTURE(level);
        CHECK(std::ranges::equal(a.level(level), b.level(level)));
    }
}

const TextureShape shapes[] = {
    {.width = 13, .height = 6, .levels = 4},
    {.width = 8, .height = 8, .levels = 3, .layers = 3, .is_array = true},
    {.width = 12, .height = 12, .levels = 4, .faces = 6},
    {.width = 8, .height = 8, .levels = 2, .layers = 2, .faces = 6, .is_array = true},
    {.width = 8, .height = 4, .depth = 6, .levels = 4},
};

/// A DDS file with an old header: words by their places, then texels.
std::vector<std::byte> old_dds(std::uint32_t width, std::uint32_t height,
                               const std::map<std::size_t, std::uint32_t>& words,
                               std::span<const std::byte> texels) {
    std::array<std::uint32_t, 32> header{};
    header[0] = 0x20534444;
    header[1] = 124;
    header[3] = height;
    header[4] = width;
    header[19] = 32;
    for (const auto& [place, value] : words)
        header[place] = value;
    ByteWriter writer;
    for (const std::uint32_t word : header)
        writer.write(word);
    writer.append(texels);
    return writer.release();
}
std::vector<std::byte> old_dds(std::uint32_t width, std::uint32_t height,
                               const std::map<std::size_t, std::uint32_t>& words,
                               std::initializer_list<int> texels) {
    return old_dds(width, height, words, support::bytes_of(texels));
}

/// Words of a pixel format: flags, code, bits, masks.
std::map<std::size_t, std::uint32_t> pixels(std::uint32_t flags, std::uint32_t code,
                                            std::uint32_t bits,
                                            std::array<std::uint32_t, 4> masks = {}) {
    return {{20, flags},    {21, code},     {22, bits},    {23, masks[0]},
            {24, masks[1]}, {25, masks[2]}, {26, masks[3]}};
}

std::vector<std::byte> ktx1_file(std::initializer_list<std::uint32_t> header,
                                 std::initializer_list<int> rest) {
    ByteWriter writer;
    writer.append(
        support::bytes_of({0xAB, 'K', 'T', 'X', ' ', '1', '1', 0xBB, '\r', '\n', 0x1A, '\n'}));
    for (const std::uint32_t word : header)
        writer.write(word);
    writer.append(support::bytes_of(rest));
    return writer.release();
}

}  // namespace

TEST_CASE("DDS keeps every shape, byte for byte, in every format that it has a number for") {
    for (const FormatInfo& f : all_formats())
        for (TextureShape shape : shapes) {
            shape.format = f.format;
            CAPTURE(f.name);
            CAPTURE(shape.depth);
            CAPTURE(shape.faces);
            const Texture texture = support::random_texture(shape, 4);
            const auto file = texture_file_bytes("dds", texture);
            if (f.dxgi == 0) {
                CHECK(must_fail(file).kind == ErrorKind::unsupported);
                continue;
            }
            const TextureFile back = must(read_texture(*file));
            if (f.format == Format::bc1_unorm || f.format == Format::bc1_srgb)
                shape.format = back.texture.shape().format;  // one number for both kinds of BC1
            REQUIRE(back.texture.shape() == shape);
            for (std::uint32_t level = 0; level < shape.levels; ++level)
                CHECK(std::ranges::equal(back.texture.level(level), texture.level(level)));
            CHECK(back.info.file_format == "DDS");
        }
}

TEST_CASE("DDS and KTX 2.0 turn into each other without a changed byte") {
    for (TextureShape shape : shapes) {
        shape.format = Format::bc7_srgb;
        const Texture texture = support::random_texture(shape, 9);
        const Texture once = must(read_texture(must(texture_file_bytes("dds", texture)))).texture;
        const Texture twice = must(read_texture(must(texture_file_bytes("ktx2", once)))).texture;
        check_equal(texture, twice);
    }
}

TEST_CASE("old headers are written where they can say the format, and read again") {
    for (const FormatInfo& f : all_formats()) {
        CAPTURE(f.name);
        const Texture texture = support::random_texture(
            {.format = f.format, .width = 12, .height = 8, .levels = 3, .faces = 1}, 2);
        const auto file = texture_file_bytes("dds", texture, {.legacy_header = true});
        if (!file) {
            CHECK(file.error().kind == ErrorKind::unsupported);
            continue;
        }
        const Texture back = must(read_texture(*file)).texture;
        CHECK(back.shape().levels == 3);
        for (std::uint32_t level = 0; level < 3; ++level)
            CHECK(std::ranges::equal(back.level(level), texture.level(level)));
    }
    const Texture array = support::random_texture(
        {.format = Format::bc3_unorm, .width = 8, .height = 8, .layers = 2, .is_array = true}, 2);
    CHECK(contains(must_fail(texture_file_bytes("dds", array, {.legacy_header = true})).message,
                   "array"));
}

TEST_CASE("masks of old headers: 565, 1555, 4444, without alpha, luminance, alpha alone") {
    const auto texel = [](const std::vector<std::byte>& file) {
        const Texture texture = must(read_texture(file)).texture;
        std::vector<int> bytes;
        for (const std::byte b : texture.level(0))
            bytes.push_back(std::to_integer<int>(b));
        return std::pair(bytes, texture.metadata.swizzle);
    };
    using Bytes = std::vector<int>;
    CHECK(texel(old_dds(1, 1, pixels(0x40, 0, 16, {0xF800, 0x7E0, 0x1F, 0}), {0x1F, 0xF8})).first ==
          Bytes{255, 0, 255, 255});
    CHECK(texel(old_dds(1, 1, pixels(0x41, 0, 16, {0x7C00, 0x3E0, 0x1F, 0x8000}), {0xE0, 0x03}))
              .first == Bytes{0, 255, 0, 0});
    CHECK(
        texel(old_dds(1, 1, pixels(0x41, 0, 16, {0xF00, 0xF0, 0xF, 0xF000}), {0x5A, 0x3F})).first ==
        Bytes{255, 85, 170, 51});
    CHECK(texel(old_dds(1, 1, pixels(0x40, 0, 32, {0xFF0000, 0xFF00, 0xFF, 0}), {1, 2, 3, 99}))
              .first == Bytes{3, 2, 1, 255});
    CHECK(texel(old_dds(1, 1, pixels(0x40, 0, 24, {0xFF0000, 0xFF00, 0xFF, 0}), {1, 2, 3})).first ==
          Bytes{3, 2, 1, 255});
    const auto gray = texel(old_dds(1, 1, pixels(0x20000, 0, 8, {0xFF, 0, 0, 0}), {7}));
    CHECK(gray.first == Bytes{7});
    CHECK(swizzle_text(gray.second) == "rrr1");
    const auto gray_alpha =
        texel(old_dds(1, 1, pixels(0x20001, 0, 16, {0xFF, 0, 0, 0xFF00}), {7, 8}));
    CHECK(swizzle_text(gray_alpha.second) == "rrrg");
    CHECK(swizzle_text(texel(old_dds(1, 1, pixels(0x2, 0, 8, {0, 0, 0, 0xFF}), {9})).second) ==
          "000r");
    CHECK(must(read_texture(old_dds(1, 1, pixels(4, 113, 0), {0, 0, 0, 0, 0, 0, 0, 0})))
              .texture.shape()
              .format == Format::rgba16_float);
    const TextureFile premultiplied = must(read_texture(
        old_dds(4, 4, pixels(4, 0x32545844, 0), {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0})));
    CHECK(premultiplied.texture.metadata.alpha == AlphaMode::premultiplied);
}

TEST_CASE("every texel of every row is put together by the masks of its header") {
    constexpr std::uint32_t width = 5, height = 3;
    struct Masks {
        std::uint32_t flags, bits;
        std::array<std::uint32_t, 4> of;
    };
    support::Random random(5);
    for (const Masks& masks : {Masks{0x40, 16, {0xF800, 0x7E0, 0x1F, 0}},
                               {0x41, 16, {0x7C00, 0x3E0, 0x1F, 0x8000}},
                               {0x41, 16, {0xF00, 0xF0, 0xF, 0xF000}},
                               {0x40, 24, {0xFF0000, 0xFF00, 0xFF, 0}},
                               {0x40, 32, {0xFF0000, 0xFF00, 0xFF, 0}},
                               {0x41, 32, {0x3FF00000, 0xFFC00, 0x3FF, 0xC0000000}},
                               {0x41, 32, {0x3FF, 0xFFC00, 0x3FF00000, 0xC0000000}}}) {
        std::vector<std::byte> stored(std::size_t{width} * height * masks.bits / 8);
        for (std::byte& one : stored)
            one = static_cast<std::byte>(random() & 0xFF);
        const TextureFile file = must(read_texture(
            old_dds(width, height, pixels(masks.flags, 0, masks.bits, masks.of), stored)));
        const Format format = file.texture.shape().format;
        const double most = format == Format::rgb10a2_unorm ? 1023 : 255;
        CHECK((most == 1023) == ((masks.of[0] | masks.of[2]) == 0x3FF003FF));
        const Image floats = must(convert(file.texture.image(0), Format::rgba32_float,
                                          {.source_transfer = Transfer::linear}));
        for (std::uint32_t i = 0; i < width * height; ++i) {
            std::uint64_t pixel = 0;
            for (std::size_t byte = 0; byte < masks.bits / 8; ++byte)
                pixel |= std::to_integer<std::uint64_t>(stored[i * masks.bits / 8 + byte])
                         << 8 * byte;
            const auto* texel =
                reinterpret_cast<const float*>(floats.view().row(i / width).data()) +
                4 * (i % width);
            for (std::size_t c = 0; c < 4; ++c) {
                const std::uint32_t mask = masks.of[c];
                const int shift = mask != 0 ? std::countr_zero(mask) : 0;
                const double wanted = mask == 0 ? 1
                                                : static_cast<double>((pixel & mask) >> shift) /
                                                      static_cast<double>(mask >> shift);
                CHECK(std::abs(static_cast<double>(texel[c]) - wanted) < 1 / most);
            }
        }
    }
}

TEST_CASE("more levels than a texture can have are refused, or left out with a remark") {
    for (const TextureShape& shape :
         {TextureShape{.format = Format::r8_unorm, .width = 16, .height = 2, .levels = 5},
          TextureShape{.format = Format::r8_unorm, .width = 2, .height = 16, .levels = 5},
          TextureShape{
              .format = Format::r8_unorm, .width = 2, .height = 4, .depth = 16, .levels = 5}}) {
        const Texture texture = support::random_texture(shape, 3);
        auto file = must(texture_file_bytes("dds", texture));
        constexpr std::size_t level_count = 28;
        REQUIRE(file[level_count] == std::byte{5});
        file[level_count] = std::byte{6};
        CHECK(must_fail(read_texture(file)).kind == ErrorKind::malformed);
        const TextureFile read = must(read_texture(file, {.forgiving = true}));
        CHECK(read.texture.shape().levels == 5);
        for (std::uint32_t level = 0; level < 5; ++level)
            CHECK(std::ranges::equal(read.texture.level(level), texture.level(level)));
        REQUIRE_FALSE(read.info.remarks.empty());
        CHECK(contains(read.info.remarks.front(), "the level count is 6"));
    }
}

TEST_CASE("a cube with some of its faces is read, the others being empty") {
    auto words = pixels(0x20000, 0, 8, {0xFF, 0, 0, 0});
    words[28] = 0x200 | 0x400 | 0x2000;  // +X and -Y
    const TextureFile file = must(read_texture(old_dds(1, 1, words, {11, 22})));
    REQUIRE(file.texture.shape().faces == 6);
    CHECK(file.texture.image(0, 0, 0).data[0] == std::byte{11});
    CHECK(file.texture.image(0, 0, 1).data[0] == std::byte{0});
    CHECK(file.texture.image(0, 0, 3).data[0] == std::byte{22});
    CHECK(contains(file.info.remarks.back() + file.info.remarks.front(), "2 of its 6 faces"));
}

TEST_CASE("what a file's format cannot say of a texture is told, with the remedy") {
    TextureMetadata metadata;
    CHECK(losses_in_file("a.dds", metadata, Format::rgba8_srgb).empty());
    metadata.swizzle = gray_swizzle;
    metadata.origin = Origin::bottom;
    CHECK(losses_in_file("a.ktx2", metadata, Format::r8_unorm).empty());
    const Findings lost = losses_in_file("a.dds", metadata, Format::r8_unorm);
    REQUIRE(lost.size() == 2);
    CHECK(contains(lost[0].problem, "rrr1"));
    CHECK(contains(lost[1].problem, "bottom"));
    CHECK(losses_in_file("a.dds", {}, Format::bc1_srgb, {.legacy_header = true}).size() == 1);
    CHECK(losses_in_file("a.dds", {}, Format::bc1_unorm, {.legacy_header = true}).empty());
}

TEST_CASE("a DDS that calls itself a cube and a volume is refused") {
    const Texture cube = support::random_texture(
        {.format = Format::bc4_unorm, .width = 4, .height = 4, .faces = 6}, 1);
    auto bytes = must(texture_file_bytes("dds", cube, {.legacy_header = true}));
    must(read_texture(bytes));
    bytes[112 + 2] |= std::byte{0x20};  // the third byte of the second capabilities: a volume
    CHECK(must_fail(read_texture(bytes)).kind != ErrorKind::io);
    // and so is such a shape, wherever it comes from
    TextureShape both = cube.shape();
    both.is_3d = true;
    CHECK(must_fail(Texture::create(both)).kind == ErrorKind::usage);
}

TEST_CASE("DDS errors name the field, its value and the rule") {
    const auto message = [](const std::vector<std::byte>& file) {
        return must_fail(read_texture(file)).sentence();
    };
    auto wrong_size = old_dds(1, 1, pixels(4, 113, 0), {});
    store(&wrong_size[4], std::uint32_t{100});
    CHECK(contains(message(wrong_size), "at byte 4: the header's size is 100"));
    CHECK(contains(message(old_dds(4, 4, pixels(4, 0x59565955, 0), {})), "'UYVY'"));
    CHECK(contains(message(old_dds(4, 4, pixels(0x40, 0, 12, {1, 2, 4, 0}), {})), "12 bits"));
    CHECK(contains(message(old_dds(0, 4, pixels(4, 113, 0), {})), "empty"));
    CHECK(contains(message(old_dds(1, 1, pixels(4, 113, 0), {1, 2})), "need"));
    auto many_levels = pixels(4, 113, 0);
    many_levels[7] = 9;
    CHECK(contains(message(old_dds(1, 1, many_levels, {0, 0, 0, 0, 0, 0, 0, 0})), "9 levels"));
    CHECK(must(read_texture(old_dds(1, 1, many_levels, {0, 0, 0, 0, 0, 0, 0, 0}),
                            {.forgiving = true}))
              .texture.shape()
              .levels == 1);
    const auto whole = must(texture_file_bytes(
        "dds", support::random_texture({.format = Format::bc1a_srgb, .width = 8, .height = 8}, 1)));
    for (std::size_t size = 0; size < whole.size(); ++size)
        REQUIRE_FALSE(read_texture(std::span(whole).first(size)));
}

TEST_CASE("KTX 1: mirrored pictures are left so, and that is said") {
    for (const std::string_view value : {"S=r,T=d", "S=l,T=d", "S=r,T=u", "S=r,T=d,R=o"}) {
        CAPTURE(value);
        ByteWriter writer;
        writer.append(
            ktx1_file({0x04030201, 0x1401, 1, 0x1908, 0x8058, 0x1908, 1, 1, 0, 0, 1, 1}, {}));
        std::string entry("KTXorientation\0", 15);
        entry += std::string(value) + '\0';
        const std::size_t padding = (4 - entry.size() % 4) % 4;
        writer.write(static_cast<std::uint32_t>(4 + entry.size() + padding));
        writer.write(static_cast<std::uint32_t>(entry.size()));
        writer.append(as_bytes(entry + std::string(padding, '\0')));
        writer.write(std::uint32_t{4});
        writer.append(support::bytes_of({1, 2, 3, 4}));
        const TextureFile file = must(read_texture(writer.release()));
        const bool is_odd = contains(value, "S=l") || contains(value, "R=o");
        CHECK(file.info.remarks.size() == (is_odd ? 1U : 0U));
        CHECK(file.texture.metadata.origin ==
              (contains(value, "T=u") ? Origin::bottom : Origin::top));
    }
}

TEST_CASE("KTX 1: internal formats without sizes take that of the texels") {
    struct Kind {
        std::uint32_t type, format, bytes;  ///< rows in fours
        Format expected;
    };
    for (const Kind& kind :
         {Kind{0x1401, 0x1908, 4, Format::rgba8_unorm},  // GL_UNSIGNED_BYTE, GL_RGBA
          {0x1401, 0x1907, 4, Format::rgb8_unorm},
          {0x1401, 0x1903, 4, Format::r8_unorm},
          {0x1403, 0x1908, 8, Format::rgba16_unorm}}) {
        ByteWriter writer;
        const std::uint32_t type_size = kind.type == 0x1401 ? 1 : 2;
        writer.append(ktx1_file({0x04030201, kind.type, type_size, kind.format, kind.format,
                                 kind.format, 1, 1, 0, 0, 1, 1, 0, kind.bytes},
                                {1, 2, 3, 4, 5, 6, 7, 8}));
        CHECK(must(read_texture(writer.release())).texture.shape().format == kind.expected);
    }
}

TEST_CASE("KTX 1: blocks of ETC1, ETC2, EAC and ASTC, of sizes that are not whole blocks") {
    struct Kind {
        std::uint32_t internal, base, bytes;
        Format expected;
    };
    for (const Kind& kind : {Kind{0x8D64, 0x1907, 16, Format::etc2_rgb8_unorm},  // GL_ETC1_RGB8_OES
                             {0x9274, 0x1907, 16, Format::etc2_rgb8_unorm},
                             {0x9277, 0x1908, 16, Format::etc2_rgb8a1_srgb},
                             {0x9279, 0x1908, 32, Format::etc2_rgba8_srgb},
                             {0x9271, 0x1903, 16, Format::eac_r11_snorm},
                             {0x9272, 0x8227, 32, Format::eac_rg11_unorm},
                             {0x93B0, 0x1908, 32, Format::astc_4x4_unorm},
                             {0x93D4, 0x1908, 16, Format::astc_6x6_srgb},
                             {0x93BD, 0x1908, 16, Format::astc_12x12_unorm}}) {
        ByteWriter writer;
        writer.append(ktx1_file(
            {0x04030201, 0, 1, 0, kind.internal, kind.base, 6, 3, 0, 0, 1, 1, 0, kind.bytes}, {}));
        for (std::uint32_t i = 0; i < kind.bytes; ++i)
            writer.write(static_cast<std::uint8_t>(i * 37));
        const Texture texture = must(read_texture(writer.release())).texture;
        CHECK(texture.shape() == TextureShape{.format = kind.expected, .width = 6, .height = 3});
        CHECK(texture.level(0)[kind.bytes - 1] ==
              static_cast<std::byte>((kind.bytes - 1) * 37 % 256));
    }
}

TEST_CASE("KTX 1: rows in fours, cubes face by face, either byte order") {
    // 3 x 2 texels of RGB in 8 bits: 9 bytes a row and 3 of padding
    const auto rgb =
        ktx1_file({0x04030201, 0x1401, 1, 0x1907, 0x8051, 0x1907, 3, 2, 0, 0, 1, 1, 0, 24},
                  {1,  2,  3,  4,  5,  6,  7,  8,  9,  0, 0, 0,  //
                   11, 12, 13, 14, 15, 16, 17, 18, 19, 0, 0, 0});
    const Texture texture = must(read_texture(rgb)).texture;
    CHECK(texture.shape() == TextureShape{.format = Format::rgb8_unorm, .width = 3, .height = 2});
    CHECK(texture.image(0).row(1)[0] == std::byte{11});
    CHECK(texture.image(0).row(1)[8] == std::byte{19});
    for (std::size_t size = 0; size < rgb.size(); ++size)
        REQUIRE_FALSE(read_texture(std::span(rgb).first(size)));

    // 16-bit gray of a machine of the other order, and a cube of 1 x 1
    const auto swapped =
        ktx1_file({0x01020304, 0x03140000, 0x02000000, 0x03190000, 0x2A820000, 0x03190000,
                   0x01000000, 0x01000000, 0, 0, 0x01000000, 0x01000000, 0, 0x04000000},
                  {0x12, 0x34, 0, 0});
    CHECK(load<std::uint16_t>(support::level_of(must(read_texture(swapped)).texture, 0).data()) ==
          0x1234);
    const auto cube =
        ktx1_file({0x04030201, 0x1401, 1, 0x1903, 0x8229, 0x1903, 1, 1, 0, 0, 6, 1, 0, 4},
                  {1, 0, 0, 0, 2, 0, 0, 0, 3, 0, 0, 0, 4, 0, 0, 0, 5, 0, 0, 0, 6, 0, 0, 0});
    const Texture faces = must(read_texture(cube)).texture;
    for (std::uint32_t face = 0; face < 6; ++face)
        CHECK(faces.image(0, 0, face).data[0] == static_cast<std::byte>(face + 1));
    auto unknown = rgb;
    store(&unknown[28], std::uint32_t{0x9999});
    CHECK(contains(must_fail(read_texture(unknown)).message, "glInternalFormat is 0x9999"));
    auto wrong = rgb;
    store(&wrong[64], std::uint32_t{20});
    CHECK(contains(must_fail(read_texture(wrong)).message, "imageSize of level 0 is 20"));
    CHECK(contains(must_fail(texture_file_bytes("ktx", texture)).message, "no texture format"));
}

TEST_CASE("KTX 1: texels that OpenGL no longer has become those of today") {
    const auto texel = [](std::uint32_t type, std::uint32_t format, std::uint32_t internal,
                          std::initializer_list<int> bytes, bool swapped = false) {
        const auto word = [&](std::uint32_t value) { return swapped ? swap_bytes(value) : value; };
        return must(read_texture(
            ktx1_file({word(0x04030201), word(type), word(2), word(format), word(internal),
                       word(format), word(1), word(1), 0, 0, word(1), word(1), 0, word(4)},
                      bytes)));
    };
    constexpr std::uint32_t byte_type = 0x1401;
    const TextureFile gray = texel(byte_type, 0x1909, 0x8040, {77, 0, 0, 0});
    CHECK(gray.texture.shape().format == Format::r8_unorm);
    CHECK(gray.texture.metadata.swizzle == gray_swizzle);
    const TextureFile pair = texel(byte_type, 0x190A, 0x8045, {77, 99, 0, 0});
    CHECK(pair.texture.shape().format == Format::rg8_unorm);
    CHECK(pair.texture.metadata.swizzle == gray_alpha_swizzle);
    const TextureFile alpha = texel(byte_type, 0x1906, 0x803C, {77, 0, 0, 0});
    CHECK(swizzle_text(alpha.texture.metadata.swizzle) == "000r");
    const auto codes = [](const TextureFile& file) {
        return support::bytes_of(file.texture.image(0));
    };
    // 1111 0000 1000 0100 in each order of bytes
    for (const bool swapped : {false, true}) {
        const auto four = swapped ? texel(0x8033, 0x1908, 0x8056, {0xF0, 0x84, 0, 0}, true)
                                  : texel(0x8033, 0x1908, 0x8056, {0x84, 0xF0, 0, 0});
        CHECK(codes(four) == support::bytes_of({255, 0, 136, 68}));
        CHECK(contains(four.info.remarks.at(0), "widened"));
    }
    CHECK(codes(texel(0x8363, 0x1907, 0x8D62, {0x1F, 0xF8, 0, 0})) ==
          support::bytes_of({255, 0, 255, 255}));
    CHECK(codes(texel(0x8034, 0x1908, 0x8057, {0xC0, 0x07, 0, 0})) ==
          support::bytes_of({0, 255, 0, 0}));
    CHECK(codes(texel(byte_type, 0x80E0, 0x8051, {1, 2, 3, 0})) ==
          support::bytes_of({3, 2, 1, 255}));
}

TEST_CASE("DDS knows BGRX with the sRGB curve") {
    const Texture texture =
        support::random_texture({.format = Format::bgra8_srgb, .width = 4, .height = 4}, 8);
    auto bytes = must(texture_file_bytes("dds", texture));
    store(&bytes[128], std::uint32_t{93});
    const TextureFile file = must(read_texture(bytes));
    CHECK(file.texture.shape().format == Format::rgba8_srgb);
    CHECK(file.texture.image(0).row(0)[0] == texture.image(0).row(0)[2]);
    CHECK(file.texture.image(0).row(0)[3] == std::byte{255});
}

TEST_CASE("KTX 2.0 holds lines and volumes of one slice") {
    for (const TextureShape& shape :
         {TextureShape{.format = Format::rgba8_srgb, .width = 37, .levels = 6, .is_1d = true},
          TextureShape{.format = Format::r16_float, .width = 9, .height = 5, .is_3d = true},
          TextureShape{.format = Format::rgba8_srgb,
          .width = 16,
          .levels = 2,
          .layers = 3,
          .is_array = true,
          .is_1d = true}}) {
        const Texture texture = support::random_texture(shape, 3);
        const auto file = must(texture_file_bytes("ktx2", texture));
        CHECK(load<std::uint32_t>(&file[24]) == (shape.is_1d ? 0 : shape.height));
        CHECK(load<std::uint32_t>(&file[28]) == (shape.is_3d ? 1 : 0));
        check_equal(must(read_texture(file)).texture, texture);
    }
    CHECK(
        must_fail(Texture::create({.format = Format::bc1_unorm, .width = 8, .is_1d = true})).kind ==
        ErrorKind::usage);
}

TEST_CASE("a stream hands out surfaces without a copy, and levels one by one") {
    const Texture texture = support::random_texture(
        {.format = Format::bc7_srgb, .width = 32, .height = 32, .levels = 6, .faces = 6}, 5);
    for (const char* ending : {"ktx2", "dds"}) {
        const auto file = must(texture_file_bytes(ending, texture));
        const TextureStream stream = must(TextureStream::open(file));
        for (std::uint32_t level = 6; level-- > 0;) {
            const ConstImageView view = must(stream.surface(level, 0, 4));
            CHECK(view.data >= file.data());
            CHECK(view.data < file.data() + file.size());
            CHECK(support::equal_pixels(view, texture.image(level, 0, 4)));
            std::vector<std::byte> bytes(texture.level(level).size());
            must(stream.read_level(level, bytes));
            CHECK(std::ranges::equal(bytes, texture.level(level)));
        }
        CHECK(must_fail(stream.surface(6)).kind == ErrorKind::usage);
        std::vector<std::byte> small(3);
        CHECK(must_fail(stream.read_level(0, small)).kind == ErrorKind::usage);
    }
    const auto packed =
        must(texture_file_bytes("ktx2", texture, {.supercompression = Supercompression::zstd}));
    const TextureStream stream = must(TextureStream::open(packed));
    CHECK(must_fail(stream.surface(0)).kind == ErrorKind::unsupported);
    check_equal(must(stream.read_all()), texture);
}

TEST_CASE("a level many gigabytes into a sparse file is read, and nothing before it") {
    const support::TemporaryFolder folder;
    const std::string path = folder.path("far.ktx2");
    const Texture texture =
        support::random_texture({.format = Format::r8_unorm, .width = 16, .height = 16}, 7);
    auto file = must(texture_file_bytes("ktx2", texture));
    constexpr std::uint64_t far = std::uint64_t{1} << 40;
    const std::uint64_t near = load<std::uint64_t>(&file[80]);
    store(&file[80], far);
    file.resize(static_cast<std::size_t>(near));
    support::write_bytes(path, file);
    const int handle = ::open(path.c_str(), O_WRONLY);
    REQUIRE(handle >= 0);
    REQUIRE(::pwrite(handle, texture.level(0).data(), 256, static_cast<off_t>(far)) == 256);
    ::close(handle);
    const TextureStream stream = must(TextureStream::open(path, {}, FileAccess::map));
    CHECK(stream.info().file_bytes == far + 256);
    CHECK(support::equal_pixels(must(stream.surface(0)), texture.image(0)));
}

TEST_CASE("forgiving reading remarks on what strict reading refuses") {
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 8, .height = 8, .levels = 2}, 1);
    const auto sound = must(texture_file_bytes("ktx2", texture));
    const auto check = [&](const std::vector<std::byte>& file, const char* part) {
        CAPTURE(part);
        CHECK(contains(must_fail(read_texture(file)).message, part));
        const TextureFile forgiven = must(read_texture(file, {.forgiving = true}));
        REQUIRE(forgiven.info.remarks.size() == 1);
        CHECK(contains(forgiven.info.remarks[0], part));
        CHECK(std::ranges::equal(forgiven.texture.level(0), texture.level(0)));
    };
    auto type_size = sound;
    store(&type_size[16], std::uint32_t{4});
    check(type_size, "typeSize is 4");
    auto descriptor = sound;
    store(&descriptor[load<std::uint32_t>(&sound[48]) + 12], std::uint32_t{1 | 1U << 8 | 1U << 16});
    check(descriptor, "word 2");
    auto keys = sound;
    const std::size_t first_key = load<std::uint32_t>(&sound[56]) + 4;
    keys[first_key + 3] = std::byte{'z'};  // behind "KTXwriter" now
    check(keys, "order of their bytes");
    auto order = sound;  // level 0 before level 1: exchange the two in the file
    const std::uint64_t one = load<std::uint64_t>(&sound[104]);
    const std::uint64_t zero = load<std::uint64_t>(&sound[80]);
    std::copy_n(sound.begin() + static_cast<std::ptrdiff_t>(zero), 256,
                order.begin() + static_cast<std::ptrdiff_t>(one));
    std::copy_n(sound.begin() + static_cast<std::ptrdiff_t>(one), 64,
                order.begin() + static_cast<std::ptrdiff_t>(one + 256));
    store(&order[80], one);
    store(&order[104], one + 256);
    check(order, "smaller levels have to come first");
    CHECK(must_fail(read_texture(order)).offset == 80 + 24);  // the entry of level 1
}

TEST_CASE("keys of the standard have its sizes, and unknown ones are kept") {
    Texture texture =
        support::random_texture({.format = Format::r8_unorm, .width = 4, .height = 4}, 1);
    texture.metadata.key_values = {{"KTXanimData", std::string(12, '\1')},
                                   {"Gardener", std::string("Ivy\0", 4)}};
    const TextureFile back = must(read_texture(must(texture_file_bytes("ktx2", texture))));
    CHECK(back.texture.metadata.key_values.at("Gardener") == std::string("Ivy\0", 4));
    CHECK(back.texture.metadata.key_values.at("KTXanimData") == std::string(12, '\1'));
    texture.metadata.key_values = {{"KTXanimData", "short"}};
    CHECK(contains(must_fail(read_texture(must(texture_file_bytes("ktx2", texture)))).message,
                   "KTXanimData has 5 bytes"));
}

TEST_CASE("DDS: the words that say how many levels, faces and slices there are") {
    // Flags and both words of capabilities, as the format's documentation gives their bits.
    constexpr std::uint32_t always = 0x1007, pitch = 0x8, level_count = 0x20000, depth = 0x800000;
    constexpr std::uint32_t texture = 0x1000, complex = 0x8, mip_map = 0x400000;
    constexpr std::uint32_t cube = 0xFE00, volume = 0x200000;
    struct Kind {
        TextureShape shape;
        std::uint32_t flags, caps, caps2;
    };
    const Format format = Format::rgba8_srgb;
    for (const Kind& kind :
         {Kind{{.format = format, .width = 8, .height = 8}, always | pitch, texture, 0},
          Kind{{.format = format, .width = 8, .height = 8, .levels = 2},
               always | pitch | level_count,
               texture | complex | mip_map,
               0},
          Kind{{.format = format, .width = 8, .height = 8, .faces = 6},
               always | pitch,
               texture | complex,
               cube},
          Kind{{.format = format, .width = 8, .height = 8, .depth = 4},
               always | pitch | depth,
               texture | complex,
               volume},
          Kind{{.format = format, .width = 8, .height = 8, .layers = 3, .is_array = true},
               always | pitch,
               texture | complex,
               0}}) {
        CAPTURE(kind.shape.levels);
        CAPTURE(kind.shape.faces);
        CAPTURE(kind.shape.depth);
        const auto file = must(texture_file_bytes("dds", support::random_texture(kind.shape, 1)));
        const auto word = [&](std::size_t i) { return load<std::uint32_t>(&file[4 + 4 * i]); };
        CHECK(word(1) == kind.flags);
        CHECK(word(6) == kind.shape.levels);
        CHECK(word(26) == kind.caps);
        CHECK(word(27) == kind.caps2);
    }
}

TEST_CASE("DDS: pitch for rows of texels, size for blocks, and what alpha means") {
    const auto word_of = [](const std::vector<std::byte>& file, std::size_t index) {
        return load<std::uint32_t>(file.data() + 4 * index);
    };
    const Texture texels =
        support::random_texture({.format = Format::rgba8_srgb, .width = 12, .height = 5}, 1);
    const Texture blocks =
        support::random_texture({.format = Format::bc7_srgb, .width = 12, .height = 5}, 1);
    const auto plain = must(texture_file_bytes("dds", texels));
    CHECK((word_of(plain, 2) & 0x80008U) == 0x8U);
    CHECK(word_of(plain, 5) == 12 * 4);
    const auto packed = must(texture_file_bytes("dds", blocks));
    CHECK((word_of(packed, 2) & 0x80008U) == 0x80000U);
    CHECK(word_of(packed, 5) == 3 * 2 * 16);
    constexpr std::pair<AlphaMode, std::uint32_t> meanings[] = {{AlphaMode::straight, 0},
                                                                {AlphaMode::premultiplied, 2},
                                                                {AlphaMode::opaque, 3},
                                                                {AlphaMode::data, 4}};
    for (const auto& [alpha, number] : meanings) {
        Texture texture = must(texels.clone());
        texture.metadata.alpha = alpha;
        const auto file = must(texture_file_bytes("dds", texture));
        CHECK(word_of(file, 36) == number);
        CHECK(must(read_texture(file)).texture.metadata.alpha == alpha);
    }
}

TEST_CASE("DDS: typeless numbers are fractions or floats, and that is remarked on") {
    constexpr std::pair<std::uint32_t, Format> numbers[] = {
        {1, Format::rgba32_float}, {9, Format::rgba16_float}, {27, Format::rgba8_unorm},
        {70, Format::bc1_unorm},   {79, Format::bc4_unorm},   {94, Format::bc6h_ufloat},
        {97, Format::bc7_unorm}};
    for (const auto& pair : numbers) {
        const std::uint32_t number = pair.first;
        const Format format = pair.second;
        CAPTURE(number);
        const Texture texture =
            support::random_texture({.format = format, .width = 4, .height = 4}, 1);
        auto file = must(texture_file_bytes("dds", texture));
        REQUIRE(load<std::uint32_t>(file.data() + 84) == 0x30315844U);  // "DX10"
        store(file.data() + 128, number);
        const TextureFile back = must(read_texture(file));
        const Format taken = back.texture.shape().format;
        CHECK((taken == format || (number == 70 && taken == Format::bc1a_unorm)));
        REQUIRE(back.info.remarks.size() == 1);
        CHECK(contains(back.info.remarks[0], "typeless"));
    }
}

TEST_CASE("16 bits a channel may hold sRGB values, since no format of theirs says it") {
    for (const char* ending : {"ktx2", "dds"})
        for (const Format format : {Format::r16_unorm, Format::rgba16_unorm}) {
            CAPTURE(ending);
            const auto file = must(texture_file_bytes(
                ending, support::random_texture({.format = format, .width = 4, .height = 2}, 1)));
            for (const Transfer transfer : {Transfer::srgb, Transfer::linear}) {
                const Texture texture = must(read_texture(file, {.transfer = transfer})).texture;
                CHECK(texture.shape().format == format);
                CHECK(texture.metadata.transfer == transfer);
            }
        }
    const auto floats = must(texture_file_bytes(
        "ktx2",
        support::random_texture({.format = Format::r32_float, .width = 4, .height = 2}, 1)));
    CHECK(must_fail(read_texture(floats, {.transfer = Transfer::srgb})).kind == ErrorKind::usage);
}
