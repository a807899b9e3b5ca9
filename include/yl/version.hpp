// This library's version.
#pragma once

namespace yl {

inline constexpr const char* version = "0.1.0";

}  // namespace yl
