// KTX 1, what KTX 2.0 keeps, and reading texture files level by level.
#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
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
