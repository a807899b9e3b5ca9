// The 128 bits of a block, taken and put from the lowest bit of its first byte upwards.
#pragma once

#include <cstdint>

#include "base/bytes.hpp"

namespace yl::bc {

class BitSource {
 public:
    explicit BitSource(const std::byte* block)
        : low_(load<std::uint64_t>(block)), high_(load<std::uint64_t>(block + 8)) {}

    /// The next 0 to 32 bits.
    std::uint32_t take(unsigned count) {
        const auto bits =
            static_cast<std::uint32_t>(low_ & ((std::uint64_t{1} << count) - std::uint64_t{1}));
        skip(count);
        return bits;
    }
    /// Up to 63 bits.
    void skip(unsigned count) {
        low_ = low_ >> count | high_ << 1 << (63 - count);
        high_ >>= count;
    }
    /// The next 64 bits, without moving on.
    [[nodiscard]] std::uint64_t rest() const { return low_; }

 private:
    std::uint64_t low_;
    std::uint64_t high_;
};

class BitSink {
 public:
    void put(std::uint32_t bits, unsigned count) {
        if (at_ < 64) {
            low_ |= std::uint64_t{bits} << at_;
            if (at_ + count > 64)
                high_ |= std::uint64_t{bits} >> (64 - at_);
        } else {
            high_ |= std::uint64_t{bits} << (at_ - 64);
        }
        at_ += count;
    }
    void write(std::byte* block) const {
        store(block, low_);
        store(block + 8, high_);
    }

 private:
    std::uint64_t low_ = 0;
    std::uint64_t high_ = 0;
    unsigned at_ = 0;
};

}  // namespace yl::bc
