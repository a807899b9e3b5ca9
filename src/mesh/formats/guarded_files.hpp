// The files that Assimp may open for a model: those of its folder, unless more is allowed.
#pragma once

#include <assimp/DefaultIOSystem.h>

#include <filesystem>

namespace yl::mesh {

class GuardedFiles final : public Assimp::DefaultIOSystem {
 public:
    GuardedFiles(const std::filesystem::path& model, bool allow_outside)
        : folder_(whole(model).parent_path()), allow_outside_(allow_outside) {}

    bool Exists(const char* path) const override {
        return may_open(path) && DefaultIOSystem::Exists(path);
    }
    Assimp::IOStream* Open(const char* path, const char* mode) override {
        return may_open(path) ? DefaultIOSystem::Open(path, mode) : nullptr;
    }

 private:
    static std::filesystem::path whole(const std::filesystem::path& path) {
        std::error_code error;
        return std::filesystem::weakly_canonical(std::filesystem::absolute(path), error);
    }

    [[nodiscard]] bool may_open(const char* path) const {
        if (allow_outside_)
            return true;
        const std::string below = whole(path).lexically_relative(folder_).generic_string();
        return !below.empty() && !below.starts_with("..");
    }

    std::filesystem::path folder_;
    bool allow_outside_;
};

}  // namespace yl::mesh
