// The bytes of a model: its container, and the buffers that its views cut pieces of.
#pragma once

#include <map>
#include <span>

#include <yl/model.hpp>
#include "base/parallel.hpp"
#include "model/gltf/json.hpp"
#include "model/held_bytes.hpp"

namespace yl::model {

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

/// The file's parts again: JSON and binary chunk, padded as they have to be. Fails with
/// `ErrorKind::limit` beyond the 4 GiB that the format can say.
[[nodiscard]] Status write_container(const std::filesystem::path& path, std::string json,
                                     std::span<const ByteSpan> binary);

/// A file's bytes, or a data URI's.
[[nodiscard]] Result<std::unique_ptr<HeldBytes>> open_uri(const std::string& uri,
                                                          const std::filesystem::path& folder,
                                                          const ModelReadOptions& options);

/// Buffers are read when a view first wants them, by whichever thread.
class Buffers {
 public:
    Buffers(const Json& model, const Container& container, const std::filesystem::path& folder,
            const ModelReadOptions& options)
        : model_(model), container_(container), folder_(folder), options_(options) {}

    /// The bytes of a buffer view or a buffer, valid as long as this.
    [[nodiscard]] Result<ByteSpan> view(std::size_t index);
    [[nodiscard]] Result<ByteSpan> buffer(std::size_t index);

 private:
    const Json& model_;
    const Container& container_;
    const std::filesystem::path& folder_;
    const ModelReadOptions& options_;
    std::map<std::size_t, std::unique_ptr<HeldBytes>> read_ = {};
    Mutex reading_ = {};
};

}  // namespace yl::model
