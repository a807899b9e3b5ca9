#include "codec/jpeg/assembler.hpp"

#include <algorithm>
#include <bit>

#include "codec/jpeg/jpeg_simd.hpp"

namespace yl::jpeg {

template <class Sample>
RowAssembler<Sample>::RowAssembler(const Frame& frame, const ColorPlan& plan, ImageView target)
    : frame_(frame), plan_(plan), target_(target) {
    for (const Component& component : frame.components) {
        const auto rows = static_cast<std::uint32_t>(kept_unit_rows * component.v * block_side);
        planes_.push_back({.component = &component,
                           .kept_rows = rows,
                           .samples = std::vector<Sample>(rows * component.stride())});
        upsamplers_.emplace_back(frame, component);
    }
}

template <class Sample>
void RowAssembler<Sample>::set_steps(std::size_t component,
                                     const std::array<std::uint16_t, block_size>& steps) {
    planes_[component].scales = scales_of(steps);
}

template <class Sample>
void RowAssembler<Sample>::take_row(const Block* blocks) {
    for (Plane& plane : planes_) {
        const Component& component = *plane.component;
        const Block* row = blocks + component.first_block;
        for (std::size_t y = 0; y < component.v; ++y, row += component.blocks_x) {
            Sample* samples = plane.row((std::size_t{unit_row_} * component.v + y) * block_side);
            if constexpr (sizeof(Sample) == 1)
                inverse_dct_simd(row, component.blocks_x, plane.scales, samples,
                                 component.stride());
            else
                for (std::size_t x = 0; x < component.blocks_x; ++x)
                    inverse_dct(row[x], plane.scales, static_cast<int>(frame_.bits),
                                samples + x * block_side, component.stride());
        }
    }
    ++unit_row_;
    const auto decoded = static_cast<std::uint32_t>(unit_row_ * frame_.max_v * block_side);
    // The last rows of samples wait for their neighbours below.
    write_rows_to(unit_row_ == frame_.units_y ? frame_.height
                                              : std::min(decoded - frame_.max_v, frame_.height));
}

template <class Sample>
void RowAssembler<Sample>::write_rows_to(std::uint32_t end) {
    for (; next_row_ < end; ++next_row_) {
        const Sample* rows[4] = {};
        for (std::size_t c = 0; c < planes_.size(); ++c) {
            const auto from = upsamplers_[c].rows_for(next_row_);
            rows[c] =
                upsamplers_[c].row(planes_[c].row(from.near), planes_[c].row(from.far), next_row_);
        }
        auto* pixels = reinterpret_cast<Sample*>(target_.row(next_row_).data());
        if constexpr (sizeof(Sample) == 1)
            convert_row_simd(plan_, rows, frame_.width, pixels);
        else
            convert_row(plan_, rows, frame_.width, pixels);
        swap_unless_little<Sample>(target_.row(next_row_));
    }
}

template class RowAssembler<std::uint8_t>;
template class RowAssembler<std::uint16_t>;

}  // namespace yl::jpeg
