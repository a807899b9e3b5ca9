#include "resample/quartered_rows.hpp"

namespace yl {

bool QuarteredRows::suits(const WorkingFormat& format, const Reducer& reducer) {
    return reducer.across.is_halving && reducer.down.is_halving && !reducer.limit_ringing &&
           reducer.kind == Reducer::Kind::blend && !format.are_normals &&
           is_rgba8(info(format.format));
}

QuarteredRows::QuarteredRows(ConstImageView image, const WorkingFormat& format, RowTarget target)
    : image_(image),
      format_(format),
      curve_(code_curve(format.format, format.transfer)),
      target_(target),
      row_(std::size_t{image.width} / 2 * 4),
      scratch_(row_.size()) {}

const float* QuarteredRows::row(std::int64_t virtual_y) {
    if (last_row_ == virtual_y)
        return row_.data();
    last_row_ = virtual_y;
    const std::uint32_t y = wrapped(virtual_y, image_.height / 2);
    const std::size_t width = row_.size() / 4;
    const bool is_opaque = quarter_rows(image_.row(2 * y).data(), image_.row(2 * y + 1).data(),
                                        curve_, format_.weigh_by_alpha, row_.data(), width);
    if (virtual_y >= target_.begin && virtual_y < target_.end)
        format_.store(row_.data(), scratch_.data(), target_.image.row(y).data(), width,
                      {y, target_.level, is_opaque});
    return row_.data();
}

}  // namespace yl
