// A glTF file, as long as a model needs it.
#pragma once

#include "model/gltf/buffers.hpp"
#include "model/source.hpp"

namespace yl::model {

class GltfSource final : public ModelSource {
 public:
    /// Splits and parses; nothing else is looked at yet.
    [[nodiscard]] static Result<std::shared_ptr<GltfSource>> open(
        std::unique_ptr<HeldBytes> file, const std::filesystem::path& folder,
        const ModelReadOptions& options);

    [[nodiscard]] Result<std::vector<Primitive>> parts(Findings& findings) const override;

    [[nodiscard]] const Json& json() const { return json_; }
    [[nodiscard]] const Container& container() const { return container_; }
    [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }
    [[nodiscard]] const ModelReadOptions& options() const { return options_; }
    [[nodiscard]] std::uint64_t file_bytes() const { return file_->bytes().size(); }

    /// Buffers that are held for the images.
    [[nodiscard]] Buffers& buffers() { return *buffers_; }
    /// Keeps an image's bytes as long as this.
    ByteSpan hold(std::unique_ptr<HeldBytes> image);

 private:
    GltfSource() = default;

    std::unique_ptr<HeldBytes> file_ = {};
    Container container_ = {};
    Json json_ = {};
    std::filesystem::path folder_ = {};
    ModelReadOptions options_ = {};
    std::optional<Buffers> buffers_ = {};
    std::vector<std::unique_ptr<HeldBytes>> images_ = {};
};

}  // namespace yl::model
