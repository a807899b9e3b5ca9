// A model that Assimp has read, as long as it is needed.
#pragma once

#include <assimp/scene.h>

#include <assimp/Importer.hpp>
#include <memory>

#include "model/held_bytes.hpp"
#include "model/source.hpp"

namespace yl::model {

class ImportedSource final : public ModelSource {
 public:
    [[nodiscard]] static Result<std::shared_ptr<ImportedSource>> open(
        const std::filesystem::path& path, const ModelReadOptions& options);

    [[nodiscard]] Result<std::vector<Primitive>> parts(Findings& findings) const override;

    [[nodiscard]] const aiScene& scene() const { return *importer_.GetScene(); }
    /// Files beside pictures that the model asks for, and that could not be read.
    [[nodiscard]] const std::vector<std::string>& missed_files() const { return missed_files_; }
    /// Keeps an image's bytes as long as this.
    ByteSpan hold(std::unique_ptr<HeldBytes> image);

 private:
    ImportedSource() = default;

    Assimp::Importer importer_ = {};
    bool is_sound_ = true;
    std::uint64_t most_vertices_ = 0;
    std::vector<std::string> missed_files_ = {};
    std::vector<std::unique_ptr<HeldBytes>> images_ = {};
};

}  // namespace yl::model
