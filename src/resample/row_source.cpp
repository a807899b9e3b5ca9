#include "resample/row_source.hpp"

#include <algorithm>

namespace yl {
namespace {

/// Added to alpha when it weighs colour: too little to be seen, but enough to keep the colour where
/// nothing but transparent texels meet.
constexpr float least_weight = 1.0F / (1 << 20);

}  // namespace

WorkingFormat WorkingFormat::of(const TextureShape& shape, const TextureTraits& traits) {
    return {row_codec(shape.format, traits.transfer),
            info(shape.format).has(Channel::alpha) && traits.alpha == AlphaMode::straight};
}

void WorkingFormat::load(const std::byte* texels, float* working, std::size_t count) const {
    codec.load(texels, working, count);
    if (!weigh_by_alpha)
        return;
    for (float* pixel = working; pixel != working + 4 * count; pixel += 4) {
        pixel[3] += least_weight;
        for (int c = 0; c < 3; ++c)
            pixel[c] *= pixel[3];
    }
}

void WorkingFormat::store(float* working, std::byte* texels, std::size_t count) const {
    if (weigh_by_alpha) {
        for (float* pixel = working; pixel != working + 4 * count; pixel += 4) {
            for (int c = 0; c < 3; ++c)
                pixel[c] /= pixel[3];
            pixel[3] -= least_weight;
        }
    }
    codec.store(working, texels, count);
}

StoredRows::StoredRows(ConstImageView image, const WorkingFormat& format)
    : image_(image), format_(format), row_(std::size_t{image.width} * 4) {}

const float* StoredRows::row(std::uint32_t y) {
    format_.load(image_.row(y).data(), row_.data(), image_.width);
    return row_.data();
}

ReducedRows::ReducedRows(RowSource& source, const AxisWeights& horizontal,
                         const AxisWeights& vertical, const WorkingFormat& format, Target target)
    : source_(source),
      horizontal_(horizontal),
      vertical_(vertical),
      format_(format),
      target_(target),
      row_floats_(std::size_t{horizontal.size()} * 4),
      ring_(row_floats_ * vertical.taps),
      row_(row_floats_),
      scratch_(row_floats_) {}

void ReducedRows::reduce_row(const float* wide, float* narrow) const {
    const std::uint32_t taps = horizontal_.taps;
    for (std::uint32_t x = 0; x < horizontal_.size(); ++x, narrow += 4) {
        const float* pixel = wide + std::size_t{horizontal_.first[x]} * 4;
        const float* weight = horizontal_.of(x);
        float sum[4] = {};
        for (std::uint32_t tap = 0; tap < taps; ++tap, pixel += 4)
            for (int c = 0; c < 4; ++c)
                sum[c] += weight[tap] * pixel[c];
        std::copy(sum, sum + 4, narrow);
    }
}

const float* ReducedRows::row(std::uint32_t y) {
    const std::uint32_t first = vertical_.first[y];
    if (!started_)
        next_source_row_ = first;
    started_ = true;
    for (; next_source_row_ < first + vertical_.taps; ++next_source_row_)
        reduce_row(source_.row(next_source_row_), ring_row(next_source_row_));
    std::fill(row_.begin(), row_.end(), 0.0F);
    for (std::uint32_t tap = 0; tap < vertical_.taps; ++tap) {
        const float weight = vertical_.of(y)[tap];
        const float* narrow = ring_row(first + tap);
        for (std::size_t i = 0; i < row_floats_; ++i)
            row_[i] += weight * narrow[i];
    }
    if (y >= target_.begin && y < target_.end) {
        scratch_ = row_;
        format_.store(scratch_.data(), target_.image.row(y).data(), horizontal_.size());
    }
    return row_.data();
}

}  // namespace yl
