#include "batch_view.hpp"

#include <fmt/format.h>
#include <spdlog/sinks/basic_file_sink.h>
#include <spdlog/spdlog.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>

#include "describe.hpp"
#include "terminal.hpp"

namespace ylat {
namespace {

using namespace std::chrono_literals;
using yl::batch::Event;
using yl::batch::Source;

constexpr auto redraw_every = 200ms;
constexpr std::size_t most_under_way = 8;  // lines

std::string_view source_text(Source source) {
    return source == Source::built   ? "built"
           : source == Source::cache ? "from the cache"
                                     : "from the shared cache";
}

std::string time_text(double seconds) {
    const auto whole = static_cast<long>(seconds + 0.5);
    return whole < 100 ? fmt::format("{} s", whole) : fmt::format("{} min", (whole + 30) / 60);
}

std::string fitted(const std::string& text, std::size_t columns) {
    return text.size() < columns ? text : text.substr(0, columns - 4) + "...";
}

double seconds_since(std::chrono::steady_clock::time_point begin) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

}  // namespace

BatchView::BatchView(const Session& session, std::span<const yl::batch::Job> jobs,
                     std::shared_ptr<spdlog::logger> log)
    : session_(session), jobs_(jobs), log_(std::move(log)) {
    draws_ = !session.quiet && !session.json && session.progress_when != "never" &&
             (session.progress_when == "always" || is_terminal(STDERR_FILENO));
    if (!draws_)
        return;
    ticker_ = std::jthread([this](const std::stop_token& stop) {
        std::unique_lock lock(mutex_);
        while (!ended_.wait_for(lock, stop, redraw_every, [&] { return stop.stop_requested(); }))
            draw();
    });
}

BatchView::~BatchView() {
    ticker_.request_stop();
    ended_.notify_all();
    if (ticker_.joinable())
        ticker_.join();
    erase();
}

std::string BatchView::name_of(std::size_t job) const {
    const yl::batch::Job& one = jobs_[job];
    const bool tells = one.target.empty() || one.output.find(one.target) != std::string::npos;
    return tells ? one.output : fmt::format("{} ({})", one.output, one.target);
}

void BatchView::say_above(const std::string& line) {
    erase();
    session_.say(line);
    if (draws_)
        std::fflush(stdout);
}

void BatchView::take(const Event& event) {
    const std::unique_lock lock(mutex_);
    if (event.kind == Event::Kind::planned) {
        to_do_ = event.job;
        whole_cost_ = event.cost;
        return;
    }
    const std::string& output = jobs_[event.job].output;
    switch (event.kind) {
        case Event::Kind::planned:
            break;
        case Event::Kind::started:
            under_way_[event.job] = Clock::now();
            session_.give_event({{"event", "started"}, {"output", output}});
            break;
        case Event::Kind::finished:
            show_finished(event);
            break;
        case Event::Kind::failed:
            erase();
            if (session_.json)
                session_.give_event({{"event", "failed"},
                                     {"output", output},
                                     {"seconds", event.seconds},
                                     {"error", error_json(event.error)}});
            else
                session_.complain({event.error.kind, event.error.sentence(), output});
            break;
        case Event::Kind::remark:
            erase();
            if (session_.json)
                session_.give_event(
                    {{"event", "remark"}, {"output", output}, {"error", error_json(event.error)}});
            else
                session_.complain(event.error);
            break;
    }
    if (log_ != nullptr && event.kind == Event::Kind::failed)
        log_->error("{}: {}", output, event.error.sentence());
    if (log_ != nullptr && event.kind == Event::Kind::remark)
        log_->warn("{}: {}", output, event.error.sentence());
    if (event.kind == Event::Kind::finished || event.kind == Event::Kind::failed) {
        under_way_.erase(event.job);
        ++done_;
        done_cost_ += event.cost;
        bytes_ += event.bytes;
    }
}

void BatchView::show_finished(const Event& event) {
    const yl::batch::Job& job = jobs_[event.job];
    const Json report = Json::parse(event.made.report, nullptr, false);
    const Json findings =
        report.is_object() ? report.value("findings", Json::array()) : Json::array();
    const std::string line =
        fmt::format("{}: {}, {}, {:.2f} s", name_of(event.job), source_text(event.source),
                    byte_text(event.bytes), event.seconds);
    if (!draws_)
        say_above(line);
    else if (!findings.empty())
        erase();
    session_.warn(findings, job.output);
    if (session_.json)
        session_.give_event({{"event", "finished"},
                             {"output", job.output},
                             {"target", job.target},
                             {"source", source_text(event.source)},
                             {"seconds", event.seconds},
                             {"bytes", event.bytes},
                             {"result", report.is_object() ? report : Json::object()}});
    if (log_ != nullptr)
        log_->info("{}", line);
}

std::string BatchView::bar_line(std::size_t columns) const {
    const double seconds = seconds_since(begun_);
    const double share = whole_cost_ > 0 ? done_cost_ / whole_cost_ : 0;
    std::string text = fmt::format("{} of {}, {}", done_, to_do_, byte_text(bytes_));
    if (seconds > 1 && bytes_ > 0)
        text += fmt::format(
            ", {}/s", byte_text(static_cast<std::uint64_t>(static_cast<double>(bytes_) / seconds)));
    if (seconds > 1 && share > 0.01)
        text += fmt::format(", {} left", time_text(seconds * (1 - share) / share));
    constexpr std::size_t most = 40;
    const std::size_t width =
        text.size() + 12 < columns ? std::min(most, columns - text.size() - 4) : 0;
    const auto filled = static_cast<std::size_t>(share * static_cast<double>(width));
    return width > 0 ? fmt::format("[{:<{}}] {}", std::string(filled, '#'), width, text) : text;
}

/// With the lock held.
void BatchView::draw() {
    if (!draws_ || to_do_ == 0)
        return;
    erase();
    const std::size_t columns = terminal_columns(STDERR_FILENO);
    std::string text = bar_line(columns) + "\n";
    std::size_t lines = 1;
    for (const auto& [job, begun] : under_way_) {
        if (lines > most_under_way)
            break;
        text +=
            fitted(fmt::format("  {:>5.1f} s  {}", seconds_since(begun), name_of(job)), columns) +
            "\n";
        ++lines;
    }
    fmt::print(stderr, "{}", text);
    std::fflush(stderr);
    drawn_lines_ = lines;
}

void BatchView::erase() {
    for (; drawn_lines_ > 0; --drawn_lines_)
        fmt::print(stderr, "\x1b[1A\x1b[2K");
    std::fflush(stderr);
}

void BatchView::end(const yl::batch::Summary& summary) {
    const std::unique_lock lock(mutex_);
    to_do_ = 0;
    erase();
    const double seconds = seconds_since(begun_);
    const std::string text =
        fmt::format("{}: {}; {} in {:.1f} s", count_text(jobs_.size(), "texture"),
                    summary_text(summary), byte_text(summary.bytes), seconds);
    session_.say(text);
    if (log_ != nullptr) {
        log_->info("{}", text);
        log_->flush();
    }
    if (!session_.json)
        return;
    Json event = summary_json(summary, jobs_);
    event["event"] = "end";
    event["seconds"] = seconds;
    session_.give_event(event);
}

yl::Result<std::shared_ptr<spdlog::logger>> open_log(const std::string& path) {
    if (path.empty())
        return std::shared_ptr<spdlog::logger>();
    try {
        auto sink = std::make_shared<spdlog::sinks::basic_file_sink_mt>(path);
        return std::make_shared<spdlog::logger>("batch", std::move(sink));
    } catch (const spdlog::spdlog_ex& error) {
        return yl::fail_at({yl::ErrorKind::io, error.what()}, path);
    }
}

std::string summary_text(const yl::batch::Summary& summary) {
    std::string text;
    for (const auto& [count, what] : {std::pair{summary.built, "built"},
                                      {summary.from_cache, "from the cache"},
                                      {summary.from_shared, "from the shared cache"},
                                      {summary.up_to_date, "up to date"},
                                      {summary.failed, "failed"},
                                      {summary.left_out, "left out"}})
        if (count > 0)
            text += fmt::format("{}{} {}", text.empty() ? "" : ", ", count, what);
    if (summary.findings > 0)
        text += ", " + count_text(summary.findings, "finding");
    return text.empty() ? "nothing to do" : text;
}

Json summary_json(const yl::batch::Summary& summary, std::span<const yl::batch::Job> jobs) {
    Json json = {{"textures", jobs.size()},          {"built", summary.built},
                 {"from_cache", summary.from_cache}, {"from_shared_cache", summary.from_shared},
                 {"up_to_date", summary.up_to_date}, {"failed", summary.failed},
                 {"left_out", summary.left_out},     {"findings", summary.findings},
                 {"bytes", summary.bytes},           {"peak_memory", summary.peak_memory},
                 {"errors", Json::array()}};
    for (std::size_t i = 0; i < jobs.size(); ++i)
        if (summary.errors[i])
            json["errors"].push_back(
                {{"output", jobs[i].output}, {"error", error_json(*summary.errors[i])}});
    return json;
}

}  // namespace ylat
