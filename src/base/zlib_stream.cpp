#include "base/zlib_stream.hpp"

#include <fmt/format.h>
#include <libdeflate.h>

#include <algorithm>
#include <memory>

namespace yl {
namespace {

struct Free {
    void operator()(libdeflate_compressor* c) const { libdeflate_free_compressor(c); }
    void operator()(libdeflate_decompressor* d) const { libdeflate_free_decompressor(d); }
};

/// Nothing when there is no memory for it.
std::optional<libdeflate_result> decompress(ByteSpan packed, std::span<std::byte> target,
                                            std::size_t& size) {
    const std::unique_ptr<libdeflate_decompressor, Free> decompressor(
        libdeflate_alloc_decompressor());
    if (!decompressor)
        return {};
    return libdeflate_zlib_decompress(decompressor.get(), packed.data(), packed.size(),
                                      target.data(), target.size(), &size);
}

}  // namespace

Result<std::vector<std::byte>> pack_zlib(ByteSpan bytes, int level) {
    const std::unique_ptr<libdeflate_compressor, Free> compressor(
        libdeflate_alloc_compressor(std::clamp(level, 1, 12)));
    if (!compressor)
        return fail(ErrorKind::memory, "no memory for compression");
    std::vector<std::byte> packed(libdeflate_zlib_compress_bound(compressor.get(), bytes.size()));
    packed.resize(libdeflate_zlib_compress(compressor.get(), bytes.data(), bytes.size(),
                                           packed.data(), packed.size()));
    return packed;
}

Status unpack_zlib(ByteSpan packed, std::span<std::byte> target) {
    std::size_t size = 0;
    const auto outcome = decompress(packed, target, size);
    if (!outcome)
        return fail(ErrorKind::memory, "no memory for decompression");
    if (outcome == LIBDEFLATE_INSUFFICIENT_SPACE)
        return fail(
            ErrorKind::malformed,
            fmt::format("data unpack to more than the {} bytes that are expected", target.size()));
    if (outcome != LIBDEFLATE_SUCCESS)
        return fail(ErrorKind::malformed, "data are damaged: they cannot be decompressed");
    if (size != target.size())
        return fail(
            ErrorKind::malformed,
            fmt::format("data end early: they unpack to {} of {} bytes", size, target.size()));
    return {};
}

Result<std::size_t> unpack_zlib_start(ByteSpan packed, std::span<std::byte> target) {
    std::size_t size = 0;
    const auto outcome = decompress(packed, target, size);
    if (outcome == LIBDEFLATE_SUCCESS && size == target.size())
        return std::size_t{0};
    // A stream that is longer leaves the target undefined: unpack all, if that is within reason.
    if (outcome == LIBDEFLATE_INSUFFICIENT_SPACE) {
        const std::size_t most = target.size() + std::max<std::size_t>(target.size(), 1U << 20);
        if (const auto all = unpack_zlib_within(packed, most)) {
            std::copy_n(all->begin(), target.size(), target.begin());
            return all->size() - target.size();
        }
    }
    const auto exact = unpack_zlib(packed, target);  // for what is wrong with it
    if (!exact)
        return tl::unexpected(exact.error());
    return std::size_t{0};
}

std::optional<std::vector<std::byte>> unpack_zlib_within(ByteSpan packed, std::size_t most) {
    std::vector<std::byte> target(most);
    std::size_t size = 0;
    if (decompress(packed, target, size) != LIBDEFLATE_SUCCESS)
        return {};
    target.resize(size);
    return target;
}

}  // namespace yl
