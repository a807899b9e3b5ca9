// Blocks worked out by hand.
#include <array>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;
using support::must_fail;

namespace {

using Texel = std::array<int, 4>;

/// The texels of one block, row by row.
std::vector<Texel> texels_of(Format format, std::initializer_list<int> block) {
    Image blocks = must(Image::create(format, 4, 4));
    const auto bytes = support::bytes_of(block);
    REQUIRE(bytes.size() == info(format).block_bytes);
    std::ranges::copy(bytes, blocks.view().data);
    const Image image = must(decode_blocks(std::as_const(blocks).view()));
    const std::size_t channels = info(image.format()).channel_count;
    std::vector<Texel> texels;
    for (std::uint32_t i = 0; i < 16; ++i) {
        Texel texel{};
        for (std::size_t c = 0; c < channels; ++c)
            texel[c] = std::to_integer<int>(image.view().row(i / 4)[i % 4 * channels + c]);
        texels.push_back(texel);
    }
    return texels;
}

}  // namespace

TEST_CASE("BC1: pure red to pure blue in thirds, then halves with a hole") {
    // red is F800, blue 001F; each row has the indices 0 1 2 3, the first one lowest.
    const auto four =
        texels_of(Format::bc1_unorm, {0x00, 0xF8, 0x1F, 0x00, 0xE4, 0xE4, 0xE4, 0xE4});
    CHECK(four[0] == Texel{255, 0, 0, 255});
    CHECK(four[1] == Texel{0, 0, 255, 255});
    CHECK(four[2] == Texel{170, 0, 85, 255});
    CHECK(four[15] == Texel{85, 0, 170, 255});
    const auto three =
        texels_of(Format::bc1a_unorm, {0x1F, 0x00, 0x00, 0xF8, 0xE4, 0xE4, 0xE4, 0xE4});
    CHECK(three[0] == Texel{0, 0, 255, 255});
    CHECK(three[2] == Texel{128, 0, 128, 255});
    CHECK(three[3] == Texel{0, 0, 0, 0});
    const auto opaque = texels_of(Format::bc1_unorm, {0x1F, 0x00, 0x00, 0xF8, 0xE4, 0, 0, 0});
    CHECK(opaque[3] == Texel{0, 0, 0, 255});
}

TEST_CASE("BC2 and BC3 have alpha of their own, and always four colours") {
    const auto explicit_alpha =
        texels_of(Format::bc2_unorm, {0x10, 0x32, 0x54, 0x76, 0x98, 0xBA, 0xDC, 0xFE,  //
                                      0x1F, 0x00, 0x00, 0xF8, 0xE4, 0xE4, 0xE4, 0xE4});
    for (int i = 0; i < 16; ++i)
        CHECK(explicit_alpha[static_cast<std::size_t>(i)][3] == 17 * i);
    CHECK(explicit_alpha[3] == Texel{170, 0, 85, 51});
    // indices 0 to 7 twice over: 3 bits each make FAC688
    const auto graded = texels_of(Format::bc3_unorm, {70, 0, 0x88, 0xC6, 0xFA, 0x88, 0xC6, 0xFA,  //
                                                      0x1F, 0x00, 0x00, 0xF8, 0, 0, 0, 0});
    const std::array<int, 8> expected = {70, 0, 60, 50, 40, 30, 20, 10};
    for (std::size_t i = 0; i < 16; ++i)
        CHECK(graded[i] == Texel{0, 0, 255, expected[i % 8]});
}

TEST_CASE("BC4: six values between, or four and both ends of the range") {
    const auto six = texels_of(Format::bc4_unorm, {210, 0, 0x88, 0xC6, 0xFA, 0x88, 0xC6, 0xFA});
    const std::array<int, 8> falling = {210, 0, 180, 150, 120, 90, 60, 30};
    const auto four = texels_of(Format::bc4_unorm, {50, 100, 0x88, 0xC6, 0xFA, 0x88, 0xC6, 0xFA});
    const std::array<int, 8> ends = {50, 100, 60, 70, 80, 90, 0, 255};
    // -70 and 70: -50, -30 ... lie between; as bytes
    const auto negative =
        texels_of(Format::bc4_snorm, {70, 186, 0x88, 0xC6, 0xFA, 0x88, 0xC6, 0xFA});
    const std::array<int, 8> signed_values = {70, -70, 50, 30, 10, -10, -30, -50};
    for (std::size_t i = 0; i < 16; ++i) {
        CHECK(six[i][0] == falling[i % 8]);
        CHECK(four[i][0] == ends[i % 8]);
        CHECK(static_cast<std::int8_t>(negative[i][0]) == signed_values[i % 8]);
    }
}

TEST_CASE("BC7 of one subset: endpoints with extra bits, and blends in 64ths") {
    // mode 6: 1000000, then 7 bits of each endpoint's red (0, 127), green (0, 127), blue (127, 0),
    // alpha (127, 127), extra bits 0 and 1, indices 0 for the first (3 bits) and 15 for the others
    std::uint64_t low = 1U << 6;
    low |= std::uint64_t{127} << 14 | std::uint64_t{127} << 28 | std::uint64_t{127} << 35 |
           std::uint64_t{127} << 49 | std::uint64_t{127} << 56;
    const std::uint64_t high = 1U | ~std::uint64_t{0} << 4;
    Image blocks = must(Image::create(Format::bc7_unorm, 4, 4));
    store(blocks.view().data, low);
    store(blocks.view().data + 8, high);
    const Image image = must(decode_blocks(std::as_const(blocks).view()));
    const auto* texels = reinterpret_cast<const std::uint8_t*>(image.view().data);
    CHECK(std::array{texels[0], texels[1], texels[2], texels[3]} ==
          std::array<std::uint8_t, 4>{0, 0, 254, 254});
    CHECK(std::array{texels[4], texels[5], texels[6], texels[7]} ==
          std::array<std::uint8_t, 4>{255, 255, 1, 255});
}

TEST_CASE("every value between two ends is the exact one, rounded to the nearest") {
    Image blocks = must(Image::create(Format::bc4_unorm, 1024, 1024));
    for (std::size_t pair = 0; pair < 65536; ++pair)
        store(blocks.view().data + pair * 8,
              (std::uint64_t{pair} & 0xFFFFU) | std::uint64_t{0xFAC688FAC688U} << 16);
    for (const Format format : {Format::bc4_unorm, Format::bc4_snorm}) {
        CAPTURE(info(format).name);
        const bool is_signed = format == Format::bc4_snorm;
        ConstImageView view = std::as_const(blocks).view();
        view.format = format;
        const Image image = must(decode_blocks(view));
        double worst = 0;
        for (std::uint32_t pair = 0; pair < 65536; ++pair) {
            const auto ends = [&](std::uint32_t byte) {
                return is_signed ? static_cast<double>(static_cast<std::int8_t>(byte)) : byte;
            };
            const double a = ends(pair & 0xFFU);
            const double b = ends(pair >> 8);
            const double parts = a > b ? 7 : 5;
            for (std::uint32_t i = 2; i < parts + 1; ++i) {
                const auto& texel =
                    image.view().row(pair / 256 * 4 + i / 4)[pair % 256 * 4 + i % 4];
                const double shown = is_signed
                                         ? static_cast<double>(static_cast<std::int8_t>(texel))
                                         : std::to_integer<int>(texel);
                const double exact =
                    (std::max(a, -127.0) * (parts + 1 - i) + std::max(b, -127.0) * (i - 1)) / parts;
                worst = std::max(worst, std::abs(shown - exact));
            }
        }
        CHECK(worst < 0.5);
    }
}

TEST_CASE("sizes that are not a multiple of four decode to just their texels") {
    for (const FormatInfo& format : all_formats()) {
        if (!format.is_block())
            continue;
        CAPTURE(format.name);
        const Texture whole =
            support::random_texture({.format = format.format, .width = 16, .height = 12}, 5);
        const Image all = must(decode_blocks(whole.image(0)));
        ConstImageView part = whole.image(0);
        part.width = 13;
        part.height = 10;
        const Image some = must(decode_blocks(part));
        for (std::uint32_t y = 0; y < 10; ++y)
            CHECK(
                std::ranges::equal(some.view().row(y), all.view().row(y).first(some.row_stride())));
    }
}

TEST_CASE("what cannot be decoded is said") {
    const Image plain = must(Image::create(Format::rgba8_unorm, 4, 4));
    CHECK(must_fail(decode_blocks(plain.view())).kind == ErrorKind::usage);
    const Image blocks = must(Image::create(Format::bc1_unorm, 4, 4));
    Image wrong = must(Image::create(Format::rgba8_unorm, 4, 8));
    CHECK(
        support::contains(must_fail(decode_blocks(blocks.view(), wrong.view())).message, "4 x 8"));
}
