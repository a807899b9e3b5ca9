// How far a command is, shown on standard error.
#pragma once

#include <chrono>
#include <cstddef>
#include <mutex>
#include <optional>
#include <string>
#include <yl/progress.hpp>

namespace ylat {

enum class ProgressStyle {
    none,
    bar,    ///< redrawn in place: for a terminal
    lines,  ///< a line now and then: for a log
};

/// One for a whole run of the tool. A phase that ends soon shows nothing, unless all are wanted.
class ProgressDisplay {
 public:
    ProgressDisplay(ProgressStyle style, bool shows_all) : style_(style), shows_all_(shows_all) {}

    void show(const yl::ProgressStep& step);
    /// Takes the bar away before anything else is printed.
    void clear();

 private:
    using Clock = std::chrono::steady_clock;

    void show_line(Clock::time_point now, bool is_new);
    void show_bar(Clock::time_point now);
    void draw_bar(const std::string& state);
    void erase_bar();
    [[nodiscard]] std::string state_text(float share) const;

    ProgressStyle style_;
    bool shows_all_;
    std::mutex mutex_ = {};
    std::optional<yl::Phase> phase_ = {};
    float share_ = 0;
    Clock::time_point begun_ = {}, shown_ = {};
    bool has_shown_ = false;       ///< a line of this phase
    std::size_t bar_letters_ = 0;  ///< on the screen
};

}  // namespace ylat
