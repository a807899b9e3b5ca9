#include <yl/bytes.hpp>

#include <fmt/format.h>
#ifdef __linux__
#include <sys/mman.h>
#endif

#include <limits>
#include <new>

namespace yl {

namespace {

constexpr std::size_t large_page = std::size_t{2} << 20;

/// Memory that is touched for the first time costs as much as copying it, page by page. Large pages
/// make that cheap, where the system grants them.
void ask_for_large_pages([[maybe_unused]] void* bytes, [[maybe_unused]] std::size_t size) {
#ifdef __linux__
    ::madvise(bytes, size / large_page * large_page, MADV_HUGEPAGE);
#endif
}

}  // namespace

void Buffer::Free::operator()(std::byte* bytes) const {
    ::operator delete[](bytes, std::align_val_t{aligned_to});
}

Result<Buffer> Buffer::allocate(std::uint64_t size) {
    Buffer buffer;
    if (size > std::numeric_limits<std::ptrdiff_t>::max())
        return fail(ErrorKind::limit,
                    fmt::format("{} bytes are more than this machine can address", size));
    const bool is_large = size >= 2 * large_page;
    const std::size_t aligned_to = is_large ? large_page : alignment;
    auto* bytes = static_cast<std::byte*>(::operator new[](
        static_cast<std::size_t>(size), std::align_val_t{aligned_to}, std::nothrow));
    if (bytes == nullptr)
        return fail(ErrorKind::memory, fmt::format("no memory for {} bytes", size));
    if (is_large)
        ask_for_large_pages(bytes, static_cast<std::size_t>(size));
    buffer.bytes_ = std::unique_ptr<std::byte[], Free>(bytes, Free{aligned_to});
    buffer.size_ = static_cast<std::size_t>(size);
    return buffer;
}

}  // namespace yl
