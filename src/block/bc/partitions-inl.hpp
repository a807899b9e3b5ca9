// Which partitions suit a block, estimated before any is fitted.

#if defined(YL_BLOCK_BC_PARTITIONS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_BC_PARTITIONS_INL_HPP
#undef YL_BLOCK_BC_PARTITIONS_INL_HPP
#else
#define YL_BLOCK_BC_PARTITIONS_INL_HPP
#endif

#include "block/bc/lines-inl.hpp"
#include "block/bc/partitions.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

/// The few best partitions of each lane, the best one first.
template <std::size_t count>
struct Ranking {
    F estimate[count];
    I partition[count];

    YL_SIMD_INLINE void clear() {
        for (std::size_t i = 0; i < count; ++i) {
            estimate[i] = set(never);
            partition[i] = set_int(0);
        }
    }
    YL_SIMD_INLINE void add(F value, std::size_t number_of_partition, std::size_t used) {
        I which = set_int(static_cast<std::int32_t>(number_of_partition));
        for (std::size_t i = 0; i < used; ++i) {
            const Mask better = value < estimate[i];
            const F moved = if_then_else(better, estimate[i], value);
            const I moved_partition = if_then_else(better, partition[i], which);
            update_where(better, value, estimate[i]);
            update_where(better, which, partition[i]);
            value = moved;
            which = moved_partition;
        }
    }
};

/// Weight, weighted colour and its products, of a texel or summed over some.
template <std::size_t channels>
struct Moments {
    static constexpr std::size_t products = channels * (channels + 1) / 2;
    F value[1 + channels + products];

    YL_SIMD_INLINE void clear() {
        for (F& v : value)
            v = zero();
    }
    YL_SIMD_INLINE void add(const Moments& other) {
        for (std::size_t i = 0; i < 1 + channels + products; ++i)
            value[i] = value[i] + other.value[i];
    }
    YL_SIMD_INLINE void subtract(const Moments& other) {
        for (std::size_t i = 0; i < 1 + channels + products; ++i)
            value[i] = value[i] - other.value[i];
    }
};

/// The squared error that is left when the texels lie on the best line, in steps of an index of
/// `bits`: what lies beside the line, and the rounding along it.
template <std::size_t channels, unsigned bits>
YL_SIMD_INLINE F estimated_error(const Moments<channels>& moments) {
    const F inverse = inverse_or_zero(moments.value[0]);
    Covariance<channels> covariance;
    for (std::size_t row = 0, at = 0; row < channels; ++row) {
        const F mean = moments.value[1 + row] * inverse;
        for (std::size_t column = row; column < channels; ++column, ++at)
            covariance.entry[at] =
                moments.value[1 + channels + at] - mean * moments.value[1 + column];
    }
    const Axis<channels> axis = times(covariance, first_guess(covariance));
    constexpr float steps = static_cast<float>((1U << bits) - 1);
    constexpr float explained_share = 1.0F - 1.0F / (steps * steps);
    return hn::Max(covariance.trace() - explained(covariance, axis) * set(explained_share), zero());
}

template <std::size_t channels>
struct BlockMoments {
    Moments<channels> texel[texels_of_block];
    Moments<channels> all;

    YL_SIMD_INLINE explicit BlockMoments(const Texels& texels) {
        F mean[channels], root[channels];
        for (std::size_t c = 0; c < channels; ++c) {
            mean[c] = zero();
            for (std::size_t i = 0; i < texels_of_block; ++i)
                mean[c] = mean[c] + texels.color[c][i];
            mean[c] = mean[c] * set(1.0F / texels_of_block);
            root[c] = hn::Sqrt(texels.channel_weight[c]);
        }
        all.clear();
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            F off[channels];
            F* value = texel[i].value;
            value[0] = fit_weight(texels, i);
            for (std::size_t c = 0; c < channels; ++c) {
                off[c] = (texels.color[c][i] - mean[c]) * root[c];
                value[1 + c] = off[c] * value[0];
            }
            for (std::size_t row = 0, at = 1 + channels; row < channels; ++row)
                for (std::size_t column = row; column < channels; ++column, ++at)
                    value[at] = value[1 + row] * off[column];
            all.add(texel[i]);
        }
    }
};

/// Ranks the first `partitions` of two subsets.
template <std::size_t channels, unsigned bits, std::size_t count>
HWY_NOINLINE void rank_two(const BlockMoments<channels>& block, std::size_t partitions,
                           std::size_t used, Ranking<count>& ranking) {
    for (std::size_t p = 0; p < partitions; ++p) {
        Moments<channels> second;
        second.clear();
        for (std::uint32_t bits_left = two_subsets[p], i = 0; bits_left != 0; bits_left >>= 1, ++i)
            if ((bits_left & 1U) != 0)
                second.add(block.texel[i]);
        Moments<channels> first = block.all;
        first.subtract(second);
        ranking.add(
            estimated_error<channels, bits>(first) + estimated_error<channels, bits>(second), p,
            used);
    }
}

/// Ranks the first `partitions` of three subsets.
template <std::size_t channels, unsigned bits, std::size_t count>
HWY_NOINLINE void rank_three(const BlockMoments<channels>& block, std::size_t partitions,
                             std::size_t used, Ranking<count>& ranking) {
    for (std::size_t p = 0; p < partitions; ++p) {
        Moments<channels> second, third;
        second.clear();
        third.clear();
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            const std::uint32_t subset = three_subsets[p] >> 2 * i & 3U;
            if (subset == 1)
                second.add(block.texel[i]);
            else if (subset == 2)
                third.add(block.texel[i]);
        }
        Moments<channels> first = block.all;
        first.subtract(second);
        first.subtract(third);
        ranking.add(estimated_error<channels, bits>(first) +
                        estimated_error<channels, bits>(second) +
                        estimated_error<channels, bits>(third),
                    p, used);
    }
}

/// The subsets of partitions that differ from lane to lane.
YL_SIMD_INLINE Subsets subsets_of_two(I partition) {
    static constexpr auto table = [] {
        std::array<std::int32_t, partition_count> wide{};
        for (std::size_t i = 0; i < wide.size(); ++i)
            wide[i] = two_subsets[i];
        return wide;
    }();
    return {hn::GatherIndex(Ints(), table.data(), partition), set_int(0)};
}

YL_SIMD_INLINE Subsets subsets_of_three(I partition) {
    static constexpr auto bits_of = [](std::uint32_t subset) {
        std::array<std::int32_t, partition_count> bits{};
        for (std::size_t p = 0; p < bits.size(); ++p)
            for (std::uint32_t i = 0; i < texels_of_block; ++i)
                if ((three_subsets[p] >> 2 * i & 3U) == subset)
                    bits[p] |= std::int32_t{1} << i;
        return bits;
    };
    static constexpr auto second = bits_of(1);
    static constexpr auto third = bits_of(2);
    return {hn::GatherIndex(Ints(), second.data(), partition),
            hn::GatherIndex(Ints(), third.data(), partition)};
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
