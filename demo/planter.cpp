#include "planter.hpp"

#include <cmath>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>
#include <numbers>

namespace glasshouse {
namespace {

using Json = nlohmann::ordered_json;
using Bytes = std::vector<std::byte>;

// Numbers of OpenGL's enumerants, as glTF takes them.
constexpr int nearest = 9728, linear = 9729, linear_mipmap_linear = 9987;
constexpr int clamp_to_edge = 33071, repeat = 10497, mirrored_repeat = 33648;

struct Shape {
    std::vector<std::array<float, 3>> positions = {}, normals = {};
    std::vector<std::array<float, 2>> coordinates = {};
    std::vector<std::uint16_t> indices = {};

    void add(const std::array<float, 3>& position, const std::array<float, 3>& normal,
             const std::array<float, 2>& coordinate) {
        positions.push_back(position);
        normals.push_back(normal);
        coordinates.push_back(coordinate);
    }
    void add_quad(std::size_t a, std::size_t b, std::size_t c, std::size_t d) {
        for (const std::size_t index : {a, b, c, a, c, d})
            indices.push_back(static_cast<std::uint16_t>(index));
    }
};

/// A profile of radius and height, turned about the vertical axis; u runs round, v downwards.
Shape with_orientation(const std::vector<std::array<float, 2>>& profile, float around, float down) {
    constexpr std::size_t segments = 40;
    Shape shape;
    for (std::size_t ring = 0; ring < profile.size(); ++ring) {
        const auto& before = profile[ring > 0 ? ring - 1 : 0];
        const auto& after = profile[std::min(ring + 1, profile.size() - 1)];
        const float along = after[1] - before[1], out = after[0] - before[0];
        const float length = std::max(std::hypot(along, out), 1e-6F);
        for (std::size_t i = 0; i <= segments; ++i) {
            const float share = static_cast<float>(i) / segments;
            const float angle = share * 2 * std::numbers::pi_v<float>;
            const float s = std::sin(angle), c = std::cos(angle);
            shape.add({s * profile[ring][0], profile[ring][1], c * profile[ring][0]},
                      {-along / length * s, out / length, -along / length * c},
                      {share * around,
                       down * static_cast<float>(ring) / static_cast<float>(profile.size() - 1)});
        }
    }
    const std::size_t row = segments + 1;
    for (std::size_t ring = 0; ring + 1 < profile.size(); ++ring)
        for (std::size_t i = 0; i < segments; ++i)
            shape.add_quad(ring * row + i, (ring + 1) * row + i, (ring + 1) * row + i + 1,
                           ring * row + i + 1);
    return shape;
}

/// A round mound, its coordinates seen from above.
Shape mound(float radius, float height, float top) {
    constexpr std::size_t rings = 8, segments = 40;
    Shape shape;
    for (std::size_t ring = 0; ring <= rings; ++ring)
        for (std::size_t i = 0; i <= segments; ++i) {
            const float out = static_cast<float>(ring) / rings;
            const float angle = static_cast<float>(i) / segments * 2 * std::numbers::pi_v<float>;
            const float x = out * std::sin(angle), z = out * std::cos(angle);
            const float steep = 2 * height / radius * out;
            const float length = std::hypot(1.0F, steep);
            shape.add(
                {radius * x, top + height * (1 - out * out), radius * z},
                {steep * std::sin(angle) / length, 1 / length, steep * std::cos(angle) / length},
                {0.5F + 0.5F * x, 0.5F + 0.5F * z});
        }
    for (std::size_t ring = 0; ring < rings; ++ring)
        for (std::size_t i = 0; i < segments; ++i)
            shape.add_quad(ring * (segments + 1) + i, (ring + 1) * (segments + 1) + i,
                           (ring + 1) * (segments + 1) + i + 1, ring * (segments + 1) + i + 1);
    return shape;
}

/// An upright rectangle that faces the viewer.
Shape sheet(const std::array<float, 3>& middle, float width, float height, float tiles_u,
            float tiles_v) {
    Shape shape;
    for (const auto& [x, y, u, v] : {std::array{-1.0F, 1.0F, 0.0F, 0.0F},
                                     {-1.0F, -1.0F, 0.0F, 1.0F},
                                     {1.0F, -1.0F, 1.0F, 1.0F},
                                     {1.0F, 1.0F, 1.0F, 0.0F}})
        shape.add({middle[0] + x * width / 2, middle[1] + y * height / 2, middle[2]}, {0, 0, 1},
                  {u * tiles_u, v * tiles_v});
    shape.add_quad(0, 1, 2, 3);
    return shape;
}

/// The model's lists, as they grow.
class Builder {
 public:
    Builder() {
        model_ = {{"asset", {{"version", "2.0"}, {"generator", "make_glasshouse"}}},
                  {"scene", 0},
                  {"scenes", {{{"name", "planter"}, {"nodes", Json::array()}}}}};
    }

    std::size_t add(const char* list, const Json& entry) {
        model_[list].push_back(entry);
        return model_[list].size() - 1;
    }

    std::size_t add_view(std::span<const std::byte> bytes, int target = 0) {
        binary_.resize((binary_.size() + 3) / 4 * 4);
        Json view = {{"buffer", 0}, {"byteOffset", binary_.size()}, {"byteLength", bytes.size()}};
        if (target != 0)
            view["target"] = target;
        binary_.insert(binary_.end(), bytes.begin(), bytes.end());
        return add("bufferViews", view);
    }

    void add_part(const char* name, const Shape& shape, std::size_t material,
                  const Json& placement = Json::object()) {
        Json attributes = {{"POSITION", accessor(shape.positions, "VEC3", true)},
                           {"NORMAL", accessor(shape.normals, "VEC3")},
                           {"TEXCOORD_0", accessor(shape.coordinates, "VEC2")}};
        const std::size_t indices = add(
            "accessors", {{"bufferView", add_view(std::as_bytes(std::span(shape.indices)), 34963)},
                          {"componentType", 5123},
                          {"count", shape.indices.size()},
                          {"type", "SCALAR"}});
        Json primitives = Json::array();
        primitives.push_back(
            {{"attributes", attributes}, {"indices", indices}, {"material", material}});
        Json node = {{"name", name},
                     {"mesh", add("meshes", {{"name", name}, {"primitives", primitives}})}};
        node.update(placement);
        model_["scenes"][0]["nodes"].push_back(add("nodes", node));
    }

    [[nodiscard]] yl::Status write(const std::string& path) {
        binary_.resize((binary_.size() + 3) / 4 * 4);
        Json buffers = Json::array();
        buffers.push_back({{"byteLength", binary_.size()}});
        model_["buffers"] = buffers;
        std::string json = model_.dump();
        json.resize((json.size() + 3) / 4 * 4, ' ');
        std::ofstream file(path, std::ios::binary);
        const auto number = [&](std::size_t value) {
            const auto small = static_cast<std::uint32_t>(value);
            file.write(reinterpret_cast<const char*>(&small), sizeof small);
        };
        file.write("glTF", 4);
        number(2);
        number(12 + 8 + json.size() + 8 + binary_.size());
        number(json.size());
        file.write("JSON", 4);
        file.write(json.data(), static_cast<std::streamsize>(json.size()));
        number(binary_.size());
        file.write("BIN\0", 4);
        file.write(reinterpret_cast<const char*>(binary_.data()),
                   static_cast<std::streamsize>(binary_.size()));
        file.close();
        if (file)
            return {};
        return yl::fail_at({yl::ErrorKind::io, "cannot write the model"}, path);
    }

 private:
    template <std::size_t count>
    std::size_t accessor(const std::vector<std::array<float, count>>& values, const char* type,
                         bool has_range = false) {
        Json entry = {{"bufferView", add_view(std::as_bytes(std::span(values)), 34962)},
                      {"componentType", 5126},
                      {"count", values.size()},
                      {"type", type}};
        if (has_range) {
            auto min = values[0], most = values[0];
            for (const auto& value : values)
                for (std::size_t i = 0; i < count; ++i) {
                    min[i] = std::min(min[i], value[i]);
                    most[i] = std::max(most[i], value[i]);
                }
            entry["min"] = min;
            entry["max"] = most;
        }
        return add("accessors", entry);
    }

    Json model_;
    Bytes binary_ = {};
};

yl::Result<Bytes> file_bytes(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    const std::string text{std::istreambuf_iterator<char>(file), {}};
    if (!file || text.empty())
        return yl::fail_at({yl::ErrorKind::io, "cannot read the picture"}, path);
    const auto bytes = std::as_bytes(std::span(text));
    return Bytes(bytes.begin(), bytes.end());
}

std::string base64(const Bytes& bytes) {
    constexpr char digits[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string text;
    for (std::size_t i = 0; i < bytes.size(); i += 3)
        for (std::size_t k = 0; k < 4; ++k) {
            std::uint32_t bits = 0;
            for (std::size_t n = 0; n < 3; ++n)
                bits = bits << 8 |
                       (i + n < bytes.size() ? std::to_integer<unsigned>(bytes[i + n]) : 0);
            text += i + k <= bytes.size() ? digits[bits >> (18 - 6 * k) & 63] : '=';
        }
    return text;
}

Json use(std::size_t texture) {
    return {{"index", texture}};
}

void add_slate_pot(Builder& builder) {
    const std::size_t sampler = builder.add("samplers", {{"magFilter", linear},
                                                         {"minFilter", linear_mipmap_linear},
                                                         {"wrapS", repeat},
                                                         {"wrapT", repeat}});
    const auto texture = [&](const char* file) {
        const std::size_t image = builder.add("images", {{"uri", file}});
        return builder.add("textures", {{"source", image}, {"sampler", sampler}});
    };
    const std::size_t color = texture("slate.png"), normal = texture("slate_normal.png"),
                      rough = texture("slate_roughness.png");
    const std::size_t slate =
        builder.add("materials", {{"name", "slate"},
                                  {"pbrMetallicRoughness",
                                   {{"baseColorTexture", use(color)},
                                    {"metallicRoughnessTexture", use(rough)},
                                    {"metallicFactor", 0}}},
                                  {"normalTexture", {{"index", normal}, {"scale", 0.8}}}});
    builder.add_part("pot",
                     with_orientation({{0.62F, 1.0F},
                                       {0.66F, 1.06F},
                                       {0.80F, 1.06F},
                                       {0.82F, 1.0F},
                                       {0.80F, 0.86F},
                                       {0.72F, 0.82F},
                                       {0.66F, 0.45F},
                                       {0.58F, 0.08F},
                                       {0.54F, 0.04F}},
                                      3, 1.2F),
                     slate);
}

void add_saucer(Builder& builder) {
    const std::size_t image =
        builder.add("images", {{"name", "terracotta"}, {"uri", "terracotta.png"}});
    const std::size_t texture = builder.add("textures", {{"source", image}});
    const std::size_t material = builder.add(
        "materials",
        {{"name", "terracotta"},
         {"pbrMetallicRoughness", {{"baseColorTexture", use(texture)}, {"metallicFactor", 0}}}});
    builder.add_part("saucer",
                     with_orientation({{0.0F, 0.05F},
                                       {0.74F, 0.05F},
                                       {0.84F, 0.16F},
                                       {0.90F, 0.16F},
                                       {0.80F, 0.0F},
                                       {0.0F, 0.0F}},
                                      2, 1),
                     material);
}

void add_moss(Builder& builder, const Bytes& picture) {
    const std::size_t image = builder.add(
        "images",
        {{"name", "moss"}, {"bufferView", builder.add_view(picture)}, {"mimeType", "image/png"}});
    const std::size_t sampler = builder.add("samplers", {{"minFilter", linear_mipmap_linear},
                                                         {"wrapS", mirrored_repeat},
                                                         {"wrapT", mirrored_repeat}});
    const std::size_t texture = builder.add("textures", {{"source", image}, {"sampler", sampler}});
    // Seen three times as fine, and turned a little.
    const Json transform = {{"offset", {0.1, 0.2}}, {"rotation", 0.4}, {"scale", {1.6, 1.6}}};
    const Json color = {{"index", texture}, {"extensions", {{"KHR_texture_transform", transform}}}};
    const std::size_t material =
        builder.add("materials", {{"name", "moss"},
                                  {"pbrMetallicRoughness",
                                   {{"baseColorTexture", color},
                                    {"baseColorFactor", {0.28, 0.42, 0.12, 1.0}},
                                    {"metallicFactor", 0},
                                    {"roughnessFactor", 0.95}}},
                                  {"occlusionTexture", {{"index", texture}, {"strength", 0.6}}}});
    builder.add("extensionsUsed", "KHR_texture_transform");
    builder.add_part("soil", mound(0.66F, 0.16F, 0.94F), material);
}

void add_trellis(Builder& builder) {
    const std::size_t image = builder.add("images", {{"uri", "lattice.png"}});
    const std::size_t texture = builder.add("textures", {{"source", image}});
    const std::size_t material = builder.add(
        "materials",
        {{"name", "trellis"},
         {"alphaMode", "MASK"},
         {"alphaCutoff", 0.5},
         {"doubleSided", true},
         {"pbrMetallicRoughness",
          {{"baseColorTexture", use(texture)}, {"metallicFactor", 0}, {"roughnessFactor", 0.6}}}});
    builder.add_part("trellis", sheet({0, 1.85F, 0}, 1.3F, 1.7F, 1, 1.3F), material,
                     {{"translation", {0, 0, -0.25}}, {"rotation", {-0.052, 0, 0, 0.99865}}});
}

void add_label(Builder& builder, const Bytes& picture) {
    const std::size_t image = builder.add(
        "images", {{"name", "label"}, {"uri", "data:image/png;base64," + base64(picture)}});
    const std::size_t sampler = builder.add("samplers", {{"magFilter", nearest},
                                                         {"minFilter", linear},
                                                         {"wrapS", clamp_to_edge},
                                                         {"wrapT", clamp_to_edge}});
    const std::size_t texture = builder.add("textures", {{"source", image}, {"sampler", sampler}});
    const std::size_t material = builder.add(
        "materials",
        {{"name", "label"},
         {"alphaMode", "BLEND"},
         {"doubleSided", true},
         {"pbrMetallicRoughness", {{"baseColorTexture", use(texture)}, {"metallicFactor", 0}}}});
    builder.add_part("label", sheet({0, 0, 0}, 0.54F, 0.35F, 1, 1), material,
                     {{"translation", {0.28, 1.28, 0.42}}, {"rotation", {-0.17, 0.13, 0, 0.977}}});
}

}  // namespace

yl::Status write_planter(const std::string& folder) {
    const auto moss = file_bytes(folder + "/moss.png"), label = file_bytes(folder + "/label.png");
    if (!moss)
        return tl::unexpected(moss.error());
    if (!label)
        return tl::unexpected(label.error());
    Builder builder;
    add_slate_pot(builder);
    add_saucer(builder);
    add_moss(builder, *moss);
    add_trellis(builder);
    add_label(builder, *label);
    return builder.write(folder + "/planter.glb");
}

}  // namespace glasshouse
