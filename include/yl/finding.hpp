// Something that will look wrong or fail later, with its remedy.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace yl {

/// How bad it is.
enum class FindingLevel : std::uint8_t {
    warning,  ///< it will look wrong, or fail
    hint,     ///< something was assumed, which is right more often than not
};

struct Finding {
    std::string problem = {};  ///< one sentence
    std::string remedy = {};   ///< one sentence
    FindingLevel level = FindingLevel::warning;
};

using Findings = std::vector<Finding>;

}  // namespace yl
