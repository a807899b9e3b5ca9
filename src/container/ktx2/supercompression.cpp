// Levels packed by Zstandard or zlib.
#include <fmt/format.h>
#define ZSTD_STATIC_LINKING_ONLY  // names of a parameter, which is set by a public function
#include <zstd.h>

#include <algorithm>
#include <memory>

#include "base/out_of_memory.hpp"
#include "base/progress.hpp"
#include "base/zlib_stream.hpp"
#include "container/ktx2/layout.hpp"

namespace yl::ktx2 {
namespace {

constexpr int default_zstd_level = 9;
constexpr int default_zlib_level = 8;

constexpr std::size_t piece_bytes = std::size_t{1} << 20U;  // between two looks at the progress

Result<std::vector<std::byte>> pack_zstd(ByteSpan level, int effort, ProgressCounter& progress) {
    const std::unique_ptr<ZSTD_CCtx, std::size_t (*)(ZSTD_CCtx*)> context(ZSTD_createCCtx(),
                                                                          &ZSTD_freeCCtx);
    if (context == nullptr)
        return out_of_memory();
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel,
                           std::clamp(effort == 0 ? default_zstd_level : effort, 1, 22));
    // By itself Zstandard searches rows where the processor has vectors, and otherwise from other sizes on:
    // the same bytes everywhere want a choice of our own, which is that of processors with vectors.
    constexpr std::size_t searched_by_rows = std::size_t{1} << 14U;  // bytes, and more
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_useRowMatchFinder,
                           level.size() > searched_by_rows ? ZSTD_ps_enable : ZSTD_ps_disable);
    ZSTD_CCtx_setPledgedSrcSize(context.get(), level.size());
    std::vector<std::byte> packed(ZSTD_compressBound(level.size()));
    ZSTD_outBuffer out{packed.data(), packed.size(), 0};
    for (std::size_t taken = 0, left = 1; left > 0;) {
        ZSTD_inBuffer in{level.data(), std::min(taken + piece_bytes, level.size()), taken};
        const bool is_last = in.size == level.size();
        left =
            ZSTD_compressStream2(context.get(), &out, &in, is_last ? ZSTD_e_end : ZSTD_e_continue);
        if (ZSTD_isError(left) != 0)
            return fail(ErrorKind::limit, fmt::format("Zstandard cannot compress a level: {}",
                                                      ZSTD_getErrorName(left)));
        progress.add(in.pos - taken);
        taken = in.pos;
        if (progress.cancelled())
            return tl::unexpected(progress.status().error());
        if (!is_last)
            left = 1;
    }
    packed.resize(out.pos);
    return packed;
}

}  // namespace

Result<std::vector<std::byte>> pack_level(ByteSpan level, Supercompression scheme, int effort,
                                          ProgressCounter& progress) {
    if (scheme != Supercompression::zlib)
        return pack_zstd(level, effort, progress);
    auto packed = pack_zlib(level, effort == 0 ? default_zlib_level : effort);
    progress.add(level.size());
    return packed;
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
