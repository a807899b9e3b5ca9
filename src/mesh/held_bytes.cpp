#include "mesh/held_bytes.hpp"

#include "base/attempt.hpp"

namespace yl::mesh {

Result<std::unique_ptr<HeldBytes>> open_bytes(const std::filesystem::path& file,
                                              const ReadLimits& limits) {
    YL_TRY(Buffer bytes, read_file(file, limits.greatest_bytes));
    return std::make_unique<HeldBytes>(std::move(bytes));
}

}  // namespace yl::mesh
