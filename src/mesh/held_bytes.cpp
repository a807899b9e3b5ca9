#include "mesh/held_bytes.hpp"

#include <fmt/format.h>

#include "base/attempt.hpp"

namespace yl::mesh {

Result<std::unique_ptr<HeldBytes>> open_bytes(const std::filesystem::path& file,
                                              const ReadLimits& limits) {
    YL_TRY(MappedFile mapped, MappedFile::open(file));
    if (mapped.bytes().size() > limits.greatest_bytes)
        return fail_at(
            {ErrorKind::limit, fmt::format("{} bytes exceed the limit of {}", mapped.bytes().size(),
                                           limits.greatest_bytes)},
            file.string());
    return std::make_unique<HeldBytes>(std::move(mapped));
}

}  // namespace yl::mesh
