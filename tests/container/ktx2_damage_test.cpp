// Damaged and hostile files: an error that names the field, or a texture; nothing else.
#include <fmt/format.h>

#include <functional>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

constexpr Limits small_limits{.max_side = 4096, .max_bytes = 1 << 24};

std::vector<std::byte> sample(Supercompression scheme = Supercompression::none) {
    Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 6, .height = 5, .levels = 3}, 1);
    texture.metadata.key_values["A"] = "b";
    return must(texture_file_bytes("ktx2", texture, {.supercompression = scheme}));
}

void set_word(std::vector<std::byte>& file, std::size_t offset, std::uint32_t value) {
    store(file.data() + offset, value);
}
void set_long(std::vector<std::byte>& file, std::size_t offset, std::uint64_t value) {
    store(file.data() + offset, value);
}

/// The error of the sample file after a change.
Error error_after(const std::function<void(std::vector<std::byte>&)>& change,
                  Supercompression scheme = Supercompression::none) {
    auto file = sample(scheme);
    change(file);
    return must_fail(read_texture(file, {.limits = small_limits}));
}

}  // namespace

TEST_CASE("a file cut off at any byte is an error") {
    for (const auto scheme :
         {Supercompression::none, Supercompression::zstd, Supercompression::zlib}) {
        const auto file = sample(scheme);
        for (std::size_t size = 0; size < file.size(); ++size) {
            CAPTURE(size);
            REQUIRE_FALSE(read_texture(std::span(file).first(size), {.limits = small_limits}));
        }
    }
}

TEST_CASE(
    "any one bit flipped in the header, index, descriptor or keys gives an error or a texture") {
    const auto file = sample(Supercompression::zstd);
    int errors = 0;
    for (std::size_t bit = 0; bit < file.size() * 8; ++bit) {
        auto damaged = file;
        damaged[bit / 8] ^= static_cast<std::byte>(1U << bit % 8);
        if (!read_texture(damaged, {.limits = small_limits}))
            ++errors;
    }
    CHECK(errors > 80 * 8);
}

TEST_CASE("each field's error names the field, its value and the rule") {
    const auto word_error = [](std::size_t offset, std::uint32_t value) {
        return error_after([&](auto& file) { set_word(file, offset, value); });
    };
    CHECK(contains(word_error(12, 1).sentence(), "at byte 12: vkFormat is 1"));
    CHECK(word_error(12, 1).kind == ErrorKind::unsupported);
    CHECK(contains(word_error(16, 4).message, "typeSize is 4; rgba8-srgb needs 1"));
    CHECK(contains(word_error(20, 0).message, "pixelWidth is 0"));
    CHECK(word_error(20, 60000).kind == ErrorKind::limit);
    CHECK(contains(word_error(24, 0).message, "uncompressedByteLength of level 0"));
    CHECK(contains(word_error(36, 2).message, "faceCount is 2"));
    CHECK(contains(word_error(36, 6).message, "square"));
    CHECK(contains(word_error(40, 4).message, "levelCount is 4"));
    CHECK(contains(word_error(44, 1).message, "supercompressionScheme is 1"));
    CHECK(contains(word_error(48, 4).message, "dfdByteOffset"));
    CHECK(contains(word_error(52, 0xFFFFFFF0).message, "overlap"));
    CHECK(contains(word_error(52, 8).message, "dfdByteLength is 8"));
    for (const std::uint32_t odd : {29U, 30U, 31U, 90U})
        CHECK(contains(word_error(52, odd).message, fmt::format("dfdByteLength is {}", odd)));
    CHECK(contains(word_error(56, 0xFFFFFFFF).message, "kvdByteOffset"));
    CHECK(contains(word_error(72, 9).message, "global data"));
}

TEST_CASE("level indices that lie are found out") {
    const auto level_error = [](std::size_t field, std::uint64_t value) {
        return error_after([&](auto& file) { set_long(file, 80 + 8 * field, value); }).message;
    };
    CHECK(contains(level_error(0, 0), "level 0"));
    CHECK(contains(level_error(0, ~std::uint64_t{0} - 10), "level 0"));
    CHECK(contains(level_error(1, ~std::uint64_t{0}), "level 0"));
    CHECK(contains(level_error(1, 119), "byteLength of level 0 is 119"));
    CHECK(contains(level_error(2, 121), "uncompressedByteLength of level 0 is 121"));
    CHECK(contains(level_error(3, 401), "multiple of 4"));
    const std::uint64_t last_offset = load<std::uint64_t>(sample().data() + 80 + 48);
    CHECK(contains(level_error(3, last_offset), "overlap"));
    CHECK(contains(level_error(6, 152), "overlap"));  // within the descriptor
    CHECK(contains(level_error(6, 10000), "level 2"));
    // The error names both sections: the descriptor, which begins behind the index, and the level.
    const std::uint32_t begin = load<std::uint32_t>(sample().data() + 48);
    const std::uint32_t length = load<std::uint32_t>(sample().data() + 52);
    CHECK(contains(level_error(6, begin + 4),
                   fmt::format("one of {} bytes at {} and one at {}", length, begin, begin + 4)));
}

TEST_CASE("a descriptor's bytes of planes are 0 in packed files alone") {
    const Texture texture =
        support::random_texture({.format = Format::rgba8_srgb, .width = 8, .height = 8}, 3);
    for (const Supercompression scheme :
         {Supercompression::none, Supercompression::zstd, Supercompression::zlib}) {
        auto file = must(texture_file_bytes("ktx2", texture, {.supercompression = scheme}));
        const std::size_t word = load<std::uint32_t>(&file[48]) + 4 * 5;  // the length comes first
        CHECK(load<std::uint32_t>(&file[word]) == 4);
        set_word(file, word, 0);
        CHECK(read_texture(file).has_value() == (scheme != Supercompression::none));
        set_word(file, word, 3);
        CHECK_FALSE(read_texture(file).has_value());
    }
}

TEST_CASE("descriptors that do not fit the format are refused") {
    const std::size_t descriptor = load<std::uint32_t>(sample().data() + 48);
    const auto descriptor_error = [&](std::size_t index, std::uint32_t value) {
        return error_after([&](auto& file) { set_word(file, descriptor + 4 * index, value); })
            .message;
    };
    CHECK(contains(descriptor_error(0, 91), "dfdTotalSize is 91"));
    CHECK(contains(descriptor_error(3, 1 | 1U << 8 | 1U << 16),
                   "word 2"));  // linear, but vkFormat says sRGB
    CHECK(contains(descriptor_error(5, 3), "word 4"));
    CHECK(contains(descriptor_error(10, 254), "word 9"));
    auto other_primaries = sample();
    set_word(other_primaries, descriptor + 12, 1 | 4U << 8 | 2U << 16);
    CHECK(read_texture(other_primaries));
}

TEST_CASE("keys and values that break the rules are refused") {
    const std::size_t keys = load<std::uint32_t>(sample().data() + 56);
    CHECK(contains(error_after([&](auto& file) { set_word(file, keys, 1000); }).message,
                   "key/value"));
    CHECK(contains(error_after([&](auto& file) { set_word(file, keys, 0); }).message, "key/value"));
    CHECK(contains(error_after([&](auto& file) { file[keys + 5] = std::byte{'x'}; }).message,
                   "zero byte"));
    const auto value_at = [](std::string_view file, std::string_view key) {
        return file.find(key) + key.size() + 1;
    };
    const Error error = error_after(
        [&](auto& file) { file[value_at(as_text(file), "KTXorientation")] = std::byte{'l'}; });
    CHECK(contains(error.message, "KTXorientation is 'ld'"));
}

TEST_CASE("damaged supercompressed data are named with their level") {
    for (const auto scheme : {Supercompression::zstd, Supercompression::zlib}) {
        const Error error = error_after(
            [](auto& file) {
                const std::uint64_t offset = load<std::uint64_t>(file.data() + 80);
                for (std::size_t i = 0; i < 8; ++i)
                    file[offset + i] = std::byte{0xFF};
            },
            scheme);
        CHECK(contains(error.message, "level 0"));
        CHECK(error.kind == ErrorKind::malformed);
    }
}

TEST_CASE("a level count of 0 is read as one level, with a remark") {
    const Texture texture =
        support::random_texture({.format = Format::r8_unorm, .width = 4, .height = 4}, 1);
    auto file = must(texture_file_bytes("ktx2", texture));
    set_word(file, 40, 0);
    const TextureFile back = must(read_texture(file));
    CHECK(back.texture.shape().levels == 1);
    CHECK(contains(back.info.remarks.at(0), "levelCount is 0"));
}

TEST_CASE("no two of descriptor, keys and levels may share bytes, whichever begins first") {
    const auto file = sample(Supercompression::none);
    const auto descriptor = load<std::uint32_t>(file.data() + 48);
    const auto key_values = load<std::uint32_t>(file.data() + 56);
    const auto key_value_bytes = load<std::uint32_t>(file.data() + 60);
    REQUIRE(key_value_bytes > 8);
    const auto overlaps = [](const std::function<void(std::vector<std::byte>&)>& change) {
        return contains(error_after(change).message, "overlap");
    };
    // The smallest level, which lies first, begins within the keys: at their first or last word.
    for (const std::uint32_t place : {key_values, key_values + key_value_bytes - 4})
        CHECK(overlaps([&](std::vector<std::byte>& damaged) {
            set_long(damaged, 80 + 24 * 2, place / 4 * 4);
        }));
    CHECK(
        overlaps([&](std::vector<std::byte>& damaged) { set_word(damaged, 56, descriptor + 4); }));
}
