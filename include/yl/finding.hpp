// Something that will look wrong or fail later, with its remedy.
#pragma once

#include <string>
#include <vector>

namespace yl {

struct Finding {
    std::string problem = {};  ///< one sentence
    std::string remedy = {};   ///< one sentence
};

using Findings = std::vector<Finding>;

}  // namespace yl
