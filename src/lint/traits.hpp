// What is kept of a texture to compare others with it.
#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include <yl/lint.hpp>

namespace yl::lint_checks {

/// Where an image has edges, roughly; nothing of images that are too small or even.
[[nodiscard]] std::vector<float> edges_of(ConstImageView image);
[[nodiscard]] std::optional<Evidence> compare_edges(const std::vector<float>& edges,
                                                    const std::vector<float>& other,
                                                    std::string_view other_name);

/// A cube's light in each direction, roughly, as the mean of each part of each face. Its texels have to
/// be no blocks.
[[nodiscard]] Result<std::vector<float>> sky_of(const Texture& cube);
[[nodiscard]] std::optional<Evidence> compare_skies(const std::vector<float>& sky,
                                                    const std::vector<float>& other,
                                                    std::string_view other_name);

}  // namespace yl::lint_checks
