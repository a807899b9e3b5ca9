#include "codec/tiff/unpack.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <vector>

#include <yl/status_macros.hpp>
#include "base/zlib_stream.hpp"
#include "codec/lzw.hpp"

namespace yl::tiff {
namespace {

std::size_t unpack_runs(ByteSpan packed, std::span<std::byte> target) {
    std::size_t at = 0, filled = 0;
    while (filled < target.size() && at < packed.size()) {
        const auto head = static_cast<std::int8_t>(packed[at++]);
        if (head >= 0) {
            const std::size_t count =
                std::min({std::size_t(head) + 1, packed.size() - at, target.size() - filled});
            std::copy_n(packed.begin() + static_cast<std::ptrdiff_t>(at), count,
                        target.begin() + static_cast<std::ptrdiff_t>(filled));
            at += static_cast<std::size_t>(head) + 1;
            filled += count;
        } else if (head != -128 && at < packed.size()) {
            const std::size_t count =
                std::min(static_cast<std::size_t>(1 - head), target.size() - filled);
            std::fill_n(target.begin() + static_cast<std::ptrdiff_t>(filled), count, packed[at++]);
            filled += count;
        }
    }
    return filled;
}

template <class Number, std::endian order>
void add_numbers(std::span<std::byte> row, std::size_t channels) {
    for (std::size_t i = channels * sizeof(Number); i + sizeof(Number) <= row.size();
         i += sizeof(Number)) {
        std::byte* here = row.data() + i;
        const Number sum = static_cast<Number>(
            load<Number, order>(here) + load<Number, order>(here - channels * sizeof(Number)));
        store<Number, order>(here, sum);
    }
}

/// Bytes, with the sums of the last pixel in registers.
template <std::size_t channels>
void add_bytes(std::span<std::byte> row) {
    std::array<std::uint8_t, channels> sums = {};
    std::byte* at = row.data();
    for (std::size_t pixel = row.size() / channels; pixel > 0; --pixel, at += channels)
        for (std::size_t c = 0; c < channels; ++c) {
            sums[c] = static_cast<std::uint8_t>(sums[c] + std::to_integer<std::uint8_t>(at[c]));
            at[c] = std::byte{sums[c]};
        }
}

template <class Number>
void add_in_order(std::span<std::byte> row, std::size_t channels, bool is_big_endian) {
    if (is_big_endian)
        add_numbers<Number, std::endian::big>(row, channels);
    else
        add_numbers<Number, std::endian::little>(row, channels);
}

}  // namespace

Status unpack(Compression compression, ByteSpan packed, std::span<std::byte> target) {
    std::size_t filled = 0;
    switch (compression) {
        case Compression::none:
            filled = std::min(packed.size(), target.size());
            std::copy_n(packed.begin(), filled, target.begin());
            break;
        case Compression::run_lengths:
            filled = unpack_runs(packed, target);
            break;
        case Compression::lzw:
            if (target.size() > 0xFFFFFFFFU)
                return fail(ErrorKind::limit, "a strip or tile of more than 4 GiB");
            filled = unpack_lzw(packed, target, {.grows_early = true});  // section 13
            break;
        case Compression::deflate:
        case Compression::old_deflate: {
            YL_TRY(const std::size_t longer, unpack_zlib_start(packed, target));
            static_cast<void>(longer);
            return {};
        }
    }
    if (filled < target.size())
        return fail(
            ErrorKind::malformed,
            fmt::format("data end early: they unpack to {} of {} bytes", filled, target.size()));
    return {};
}

void add_differences(std::span<std::byte> row, std::size_t channels, std::size_t bytes,
                     bool is_big_endian) {
    if (bytes == 1 && channels == 1)
        add_bytes<1>(row);
    else if (bytes == 1 && channels == 3)
        add_bytes<3>(row);
    else if (bytes == 1 && channels == 4)
        add_bytes<4>(row);
    else if (bytes == 1)
        add_in_order<std::uint8_t>(row, channels, is_big_endian);
    else if (bytes == 2)
        add_in_order<std::uint16_t>(row, channels, is_big_endian);
    else if (bytes == 4)
        add_in_order<std::uint32_t>(row, channels, is_big_endian);
    else
        add_in_order<std::uint64_t>(row, channels, is_big_endian);
}

void join_float_planes(std::span<std::byte> row, std::size_t channels, std::size_t bytes,
                       bool is_big_endian) {
    add_differences(row, channels, 1, is_big_endian);
    const std::vector<std::byte> planes(row.begin(), row.end());
    const std::size_t count = row.size() / bytes;
    for (std::size_t i = 0; i < count; ++i)
        for (std::size_t b = 0; b < bytes; ++b)
            row[i * bytes + (is_big_endian ? b : bytes - 1 - b)] = planes[b * count + i];
}

}  // namespace yl::tiff
