// Folders and files that go away with the test.
#pragma once

#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace support {

class TemporaryFolder {
 public:
    TemporaryFolder();
    ~TemporaryFolder();
    TemporaryFolder(const TemporaryFolder&) = delete;
    TemporaryFolder& operator=(const TemporaryFolder&) = delete;

    [[nodiscard]] std::string path(const std::string& name) const {
        return (folder_ / name).string();
    }
    /// Names of all entries, sorted.
    [[nodiscard]] std::vector<std::string> entries() const;

 private:
    std::filesystem::path folder_;
};

void write_bytes(const std::string& path, std::span<const std::byte> bytes);
void write_text(const std::string& path, const std::string& text);
[[nodiscard]] std::vector<std::byte> read_bytes(const std::string& path);

}  // namespace support
