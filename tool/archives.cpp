#include "archives.hpp"

#include <filesystem>
#include <yl/archive.hpp>

namespace ylat {

std::shared_ptr<const yl::Files> files_for(const std::string& path) {
    std::error_code error;
    std::filesystem::path outer = std::filesystem::path(path).parent_path();
    for (; !outer.empty() && outer != outer.parent_path(); outer = outer.parent_path())
        if (std::filesystem::is_regular_file(outer, error))
            return yl::files_with_archives();
    return nullptr;
}

}  // namespace ylat
