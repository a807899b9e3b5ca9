// Colour profiles, made by Little CMS.
#pragma once

#include <lcms2.h>

#include <vector>

namespace support {

/// The file of a profile, which is closed.
[[nodiscard]] std::vector<std::byte> saved_profile(cmsHPROFILE profile);

/// Four inks to Lab, by a grid of so many nodes a side.
[[nodiscard]] std::vector<std::byte> ink_profile(unsigned nodes);

}  // namespace support
