// Textures of one surface, such as slate.png and slate_normal.png, compared with each other.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>
#include <yl/image.hpp>
#include <yl/lint.hpp>

namespace ylat {

/// Where an image has edges, roughly.
using EdgeMap = std::vector<float>;

/// Nothing of images that are too small or even.
[[nodiscard]] std::optional<EdgeMap> edges_of(yl::ConstImageView image);

/// Finds files that are upside down beside others of their name.
class Siblings {
 public:
    /// What is wrong about a file beside those that came before it.
    [[nodiscard]] std::optional<yl::Evidence> add(const std::string& path,
                                                  const std::optional<EdgeMap>& edges);

 private:
    struct Known {
        std::string path = {};
        EdgeMap edges = {};
    };
    std::map<std::string, std::vector<Known>> by_name_ = {};
};

}  // namespace ylat
