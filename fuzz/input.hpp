// What every fuzz target shares: numbers out of a fuzzer's bytes, a check that ends the run, one
// thread.
#pragma once

#include <tbb/global_control.h>

#include <algorithm>
#include <cstdint>
#include <cstdlib>
#include <cstring>
#include <limits>
#include <span>
#include <type_traits>

namespace fuzz {

/// One thread: the same input takes the same way every time.
inline const tbb::global_control one_thread(tbb::global_control::max_allowed_parallelism, 1);

/// Ends the run, which the fuzzer reports together with the input.
inline void check(bool holds) {
    if (!holds)
        std::abort();
}

/// Hands out a fuzzer's bytes from the front; zeros when there are no more.
class Input {
 public:
    Input(const std::uint8_t* data, std::size_t size)
        : bytes_(std::as_bytes(std::span(data, size))) {}

    template <typename T>
    T take() {
        static_assert(std::is_trivially_copyable_v<T>);
        T value{};
        copy_to(std::as_writable_bytes(std::span(&value, 1)));
        return value;
    }

    /// From `min` to `max`, both included.
    std::uint32_t between(std::uint32_t min, std::uint32_t max) {
        return min + take<std::uint8_t>() % (max - min + 1);
    }

    template <typename Range>
    const auto& one_of(const Range& range) {
        return range[take<std::uint8_t>() % std::size(range)];
    }

    void copy_to(std::span<std::byte> target) {
        const std::size_t count = std::min(target.size(), bytes_.size());
        if (count > 0)
            std::memcpy(target.data(), bytes_.data(), count);
        bytes_ = bytes_.subspan(count);
    }

    /// Fills the target, repeating what is left as often as needed.
    void spread_over(std::span<std::byte> target) {
        std::size_t filled = std::min(target.size(), bytes_.size());
        if (filled > 0)
            std::memcpy(target.data(), bytes_.data(), filled);
        while (filled > 0 && filled < target.size()) {  // whole periods, so that it goes on alike
            const std::size_t count = std::min(filled, target.size() - filled);
            std::memcpy(target.data() + filled, target.data(), count);
            filled += count;
        }
    }

    [[nodiscard]] std::span<const std::byte> rest() const { return bytes_; }

 private:
    std::span<const std::byte> bytes_;
};

}  // namespace fuzz
