#include "progress.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>

#include "terminal.hpp"

namespace ylat {
namespace {

using namespace std::chrono_literals;

constexpr auto bar_after = 300ms;  // of a phase
constexpr auto redraw_every = 100ms;
constexpr auto line_every = 10s;

std::string time_text(double seconds) {
    const auto whole = static_cast<long>(seconds + 0.5);
    return whole < 100 ? fmt::format("{} s", whole) : fmt::format("{} min", (whole + 30) / 60);
}

}  // namespace

std::string ProgressDisplay::state_text(float share) const {
    std::string text = fmt::format("{:3.0f} %", static_cast<double>(share) * 100);
    const double seconds = std::chrono::duration<double>(Clock::now() - begun_).count();
    if (share > 0.02F && share < 1 && seconds > 1)
        text += fmt::format(", {} left", time_text(seconds * (1 - static_cast<double>(share)) /
                                                   static_cast<double>(share)));
    return text;
}

void ProgressDisplay::draw_bar(const std::string& state) {
    const std::string phase(yl::name(*phase_));
    constexpr std::size_t most = 40;
    constexpr std::size_t beside = 5;  // brackets and spaces
    const std::size_t columns = terminal_columns(STDERR_FILENO);
    const std::size_t used = phase.size() + state.size() + beside;
    const std::size_t width = used + 8 < columns ? std::min(most, columns - used) : 0;
    const auto filled = static_cast<std::size_t>(share_ * static_cast<float>(width));
    const std::string line =
        width > 0 ? fmt::format("{} [{:<{}}] {}", phase, std::string(filled, '#'), width, state)
                  : fmt::format("{} {}", phase, state);
    const std::size_t shown = std::min(line.size(), columns - 1);
    fmt::print(stderr, "\r{:<{}}", line.substr(0, shown), std::max(shown, bar_letters_));
    std::fflush(stderr);
    bar_letters_ = shown;
}

void ProgressDisplay::erase_bar() {
    if (bar_letters_ == 0)
        return;
    fmt::print(stderr, "\r{:{}}\r", "", bar_letters_);
    std::fflush(stderr);
    bar_letters_ = 0;
}

void ProgressDisplay::clear() {
    const std::lock_guard lock(mutex_);
    erase_bar();
}

void ProgressDisplay::show_line(Clock::time_point now, bool is_new) {
    const bool is_over = share_ >= 1;
    const bool is_due = now - shown_ >= line_every || (is_over && has_shown_) ||
                        (shows_all_ && (is_new || is_over));
    if (!is_due)
        return;
    fmt::print(stderr, "{}: {}\n", yl::name(*phase_), state_text(share_));
    std::fflush(stderr);
    has_shown_ = true;
    shown_ = now;
}

void ProgressDisplay::show_bar(Clock::time_point now) {
    if (share_ >= 1)
        return erase_bar();
    const bool is_due = (shows_all_ || now - begun_ >= bar_after) &&
                        (bar_letters_ == 0 || now - shown_ >= redraw_every);
    if (!is_due)
        return;
    draw_bar(state_text(share_));
    shown_ = now;
}

void ProgressDisplay::show(const yl::ProgressStep& step) {
    if (style_ == ProgressStyle::none)
        return;
    const auto now = Clock::now();
    const std::lock_guard lock(mutex_);
    const bool is_new = phase_ != step.phase || step.share < share_;
    if (is_new) {
        phase_ = step.phase;
        begun_ = shown_ = now;
        has_shown_ = false;
    }
    const bool is_repeated = !is_new && step.share >= 1 && share_ >= 1;
    share_ = step.share;
    if (is_repeated)
        return;
    if (style_ == ProgressStyle::lines)
        show_line(now, is_new);
    else
        show_bar(now);
}

}  // namespace ylat
