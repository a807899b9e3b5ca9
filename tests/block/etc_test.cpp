// ETC2 and EAC: blocks worked out by hand, every form packed and decoded again, and searches of
// everything.
#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "block/etc/color_block.hpp"
#include "block/etc/color_pack.hpp"
#include "block/etc/eac_values.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using namespace yl::etc;
using support::must;

namespace {

using Texel = std::array<int, 4>;

/// The texels of a block whose bits are given as the standard numbers them, row by row; of formats
/// with alpha, the block of colours is the second.
std::vector<Texel> texels_of(Format format, std::uint64_t first, std::uint64_t second = 0) {
    Image blocks = must(Image::create(format, 4, 4));
    store(blocks.view().data, swap_bytes(first));
    if (info(format).block_bytes == 16)
        store(blocks.view().data + 8, swap_bytes(second));
    const Image image = must(decode_blocks(std::as_const(blocks).view()));
    const FormatInfo& f = info(image.format());
    std::vector<Texel> texels(16);
    for (std::uint32_t i = 0; i < 16; ++i)
        for (std::size_t c = 0; c < f.channel_count; ++c) {
            const std::byte* at =
                image.view().row(i / 4).data() + (i % 4 * f.channel_count + c) * f.type_size;
            if (f.type_size == 1)
                texels[i][c] = std::to_integer<int>(*at);
            else if (f.kind == NumericKind::snorm)
                texels[i][c] = static_cast<std::int16_t>(load<std::uint16_t>(at));
            else
                texels[i][c] = load<std::uint16_t>(at);
        }
    return texels;
}

std::uint64_t at(std::uint64_t value, int lowest) {
    return value << lowest;
}

constexpr std::uint64_t differential_bit = std::uint64_t{1} << 33;

/// The index of a texel, where a block stores it.
std::uint64_t index_at(std::uint32_t x, std::uint32_t y, std::uint64_t index) {
    return (index >> 1) << (16 + 4 * x + y) | (index & 1) << (4 * x + y);
}

}  // namespace

TEST_CASE("ETC2: halves side by side and one above the other, each with its row") {
    // red on the left with row 0, blue on the right with row 1
    const std::uint64_t colors = at(15, 60) | at(15, 40) | at(0, 37) | at(1, 34);
    const auto beside =
        texels_of(Format::etc2_rgb8_unorm, colors | index_at(1, 2, 1) | index_at(0, 3, 3) |
                                               index_at(1, 1, 2) | index_at(2, 0, 2));
    CHECK(beside[0] == Texel{255, 2, 2, 255});
    CHECK(beside[3] == Texel{5, 5, 255, 255});
    CHECK(beside[4 * 2 + 1] == Texel{255, 8, 8, 255});
    CHECK(beside[4 * 3 + 0] == Texel{247, 0, 0, 255});
    CHECK(beside[4 * 1 + 1] == Texel{253, 0, 0, 255});
    CHECK(beside[2] == Texel{0, 0, 250, 255});
    const auto above = texels_of(Format::etc2_rgb8_unorm, colors | at(1, 32));
    CHECK(above[3] == Texel{255, 2, 2, 255});
    CHECK(above[8] == Texel{5, 5, 255, 255});
}

TEST_CASE("ETC2: the second colour as a step from the first, of either sign") {
    // 16 of 31 is 132; 3 less is 107 (13), 3 more 156 (19)
    const std::uint64_t word =
        at(16, 59) | at(5, 56) | at(16, 51) | at(3, 48) | at(16, 43) | at(7, 37) | differential_bit;
    const auto texels = texels_of(Format::etc2_rgb8_unorm, word);
    CHECK(texels[0] == Texel{132 + 47, 132 + 47, 132 + 47, 255});
    CHECK(texels[2] == Texel{107 + 2, 156 + 2, 132 + 2, 255});
    // the same with cut-outs, where indices 0 and 2 mean the colour itself and a hole
    const auto holes =
        texels_of(Format::etc2_rgb8a1_unorm,
                  (word & ~differential_bit) | index_at(0, 1, 2) | index_at(3, 3, 1));
    CHECK(holes[0] == Texel{132, 132, 132, 255});
    CHECK(holes[4] == Texel{0, 0, 0, 0});
    CHECK(holes[15] == Texel{107 + 8, 156 + 8, 132 + 8, 255});
    CHECK(texels_of(Format::etc2_rgb8a1_unorm, word)[0] == texels[0]);
}

TEST_CASE("ETC2: a plane between three colours") {
    // red rises to the right, green downwards; blue's sum leaves its range downwards
    const std::uint64_t word = at(31, 34) | at(1, 32) | at(127, 6) | at(4, 40) | differential_bit;
    const auto texels = texels_of(Format::etc2_rgb8_unorm, word);
    const std::array<int, 4> rising = {0, 64, 128, 191};
    for (std::size_t i = 0; i < 16; ++i)
        CHECK(texels[i] == Texel{rising[i % 4], rising[i / 4], 0, 255});
}

TEST_CASE("EAC: alpha, and channels of 11 bits of both kinds") {
    // the indices 0 to 7 down the first two columns: base 100, row 0
    std::uint64_t indices = 0;
    for (std::uint64_t i = 0; i < 8; ++i)
        indices |= i << (45 - 3 * i);
    const auto word = [&](std::uint64_t base, std::uint64_t multiplier) {
        return at(base, 56) | at(multiplier, 52) | indices;
    };
    const auto alpha = texels_of(Format::etc2_rgba8_unorm, word(100, 2));
    const auto eleven = texels_of(Format::eac_r11_unorm, word(100, 2));
    const auto fine = texels_of(Format::eac_r11_unorm, word(100, 0));
    const auto negative = texels_of(Format::eac_r11_snorm, word(0x9C, 1));  // -100
    const auto lowest = texels_of(Format::eac_r11_snorm, word(0x80, 15));   // counts as -127
    const std::array<int, 8> row = {-3, -6, -9, -15, 2, 5, 8, 14};
    for (std::size_t i = 0; i < 8; ++i) {
        const std::size_t texel = i % 4 * 4 + i / 4;
        CHECK(alpha[texel][3] == 100 + 2 * row[i]);
        CHECK(eleven[texel][0] == std::lround((804 + 16 * row[i]) * 65535 / 2047.0));
        CHECK(fine[texel][0] == std::lround((804 + row[i]) * 65535 / 2047.0));
        CHECK(negative[texel][0] == std::lround((-800 + 8 * row[i]) * 32767 / 1023.0));
        CHECK(lowest[texel][0] ==
              std::lround(std::max(-1016 + 120 * row[i], -1023) * 32767 / 1023.0));
    }
    const auto both = texels_of(Format::eac_rg11_unorm, word(100, 2), word(10, 1));
    CHECK(both[4][0] == eleven[4][0]);
    CHECK(both[4][1] == std::lround((84 - 8 * 6) * 65535 / 2047.0));
}

TEST_CASE("ETC2: a choice of any form decodes to the colours that it stands for") {
    support::Random random(3);
    const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(random() % n); };
    for (int round = 0; round < 20000; ++round) {
        CAPTURE(round);
        SettledBlock block;
        block.form = static_cast<ColorForm>(round % 5);
        block.is_flipped = below(2) == 1;
        block.rows = {below(8), below(8)};
        block.distance = below(8);
        block.indices = static_cast<std::uint32_t>(random());
        const bool is_plane = block.form == ColorForm::planar;
        const unsigned bits = block.form == ColorForm::differential ? 5 : 4;
        for (std::size_t n = 0; n < 3; ++n)
            for (std::size_t c = 0; c < 3; ++c)
                block.codes[n][c] = below(1U << (is_plane ? (c == 1 ? 7 : 6) : bits));
        if (block.form == ColorForm::differential)
            for (std::size_t c = 0; c < 3; ++c) {
                const int second = static_cast<int>(block.codes[0][c] + below(8)) - 4;
                block.codes[1][c] = static_cast<std::uint32_t>(std::clamp(second, 0, 31));
            }
        if (block.form == ColorForm::h && block.codes[0] == block.codes[1])
            block.distance |= 1;  // equal colours cannot say an even number
        const std::uint64_t word = packed_block(block);
        const auto texels = texels_of(Format::etc2_rgb8_unorm, word);
        for (std::uint32_t i = 0; i < 16; ++i) {
            const std::uint32_t x = i % 4, y = i / 4;
            const std::uint32_t index = (block.indices >> (16 + 4 * x + y) & 1U) << 1U |
                                        (block.indices >> (4 * x + y) & 1U);
            const std::size_t half = (block.is_flipped ? y : x) / 2;
            for (std::size_t c = 0; c < 3; ++c) {
                const auto color = [&](std::size_t n, unsigned depth) {
                    return static_cast<int>(block.codes[n][c] << (8 - depth) |
                                            block.codes[n][c] >> (2 * depth - 8));
                };
                const int distance = distances[block.distance];
                int expected = 0;
                if (block.form == ColorForm::t) {
                    const int steps[] = {0, distance, 0, -distance};
                    expected = color(index == 0 ? 0 : 1, 4) + steps[index];
                } else if (block.form == ColorForm::h) {
                    expected = color(index / 2, 4) + (index % 2 == 0 ? distance : -distance);
                } else if (is_plane) {
                    const unsigned depth = c == 1 ? 7 : 6;
                    const int origin = color(0, depth);
                    expected =
                        (static_cast<int>(x) * (color(1, depth) - origin) +
                         static_cast<int>(y) * (color(2, depth) - origin) + 4 * origin + 2) >>
                        2;
                } else {
                    const int added = intensities[block.rows[half]][index % 2];
                    expected = color(half, bits) + (index < 2 ? added : -added);
                }
                CHECK(texels[i][c] == std::clamp(expected, 0, 255));
            }
        }
    }
}

TEST_CASE("EAC comes near a search of everything, even in noise") {
    support::Random random(4);
    constexpr std::uint32_t count = 24;
    Image values = must(Image::create(Format::r8_unorm, 4 * count, 4));
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 4 * count; ++x) {
            const std::uint32_t block = x / 4;
            const std::uint32_t value = block * 8 + x % 4 * (block % 5) * 4 + y * (block % 3) * 7 +
                                        static_cast<std::uint32_t>(random()) % (2 + block);
            values.view().row(y)[x] = static_cast<std::byte>(std::min(value, 255U));
        }
    const auto error_of = [&](std::uint32_t block, std::uint64_t word) {
        const std::array<int, 8> codes = eac_values(EacKind::unorm11, word);
        double sum = 0;
        for (std::uint32_t i = 0; i < 16; ++i) {
            const double value =
                std::to_integer<int>(values.view().row(i / 4)[4 * block + i % 4]) * 2047 / 255.0;
            double nearest = 1e9;
            for (const int code : codes)
                nearest = std::min(nearest, std::abs(value - code));
            sum += nearest * nearest;
        }
        return sum;
    };
    double best = 0;
    for (std::uint32_t block = 0; block < count; ++block) {
        double least = 1e30;
        for (std::uint64_t head = 0; head < 65536; ++head)
            least = std::min(least, error_of(block, head << 48));
        best += least;
    }
    struct Bound {
        int effort;
        double decibels;
    };
    for (const Bound& bound : {Bound{5, 0.6}, Bound{10, 0.15}}) {
        const Image blocks =
            must(encode_blocks(values.view(), Format::eac_r11_unorm, {.effort = bound.effort}));
        double ours = 0;
        for (std::uint32_t block = 0; block < count; ++block)
            ours += error_of(
                block, swap_bytes(load<std::uint64_t>(blocks.view().row(0).data() + 8 * block)));
        CAPTURE(bound.effort);
        CHECK(ours >= best * 0.999);
        CHECK(10 * std::log10(ours / best) < bound.decibels);
    }
}

TEST_CASE("cut-outs of ETC2 fall where alpha is below a half, and opaque texels stay opaque") {
    support::Random random(5);
    Image picture = must(Image::create(Format::rgba8_unorm, 64, 64));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::byte& byte : picture.view().row(y))
            byte = static_cast<std::byte>(random() & 0xFFU);
    for (const int effort : {0, 5, 8}) {
        const Image blocks =
            must(encode_blocks(picture.view(), Format::etc2_rgb8a1_unorm, {.effort = effort}));
        const Image texels = must(decode_blocks(blocks.view()));
        for (std::uint32_t y = 0; y < 64; ++y)
            for (std::uint32_t x = 0; x < 64; ++x) {
                const bool is_hole = std::to_integer<int>(picture.view().row(y)[4 * x + 3]) < 128;
                CHECK(std::to_integer<int>(texels.view().row(y)[4 * x + 3]) == (is_hole ? 0 : 255));
            }
    }
}

TEST_CASE("ETC1's blocks alone, where they are asked for") {
    // smooth colours and two-coloured noise: planes and pairs are what ETC2 takes for them
    Texture texture =
        must(Texture::create({.format = Format::rgba8_unorm, .width = 44, .height = 36}));
    const ImageView view = texture.image(0);
    std::mt19937 random(7);
    for (std::uint32_t y = 0; y < view.height; ++y)
        for (std::uint32_t x = 0; x < view.width; ++x) {
            const bool is_first = random() % 2 == 0, is_smooth = x < 22;
            const std::array<std::uint32_t, 4> texel = {is_smooth  ? 5 * x + y
                                                        : is_first ? 250U
                                                                   : 10U,
                                                        is_smooth  ? 3 * y
                                                        : is_first ? 30U
                                                                   : 200U,
                                                        is_smooth ? 2 * x + 3 * y : 90U, 255U};
            for (std::size_t c = 0; c < 4; ++c)
                view.row(y)[4 * x + c] = static_cast<std::byte>(texel[c]);
        }
    // The sums of a differential block stay within 5 bits: read from the bytes, by the standard.
    const auto has_sums_within = [](std::span<const std::byte> block) {
        if ((std::to_integer<int>(block[3]) & 2) == 0)
            return true;
        for (std::size_t c = 0; c < 3; ++c) {
            const int byte = std::to_integer<int>(block[c]);
            const int step = (byte & 7) >= 4 ? (byte & 7) - 8 : byte & 7;
            if ((byte >> 3) + step < 0 || (byte >> 3) + step > 31)
                return false;
        }
        return true;
    };
    for (const float rate_distortion : {0.0F, 20.0F})
        for (const int effort : {0, 2, 5, 8, 10})
            for (const Format format : {Format::etc2_rgb8_unorm, Format::etc2_rgb8_srgb}) {
                CAPTURE(effort);
                BlockOptions options{.effort = effort, .rate_distortion = rate_distortion};
                const Texture all = must(encode_texture(texture, format, options));
                options.etc1_only = true;
                const Texture old = must(encode_texture(texture, format, options));
                std::uint64_t beyond = 0;
                for (const Texture* blocks : {&all, &old}) {
                    beyond = 0;
                    const auto bytes = std::as_const(*blocks).level(0);
                    for (std::size_t at = 0; at < bytes.size(); at += 8)
                        beyond += has_sums_within(bytes.subspan(at, 8)) ? 0 : 1;
                    CHECK(count_blocks_beyond_etc1(*blocks) == beyond);
                    CHECK((beyond > 0) == (blocks == &all));
                }
            }
    CHECK(count_blocks_beyond_etc1(texture) == 0);
}
