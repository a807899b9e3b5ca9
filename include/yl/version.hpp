// This library's version.
#pragma once

#define YL_VERSION_MAJOR 0
#define YL_VERSION_MINOR 2
#define YL_VERSION_PATCH 0
/// As one number that grows with every release.
#define YL_VERSION (YL_VERSION_MAJOR * 10000 + YL_VERSION_MINOR * 100 + YL_VERSION_PATCH)

namespace yl {

/// As text.
inline constexpr const char* version = "0.2.0";

}  // namespace yl
