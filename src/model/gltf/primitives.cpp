#include "model/gltf/primitives.hpp"

#include <cstddef>
#include <numeric>

#include <yl/status_macros.hpp>
#include "model/tangents.hpp"
#include "model/vertices.hpp"

namespace yl::model {
namespace {

/// Drawing modes by their OpenGL numbers.
enum class Mode : std::uint64_t { triangles = 4, strip = 5, fan = 6 };

std::vector<std::uint32_t> as_triangles(std::vector<std::uint32_t> from, Mode mode) {
    if (mode == Mode::triangles) {
        from.resize(from.size() - from.size() % 3);
        return from;
    }
    std::vector<std::uint32_t> indices;
    indices.reserve(from.size() * 3);
    for (std::size_t i = 2; i < from.size(); ++i) {
        const bool is_odd = i % 2 == 1;
        const std::uint32_t a = mode == Mode::fan ? from[0] : from[is_odd ? i - 1 : i - 2];
        const std::uint32_t b = mode == Mode::fan || !is_odd ? from[i - 1] : from[i - 2];
        for (const std::uint32_t index : {a, b, from[i]})
            indices.push_back(index);
    }
    return indices;
}

/// What a vertex has, and where it goes.
struct Attribute {
    const char* name;
    std::size_t min_components, most_components;
    std::size_t offset;  ///< bytes
};

constexpr std::size_t set_bytes = sizeof(Vertex::coordinates[0]);
constexpr Attribute vertex_attributes[] = {
    {"POSITION", 3, 3, offsetof(Vertex, position)},
    {"NORMAL", 3, 3, offsetof(Vertex, normal)},
    {"TANGENT", 4, 4, offsetof(Vertex, tangent)},
    {"TEXCOORD_0", 2, 2, offsetof(Vertex, coordinates)},
    {"TEXCOORD_1", 2, 2, offsetof(Vertex, coordinates) + set_bytes},
    {"COLOR_0", 3, 4, offsetof(Vertex, color)},
};

bool has(const Json& primitive, const char* attribute) {
    return !member(member(primitive, "attributes"), attribute).is_null();
}

}  // namespace

/// Files may keep plain vertices beside compressed ones.
bool PrimitiveReader::is_only_packed(const Json& primitive) const {
    if (!member_at(primitive, "extensions/KHR_draco_mesh_compression").is_object())
        return false;
    const auto positions =
        index_of(member(primitive, "attributes"), "POSITION", json_, "accessors");
    return !positions || !*positions ||
           member(list_of(json_, "accessors")[**positions], "bufferView").is_null();
}

/// How many there are, when all of their attributes are as they should be.
Result<std::size_t> PrimitiveReader::vertices_of(const Json& primitive) const {
    const Json& attributes = member(primitive, "attributes");
    std::optional<std::size_t> count;
    for (const Attribute& attribute : vertex_attributes) {
        YL_TRY(const auto index, index_of(attributes, attribute.name, json_, "accessors"));
        if (!index && !count)
            return fail(ErrorKind::malformed, "a primitive has no positions");
        if (!index)
            continue;
        YL_TRY(const ElementKind kind, accessors_.kind(*index));
        if (kind.components < attribute.min_components ||
            kind.components > attribute.most_components || kind.count != count.value_or(kind.count))
            return fail(ErrorKind::malformed,
                        fmt::format("{} has {} elements of {} components", attribute.name,
                                    kind.count, kind.components));
        count = kind.count;
    }
    return *count;
}

Result<PrimitiveSize> PrimitiveReader::size_of(const Json& primitive) const {
    YL_TRY(const auto mode, whole_of(primitive, "mode"));
    if (mode.value_or(4) < 4 || mode.value_or(4) > 6)
        return PrimitiveSize{.has_triangles = false};
    if (is_only_packed(primitive))
        return fail(ErrorKind::unsupported, "it is compressed by KHR_draco_mesh_compression");
    YL_TRY(const std::uint64_t vertices, vertices_of(primitive));
    YL_TRY(const auto indices, index_of(primitive, "indices", json_, "accessors"));
    std::uint64_t corners = vertices;
    if (indices) {
        YL_TRY(corners, accessors_.index_count(*indices));
    }
    if (mode.value_or(4) != 4)
        corners *= 3;
    const std::uint64_t corner_bytes =
        sizeof(std::uint32_t) + (has(primitive, "NORMAL") ? 0 : sizeof(Vertex));
    return PrimitiveSize{.bytes = sizeof(Primitive) + vertices * sizeof(Vertex) +
                                  corners * corner_bytes};
}

Result<Primitive> PrimitiveReader::read(const Json& primitive) const {
    Primitive part;
    YL_TRY(const auto material, index_of(primitive, "material", json_, "materials"));
    YL_TRY(const auto mode, whole_of(primitive, "mode"));
    part.surface = material.value_or(count_of(json_, "materials"));
    part.has_coordinates = has(primitive, "TEXCOORD_0");
    YL_TRY(const std::size_t count, vertices_of(primitive));
    part.vertices.resize(count);
    auto* first = reinterpret_cast<std::byte*>(part.vertices.data());
    for (const Attribute& attribute : vertex_attributes) {
        YL_TRY(const auto index,
               index_of(member(primitive, "attributes"), attribute.name, json_, "accessors"));
        if (index && count > 0)
            YL_CHECK(accessors_.read_floats(*index, first + attribute.offset, sizeof(Vertex)));
    }
    YL_TRY(std::vector<std::uint32_t> indices, indices_of(primitive, count));
    part.indices = as_triangles(std::move(indices), static_cast<Mode>(mode.value_or(4)));
    if (!has(primitive, "NORMAL"))
        make_flat_normals(part);
    if (!has(primitive, "NORMAL") || !has(primitive, "TANGENT"))
        make_tangents(part, normal_map_set(material));
    return part;
}

/// The set of coordinates by which the material's normal map is read.
std::uint32_t PrimitiveReader::normal_map_set(std::optional<std::size_t> material) const {
    if (!material)
        return 0;
    const Json& map = member(list_of(json_, "materials")[*material], "normalTexture");
    const Json& other = member(member_at(map, "extensions/KHR_texture_transform"), "texCoord");
    return (other.is_null() ? member(map, "texCoord") : other) == 1 ? 1 : 0;
}

Result<std::vector<std::uint32_t>> PrimitiveReader::indices_of(const Json& primitive,
                                                               std::size_t vertices) const {
    YL_TRY(const auto accessor, index_of(primitive, "indices", json_, "accessors"));
    std::vector<std::uint32_t> indices;
    if (accessor) {
        YL_TRY(indices, accessors_.indices(*accessor));
    } else {
        indices.resize(vertices);
        std::iota(indices.begin(), indices.end(), 0U);
    }
    for (const std::uint32_t index : indices)
        if (index >= vertices)
            return fail(ErrorKind::malformed,
                        fmt::format("a triangle has vertex {}, of {}", index, vertices));
    return indices;
}

}  // namespace yl::model
