// Triangles of one material (glTF 2.0, section 3.7.2).
#pragma once

#include <yl/model_scene.hpp>
#include "model/gltf/accessors.hpp"

namespace yl::model {

struct PrimitiveSize {
    bool has_triangles = true;  ///< or points, or lines
    std::uint64_t bytes = 0;    ///< of vertices and indices
};

/// May be asked from several threads at the same time.
class PrimitiveReader {
 public:
    PrimitiveReader(const Json& model, Buffers& buffers, const Limits& limits)
        : json_(model), accessors_(model, buffers, limits) {}

    /// Looks at all that the primitive needs, before memory is taken for it. Fails with
    /// `ErrorKind::unsupported` for geometry that is only there compressed.
    [[nodiscard]] Result<PrimitiveSize> size_of(const Json& primitive) const;
    /// In its own coordinates.
    [[nodiscard]] Result<Primitive> read(const Json& primitive) const;

 private:
    [[nodiscard]] bool is_only_packed(const Json& primitive) const;
    [[nodiscard]] Result<std::size_t> vertices_of(const Json& primitive) const;
    [[nodiscard]] std::uint32_t normal_map_set(std::optional<std::size_t> material) const;
    [[nodiscard]] Result<std::vector<std::uint32_t>> indices_of(const Json& primitive,
                                                                std::size_t vertices) const;

    const Json& json_;
    Accessors accessors_;
};

}  // namespace yl::model
