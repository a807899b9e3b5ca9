// The 128 bits of a block, counted from the lowest bit of its first byte.
#pragma once

#include <cstdint>

#include "base/bytes.hpp"

namespace yl::astc {

class BlockBits {
 public:
    BlockBits() = default;
    explicit BlockBits(const std::byte* block)
        : low_(load<std::uint64_t>(block)), high_(load<std::uint64_t>(block + 8)) {}

    /// Up to 63 bits from `begin`, which lies within the block; bits beyond the block are 0.
    [[nodiscard]] std::uint64_t at(unsigned begin, unsigned count) const {
        const std::uint64_t mask = (std::uint64_t{1} << count) - 1;
        if (begin >= 64)
            return high_ >> (begin - 64) & mask;
        return (low_ >> begin | high_ << 1 << (63 - begin)) & mask;
    }
    [[nodiscard]] unsigned number(unsigned begin, unsigned count) const {
        return static_cast<unsigned>(at(begin, count));
    }

    /// Sets bits that are 0 until now.
    void put(unsigned begin, unsigned count, std::uint64_t value) {
        if (count == 0)
            return;
        if (begin >= 64) {
            high_ |= value << (begin - 64);
            return;
        }
        low_ |= value << begin;
        if (begin + count > 64)
            high_ |= value >> (64 - begin);
    }

    /// Last bit first: weights are stored that way.
    [[nodiscard]] BlockBits reversed() const {
        BlockBits result;
        result.low_ = reversed(high_);
        result.high_ = reversed(low_);
        return result;
    }
    /// The bits of both.
    [[nodiscard]] BlockBits operator|(const BlockBits& other) const {
        BlockBits result;
        result.low_ = low_ | other.low_;
        result.high_ = high_ | other.high_;
        return result;
    }

    void write(std::byte* block) const {
        store(block, low_);
        store(block + 8, high_);
    }

 private:
    static std::uint64_t reversed(std::uint64_t bits) {
        bits = (bits >> 1 & 0x5555555555555555U) | (bits & 0x5555555555555555U) << 1;
        bits = (bits >> 2 & 0x3333333333333333U) | (bits & 0x3333333333333333U) << 2;
        bits = (bits >> 4 & 0x0F0F0F0F0F0F0F0FU) | (bits & 0x0F0F0F0F0F0F0F0FU) << 4;
        return swap_bytes(bits);
    }

    std::uint64_t low_ = 0;
    std::uint64_t high_ = 0;
};

}  // namespace yl::astc
