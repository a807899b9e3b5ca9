// Numbers of a model's vertices and indices (glTF 2.0, section 3.6.2).
#pragma once

#include "mesh/gltf/buffers.hpp"

namespace yl::mesh {

/// An accessor's elements as floats: `components` of each, one after the other.
struct Elements {
    std::size_t count = 0;
    std::size_t components = 1;
    std::vector<float> values = {};

    [[nodiscard]] const float* at(std::size_t index) const { return &values[index * components]; }
};

class Accessors {
 public:
    Accessors(const Json& model, Buffers& buffers, const ReadLimits& limits)
        : model_(model), buffers_(buffers), limits_(limits) {}

    /// Normalised integers become fractions; sparse accessors are filled in.
    [[nodiscard]] Result<Elements> floats(std::size_t index);
    [[nodiscard]] Result<std::vector<std::uint32_t>> indices(std::size_t index);

 private:
    struct Layout;
    [[nodiscard]] Result<Layout> layout_of(std::size_t index) const;
    [[nodiscard]] Status read_values(const Layout& layout, std::size_t index, Elements& elements);
    [[nodiscard]] Status read_sparse(const Layout& layout, const Json& sparse, Elements& elements);
    [[nodiscard]] Result<ByteSpan> bytes_of(const Json& entry, std::uint64_t count,
                                            std::uint64_t element, std::uint64_t stride,
                                            const char* what);

    const Json& model_;
    Buffers& buffers_;
    const ReadLimits& limits_;
};

}  // namespace yl::mesh
