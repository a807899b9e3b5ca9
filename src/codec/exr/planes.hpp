// The channels that are wanted of a file, and the picture that they make.
#pragma once

#include <cstdint>
#include <map>
#include <vector>

#include <yl/image.hpp>
#include "codec/exr/header.hpp"

namespace yl::exr {

/// Where one channel of the file goes: a channel of the picture, or one of luminance and chroma.
enum class Target { red, green, blue, alpha, luminance, chroma_red, chroma_blue };

/// One channel that is wanted, with all of its samples.
struct Plane {
    std::size_t channel = 0;  ///< in the header
    std::int64_t columns = 0, rows = 0;
    std::vector<float> samples;
};

using Planes = std::map<Target, Plane>;

/// Chooses channels by name: R, G, B, A; or Y, RY, BY, A; in the first layer that has them if there
/// is no bare one; else the first channel as gray.
[[nodiscard]] Planes choose_planes(const Header& h);

[[nodiscard]] inline bool has_chroma(const Planes& planes) {
    return planes.contains(Target::chroma_red);
}
[[nodiscard]] inline bool has_alpha(const Planes& planes) {
    return planes.contains(Target::alpha);
}
[[nodiscard]] inline bool is_gray(const Planes& planes) {
    return planes.contains(Target::luminance) && !has_chroma(planes);
}

/// Lays the data window into the display window, which is the picture; where it does not reach,
/// pixels are 0.
void fill(const Planes& planes, const Header& h, ImageView picture);

}  // namespace yl::exr
