// The folder that paths are by.
#pragma once

#include <filesystem>
#include <system_error>

namespace ylat {

/// Goes back to the folder that was the current one.
class FolderAtEnd {
 public:
    FolderAtEnd() = default;
    ~FolderAtEnd() {
        std::error_code error;
        std::filesystem::current_path(before_, error);
    }
    FolderAtEnd(const FolderAtEnd&) = delete;
    FolderAtEnd& operator=(const FolderAtEnd&) = delete;

 private:
    std::error_code error_ = {};
    std::filesystem::path before_ = std::filesystem::current_path(error_);
};

}  // namespace ylat
