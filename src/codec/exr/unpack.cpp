#include "codec/exr/unpack.hpp"

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/zlib_stream.hpp"

namespace yl::exr {
namespace {

/// Before packing, bytes at even places were put before those at odd ones, and each was replaced by
/// its difference to the one before, plus 128. This undoes both.
std::vector<std::byte> undo_differences(ByteSpan bytes) {
    std::vector<std::byte> result(bytes.size());
    const std::size_t half = (bytes.size() + 1) / 2;
    std::uint32_t sum = 128;  // the first byte is no difference
    for (std::size_t i = 0; i < half; ++i) {
        sum += std::to_integer<std::uint32_t>(bytes[i]) - 128;
        result[2 * i] = static_cast<std::byte>(sum);
    }
    for (std::size_t i = half; i < bytes.size(); ++i) {
        sum += std::to_integer<std::uint32_t>(bytes[i]) - 128;
        result[2 * (i - half) + 1] = static_cast<std::byte>(sum);
    }
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

Result<std::vector<std::byte>> unpack_runs(ByteSpan packed, std::size_t size) {
    std::vector<std::byte> bytes;
    bytes.reserve(size);
    for (std::size_t i = 0; i < packed.size();) {
        const auto count = static_cast<std::int8_t>(packed[i++]);
        const std::size_t length =
            count < 0 ? static_cast<std::size_t>(-count) : static_cast<std::size_t>(count) + 1;
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
    return bytes;
}

Result<std::vector<std::byte>> unpack_deflate(ByteSpan packed, std::size_t size) {
    std::vector<std::byte> bytes(size);
    if (auto status = unpack_zlib(packed, bytes); !status)
        return fail(status.error().kind, "a chunk's " + status.error().message);
    return bytes;
}

Result<std::vector<std::byte>> unpack_rle(ByteSpan packed, std::size_t size) {
    YL_TRY(const auto bytes, unpack_runs(packed, size));
    return undo_differences(bytes);
}

Result<std::vector<std::byte>> unpack_zip(ByteSpan packed, std::size_t size) {
    YL_TRY(const auto bytes, unpack_deflate(packed, size));
    return undo_differences(bytes);
}

Result<std::vector<std::byte>> unpack_pxr24(ByteSpan packed, const std::vector<SampleRun>& runs,
                                            std::size_t size) {
    const auto planes_of = [](SampleType type) -> std::size_t {
        return type == SampleType::half ? 2 : type == SampleType::single ? 3 : 4;
    };
    std::size_t stored = 0;
    for (const SampleRun& run : runs)
        stored += run.count * planes_of(run.type);
    YL_TRY(const auto bytes, unpack_deflate(packed, stored));
    std::vector<std::byte> rows;
    rows.reserve(size);
    const std::byte* next = bytes.data();
    for (const SampleRun& run : runs) {
        const std::size_t planes = planes_of(run.type);
        const std::size_t sample_bytes = run.type == SampleType::half ? 2 : 4;
        std::uint32_t value = 0;  // in the highest bits of its sample
        for (std::size_t i = 0; i < run.count; ++i) {
            std::uint32_t difference = 0;
            for (std::size_t plane = 0; plane < planes; ++plane)
                difference |= std::to_integer<std::uint32_t>(next[plane * run.count + i])
                              << 8 * (sample_bytes - 1 - plane);
            value += difference;
            for (std::size_t b = 0; b < sample_bytes; ++b)
                rows.push_back(static_cast<std::byte>(value >> 8 * b));
        }
        next += planes * run.count;
    }
    return rows;
}

Result<std::vector<std::byte>> pack_zip(ByteSpan raw, int effort) {
    return pack_zlib(apply_differences(raw), 1 + std::clamp(effort, 0, 10));
}

}  // namespace yl::exr
