// The arithmetic decoder of lossy WebP (RFC 6386, section 7).
#pragma once

#include <bit>

#include "base/bytes.hpp"

namespace yl::webp {

/// Beyond the end there are zeros; whether anyone took some of them is asked later.
class BoolReader {
 public:
    explicit BoolReader(ByteSpan bytes = {}) : bytes_(bytes) { refill(); }

    /// One bit that is 0 in `probability` of 256 cases.
    [[nodiscard]] bool read(std::uint32_t probability) {
        if (spare_ < 0)
            refill();
        const std::uint32_t split = (less_one_ * probability) >> 8U;
        // Branches, since whoever asks goes one way or the other next: a guess is better than a wait.
        if (static_cast<std::uint32_t>(value_ >> spare_) > split) {
            value_ -= std::uint64_t{split + 1} << spare_;
            normalise(less_one_ - split);
            return true;
        }
        normalise(split + 1);
        return false;
    }
    /// The value or its negative, as the next bit says, which is as likely 0 as 1: nothing to guess.
    /// Not for the first bit of all: only then can a half of the range have 8 bits.
    [[nodiscard]] int read_sign_of(int value) {
        if (spare_ < 0)
            refill();
        const std::uint32_t split = less_one_ >> 1U;
        const auto top = static_cast<std::uint32_t>(value_ >> spare_);
        const std::uint32_t is_set = top > split ? ~std::uint32_t{0} : 0;
        value_ -= std::uint64_t{(split + 1) & is_set} << spare_;
        less_one_ = (less_one_ + is_set) | 1U;
        --spare_;
        const int mask = static_cast<int>(is_set);
        return (value ^ mask) - mask;
    }
    [[nodiscard]] bool read_flag() { return read(128); }
    /// The highest bit first.
    [[nodiscard]] std::uint32_t read_bits(unsigned count) {
        std::uint32_t value = 0;
        while (count-- > 0)
            value = value << 1U | static_cast<std::uint32_t>(read_flag());
        return value;
    }
    /// A number of `count` bits, and its sign.
    [[nodiscard]] int read_signed(unsigned count) {
        const int value = static_cast<int>(read_bits(count));
        return read_flag() ? -value : value;
    }
    /// That, where a flag says that there is one; else 0.
    [[nodiscard]] int read_optional(unsigned count) { return read_flag() ? read_signed(count) : 0; }

    [[nodiscard]] bool is_beyond_end() const {
        return static_cast<std::ptrdiff_t>(at_ * 8) - spare_ - 8 >
               static_cast<std::ptrdiff_t>(bytes_.size() * 8);
    }

 private:
    /// A range of 8 bits again.
    void normalise(std::uint32_t range) {
        const int shift = 8 - static_cast<int>(std::bit_width(range));
        less_one_ = (range << shift) - 1;
        spare_ -= shift;
    }

    void refill() {
        constexpr int count = 6;  // bytes, after which there are up to 56 bits
        if (at_ + sizeof value_ <= bytes_.size()) {
            const auto next = load<std::uint64_t, std::endian::big>(bytes_.data() + at_);
            value_ = value_ << (8 * count) | next >> (64 - 8 * count);
            at_ += count;
            spare_ += 8 * count;
            return;
        }
        for (; spare_ < 0; spare_ += 8, ++at_)
            value_ = value_ << 8U |
                     (at_ < bytes_.size() ? std::to_integer<std::uint64_t>(bytes_[at_]) : 0);
    }

    ByteSpan bytes_;
    std::size_t at_ = 0;
    std::uint64_t value_ = 0;       ///< the next bits
    int spare_ = -8;                ///< how many they are, but for the 8 that are compared
    std::uint32_t less_one_ = 254;  ///< the range less one
};

}  // namespace yl::webp
