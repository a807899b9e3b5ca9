#include "codec/jpeg/jpeg_simd.hpp"

#include <algorithm>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "codec/jpeg/jpeg_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::jpeg::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

// Sums of neighbouring products exist in this order on x86 alone.
#if HWY_ARCH_X86 && HWY_TARGET != HWY_SCALAR && HWY_TARGET != HWY_EMU128

constexpr int constant_bits = 13;

/// The transform's constants, with 13 bits behind the point, as in the plain twin.
constexpr int fixed(double constant) {
    return static_cast<int>(constant * (1 << constant_bits) + 0.5);
}

/// Several blocks side by side: each lies in 128 bits of a vector, and no step mixes these.
template <std::size_t blocks>
struct Transform {
    static constexpr hn::FixedTag<std::int16_t, 8 * blocks> rows{};
    static constexpr hn::FixedTag<std::int32_t, 4 * blocks> sums{};
    using Row = hn::Vec<decltype(rows)>;
    using Sum = hn::Vec<decltype(sums)>;

    /// Eight sums of 32 bits for each block.
    struct Wide {
        Sum low, high;
        HWY_INLINE Wide plus(Wide b) const { return {hn::Add(low, b.low), hn::Add(high, b.high)}; }
        HWY_INLINE Wide minus(Wide b) const { return {hn::Sub(low, b.low), hn::Sub(high, b.high)}; }
    };

    /// Two rows, of which several sums of products are made.
    struct RowPair {
        Row low, high;

        HWY_INLINE RowPair(Row a, Row b)
            : low(hn::InterleaveLower(rows, a, b)), high(hn::InterleaveUpper(rows, a, b)) {}

        /// a * of_a + b * of_b
        HWY_INLINE Wide times(int of_a, int of_b) const {
            const auto both = static_cast<std::uint32_t>(of_b) << 16 |
                              (static_cast<std::uint32_t>(of_a) & 0xFFFFU);
            const Row factors = hn::BitCast(rows, hn::Set(sums, static_cast<std::int32_t>(both)));
            const Sum zero = hn::Zero(sums);
            Sum nothing = zero;
            return {hn::ReorderWidenMulAccumulate(sums, low, factors, zero, nothing),
                    hn::ReorderWidenMulAccumulate(sums, high, factors, zero, nothing)};
        }
    };

    /// A row times 2^13, with something added.
    static HWY_INLINE Wide scaled(Row row, Sum rounding) {
        const Row zero = hn::Zero(rows);
        const Sum low = hn::BitCast(sums, hn::InterleaveLower(rows, zero, row));
        const Sum high = hn::BitCast(sums, hn::InterleaveUpper(rows, zero, row));
        return {hn::Add(hn::ShiftRight<16 - constant_bits>(low), rounding),
                hn::Add(hn::ShiftRight<16 - constant_bits>(high), rounding)};
    }

    template <int shift>
    static HWY_INLINE Row narrowed(Wide wide) {
        return hn::ReorderDemote2To(rows, hn::ShiftRight<shift>(wide.low),
                                    hn::ShiftRight<shift>(wide.high));
    }

    /// All columns at once, as in the plain twin, with its products regrouped: whole numbers add
    /// up to the same in any order.
    template <int shift>
    static HWY_INLINE void columns(Row (&r)[8]) {
        const Sum rounding = hn::Set(sums, 1 << (shift - 1));
        const RowPair evens(r[2], r[6]);
        constexpr int rotation = fixed(0.541196100);
        const Wide even_a = evens.times(rotation, rotation - fixed(1.847759065));
        const Wide even_b = evens.times(rotation + fixed(0.765366865), rotation);
        const Wide sum = scaled(hn::Add(r[0], r[4]), rounding);
        const Wide difference = scaled(hn::Sub(r[0], r[4]), rounding);
        const Wide even[4] = {sum.plus(even_b), difference.plus(even_a), difference.minus(even_a),
                              sum.minus(even_b)};

        const RowPair crossed(hn::Add(r[7], r[3]), hn::Add(r[5], r[1]));
        constexpr int both = fixed(1.175875602);
        const Wide ac = crossed.times(both - fixed(1.961570560), both);
        const Wide bd = crossed.times(both, both - fixed(0.390180644));
        const RowPair outer(r[7], r[1]);
        const RowPair inner(r[5], r[3]);
        constexpr int ad = -fixed(0.899976223);
        constexpr int bc = -fixed(2.562915447);
        const Wide odd[4] = {outer.times(ad, fixed(1.501321110) + ad).plus(bd),
                             inner.times(bc, fixed(3.072711026) + bc).plus(ac),
                             inner.times(fixed(2.053119869) + bc, bc).plus(bd),
                             outer.times(fixed(0.298631336) + ad, ad).plus(ac)};
        for (int i = 0; i < 4; ++i) {
            r[i] = narrowed<shift>(even[i].plus(odd[i]));
            r[7 - i] = narrowed<shift>(even[i].minus(odd[i]));
        }
    }

    /// Each shuffle turns the bits of an element's place, row and column together, by one; three
    /// turns exchange row and column.
    static HWY_INLINE void transpose(Row (&r)[8]) {
        for (int round = 0; round < 3; ++round) {
            Row turned[8];
            for (int i = 0; i < 4; ++i) {
                turned[2 * i] = hn::InterleaveLower(rows, r[i], r[i + 4]);
                turned[2 * i + 1] = hn::InterleaveUpper(rows, r[i], r[i + 4]);
            }
            std::copy(turned, turned + 8, r);
        }
    }

    static HWY_INLINE Row clamped(Row row, std::int16_t most) {
        return hn::Min(hn::Max(row, hn::Set(rows, static_cast<std::int16_t>(-most))),
                       hn::Set(rows, most));
    }

    /// Products of damaged files are clamped instead of wrapping.
    static HWY_INLINE Row dequantized(Row coefficients, Row steps) {
        const Row low = hn::Mul(coefficients, steps);
        const Row high = hn::MulHigh(coefficients, steps);
        const Row product =
            hn::ReorderDemote2To(rows, hn::BitCast(sums, hn::InterleaveLower(rows, low, high)),
                                 hn::BitCast(sums, hn::InterleaveUpper(rows, low, high)));
        return clamped(product, 1 << 11);
    }

    /// Eight numbers for each block, those of a block `stride` behind those of the one before.
    static HWY_INLINE Row load_row(const std::int16_t* numbers, std::size_t stride) {
        if constexpr (blocks == 1) {
            return hn::LoadU(rows, numbers);
        } else {
            using Half = Transform<blocks / 2>;
            return hn::Combine(rows, Half::load_row(numbers + blocks / 2 * stride, stride),
                               Half::load_row(numbers, stride));
        }
    }

    static HWY_INLINE bool are_flat(const Row (&r)[8]) {
        Row rest = hn::ShiftRightBytes<2>(rows, r[0]);
        for (int y = 1; y < 8; ++y)
            rest = hn::Or(rest, r[y]);
        return hn::AllTrue(rows, hn::Eq(rest, hn::Zero(rows)));
    }

    static HWY_INLINE void fill_flat(const Block* block, const Scales& scales,
                                     std::uint8_t* samples, std::size_t stride) {
        const hn::FixedTag<std::uint8_t, 8> bytes;
        for (std::size_t i = 0; i < blocks; ++i) {
            const int value = std::clamp(((block[i][0] * scales.exact[0] + 4) >> 3) + 128, 0, 255);
            for (std::size_t y = 0; y < block_side; ++y)
                hn::StoreU(hn::Set(bytes, static_cast<std::uint8_t>(value)), bytes,
                           samples + y * stride + i * block_side);
        }
    }

    static HWY_INLINE void run(const Block* block, const Scales& scales, std::uint8_t* samples,
                               std::size_t stride) {
        const hn::FixedTag<std::uint8_t, 8 * blocks> bytes;
        Row r[8];
        for (std::size_t y = 0; y < 8; ++y)
            r[y] = load_row(block->data() + 8 * y, block_size);
        if (are_flat(r))
            return fill_flat(block, scales, samples, stride);
        for (std::size_t y = 0; y < 8; ++y)
            r[y] = dequantized(r[y], load_row(scales.narrow.data() + 8 * y, 0));
        columns<constant_bits - 2>(r);
        for (Row& row : r)
            row = clamped(row, 15000);
        transpose(r);
        columns<constant_bits + 2 + 3>(r);
        transpose(r);
        for (std::size_t y = 0; y < 8; ++y)
            hn::StoreU(hn::DemoteTo(bytes, hn::SaturatedAdd(r[y], hn::Set(rows, 128))), bytes,
                       samples + y * stride);
    }
};

void transform_blocks(const Block* blocks, std::size_t count, const Scales& scales,
                      std::uint8_t* samples, std::size_t stride) {
    std::size_t i = 0;
#if HWY_TARGET <= HWY_AVX3  // vectors of four blocks
    for (; i + 4 <= count; i += 4)
        Transform<4>::run(blocks + i, scales, samples + i * block_side, stride);
#endif
#if HWY_TARGET <= HWY_AVX2  // of two
    for (; i + 2 <= count; i += 2)
        Transform<2>::run(blocks + i, scales, samples + i * block_side, stride);
#endif
    for (; i < count; ++i)
        Transform<1>::run(blocks + i, scales, samples + i * block_side, stride);
}

/// Gives the number of pixels done.
template <std::uint32_t channels>
HWY_INLINE std::uint32_t ycc_to_pixels(const std::uint8_t* const* rows, std::uint32_t width,
                                       std::uint8_t* pixels) {
    const hn::ScalableTag<std::int16_t> d16;
    const hn::Rebind<std::uint8_t, decltype(d16)> d8;
    const hn::RepartitionToWide<decltype(d16)> d32;
    const hn::Rebind<std::uint16_t, decltype(d16)> du16;
    const auto n = static_cast<std::uint32_t>(hn::Lanes(d16));
    const auto middle = hn::Set(d16, 128);
    const auto opaque = hn::Set(d8, 255);
    // (a * factor + 2^15) >> 16
    const auto times = [&](auto a, std::int16_t factor) HWY_ATTR {
        const auto b = hn::Set(d16, factor);
        const auto half = hn::ShiftRight<15>(hn::BitCast(du16, hn::Mul(a, b)));
        return hn::Add(hn::MulHigh(a, b), hn::BitCast(d16, half));
    };
    // The constants are those of the plain twin, less whole multiples of 2^16.
    const auto green_factors =
        hn::BitCast(d16, hn::Set(d32, (65536 - 46802) * 65536 + (-22554 & 0xFFFF)));
    const auto green_of = [&](auto pairs) HWY_ATTR {
        auto nothing = hn::Zero(d32);
        const auto sum =
            hn::ReorderWidenMulAccumulate(d32, pairs, green_factors, hn::Set(d32, 32768), nothing);
        return hn::ShiftRight<16>(sum);
    };
    std::uint32_t x = 0;
    for (; x + n <= width; x += n) {
        const auto light = hn::PromoteTo(d16, hn::LoadU(d8, rows[0] + x));
        const auto blue = hn::Sub(hn::PromoteTo(d16, hn::LoadU(d8, rows[1] + x)), middle);
        const auto red = hn::Sub(hn::PromoteTo(d16, hn::LoadU(d8, rows[2] + x)), middle);
        const auto green = hn::ReorderDemote2To(d16, green_of(hn::InterleaveLower(d16, blue, red)),
                                                green_of(hn::InterleaveUpper(d16, blue, red)));
        const auto r = hn::Add(hn::Add(light, red), times(red, 91881 - 65536));
        const auto g = hn::Add(hn::Sub(light, red), green);
        const auto b = hn::Add(hn::Add(light, hn::Add(blue, blue)), times(blue, 116130 - 131072));
        if constexpr (channels == 4)
            hn::StoreInterleaved4(hn::DemoteTo(d8, r), hn::DemoteTo(d8, g), hn::DemoteTo(d8, b),
                                  opaque, d8, pixels + std::size_t{x} * 4);
        else
            hn::StoreInterleaved3(hn::DemoteTo(d8, r), hn::DemoteTo(d8, g), hn::DemoteTo(d8, b), d8,
                                  pixels + std::size_t{x} * 3);
    }
    return x;
}

#else

void transform_blocks(const Block* blocks, std::size_t count, const Scales& scales,
                      std::uint8_t* samples, std::size_t stride) {
    for (std::size_t i = 0; i < count; ++i)
        inverse_dct(blocks[i], scales, 8, samples + i * block_side, stride);
}

template <std::uint32_t channels>
std::uint32_t ycc_to_pixels(const std::uint8_t* const*, std::uint32_t, std::uint8_t*) {
    return 0;
}

#endif

void convert(const ColorPlan& plan, const std::uint8_t* const* rows, std::uint32_t width,
             std::uint8_t* pixels) {
    std::uint32_t done = 0;
    if (plan.model == ColorModel::ycc)
        done = plan.channels == 4 ? ycc_to_pixels<4>(rows, width, pixels)
                                  : ycc_to_pixels<3>(rows, width, pixels);
    const bool has_four = plan.model == ColorModel::cmyk || plan.model == ColorModel::ycck;
    const std::size_t row_count = plan.model == ColorModel::gray ? 1 : has_four ? 4 : 3;
    const std::uint8_t* rest[4] = {};
    for (std::size_t i = 0; i < row_count; ++i)
        rest[i] = rows[i] + done;
    convert_row(plan, rest, width - done, pixels + std::size_t{done} * plan.channels);
}

/// Gives the number of samples done.
template <int scale_bits>
HWY_INLINE std::uint32_t double_samples(const std::uint16_t* samples, std::uint32_t count,
                                        std::uint8_t* row) {
    const hn::ScalableTag<std::uint16_t> d16;
    const hn::ScalableTag<std::int16_t> signed16;
    const hn::Rebind<std::uint8_t, decltype(d16)> d8;
    const auto n = static_cast<std::uint32_t>(hn::Lanes(d16));
    constexpr int half = 2 << scale_bits;
    const auto left_rounding = hn::Set(d16, scale_bits == 0 ? half - 1 : half);
    const auto right_rounding = hn::Set(d16, scale_bits == 0 ? half : half - 1);
    const auto narrow = [&](auto sum) HWY_ATTR {
        return hn::DemoteTo(d8, hn::BitCast(signed16, hn::ShiftRight<scale_bits + 2>(sum)));
    };
    std::uint32_t x = 0;
    for (; x + n <= count; x += n) {
        const auto own = hn::LoadU(d16, samples + x);
        const auto three = hn::Add(own, hn::Add(own, own));
        const auto left = hn::Add(hn::LoadU(d16, samples + x - 1), left_rounding);
        const auto right = hn::Add(hn::LoadU(d16, samples + x + 1), right_rounding);
        hn::StoreInterleaved2(narrow(hn::Add(three, left)), narrow(hn::Add(three, right)), d8,
                              row + std::size_t{x} * 2);
    }
    return x;
}

void double_a_row(const std::uint16_t* samples, std::uint32_t count, int scale, std::uint8_t* row) {
    const std::uint32_t done = scale == 4 ? double_samples<2>(samples, count, row)
                                          : double_samples<0>(samples, count, row);
    double_row(samples + done, count - done, scale, row + std::size_t{done} * 2);
}

}  // namespace yl::jpeg::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::jpeg {

HWY_EXPORT(transform_blocks);
HWY_EXPORT(double_a_row);
HWY_EXPORT(convert);

void inverse_dct_simd(const Block* blocks, std::size_t count, const Scales& scales,
                      std::uint8_t* samples, std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(transform_blocks)(blocks, count, scales, samples, stride);
}

void double_row_simd(const std::uint16_t* samples, std::uint32_t count, int scale,
                     std::uint8_t* row) {
    HWY_DYNAMIC_DISPATCH(double_a_row)(samples, count, scale, row);
}

void convert_row_simd(const ColorPlan& plan, const std::uint8_t* const* rows, std::uint32_t width,
                      std::uint8_t* pixels) {
    HWY_DYNAMIC_DISPATCH(convert)(plan, rows, width, pixels);
}

}  // namespace yl::jpeg
#endif
