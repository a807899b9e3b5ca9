// Which layer, slice or part of a texture a command shows.
#pragma once

#include "session.hpp"

namespace ylat {

struct SurfaceChoices {
    std::optional<std::uint32_t> layer = {}, slice = {};
    std::string part = {}, table = {};

    [[nodiscard]] bool is_any() const { return layer || slice || !part.empty(); }
};

/// A texture without layers and depth, and the part of it that is shown.
struct ChosenSurface {
    yl::Texture texture = {};
    std::optional<yl::PartCoordinates> part = {};
    std::array<std::uint32_t, 2> size = {};  ///< of what is shown, in texels
};

/// The table of parts is looked for beside the texture, under its name with .json.
[[nodiscard]] yl::Result<ChosenSurface> choose_surface(yl::Texture texture, const std::string& path,
                                                       const SurfaceChoices& choices);

}  // namespace ylat
