// The levels of one surface.
#pragma once

#include <yl/mip.hpp>
#include "base/progress.hpp"
#include "resample/row_source.hpp"

namespace yl {

/// Makes the levels [from + 1, end) of one layer and face of a 2D texture out of level `from`;
/// counts their texels.
void build_levels(Texture& texture, std::uint32_t layer, std::uint32_t face, std::uint32_t from,
                  std::uint32_t end, const WorkingFormat& format, const MipOptions& options,
                  ProgressCounter& progress);

/// The same for the volumes of a 3D texture.
void build_volumes(Texture& texture, std::uint32_t from, std::uint32_t end,
                   const WorkingFormat& format, const MipOptions& options,
                   ProgressCounter& progress);

/// The rows of a stored image as the options want them.
[[nodiscard]] std::unique_ptr<RowSource> stored_rows(ConstImageView image,
                                                     const WorkingFormat& format,
                                                     const MipOptions& options);

}  // namespace yl
