// The formats that roles ask for.
#pragma once

#include <yl/measure.hpp>
#include <yl/role.hpp>

namespace yl {

[[nodiscard]] Role default_role(Format format);

/// By what an image uses of its channels. Families without a format for light give a plain one.
[[nodiscard]] Format plain_format_for(ConstImageView image, const ChannelUse& use, Role role);
[[nodiscard]] Format block_format_for(const ChannelUse& use, Role role, BlockFamily family);

/// The format of the same family whose blocks come nearest to so many bits a texel; the same for 0,
/// and in families with one size of blocks.
[[nodiscard]] Format with_bits_per_texel(Format format, float bits);

}  // namespace yl
