// What an image holds, counted band by band.
#pragma once

#include <vector>

#include <yl/measure.hpp>

namespace yl {

struct PixelCounts {
    std::uint64_t others = 0;  ///< than the first pixel
    std::uint64_t transparent = 0;
    std::uint64_t directions = 0;
    std::array<double, 4> sums{};

    void add(const std::vector<float>& rgba, const std::array<float, 4>& first);
};

/// Says of bands of rows together what `analyse_channels` and `measure_content` say of an image.
class ContentCounter {
 public:
    explicit ContentCounter(const Swizzle& swizzle) : swizzle_(swizzle) {}

    void add(ConstImageView rows);
    [[nodiscard]] ChannelUse use() const { return use_; }
    [[nodiscard]] ContentMeasure content() const;

 private:
    void add(const PixelCounts& counts, const ChannelUse& use);

    Swizzle swizzle_;
    std::uint64_t pixels_ = 0;
    std::array<float, 4> first_{};
    std::uint64_t others_ = 0, transparent_ = 0, directions_ = 0;
    std::array<double, 4> sums_{};
    ChannelUse use_ = {};
};

}  // namespace yl
