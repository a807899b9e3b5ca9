// What vertices get that have it not, and where nodes put them.
#include "model/vertices.hpp"

#include <Eigen/Dense>
#include <Eigen/Geometry>

#include "support/meshes.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::ball;
using support::square;

namespace {

float length(const std::array<float, 3>& v) {
    return std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
}

float dot(const float* a, const float* b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

}  // namespace

TEST_CASE("flat normals: one for each triangle, counter-clockwise ones towards the viewer") {
    Primitive part = square(0);
    part.vertices[3].position = {1, 1, -2};  // bends the second triangle
    model::make_flat_normals(part);
    REQUIRE(part.vertices.size() == 6);
    CHECK(part.indices == std::vector<std::uint32_t>{0, 1, 2, 3, 4, 5});
    for (int i = 0; i < 3; ++i)
        CHECK(part.vertices[static_cast<std::size_t>(i)].normal == std::array<float, 3>{0, 0, 1});
    CHECK(part.vertices[3].normal == part.vertices[5].normal);
    CHECK(part.vertices[3].normal[1] > 0.5F);
    // A triangle without an area has a normal all the same.
    Primitive flat = square(0, 0, 0);
    model::make_flat_normals(flat);
    for (const Vertex& vertex : flat.vertices)
        CHECK(length(vertex.normal) == doctest::Approx(1));
}

TEST_CASE("placing keeps normals square to their surfaces, however it is stretched") {
    support::Random random(11);
    std::uniform_real_distribution<float> any(-2, 2);
    for (int round = 0; round < 50; ++round) {
        Eigen::Matrix4f matrix = Eigen::Matrix4f::Identity();
        for (int row = 0; row < 3; ++row)
            for (int column = 0; column < 4; ++column)
                matrix(row, column) = any(random);
        if (std::abs(matrix.determinant()) < 0.1F)
            continue;
        Primitive part = square(0);
        model::place(part, matrix);
        const auto& v = part.vertices;
        Eigen::Vector3f along, up;
        for (int axis = 0; axis < 3; ++axis) {
            const auto c = static_cast<std::size_t>(axis);
            along[axis] = v[2].position[c] - v[1].position[c];
            up[axis] = v[0].position[c] - v[1].position[c];
        }
        for (const Vertex& vertex : v) {
            CHECK(std::abs(dot(vertex.normal.data(), along.normalized().data())) < 1e-3F);
            CHECK(std::abs(dot(vertex.normal.data(), up.normalized().data())) < 1e-3F);
            CHECK(length(vertex.normal) == doctest::Approx(1));
            CHECK(dot(vertex.tangent.data(), along.normalized().data()) > 0.999F);
        }
        // The triangles still turn about their normals.
        const auto corner = [&](std::size_t i) {
            const auto& p = v[part.indices[i]].position;
            return Eigen::Vector3f(p[0], p[1], p[2]);
        };
        const Eigen::Vector3f turned = (corner(1) - corner(0)).cross(corner(2) - corner(0));
        CHECK(dot(turned.data(), v[0].normal.data()) > 0);
    }
}

TEST_CASE("a mirror turns triangles and the side of tangents; a flat matrix is no trouble") {
    Primitive part = square(0);
    Eigen::Matrix4f mirror = Eigen::Matrix4f::Identity();
    mirror(0, 0) = -1;
    model::place(part, mirror);
    CHECK(part.indices == std::vector<std::uint32_t>{0, 2, 1, 0, 3, 2});
    CHECK(part.vertices[0].tangent == std::array<float, 4>{-1, 0, 0, -1});
    CHECK(part.vertices[0].normal == std::array<float, 3>{0, 0, 1});
    Primitive pressed = square(0);
    Eigen::Matrix4f flat = Eigen::Matrix4f::Identity();
    flat(2, 2) = 0;
    model::place(pressed, flat);
    CHECK(pressed.vertices[0].normal == std::array<float, 3>{0, 0, 1});
    Primitive gone = square(0);
    model::place(gone, Eigen::Matrix4f::Zero());
    for (const Vertex& vertex : gone.vertices)
        CHECK(std::isfinite(vertex.normal[2]));
}
