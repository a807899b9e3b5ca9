// The table that finds 8-bit sRGB codes of linear values.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

namespace yl {

/// Finds the 8-bit code of a linear value by its float bits.
///
/// A bucket holds all floats that share exponent and seven mantissa bits. No bucket spans more
/// than one boundary between codes, so the code is the bucket's first one, or the next.
struct Srgb8Encoder {
    static constexpr int bucket_shift = 23 - 7;
    static constexpr std::uint32_t first_bits = 0x39000000;  // 2^-13, below the first boundary
    static constexpr std::uint32_t last_bits = 0x3F800000;   // 1.0
    static constexpr std::size_t bucket_count = ((last_bits - first_bits) >> bucket_shift) + 1;

    /// For each bucket its first code, and the bits of the least float that rounds to the next:
    //   63                32 31                 0
    //  +--------------------+--------------------+
    //  |  least of the next |     first code     |
    //  +--------------------+--------------------+
    std::array<std::uint64_t, bucket_count> buckets{};

    [[nodiscard]] static const Srgb8Encoder& get();

 private:
    Srgb8Encoder();
};

}  // namespace yl
