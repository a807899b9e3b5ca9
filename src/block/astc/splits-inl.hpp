// Ways to cut each lane's block in parts.

#if defined(YL_BLOCK_ASTC_SPLITS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_ASTC_SPLITS_INL_HPP
#undef YL_BLOCK_ASTC_SPLITS_INL_HPP
#else
#define YL_BLOCK_ASTC_SPLITS_INL_HPP
#endif

#include <algorithm>
#include <bit>

#include "block/astc/texel_lines-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::astc::HWY_NAMESPACE {

constexpr std::size_t most_lanes = hn::MaxLanes(Floats());
constexpr unsigned most_splits = 16;

/// Numbers of all lanes, one after the other.
struct Spilled {
    explicit Spilled(F value) { hn::Store(to_int(value), Ints(), numbers); }
    [[nodiscard]] unsigned at(std::size_t lane) const {
        return static_cast<unsigned>(numbers[lane]);
    }
    HWY_ALIGN std::int32_t numbers[hn::MaxLanes(Ints())];
};

/// The part of each texel by each lane's split.
YL_SIMD_INLINE void cut(const EncoderTables& tables, F split, std::size_t count, Fit& fit) {
    const std::vector<Split>& splits = tables.splits(fit.parts);
    const Spilled numbers(split);
    HWY_ALIGN std::int32_t words[hn::MaxLanes(Ints())];
    for (std::size_t word = 0; word * 32 < count; ++word) {
        const std::size_t last = HWY_MIN(count, word * 32 + 32);
        for (std::size_t i = word * 32; i < last; ++i)
            fit.part[i] = zero();
        for (unsigned part = 1; part < fit.parts; ++part) {
            for (std::size_t lane = 0; lane < lanes(); ++lane)
                words[lane] =
                    static_cast<std::int32_t>(splits[numbers.at(lane)].texels(part)[word]);
            const I bits = hn::Load(Ints(), words);
            for (std::size_t i = word * 32; i < last; ++i)
                update_where(has_bit(bits, static_cast<std::int32_t>(i % 32)),
                             set(static_cast<float>(part)), fit.part[i]);
        }
    }
}

YL_SIMD_INLINE void keep_whole(const Texels& texels, Fit& fit) {
    fit.parts = 1;
    for (std::size_t i = 0; i < texels.count; ++i)
        fit.part[i] = zero();
}

/// 1 for texels of the second of two clusters, else 0.
YL_SIMD_INLINE void find_clusters(const Texels& texels, const Fit& fit, F* in_second) {
    const std::size_t count = texels.count;
    F middle = zero();
    for (std::size_t i = 0; i < count; ++i)
        middle = middle + fit.place[i];
    middle = middle * set(1.0F / static_cast<float>(count));
    for (std::size_t i = 0; i < count; ++i)
        in_second[i] = if_then_else(fit.place[i] > middle, set(1.0F), zero());
    for (int round = 0; round < 2; ++round) {  // to the nearer of both means
        F mean[2][4], total[2] = {zero(), zero()};
        for (auto& part : mean)
            for (F& channel : part)
                channel = zero();
        for (std::size_t i = 0; i < count; ++i) {
            total[1] = total[1] + in_second[i];
            total[0] = total[0] + (set(1.0F) - in_second[i]);
            for (std::size_t c = 0; c < 4; ++c) {
                mean[1][c] = in_second[i] * texels.color[i][c] + mean[1][c];
                mean[0][c] = mean[0][c] + texels.color[i][c] * (set(1.0F) - in_second[i]);
            }
        }
        for (std::size_t part = 0; part < 2; ++part)
            for (F& channel : mean[part])
                channel = channel * inverse_or_zero(total[part]);
        for (std::size_t i = 0; i < count; ++i) {
            F off[2] = {zero(), zero()};
            for (std::size_t part = 0; part < 2; ++part)
                for (std::size_t c = 0; c < 4; ++c)
                    off[part] = off[part] + squared(texels.color[i][c] - mean[part][c]);
            in_second[i] = if_then_else(off[1] < off[0], set(1.0F), zero());
        }
    }
}

/// Sums of colours and of their products.
struct ColorSums {
    F total;
    F sum[4];
    Covariance<4> products;
};

YL_SIMD_INLINE void add(const ColorSums& more, ColorSums& sums) {
    sums.total = sums.total + more.total;
    for (std::size_t c = 0; c < 4; ++c)
        sums.sum[c] = sums.sum[c] + more.sum[c];
    for (std::size_t k = 0; k < 10; ++k)
        sums.products.entry[k] = sums.products.entry[k] + more.products.entry[k];
}

YL_SIMD_INLINE ColorSums no_colors() {
    ColorSums sums;
    sums.total = zero();
    for (F& sum : sums.sum)
        sum = zero();
    for (F& entry : sums.products.entry)
        entry = zero();
    return sums;
}

YL_SIMD_INLINE ColorSums sums_of_texel(const Texels& texels, const Fit& fit, std::size_t i) {
    ColorSums sums;
    sums.total = texels.weight[i];
    for (std::size_t row = 0; row < 4; ++row) {
        const F weighted = texels.weight[i] * fit.centered[i][row];
        sums.sum[row] = weighted;
        for (std::size_t column = row; column < 4; ++column)
            sums.products.entry[Covariance<4>::place(row, column)] =
                weighted * fit.centered[i][column];
    }
    return sums;
}

/// What the best line through the colours leaves.
YL_SIMD_INLINE F left_by_line(const ColorSums& sums) {
    constexpr int rounds = 3;
    Covariance<4> covariance;
    const F inverse = inverse_or_zero(sums.total);
    for (std::size_t row = 0; row < 4; ++row)
        for (std::size_t column = row; column < 4; ++column) {
            const std::size_t place = Covariance<4>::place(row, column);
            covariance.entry[place] =
                sums.products.entry[place] - sums.sum[row] * sums.sum[column] * inverse;
        }
    return covariance.trace() - explained(covariance, principal_axis(covariance, rounds));
}

YL_SIMD_INLINE void subtract(const ColorSums& less, ColorSums& sums) {
    sums.total = sums.total - less.total;
    for (std::size_t c = 0; c < 4; ++c)
        sums.sum[c] = sums.sum[c] - less.sum[c];
    for (std::size_t k = 0; k < 10; ++k)
        sums.products.entry[k] = sums.products.entry[k] - less.products.entry[k];
}

/// What the lines through the parts of a split leave together.
YL_SIMD_INLINE F left_by_lines(const Split& split, unsigned parts, std::size_t count,
                               const ColorSums* of_texels, const ColorSums& all) {
    ColorSums first = all;
    F error = zero();
    for (unsigned part = 1; part < parts; ++part) {
        ColorSums own = no_colors();
        for (std::size_t i = 0; i < count; ++i)
            if ((split.texels(part)[i / 32] >> i % 32 & 1U) != 0)
                add(of_texels[i], own);
        subtract(own, first);
        error = error + left_by_line(own);
    }
    return error + left_by_line(first);
}

/// The splits into so many parts whose parts lie nearest to lines, the best first: every split is
/// tried. Returns how many there are.
YL_SIMD_INLINE unsigned rank_splits(const EncoderTables& tables, const Texels& texels,
                                    const Fit& fit, unsigned parts, unsigned wanted, F* chosen) {
    const std::vector<Split>& splits = tables.splits(parts);
    ColorSums of_texels[most_texels];
    ColorSums all = no_colors();
    for (std::size_t i = 0; i < texels.count; ++i) {
        of_texels[i] = sums_of_texel(texels, fit, i);
        add(of_texels[i], all);
    }
    const auto count = std::min(wanted, static_cast<unsigned>(splits.size()));
    F least[most_splits];
    for (unsigned k = 0; k < count; ++k) {
        least[k] = set(never);
        chosen[k] = zero();
    }
    for (std::size_t s = 0; s < splits.size(); ++s) {
        F error = left_by_lines(splits[s], parts, texels.count, of_texels, all);
        F place = set(static_cast<float>(s));
        for (unsigned k = 0; k < count; ++k) {
            const Mask is_less = error < least[k];
            const F other_error = least[k], other_place = chosen[k];
            update_where(is_less, error, least[k]);
            update_where(is_less, place, chosen[k]);
            update_where(is_less, other_error, error);
            update_where(is_less, other_place, place);
        }
    }
    return count;
}

/// The splits that are most like the texels' own two clusters, the best first.
YL_SIMD_INLINE void choose_splits(const EncoderTables& tables, const Texels& texels, const Fit& fit,
                                  unsigned wanted, F* chosen) {
    const std::size_t count = texels.count;
    const std::vector<Split>& splits = tables.splits(2);
    F in_second[most_texels];
    find_clusters(texels, fit, in_second);
    std::array<std::array<std::uint32_t, mask_words>, most_lanes> masks{};
    for (std::size_t i = 0; i < count; ++i) {
        const Spilled bit(in_second[i]);
        for (std::size_t lane = 0; lane < lanes(); ++lane)
            masks[lane][i / 32] |= bit.at(lane) << i % 32;
    }
    HWY_ALIGN float numbers[most_splits][hn::MaxLanes(Floats())];
    const auto words = (count + 31) / 32;
    for (std::size_t lane = 0; lane < lanes(); ++lane) {
        std::array<std::uint32_t, most_splits> nearest{};  // distance and place
        nearest.fill(~0U);
        for (std::size_t s = 0; s < splits.size(); ++s) {
            unsigned apart = 0;
            for (std::size_t word = 0; word < words; ++word)
                apart += static_cast<unsigned>(
                    std::popcount(splits[s].texels(1)[word] ^ masks[lane][word]));
            apart = std::min(apart, static_cast<unsigned>(count) - apart);
            std::uint32_t next = apart << 16 | static_cast<std::uint32_t>(s);
            if (next >= nearest[wanted - 1])
                continue;
            for (std::size_t k = 0; k < wanted; ++k)
                if (next < nearest[k])
                    std::swap(next, nearest[k]);
        }
        for (std::size_t k = 0; k < wanted; ++k)
            numbers[k][lane] = static_cast<float>(nearest[k] & 0xFFFFU);
    }
    for (std::size_t k = 0; k < wanted; ++k)
        chosen[k] = hn::Load(Floats(), numbers[k]);
}

}  // namespace yl::astc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
