#include "base/byte_source.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>

namespace yl {

Status ByteSource::check(std::uint64_t offset, std::uint64_t count) const {
    if (offset <= size() && count <= size() - offset)
        return {};
    return fail(
        ErrorKind::malformed,
        fmt::format("the file ends too early: {} bytes are needed here, and it has {} in all",
                    count, size()),
        offset);
}

Result<ByteSpan> ByteSource::piece(std::uint64_t offset, std::uint64_t count,
                                   std::vector<std::byte>& space) const {
    YL_CHECK(check(offset, count));
    if (is_in_memory())
        return bytes_.subspan(static_cast<std::size_t>(offset), static_cast<std::size_t>(count));
    space.resize(static_cast<std::size_t>(count));
    YL_CHECK(file_->read_at(offset, space));
    return ByteSpan(space);
}

Result<ByteSpan> ByteSource::start(std::size_t most, std::vector<std::byte>& space) const {
    return piece(0, std::min<std::uint64_t>(most, size()), space);
}

Status ByteSource::read(std::uint64_t offset, std::span<std::byte> target) const {
    YL_CHECK(check(offset, target.size()));
    if (!is_in_memory())
        return file_->read_at(offset, target);
    std::copy_n(bytes_.begin() + static_cast<std::ptrdiff_t>(offset), target.size(),
                target.begin());
    return {};
}

}  // namespace yl
