// Tangents that models leave out, against values worked out by hand.
#include "model/tangents.hpp"

#include <algorithm>

#include "support/meshes.hpp"

using namespace yl;
using support::ball;
using support::square;

namespace {

float dot(const float* a, const float* b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

Vertex at(float x, float y, float u, float v) {
    Vertex vertex;
    vertex.position = {x, y, 0};
    vertex.tangent = {0, 0, 0, 0};
    vertex.coordinates[0] = {u, v};
    return vertex;
}

/// Two triangles at the origin, of 90 and 45 degrees there, whose u runs along x, and along (1,
/// -1).
Primitive bent_coordinates() {
    Primitive part;
    part.vertices = {at(0, 0, 0, 0), at(1, 0, 1, 0), at(0, 1, 0, -1), at(-1, 1, -1, 0)};
    part.indices = {0, 1, 2, 0, 2, 3};
    return part;
}

void check_tangent(const Vertex& vertex, float x, float y, float side) {
    CHECK(vertex.tangent[0] == doctest::Approx(x).epsilon(1e-4));
    CHECK(vertex.tangent[1] == doctest::Approx(y).epsilon(1e-4));
    CHECK(std::abs(vertex.tangent[2]) < 1e-6F);
    CHECK(vertex.tangent[3] == side);
}

}  // namespace

TEST_CASE("tangents of a ball run round it, square to its normals") {
    Primitive part = ball(0, 0);
    const auto expected = part.vertices;
    for (Vertex& vertex : part.vertices)
        vertex.tangent = {0, 0, 0, 0};
    model::make_tangents(part);
    REQUIRE(part.vertices.size() == expected.size());
    for (std::size_t i = 0; i < part.vertices.size(); ++i) {
        const Vertex& vertex = part.vertices[i];
        CHECK(std::abs(dot(vertex.tangent.data(), vertex.normal.data())) < 1e-4F);
        const bool is_pole = std::abs(vertex.normal[1]) > 0.99F;
        if (!is_pole) {
            CHECK(dot(vertex.tangent.data(), vertex.tangent.data()) == doctest::Approx(1));
            CHECK(dot(vertex.tangent.data(), expected[i].tangent.data()) > 0.98F);
            CHECK(vertex.tangent[3] == 1);
        }
    }
}

TEST_CASE("tangents without coordinates are square to the normal, and finite") {
    Primitive part = square(0);
    for (Vertex& vertex : part.vertices)
        vertex.coordinates[0] = {0.3F, 0.3F};
    model::make_tangents(part);
    CHECK(part.vertices.size() == 4);
    for (const Vertex& vertex : part.vertices) {
        CHECK(dot(vertex.tangent.data(), vertex.tangent.data()) == doctest::Approx(1));
        CHECK(std::abs(vertex.tangent[2]) < 1e-6F);
    }
}

TEST_CASE("each triangle counts by its angle at the vertex") {
    Primitive part = bent_coordinates();
    model::make_tangents(part);
    REQUIRE(part.vertices.size() == 4);
    // 2 (1, 0) + (1, -1) / sqrt 2, and (1, 0) + 2 (1, -1) / sqrt 2, of length 1.
    check_tangent(part.vertices[0], 0.96753F, -0.25272F, 1);
    check_tangent(part.vertices[2], 0.86286F, -0.50544F, 1);
    check_tangent(part.vertices[1], 1, 0, 1);
    check_tangent(part.vertices[3], std::sqrt(0.5F), -std::sqrt(0.5F), 1);
}

TEST_CASE("equal vertices are one, others are not") {
    Primitive part = bent_coordinates();
    part.vertices.push_back(part.vertices[0]);
    part.vertices.push_back(part.vertices[2]);
    part.indices = {0, 1, 2, 4, 5, 3};
    Primitive apart = part;
    model::make_tangents(part);
    CHECK(part.vertices[4].tangent == part.vertices[0].tangent);
    check_tangent(part.vertices[0], 0.96753F, -0.25272F, 1);
    apart.vertices[4].normal = {0, 0.1F, 1};  // a crease
    model::make_tangents(apart);
    check_tangent(apart.vertices[0], 1, 0, 1);
    CHECK(apart.vertices[4].tangent[1] < -0.6F);
}

TEST_CASE("where the picture is mirrored, vertices are parted: each side has its own") {
    Primitive part;
    part.vertices = {at(0, 0, 0, 1), at(1, 0, 1, 1), at(0, 1, 0, 0), at(-1, 0, 1, 1)};
    part.indices = {0, 1, 2, 0, 2, 3};
    model::make_tangents(part);
    REQUIRE(part.vertices.size() == 6);
    for (std::size_t i = 0; i < 6; ++i) {
        const bool is_right = i < 3;
        check_tangent(part.vertices[part.indices[i]], is_right ? 1.0F : -1.0F, 0,
                      is_right ? 1.0F : -1.0F);
    }
    CHECK(part.vertices[part.indices[3]].position == part.vertices[0].position);
}

TEST_CASE("triangles that touch at one point alone do not share its tangent") {
    Primitive part;
    part.vertices = {at(0, 0, 0, 0), at(1, 0, 1, 0), at(1, 1, 1, -1), at(0, -1, 1, 0),
                     at(1, -1, 1, -1)};
    part.indices = {0, 1, 2, 0, 3, 4};
    model::make_tangents(part);
    REQUIRE(part.vertices.size() == 6);
    check_tangent(part.vertices[part.indices[0]], 1, 0, 1);
    check_tangent(part.vertices[part.indices[3]], 0, -1, 1);
}

TEST_CASE("triangles that are flat in the picture take their neighbours' tangents") {
    Primitive part = bent_coordinates();
    part.vertices.push_back(at(-1, -1, 0, 0));
    part.vertices.push_back(at(0, -1, 0, 0));
    part.indices.insert(part.indices.end(), {0, 4, 5});
    model::make_tangents(part);
    CHECK(part.vertices.size() == 6);
    check_tangent(part.vertices[0], 0.96753F, -0.25272F, 1);
    for (const std::size_t lonely : {4U, 5U})
        CHECK(dot(part.vertices[lonely].tangent.data(), part.vertices[lonely].tangent.data()) ==
              doctest::Approx(1));
}

TEST_CASE("the second set of coordinates has tangents of its own") {
    Primitive part = square(0);  // whose second set is turned by half a turn
    model::make_tangents(part, 1);
    for (const Vertex& vertex : part.vertices)
        check_tangent(vertex, -1, 0, 1);
}
