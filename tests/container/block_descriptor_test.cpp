// Data format descriptors of block formats, written down by hand from the Khronos Data Format
// Specification 1.3 (tables of its chapter on compressed formats), against those in files.
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

struct ExpectedSample {
    std::uint32_t offset, last_bit, channel, lower, upper;
};

struct Expected {
    Format format;
    std::uint32_t model, transfer, bytes;
    std::vector<ExpectedSample> samples;
};

constexpr std::uint32_t all = 0xFFFFFFFF;
constexpr std::uint32_t alpha = 15, linear_alpha = 15 | 0x10;
constexpr std::uint32_t one = 0x3F800000, minus_one = 0xBF800000;
constexpr std::uint32_t is_float = 0x80, is_signed = 0x40;

const Expected expectations[] = {
    {Format::bc1_unorm, 128, 1, 8, {{0, 63, 0, 0, all}}},
    {Format::bc1_srgb, 128, 2, 8, {{0, 63, 0, 0, all}}},
    {Format::bc1a_unorm, 128, 1, 8, {{0, 63, 1, 0, all}}},
    {Format::bc1a_srgb, 128, 2, 8, {{0, 63, 1, 0, all}}},
    {Format::bc2_unorm, 129, 1, 16, {{0, 63, alpha, 0, all}, {64, 63, 0, 0, all}}},
    {Format::bc2_srgb, 129, 2, 16, {{0, 63, linear_alpha, 0, all}, {64, 63, 0, 0, all}}},
    {Format::bc3_unorm, 130, 1, 16, {{0, 63, alpha, 0, all}, {64, 63, 0, 0, all}}},
    {Format::bc3_srgb, 130, 2, 16, {{0, 63, linear_alpha, 0, all}, {64, 63, 0, 0, all}}},
    {Format::bc4_unorm, 131, 1, 8, {{0, 63, 0, 0, all}}},
    {Format::bc4_snorm, 131, 1, 8, {{0, 63, is_signed, 0x80000000, 0x7FFFFFFF}}},
    {Format::bc5_unorm, 132, 1, 16, {{0, 63, 0, 0, all}, {64, 63, 1, 0, all}}},
    {Format::bc5_snorm,
     132,
     1,
     16,
     {{0, 63, is_signed, 0x80000000, 0x7FFFFFFF}, {64, 63, is_signed | 1, 0x80000000, 0x7FFFFFFF}}},
    {Format::bc6h_ufloat, 133, 1, 16, {{0, 127, is_float, 0, one}}},
    {Format::bc6h_sfloat, 133, 1, 16, {{0, 127, is_float | is_signed, minus_one, one}}},
    {Format::bc7_unorm, 134, 1, 16, {{0, 127, 0, 0, all}}},
    {Format::bc7_srgb, 134, 2, 16, {{0, 127, 0, 0, all}}},
    {Format::etc2_rgb8_unorm, 161, 1, 8, {{0, 63, 2, 0, all}}},
    {Format::etc2_rgb8_srgb, 161, 2, 8, {{0, 63, 2, 0, all}}},
    {Format::etc2_rgb8a1_unorm, 161, 1, 8, {{0, 63, 2, 0, all}, {0, 63, alpha, 0, all}}},
    {Format::etc2_rgb8a1_srgb, 161, 2, 8, {{0, 63, 2, 0, all}, {0, 63, linear_alpha, 0, all}}},
    {Format::etc2_rgba8_unorm, 161, 1, 16, {{0, 63, alpha, 0, all}, {64, 63, 2, 0, all}}},
    {Format::etc2_rgba8_srgb, 161, 2, 16, {{0, 63, linear_alpha, 0, all}, {64, 63, 2, 0, all}}},
    {Format::eac_r11_unorm, 161, 1, 8, {{0, 63, 0, 0, all}}},
    {Format::eac_r11_snorm, 161, 1, 8, {{0, 63, is_signed, 0x80000000, 0x7FFFFFFF}}},
    {Format::eac_rg11_unorm, 161, 1, 16, {{0, 63, 0, 0, all}, {64, 63, 1, 0, all}}},
    {Format::eac_rg11_snorm,
     161,
     1,
     16,
     {{0, 63, is_signed, 0x80000000, 0x7FFFFFFF}, {64, 63, is_signed | 1, 0x80000000, 0x7FFFFFFF}}},
};

std::uint32_t word(const std::vector<std::byte>& file, std::size_t offset) {
    return load<std::uint32_t>(&file[offset]);
}

}  // namespace

TEST_CASE("the descriptor of each block format is the standard's, word by word") {
    std::vector<Expected> all_expected(std::begin(expectations), std::end(expectations));
    for (const FormatInfo& f : all_formats())
        if (f.family == BlockFamily::astc)
            all_expected.push_back(
                {f.format, 162, f.name.ends_with("srgb") ? 2U : 1U, 16, {{0, 127, 0, 0, all}}});
        else if (f.family == BlockFamily::astc_hdr)
            all_expected.push_back(
                {f.format, 162, 1, 16, {{0, 127, is_float | is_signed, minus_one, one}}});
    CHECK(all_expected.size() ==
          static_cast<std::size_t>(std::ranges::count_if(
              all_formats(), [](const FormatInfo& f) { return f.is_block(); })));
    for (const Expected& expected : all_expected) {
        CAPTURE(info(expected.format).name);
        const auto file = must(texture_file_bytes(
            "ktx2",
            support::random_texture({.format = expected.format, .width = 8, .height = 8}, 1)));
        CHECK(word(file, 12) == static_cast<std::uint32_t>(expected.format));
        CHECK(word(file, 16) == 1);  // typeSize
        const std::size_t at = word(file, 48);
        const std::uint32_t bytes = static_cast<std::uint32_t>(24 + 16 * expected.samples.size());
        CHECK(word(file, at) == bytes + 4);
        CHECK(word(file, at + 4) == 0);
        CHECK(word(file, at + 8) == (2 | bytes << 16));
        CHECK(word(file, at + 12) == (expected.model | 1U << 8 | expected.transfer << 16));
        CHECK(word(file, at + 16) ==
              ((info(expected.format).block_width - 1U) | (info(expected.format).block_height - 1U)
                                                              << 8));  // blocks of 4 x 4
        CHECK(word(file, at + 20) == expected.bytes);
        CHECK(word(file, at + 24) == 0);
        for (std::size_t i = 0; i < expected.samples.size(); ++i) {
            CAPTURE(i);
            const ExpectedSample& sample = expected.samples[i];
            const std::size_t place = at + 28 + 16 * i;
            CHECK(word(file, place) ==
                  (sample.offset | sample.last_bit << 16 | sample.channel << 24));
            CHECK(word(file, place + 4) == 0);
            CHECK(word(file, place + 8) == sample.lower);
            CHECK(word(file, place + 12) == sample.upper);
        }
        const std::uint64_t level = load<std::uint64_t>(&file[80]);
        CHECK(level % expected.bytes == 0);  // levels begin at multiples of a block
    }
}

TEST_CASE("any one bit of a DDS or KTX 1 header flipped gives an error or a texture") {
    const auto flip_all = [](const std::vector<std::byte>& file, std::size_t header) {
        int errors = 0;
        for (std::size_t bit = 0; bit < header * 8; ++bit) {
            CAPTURE(bit);
            auto damaged = file;
            damaged[bit / 8] ^= static_cast<std::byte>(1U << bit % 8);
            const auto texture =
                read_texture(damaged, {.limits = {.max_side = 4096, .max_bytes = 1 << 22}});
            if (!texture) {
                REQUIRE_FALSE(texture.error().message.empty());
                ++errors;
            }
        }
        return errors;
    };
    const Texture cube = support::random_texture(
        {.format = Format::bc3_srgb, .width = 16, .height = 16, .levels = 5, .faces = 6}, 3);
    CHECK(flip_all(must(texture_file_bytes("dds", cube)), 148) > 150);
    CHECK(flip_all(must(texture_file_bytes("dds", cube, {.legacy_header = true})), 128) > 120);
}

TEST_CASE("DXGI, WebGPU and Metal call block formats by these numbers and names") {
    struct Reference {
        Format format;
        std::uint32_t dxgi;
        const char* webgpu;
        const char* metal;
    };
    // DXGI_FORMAT of dxgiformat.h, GPUTextureFormat of the WebGPU specification, MTLPixelFormat.
    for (const Reference& reference :
         {Reference{Format::bc1a_unorm, 71, "bc1-rgba-unorm", "BC1_RGBA"},
          {Format::bc1a_srgb, 72, "bc1-rgba-unorm-srgb", "BC1_RGBA_sRGB"},
          {Format::bc2_unorm, 74, "bc2-rgba-unorm", "BC2_RGBA"},
          {Format::bc2_srgb, 75, "bc2-rgba-unorm-srgb", "BC2_RGBA_sRGB"},
          {Format::bc3_unorm, 77, "bc3-rgba-unorm", "BC3_RGBA"},
          {Format::bc3_srgb, 78, "bc3-rgba-unorm-srgb", "BC3_RGBA_sRGB"},
          {Format::bc4_unorm, 80, "bc4-r-unorm", "BC4_RUnorm"},
          {Format::bc4_snorm, 81, "bc4-r-snorm", "BC4_RSnorm"},
          {Format::bc5_unorm, 83, "bc5-rg-unorm", "BC5_RGUnorm"},
          {Format::bc5_snorm, 84, "bc5-rg-snorm", "BC5_RGSnorm"},
          {Format::bc6h_ufloat, 95, "bc6h-rgb-ufloat", "BC6H_RGBUfloat"},
          {Format::bc6h_sfloat, 96, "bc6h-rgb-float", "BC6H_RGBFloat"},
          {Format::bc7_unorm, 98, "bc7-rgba-unorm", "BC7_RGBAUnorm"},
          {Format::bc7_srgb, 99, "bc7-rgba-unorm-srgb", "BC7_RGBAUnorm_sRGB"}}) {
        CAPTURE(info(reference.format).name);
        CHECK(info(reference.format).dxgi == reference.dxgi);
        CHECK(info(reference.format).webgpu == reference.webgpu);
        CHECK(info(reference.format).metal == reference.metal);
    }
}
