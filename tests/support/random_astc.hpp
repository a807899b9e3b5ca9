// Random ASTC blocks, most of which are not reserved.
#pragma once

#include <span>

#include "base/bytes.hpp"
#include "support/pictures.hpp"

namespace support {

/// Of every 16 blocks, one is random in all its bits, two have one colour, and the others have a mode
/// and a number of partitions that take turns.
inline void fill_with_astc(std::span<std::byte> bytes, Random& random) {
    for (std::size_t at = 0; at < bytes.size(); at += 4)
        yl::store(&bytes[at], static_cast<std::uint32_t>(random()));
    std::uint32_t mode = 0;
    for (std::size_t at = 0; at + 16 <= bytes.size(); at += 16) {
        auto first = yl::load<std::uint32_t>(&bytes[at]);
        const std::size_t kind = at / 16 % 16;
        if (kind == 0) {
            // all its bits are random
        } else if (kind <= 2) {
            first = (first & ~0x3FFU) | 0x1FCU | (kind == 2 ? first & 0x200U : 0);
            if (random() % 2 == 0) {  // no extents
                first |= 0xFFFFF000U;
                yl::store(&bytes[at + 4], 0xFFFFFFFFU);
            }
        } else {
            mode = (mode + 1) % 2048;
            first = (first & ~0x7FFU) | mode;
            if (random() % 2 == 0)
                first &= ~0x1800U;  // one partition
            else if (random() % 2 == 0)
                first &= ~0x1800000U;  // all with the same endpoint mode
        }
        if ((first & 0x1FFU) == 0x1FCU)
            first |= 0xC00U;  // reserved: one of the drivers does not look at them
        yl::store(&bytes[at], first);
    }
}

}  // namespace support
