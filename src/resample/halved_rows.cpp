#include "resample/halved_rows.hpp"

#include <algorithm>

#include "resample/rows_simd.hpp"

namespace yl {
namespace {

constexpr std::size_t line_floats = 16;  // of a cache line

}  // namespace

HalvingWeights HalvingWeights::of(const Kernel& kernel) {
    // A long axis has a texel in its middle whose taps reach over neither end.
    const auto reach = static_cast<std::uint32_t>(kernel.reach()) + 1;
    const std::uint32_t target = 4 * reach + 1;
    const AxisWeights axis = axis_weights(kernel, Edge::repeat, 2 * target, target);
    const float* weights = axis.of(target / 2);
    const std::int64_t first = axis.first[target / 2];
    HalvingWeights result;
    for (std::int64_t place = first; place <= target / 2 * 2; ++place)
        result.outer_to_inner.push_back(weights[place - first]);
    while (result.outer_to_inner.size() > 1 && result.outer_to_inner.front() == 0)
        result.outer_to_inner.erase(result.outer_to_inner.begin());
    return result;
}

HalvingSource::HalvingSource(TexelRows codes, const WorkingFormat& format)
    : codes_(codes),
      curve_(&code_curve(format.format, format.transfer)),
      weigh_(format.weigh_by_alpha) {}

bool HalvingSource::decodes(const WorkingFormat& format) {
    return is_rgba8(info(format.format)) && !format.are_normals;
}

void HalvingSource::take(std::int64_t y) {
    if (rows_ != nullptr)
        row_ = rows_->row(y);
    else
        stored_ = codes_->row(RowSource::wrapped(y, codes_->height));
}

bool HalvingSource::load(std::uint32_t x, std::uint32_t count, float* rgba) const {
    if (rows_ != nullptr) {
        std::copy_n(row_ + std::size_t{x} * 4, std::size_t{count} * 4, rgba);
        return false;
    }
    const bool opaque = decode_codes(stored_ + std::size_t{x} * 4, *curve_, rgba, count);
    if (weigh_ && !opaque)  // opaque texels weigh exactly 1
        weigh_by_alpha(rgba, count);
    return opaque;
}

bool HalvedRows::suits(const Kernel& kernel, std::uint32_t width, std::uint32_t height) {
    return kernel.kind != Kernel::Kind::box && width % 2 == 0 && height % 2 == 0;
}

HalvedRows::HalvedRows(const HalvingSource& source, std::uint32_t width, std::uint32_t height,
                       const HalvingWeights& weights, const Edges& edges, bool limit_ringing,
                       const WorkingFormat& format, RowTarget target)
    : source_(source),
      width_(width),
      height_(height),
      weights_(weights),
      edges_(edges),
      limit_ringing_(limit_ringing),
      format_(format),
      target_(target),
      padding_((weights.side() + 7) / 8 * 8),
      row_floats_(std::size_t{width} / 2 * 4),
      row_(hwy::AllocateAligned<float>(row_floats_)),
      scratch_(hwy::AllocateAligned<float>(row_floats_)) {
    const std::size_t pairs = tile + static_cast<std::size_t>(padding_);
    texels_ = hwy::AllocateAligned<float>(2 * pairs * 4);
    even_ = hwy::AllocateAligned<float>(pairs * 4);
    odd_ = hwy::AllocateAligned<float>(pairs * 4);
    // Mirrored rows lie as far back as the window is high.
    const auto rows = static_cast<std::uint32_t>(2 * weights.side() + 2);
    // One line more, so that the rows of a column do not compete for the same few places of a
    // cache.
    const std::size_t stride = (row_floats_ / line_floats + 2) * line_floats;
    for (Ring* ring : {&blended_, &min_, &max_})
        if (ring == &blended_ || limit_ringing)
            *ring = {rows, stride, hwy::AllocateAligned<float>(rows * stride)};
    opaque_rows_.resize(rows);
    taps_.resize(static_cast<std::size_t>(2 * weights.side()));
}

/// Repeated images go on for ever, and their rows are asked for by such numbers.
std::int64_t HalvedRows::source_row(std::int64_t virtual_row) const {
    return edges_[1] == Edge::repeat ? virtual_row : folded_place(virtual_row, edges_[1], height_);
}

/// The texels of the row from `first` on, also where they lie beyond its ends.
const float* HalvedRows::load_tile(std::int64_t first, std::uint32_t count) {
    const std::int64_t width = width_, end = first + count;
    if (source_.row() != nullptr && first >= 0 && end <= width) {
        row_is_opaque_ = false;
        return source_.row() + first * 4;
    }
    const std::int64_t inner = std::max<std::int64_t>(first, 0);
    const std::int64_t inner_end = std::min(end, width);
    bool opaque = source_.load(static_cast<std::uint32_t>(inner),
                               static_cast<std::uint32_t>(inner_end - inner),
                               &texels_[static_cast<std::size_t>(inner - first) * 4]);
    for (std::int64_t x = first; x < end; ++x) {
        if (x == inner)
            x = inner_end;
        if (x < end)
            opaque = source_.load(static_cast<std::uint32_t>(folded_place(x, edges_[0], width)), 1,
                                  &texels_[static_cast<std::size_t>(x - first) * 4]) &&
                     opaque;
    }
    row_is_opaque_ = row_is_opaque_ && opaque;
    return texels_.get();
}

void HalvedRows::take_row(std::int64_t y) {
    source_.take(y);
    row_is_opaque_ = true;
    const std::int64_t side = weights_.side();
    for (std::uint32_t x = 0; x < width_ / 2; x += tile) {
        const std::uint32_t count = std::min(tile, width_ / 2 - x);
        const auto texels = static_cast<std::uint32_t>(2 * (count + padding_));
        split_pixels(load_tile(2 * std::int64_t{x} - padding_, texels), even_.get(), odd_.get(),
                     texels);
        const auto tap = [&](std::int64_t place) {
            return (place % 2 == 0 ? even_ : odd_).get() + place / 2 * 4;
        };
        for (std::int64_t i = 0; i < 2 * side; ++i)
            taps_[static_cast<std::size_t>(i)] = tap(padding_ + 1 - side + i);
        const std::size_t at = std::size_t{x} * 4, floats = std::size_t{count} * 4;
        blend_symmetric(taps_, weights_.outer_to_inner.data(), blended_.row(y) + at, floats);
        if (limit_ringing_)
            extremes_of_pairs(tap(padding_), tap(padding_ + 1), min_.row(y) + at, max_.row(y) + at,
                              floats);
    }
    opaque_rows_[wrapped(y, blended_.rows)] = row_is_opaque_;
}

const float* HalvedRows::row(std::int64_t virtual_y) {
    if (last_row_ == virtual_y)
        return row_.get();
    last_row_ = virtual_y;
    const std::int64_t side = weights_.side();
    const std::int64_t first = 2 * virtual_y + 1 - side;
    // The window's real rows: those beyond an end stand within it, or nearly so.
    std::int64_t begin = source_row(first), end = begin + 1;
    for (std::int64_t i = 0; i < 2 * side; ++i) {
        begin = std::min(begin, source_row(first + i));
        end = std::max(end, source_row(first + i) + 1);
    }
    for (std::int64_t y = std::max(next_row_.value_or(begin), begin); y < end; ++y)
        take_row(y);
    next_row_ = std::max(next_row_.value_or(end), end);
    bool is_opaque = true;
    for (std::int64_t i = 0; i < 2 * side; ++i) {
        const std::int64_t y = source_row(first + i);
        taps_[static_cast<std::size_t>(i)] = blended_.row(y);
        is_opaque = is_opaque && opaque_rows_[wrapped(y, blended_.rows)];
    }
    blend_symmetric(taps_, weights_.outer_to_inner.data(), row_.get(), row_floats_);
    if (limit_ringing_) {
        const std::int64_t upper = source_row(2 * virtual_y), lower = source_row(2 * virtual_y + 1);
        limit_to_pairs(row_.get(), {min_.row(upper), min_.row(lower)},
                       {max_.row(upper), max_.row(lower)}, row_floats_);
    }
    target_.store(virtual_y, format_, row_.get(), scratch_.get(), row_floats_ / 4, is_opaque);
    return row_.get();
}

}  // namespace yl
