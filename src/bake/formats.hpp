// The formats that roles ask for.
#pragma once

#include <yl/measure.hpp>
#include <yl/role.hpp>

namespace yl {

[[nodiscard]] Role default_role(Format format);

/// By what an image uses of its channels. Families without a format for light give a plain one.
[[nodiscard]] Format plain_format_for(ConstImageView image, const ChannelUse& use, Role role);
[[nodiscard]] Format block_format_for(const ChannelUse& use, Role role, BlockFamily family);

}  // namespace yl
