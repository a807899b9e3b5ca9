#include "mesh/vertices.hpp"

#include <Eigen/Dense>

#include <algorithm>

namespace yl::mesh {
namespace {

using Vector = Eigen::Vector3f;

Vector vector_of(const std::array<float, 3>& from) {
    return {from[0], from[1], from[2]};
}

void store(const Vector& from, float* to) {
    std::copy_n(from.data(), 3, to);
}

Vector normalised_or(const Vector& vector, const Vector& otherwise) {
    const float length = vector.norm();
    return std::isfinite(length) && length > 0 ? Vector(vector / length) : otherwise;
}

/// Any direction that is square to the normal.
Vector across(const Vector& normal) {
    return normal.unitOrthogonal();
}

struct UvAxes {
    Vector along_u = Vector::Zero(), along_v = Vector::Zero();
};

/// How the place changes with u and v over a triangle, times its area in u and v.
UvAxes axes_of(const MeshVertex& a, const MeshVertex& b, const MeshVertex& c) {
    const Vector ab = vector_of(b.position) - vector_of(a.position);
    const Vector ac = vector_of(c.position) - vector_of(a.position);
    const auto& [ua, va] = a.coordinates[0];
    const float u1 = b.coordinates[0][0] - ua, v1 = b.coordinates[0][1] - va;
    const float u2 = c.coordinates[0][0] - ua, v2 = c.coordinates[0][1] - va;
    const float sign = u1 * v2 - u2 * v1 < 0 ? -1.0F : 1.0F;
    return {sign * (v2 * ab - v1 * ac), sign * (u1 * ac - u2 * ab)};
}

}  // namespace

void make_flat_normals(MeshPart& part) {
    std::vector<MeshVertex> parted;
    parted.reserve(part.indices.size());
    for (std::size_t i = 0; i + 2 < part.indices.size(); i += 3) {
        std::array<Vector, 3> corners;
        for (std::size_t k = 0; k < 3; ++k)
            corners[k] = vector_of(part.vertices[part.indices[i + k]].position);
        const Vector normal = normalised_or(
            (corners[1] - corners[0]).cross(corners[2] - corners[0]), Vector::UnitZ());
        for (std::size_t k = 0; k < 3; ++k) {
            MeshVertex vertex = part.vertices[part.indices[i + k]];
            store(normal, vertex.normal.data());
            part.indices[i + k] = static_cast<std::uint32_t>(parted.size());
            parted.push_back(vertex);
        }
    }
    part.vertices = std::move(parted);
}

void make_tangents(MeshPart& part) {
    std::vector<UvAxes> axes(part.vertices.size());
    for (std::size_t i = 0; i + 2 < part.indices.size(); i += 3) {
        const std::uint32_t* corners = &part.indices[i];
        const UvAxes of_triangle = axes_of(part.vertices[corners[0]], part.vertices[corners[1]],
                                           part.vertices[corners[2]]);
        for (int k = 0; k < 3; ++k) {
            axes[corners[k]].along_u += of_triangle.along_u;
            axes[corners[k]].along_v += of_triangle.along_v;
        }
    }
    for (std::size_t i = 0; i < axes.size(); ++i) {
        MeshVertex& vertex = part.vertices[i];
        const Vector n = normalised_or(vector_of(vertex.normal), Vector::UnitZ());
        const Vector t = normalised_or(axes[i].along_u - n * n.dot(axes[i].along_u), across(n));
        store(t, vertex.tangent.data());
        // v runs downwards in the picture, while green points up: against v.
        vertex.tangent[3] = n.cross(t).dot(axes[i].along_v) > 0 ? -1.0F : 1.0F;
    }
}

void place(MeshPart& part, const Eigen::Matrix4f& matrix) {
    const Eigen::Matrix3f turn = matrix.topLeftCorner<3, 3>();
    const float volume = turn.determinant();
    // Of a flat matrix the cofactors still turn normals the right way.
    Eigen::Matrix3f cofactors;
    for (int axis = 0; axis < 3; ++axis)
        cofactors.col(axis) = turn.col((axis + 1) % 3).cross(turn.col((axis + 2) % 3));
    const float side = volume < 0 ? -1.0F : 1.0F;
    for (MeshVertex& vertex : part.vertices) {
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

}  // namespace yl::mesh
