// Size arithmetic that cannot wrap round unnoticed.
#pragma once

#include <cstdint>
#include <optional>

namespace yl {

/// An unsigned 64-bit size that remembers whether any step overflowed.
class CheckedSize {
 public:
    constexpr CheckedSize(std::uint64_t value = 0) : value_(value) {}

    [[nodiscard]] constexpr CheckedSize operator+(CheckedSize other) const {
        CheckedSize sum;
        sum.overflowed_ = __builtin_add_overflow(value_, other.value_, &sum.value_) ||
                          overflowed_ || other.overflowed_;
        return sum;
    }
    [[nodiscard]] constexpr CheckedSize operator*(CheckedSize other) const {
        CheckedSize product;
        product.overflowed_ = __builtin_mul_overflow(value_, other.value_, &product.value_) ||
                              overflowed_ || other.overflowed_;
        return product;
    }
    constexpr CheckedSize& operator+=(CheckedSize other) { return *this = *this + other; }

    [[nodiscard]] constexpr bool overflowed() const { return overflowed_; }
    [[nodiscard]] constexpr bool fits(std::uint64_t most) const {
        return !overflowed_ && value_ <= most;
    }
    /// The value; nothing when a step overflowed.
    [[nodiscard]] constexpr std::optional<std::uint64_t> value() const {
        return overflowed_ ? std::nullopt : std::optional(value_);
    }

 private:
    std::uint64_t value_ = 0;
    bool overflowed_ = false;
};

/// The least multiple of `step` that is not below `value`.
[[nodiscard]] constexpr std::uint64_t round_up(std::uint64_t value, std::uint64_t step) {
    return (value + step - 1) / step * step;
}

[[nodiscard]] constexpr std::uint64_t ceil_div(std::uint64_t value, std::uint64_t divisor) {
    return (value + divisor - 1) / divisor;
}

}  // namespace yl
