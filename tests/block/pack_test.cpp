// What encoders settle, packed into bits and read by the decoder, against colours that are worked
// out here from the choice itself; and decoders by vectors against their plain twins.
#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "block/bc/bc6h_modes.hpp"
#include "block/bc/bc6h_pack.hpp"
#include "block/bc/bc7_modes.hpp"
#include "block/bc/bc7_pack.hpp"
#include "block/bc/decode.hpp"
#include "block/bc/partitions.hpp"
#include "block/bc/solid_colors.hpp"
#include "block/block_codec.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/processors.hpp"

using namespace yl;
using namespace yl::bc;

namespace {

/// The next so many random bits.
std::uint32_t draw(support::Random& random, unsigned bits) {
    return static_cast<std::uint32_t>(random()) & ((1U << bits) - 1U);
}

/// Repeats a number's highest bits below it, one at a time.
int widened_slowly(int code, int bits) {
    int value = 0;
    for (int i = 0; i < 8; ++i)
        value = value << 1 | (code >> (bits - 1 - i % bits) & 1);
    return value;
}

int blended(int a, int b, int weight) {
    return (a * (64 - weight) + b * weight + 32) / 64;
}

unsigned subset_of(unsigned subsets, unsigned partition, unsigned texel) {
    if (subsets == 1)
        return 0;
    return subsets == 2 ? two_subsets[partition] >> texel & 1U
                        : three_subsets[partition] >> 2 * texel & 3U;
}

std::uint64_t random_indices(support::Random& random, unsigned bits) {
    std::uint64_t indices = 0;
    for (unsigned i = 0; i < 16; ++i)
        indices |= std::uint64_t{draw(random, bits)} << 4 * i;
    return indices;
}

unsigned index_at(std::uint64_t indices, unsigned texel) {
    return static_cast<unsigned>(indices >> 4 * texel & 15U);
}

Bc7Choice random_choice(support::Random& random, unsigned mode_number) {
    const Bc7Mode& mode = bc7_modes[mode_number];
    Bc7Choice choice;
    choice.mode = mode_number;
    choice.partition = draw(random, mode.partition_bits);
    choice.rotation = draw(random, mode.rotation_bits);
    choice.selection = draw(random, mode.selection_bits);
    for (std::size_t end = 0; end < 2U * mode.subsets; ++end) {
        for (unsigned c = 0; c < 4; ++c) {
            const unsigned bits = c < 3 ? mode.color_bits : mode.alpha_bits;
            choice.codes[end] |= draw(random, bits) << 8 * c;
        }
        if (mode.endpoint_extra != 0)
            choice.extra |= draw(random, 1) << end;
        else if (mode.subset_extra != 0)
            choice.extra |= (end % 2 == 0 ? draw(random, 1) : choice.extra >> (end - 1) & 1U)
                            << end;
    }
    choice.indices = random_indices(random, mode.index_bits);
    if (mode.second_index_bits != 0)
        choice.second_indices = random_indices(random, mode.second_index_bits);
    return choice;
}

/// One channel of an endpoint as the decoder is to see it.
int end_value(const Bc7Choice& choice, const Bc7Mode& mode, unsigned end, unsigned channel) {
    const int bits = channel < 3 ? mode.color_bits : mode.alpha_bits;
    if (bits == 0)
        return 255;
    const int code = static_cast<int>(choice.codes[end] >> 8 * channel & 0xFFU);
    if (mode.endpoint_extra + mode.subset_extra == 0)
        return widened_slowly(code, bits);
    return widened_slowly(code * 2 + static_cast<int>(choice.extra >> end & 1U), bits + 1);
}

std::array<int, 4> expected_texel(const Bc7Choice& choice, unsigned texel) {
    const Bc7Mode& mode = bc7_modes[choice.mode];
    const unsigned subset = subset_of(mode.subsets, choice.partition, texel);
    unsigned color_bits = mode.index_bits;
    unsigned color = index_at(choice.indices, texel);
    unsigned alpha_bits = color_bits;
    unsigned alpha = color;
    if (mode.second_index_bits != 0) {
        alpha_bits = mode.second_index_bits;
        alpha = index_at(choice.second_indices, texel);
        if (choice.selection != 0) {
            std::swap(color_bits, alpha_bits);
            std::swap(color, alpha);
        }
    }
    std::array<int, 4> result{};
    for (unsigned c = 0; c < 4; ++c) {
        const int weight = c < 3 ? weights_of(color_bits)[color] : weights_of(alpha_bits)[alpha];
        result[c] = blended(end_value(choice, mode, 2 * subset, c),
                            end_value(choice, mode, 2 * subset + 1, c), weight);
    }
    if (choice.rotation != 0)
        std::swap(result[choice.rotation - 1], result[3]);
    return result;
}

int sign_extended(int value, int bits) {
    return value >= 1 << (bits - 1) ? value - (1 << bits) : value;
}

/// The half float's bits of one channel, from the ends as numbers of the base bits.
int expected_half(const Bc6hChoice& choice, unsigned texel, std::size_t channel, bool is_signed) {
    const Bc6hMode& mode = bc6h_modes[choice.row];
    const unsigned subset = subset_of(mode.subsets, choice.partition, texel);
    const int bits = mode.base_bits;
    const auto wide = [&](int code) {
        if (!is_signed) {
            if (bits >= 15 || code == 0)
                return code;
            return code == (1 << bits) - 1 ? 65535 : (code * 65536 + 32768) / (1 << bits);
        }
        if (bits >= 16 || code == 0)
            return code;
        const int size = std::abs(code);
        const int value =
            size >= (1 << (bits - 1)) - 1 ? 32767 : (size * 32768 + 16384) / (1 << (bits - 1));
        return code < 0 ? -value : value;
    };
    const unsigned index_bits = mode.subsets == 1 ? 4 : 3;
    const int weight = weights_of(index_bits)[index_at(choice.indices, texel)];
    const double sum = wide(choice.ends[2 * subset][channel]) * (64.0 - weight) +
                       wide(choice.ends[2 * subset + 1][channel]) * double(weight) + 32;
    const int value = static_cast<int>(std::floor(sum / 64));
    if (!is_signed)
        return value * 31 / 64;
    return value < 0 ? 0x8000 | (-value * 31 / 32) : value * 31 / 32;
}

Bc6hChoice random_light(support::Random& random, std::uint32_t row, bool is_signed) {
    const Bc6hMode& mode = bc6h_modes[row];
    Bc6hChoice choice;
    choice.row = row;
    choice.partition = mode.subsets == 2 ? draw(random, 5) : 0;
    for (std::size_t c = 0; c < 3; ++c) {
        const int range = 1 << mode.base_bits;
        const int base = static_cast<int>(draw(random, mode.base_bits));
        choice.ends[0][c] = is_signed ? sign_extended(base, mode.base_bits) : base;
        for (std::size_t end = 1; end < 2U * mode.subsets; ++end) {
            // Small steps, which also fit the other way round when an anchor swaps the ends.
            const int reach = mode.is_delta ? 1 << (mode.delta_bits[c] - 2) : range / 2;
            const int low = is_signed ? -range / 2 : 0;
            const int step = static_cast<int>(random() % static_cast<unsigned>(reach));
            choice.ends[end][c] =
                std::clamp(choice.ends[0][c] + step - reach / 2, low, low + range - 1);
        }
    }
    choice.indices = random_indices(random, mode.subsets == 1 ? 4 : 3);
    return choice;
}

}  // namespace

TEST_CASE("BC7: a choice of any mode decodes to the colours that it stands for") {
    support::Random random(11);
    for (unsigned mode = 0; mode < 8; ++mode)
        for (int round = 0; round < 400; ++round) {
            const Bc7Choice choice = random_choice(random, mode);
            std::array<std::byte, 16> block{};
            pack_bc7(choice, block.data());
            std::array<std::byte, 64> texels{};
            decode_bc7(block.data(), texels.data(), 16);
            CAPTURE(mode);
            CAPTURE(choice.partition);
            for (unsigned i = 0; i < 16; ++i) {
                const auto expected = expected_texel(choice, i);
                for (std::size_t c = 0; c < 4; ++c)
                    REQUIRE(std::to_integer<int>(texels[4 * i + c]) == expected[c]);
            }
        }
}

TEST_CASE("BC6H: a choice of any mode decodes to the light that it stands for") {
    support::Random random(12);
    for (const bool is_signed : {false, true})
        for (std::uint32_t row = 0; row < bc6h_modes.size(); ++row)
            for (int round = 0; round < 200; ++round) {
                const Bc6hChoice choice = random_light(random, row, is_signed);
                std::array<std::byte, 16> block{};
                pack_bc6h(choice, block.data());
                std::array<std::byte, 128> texels{};
                (is_signed ? decode_bc6h_sfloat : decode_bc6h_ufloat)(block.data(), texels.data(),
                                                                      32);
                CAPTURE(row);
                CAPTURE(is_signed);
                for (unsigned i = 0; i < 16; ++i)
                    for (std::size_t c = 0; c < 3; ++c)
                        REQUIRE(load<std::uint16_t>(&texels[8 * i + 2 * c]) ==
                                expected_half(choice, i, c, is_signed));
            }
}

TEST_CASE("BC6H: where swapped ends would not fit, an anchor takes the nearest index it may") {
    Bc6hChoice choice;
    choice.row = 11;  // differences of 9 bits: -256 .. 255
    choice.ends[0] = {1000, 1000, 1000};
    choice.ends[1] = {744, 744, 744};  // -256; the other way round it would be 256
    choice.indices = ~std::uint64_t{0};
    std::array<std::byte, 16> block{};
    pack_bc6h(choice, block.data());
    std::array<std::byte, 128> texels{};
    decode_bc6h_ufloat(block.data(), texels.data(), 32);
    Bc6hChoice nearest = choice;
    nearest.indices = (choice.indices & ~std::uint64_t{15}) | 7U;
    CHECK(load<std::uint16_t>(texels.data()) == expected_half(nearest, 0, 0, false));
    CHECK(load<std::uint16_t>(&texels[8]) == expected_half(choice, 1, 0, false));
}

TEST_CASE("partitions: texel 0 is in the first subset, and anchors in those they stand for") {
    for (unsigned p = 0; p < partition_count; ++p) {
        CAPTURE(p);
        CHECK(subset_of(2, p, 0) == 0);
        CHECK(subset_of(2, p, anchor_of_two[p]) == 1);
        CHECK(subset_of(3, p, 0) == 0);
        CHECK(subset_of(3, p, second_anchor_of_three[p]) == 1);
        CHECK(subset_of(3, p, third_anchor_of_three[p]) == 2);
    }
    for (unsigned p = 0; p < partition_count; ++p)
        for (unsigned q = 0; q < p; ++q) {
            CHECK(two_subsets[p] != two_subsets[q]);
            CHECK(three_subsets[p] != three_subsets[q]);
        }
}

TEST_CASE("the fields of BC6H's modes fill 128 bits, each bit of each field once") {
    for (std::size_t row = 0; row < bc6h_modes.size(); ++row) {
        CAPTURE(row);
        const Bc6hMode& mode = bc6h_modes[row];
        std::array<std::array<std::uint32_t, 3>, 4> seen{};
        unsigned bits = mode.number_bits;
        for (std::size_t i = 0; i < bc6h_layouts[row].count; ++i) {
            const Bc6hRun& run = bc6h_layouts[row].runs[i];
            bits += run.count;
            if (run.endpoint == 4)
                continue;
            const std::uint32_t mask = ((1U << run.count) - 1U) << run.lowest;
            CHECK((seen[run.endpoint][run.channel] & mask) == 0);
            seen[run.endpoint][run.channel] |= mask;
        }
        const unsigned index_bits = mode.subsets == 1 ? 63 : 46;
        CHECK(bits + index_bits == 128);
        for (std::size_t end = 0; end < 2U * mode.subsets; ++end)
            for (std::size_t c = 0; c < 3; ++c) {
                const unsigned width =
                    mode.is_delta && end > 0 ? mode.delta_bits[c] : mode.base_bits;
                CHECK(seen[end][c] == (1U << width) - 1U);
            }
    }
}

TEST_CASE("the pairs for one colour of BC1 are the nearest that two thirds and one third make") {
    for (const int bits : {5, 6}) {
        const SolidPairs& pairs = bits == 5 ? solid_of_5_bits : solid_of_6_bits;
        for (int value = 0; value < 256; ++value) {
            const auto off = [&](int a, int b) {
                return std::abs(2 * widened_slowly(a, bits) + widened_slowly(b, bits) - 3 * value);
            };
            int min = 1000;
            for (int a = 0; a < 1 << bits; ++a)
                for (int b = 0; b < 1 << bits; ++b)
                    min = std::min(min, off(a, b));
            const int pair = pairs[static_cast<std::size_t>(value)];
            CHECK(off(pair & 0xFF, pair >> 8) == min);
        }
    }
}

TEST_CASE("decoders by vectors give what their plain twins give, on every instruction set") {
    struct Twin {
        RowDecoder vectors, plain;
        std::size_t block_bytes, texel_bytes;
    };
    const Twin twins[] = {
        {decode_bc3_row, each_block<16, 16, decode_bc3>, 16, 4},
        {decode_bc4_row, each_block<8, 4, decode_bc4>, 8, 1},
        {decode_bc4_snorm_row, each_block<8, 4, decode_bc4_snorm>, 8, 1},
        {decode_bc5_row, each_block<16, 8, decode_bc5>, 16, 2},
        {decode_bc5_snorm_row, each_block<16, 8, decode_bc5_snorm>, 16, 2},
    };
    support::Random random(7);
    for (const Twin& twin : twins) {
        constexpr std::size_t count = 333;
        std::vector<std::byte> blocks(count * twin.block_bytes);
        for (std::byte& byte : blocks)
            byte = static_cast<std::byte>(random() & 0xFFU);
        const std::size_t stride = count * 4 * twin.texel_bytes;
        std::vector<std::byte> expected(4 * stride);
        twin.plain(blocks.data(), count, expected.data(), stride);
        support::for_each_instruction_set([&](const char* name) {
            CAPTURE(name);
            std::vector<std::byte> texels(4 * stride);
            twin.vectors(blocks.data(), count, texels.data(), stride);
            CHECK(texels == expected);
        });
    }
}
