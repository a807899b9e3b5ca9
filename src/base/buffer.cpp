#include <yl/buffer.hpp>

#include <fmt/format.h>

#include <limits>
#include <new>

namespace yl {

void Buffer::Free::operator()(std::byte* bytes) const {
    ::operator delete[](bytes, std::align_val_t{alignment});
}

Result<Buffer> Buffer::allocate(std::uint64_t size) {
    Buffer buffer;
    if (size > std::numeric_limits<std::ptrdiff_t>::max())
        return fail(ErrorKind::limit,
                    fmt::format("{} bytes are more than this machine can address", size));
    auto* bytes = static_cast<std::byte*>(::operator new[](
        static_cast<std::size_t>(size), std::align_val_t{alignment}, std::nothrow));
    if (bytes == nullptr)
        return fail(ErrorKind::limit, fmt::format("no memory for {} bytes", size));
    buffer.bytes_.reset(bytes);
    buffer.size_ = static_cast<std::size_t>(size);
    return buffer;
}

}  // namespace yl
