#include "resample/weights.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yl {
namespace {

double sinc(double x) {
    const double angle = std::numbers::pi * x;
    return std::abs(angle) < 1e-8 ? 1.0 : std::sin(angle) / angle;
}

/// The modified Bessel function of the first kind and order 0, by its power series.
double bessel_i0(double x) {
    double sum = 1, term = 1;
    for (int k = 1; term > 1e-15 * sum; ++k) {
        term *= (x / (2 * k)) * (x / (2 * k));
        sum += term;
    }
    return sum;
}

/// Mitchell and Netravali, "Reconstruction Filters in Computer Graphics", 1988, equation 8.
double cubic(double x, double b, double c) {
    if (x < 1)
        return ((12 - 9 * b - 6 * c) * x * x * x + (-18 + 12 * b + 6 * c) * x * x + 6 - 2 * b) / 6;
    return ((-b - 6 * c) * x * x * x + (6 * b + 30 * c) * x * x + (-12 * b - 48 * c) * x + 8 * b +
            24 * c) /
           6;
}

/// Kaiser's window (Kuo and Kaiser, "System Analysis by Digital Computer", 1966).
double kaiser_window(double x, double radius, double shape) {
    const double place = x / radius;
    return bessel_i0(shape * std::sqrt(std::max(0.0, 1 - place * place))) / bessel_i0(shape);
}

double kernel_at(const Kernel& kernel, double x) {
    const double distance = std::abs(x);
    const auto radius = static_cast<double>(kernel.radius);
    if (distance >= kernel.reach())
        return 0;
    switch (kernel.kind) {
        case Kernel::Kind::box:
            return 1;
        case Kernel::Kind::triangle:
            return 1 - distance;
        case Kernel::Kind::cubic:
            return cubic(distance, static_cast<double>(kernel.b), static_cast<double>(kernel.c));
        case Kernel::Kind::lanczos:
            return sinc(distance) * sinc(distance / radius);
        case Kernel::Kind::kaiser:
            return sinc(distance) *
                   kaiser_window(distance, radius, static_cast<double>(kernel.shape));
    }
    return 0;
}

/// Weights of consecutive texels, which may lie beyond the ends.
struct Taps {
    std::int64_t first = 0;
    std::vector<double> weights = {};
};

/// Target texel i covers the source from i * source / target to (i + 1) * source / target.
Taps box_taps(std::uint32_t i, std::uint32_t source, std::uint32_t target) {
    // In units of 1 / target of a source texel all borders are whole numbers.
    const std::uint64_t begin = std::uint64_t{i} * source;
    const std::uint64_t end = begin + source;
    const CoveredTexels print = covered_texels(i, source, target);
    Taps taps{print.begin, {}};
    for (std::uint64_t texel = print.begin; texel < print.end; ++texel) {
        const std::uint64_t covered =
            std::min(end, (texel + 1) * target) - std::max(begin, texel * target);
        taps.weights.push_back(static_cast<double>(covered) / source);
    }
    return taps;
}

Taps kernel_taps(const Kernel& kernel, std::uint32_t i, std::uint32_t source,
                 std::uint32_t target) {
    const double ratio = static_cast<double>(source) / target;
    const double scale = std::max(ratio, 1.0);
    const double middle = (i + 0.5) * ratio;
    const double reach = kernel.reach() * scale;
    const auto first = static_cast<std::int64_t>(std::ceil(middle - reach - 0.5));
    const auto last = static_cast<std::int64_t>(std::floor(middle + reach - 0.5));
    Taps taps{first, {}};
    double sum = 0;
    for (std::int64_t texel = first; texel <= last; ++texel) {
        taps.weights.push_back(
            kernel_at(kernel, (static_cast<double>(texel) + 0.5 - middle) / scale));
        sum += taps.weights.back();
    }
    for (double& weight : taps.weights)
        weight /= sum;
    return taps;
}

Taps fold(const Taps& taps, Edge edge, std::uint32_t source) {
    if (edge == Edge::repeat)
        return taps;
    std::int64_t first = source, last = 0;
    for (std::size_t t = 0; t < taps.weights.size(); ++t) {
        const std::int64_t place =
            folded_place(taps.first + static_cast<std::int64_t>(t), edge, source);
        first = std::min(first, place);
        last = std::max(last, place);
    }
    Taps result{first, std::vector<double>(static_cast<std::size_t>(last - first + 1))};
    for (std::size_t t = 0; t < taps.weights.size(); ++t) {
        const std::int64_t place =
            folded_place(taps.first + static_cast<std::int64_t>(t), edge, source);
        result.weights[static_cast<std::size_t>(place - first)] += taps.weights[t];
    }
    return result;
}

bool are_alike(const AxisWeights& axis, std::uint32_t left) {
    return axis.first[left + 1] == axis.first[left] + 2 &&
           std::equal(axis.of(left), axis.of(left) + axis.taps, axis.of(left + 1));
}

void find_alike(AxisWeights& axis) {
    const std::uint32_t middle = axis.size() / 2;
    axis.alike_begin = middle;
    axis.alike_end = middle + 1;
    while (axis.alike_begin > 0 && are_alike(axis, axis.alike_begin - 1))
        --axis.alike_begin;
    while (axis.alike_end < axis.size() && are_alike(axis, axis.alike_end - 1))
        ++axis.alike_end;
}

}  // namespace

std::int64_t folded_place(std::int64_t place, Edge edge, std::int64_t size) {
    if (edge == Edge::clamp)
        return std::clamp<std::int64_t>(place, 0, size - 1);
    const std::int64_t round = edge == Edge::repeat ? size : 2 * size;
    const std::int64_t within = ((place % round) + round) % round;
    return within < size ? within : round - 1 - within;
}

CoveredTexels covered_texels(std::uint32_t i, std::uint32_t source, std::uint32_t target) {
    const std::uint64_t begin = std::uint64_t{i} * source;
    return {static_cast<std::uint32_t>(begin / target),
            static_cast<std::uint32_t>((begin + source + target - 1) / target)};
}

AxisWeights axis_weights(const Kernel& kernel, Edge edge, std::uint32_t source,
                         std::uint32_t target) {
    std::vector<Taps> all;
    AxisWeights axis{.source = source};
    for (std::uint32_t i = 0; i < target; ++i) {
        all.push_back(kernel.kind == Kernel::Kind::box
                          ? box_taps(i, source, target)
                          : fold(kernel_taps(kernel, i, source, target), edge, source));
        axis.taps = std::max(axis.taps, static_cast<std::uint32_t>(all.back().weights.size()));
    }
    axis.weights.resize(std::size_t{target} * axis.taps);
    for (std::uint32_t i = 0; i < target; ++i) {
        const Taps& taps = all[i];
        // Where there are fewer taps than elsewhere, the others weigh nothing; none may lie beyond
        // an end that is not repeated.
        std::int64_t first = taps.first;
        if (edge != Edge::repeat || kernel.kind == Kernel::Kind::box)
            first = std::min<std::int64_t>(first, std::int64_t{source} - axis.taps);
        const auto shift = static_cast<std::size_t>(taps.first - first);
        for (std::size_t t = 0; t < taps.weights.size(); ++t)
            axis.weights[std::size_t{i} * axis.taps + shift + t] =
                static_cast<float>(taps.weights[t]);
        axis.first.push_back(static_cast<std::int32_t>(first));
        const std::int64_t end = first + axis.taps;
        axis.before =
            std::max(axis.before, static_cast<std::uint32_t>(std::max<std::int64_t>(-first, 0)));
        axis.behind = std::max(axis.behind,
                               static_cast<std::uint32_t>(std::max<std::int64_t>(end - source, 0)));
    }
    axis.is_halving = kernel.kind == Kernel::Kind::box && source == 2 * target;
    find_alike(axis);
    return axis;
}

}  // namespace yl
