// From blocks to rows of pixels, one row of units after the other.
#pragma once

#include <yl/image.hpp>
#include "codec/jpeg/color.hpp"
#include "codec/jpeg/inverse_dct.hpp"

namespace yl::jpeg {

/// Takes the blocks of one row of units (A.2.3) at a time, and writes the rows of pixels that have
/// all their neighbours. It keeps the samples of two rows of units, never a whole plane.
template <class Sample>
class RowAssembler {
 public:
    RowAssembler(const Frame& frame, const ColorPlan& plan, ImageView target);

    /// What a component's coefficients are multiplied by; set before its first block.
    void set_steps(std::size_t component, const std::array<std::uint16_t, block_size>& steps);

    /// The blocks of the next row of units, `Frame::row_blocks` of them.
    void take_row(const Block* blocks);

    [[nodiscard]] std::uint32_t finished_rows() const { return unit_row_; }

 private:
    static constexpr std::uint32_t kept_unit_rows = 2;

    struct Plane {
        const Component* component = nullptr;
        Scales scales = {};
        std::uint32_t kept_rows = 0;
        std::vector<Sample> samples = {};  ///< row y lies in place y modulo `kept_rows`
        [[nodiscard]] Sample* row(std::size_t y) {
            return samples.data() + y % kept_rows * component->stride();
        }
    };

    void write_rows_to(std::uint32_t end);

    const Frame& frame_;
    ColorPlan plan_;
    ImageView target_;
    std::vector<Plane> planes_;
    std::vector<Upsampler<Sample>> upsamplers_;
    std::uint32_t unit_row_ = 0;
    std::uint32_t next_row_ = 0;  ///< of pixels, to be written
};

}  // namespace yl::jpeg
