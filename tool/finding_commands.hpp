// Commands of this tool that mend what was found.
#pragma once

#include <string>
#include <yl/finding.hpp>

namespace ylat {

/// What mends a finding about a file, as a shell takes it; empty where no command alone does it.
[[nodiscard]] std::string command_for(const yl::Finding& finding, const std::string& path);

}  // namespace ylat
