#include "block/etc/color_pack.hpp"

namespace yl::etc {
namespace {

using Word = std::uint64_t;

/// `count` bits of a value, from its bit `from` on, at bit `to` of the block.
Word placed(std::uint32_t value, unsigned from, unsigned count, unsigned to) {
    return Word{value >> from & ((1U << count) - 1U)} << to;
}

/// The free bits of one channel's byte, so that its sum leaves 0 .. 31: a base of 5 bits above a step
/// of 3, of which the lower two each belong to the form. Either both are 28 and more with steps
/// upwards, or below 4 with steps downwards.
Word overflowing(Word block, unsigned lowest) {
    const Word base = block >> (lowest + 3) & 3U, step = block >> lowest & 3U;
    return (base + step >= 4 ? Word{0xE0} : Word{0x04}) << lowest;
}

/// The free bit above a channel's base, so that its sum stays within 0 .. 31.
Word staying(Word block, unsigned lowest) {
    return (block >> (lowest + 2) & 1U) << (lowest + 7);
}

constexpr unsigned red_byte = 56, green_byte = 48, blue_byte = 40;
constexpr Word differential_bit = Word{1} << 33;

Word halves(const SettledBlock& block) {
    Word word = placed(block.rows[0], 0, 3, 37) | placed(block.rows[1], 0, 3, 34) |
                Word{block.is_flipped ? 1U : 0U} << 32;
    for (unsigned c = 0; c < 3; ++c)
        if (block.form == ColorForm::individual)
            word |= placed(block.codes[0][c], 0, 4, 60 - 8 * c) |
                    placed(block.codes[1][c], 0, 4, 56 - 8 * c);
        else
            word |= placed(block.codes[0][c], 0, 5, 59 - 8 * c) |
                    placed(block.codes[1][c] - block.codes[0][c], 0, 3, 56 - 8 * c);
    const bool has_bit = block.form == ColorForm::differential && !block.has_holes;
    return word | (has_bit ? differential_bit : 0);
}

Word form_t(const SettledBlock& block) {
    const auto& [first, second, unused] = block.codes;
    Word word = placed(first[0], 2, 2, 59) | placed(first[0], 0, 2, 56) |
                placed(first[1], 0, 4, 52) | placed(first[2], 0, 4, 48) |
                placed(second[0], 0, 4, 44) | placed(second[1], 0, 4, 40) |
                placed(second[2], 0, 4, 36) | placed(block.distance, 1, 2, 34) |
                placed(block.distance, 0, 1, 32);
    word |= overflowing(word, red_byte);
    return word | (block.has_holes ? 0 : differential_bit);
}

/// The lowest bit of the distance is the order of the colours, which are exchanged where need be.
Word form_h(const SettledBlock& block) {
    auto first = block.codes[0], second = block.codes[1];
    const auto number = [](const auto& code) { return code[0] << 8 | code[1] << 4 | code[2]; };
    Word word = 0;
    if ((number(first) >= number(second)) != ((block.distance & 1U) != 0)) {
        std::swap(first, second);
        word = 0xFFFF0000U;  // indices 0 and 2, and 1 and 3, change places; see below
    }
    word |= placed(first[0], 0, 4, 59) | placed(first[1], 1, 3, 56) | placed(first[1], 0, 1, 52) |
            placed(first[2], 3, 1, 51) | placed(first[2], 0, 3, 47) | placed(second[0], 0, 4, 43) |
            placed(second[1], 0, 4, 39) | placed(second[2], 0, 4, 35) |
            placed(block.distance, 2, 1, 34) | placed(block.distance, 1, 1, 32);
    word |= staying(word, red_byte);
    word |= overflowing(word, green_byte);
    return word | differential_bit;
}

Word planar(const SettledBlock& block) {
    const auto& [origin, right, below] = block.codes;
    Word word = placed(origin[0], 0, 6, 57) | placed(origin[1], 6, 1, 56) |
                placed(origin[1], 0, 6, 49) | placed(origin[2], 5, 1, 48) |
                placed(origin[2], 3, 2, 43) | placed(origin[2], 0, 3, 39) |
                placed(right[0], 1, 5, 34) | placed(right[0], 0, 1, 32) |
                placed(right[1], 0, 7, 25) | placed(right[2], 0, 6, 19) |
                placed(below[0], 0, 6, 13) | placed(below[1], 0, 7, 6) | placed(below[2], 0, 6, 0);
    word |= staying(word, red_byte);
    word |= staying(word, green_byte);
    word |= overflowing(word, blue_byte);
    return word | differential_bit;
}

}  // namespace

std::uint64_t packed_block(const SettledBlock& block) {
    switch (block.form) {
        case ColorForm::individual:
        case ColorForm::differential:
            return halves(block) | block.indices;
        case ColorForm::t:
            return form_t(block) | block.indices;
        case ColorForm::h:
            return form_h(block) ^ block.indices;
        case ColorForm::planar:
            return planar(block);
    }
    return 0;
}

}  // namespace yl::etc
