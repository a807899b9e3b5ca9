// Counts what a phase has done.
#pragma once

#include <atomic>

#include <yl/progress.hpp>
#include <yl/result.hpp>

#include "base/internal.hpp"
#include "base/parallel.hpp"

namespace yl {

class YL_INTERNAL ProgressCounter {
 public:
    /// Of `total` units of any kind.
    ProgressCounter(const Progress& told, Phase phase, std::uint64_t total)
        : told_(told), phase_(phase), total_(total) {
        tell(total == 0 ? 1.0F : 0.0F);
    }

    /// Loops look at this and leave.
    [[nodiscard]] bool cancelled() const { return cancelled_; }

    void add(std::uint64_t count) {
        if (!told_ || count == 0)
            return;
        const Locked lock(mutex_);
        done_ += count;
        tell(static_cast<float>(static_cast<double>(done_) / static_cast<double>(total_)));
    }

    /// The end of the phase; an error if the program has asked for the end of the call.
    [[nodiscard]] Status finish() {
        if (told_) {
            const Locked lock(mutex_);
            if (done_ < total_) {
                done_ = total_;
                tell(1);
            }
        }
        return status();
    }

    [[nodiscard]] Status status() const;

 private:
    void tell(float share) {
        if (!cancelled_ && !told_({phase_, share}))
            cancelled_ = true;
    }

    const Progress& told_;
    Phase phase_;
    std::uint64_t total_;
    Mutex mutex_;
    std::uint64_t done_ = 0;
    std::atomic<bool> cancelled_ = false;
};

}  // namespace yl
