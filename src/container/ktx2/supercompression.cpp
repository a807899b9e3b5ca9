// Levels packed by Zstandard or zlib.
#include <fmt/format.h>
#include <zstd.h>

#include <algorithm>

#include "base/zlib_stream.hpp"
#include "container/ktx2/layout.hpp"

namespace yl::ktx2 {
namespace {

constexpr int default_zstd_level = 9;
constexpr int default_zlib_level = 8;

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

}  // namespace

Result<std::vector<std::byte>> pack_level(ByteSpan level, Supercompression scheme, int effort) {
    if (scheme == Supercompression::zlib)
        return pack_zlib(level, effort == 0 ? default_zlib_level : effort);
    return pack_zstd(level, effort);
}

Status unpack_level(ByteSpan packed, Supercompression scheme, std::span<std::byte> target) {
    if (scheme == Supercompression::zlib)
        return unpack_zlib(packed, target);
    const std::size_t size =
        ZSTD_decompress(target.data(), target.size(), packed.data(), packed.size());
    if (ZSTD_isError(size) != 0)
        return fail(ErrorKind::malformed,
                    fmt::format("data are damaged: Zstandard says '{}'", ZSTD_getErrorName(size)));
    if (size != target.size())
        return fail(
            ErrorKind::malformed,
            fmt::format("data end early: they unpack to {} of {} bytes", size, target.size()));
    return {};
}

}  // namespace yl::ktx2
