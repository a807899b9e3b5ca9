// Files that belong together by their names, such as slate.png and slate_normal.png.
#pragma once

#include <map>
#include <optional>
#include <span>
#include <string>
#include <vector>
#include <yl/lint.hpp>

#include "lint_files.hpp"

namespace ylat {

/// Compares each file with those of its name that came before it.
class Siblings {
 public:
    /// What is wrong about a file beside those that came before it.
    [[nodiscard]] std::optional<yl::Evidence> add(const std::string& path,
                                                  const yl::LintTraits& traits);

 private:
    struct Known {
        std::string path = {};
        yl::LintTraits traits = {};
    };
    std::map<std::string, std::vector<Known>> by_name_ = {};
};

/// The normal map among the files for each that holds roughness by its name; empty for others.
[[nodiscard]] std::vector<std::string> normals_beside(std::span<const LintJob> jobs);

/// What the channels hold, by the name of the file.
[[nodiscard]] yl::PackedChannels packed_of_name(const std::string& path);

}  // namespace ylat
