// The files that Assimp may open for a model: those of its folder, unless more is allowed.
#pragma once

#include <assimp/DefaultIOSystem.h>

#include <algorithm>
#include <assimp/IOStream.hpp>
#include <filesystem>
#include <memory>
#include <set>
#include <stdexcept>
#include <string>
#include <vector>

namespace yl::mesh {

/// A file that is read beyond its end again and again is given up: some of Assimp's readers would
/// wait for ever for the rest of a file that has been cut.
class GuardedStream final : public Assimp::IOStream {
 public:
    explicit GuardedStream(std::unique_ptr<Assimp::IOStream> file) : file_(std::move(file)) {}

    size_t Read(void* target, size_t size, size_t count) override {
        const size_t read = file_->Read(target, size, count);
        empty_reads_ = read == 0 ? empty_reads_ + 1 : 0;
        if (empty_reads_ > most_empty_reads)
            throw std::runtime_error("the file ends too early");
        return read;
    }
    size_t Write(const void* from, size_t size, size_t count) override {
        return file_->Write(from, size, count);
    }
    aiReturn Seek(size_t offset, aiOrigin origin) override { return file_->Seek(offset, origin); }
    size_t Tell() const override { return file_->Tell(); }
    size_t FileSize() const override { return file_->FileSize(); }
    void Flush() override { file_->Flush(); }

 private:
    static constexpr int most_empty_reads = 1000;

    std::unique_ptr<Assimp::IOStream> file_;
    int empty_reads_ = 0;
};

class GuardedFiles final : public Assimp::DefaultIOSystem {
 public:
    GuardedFiles(const std::filesystem::path& model, bool allow_outside)
        : folder_(whole(model).parent_path()), allow_outside_(allow_outside), model_(model) {}

    bool Exists(const char* path) const override {
        return may_open(path) && DefaultIOSystem::Exists(path);
    }
    /// Assimp takes the stream over, and gives it back to `Close`.
    Assimp::IOStream* Open(const char* path, const char* mode) override {
        std::unique_ptr<Assimp::IOStream> file(may_open(path) ? DefaultIOSystem::Open(path, mode)
                                                              : nullptr);
        if (!file) {
            missed_.emplace_back(path);
            return nullptr;
        }
        found_.insert(std::filesystem::path(path).filename());
        return std::make_unique<GuardedStream>(std::move(file)).release();
    }
    /// Files that the model names and that could not be had. Readers also try names of their own
    /// making, which begin like the model's; of those only the materials of an OBJ model count.
    [[nodiscard]] std::vector<std::string> missed() const {
        std::vector<std::string> named;
        for (const bool is_guess : {false, true})
            for (const std::filesystem::path path : missed_) {
                const bool begins_alike =
                    path.filename().string().starts_with(model_.stem().string());
                const bool is_material = path.extension() == ".mtl";
                const bool counts =
                    begins_alike ? is_guess && is_material && named.empty() : !is_guess;
                if (counts && !found_.contains(path.filename()) &&
                    std::ranges::find(named, path.string()) == named.end())
                    named.push_back(path.string());
            }
        return named;
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
    std::filesystem::path model_;
    std::vector<std::string> missed_ = {};
    std::set<std::filesystem::path> found_ = {};  ///< names without folders
};

}  // namespace yl::mesh
