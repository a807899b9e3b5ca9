#include "resample/row_source.hpp"

#include <algorithm>
#include <limits>

#include "resample/rows_simd.hpp"

namespace yl {
namespace {

std::int64_t beyond_edge(std::int64_t place, std::uint32_t size, Edge edge) {
    if (place >= 0 && place < size)
        return place;
    if (edge == Edge::repeat)
        return place < 0 ? place + size : place - size;
    return std::clamp<std::int64_t>(place, 0, size - 1);  // one step: mirrored alike
}

}  // namespace

StoredRows::StoredRows(TexelRows texels, const WorkingFormat& format)
    : texels_(texels), format_(format), row_(std::size_t{texels.width} * 4) {}

const float* StoredRows::row(std::int64_t y) {
    format_.load(texels_.row(wrapped(y, texels_.height)), row_.data(), texels_.width);
    return row_.data();
}

void RowTarget::store(std::int64_t virtual_y, const WorkingFormat& format, const float* row,
                      float* scratch, std::size_t count, bool is_opaque) const {
    if (virtual_y < begin || virtual_y >= end)
        return;
    const auto y = static_cast<std::uint32_t>(virtual_y);
    format.store(row, scratch, sink != nullptr ? sink->begin_row(y) : image.row(y).data(), count,
                 {y, level, is_opaque});
    if (sink != nullptr)
        sink->end_row(y);
}

GuardedRows::GuardedRows(ConstImageView image, const WorkingFormat& format, const Edges& edges)
    : image_(image), format_(format), edges_(edges), result_(std::size_t{image.width} * 4) {
    for (auto& row : rows_)
        row.resize(std::size_t{image.width} * 4);
}

const float* GuardedRows::row(std::int64_t y) {
    const std::uint32_t middle = wrapped(y, image_.height);
    std::int64_t places[3] = {};
    for (int i = 0; i < 3; ++i) {
        places[i] = beyond_edge(std::int64_t{middle} + i - 1, image_.height, edges_[1]);
        format_.load(image_.row(static_cast<std::uint32_t>(places[i])).data(), rows_[i].data(),
                     image_.width);
    }
    for (std::uint32_t x = 0; x < image_.width; ++x) {
        float brightest = 0;
        for (int i = 0; i < 3; ++i)
            for (int j = -1; j <= 1; ++j) {
                const auto column = beyond_edge(std::int64_t{x} + j, image_.width, edges_[0]);
                if (places[i] != middle || column != x)
                    brightest = std::max(brightest,
                                         light_of(&rows_[i][static_cast<std::size_t>(column) * 4]));
            }
        const float* pixel = &rows_[1][std::size_t{x} * 4];
        const float light = light_of(pixel);
        const float most = most_ratio * brightest;
        const float share = light > most && brightest > 0 ? most / light : 1.0F;
        for (std::size_t c = 0; c < 4; ++c)
            result_[std::size_t{x} * 4 + c] = c < 3 ? pixel[c] * share : pixel[c];
    }
    return result_.data();
}

ReducedRows::ReducedRows(RowSource& source, const Reducer& reducer, const WorkingFormat& format,
                         RowTarget target)
    : source_(source), reducer_(reducer), format_(format), target_(target) {
    const std::size_t row_floats = std::size_t{reducer.across.size()} * 4;
    const auto make = [&](Ring& ring, std::uint32_t rows) {
        ring = {rows, row_floats, std::vector<float>(rows * row_floats)};
    };
    const bool needs_range = reducer.limit_ringing || reducer.kind != Reducer::Kind::blend;
    const std::uint32_t covered_rows = reducer.down.source / reducer.down.size() + 2;
    // The rows that a texel covers may lie before the last ones that its weights reach.
    const std::uint32_t rows = reducer.down.taps + (needs_range ? covered_rows : 0);
    make(blended_, rows);
    if (needs_range) {
        make(min_, rows);
        make(max_, rows);
    }
    if (reducer.across.before + reducer.across.behind > 0)
        padded_.resize(
            (std::size_t{reducer.across.source} + reducer.across.before + reducer.across.behind) *
            4);
    row_.resize(row_floats);
    scratch_.resize(row_floats);
}

void ReducedRows::take_source_row(std::int64_t y) {
    const AxisWeights& across = reducer_.across;
    const float* wide = source_.row(y);
    if (!padded_.empty()) {
        const std::int64_t first = -std::int64_t{across.before};
        for (std::size_t x = 0; x < padded_.size() / 4; ++x)
            std::copy_n(
                wide +
                    std::size_t{wrapped(first + static_cast<std::int64_t>(x), across.source)} * 4,
                4, &padded_[4 * x]);
        wide = padded_.data() + std::size_t{across.before} * 4;
    }
    if (reducer_.kind == Reducer::Kind::blend)
        blend_across(across, wide, blended_.row(y));
    if (min_.rows > 0)
        extremes_across(wide, min_.row(y), max_.row(y));
}

void ReducedRows::extremes_across(const float* wide, float* min, float* max) const {
    for (std::uint32_t x = 0; x < reducer_.across.size(); ++x) {
        const CoveredTexels print =
            covered_texels(x, reducer_.across.source, reducer_.across.size());
        for (std::size_t c = 0; c < 4; ++c) {
            const std::size_t at = std::size_t{x} * 4 + c;
            min[at] = max[at] = wide[std::size_t{print.begin} * 4 + c];
            for (std::size_t i = print.begin; i < print.end; ++i) {
                min[at] = std::min(min[at], wide[i * 4 + c]);
                max[at] = std::max(max[at], wide[i * 4 + c]);
            }
        }
    }
}

void ReducedRows::blend_down(std::uint32_t y, std::int64_t first) {
    std::vector<const float*> rows(reducer_.down.taps);
    for (std::uint32_t tap = 0; tap < reducer_.down.taps; ++tap)
        rows[tap] = blended_.row(first + tap);
    blend_rows(rows, reducer_.down.of(y), row_.data(), row_.size());
}

void ReducedRows::limit_to_range(std::uint32_t y, std::int64_t source_start) {
    const CoveredTexels print = covered_texels(y, reducer_.down.source, reducer_.down.size());
    for (std::size_t i = 0; i < row_.size(); ++i) {
        float min = std::numeric_limits<float>::infinity(), max = -min;
        for (std::uint32_t source = print.begin; source < print.end; ++source) {
            min = std::min(min, min_.row(source_start + source)[i]);
            max = std::max(max, max_.row(source_start + source)[i]);
        }
        row_[i] = std::clamp(row_[i], min, max);
    }
}

void ReducedRows::take_extreme(std::uint32_t y, std::int64_t source_start) {
    const CoveredTexels print = covered_texels(y, reducer_.down.source, reducer_.down.size());
    const bool minimum = reducer_.kind == Reducer::Kind::minimum;
    for (std::size_t i = 0; i < row_.size(); ++i) {
        float value = (minimum ? min_ : max_).row(source_start + print.begin)[i];
        for (std::uint32_t source = print.begin + 1; source < print.end; ++source)
            value = minimum ? std::min(value, min_.row(source_start + source)[i])
                            : std::max(value, max_.row(source_start + source)[i]);
        row_[i] = value;
    }
}

const float* ReducedRows::row(std::int64_t virtual_y) {
    if (started_ && virtual_y == last_row_)
        return row_.data();
    const AxisWeights& down = reducer_.down;
    const std::uint32_t y = wrapped(virtual_y, down.size());
    const std::int64_t rounds = (virtual_y - y) / down.size();
    const std::int64_t source_start = rounds * down.source;
    const std::int64_t first = source_start + down.first[y];
    std::int64_t begin = first, end = first + down.taps;
    if (min_.rows > 0) {
        const CoveredTexels print = covered_texels(y, down.source, down.size());
        begin = std::min(begin, source_start + print.begin);
        end = std::max(end, source_start + print.end);
    }
    if (!started_)
        next_source_row_ = begin;
    started_ = true;
    last_row_ = virtual_y;
    for (next_source_row_ = std::max(next_source_row_, begin); next_source_row_ < end;
         ++next_source_row_)
        take_source_row(next_source_row_);
    if (reducer_.kind == Reducer::Kind::blend)
        blend_down(y, first);
    else
        take_extreme(y, source_start);
    if (reducer_.limit_ringing && reducer_.kind == Reducer::Kind::blend)
        limit_to_range(y, source_start);
    target_.store(virtual_y, format_, row_.data(), scratch_.data(), reducer_.across.size());
    return row_.data();
}

}  // namespace yl
