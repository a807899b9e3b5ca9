// Numbers of a model's vertices and indices (glTF 2.0, section 3.6.2).
#pragma once

#include "model/gltf/buffers.hpp"

namespace yl::model {

struct ElementKind {
    std::size_t count = 0;
    std::size_t components = 1;
};

/// May be asked from several threads at the same time.
class Accessors {
 public:
    Accessors(const Json& model, Buffers& buffers, const Limits& limits)
        : model_(model), buffers_(buffers), limits_(limits) {}

    /// What an accessor holds, all of whose bytes are there.
    [[nodiscard]] Result<ElementKind> kind(std::size_t index) const;
    /// Writes an accessor's elements as floats, the first one at `target`, each `step` bytes after
    /// the one before. Normalised integers become fractions; sparse accessors are filled in.
    [[nodiscard]] Status read_floats(std::size_t index, std::byte* target, std::size_t step) const;
    /// The same of indices into vertices, which have types of their own.
    [[nodiscard]] Result<std::size_t> index_count(std::size_t index) const;
    [[nodiscard]] Result<std::vector<std::uint32_t>> indices(std::size_t index) const;

 private:
    struct Layout;
    struct Values;
    [[nodiscard]] Result<Layout> layout_of(std::size_t index) const;
    [[nodiscard]] Result<Values> values_of(const Layout& layout, std::size_t index) const;
    [[nodiscard]] Result<Values> indices_at(std::size_t index) const;
    [[nodiscard]] Status read_sparse(const Layout& layout, const Json& sparse, std::byte* target,
                                     std::size_t step) const;
    [[nodiscard]] Result<ByteSpan> bytes_of(const Json& entry, std::uint64_t count,
                                            std::uint64_t element, std::uint64_t stride,
                                            const std::string& what) const;
    [[nodiscard]] bool is_only_packed(const Json& view) const;

    const Json& model_;
    Buffers& buffers_;
    const Limits& limits_;
};

}  // namespace yl::model
