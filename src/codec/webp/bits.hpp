// Bits out of bytes, the lowest of each byte first, as lossless WebP has them.
#pragma once

#include <algorithm>

#include "base/bytes.hpp"

namespace yl::webp {

/// Beyond the end there are zeros; whether anyone took some of them is asked later.
class BitReader {
 public:
    explicit BitReader(ByteSpan bytes) : bytes_(bytes) { refill(); }

    /// Makes `refilled_bits` bits available, or more.
    void refill() {
        if (at_ + sizeof held_ <= bytes_.size()) {
            held_ |= load<std::uint64_t>(bytes_.data() + at_) << count_;
            at_ += (63U - count_) >> 3U;
            count_ |= 56U;
            return;
        }
        for (; count_ <= 56U; count_ += 8, ++at_)
            if (at_ < bytes_.size())
                held_ |= std::to_integer<std::uint64_t>(bytes_[at_]) << count_;
    }
    static constexpr unsigned refilled_bits = 56;

    /// Without `refill`: up to as many bits as are held.
    [[nodiscard]] std::uint32_t peek(unsigned count) const {
        return static_cast<std::uint32_t>(held_ & ((std::uint64_t{1} << count) - 1));
    }
    void drop(unsigned count) {
        held_ >>= count;
        count_ -= count;
    }
    /// Up to 32 bits.
    [[nodiscard]] std::uint32_t read(unsigned count) {
        refill();
        return take(count);
    }
    [[nodiscard]] bool read_flag() { return read(1) != 0; }
    /// As `read`, of bits that are held.
    [[nodiscard]] std::uint32_t take(unsigned count) {
        const std::uint32_t value = peek(count);
        drop(count);
        return value;
    }

    /// Whether more bits were taken than there are.
    [[nodiscard]] bool is_beyond_end() const { return at_ * 8 - count_ > bytes_.size() * 8; }
    /// Of the byte that the next bit lies in.
    [[nodiscard]] std::size_t offset() const { return std::min(at_ - count_ / 8, bytes_.size()); }

 private:
    ByteSpan bytes_;
    std::size_t at_ = 0;
    std::uint64_t held_ = 0;
    unsigned count_ = 0;
};

}  // namespace yl::webp
