// The pictures of the Glasshouse, a small botanical glasshouse with yellow lattice panels: all made
// up, all computed, the same on every machine.
#pragma once

#include <string>
#include <string_view>
#include <vector>
#include <yl/yl.hpp>

namespace glasshouse {

struct DemoPicture {
    std::string name = {};  ///< of its file, without the ending
    yl::Role role = yl::Role::color;
    yl::Image image = {};
    std::string about = {};
};

/// All of them, in a fixed order. Fails only when memory runs out.
[[nodiscard]] yl::Result<std::vector<DemoPicture>> make_pictures();

/// Writes each as a PNG file into an existing folder.
[[nodiscard]] yl::Status write_pictures(const std::vector<DemoPicture>& pictures,
                                        const std::string& folder);

/// The list that `ylat batch` builds of them, in TOML.
[[nodiscard]] std::string_view batch_list();

}  // namespace glasshouse
