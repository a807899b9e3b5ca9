// Meshes of squares and other simple shapes.
#pragma once

#include <cmath>
#include <numbers>
#include <yl/yl.hpp>

#include "support/check.hpp"

namespace support {

/// From -1 to 1 in x and y, facing +z, textured upright.
inline yl::Primitive square(std::size_t surface, float z = 0, float half = 1) {
    yl::Primitive part;
    part.surface = surface;
    for (const auto& [x, y] :
         {std::array{-1.0F, 1.0F}, {-1.0F, -1.0F}, {1.0F, -1.0F}, {1.0F, 1.0F}}) {
        yl::Vertex vertex;
        vertex.position = {x * half, y * half, z};
        vertex.coordinates[0] = {0.5F + 0.5F * x, 0.5F - 0.5F * y};
        vertex.coordinates[1] = {0.5F - 0.5F * x, 0.5F + 0.5F * y};
        part.vertices.push_back(vertex);
    }
    part.indices = {0, 1, 2, 0, 2, 3};
    return part;
}

/// A ball of radius 1 about (x, 0, 0), with u running round and v downwards.
inline yl::Primitive ball(std::size_t surface, float x) {
    constexpr std::uint32_t rings = 12, segments = 24;
    yl::Primitive part;
    part.surface = surface;
    for (std::uint32_t ring = 0; ring <= rings; ++ring)
        for (std::uint32_t i = 0; i <= segments; ++i) {
            const float down = std::numbers::pi_v<float> * static_cast<float>(ring) / rings;
            const float round = 2 * std::numbers::pi_v<float> * static_cast<float>(i) / segments;
            yl::Vertex vertex;
            vertex.normal = {std::sin(down) * std::sin(round), std::cos(down),
                             std::sin(down) * std::cos(round)};
            vertex.position = {x + vertex.normal[0], vertex.normal[1], vertex.normal[2]};
            vertex.tangent = {std::cos(round), 0, -std::sin(round), 1};
            vertex.coordinates[0] = {3 * static_cast<float>(i) / segments,
                                     2 * static_cast<float>(ring) / rings};
            vertex.coordinates[1] = {static_cast<float>(i) / segments,
                                     static_cast<float>(ring) / rings};
            vertex.color = {1, 0.5F + 0.5F * std::cos(down), 1, 1};
            part.vertices.push_back(vertex);
        }
    for (std::uint32_t ring = 0; ring < rings; ++ring)
        for (std::uint32_t i = 0; i < segments; ++i) {
            const std::uint32_t a = ring * (segments + 1) + i, b = a + segments + 1;
            part.indices.insert(part.indices.end(), {a, b, b + 1, a, b + 1, a + 1});
        }
    return part;
}

/// Straight from the front, and so that a square from -1 to 1 fills 92 % of the height.
inline yl::ModelView front_view(yl::ModelShow show, std::uint32_t side = 100) {
    yl::ModelView view;
    view.width = view.height = side;
    view.yaw = view.pitch = 0;
    view.show = show;
    return view;
}

inline yl::SurfaceTexture use_of(std::size_t texture, const yl::Sampler& sampler = {}) {
    yl::SurfaceTexture use;
    use.texture = texture;
    use.sampler = sampler;
    return use;
}

}  // namespace support
