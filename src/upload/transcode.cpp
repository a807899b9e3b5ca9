#include "upload/transcode.hpp"

#include <algorithm>

#include "upload/transcode_losses.hpp"

namespace yl {

std::optional<float> transcode_quality(Format from, Format to) {
    if (info(from).transfer != info(to).transfer)
        return std::nullopt;
    const Format plain_from = with_transfer(from, Transfer::linear).value_or(from);
    const Format plain_to = with_transfer(to, Transfer::linear).value_or(to);
    const auto found = std::ranges::find_if(transcode_losses, [&](const TranscodeLoss& loss) {
        return loss.from == plain_from && loss.to == plain_to;
    });
    return found == std::end(transcode_losses) ? std::nullopt : std::optional(found->decibels);
}

}  // namespace yl
