// Seeds of the fuzzers: where they go, and small models.
#pragma once

#include <cstddef>
#include <span>
#include <string>

namespace seeds {

/// A folder of folders, one for each target.
class Folder {
 public:
    explicit Folder(std::string path) : path_(std::move(path)) {}

    void write(const std::string& target, const std::string& name,
               std::span<const std::byte> bytes) const;
    void write_text(const std::string& target, const std::string& name,
                    const std::string& text) const {
        write(target, name, std::as_bytes(std::span(text)));
    }

 private:
    std::string path_;
};

/// glTF, as text and in one file.
void write_models(const Folder& folder);

/// Models of formats that are read through Assimp; the first byte is that format's number in
/// fuzz_import.cpp.
void write_imports(const Folder& folder);

}  // namespace seeds
