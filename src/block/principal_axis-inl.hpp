// The line along which the colours of each lane's block spread most.

#if defined(YL_BLOCK_PRINCIPAL_AXIS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_PRINCIPAL_AXIS_INL_HPP
#undef YL_BLOCK_PRINCIPAL_AXIS_INL_HPP
#else
#define YL_BLOCK_PRINCIPAL_AXIS_INL_HPP
#endif

#include "block/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::simd::HWY_NAMESPACE {

/// A symmetric matrix: products of channels, summed over texels. Row by row from the diagonal on.
template <std::size_t channels>
struct Covariance {
    F entry[channels * (channels + 1) / 2];

    static constexpr std::size_t place(std::size_t row, std::size_t column) {
        const std::size_t low = row < column ? row : column;
        const std::size_t high = row < column ? column : row;
        return low * channels - low * (low + 1) / 2 + high;
    }
    YL_SIMD_INLINE F at(std::size_t row, std::size_t column) const {
        return entry[place(row, column)];
    }
    YL_SIMD_INLINE F trace() const {
        F sum = at(0, 0);
        for (std::size_t i = 1; i < channels; ++i)
            sum = sum + at(i, i);
        return sum;
    }
};

template <std::size_t channels>
struct Axis {
    F direction[channels];
};

template <std::size_t channels>
YL_SIMD_INLINE Axis<channels> times(const Covariance<channels>& matrix,
                                    const Axis<channels>& axis) {
    Axis<channels> product;
    for (std::size_t row = 0; row < channels; ++row) {
        F sum = matrix.at(row, 0) * axis.direction[0];
        for (std::size_t column = 1; column < channels; ++column)
            sum = sum + matrix.at(row, column) * axis.direction[column];
        product.direction[row] = sum;
    }
    return product;
}

template <std::size_t channels>
YL_SIMD_INLINE F dot(const Axis<channels>& a, const Axis<channels>& b) {
    F sum = a.direction[0] * b.direction[0];
    for (std::size_t i = 1; i < channels; ++i)
        sum = sum + a.direction[i] * b.direction[i];
    return sum;
}

/// The row of the channel that varies most: never at right angles to the axis sought.
template <std::size_t channels>
YL_SIMD_INLINE Axis<channels> first_guess(const Covariance<channels>& matrix) {
    Axis<channels> axis;
    for (std::size_t i = 0; i < channels; ++i)
        axis.direction[i] = matrix.at(0, i);
    F most = matrix.at(0, 0);
    for (std::size_t row = 1; row < channels; ++row) {
        const Mask more = matrix.at(row, row) > most;
        update_where(more, matrix.at(row, row), most);
        for (std::size_t i = 0; i < channels; ++i)
            update_where(more, matrix.at(row, i), axis.direction[i]);
    }
    return axis;
}

template <std::size_t channels>
YL_SIMD_INLINE void make_unit(Axis<channels>& axis) {
    const F length = hn::Sqrt(dot(axis, axis));
    const F inverse = inverse_or_zero(length);
    for (std::size_t i = 0; i < channels; ++i)
        axis.direction[i] = axis.direction[i] * inverse;
}

/// By power iteration; of length 1, or 0 where all colours are the same.
template <std::size_t channels>
YL_SIMD_INLINE Axis<channels> principal_axis(const Covariance<channels>& matrix, int iterations) {
    Axis<channels> axis = first_guess(matrix);
    make_unit(axis);
    for (int i = 0; i < iterations; ++i) {
        axis = times(matrix, axis);
        make_unit(axis);
    }
    return axis;
}

/// How much of the spread an axis that need not be a unit explains: the Rayleigh quotient.
template <std::size_t channels>
YL_SIMD_INLINE F explained(const Covariance<channels>& matrix, const Axis<channels>& axis) {
    return dot(times(matrix, axis), axis) * inverse_or_zero(dot(axis, axis));
}

}  // namespace yl::simd::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
