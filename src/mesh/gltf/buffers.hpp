// The bytes of a model: its container, and the buffers that its views cut pieces of.
#pragma once

#include <map>
#include <span>

#include <yl/mesh.hpp>
#include "mesh/gltf/json.hpp"

namespace yl::mesh {

/// A .glb file's two chunks, or a .gltf file as JSON alone (glTF 2.0, chapter 4).
///
///     bytes  0 .. 3   "glTF"          12 .. 15  length of the JSON
///            4 .. 7   version, 2      16 .. 19  "JSON"
///            8 .. 11  whole length    20 ..     the JSON, then a chunk "BIN" likewise
struct Container {
    std::span<const std::byte> json = {};
    std::optional<std::span<const std::byte>> binary = {};
};

[[nodiscard]] Result<Container> split_container(std::span<const std::byte> bytes);

/// Buffers are read when a view first wants them.
class Buffers {
 public:
    Buffers(const Json& model, const Container& container, std::filesystem::path folder,
            const ModelReadOptions& options)
        : model_(model), container_(container), folder_(std::move(folder)), options_(options) {}

    /// The bytes of a buffer view, valid as long as this.
    [[nodiscard]] Result<std::span<const std::byte>> view(std::size_t index);

 private:
    [[nodiscard]] Result<std::span<const std::byte>> buffer(std::size_t index);

    const Json& model_;
    const Container& container_;
    std::filesystem::path folder_;
    const ModelReadOptions& options_;
    std::map<std::size_t, std::vector<std::byte>> read_ = {};
};

}  // namespace yl::mesh
