#include "resample/quartered_rows.hpp"

namespace yl {

bool QuarteredRows::suits(const WorkingFormat& format, const Reducer& reducer) {
    return reducer.across.is_halving && reducer.down.is_halving && !reducer.limit_ringing &&
           reducer.kind == Reducer::Kind::blend && !format.are_normals &&
           is_rgba8(info(format.format));
}

QuarteredRows::QuarteredRows(TexelRows texels, const WorkingFormat& format, RowTarget target)
    : texels_(texels),
      format_(format),
      curve_(code_curve(format.format, format.transfer)),
      target_(target),
      row_(std::size_t{texels.width} / 2 * 4),
      scratch_(row_.size()) {}

const float* QuarteredRows::row(std::int64_t virtual_y) {
    if (last_row_ == virtual_y)
        return row_.data();
    last_row_ = virtual_y;
    const std::uint32_t y = wrapped(virtual_y, texels_.height / 2);
    const std::size_t width = row_.size() / 4;
    const std::byte* const upper = texels_.row(2 * y);
    const bool is_opaque = quarter_rows(upper, texels_.row(2 * y + 1), curve_,
                                        format_.weigh_by_alpha, row_.data(), width);
    target_.store(virtual_y, format_, row_.data(), scratch_.data(), width, is_opaque);
    return row_.data();
}

}  // namespace yl
