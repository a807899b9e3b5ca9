// What people and programs see of a batch while it runs.
#pragma once

#include <chrono>
#include <condition_variable>
#include <map>
#include <mutex>
#include <thread>
#include <yl/batch.hpp>

#include "session.hpp"

namespace spdlog {
class logger;
}

namespace ylat {

/// A few lines on a terminal, redrawn in place; a line for each file elsewhere; events with --json; and
/// a log besides.
class BatchView {
 public:
    BatchView(const Session& session, std::span<const yl::batch::Job> jobs,
              std::shared_ptr<spdlog::logger> log);
    ~BatchView();
    BatchView(const BatchView&) = delete;
    BatchView& operator=(const BatchView&) = delete;

    /// Never called by two threads at once.
    void take(const yl::batch::Event& event);
    void end(const yl::batch::Summary& summary);

 private:
    using Clock = std::chrono::steady_clock;

    void show_finished(const yl::batch::Event& event);
    void say_above(const std::string& line);
    void draw();
    void erase();
    [[nodiscard]] std::string bar_line(std::size_t columns) const;
    [[nodiscard]] std::string name_of(std::size_t job) const;

    const Session& session_;
    std::span<const yl::batch::Job> jobs_;
    std::shared_ptr<spdlog::logger> log_;
    bool draws_ = false;
    Clock::time_point begun_ = Clock::now();
    std::mutex mutex_ = {};
    std::size_t to_do_ = 0, done_ = 0, drawn_lines_ = 0;
    double whole_cost_ = 0, done_cost_ = 0;
    std::uint64_t bytes_ = 0;
    std::map<std::size_t, Clock::time_point> under_way_ = {};
    std::condition_variable_any ended_ = {};
    std::jthread ticker_ = {};
};

/// A log file to which lines are added; null for no name.
[[nodiscard]] yl::Result<std::shared_ptr<spdlog::logger>> open_log(const std::string& path);

/// "3 built, 1 from the cache, 8 up to date"
[[nodiscard]] std::string summary_text(const yl::batch::Summary& summary);
[[nodiscard]] Json summary_json(const yl::batch::Summary& summary,
                                std::span<const yl::batch::Job> jobs);

}  // namespace ylat
