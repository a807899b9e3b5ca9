// Vectors of vertices.
#pragma once

#include <Eigen/Dense>
#include <array>
#include <cmath>

namespace yl::model {

using Vector = Eigen::Vector3f;

[[nodiscard]] inline Vector vector_of(const std::array<float, 3>& from) {
    return {from[0], from[1], from[2]};
}

[[nodiscard]] inline Vector normalised_or(const Vector& vector, const Vector& otherwise) {
    const float length = vector.norm();
    return std::isfinite(length) && length > 0 ? Vector(vector / length) : otherwise;
}

}  // namespace yl::model
