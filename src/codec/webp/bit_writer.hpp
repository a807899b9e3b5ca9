// Bits into bytes, the lowest of each byte first; the counterpart of BitReader.
#pragma once

#include "base/bytes.hpp"

namespace yl::webp {

class BitWriter {
 public:
    /// The lowest bits of `value`, which has no others; up to 32.
    void write(std::uint32_t value, unsigned count) {
        held_ |= std::uint64_t{value} << count_;
        count_ += count;
        while (count_ >= 8) {
            bytes_.push_back(static_cast<std::byte>(held_ & 255U));
            held_ >>= 8U;
            count_ -= 8;
        }
    }

    [[nodiscard]] std::vector<std::byte> release() {
        if (count_ > 0)
            bytes_.push_back(static_cast<std::byte>(held_ & 255U));
        held_ = count_ = 0;
        return std::move(bytes_);
    }

 private:
    std::vector<std::byte> bytes_;
    std::uint64_t held_ = 0;
    unsigned count_ = 0;
};

}  // namespace yl::webp
