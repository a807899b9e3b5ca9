// The files that Assimp may open for a model: those of its folder, unless more is allowed.
#pragma once

#include <assimp/DefaultIOSystem.h>

#include <filesystem>
#include <set>
#include <string>
#include <vector>

namespace yl::model {

class GuardedFiles final : public Assimp::DefaultIOSystem {
 public:
    GuardedFiles(const std::filesystem::path& model, bool allow_outside);

    bool Exists(const char* path) const override;
    /// Assimp takes the stream over, and gives it back to `Close`.
    Assimp::IOStream* Open(const char* path, const char* mode) override;

    /// Files that the model names and that could not be read. Readers also try names of their own
    /// making, which begin like the model's; of those only the materials of an OBJ model count.
    [[nodiscard]] std::vector<std::string> missed() const;

 private:
    [[nodiscard]] bool may_open(const char* path) const;

    std::filesystem::path model_, folder_;
    bool allow_outside_;
    std::vector<std::string> missed_ = {};
    std::set<std::filesystem::path> found_ = {};  ///< names without folders
};

}  // namespace yl::model
