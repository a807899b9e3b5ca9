// BC1: two colours of 5, 6 and 5 bits, and what lies between them.
//
// Texels are sorted along the axis of their greatest spread; a choice of indices is then a few
// borders in that order, and the best colours for it follow from sums (least squares). Low efforts
// move the borders downhill from an even start; high efforts try all of them.
#include "base/bytes.hpp"
#include "base/simd_inline.hpp"
#include "block/bc/encode.hpp"
#include "block/bc/solid_colors.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/bc/bc1_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/bc/bc1_borders-inl.hpp"
#include "block/bc/bc1_ends-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

constexpr int by_range = -1;      // no borders: ends of the range, settled
constexpr int all_borders = 100;  // every choice of them

struct Effort {
    int border_rounds;
    int settle_rounds;
    bool tries_three;
    bool tries_black;  // as the fourth colour of opaque blocks; Direct3D, Metal and WebGPU, which
                       // know no BC1 without alpha, see holes there
};

YL_SIMD_INLINE Effort effort_of(int effort) {
    switch (effort) {
        case 0:
            return {by_range, 1, false, false};
        case 1:
            return {by_range, 2, false, false};
        case 2:
            return {by_range, 3, false, false};
        case 3:
            return {by_range, 2, true, false};
        case 4:
            return {by_range, 2, true, false};
        case 5:
            return {by_range, 3, true, false};
        case 6:
            return {3, 2, true, false};
        case 7:
            return {8, 3, true, false};
        default:
            return {all_borders, effort, true, true};
    }
}

template <Form form>
YL_SIMD_INLINE ColorEnds find_ends(const ColorTexels& texels, const Order& order,
                                   const Effort& effort) {
    ColorEnds ends;
    if (effort.border_rounds == by_range) {
        ends = ends_of_range(texels);
        settle<form>(texels, effort.settle_rounds, ends);
        return ends;
    }
    ends.error = set(never);
    for (std::size_t c = 0; c < 3; ++c)
        ends.from[c] = ends.to[c] = zero();
    if (effort.border_rounds == all_borders)
        try_all_borders<form>(texels, order, ends);
    else
        move_borders<form>(texels, order, effort.border_rounds, ends);
    settle<form>(texels, effort.settle_rounds, ends);
    return ends;
}

/// Dark texels take the fourth colour, which is black; the others are fitted without them.
YL_SIMD_INLINE ColorEnds find_ends_with_black(const ColorTexels& texels, const Effort& effort) {
    ColorTexels others = texels;
    F dark = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F brightest =
            hn::Max(texels.color[i][0], hn::Max(texels.color[i][1], texels.color[i][2]));
        const Mask is_dark = brightest < set(28);
        others.weight[i] = hn::IfThenZeroElse(is_dark, texels.weight[i]);
        dark = dark + hn::IfThenElseZero(is_dark, set(1));
    }
    ColorEnds ends;
    ends.error = set(never);
    for (std::size_t c = 0; c < 3; ++c)
        ends.from[c] = ends.to[c] = zero();
    const Mask has_dark = dark > zero();
    if (all_false(has_dark))
        return ends;
    Order order;
    if (effort.border_rounds != by_range)
        put_in_order(others, order);
    ends = find_ends<Form::three>(others, order, effort);
    settle<Form::three_with_hole>(texels, effort.settle_rounds, ends);
    ends.error = if_then_else(has_dark, ends.error, set(never));
    return ends;
}

/// The nearest that two colours come to the mean, when all texels take a third of the way.
YL_SIMD_INLINE void try_solid(const ColorTexels& texels, ColorEnds& best) {
    F weight = zero();
    F sum[3] = {zero(), zero(), zero()};
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        weight = weight + texels.weight[i];
        for (std::size_t c = 0; c < 3; ++c)
            sum[c] = sum[c] + texels.weight[i] * texels.color[i][c];
    }
    ColorEnds ends;
    for (std::size_t c = 0; c < 3; ++c) {
        const I mean = to_int(rounded(sum[c] * inverse_or_zero(weight)));
        const auto& table = c == 1 ? solid_of_6_bits : solid_of_5_bits;
        const I pair = hn::GatherIndex(Ints(), table.data(), mean);
        ends.from[c] = to_float(pair & set_int(63));
        ends.to[c] = to_float(hn::ShiftRight<8>(pair));
    }
    Steps steps;
    choose_steps<Form::four>(texels, ends, steps);
    ends.error = steps.error;
    const Mask better = ends.error < best.error;
    for (std::size_t c = 0; c < 3; ++c) {
        update_where(better, ends.from[c], best.from[c]);
        update_where(better, ends.to[c], best.to[c]);
    }
    update_where(better, ends.error, best.error);
}

YL_SIMD_INLINE I packed(const F* codes) {
    return hn::ShiftLeft<11>(to_int(codes[0])) | hn::ShiftLeft<5>(to_int(codes[1])) |
           to_int(codes[2]);
}

/// Two bits a texel, for ends as they are (`flip`: for swapped ones).
template <Form form>
YL_SIMD_INLINE I indices_of(const Steps& steps, Mask flip, I hole) {
    I bits = set_int(0);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F last = set(steps_of(form));
        const F step = if_then_else(flip, last - steps.step[i], steps.step[i]);
        // first end 0, second end 1, between them 2 and 3
        F index =
            if_then_else(step == zero(), zero(), if_then_else(step == last, set(1), step + set(1)));
        if constexpr (form != Form::four) {
            index = if_then_else(steps.step[i] == set(3), set(3), index);
            index = if_then_else(has_bit(hole, static_cast<std::int32_t>(i)), set(3), index);
        }
        bits = bits | hn::ShiftLeftSame(to_int(index), static_cast<int>(2 * i));
    }
    return bits;
}

struct Words {
    I colors, indices;
};

/// `orders`: whether the order of the colours tells the forms apart.
YL_SIMD_INLINE Words words_of_four(const ColorTexels& texels, const ColorEnds& ends, bool orders) {
    Steps steps;
    choose_steps<Form::four>(texels, ends, steps);
    const I from = packed(ends.from);
    const I to = packed(ends.to);
    const Mask flip = orders ? hn::RebindMask(Floats(), from < to) : zero() < zero();
    Words words;
    words.colors = if_then_else(flip, to | hn::ShiftLeft<16>(from), from | hn::ShiftLeft<16>(to));
    words.indices = indices_of<Form::four>(steps, flip, set_int(0));
    const Mask alike = hn::RebindMask(Floats(), from == to);
    words.indices = if_then_else(alike, set_int(0), words.indices);
    return words;
}

template <Form form>
YL_SIMD_INLINE Words words_of_three(const ColorTexels& texels, const ColorEnds& ends) {
    Steps steps;
    choose_steps<form>(texels, ends, steps);
    const I from = packed(ends.from);
    const I to = packed(ends.to);
    const Mask flip = hn::RebindMask(Floats(), from > to);
    return {if_then_else(flip, to | hn::ShiftLeft<16>(from), from | hn::ShiftLeft<16>(to)),
            indices_of<form>(steps, flip, texels.hole)};
}

YL_SIMD_INLINE void load_texels(const std::byte* bytes, std::size_t count,
                                const ColorSettings& settings, bool cuts_out, ColorTexels& texels) {
    const I offsets = lane_offsets(count, texels_of_block);
    texels.hole = set_int(0);
    texels.are_normals = settings.are_normals;
    for (std::size_t c = 0; c < 3; ++c)
        texels.channel_weight[c] = set(settings.channel_weights[c]);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const I word = gather_words(bytes, i, offsets);
        for (std::size_t c = 0; c < 3; ++c)
            texels.color[i][c] =
                to_float(hn::ShiftRightSame(word, static_cast<int>(8 * c)) & set_int(255));
        const F alpha = to_float(hn::ShiftRight<24>(word) & set_int(255));
        const Mask is_hole = alpha < set(127.5F);
        texels.weight[i] = set(1);
        if (settings.weigh_by_alpha)
            texels.weight[i] = alpha * set(1.0F / 255);
        if (cuts_out) {
            texels.weight[i] = hn::IfThenZeroElse(is_hole, set(1));
            texels.hole =
                texels.hole | if_then_else(is_hole, set_int(std::int32_t{1} << i), set_int(0));
        }
    }
}

struct Output {
    std::byte* blocks;
    std::size_t words_of_block;
};

YL_SIMD_INLINE void write(const Words& words, std::size_t count, const Output& output) {
    store_words(words.colors, count, output.words_of_block, 0, output.blocks);
    store_words(words.indices, count, output.words_of_block, 1, output.blocks);
}

YL_SIMD_INLINE Words choose_words(Mask where, const Words& yes, const Words& no) {
    return {if_then_else(where, yes.colors, no.colors),
            if_then_else(where, yes.indices, no.indices)};
}

enum class Kind { by_order, with_cut_out, four_only };

template <Kind kind>
void encode_group(const std::byte* bytes, std::size_t count, const ColorSettings& settings,
                  const Output& output) {
    ColorTexels texels;
    load_texels(bytes, count, settings, kind == Kind::with_cut_out, texels);
    const Effort effort = effort_of(settings.effort);
    Order order;
    if (effort.border_rounds != by_range)
        put_in_order(texels, order);
    const Mask has_hole = hn::RebindMask(Floats(), texels.hole != set_int(0));
    ColorEnds four = find_ends<Form::four>(texels, order, effort);
    try_solid(texels, four);
    Words words = words_of_four(texels, four, kind != Kind::four_only);
    F error = four.error;
    if constexpr (kind == Kind::with_cut_out)
        error = if_then_else(has_hole, set(never), error);
    const bool needs_three = kind == Kind::with_cut_out && !all_false(has_hole);
    if (kind != Kind::four_only && (effort.tries_three || needs_three)) {
        const ColorEnds three = find_ends<Form::three>(texels, order, effort);
        Mask better = three.error < error;
        if (!effort.tries_three)  // only where it has to be, whoever shares the vector
            better = and_mask(better, has_hole);
        words = choose_words(better, words_of_three<Form::three>(texels, three), words);
        update_where(better, three.error, error);
    }
    if (kind == Kind::by_order && effort.tries_black && settings.black_of_three) {
        const ColorEnds black = find_ends_with_black(texels, effort);
        const Mask better = black.error < error;
        if (!all_false(better))
            words =
                choose_words(better, words_of_three<Form::three_with_hole>(texels, black), words);
    }
    write(words, count, output);
}

template <Kind kind>
YL_SIMD_INLINE void encode_all(const std::byte* texels, std::size_t count,
                               const ColorSettings& settings, Output output) {
    for (std::size_t at = 0; at < count; at += lanes()) {
        encode_group<kind>(texels + at * 4 * texels_of_block, HWY_MIN(lanes(), count - at),
                           settings, output);
        output.blocks += lanes() * output.words_of_block * 4;
    }
}

void encode_by_order(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                     std::byte* blocks) {
    encode_all<Kind::by_order>(texels, count, settings, {blocks, 2});
}

void encode_with_cut_out(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                         std::byte* blocks) {
    encode_all<Kind::with_cut_out>(texels, count, settings, {blocks, 2});
}

void encode_four_only(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                      std::byte* blocks) {
    encode_all<Kind::four_only>(texels, count, settings, {blocks + 8, 4});
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::bc {

HWY_EXPORT(encode_by_order);
HWY_EXPORT(encode_with_cut_out);
HWY_EXPORT(encode_four_only);

void encode_bc1(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_by_order)(texels, count, settings, blocks);
}

void encode_bc1a(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                 std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_with_cut_out)(texels, count, settings, blocks);
}

void encode_bc3_color(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                      std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_four_only)(texels, count, settings, blocks);
}

}  // namespace yl::bc
#endif
