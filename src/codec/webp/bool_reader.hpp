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
        if (held_ < 16)
            refill();
        const std::uint32_t split = 1 + (((range_ - 1) * probability) >> 8U);
        const std::uint64_t border = std::uint64_t{split} << 56U;
        const bool bit = value_ >= border;
        range_ = bit ? range_ - split : split;
        value_ -= bit ? border : 0;
        const int shift = std::countl_zero(range_) - 24;  // so that it has 8 bits again
        range_ <<= shift;
        value_ <<= shift;
        held_ -= shift;
        return bit;
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
        return static_cast<std::ptrdiff_t>(at_ * 8) - held_ >
               static_cast<std::ptrdiff_t>(bytes_.size() * 8);
    }

 private:
    void refill() {
        if (at_ + sizeof value_ <= bytes_.size()) {
            const int count = (63 - held_) / 8;
            const auto next = load<std::uint64_t, std::endian::big>(bytes_.data() + at_);
            value_ |= (next & ~std::uint64_t{0} << (64 - 8 * count)) >> held_;
            at_ += static_cast<std::size_t>(count);
            held_ += 8 * count;
            return;
        }
        for (; held_ <= 56; held_ += 8, ++at_)
            if (at_ < bytes_.size())
                value_ |= std::to_integer<std::uint64_t>(bytes_[at_]) << (56 - held_);
    }

    ByteSpan bytes_;
    std::size_t at_ = 0;
    std::uint64_t value_ = 0;  ///< the next bits, the first of them highest
    int held_ = 0;             ///< how many they are
    std::uint32_t range_ = 255;
};

}  // namespace yl::webp
