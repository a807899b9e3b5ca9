// DDS: every shape and format, old headers and their masks, and what is wrong with a file.
#include <algorithm>
#include <bit>
#include <cmath>
#include <map>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
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
