// Triangles of a glTF model, where its scene puts them (glTF 2.0, sections 3.5 and 3.7).
#include <Eigen/Dense>
#include <Eigen/Geometry>

#include "base/attempt.hpp"
#include "mesh/gltf/accessors.hpp"
#include "mesh/gltf/source.hpp"
#include "mesh/tangents.hpp"
#include "mesh/vertices.hpp"

namespace yl::mesh {
namespace {

/// Drawing modes by their OpenGL numbers.
enum class Mode : std::uint64_t { triangles = 4, strip = 5, fan = 6 };

std::vector<std::uint32_t> as_triangles(const std::vector<std::uint32_t>& from, Mode mode) {
    std::vector<std::uint32_t> indices;
    if (mode == Mode::triangles) {
        indices.assign(from.begin(), from.end() - static_cast<std::ptrdiff_t>(from.size() % 3));
        return indices;
    }
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

Eigen::Matrix4f matrix_of_node(const Json& node) {
    const auto given =
        numbers_of<16>(node, "matrix", {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1});
    if (member(node, "matrix").is_array())
        return Eigen::Map<const Eigen::Matrix4f>(given.data());
    const auto t = numbers_of<3>(node, "translation", {0, 0, 0});
    const auto r = numbers_of<4>(node, "rotation", {0, 0, 0, 1});
    const auto s = numbers_of<3>(node, "scale", {1, 1, 1});
    const Eigen::Affine3f placed = Eigen::Translation3f(t[0], t[1], t[2]) *
                                   Eigen::Quaternionf(r[3], r[0], r[1], r[2]).normalized() *
                                   Eigen::Scaling(s[0], s[1], s[2]);
    return placed.matrix();
}

class GeometryReader {
 public:
    GeometryReader(const GltfSource& source, Findings& findings)
        : json_(source.json()),
          container_(source.container()),
          buffers_(json_, container_, source.folder(), source.options()),
          accessors_(json_, buffers_, source.options().limits),
          most_vertices_(source.options().limits.greatest_bytes / sizeof(MeshVertex)),
          findings_(findings),
          is_placed_(count_of(json_, "nodes")) {}

    Result<std::vector<MeshPart>> read() {
        YL_TRY(const auto scene, index_of(json_, "scene", json_, "scenes"));
        if (count_of(json_, "scenes") > 0) {
            const Json& roots = list_of(json_, "scenes")[scene.value_or(0)];
            YL_CHECK(add_nodes(roots, "nodes", Eigen::Matrix4f::Identity(), 0));
        } else {
            for (std::size_t mesh = 0; mesh < count_of(json_, "meshes"); ++mesh)
                YL_CHECK(add_mesh(mesh, Eigen::Matrix4f::Identity()));
        }
        if (left_out_ > 0)
            findings_.push_back({fmt::format("{} primitives are points or lines", left_out_),
                                 "nothing has to be done: only triangles are drawn"});
        return std::move(parts_);
    }

 private:
    Status add_nodes(const Json& parent, const char* key, const Eigen::Matrix4f& above, int depth) {
        if (depth > 200)
            return fail(ErrorKind::malformed, "nodes are more than 200 deep");
        for (const Json& child : list_of(parent, key)) {
            if (!child.is_number_unsigned() ||
                child.get<std::uint64_t>() >= count_of(json_, "nodes"))
                return fail(ErrorKind::malformed,
                            fmt::format("a child is node {}, and there are {} nodes",
                                        child.dump().substr(0, 40), count_of(json_, "nodes")));
            const auto index = child.get<std::size_t>();
            if (is_placed_[index])
                return fail(ErrorKind::malformed,
                            fmt::format("node {} stands in two places, or in a circle", index));
            is_placed_[index] = true;
            const Json& node = list_of(json_, "nodes")[index];
            const Eigen::Matrix4f matrix = above * matrix_of_node(node);
            YL_TRY(const auto mesh, index_of(node, "mesh", json_, "meshes"));
            if (mesh)
                YL_CHECK(add_mesh(*mesh, matrix));
            YL_CHECK(add_nodes(node, "children", matrix, depth + 1));
        }
        return {};
    }

    Status add_mesh(std::size_t mesh, const Eigen::Matrix4f& matrix) {
        for (const Json& primitive : list_of(list_of(json_, "meshes")[mesh], "primitives")) {
            auto part = read_part(primitive);
            if (!part && part.error().kind == ErrorKind::unsupported) {
                findings_.push_back(
                    {fmt::format("mesh {} is left out: {}", mesh, part.error().sentence()),
                     "store its geometry without that extension"});
                continue;
            }
            if (!part)
                return tl::unexpected(part.error());
            vertices_ += part->vertices.size() + 1;
            if (vertices_ > most_vertices_)
                return fail(ErrorKind::limit,
                            fmt::format("the scene has more than {} vertices", most_vertices_));
            if (part->indices.empty())
                continue;
            place(*part, matrix);
            parts_.push_back(std::move(*part));
        }
        return {};
    }

    Result<MeshPart> read_part(const Json& primitive) {
        YL_TRY(const auto mode, whole_of(primitive, "mode"));
        MeshPart part;
        if (mode.value_or(4) < 4 || mode.value_or(4) > 6) {
            ++left_out_;
            return part;
        }
        if (member_at(primitive, "extensions/KHR_draco_mesh_compression").is_object())
            return fail(ErrorKind::unsupported, "it is compressed by KHR_draco_mesh_compression");
        YL_TRY(const auto material, index_of(primitive, "material", json_, "materials"));
        part.surface = material.value_or(count_of(json_, "materials"));
        YL_CHECK(read_vertices(member(primitive, "attributes"), part));
        YL_TRY(std::vector<std::uint32_t> indices, indices_of(primitive, part.vertices.size()));
        part.indices = as_triangles(indices, static_cast<Mode>(mode.value_or(4)));
        const Json& attributes = member(primitive, "attributes");
        const bool has_normals = !member(attributes, "NORMAL").is_null();
        if (!has_normals)
            make_flat_normals(part);
        if (!has_normals || member(attributes, "TANGENT").is_null())
            make_tangents(part, normal_map_set(material));
        return part;
    }

    /// The set of coordinates by which the material's normal map is read.
    std::uint32_t normal_map_set(std::optional<std::size_t> material) const {
        if (!material)
            return 0;
        const Json& map = member(list_of(json_, "materials")[*material], "normalTexture");
        const Json& other = member_at(map, "extensions/KHR_texture_transform");
        const bool is_second = member(other, "texCoord").is_null() ? member(map, "texCoord") == 1
                                                                   : member(other, "texCoord") == 1;
        return is_second ? 1 : 0;
    }

    Result<std::vector<std::uint32_t>> indices_of(const Json& primitive, std::size_t vertices) {
        YL_TRY(const auto accessor, index_of(primitive, "indices", json_, "accessors"));
        std::vector<std::uint32_t> indices;
        if (accessor) {
            YL_TRY(indices, accessors_.indices(*accessor));
        } else {
            indices.resize(vertices);
            for (std::size_t i = 0; i < vertices; ++i)
                indices[i] = static_cast<std::uint32_t>(i);
        }
        for (const std::uint32_t index : indices)
            if (index >= vertices)
                return fail(ErrorKind::malformed,
                            fmt::format("a triangle has vertex {}, of {}", index, vertices));
        return indices;
    }

    Status read_vertices(const Json& attributes, MeshPart& part) {
        YL_TRY(const auto positions, attribute(attributes, "POSITION", 3, {}));
        if (!positions)
            return fail(ErrorKind::malformed, "a primitive has no positions");
        const std::size_t count = positions->count;
        part.vertices.resize(count);
        const auto fill = [&](const std::optional<Elements>& from, auto&& target) {
            for (std::size_t i = 0; from && i < count; ++i)
                std::copy_n(from->at(i), from->components, target(part.vertices[i]));
        };
        YL_TRY(const auto normals, attribute(attributes, "NORMAL", 3, count));
        YL_TRY(const auto tangents, attribute(attributes, "TANGENT", 4, count));
        YL_TRY(const auto first, attribute(attributes, "TEXCOORD_0", 2, count));
        YL_TRY(const auto second, attribute(attributes, "TEXCOORD_1", 2, count));
        YL_TRY(const auto colors, attribute(attributes, "COLOR_0", 0, count));
        fill(positions, [](MeshVertex& vertex) { return vertex.position.data(); });
        fill(normals, [](MeshVertex& vertex) { return vertex.normal.data(); });
        fill(tangents, [](MeshVertex& vertex) { return vertex.tangent.data(); });
        fill(first, [](MeshVertex& vertex) { return vertex.coordinates[0].data(); });
        fill(second, [](MeshVertex& vertex) { return vertex.coordinates[1].data(); });
        fill(colors, [](MeshVertex& vertex) { return vertex.color.data(); });
        part.has_coordinates = first.has_value();
        return {};
    }

    /// Of so many components (0: three or four) and, unless it is the first, elements.
    Result<std::optional<Elements>> attribute(const Json& attributes, const char* key,
                                              std::size_t components,
                                              std::optional<std::size_t> count) {
        YL_TRY(const auto index, index_of(attributes, key, json_, "accessors"));
        if (!index)
            return std::optional<Elements>();
        YL_TRY(Elements elements, accessors_.floats(*index));
        const bool suits = components != 0 ? elements.components == components
                                           : elements.components == 3 || elements.components == 4;
        if (!suits || (count && elements.count != *count))
            return fail(ErrorKind::malformed,
                        fmt::format("{} has {} elements of {} components", key, elements.count,
                                    elements.components));
        return std::optional(std::move(elements));
    }

    const Json& json_;
    const Container& container_;
    Buffers buffers_;
    Accessors accessors_;
    std::uint64_t most_vertices_;
    Findings& findings_;
    std::vector<bool> is_placed_;  ///< nodes
    std::vector<MeshPart> parts_ = {};
    std::uint64_t vertices_ = 0;
    std::size_t left_out_ = 0;
};

}  // namespace

Result<std::vector<MeshPart>> GltfSource::parts(Findings& findings) const {
    return GeometryReader(*this, findings).read();
}

}  // namespace yl::mesh
