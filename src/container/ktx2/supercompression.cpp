// Levels packed by Zstandard or zlib.
#include <fmt/format.h>
#include <libdeflate.h>
#include <zstd.h>

#include <algorithm>
#include <memory>

#include "container/ktx2/layout.hpp"

namespace yl::ktx2 {
namespace {

constexpr int default_zstd_level = 9;
constexpr int default_zlib_level = 8;

struct DeflateFree {
    void operator()(libdeflate_compressor* c) const { libdeflate_free_compressor(c); }
    void operator()(libdeflate_decompressor* d) const { libdeflate_free_decompressor(d); }
};

Result<std::vector<std::byte>> pack_zstd(ByteSpan level, int effort) {
    std::vector<std::byte> packed(ZSTD_compressBound(level.size()));
    const std::size_t size =
        ZSTD_compress(packed.data(), packed.size(), level.data(), level.size(),
                      std::clamp(effort == 0 ? default_zstd_level : effort, 1, 22));
    if (ZSTD_isError(size) != 0)
        return fail(ErrorKind::limit,
                    fmt::format("Zstandard cannot compress a level: {}", ZSTD_getErrorName(size)));
    packed.resize(size);
    return packed;
}

Result<std::vector<std::byte>> pack_zlib(ByteSpan level, int effort) {
    const std::unique_ptr<libdeflate_compressor, DeflateFree> compressor(
        libdeflate_alloc_compressor(std::clamp(effort == 0 ? default_zlib_level : effort, 1, 12)));
    if (!compressor)
        return fail(ErrorKind::limit, "no memory for compression");
    std::vector<std::byte> packed(libdeflate_zlib_compress_bound(compressor.get(), level.size()));
    packed.resize(libdeflate_zlib_compress(compressor.get(), level.data(), level.size(),
                                           packed.data(), packed.size()));
    return packed;
}

Status size_mismatch(std::size_t found, std::size_t wanted) {
    return fail(ErrorKind::malformed,
                fmt::format("its data unpack to {} bytes instead of {}", found, wanted));
}

}  // namespace

Result<std::vector<std::byte>> pack_level(ByteSpan level, Supercompression scheme, int effort) {
    return scheme == Supercompression::zlib ? pack_zlib(level, effort) : pack_zstd(level, effort);
}

Status unpack_level(ByteSpan packed, Supercompression scheme, std::span<std::byte> target) {
    if (scheme == Supercompression::zstd) {
        const std::size_t size =
            ZSTD_decompress(target.data(), target.size(), packed.data(), packed.size());
        if (ZSTD_isError(size) != 0)
            return fail(
                ErrorKind::malformed,
                fmt::format("its data are damaged: Zstandard says '{}'", ZSTD_getErrorName(size)));
        return size == target.size() ? Status{} : size_mismatch(size, target.size());
    }
    const std::unique_ptr<libdeflate_decompressor, DeflateFree> decompressor(
        libdeflate_alloc_decompressor());
    if (!decompressor)
        return fail(ErrorKind::limit, "no memory for decompression");
    std::size_t size = 0;
    const auto outcome = libdeflate_zlib_decompress(
        decompressor.get(), packed.data(), packed.size(), target.data(), target.size(), &size);
    if (outcome != LIBDEFLATE_SUCCESS)
        return fail(ErrorKind::malformed, "its data are damaged: zlib cannot unpack them");
    return size == target.size() ? Status{} : size_mismatch(size, target.size());
}

}  // namespace yl::ktx2
