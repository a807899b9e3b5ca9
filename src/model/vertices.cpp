#include "model/vertices.hpp"

#include <algorithm>

#include "model/vectors.hpp"

namespace yl::model {
namespace {

void store(const Vector& from, float* to) {
    std::copy_n(from.data(), 3, to);
}

}  // namespace

void make_flat_normals(Primitive& part) {
    std::vector<Vertex> parted;
    parted.reserve(part.indices.size());
    for (std::size_t i = 0; i + 2 < part.indices.size(); i += 3) {
        std::array<Vector, 3> corners;
        for (std::size_t k = 0; k < 3; ++k)
            corners[k] = vector_of(part.vertices[part.indices[i + k]].position);
        const Vector normal = normalised_or(
            (corners[1] - corners[0]).cross(corners[2] - corners[0]), Vector::UnitZ());
        for (std::size_t k = 0; k < 3; ++k) {
            Vertex vertex = part.vertices[part.indices[i + k]];
            store(normal, vertex.normal.data());
            part.indices[i + k] = static_cast<std::uint32_t>(parted.size());
            parted.push_back(vertex);
        }
    }
    part.vertices = std::move(parted);
}

void place(Primitive& part, const Eigen::Matrix4f& matrix) {
    const Eigen::Matrix3f turn = matrix.topLeftCorner<3, 3>();
    const float volume = turn.determinant();
    // Of a flat matrix the cofactors still turn normals the right way.
    Eigen::Matrix3f cofactors;
    for (int axis = 0; axis < 3; ++axis)
        cofactors.col(axis) = turn.col((axis + 1) % 3).cross(turn.col((axis + 2) % 3));
    const float side = volume < 0 ? -1.0F : 1.0F;
    for (Vertex& vertex : part.vertices) {
        const Vector position = turn * vector_of(vertex.position) + matrix.topRightCorner<3, 1>();
        store(position, vertex.position.data());
        const Vector n = vector_of(vertex.normal);
        store(normalised_or(side * cofactors * n, n), vertex.normal.data());
        const Vector t = {vertex.tangent[0], vertex.tangent[1], vertex.tangent[2]};
        store(normalised_or(turn * t, t), vertex.tangent.data());
        vertex.tangent[3] *= side;
    }
    if (volume < 0)
        for (std::size_t i = 0; i + 2 < part.indices.size(); i += 3)
            std::swap(part.indices[i + 1], part.indices[i + 2]);
}

}  // namespace yl::model
