// What changed between two reports.
#pragma once

#include <string>
#include <string_view>

#include <yl/result.hpp>
#include "report/page/json.hpp"

namespace yl::report {

/// Textures by their names: which are new, which are gone, and of the others what is different. `before`
/// is an earlier page, or its data. Fails with `ErrorKind::malformed` for anything else.
[[nodiscard]] Result<Json> changes_since(std::string_view before, const Json& textures);

}  // namespace yl::report
