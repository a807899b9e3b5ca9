// glTF models written in a test.
#pragma once

#include <cstring>
#include <nlohmann/json.hpp>
#include <yl/model.hpp>
#include <yl/picture.hpp>

#include "support/check.hpp"

namespace support::models {

// What every test of models speaks of.
using namespace yl;
using namespace yl::model;
using nlohmann::json;
using support::contains;
using support::must;
using support::must_fail;

inline std::vector<std::byte> png(std::uint32_t side, std::uint8_t shade = 90) {
    yl::Image image = must(yl::Image::create(yl::Format::rgba8_srgb, side, side));
    std::memset(image.view().data, shade, std::size_t{side} * side * 4);
    return must(yl::encode_picture("png", image.view()));
}

inline std::string base64(std::span<const std::byte> bytes) {
    constexpr char alphabet[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string text;
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t bits = 0;
        for (std::size_t k = 0; k < 3; ++k)
            bits = bits << 8 |
                   (i + k < bytes.size() ? std::to_integer<std::uint32_t>(bytes[i + k]) : 0);
        for (int k = 3; k >= 0; --k)
            text += alphabet[bits >> (6 * k) & 63];
    }
    for (std::size_t i = 0; i < (3 - bytes.size() % 3) % 3; ++i)
        text[text.size() - 1 - i] = '=';
    return text;
}

inline std::string data_uri(std::span<const std::byte> bytes) {
    return "data:image/png;base64," + base64(bytes);
}

inline json model_of(const json& images, const json& textures, const json& materials) {
    return {{"asset", {{"version", "2.0"}}},
            {"images", images},
            {"textures", textures},
            {"materials", materials}};
}

inline yl::Result<yl::model::Model> read(const json& model, const std::string& folder = "/nowhere",
                                         const yl::model::ModelReadOptions& options = {}) {
    const std::string text = model.dump();
    return yl::model::read_model(std::as_bytes(std::span(text)), folder, options);
}

/// A list of one thing; braces alone would make it that thing.
inline json list_of(const json& thing) {
    json list = json::array();
    list.push_back(thing);
    return list;
}

inline json base_color(std::size_t texture) {
    return {{"name", "stone"},
            {"pbrMetallicRoughness", {{"baseColorTexture", {{"index", texture}}}}}};
}

inline void append(std::vector<std::byte>& bytes, std::uint32_t number) {
    for (int i = 0; i < 4; ++i)
        bytes.push_back(static_cast<std::byte>(number >> 8 * i));
}

inline std::vector<std::byte> glb(const json& model, std::vector<std::byte> binary) {
    std::string text = model.dump();
    text.resize((text.size() + 3) / 4 * 4, ' ');
    binary.resize((binary.size() + 3) / 4 * 4);
    std::vector<std::byte> bytes;
    append(bytes, 0x46546C67);
    append(bytes, 2);
    append(bytes, static_cast<std::uint32_t>(12 + 8 + text.size() + 8 + binary.size()));
    append(bytes, static_cast<std::uint32_t>(text.size()));
    append(bytes, 0x4E4F534A);
    for (const char c : text)
        bytes.push_back(static_cast<std::byte>(c));
    append(bytes, static_cast<std::uint32_t>(binary.size()));
    append(bytes, 0x004E4942);
    bytes.insert(bytes.end(), binary.begin(), binary.end());
    return bytes;
}

/// Bytes of numbers, one after the other.
template <class T>
std::vector<std::byte> bytes_of_numbers(const std::vector<T>& numbers) {
    const auto bytes = std::as_bytes(std::span(numbers));
    return {bytes.begin(), bytes.end()};
}

/// A model whose buffer grows with what is added to it.
class Builder {
 public:
    json model = {{"asset", {{"version", "2.0"}}}};
    std::vector<std::byte> binary = {};
    json more_buffers = json::array();  ///< after the one of `binary`

    std::size_t add(const char* list, const json& entry) {
        model[list].push_back(entry);
        return model[list].size() - 1;
    }
    std::size_t add_view(std::span<const std::byte> bytes) {
        binary.resize((binary.size() + 3) / 4 * 4);
        const json view = {
            {"buffer", 0}, {"byteOffset", binary.size()}, {"byteLength", bytes.size()}};
        binary.insert(binary.end(), bytes.begin(), bytes.end());
        return add("bufferViews", view);
    }
    /// Floats, unless another type of components is given.
    template <class T>
    std::size_t add_accessor(const std::vector<T>& numbers, const char* type, std::size_t count,
                             int component = 5126) {
        return add("accessors", {{"bufferView", add_view(bytes_of_numbers(numbers))},
                                 {"componentType", component},
                                 {"count", count},
                                 {"type", type}});
    }
    /// A square from -1 to 1 that faces +z, textured upright; gives the mesh.
    std::size_t add_square(std::size_t material, float z = 0) {
        const std::size_t positions =
            add_accessor<float>({-1, 1, z, -1, -1, z, 1, -1, z, 1, 1, z}, "VEC3", 4);
        const std::size_t coordinates = add_accessor<float>({0, 0, 0, 1, 1, 1, 1, 0}, "VEC2", 4);
        const std::size_t indices =
            add_accessor<std::uint16_t>({0, 1, 2, 0, 2, 3}, "SCALAR", 6, 5123);
        const json primitive = {
            {"attributes", {{"POSITION", positions}, {"TEXCOORD_0", coordinates}}},
            {"indices", indices},
            {"material", material}};
        return add("meshes", {{"primitives", list_of(primitive)}});
    }
    [[nodiscard]] std::vector<std::byte> glb() {
        model["buffers"] = list_of({{"byteLength", binary.size()}});
        model["buffers"].insert(model["buffers"].end(), more_buffers.begin(), more_buffers.end());
        return models::glb(model, binary);
    }
    [[nodiscard]] yl::model::Model read() { return must(yl::model::read_model(glb(), "/nowhere")); }
};

}  // namespace support::models
