// ASTC: one block in each lane. Grids of weights and ranges of endpoints are
// tried in the order of what they promise; then the best ones are refined.
#include "block/astc/encode.hpp"

#include <algorithm>
#include <bit>
#include <span>

#include <yl/format.hpp>

#include "base/bytes.hpp"
#include "base/simd_inline.hpp"
#include "block/astc/half_logarithm.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/astc/block_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/astc/splits-inl.hpp"
#include "block/astc/trials-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::astc::HWY_NAMESPACE {

/// Colours whose red has changed places with the channel that has weights of its own.
YL_SIMD_INLINE void exchange_all(const Texels& texels, F channel, Texels& turned) {
    turned = texels;
    exchange(channel, turned.root);
    exchange(channel, turned.inverse_root);
    for (std::size_t i = 0; i < texels.count; ++i)
        exchange(channel, turned.color[i]);
}

/// Each lane's best once more, those lanes together that have the same. `turned` is room to work in.
YL_SIMD_INLINE void refine_best(const Lists& lists, const Texels& texels, const Effort& effort,
                                Fit& fit, Texels& turned, Best& best) {
    if (effort.rounds == 0)
        return;
    const Best before = best;
    const Spilled list(before.list), candidate(before.candidate), plane(before.plane);
    const auto has_alpha_plane = [&](std::size_t lane) { return plane.at(lane) == 3; };
    for (std::size_t lane = 0; lane < lanes(); ++lane) {
        const auto same = [&](std::size_t other) {
            return list.at(other) == list.at(lane) && candidate.at(other) == candidate.at(lane) &&
                   has_alpha_plane(other) == has_alpha_plane(lane);
        };
        bool was_done = false;
        for (std::size_t other = 0; other < lane; ++other)
            was_done = was_done || same(other);
        if (was_done)
            continue;
        const Mask in_alpha = before.plane == set(3.0F);
        const Mask allowed =
            and_mask(has_alpha_plane(lane) ? in_alpha : hn::Not(in_alpha),
                     and_mask(before.list == set(static_cast<float>(list.at(lane))),
                              before.candidate == set(static_cast<float>(candidate.at(lane)))));
        const Trial trial{lists.at(list.at(lane)), list.at(lane), candidate.at(lane), before.split,
                          before.plane};
        fit.plane = !trial.list.has_two_planes ? no_plane : has_alpha_plane(lane) ? 3 : 0;
        fit.parts = trial.list.partitions;
        if (fit.parts == 1)
            keep_whole(texels, fit);
        else  // other lanes' splits may be of lists with more of them
            cut(lists.tables, hn::IfThenElseZero(allowed, before.split), texels.count, fit);
        if (fit.plane == 0)
            exchange_all(texels, before.plane, turned);
        const Texels& seen = fit.plane == 0 ? turned : texels;
        find_lines(seen, fit);
        refine(lists, trial, seen, fit, effort, allowed, best);
    }
}

/// What lanes have in common with their class.
struct Classes {
    Mask is_gray, is_opaque;
    bool are_light = false;
    Mask has_light_alpha = zero() < zero();  ///< above 1, and on the scale of colours
    Mask considered = zero() == zero();
};

YL_SIMD_INLINE void try_all(const Lists& lists, const Texels& texels, const Classes& classes,
                            Lists::Kind kind, unsigned count, const Fit& fit, F split,
                            const Effort& effort, Best& best) {
    const Mask has_alpha = hn::Not(classes.is_opaque);
    const Mask is_color = hn::Not(classes.is_gray);
    const auto run = [&](Lists::Color color, bool alpha, unsigned tried, Mask allowed) {
        try_list(lists, Lists::number(color, alpha, kind), tried, texels, fit, split,
                 set(static_cast<float>(no_plane)), effort.thin_steps,
                 and_mask(classes.considered, allowed), best);
    };
    if (classes.are_light) {
        run(Lists::light, false, count, classes.is_opaque);
        run(Lists::light, true, count, hn::AndNot(classes.has_light_alpha, has_alpha));
        run(Lists::light_with_alpha, false, count, classes.has_light_alpha);
        return;
    }
    run(Lists::gray, false, count, and_mask(classes.is_gray, classes.is_opaque));
    run(Lists::gray, true, count, and_mask(classes.is_gray, has_alpha));
    run(Lists::color, false, count, and_mask(is_color, classes.is_opaque));
    run(Lists::color, true, count, and_mask(is_color, has_alpha));
    const unsigned scaled = effort.scaled_in_eight * count / 8;
    if (scaled == 0)
        return;
    run(Lists::scaled_color, false, scaled, and_mask(is_color, classes.is_opaque));
    run(Lists::scaled_color, true, scaled, and_mask(is_color, has_alpha));
}

YL_SIMD_INLINE Classes load_texels(const std::byte* bytes, std::size_t texel_count,
                                   std::size_t count, const ColorSettings& settings,
                                   Texels& texels) {
    const I offsets = lane_offsets(count, static_cast<std::int32_t>(texel_count));
    texels.count = texel_count;
    texels.alpha_counts_alike = settings.weigh_by_alpha;
    for (std::size_t c = 0; c < 4; ++c) {
        texels.root[c] = hn::Sqrt(set(settings.channel_weights[c]));
        texels.inverse_root[c] = inverse_or_zero(texels.root[c]);
    }
    F off_gray = zero(), least_alpha = set(255.0F);
    for (std::size_t i = 0; i < texel_count; ++i) {
        const I word = gather_words(bytes, i, offsets);
        F color[4];
        for (std::size_t c = 0; c < 4; ++c)
            color[c] = to_float(hn::ShiftRightSame(word, static_cast<int>(8 * c)) & set_int(255));
        off_gray = off_gray + hn::Abs(color[0] - color[1]) + hn::Abs(color[1] - color[2]);
        least_alpha = hn::Min(least_alpha, color[3]);
        // Colours that are not seen still settle something where all are so.
        texels.weight[i] =
            settings.weigh_by_alpha ? hn::Max(color[3], set(0.25F)) * set(1.0F / 255) : set(1.0F);
        for (std::size_t c = 0; c < 4; ++c)
            texels.color[i][c] = color[c] * texels.root[c];
    }
    return {.is_gray = off_gray == zero(), .is_opaque = least_alpha == set(255.0F)};
}

/// Half floats: colours as nearly logarithms, from 0 to 255 as other colours; alpha from 0 to 1, or like
/// colours in blocks where it is above.
YL_SIMD_INLINE Classes load_light(const std::byte* bytes, std::size_t texel_count,
                                  std::size_t count, const ColorSettings& settings,
                                  Texels& texels) {
    constexpr std::uint16_t half_one = 0x3C00;
    texels.count = texel_count;
    texels.alpha_counts_alike = settings.weigh_by_alpha;
    for (std::size_t c = 0; c < 4; ++c) {
        texels.root[c] = hn::Sqrt(set(settings.channel_weights[c]));
        texels.inverse_root[c] = inverse_or_zero(texels.root[c]);
    }
    const auto half_at = [&](std::size_t lane, std::size_t i, std::size_t c) {
        return yl::load<std::uint16_t>(bytes + 8 * (HWY_MIN(lane, count - 1) * texel_count + i) +
                                       2 * c);
    };
    const auto on_scale = [](std::uint16_t half) {
        return static_cast<float>(logarithm_of_half(half)) * (1.0F / 257);
    };
    HWY_ALIGN float is_light[hn::MaxLanes(Floats())] = {};
    for (std::size_t lane = 0; lane < lanes(); ++lane)
        for (std::size_t i = 0; i < texel_count; ++i)
            if (const std::uint16_t alpha = half_at(lane, i, 3); alpha > half_one && alpha < 0x8000)
                is_light[lane] = 1;
    F least_alpha = set(255.0F);
    HWY_ALIGN float values[4][hn::MaxLanes(Floats())];
    HWY_ALIGN float seen[hn::MaxLanes(Floats())];
    for (std::size_t i = 0; i < texel_count; ++i) {
        for (std::size_t lane = 0; lane < lanes(); ++lane) {
            for (std::size_t c = 0; c < 3; ++c)
                values[c][lane] = on_scale(half_at(lane, i, c));
            const std::uint16_t half = half_at(lane, i, 3);
            const float alpha = half_to_float(half);
            seen[lane] = alpha > 0 ? 255 * HWY_MIN(alpha, 1.0F) : 0;
            values[3][lane] = is_light[lane] != 0 ? on_scale(half) : seen[lane];
        }
        const F alpha = hn::Load(Floats(), seen);
        least_alpha = hn::Min(least_alpha, alpha);
        texels.weight[i] =
            settings.weigh_by_alpha ? hn::Max(alpha, set(0.25F)) * set(1.0F / 255) : set(1.0F);
        for (std::size_t c = 0; c < 4; ++c)
            texels.color[i][c] = hn::Load(Floats(), values[c]) * texels.root[c];
    }
    const Mask has_light_alpha = hn::Load(Floats(), is_light) > zero();
    return {.is_gray = least_alpha < zero(),
            .is_opaque = hn::AndNot(has_light_alpha, least_alpha == set(255.0F)),
            .are_light = true,
            .has_light_alpha = has_light_alpha};
}

/// All numbers of the best blocks, lane by lane.
struct Written {
    explicit Written(const Best& best) {
        const auto put = [&](F value, std::size_t at) {
            hn::Store(to_int(value), Ints(), numbers[at]);
        };
        put(best.list, 0);
        put(best.candidate, 1);
        put(best.split, 2);
        put(best.plane, 3);
        for (std::size_t part = 0; part < most_parts; ++part) {
            put(best.scale[part], first_scale + part);
            for (std::size_t i = 0; i < 8; ++i)
                put(best.hdr[part][i], first_hdr + 8 * part + i);
            for (std::size_t c = 0; c < 4; ++c) {
                put(best.low[part][c], first_low + 4 * part + c);
                put(best.high[part][c], first_high + 4 * part + c);
            }
        }
        for (std::size_t k = 0; k < most_weights; ++k)
            put(best.ranks[k], first_rank + k);
    }
    [[nodiscard]] unsigned at(std::size_t number, std::size_t lane) const {
        return static_cast<unsigned>(numbers[number][lane]);
    }

    static constexpr std::size_t first_scale = 4, first_hdr = first_scale + most_parts,
                                 first_low = first_hdr + 8 * most_parts,
                                 first_high = first_low + 4 * most_parts,
                                 first_rank = first_high + 4 * most_parts;
    HWY_ALIGN std::int32_t numbers[first_rank + most_weights][hn::MaxLanes(Ints())];
};

YL_SIMD_INLINE void write(const Lists& lists, const Written& written, std::size_t lane,
                          std::byte* block) {
    const CandidateList& list = lists.at(written.at(0, lane));
    SettledBlock settled{.mode_bits = list.candidates[written.at(1, lane)].mode_bits,
                         .partitions = list.partitions,
                         .endpoint_mode = list.endpoint_mode};
    if (list.partitions > 1)
        settled.seed = lists.tables.splits(list.partitions)[written.at(2, lane)].seed;
    if (list.has_two_planes)
        settled.plane_channel = written.at(3, lane);
    for (std::size_t part = 0; part < list.partitions; ++part)
        for (std::size_t i = 0; i < 8; ++i)
            settled.hdr[part][i] =
                static_cast<std::uint8_t>(written.at(Written::first_hdr + 8 * part + i, lane));
    for (std::size_t part = 0; part < list.partitions; ++part)
        settled.scale[part] =
            static_cast<std::uint8_t>(written.at(Written::first_scale + part, lane));
    for (std::size_t part = 0; part < list.partitions; ++part)
        for (std::size_t c = 0; c < 4; ++c) {
            settled.low[part][c] =
                static_cast<std::uint8_t>(written.at(Written::first_low + 4 * part + c, lane));
            settled.high[part][c] =
                static_cast<std::uint8_t>(written.at(Written::first_high + 4 * part + c, lane));
        }
    for (std::size_t k = 0; k < most_weights; ++k)
        settled.ranks[k] = static_cast<std::uint8_t>(written.at(Written::first_rank + k, lane));
    pack(settled, block);
}

/// Blocks of one colour are exact.
bool write_if_single(const std::byte* texels, std::size_t count, bool are_light, std::byte* block) {
    const std::size_t bytes = are_light ? 8 : 4;
    for (std::size_t i = 1; i < count; ++i)
        if (std::memcmp(texels, texels + bytes * i, bytes) != 0)
            return false;
    std::array<std::uint8_t, 4> color{};
    std::array<std::uint16_t, 4> light{};
    for (std::size_t c = 0; c < 4; ++c)
        if (are_light)
            light[c] = yl::load<std::uint16_t>(texels + 2 * c);
        else
            color[c] = std::to_integer<std::uint8_t>(texels[c]);
    if (are_light)
        pack_single_light(light, block);
    else
        pack_single_color(color, block);
    return true;
}

YL_SIMD_INLINE void try_splits(const Lists& lists, const Texels& texels, const Classes& classes,
                               Lists::Kind kind, std::span<const F> splits, unsigned candidates,
                               const Effort& effort, Fit& fit, Best& best) {
    for (const F split : splits) {
        fit.parts = kind + 1;
        cut(lists.tables, split, texels.count, fit);
        find_lines(texels, fit);
        try_all(lists, texels, classes, kind, candidates, fit, split, effort, best);
    }
    keep_whole(texels, fit);
}

/// Letters and other small things of two colours: their clusters are no guide to the best split.
YL_SIMD_INLINE void try_hard_splits(const Lists& lists, const Texels& texels,
                                    const Classes& classes, const Effort& effort, Fit& fit,
                                    Best& best) {
    constexpr float far_off = 500;  // squared error of a texel, of all channels
    Classes hard = classes;
    hard.considered = best.error > set(far_off * static_cast<float>(texels.count));
    if (effort.hard_splits == 0 || all_false(hard.considered))
        return;
    find_lines(texels, fit);
    F splits[most_splits];
    const unsigned count = rank_splits(lists.tables, texels, fit, 2, effort.hard_splits, splits);
    try_splits(lists, texels, hard, Lists::in_two_parts, std::span(splits, count),
               effort.split_candidates, effort, fit, best);
}

YL_SIMD_INLINE void try_parts(const Lists& lists, const Texels& texels, const Classes& classes,
                              const Effort& effort, Fit& fit, Best& best) {
    F splits[most_splits];
    unsigned count = effort.splits;
    if (effort.ranks_splits)
        count = rank_splits(lists.tables, texels, fit, 2, effort.splits, splits);
    else
        choose_splits(lists.tables, texels, fit, effort.splits, splits);
    try_splits(lists, texels, classes, Lists::in_two_parts, std::span(splits, count),
               effort.split_candidates, effort, fit, best);
    try_hard_splits(lists, texels, classes, effort, fit, best);
    for (const auto kind : {Lists::in_three_parts, Lists::in_four_parts}) {
        if (effort.deep_splits == 0)
            return;
        find_lines(texels, fit);
        count = rank_splits(lists.tables, texels, fit, kind + 1, effort.deep_splits, splits);
        try_splits(lists, texels, classes, kind, std::span(splits, count), effort.deep_candidates,
                   effort, fit, best);
    }
}

/// The colour without which the others lie nearest to a line.
YL_SIMD_INLINE F channel_apart(const Texels& texels, const Fit& fit) {
    const Covariance<4> covariance = covariance_of(texels, fit, 0);
    F channel = zero(), least = set(never);
    for (std::size_t c = 0; c < 3; ++c) {
        const Covariance<4> rest = without(covariance, c);
        const F left = rest.trace() - explained(rest, principal_axis(rest, axis_rounds));
        const Mask is_less = left < least;
        update_where(is_less, set(static_cast<float>(c)), channel);
        update_where(is_less, left, least);
    }
    return channel;
}

YL_SIMD_INLINE void try_color_plane(const Lists& lists, const Texels& texels,
                                    const Classes& classes, const Effort& effort, F channel,
                                    Fit& fit, Texels& turned, Best& best) {
    exchange_all(texels, channel, turned);
    fit.plane = 0;
    find_lines(turned, fit);
    const Mask is_color = hn::Not(classes.is_gray);
    for (const bool has_alpha : {false, true})
        try_list(lists, Lists::number(Lists::color, has_alpha, Lists::in_two_planes),
                 effort.plane_candidates, turned, fit, zero(), channel, effort.thin_steps,
                 and_mask(is_color, has_alpha ? hn::Not(classes.is_opaque) : classes.is_opaque),
                 best);
}

YL_SIMD_INLINE void try_alpha_plane(const Lists& lists, const Texels& texels,
                                    const Classes& classes, const Effort& effort, Fit& fit,
                                    Best& best) {
    const Mask has_alpha = hn::Not(classes.is_opaque);
    if (all_false(has_alpha))
        return;
    fit.plane = 3;
    find_lines(texels, fit);
    if (classes.are_light) {
        const auto run = [&](Lists::Color color, bool alpha, Mask allowed) {
            try_list(lists, Lists::number(color, alpha, Lists::in_two_planes),
                     effort.plane_candidates, texels, fit, zero(), set(3.0F), effort.thin_steps,
                     allowed, best);
        };
        run(Lists::light, true, hn::AndNot(classes.has_light_alpha, has_alpha));
        run(Lists::light_with_alpha, false, classes.has_light_alpha);
        return;
    }
    for (const bool has_color : {false, true})
        try_list(lists,
                 Lists::number(has_color ? Lists::color : Lists::gray, true, Lists::in_two_planes),
                 effort.plane_candidates, texels, fit, zero(), set(3.0F), effort.thin_steps,
                 and_mask(has_alpha, has_color ? hn::Not(classes.is_gray) : classes.is_gray), best);
}

YL_SIMD_INLINE void try_planes(const Lists& lists, const Texels& texels, const Classes& classes,
                               const Effort& effort, Fit& fit, Texels& turned, Best& best) {
    try_alpha_plane(lists, texels, classes, effort, fit, best);
    fit.plane = no_plane;
    if (classes.are_light)  // whose ends cannot change the order of their channels
        return;
    if (effort.color_planes == 1) {
        find_lines(texels, fit);
        const F channel = channel_apart(texels, fit);
        try_color_plane(lists, texels, classes, effort, channel, fit, turned, best);
    }
    for (unsigned channel = 0; effort.color_planes > 1 && channel < 3; ++channel)
        try_color_plane(lists, texels, classes, effort, set(static_cast<float>(channel)), fit,
                        turned, best);
    fit.plane = no_plane;
}

/// Without the texels.
YL_SIMD_INLINE void encode_loaded(const Lists& lists, const Texels& texels, const Classes& classes,
                                  const Effort& effort, Best& best) {
    Fit fit;
    keep_whole(texels, fit);
    fit.plane = no_plane;
    find_lines(texels, fit);
    best.error = set(never);
    best.list = best.candidate = best.split = zero();
    best.plane = set(static_cast<float>(no_plane));
    for (F& rank : best.ranks)
        rank = zero();
    for (unsigned part = 0; part < most_parts; ++part) {
        best.scale[part] = zero();
        for (F& value : best.hdr[part])
            value = zero();
        for (std::size_t c = 0; c < 4; ++c)
            best.low[part][c] = best.high[part][c] = zero();
    }
    try_all(lists, texels, classes, Lists::whole, effort.candidates, fit, zero(), effort, best);
    if (effort.splits > 0)
        try_parts(lists, texels, classes, effort, fit, best);
    Texels turned;
    if (effort.plane_candidates > 0)
        try_planes(lists, texels, classes, effort, fit, turned, best);
    refine_best(lists, texels, effort, fit, turned, best);
}

YL_SIMD_INLINE void encode_group(const Lists& lists, const std::byte* bytes, std::size_t count,
                                 bool are_light, const ColorSettings& settings, std::byte* blocks) {
    const std::size_t texel_count = lists.tables.footprint().texels();
    Texels texels;
    const Classes classes = are_light ? load_light(bytes, texel_count, count, settings, texels)
                                      : load_texels(bytes, texel_count, count, settings, texels);
    Best best;
    encode_loaded(lists, texels, classes, effort_of(settings.effort, texel_count, are_light), best);
    const Written written(best);
    const std::size_t block_bytes = texel_count * (are_light ? 8 : 4);
    for (std::size_t lane = 0; lane < count; ++lane)
        if (!write_if_single(bytes + block_bytes * lane, texel_count, are_light,
                             blocks + 16 * lane))
            write(lists, written, lane, blocks + 16 * lane);
}

void encode_all(const EncoderTables& tables, const std::byte* texels, std::size_t count,
                bool are_light, const ColorSettings& settings, std::byte* blocks) {
    const std::size_t block_bytes = std::size_t{tables.footprint().texels()} * (are_light ? 8 : 4);
    for (std::size_t at = 0; at < count; at += lanes())
        encode_group({tables}, texels + at * block_bytes, HWY_MIN(lanes(), count - at), are_light,
                     settings, blocks + 16 * at);
}

void measure_group(const EncoderTables& tables, const CandidateList& list, const std::byte* bytes,
                   std::size_t count, float* errors) {
    Texels texels, turned;
    load_texels(bytes, tables.footprint().texels(), count, {}, texels);
    Fit fit;
    keep_whole(texels, fit);
    fit.plane = no_plane;
    find_lines(texels, fit);
    if (list.partitions == 2) {
        F split[1];
        choose_splits(tables, texels, fit, 1, split);
        fit.parts = 2;
        cut(tables, split[0], texels.count, fit);
    } else if (list.has_two_planes) {
        exchange_all(texels, channel_apart(texels, fit), turned);
        texels = turned;
        fit.plane = 0;
    }
    find_lines(texels, fit);
    TrialWeights weights;
    F thin[most_weights + behind_grid], own_thin[most_weights + behind_grid];
    HWY_ALIGN float lane_errors[hn::MaxLanes(Floats())];
    for (std::size_t i = 0; i < list.candidates.size(); ++i) {
        const Candidate& candidate = list.candidates[i];
        const Grid& grid = tables.grids()[candidate.grid];
        thin_out(grid, texels.count, fit.place, 1, thin);
        if (fit.plane != no_plane)
            thin_out(grid, texels.count, fit.own_place, 1, own_thin);
        settle_weights(texels, fit, grid, candidate.weight_range, thin, own_thin, weights);
        hn::Store(
            settle(texels, fit, candidate, list.endpoint_mode, weights, false, set(never)).error,
            Floats(), lane_errors);
        for (std::size_t lane = 0; lane < count; ++lane)
            errors[lane * list.candidates.size() + i] = lane_errors[lane];
    }
}

void measure_all(const EncoderTables& tables, const CandidateList& list, const std::byte* texels,
                 std::size_t count, float* errors) {
    const std::size_t block_bytes = std::size_t{tables.footprint().texels()} * 4;
    for (std::size_t at = 0; at < count; at += lanes())
        measure_group(tables, list, texels + at * block_bytes, HWY_MIN(lanes(), count - at),
                      errors + at * list.candidates.size());
}

}  // namespace yl::astc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::astc {

HWY_EXPORT(encode_all);
HWY_EXPORT(measure_all);

std::vector<float> candidate_errors(const EncoderTables& tables, const CandidateList& list,
                                    const std::byte* texels, std::size_t count) {
    std::vector<float> errors(count * list.candidates.size());
    HWY_DYNAMIC_DISPATCH(measure_all)(tables, list, texels, count, errors.data());
    return errors;
}

void encode_ldr(const EncoderTables& tables, const std::byte* texels, std::size_t count,
                const ColorSettings& settings, std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_all)(tables, texels, count, false, settings, blocks);
}

void encode_hdr(const EncoderTables& tables, const std::byte* texels, std::size_t count,
                const ColorSettings& settings, std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_all)(tables, texels, count, true, settings, blocks);
}

}  // namespace yl::astc
#endif
