// EAC: one channel as a base, a row of modifiers and how far they reach, searched for many blocks at
// once.
#include "base/bytes.hpp"
#include "base/simd_inline.hpp"
#include "block/etc/eac_starts.hpp"
#include "block/etc/eac_values.hpp"
#include "block/etc/encode.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/etc/eac_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::etc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

/// One channel of the lanes' blocks.
struct Channel {
    F value[texels_of_block];
    F weight[texels_of_block];
    bool has_weights;
    F low, high;
};

/// What a block stores, as whole numbers in floats, and its error.
struct Choice {
    F base, multiplier, row, error;
};

/// How a kind of EAC stores its values.
template <EacKind kind>
struct Kind {
    static constexpr float min = static_cast<float>(eac_min(kind));
    static constexpr float max = static_cast<float>(eac_max(kind));
    static constexpr bool is_alpha = kind == EacKind::alpha;
    static constexpr float unit = is_alpha ? 1 : 8;  ///< of bases and multipliers
    static constexpr float shift = kind == EacKind::unorm11 ? 4 : 0;
    static constexpr float min_base = kind == EacKind::snorm11 ? -127 : 0;
    static constexpr float max_base = kind == EacKind::snorm11 ? 127 : 255;
    /// Alpha of multiplier 0 has one value; channels of 11 bits have a step of 1 there.
    static constexpr float least_step = is_alpha ? 0 : 1;
};

template <EacKind kind>
YL_SIMD_INLINE F center_of(F base) {
    return base * set(Kind<kind>::unit) + set(Kind<kind>::shift);
}

template <EacKind kind>
YL_SIMD_INLINE F step_of(F multiplier) {
    return hn::Max(multiplier * set(Kind<kind>::unit), set(Kind<kind>::least_step));
}

YL_SIMD_INLINE F modifier(F row, std::size_t index) {
    return hn::GatherIndex(Floats(), modifiers_by_index[index].data(), to_int(row));
}

template <EacKind kind>
YL_SIMD_INLINE void values_of(const Choice& choice, F* values) {
    const F center = center_of<kind>(choice.base), step = step_of<kind>(choice.multiplier);
    for (std::size_t i = 0; i < 4; ++i) {
        const F below = modifier(choice.row, i);
        const F above = set(-1) - below;  // so it is in every row
        values[i] = clamped(center + below * step, set(Kind<kind>::min), set(Kind<kind>::max));
        values[i + 4] = clamped(center + above * step, set(Kind<kind>::min), set(Kind<kind>::max));
    }
}

/// Or, if that is enough to exceed `limit` in every lane, the error of some texels.
YL_SIMD_INLINE F error_of(const Channel& channel, const F* values, F limit) {
    F error = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        if ((i == 5 || i == 10) && all_false(error < limit))
            return error;
        F nearest = hn::Abs(channel.value[i] - values[0]);
        for (std::size_t k = 1; k < 8; ++k)
            nearest = hn::Min(nearest, hn::Abs(channel.value[i] - values[k]));
        const F square = squared(nearest);
        error = error + (channel.has_weights ? square * channel.weight[i] : square);
    }
    return error;
}

template <EacKind kind>
YL_SIMD_INLINE void try_choice(const Channel& channel, Choice choice, Choice& best) {
    choice.base =
        clamped(rounded(choice.base), set(Kind<kind>::min_base), set(Kind<kind>::max_base));
    choice.multiplier = clamped(rounded(choice.multiplier), zero(), set(15));
    F values[8];
    values_of<kind>(choice, values);
    choice.error = error_of(channel, values, best.error);
    const Mask better = choice.error < best.error;
    update_where(better, choice.base, best.base);
    update_where(better, choice.multiplier, best.multiplier);
    update_where(better, choice.row, best.row);
    update_where(better, choice.error, best.error);
}

/// Where the lanes' searches begin: their class of ranges, and how much larger than the range that
/// stands for it each lane's own is.
struct Starts {
    I range_class;
    F scale;
};

template <EacKind kind>
YL_SIMD_INLINE Starts starts_of(const Channel& channel) {
    const F range = (channel.high - channel.low) * set(1 / Kind<kind>::unit);
    F number = rounded(hn::Min(range, set(single_ranges)));
    for (const float threshold : class_thresholds)
        number = number + hn::IfThenElseZero(range >= set(threshold), set(1));
    Starts starts;
    starts.range_class = to_int(hn::Min(number, set(range_classes - 1)));
    const F standing = hn::GatherIndex(Floats(), class_ranges.data(), starts.range_class);
    starts.scale = if_then_else(standing > zero(), range * inverse_or_zero(standing), set(1));
    return starts;
}

template <EacKind kind>
YL_SIMD_INLINE Choice start(const Channel& channel, const Starts& starts, std::size_t number) {
    const auto looked_up = [&](const float(&table)[range_classes]) {
        return hn::GatherIndex(Floats(), table, starts.range_class);
    };
    Choice choice;
    choice.row = looked_up(start_rows[number]);
    choice.multiplier = looked_up(start_multipliers[number]) * starts.scale;
    choice.base = (channel.low - set(Kind<kind>::shift)) * set(1 / Kind<kind>::unit) +
                  looked_up(start_offsets[number]) * starts.scale;
    return choice;
}

/// The best base for the modifiers that the texels choose now: the mean of what is left.
template <EacKind kind>
YL_SIMD_INLINE F refitted_base(const Channel& channel, const Choice& choice) {
    F values[8];
    values_of<kind>(choice, values);
    F sum = zero(), weights = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F nearest = channel.value[i] - values[0];
        for (std::size_t k = 1; k < 8; ++k) {
            const F off = channel.value[i] - values[k];
            nearest = if_then_else(hn::Abs(off) < hn::Abs(nearest), off, nearest);
        }
        const F weight = channel.has_weights ? channel.weight[i] : set(1);
        sum = sum + nearest * weight;
        weights = weights + weight;
    }
    return choice.base + sum * inverse_or_zero(weights) * set(1.0F / Kind<kind>::unit);
}

struct Effort {
    std::size_t starts;  ///< out of the table
    int refits;          ///< of the best choice
    int around;          ///< steps of base and multiplier around the best choice
    int rows_around;     ///< and around each row's own best, for every row
};

YL_SIMD_INLINE Effort effort_of(int effort) {
    constexpr Effort efforts[] = {{3, 0, 0, 0},  {6, 0, 0, 0},  {10, 0, 0, 0}, {14, 1, 0, 0},
                                  {18, 1, 0, 0}, {26, 1, 0, 0}, {32, 1, 1, 0}, {32, 2, 2, 0},
                                  {32, 2, 2, 2}, {32, 2, 3, 4}, {32, 2, 4, 12}};
    return efforts[effort];
}

template <EacKind kind>
YL_SIMD_INLINE void step_around(const Channel& channel, int reach, Choice& best) {
    const Choice middle = best;
    for (int wider = -reach; wider <= reach; ++wider)
        for (int base = -reach; base <= reach; ++base) {
            Choice moved = middle;
            moved.multiplier = moved.multiplier + set(static_cast<float>(wider));
            moved.base = moved.base + set(static_cast<float>(base));
            try_choice<kind>(channel, moved, best);
        }
}

/// Every row, with all bases and multipliers around those that spread it over the range.
template <EacKind kind>
YL_SIMD_INLINE void try_rows(const Channel& channel, int reach, Choice& best) {
    for (int row = 0; row < 16; ++row) {
        const float lowest = modifiers[row][3], highest = modifiers[row][7];
        const F ideal =
            (channel.high - channel.low) * set(1 / ((highest - lowest) * Kind<kind>::unit));
        for (int wider = -1; wider <= reach / 2 + 1; ++wider) {
            Choice choice;
            choice.row = set(static_cast<float>(row));
            choice.multiplier =
                clamped(rounded(ideal) + set(static_cast<float>(wider)), zero(), set(15));
            const F center = (channel.low + channel.high) * set(0.5F) -
                             step_of<kind>(choice.multiplier) * set(0.5F * (lowest + highest));
            const F base = (center - set(Kind<kind>::shift)) * set(1 / Kind<kind>::unit);
            for (int step = -reach; step <= reach; ++step) {
                choice.base = base + set(static_cast<float>(step));
                try_choice<kind>(channel, choice, best);
            }
        }
    }
}

/// Channels of 11 bits have a finer step of 1, for ranges that their modifiers span.
template <EacKind kind>
YL_SIMD_INLINE void try_fine_steps(const Channel& channel, bool tries_all, Choice& best) {
    const Mask is_narrow = channel.high - channel.low < set(30);
    if (Kind<kind>::is_alpha || all_false(is_narrow))
        return;
    Choice fine = best;
    for (int row = tries_all ? 0 : 1; row < 16; row += tries_all ? 1 : 4)
        for (const float step : {0.0F, -1.0F, 1.0F}) {
            if (!tries_all && step != 0)
                continue;
            const F middle = (channel.low + channel.high) * set(0.5F);
            Choice choice;
            choice.row = set(static_cast<float>(row));
            choice.multiplier = zero();
            choice.base = (middle - set(Kind<kind>::shift)) * set(1 / Kind<kind>::unit) + set(step);
            try_choice<kind>(channel, choice, fine);
        }
    // The same, whoever shares the vector.
    update_where(is_narrow, fine.base, best.base);
    update_where(is_narrow, fine.multiplier, best.multiplier);
    update_where(is_narrow, fine.row, best.row);
    update_where(is_narrow, fine.error, best.error);
}

template <EacKind kind>
YL_SIMD_INLINE Choice search(const Channel& channel, const Effort& effort) {
    Choice best;
    best.error = set(1e30F);
    best.base = best.multiplier = best.row = zero();
    const Starts starts = starts_of<kind>(channel);
    for (std::size_t number = 0; number < effort.starts; ++number)
        try_choice<kind>(channel, start<kind>(channel, starts, number), best);
    try_fine_steps<kind>(channel, effort.around > 0, best);
    if (effort.rows_around > 0)
        try_rows<kind>(channel, effort.rows_around, best);
    for (int i = 0; i < effort.refits; ++i) {
        Choice refitted = best;
        refitted.base = refitted_base<kind>(channel, best);
        try_choice<kind>(channel, refitted, best);
    }
    if (effort.around > 0)
        step_around<kind>(channel, effort.around, best);
    return best;
}

/// Indices of 3 bits, column by column, behind the base, the multiplier and the row; the first byte
/// is the highest.
template <EacKind kind>
YL_SIMD_INLINE void write(const Channel& channel, const Choice& best, std::size_t count,
                          std::size_t words, std::byte* blocks) {
    F values[8];
    values_of<kind>(best, values);
    I high = hn::ShiftLeft<24>(to_int(best.base) & set_int(255)) |
             hn::ShiftLeft<20>(to_int(best.multiplier)) | hn::ShiftLeft<16>(to_int(best.row));
    I low = set_int(0);
    for (std::size_t place = 0; place < texels_of_block; ++place) {
        const std::size_t texel = place % 4 * 4 + place / 4;
        F nearest = hn::Abs(channel.value[texel] - values[0]);
        I index = set_int(0);
        for (int k = 1; k < 8; ++k) {
            const F off = hn::Abs(channel.value[texel] - values[k]);
            const Mask nearer = off < nearest;
            update_where(nearer, set_int(k), index);
            update_where(nearer, off, nearest);
        }
        const int shift = 45 - 3 * static_cast<int>(place);
        if (shift >= 32)
            high = high | hn::ShiftLeftSame(index, shift - 32);
        else if (shift >= 0)
            low = low | hn::ShiftLeftSame(index, shift);
        if (shift < 32 && shift + 3 > 32)  // across both words
            high = high | hn::ShiftRightSame(index, 32 - shift);
    }
    store_words(byte_swapped(high), count, words, 0, blocks);
    store_words(byte_swapped(low), count, words, 1, blocks);
}

template <EacKind kind>
void encode_kind(const float* values, const float* weights, std::size_t count,
                 const ChannelSettings& settings, std::byte* blocks) {
    const Effort effort = effort_of(settings.effort);
    for (std::size_t at = 0; at < count; at += lanes()) {
        const std::size_t in_group = HWY_MIN(lanes(), count - at);
        const I offsets = lane_offsets(in_group, texels_of_block);
        Channel channel;
        channel.has_weights = weights != nullptr;
        channel.low = set(1e30F);
        channel.high = set(-1e30F);
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            channel.value[i] =
                clamped(hn::GatherIndex(Floats(), values + at * texels_of_block + i, offsets),
                        set(Kind<kind>::min), set(Kind<kind>::max));
            if (weights != nullptr)
                channel.weight[i] =
                    hn::GatherIndex(Floats(), weights + at * texels_of_block + i, offsets);
            channel.low = hn::Min(channel.low, channel.value[i]);
            channel.high = hn::Max(channel.high, channel.value[i]);
        }
        write<kind>(channel, search<kind>(channel, effort), in_group, settings.block_words,
                    blocks + at * settings.block_words * 4);
    }
}

void encode_alpha_kind(const float* values, const float* weights, std::size_t count,
                       const ChannelSettings& settings, std::byte* blocks) {
    encode_kind<EacKind::alpha>(values, weights, count, settings, blocks);
}
void encode_unorm_kind(const float* values, const float* weights, std::size_t count,
                       const ChannelSettings& settings, std::byte* blocks) {
    encode_kind<EacKind::unorm11>(values, weights, count, settings, blocks);
}
void encode_snorm_kind(const float* values, const float* weights, std::size_t count,
                       const ChannelSettings& settings, std::byte* blocks) {
    encode_kind<EacKind::snorm11>(values, weights, count, settings, blocks);
}

}  // namespace yl::etc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::etc {

HWY_EXPORT(encode_alpha_kind);
HWY_EXPORT(encode_unorm_kind);
HWY_EXPORT(encode_snorm_kind);

void encode_eac(EacKind kind, const float* values, const float* weights, std::size_t count,
                const ChannelSettings& settings, std::byte* blocks) {
    switch (kind) {
        case EacKind::alpha:
            return HWY_DYNAMIC_DISPATCH(encode_alpha_kind)(values, weights, count, settings,
                                                           blocks);
        case EacKind::unorm11:
            return HWY_DYNAMIC_DISPATCH(encode_unorm_kind)(values, weights, count, settings,
                                                           blocks);
        case EacKind::snorm11:
            return HWY_DYNAMIC_DISPATCH(encode_snorm_kind)(values, weights, count, settings,
                                                           blocks);
    }
}

}  // namespace yl::etc
#endif
