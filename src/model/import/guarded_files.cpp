#include "model/import/guarded_files.hpp"

#include <algorithm>
#include <assimp/IOStream.hpp>
#include <memory>
#include <stdexcept>

#include "base/inside.hpp"

namespace yl::model {
namespace {

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

}  // namespace

GuardedFiles::GuardedFiles(const std::filesystem::path& model, bool allow_outside)
    : model_(model),
      folder_(without_links(model.parent_path().empty() ? "." : model.parent_path())),
      allow_outside_(allow_outside) {}

bool GuardedFiles::may_open(const char* path) const {
    return allow_outside_ || lies_within(path, folder_);
}

bool GuardedFiles::Exists(const char* path) const {
    return may_open(path) && DefaultIOSystem::Exists(path);
}

Assimp::IOStream* GuardedFiles::Open(const char* path, const char* mode) {
    std::unique_ptr<Assimp::IOStream> file(may_open(path) ? DefaultIOSystem::Open(path, mode)
                                                          : nullptr);
    if (!file) {
        missed_.emplace_back(path);
        return nullptr;
    }
    found_.insert(std::filesystem::path(path).filename());
    return std::make_unique<GuardedStream>(std::move(file)).release();
}

std::vector<std::string> GuardedFiles::missed() const {
    std::vector<std::string> named, guessed;
    for (const std::string& text : missed_) {
        const std::filesystem::path path = text;
        const bool is_guess = path.filename().string().starts_with(model_.stem().string());
        std::vector<std::string>& list = is_guess ? guessed : named;
        if (!found_.contains(path.filename()) && (!is_guess || path.extension() == ".mtl") &&
            std::ranges::find(list, text) == list.end())
            list.push_back(text);
    }
    return named.empty() ? guessed : named;
}

}  // namespace yl::model
