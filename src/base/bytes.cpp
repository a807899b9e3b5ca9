#include "base/bytes.hpp"

#include <fmt/format.h>

namespace yl {

tl::unexpected<Error> ByteReader::too_short(std::uint64_t wanted) const {
    return fail(ErrorKind::malformed,
                fmt::format("the file ends early: {} more bytes are needed and {} are left", wanted,
                            left()),
                offset_);
}

Status ByteReader::seek(std::uint64_t offset) {
    if (offset > bytes_.size())
        return fail(
            ErrorKind::malformed,
            fmt::format("offset {} lies beyond the file's end at {}", offset, bytes_.size()),
            offset_);
    offset_ = static_cast<std::size_t>(offset);
    return {};
}

Status ByteReader::skip(std::uint64_t count) {
    if (count > left())
        return too_short(count);
    offset_ += static_cast<std::size_t>(count);
    return {};
}

Result<ByteSpan> ByteReader::take(std::uint64_t count) {
    if (count > left())
        return too_short(count);
    const ByteSpan taken = bytes_.subspan(offset_, static_cast<std::size_t>(count));
    offset_ += taken.size();
    return taken;
}

void ByteWriter::append(ByteSpan more) {
    bytes_.insert(bytes_.end(), more.begin(), more.end());
}

}  // namespace yl
