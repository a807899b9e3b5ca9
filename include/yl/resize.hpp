// Images made larger or smaller.
#pragma once

#include <yl/image.hpp>
#include <yl/kernel.hpp>
#include <yl/progress.hpp>
#include <yl/texture.hpp>

namespace yl {

struct ResizeOptions {
    Kernel kernel = {.kind = Kernel::Kind::cubic};
    Edges edges = {Edge::clamp, Edge::clamp};
    Transfer transfer = Transfer::linear;  ///< of colours whose format does not say it
    AlphaMode alpha = AlphaMode::straight;
    bool limit_ringing = false;  ///< no pixel leaves the range of those that it covers
    bool dither = false;
    Progress progress = {};
};

/// The image at another size, filtered in linear light, with straight alpha weighing colour. Fails
/// with `ErrorKind::usage` on a size of nothing, `unsupported` for block formats, and `limit`
/// beyond the limits.
[[nodiscard]] Result<Image> resize(ConstImageView image, std::uint32_t width, std::uint32_t height,
                                   const ResizeOptions& options = {});

}  // namespace yl
