// The packed bytes of a chunk, as OpenEXR's RLE, ZIP and PXR24 write them.
#pragma once

#include <vector>

#include "base/bytes.hpp"
#include "codec/exr/header.hpp"

namespace yl::exr {

/// Each undoes one compression into exactly `size` bytes.
[[nodiscard]] Result<std::vector<std::byte>> unpack_rle(ByteSpan packed, std::size_t size);
[[nodiscard]] Result<std::vector<std::byte>> unpack_zip(ByteSpan packed, std::size_t size);

/// The same without what was done to the bytes before they were packed.
[[nodiscard]] Result<std::vector<std::byte>> unpack_runs(ByteSpan packed, std::size_t size);
[[nodiscard]] Result<std::vector<std::byte>> unpack_deflate(ByteSpan packed, std::size_t size);

/// Samples of one channel in one row.
struct SampleRun {
    std::size_t count = 0;
    SampleType type = SampleType::half;
};

/// PXR24: each run as its differences, in planes of bytes from the highest on, and packed by zlib.
/// Single floats come without their lowest eight bits, which become 0.
[[nodiscard]] Result<std::vector<std::byte>> unpack_pxr24(ByteSpan packed,
                                                          const std::vector<SampleRun>& runs,
                                                          std::size_t size);

[[nodiscard]] Result<std::vector<std::byte>> pack_zip(ByteSpan raw, int effort);

}  // namespace yl::exr
