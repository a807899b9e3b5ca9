#include "codec/exr/unpack.hpp"

#include <libdeflate.h>

#include <algorithm>
#include <memory>

namespace yl::exr {
namespace {

struct Free {
    void operator()(libdeflate_decompressor* d) const { libdeflate_free_decompressor(d); }
    void operator()(libdeflate_compressor* c) const { libdeflate_free_compressor(c); }
};

/// Before packing, bytes at even places were put before those at odd ones, and each was replaced by
/// its difference to the one before, plus 128. This undoes both.
std::vector<std::byte> undo_differences(std::vector<std::byte> bytes) {
    for (std::size_t i = 1; i < bytes.size(); ++i)
        bytes[i] = static_cast<std::byte>(std::to_integer<int>(bytes[i - 1]) +
                                          std::to_integer<int>(bytes[i]) - 128);
    std::vector<std::byte> result(bytes.size());
    const std::size_t half = (bytes.size() + 1) / 2;
    for (std::size_t i = 0; i < bytes.size(); ++i)
        result[i] = bytes[i % 2 == 0 ? i / 2 : half + i / 2];
    return result;
}

std::vector<std::byte> apply_differences(ByteSpan raw) {
    std::vector<std::byte> bytes(raw.size());
    const std::size_t half = (raw.size() + 1) / 2;
    for (std::size_t i = 0; i < raw.size(); ++i)
        bytes[i % 2 == 0 ? i / 2 : half + i / 2] = raw[i];
    for (std::size_t i = bytes.size(); i-- > 1;)
        bytes[i] = static_cast<std::byte>(std::to_integer<int>(bytes[i]) -
                                          std::to_integer<int>(bytes[i - 1]) + 128);
    return bytes;
}

tl::unexpected<Error> damaged() {
    return fail(ErrorKind::malformed, "a chunk's data are damaged: they do not unpack to its size");
}

}  // namespace

Result<std::vector<std::byte>> unpack_rle(ByteSpan packed, std::size_t size) {
    std::vector<std::byte> bytes;
    bytes.reserve(size);
    for (std::size_t i = 0; i < packed.size();) {
        const auto count = static_cast<std::int8_t>(packed[i++]);
        const std::size_t length =
            count < 0 ? static_cast<std::size_t>(-count) : count + std::size_t{1};
        const std::size_t stored = count < 0 ? length : 1;
        if (length > size - bytes.size() || stored > packed.size() - i)
            return damaged();
        if (count < 0)
            bytes.insert(bytes.end(), packed.begin() + static_cast<std::ptrdiff_t>(i),
                         packed.begin() + static_cast<std::ptrdiff_t>(i + length));
        else
            bytes.insert(bytes.end(), length, packed[i]);
        i += stored;
    }
    if (bytes.size() != size)
        return damaged();
    return undo_differences(std::move(bytes));
}

Result<std::vector<std::byte>> unpack_zip(ByteSpan packed, std::size_t size) {
    const std::unique_ptr<libdeflate_decompressor, Free> decompressor(
        libdeflate_alloc_decompressor());
    if (!decompressor)
        return fail(ErrorKind::limit, "no memory for decompression");
    std::vector<std::byte> bytes(size);
    std::size_t produced = 0;
    const auto outcome = libdeflate_zlib_decompress(decompressor.get(), packed.data(),
                                                    packed.size(), bytes.data(), size, &produced);
    if (outcome != LIBDEFLATE_SUCCESS || produced != size)
        return damaged();
    return undo_differences(std::move(bytes));
}

Result<std::vector<std::byte>> pack_zip(ByteSpan raw, int effort) {
    const std::unique_ptr<libdeflate_compressor, Free> compressor(
        libdeflate_alloc_compressor(1 + std::clamp(effort, 0, 10)));
    if (!compressor)
        return fail(ErrorKind::limit, "no memory for compression");
    const auto bytes = apply_differences(raw);
    std::vector<std::byte> packed(libdeflate_zlib_compress_bound(compressor.get(), bytes.size()));
    packed.resize(libdeflate_zlib_compress(compressor.get(), bytes.data(), bytes.size(),
                                           packed.data(), packed.size()));
    return packed;
}

}  // namespace yl::exr
