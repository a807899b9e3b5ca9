// Signed axes and the frames of faces.
#pragma once

#include <yl/cube.hpp>
#include <yl/edit.hpp>

namespace yl {

[[nodiscard]] constexpr CubeFace opposite(CubeFace axis) {
    return static_cast<CubeFace>(static_cast<unsigned>(axis) ^ 1U);
}

[[nodiscard]] constexpr bool are_on_one_axis(CubeFace a, CubeFace b) {
    return static_cast<unsigned>(a) / 2 == static_cast<unsigned>(b) / 2;
}

/// A cube laid on itself, mirrored or not: where +X, +Y and +Z go.
using AxisMap = std::array<CubeFace, 3>;

[[nodiscard]] constexpr CubeFace mapped(CubeFace axis, const AxisMap& map) {
    const auto number = static_cast<unsigned>(axis);
    const CubeFace positive = map[number / 2];
    return number % 2 == 0 ? positive : opposite(positive);
}

[[nodiscard]] constexpr FaceFrame mapped(const FaceFrame& frame, const AxisMap& map) {
    return {mapped(frame.middle, map), mapped(frame.to_right, map), mapped(frame.downwards, map)};
}

/// All 48.
[[nodiscard]] std::vector<AxisMap> all_axis_maps();

/// In the order of `CubeFace`.
[[nodiscard]] const std::array<FaceFrame, 6>& standard_frames();

/// What has to be done to an image that lies in one frame, so that it lies in the other; both look
/// along the same axis.
[[nodiscard]] Orientation orientation_between(const FaceFrame& from, const FaceFrame& to);

}  // namespace yl
