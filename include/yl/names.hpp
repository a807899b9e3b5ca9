// Names that people type: patterns, and the nearest of those that are known.
#pragma once

#include <cstddef>
#include <span>
#include <string>
#include <string_view>
#include <yl/api.hpp>

namespace yl {

/// How many letters have to be put in, taken out or changed.
[[nodiscard]] YL_API std::size_t letters_apart(std::string_view a, std::string_view b);

/// The known name that is spelled most like `name`; empty where none is known.
[[nodiscard]] YL_API std::string nearest_name(std::string_view name,
                                              std::span<const std::string> known);

/// Whether all of a name is as a pattern says: * stands for any letters, ? for one.
[[nodiscard]] YL_API bool matches_pattern(std::string_view name, std::string_view pattern);

}  // namespace yl
