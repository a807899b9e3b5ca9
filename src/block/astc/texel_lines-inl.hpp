// Texels of many blocks, and the lines through their colours.

#if defined(YL_BLOCK_ASTC_TEXEL_LINES_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_ASTC_TEXEL_LINES_INL_HPP
#undef YL_BLOCK_ASTC_TEXEL_LINES_INL_HPP
#else
#define YL_BLOCK_ASTC_TEXEL_LINES_INL_HPP
#endif

#include "block/astc/encoder_tables.hpp"
#include "block/principal_axis-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::astc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

constexpr float never = 1e30F;
constexpr float most_weight = 64;
constexpr unsigned most_parts = most_partitions;
constexpr unsigned no_plane = 4;

struct Texels {
    std::size_t count;
    F color[most_texels][4];  ///< times the root of what its channel counts
    F weight[most_texels];    ///< of colours; of alpha too, unless it counts 1 everywhere
    bool alpha_counts_alike = false;
    F root[4], inverse_root[4];
};

/// Lines through the colours of each part, and where its texels lie on them.
struct Fit {
    unsigned parts = 1;
    unsigned plane = no_plane;   ///< channel with weights of its own
    F place[most_texels];        ///< 0 .. 64
    F own_place[most_texels];    ///< of the plane's channel
    F centered[most_texels][4];  ///< colours from their part's mean
    F part[most_texels];         ///< from 0 on
    F total[most_parts][2];      ///< what texels count: in colours, and in alpha
    F mean[most_parts][4];
    F squares[most_parts][4];  ///< of centred colours, summed
};

/// What `value` has for the part of a texel.
template <class Value>
HWY_INLINE F of_part(const Fit& fit, std::size_t i, const Value& value) {
    F result = value(0U);
    for (unsigned part = 1; part < fit.parts; ++part)
        result = if_then_else(fit.part[i] == set(static_cast<float>(part)), value(part), result);
    return result;
}

HWY_INLINE Mask is_in_part(const Fit& fit, std::size_t i, unsigned part) {
    return fit.part[i] == set(static_cast<float>(part));
}

/// What a texel counts in a channel of a part.
HWY_INLINE F share_of(const Texels& texels, const Fit& fit, std::size_t i, unsigned part,
                      bool is_alpha) {
    const F weight = is_alpha && texels.alpha_counts_alike ? set(1.0F) : texels.weight[i];
    return fit.parts == 1 ? weight : hn::IfThenElseZero(is_in_part(fit, i, part), weight);
}

HWY_INLINE void find_means(const Texels& texels, Fit& fit) {
    for (unsigned part = 0; part < fit.parts; ++part) {
        F total[2] = {zero(), zero()}, sum[4] = {zero(), zero(), zero(), zero()};
        for (std::size_t i = 0; i < texels.count; ++i) {
            const F shares[2] = {share_of(texels, fit, i, part, false),
                                 share_of(texels, fit, i, part, true)};
            total[0] = total[0] + shares[0];
            total[1] = total[1] + shares[1];
            for (std::size_t c = 0; c < 4; ++c)
                sum[c] = (shares[c == 3 ? 1 : 0]) * texels.color[i][c] + sum[c];
        }
        for (std::size_t c = 0; c < 4; ++c)
            fit.mean[part][c] = sum[c] * inverse_or_zero(total[c == 3 ? 1 : 0]);
        fit.total[part][0] = total[0];
        fit.total[part][1] = total[1];
    }
    for (std::size_t i = 0; i < texels.count; ++i)
        for (std::size_t c = 0; c < 4; ++c) {
            const F mean = of_part(fit, i, [&](unsigned part) { return fit.mean[part][c]; });
            fit.centered[i][c] = texels.color[i][c] - mean;
        }
}

HWY_INLINE Covariance<4> covariance_of(const Texels& texels, const Fit& fit, unsigned part) {
    Covariance<4> covariance;
    for (F& entry : covariance.entry)
        entry = zero();
    for (std::size_t i = 0; i < texels.count; ++i) {
        for (std::size_t row = 0; row < 4; ++row) {
            const F weighted = share_of(texels, fit, i, part, row == 3) * fit.centered[i][row];
            for (std::size_t column = row; column < 4; ++column) {
                F& entry = covariance.entry[Covariance<4>::place(row, column)];
                entry = weighted * fit.centered[i][column] + entry;
            }
        }
    }
    return covariance;
}

/// Without a channel.
HWY_INLINE Covariance<4> without(Covariance<4> covariance, std::size_t channel) {
    for (std::size_t c = 0; c < 4; ++c)
        covariance.entry[Covariance<4>::place(c, channel)] = zero();
    return covariance;
}

constexpr int axis_rounds = 6;

HWY_INLINE Axis<4> axis_of(const Texels& texels, Fit& fit, unsigned part) {
    Covariance<4> covariance = covariance_of(texels, fit, part);
    for (std::size_t c = 0; c < 4; ++c)
        fit.squares[part][c] = covariance.at(c, c);
    if (fit.plane != no_plane)
        covariance = without(covariance, fit.plane);
    Axis<4> axis = principal_axis(covariance, axis_rounds);
    // Ends of direct colours rise in their sum.
    F sum = zero();
    for (std::size_t c = 0; c < 3; ++c)
        sum = sum + axis.direction[c] * (fit.plane == c ? zero() : set(1.0F));
    const F sign = if_then_else(sum < zero(), set(-1.0F), set(1.0F));
    for (F& direction : axis.direction)
        direction = direction * sign;
    return axis;
}

/// Numbers between the least and the greatest one of each part become 0 .. 64.
HWY_INLINE void stretch(const Texels& texels, const Fit& fit, F* places) {
    F low[most_parts], high[most_parts];
    for (unsigned part = 0; part < fit.parts; ++part) {
        low[part] = set(never);
        high[part] = set(-never);
        for (std::size_t i = 0; i < texels.count; ++i) {
            const Mask in_part = is_in_part(fit, i, part);
            low[part] = if_then_else(in_part, hn::Min(low[part], places[i]), low[part]);
            high[part] = if_then_else(in_part, hn::Max(high[part], places[i]), high[part]);
        }
    }
    F scale[most_parts];
    for (unsigned part = 0; part < fit.parts; ++part)
        scale[part] = set(most_weight) * inverse_or_zero(high[part] - low[part]);
    for (std::size_t i = 0; i < texels.count; ++i) {
        const F from = of_part(fit, i, [&](unsigned part) { return low[part]; });
        const F by = of_part(fit, i, [&](unsigned part) { return scale[part]; });
        places[i] = (places[i] - from) * by;
    }
}

/// Of the parts that `fit` names.
HWY_INLINE void find_lines(const Texels& texels, Fit& fit) {
    find_means(texels, fit);
    Axis<4> axes[most_parts];
    for (unsigned part = 0; part < fit.parts; ++part)
        axes[part] = axis_of(texels, fit, part);
    for (std::size_t i = 0; i < texels.count; ++i) {
        F place = zero();
        for (std::size_t c = 0; c < 4; ++c) {
            const F along = of_part(fit, i, [&](unsigned part) { return axes[part].direction[c]; });
            place = fit.centered[i][c] * along + place;
        }
        fit.place[i] = place;
        if (fit.plane != no_plane)
            fit.own_place[i] = fit.centered[i][fit.plane];
    }
    stretch(texels, fit, fit.place);
    if (fit.plane != no_plane)
        stretch(texels, fit, fit.own_place);
}

}  // namespace yl::astc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
