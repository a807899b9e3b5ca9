// The few bright spots of a sky, taken out of it to be summed one by one.
#pragma once

#include <array>
#include <vector>

#include "cube/light_cube.hpp"

namespace yl {

/// A direction of length 1, and light times the part of the sphere that it comes from.
struct SunSpot {
    float x = 0, y = 0, z = 0;
    std::array<float, 3> light = {};
};

/// Light that a few texels hold above all others. No number of samples does justice to it: a sun of
/// a single texel is found by one sample in ten thousand.
class SunLight {
 public:
    /// Takes it out of `sky`, whose texels keep their colour.
    [[nodiscard]] static SunLight take_from(LightCube& sky);

    [[nodiscard]] bool empty() const { return spots_.empty(); }
    /// Spots that lie within a cell of `angle` radians are one.
    [[nodiscard]] std::vector<SunSpot> gathered_within(double angle) const;

 private:
    std::vector<SunSpot> spots_;
};

}  // namespace yl
