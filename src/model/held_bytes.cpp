#include "model/held_bytes.hpp"

#include <yl/status_macros.hpp>

namespace yl::model {

Result<std::unique_ptr<HeldBytes>> open_bytes(const std::filesystem::path& file,
                                              const Limits& limits, const FilesOption& files) {
    YL_TRY(Buffer bytes, read_file(files, file, limits.max_bytes));
    return std::make_unique<HeldBytes>(std::move(bytes));
}

}  // namespace yl::model
