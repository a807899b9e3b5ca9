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

std::uint32_t word(const std::vector<std::byte>& file, std::size_t offset) {
    return load<std::uint32_t>(file.data() + offset);
}
std::uint64_t long_word(const std::vector<std::byte>& file, std::size_t offset) {
    return load<std::uint64_t>(file.data() + offset);
}

void check_equal(const Texture& a, const Texture& b) {
    REQUIRE(a.shape() == b.shape());
    for (std::uint32_t level = 0; level < a.shape().levels; ++level) {
        CAPTURE(level);
        CHECK(std::ranges::equal(a.level(level), b.level(level)));
    }
}

}  // namespace

TEST_CASE("every format, plain and supercompressed, comes back byte for byte") {
    for (const FormatInfo& format : all_formats())
        for (const Supercompression scheme :
             {Supercompression::none, Supercompression::zstd, Supercompression::zlib}) {
            CAPTURE(format.name);
            CAPTURE(name(scheme));
            Texture texture = support::random_texture(
                {.format = format.format, .width = 13, .height = 6, .levels = 4}, 3);
            const auto file =
                must(texture_file_bytes("ktx2", texture, {.supercompression = scheme}));
            const TextureFile back = must(read_texture(file));
            check_equal(texture, back.texture);
            CHECK(back.texture.metadata.transfer == format.transfer);
            CHECK(back.info.supercompression == scheme);
            CHECK(back.info.file_bytes == file.size());
        }
}

TEST_CASE("arrays, cubes and volumes come back") {
    for (const TextureShape& shape :
         {TextureShape{.format = Format::rgb8_srgb,
         .width = 5,
         .height = 3,
         .levels = 2,
         .layers = 3,
         .is_array = true},
          TextureShape{
              .format = Format::r16_float, .width = 4, .height = 4, .levels = 3, .faces = 6},
          TextureShape{.format = Format::r8_unorm,
          .width = 4,
          .height = 4,
          .levels = 1,
          .layers = 1,
          .faces = 6,
          .is_array = true},
          TextureShape{
              .format = Format::rg8_unorm, .width = 6, .height = 5, .depth = 3, .levels = 2}})
        check_equal(
            support::random_texture(shape, 8),
            must(read_texture(must(texture_file_bytes("ktx2", support::random_texture(shape, 8)))))
                .texture);
}

TEST_CASE("the file's layout, word by word, of a 5 x 3 rgb8 texture with 3 levels") {
    const Texture texture = support::random_texture(
        {.format = Format::rgb8_unorm, .width = 5, .height = 3, .levels = 3}, 1);
    const auto file = must(texture_file_bytes("ktx2", texture));
    CHECK(as_text(file).substr(1, 6) == "KTX 20");
    const std::uint32_t expected[] = {23, 1, 5, 3, 0,
                                      0,  1, 3, 0};  // vkFormat ... supercompressionScheme
    for (std::size_t i = 0; i < 9; ++i)
        CHECK(word(file, 12 + 4 * i) == expected[i]);
    const std::size_t descriptor = 80 + 3 * 24;
    CHECK(word(file, 48) == descriptor);
    CHECK(word(file, 52) == 4 + 24 + 3 * 16);
    CHECK(word(file, 56) == descriptor + 76);
    CHECK(long_word(file, 64) == 0);
    CHECK(long_word(file, 72) == 0);
    // The smallest level comes first; each begins at a multiple of lcm(3, 4) = 12.
    const std::uint64_t lengths[] = {45, 6, 3};
    for (std::size_t level = 0; level < 3; ++level) {
        CHECK(long_word(file, 80 + 24 * level) % 12 == 0);
        CHECK(long_word(file, 80 + 24 * level + 8) == lengths[level]);
        CHECK(long_word(file, 80 + 24 * level + 16) == lengths[level]);
    }
    CHECK(long_word(file, 80 + 48) < long_word(file, 80 + 24));
    CHECK(long_word(file, 80 + 24) == long_word(file, 80 + 48) + 12);
    CHECK(long_word(file, 80) == long_word(file, 80 + 24) + 12);
    CHECK(file.size() == long_word(file, 80) + 45);
    CHECK(std::ranges::equal(std::span(file).subspan(long_word(file, 80), 45), texture.level(0)));
}

TEST_CASE("the data format descriptor of rgba8-srgb, word by word") {
    const auto file = must(
        texture_file_bytes("ktx2", support::random_texture({.format = Format::rgba8_srgb}, 1)));
    // total; vendor and type; version 2 and size 88; RGBSDA, BT.709, sRGB, straight; 1 x 1 x 1 x 1;
    // 4 bytes; 0
    const std::uint32_t expected[] = {92,
                                      0,
                                      2 | 88U << 16,
                                      1 | 1U << 8 | 2U << 16,
                                      0,
                                      4,
                                      0,
                                      0 | 7U << 16 | 0U << 24,
                                      0,
                                      0,
                                      255,  // red: bits 0 to 7
                                      8 | 7U << 16 | 1U << 24,
                                      0,
                                      0,
                                      255,  // green
                                      16 | 7U << 16 | 2U << 24,
                                      0,
                                      0,
                                      255,  // blue
                                      24 | 7U << 16 | 0x1FU << 24,
                                      0,
                                      0,
                                      255};  // alpha, linear
    REQUIRE(word(file, 52) == sizeof expected);
    for (std::size_t i = 0; i < std::size(expected); ++i)
        CHECK(word(file, word(file, 48) + 4 * i) == expected[i]);
}

TEST_CASE("descriptors of signed, float and shared-exponent samples") {
    const auto sample = [](Format format, std::size_t index) {
        const auto file =
            must(texture_file_bytes("ktx2", support::random_texture({.format = format}, 1)));
        const std::size_t offset = word(file, 48) + 28 + 16 * index;
        return std::array{word(file, offset), word(file, offset + 8), word(file, offset + 12)};
    };
    CHECK(sample(Format::rg16_snorm, 1) ==
          std::array{16U | 15U << 16 | 0x41U << 24, 0xFFFF8001U, 0x7FFFU});
    CHECK(sample(Format::rgba16_float, 3) ==
          std::array{48U | 15U << 16 | 0xCFU << 24, 0xBF800000U, 0x3F800000U});
    CHECK(sample(Format::rg11b10_float, 2) ==
          std::array{22U | 9U << 16 | 0x82U << 24, 0U, 0x3F800000U});
    CHECK(sample(Format::bgra8_unorm, 0) == std::array{0U | 7U << 16 | 0x02U << 24, 0U, 255U});
    CHECK(sample(Format::rgb10a2_unorm, 3) == std::array{30U | 1U << 16 | 0x0FU << 24, 0U, 3U});
    CHECK(sample(Format::rgb9e5_float, 2) == std::array{9U | 8U << 16 | 0x01U << 24, 0U, 8448U});
    CHECK(sample(Format::rgb9e5_float, 3) == std::array{27U | 4U << 16 | 0x21U << 24, 15U, 31U});
}

TEST_CASE("what alpha means comes back, whichever it is") {
    for (const AlphaMode alpha :
         {AlphaMode::straight, AlphaMode::premultiplied, AlphaMode::opaque, AlphaMode::data}) {
        Texture texture =
            support::random_texture({.format = Format::rgba8_unorm, .width = 2, .height = 2}, 1);
        texture.metadata.alpha = alpha;
        const auto file = must(texture_file_bytes("ktx2", texture));
        CHECK(must(read_texture(file)).texture.metadata.alpha == alpha);
    }
}

TEST_CASE("metadata and notes are kept") {
    Texture texture =
        support::random_texture({.format = Format::rg8_unorm, .width = 2, .height = 2}, 1);
    texture.metadata.origin = Origin::bottom;
    texture.metadata.alpha = AlphaMode::premultiplied;
    texture.metadata.swizzle = gray_alpha_swizzle;
    texture.metadata.sampler = must(parse_sampler("mag=nearest wrap=mirror aniso=4"));
    texture.metadata.key_values["Gardener"] = std::string("Wilhelmina\0", 11);
    texture.metadata.key_values["bytes"] = std::string("\0\1\2", 3);
    const auto file = must(texture_file_bytes("ktx2", texture, {.writer = "test"}));
    const TextureMetadata metadata = must(read_texture(file)).texture.metadata;
    CHECK(metadata.origin == Origin::bottom);
    CHECK(metadata.alpha == AlphaMode::premultiplied);
    CHECK(metadata.swizzle == gray_alpha_swizzle);
    CHECK(metadata.sampler == texture.metadata.sampler);
    CHECK(metadata.key_values.at("Gardener") == texture.metadata.key_values["Gardener"]);
    CHECK(metadata.key_values.at("bytes") == texture.metadata.key_values["bytes"]);
    CHECK(metadata.key_values.at("KTXwriter") == std::string("test\0", 5));
    // Keys stand in the order of their code points, each entry padded to four bytes.
    const std::string_view text = as_text(file);
    CHECK(text.find("Gardener") < text.find("KTXorientation"));
    CHECK(text.find("KTXorientation") < text.find("KTXswizzle"));
    CHECK(text.find("KTXswizzle") < text.find("KTXwriter"));
    CHECK(text.find("KTXwriter") < text.find("bytes"));
    CHECK(text.find(std::string_view("KTXorientation\0ru\0", 18)) % 4 == 0);
}

TEST_CASE("sRGB values in 16 bits are declared, for want of an sRGB format") {
    Texture texture = support::random_texture({.format = Format::rgba16_unorm}, 1);
    texture.metadata.transfer = Transfer::srgb;
    CHECK(must(read_texture(must(texture_file_bytes("ktx2", texture)))).texture.metadata.transfer ==
          Transfer::srgb);
}

TEST_CASE("supercompressed levels are packed without padding, and really smaller") {
    Texture texture = must(
        Texture::create({.format = Format::rgba8_unorm, .width = 64, .height = 64, .levels = 7}));
    for (std::uint32_t level = 0; level < 7; ++level)
        std::ranges::fill(texture.level(level), std::byte{9});
    const auto plain = must(texture_file_bytes("ktx2", texture));
    const auto packed = must(texture_file_bytes(
        "ktx2", texture, {.supercompression = Supercompression::zstd, .level = 19}));
    CHECK(packed.size() * 10 < plain.size());
    for (std::size_t level = 0; level + 1 < 7; ++level)
        CHECK(long_word(packed, 80 + 24 * level) ==
              long_word(packed, 80 + 24 * (level + 1)) +
                  long_word(packed, 80 + 24 * (level + 1) + 8));
}

TEST_CASE("a file on disk is written by name, and names that mean nothing are refused") {
    const support::TemporaryFolder folder;
    const Texture texture =
        support::random_texture({.format = Format::r8_unorm, .width = 9, .height = 9}, 2);
    must(write_texture(folder.path("a.ktx2"), texture));
    check_equal(texture, must(read_texture(folder.path("a.ktx2"))).texture);
    CHECK(
        contains(must_fail(write_texture(folder.path("a.texture"), texture)).sentence(), ".ktx2"));
    CHECK(folder.entries() == std::vector<std::string>{"a.ktx2"});
    CHECK(must_fail(read_texture(folder.path("none.ktx2"))).kind == ErrorKind::missing);
}

TEST_CASE("a descriptor of ETC1, which Vulkan has no number for, gives blocks of ETC2") {
    for (const Format format : {Format::etc2_rgb8_unorm, Format::etc2_rgb8_srgb}) {
        const Texture texture =
            support::random_texture({.format = format, .width = 10, .height = 7, .levels = 2}, 3);
        auto file = must(texture_file_bytes("ktx2", texture));
        const std::size_t descriptor = load<std::uint32_t>(&file[48]);
        store(&file[12], std::uint32_t{0});
        CHECK(must_fail(read_texture(file)).kind == ErrorKind::unsupported);
        file[descriptor + 12] = std::byte{160};  // KHR_DF_MODEL_ETC1
        CHECK(must_fail(read_texture(file)).kind == ErrorKind::malformed);
        file[descriptor + 28 + 3] = std::byte{0};  // its only channel
        const TextureFile read = must(read_texture(file));
        CHECK(read.texture.shape() == texture.shape());
        for (std::uint32_t level = 0; level < 2; ++level)
            CHECK(std::ranges::equal(read.texture.level(level), texture.level(level)));
    }
}
