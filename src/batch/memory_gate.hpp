// How much memory jobs under way may take together.
#pragma once

#include <algorithm>
#include <cstdint>
#include <mutex>

namespace yl::batch {

class MemoryGate {
 public:
    explicit MemoryGate(std::uint64_t max_bytes) : max_bytes_(max_bytes) {}

    /// True where so much is free, or nothing else is under way: a job that takes more than all there
    /// is runs alone.
    [[nodiscard]] bool fits(std::uint64_t bytes) const {
        return max_bytes_ == 0 || taken_ == 0 || bytes <= max_bytes_ - std::min(max_bytes_, taken_);
    }
    void take(std::uint64_t bytes) {
        taken_ += bytes;
        peak_ = std::max(peak_, taken_);
    }
    void give_back(std::uint64_t bytes) { taken_ -= bytes; }
    [[nodiscard]] std::uint64_t peak() const { return peak_; }

 private:
    std::uint64_t max_bytes_;
    std::uint64_t taken_ = 0, peak_ = 0;
};

}  // namespace yl::batch
