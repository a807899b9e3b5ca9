#include "render/model/projection.hpp"

#include <fmt/format.h>

#include <limits>
#include <numeric>

#include <yl/status_macros.hpp>
#include "render/scene_walk.hpp"

namespace yl {
namespace {

constexpr float filled = 0.92F;  ///< of the picture's sides, by the mesh

Vector3 minus(const Vector3& a, const Vector3& b) {
    return {a[0] - b[0], a[1] - b[1], a[2] - b[2]};
}

template <class Visit>
void each_position(const ModelScene& scene, const Visit& visit) {
    for (const Primitive& part : scene.parts)
        for (const Vertex& vertex : part.vertices)
            visit(vertex.position);
}

Vector3 middle_of(const ModelScene& scene) {
    constexpr float endless = std::numeric_limits<float>::max();
    Vector3 min = {endless, endless, endless}, most = {-endless, -endless, -endless};
    each_position(scene, [&](const Vector3& position) {
        for (std::size_t axis = 0; axis < 3; ++axis) {
            min[axis] = std::min(min[axis], position[axis]);
            most[axis] = std::max(most[axis], position[axis]);
        }
    });
    Vector3 middle{};
    for (std::size_t axis = 0; axis < 3; ++axis)
        middle[axis] = min[axis] <= most[axis] ? min[axis] / 2 + most[axis] / 2 : 0;
    return middle;
}

/// Far enough that all of the mesh is in the picture.
void step_back(const ModelScene& scene, ModelCamera& camera) {
    float closest = 0, deepest = 0;
    camera.distance = 0;
    each_position(scene, [&](const Vector3& position) {
        const Vector3 at = minus(position, camera.middle);
        const float towards = dot(at, camera.back);
        const float across = std::max(std::abs(dot(at, camera.right)) * camera.focal_x,
                                      std::abs(dot(at, camera.up)) * camera.focal_y);
        camera.distance = std::max(camera.distance, towards + across / filled);
        closest = std::max(closest, towards);
        deepest = std::min(deepest, towards);
    });
    const float size = std::max(closest - deepest, 1e-6F);
    camera.distance = std::max(camera.distance, closest + 0.05F * size);
    camera.nearest = std::max(camera.distance - closest, 1e-6F) * 0.9F;
    camera.farthest = std::max((camera.distance - deepest) * 1.1F, 2 * camera.nearest);
    for (std::size_t axis = 0; axis < 3; ++axis)
        camera.eye[axis] = camera.middle[axis] + camera.distance * camera.back[axis];
}

float distance_of(const Primitive& part, const std::uint32_t* triangle, const ModelCamera& camera) {
    float sum = 0;
    for (int corner = 0; corner < 3; ++corner)
        sum += camera.project(part.vertices[triangle[corner]].position).w;
    return sum;
}

/// The triangles of a part, the farthest first.
std::vector<std::uint32_t> sorted_triangles(const Primitive& part, const ModelCamera& camera) {
    std::vector<std::size_t> order(part.indices.size() / 3);
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::vector<float> distances(order.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        distances[i] = distance_of(part, &part.indices[3 * i], camera);
    std::ranges::stable_sort(order, std::greater<>(), [&](std::size_t i) { return distances[i]; });
    std::vector<std::uint32_t> indices;
    indices.reserve(part.indices.size());
    for (const std::size_t i : order)
        indices.insert(indices.end(),
                       {part.indices[3 * i], part.indices[3 * i + 1], part.indices[3 * i + 2]});
    return indices;
}

float middle_distance(const MeshDraw& draw, const ModelCamera& camera) {
    double sum = 0;
    for (const std::uint32_t index : draw.indices)
        sum += camera.project(draw.part->vertices[index].position).w;
    return static_cast<float>(sum /
                              static_cast<double>(std::max<std::size_t>(draw.indices.size(), 1)));
}

Status check_part(const ModelScene& scene, std::size_t number) {
    const Primitive& part = scene.parts[number];
    if (part.surface >= scene.surfaces.size())
        return fail(ErrorKind::malformed, fmt::format("part {} has material {}, of {}", number,
                                                      part.surface, scene.surfaces.size()));
    for (const std::uint32_t index : part.indices)
        if (index >= part.vertices.size())
            return fail(ErrorKind::malformed,
                        fmt::format("part {} has a triangle of vertex {}, and {} vertices", number,
                                    index, part.vertices.size()));
    return {};
}

}  // namespace

ModelCamera::Clip ModelCamera::project(const std::array<float, 3>& position) const {
    const Vector3 at = minus(position, middle);
    return {dot(at, right) * focal_x, -dot(at, up) * focal_y, distance - dot(at, back)};
}

float ModelCamera::depth(float w) const {
    return ((farthest + nearest) * w - 2 * farthest * nearest) / (farthest - nearest);
}

Vector3 ModelCamera::towards_lamp() const {
    Vector3 lamp{};
    for (std::size_t axis = 0; axis < 3; ++axis)
        lamp[axis] = 0.65F * back[axis] + 0.55F * up[axis] - 0.45F * right[axis];
    return normalised(lamp);
}

ModelCamera camera_of(const ModelScene& scene, const ModelView& view) {
    constexpr float degree = std::numbers::pi_v<float> / 180;
    const float yaw = view.yaw * degree, pitch = view.pitch * degree;
    ModelCamera camera;
    camera.middle = middle_of(scene);
    camera.back = {std::sin(yaw) * std::cos(pitch), std::sin(pitch),
                   std::cos(yaw) * std::cos(pitch)};
    camera.right = {std::cos(yaw), 0, -std::sin(yaw)};
    camera.up = cross(camera.back, camera.right);
    const auto width = static_cast<float>(view.width), height = static_cast<float>(view.height);
    const float focal = std::min(width, height) / std::tan(view.field_of_view * degree / 2);
    camera.focal_x = focal / width;
    camera.focal_y = focal / height;
    step_back(scene, camera);
    camera.focal_x *= view.zoom;
    camera.focal_y *= view.zoom;
    return camera;
}

Result<std::vector<MeshDraw>> draws_of(const ModelScene& scene, const ModelCamera& camera) {
    std::vector<MeshDraw> solid, blending;
    for (std::size_t i = 0; i < scene.parts.size(); ++i) {
        YL_CHECK(check_part(scene, i));
        const Primitive& part = scene.parts[i];
        const Material& surface = scene.surfaces[part.surface];
        if (surface.alpha == AlphaUse::blend)
            blending.push_back({&part, &surface, sorted_triangles(part, camera)});
        else
            solid.push_back({&part, &surface, part.indices});
    }
    std::ranges::stable_sort(blending, std::greater<>(),
                             [&](const MeshDraw& draw) { return middle_distance(draw, camera); });
    solid.insert(solid.end(), std::make_move_iterator(blending.begin()),
                 std::make_move_iterator(blending.end()));
    return solid;
}

Result<Image> average_samples(ConstImageView samples) {
    YL_TRY(Image picture, Image::create(Format::rgba8_srgb, samples.width / 2, samples.height / 2));
    const ImageView view = picture.view();
    const RowCodec codec = row_codec(Format::rgba8_srgb, Transfer::srgb);
    parallel_each(view.height, [&](std::size_t index) {
        const auto row = static_cast<std::uint32_t>(index);
        std::vector<Rgba> above(samples.width), below(samples.width), averaged(view.width);
        codec.load(samples.row(2 * row).data(), above[0].data(), samples.width);
        codec.load(samples.row(2 * row + 1).data(), below[0].data(), samples.width);
        for (std::size_t x = 0; x < averaged.size(); ++x)
            for (std::size_t c = 0; c < 4; ++c)
                averaged[x][c] = (above[2 * x][c] + above[2 * x + 1][c] + below[2 * x][c] +
                                  below[2 * x + 1][c]) /
                                 4;
        for (Rgba& pixel : averaged)
            pixel[3] = 1;
        codec.store(averaged[0].data(), view.row(row).data(), view.width);
    });
    return picture;
}

}  // namespace yl
