#include "codec/webp/transforms.hpp"

#include <algorithm>

#include "codec/webp/predictors.hpp"

namespace yl::webp {
namespace {

template <unsigned mode>
void add_prediction(Pixel* row, const Pixel* above, std::uint32_t count) {
    for (std::uint32_t x = 0; x < count; ++x)
        row[x] = sum(row[x], prediction(mode, (row + x)[-1], above + x));
}

using Adder = void (*)(Pixel*, const Pixel*, std::uint32_t);
constexpr Adder adders[16] = {
    add_prediction<0>,  add_prediction<1>,  add_prediction<2>,  add_prediction<3>,
    add_prediction<4>,  add_prediction<5>,  add_prediction<6>,  add_prediction<7>,
    add_prediction<8>,  add_prediction<9>,  add_prediction<10>, add_prediction<11>,
    add_prediction<12>, add_prediction<13>, add_prediction<0>,  add_prediction<0>,
};

/// The row above is followed by this row's first pixel, which the last one sees at its top right.
void undo_predictor(Transform& transform, std::uint32_t y, std::span<Pixel> row) {
    const auto width = static_cast<std::uint32_t>(row.size());
    transform.above.resize(std::size_t{width} + 1);
    Pixel* above = transform.above.data();
    if (y == 0) {
        row[0] = sum(row[0], opaque_black);
        add_prediction<1>(row.data() + 1, above + 1, width - 1);
    } else {
        row[0] = sum(row[0], above[0]);
        above[width] = row[0];
        const Pixel* modes = transform.data.data() +
                             std::size_t{y >> transform.bits} * blocks_over(width, transform.bits);
        const std::uint32_t side = 1U << transform.bits;
        for (std::uint32_t x = 1; x < width;) {
            const std::uint32_t end = std::min((x & ~(side - 1)) + side, width);
            adders[modes[x >> transform.bits] >> 8U & 15U](row.data() + x, above + x, end - x);
            x = end;
        }
    }
    std::copy(row.begin(), row.end(), above);
}

void undo_color(const Transform& transform, std::uint32_t y, std::span<Pixel> row) {
    const auto width = static_cast<std::uint32_t>(row.size());
    const Pixel* blocks = transform.data.data() +
                          std::size_t{y >> transform.bits} * blocks_over(width, transform.bits);
    const std::uint32_t side = 1U << transform.bits;
    for (std::uint32_t begin = 0; begin < width; begin += side) {
        const Pixel block = *blocks++;
        const std::uint32_t end = std::min(begin + side, width);
        for (std::uint32_t x = begin; x < end; ++x) {
            const Pixel pixel = row[x];
            const Pixel green = pixel >> 8U;
            const Pixel red = ((pixel >> 16U) + share(block, green)) & 255U;
            const Pixel blue =
                (pixel + share(block >> 8U, green) + share(block >> 16U, red)) & 255U;
            row[x] = (pixel & alpha_green) | red << 16U | blue;
        }
    }
}

void add_green(std::span<Pixel> row) {
    for (Pixel& pixel : row) {
        const Pixel green = pixel >> 8U & 255U;
        pixel = sum(pixel, green << 16U | green);
    }
}

/// From the end, so that indices are read before pixels take their place.
void look_up(const Transform& transform, std::span<Pixel> row) {
    const unsigned index_bits = 8U >> transform.bits;
    const std::uint32_t mask = (1U << index_bits) - 1;
    const std::size_t packed_mask = (std::size_t{1} << transform.bits) - 1;
    for (std::size_t x = row.size(); x-- > 0;) {
        const Pixel packed = row[x >> transform.bits] >> 8U;
        const std::uint32_t index =
            packed >> (static_cast<unsigned>(x & packed_mask) * index_bits) & mask;
        row[x] = index < transform.data.size() ? transform.data[index] : 0;
    }
}

}  // namespace

void undo_transform(Transform& transform, std::uint32_t y, std::span<std::uint32_t> row) {
    switch (transform.kind) {
        case TransformKind::predictor:
            undo_predictor(transform, y, row);
            break;
        case TransformKind::color:
            undo_color(transform, y, row);
            break;
        case TransformKind::subtract_green:
            add_green(row);
            break;
        case TransformKind::palette:
            look_up(transform, row);
            break;
    }
}

}  // namespace yl::webp
