#include "session.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>

#include "terminal.hpp"

namespace ylat {

namespace {

/// What a finding's remedy is called on the command line, by its code.
constexpr std::pair<std::string_view, std::string_view> command_remedies[] = {
    {"cube-faces-apart", "look at it with ylat sheet"},
    {"cube-order-contradicts-names", "follow the edges with --reorder, or rename the pictures"},
    {"cube-order-doubtful",
     "look at it with ylat sheet; --reorder finds another order if there is one"},
    {"cube-order-unsure", "look at it with ylat sheet"},
    {"cube-seam-on-device",
     "enable GL_TEXTURE_CUBE_MAP_SEAMLESS where that is there, or bake it with --join-edges"},
    {"cube-up-unknown", "say which, by their names or by --top and --front"},
    {"partial-blocks", "choose a size of whole blocks, for example by --pow2 or --max-size"},
};

std::string_view remedy_of(const yl::Finding& finding) {
    const auto known = std::ranges::find(command_remedies, std::string_view(finding.code),
                                         &std::pair<std::string_view, std::string_view>::first);
    return known != std::end(command_remedies) ? known->second : finding.remedy;
}

/// On standard error; in lines that fit a terminal, where that is one.
void print_note(const std::string& text) {
    if (!is_terminal(STDERR_FILENO)) {
        fmt::print(stderr, "{}\n", text);
        return;
    }
    const auto lines = wrapped(text, terminal_columns(STDERR_FILENO) - 2);
    fmt::print(stderr, "{}\n", fmt::join(lines, "\n  "));
}

std::string_view level_text(yl::FindingLevel level) {
    return level == yl::FindingLevel::warning ? "note" : yl::name(level);
}

}  // namespace

Exit exit_for(yl::ErrorKind kind) {
    switch (kind) {
        case yl::ErrorKind::usage:
            return Exit::usage;
        case yl::ErrorKind::malformed:
        case yl::ErrorKind::unsupported:
        case yl::ErrorKind::limit:
            return Exit::bad_input;
        case yl::ErrorKind::memory:
        case yl::ErrorKind::missing:
        case yl::ErrorKind::forbidden:
        case yl::ErrorKind::full:
        case yl::ErrorKind::interrupted:
        case yl::ErrorKind::io:
        case yl::ErrorKind::cancelled:
            return Exit::io;
        case yl::ErrorKind::device:
            return Exit::no_device;
    }
    return Exit::bad_input;
}

ProgressStyle Session::progress_style() const {
    if (progress_when == "never" || (progress_when == "auto" && (quiet || json)))
        return ProgressStyle::none;
    return is_terminal(STDERR_FILENO) ? ProgressStyle::bar : ProgressStyle::lines;
}

yl::Progress Session::progress() const {
    const ProgressStyle style = progress_style();
    if (style == ProgressStyle::none)
        return {};
    if (display_ == nullptr)
        display_ = std::make_shared<ProgressDisplay>(style, progress_when == "always");
    return [display = display_](const yl::ProgressStep& step) {
        display->show(step);
        return true;
    };
}

void Session::clear_progress() const {
    if (display_ != nullptr)
        display_->clear();
}

void Session::say(const std::string& line) const {
    if (json || quiet)
        return;
    clear_progress();
    has_printed_ = has_printed_ || !sends_file;
    fmt::print(sends_file ? stderr : stdout, "{}\n", pipes.with_own_names(line));
}

void Session::print(const Json& document) const {
    clear_progress();
    if (receiver)
        return receiver(document);
    fmt::print("{}\n", pipes.with_own_names(document.dump(streams ? -1 : 2, ' ', false,
                                                          Json::error_handler_t::replace)));
    has_given_ = has_printed_ = true;
}

void Session::give(const std::function<Json()>& result) const {
    if (!json)
        return;
    Json whole = result();
    if (whole.is_object() && !noted_.empty()) {
        Json& findings = whole["findings"];
        findings = findings.is_null() ? Json::array() : findings;
        for (const Json& entry : noted_)
            findings.push_back(entry);
    }
    print(whole);
}

void Session::give_event(const Json& event) const {
    if (!json)
        return;
    const std::scoped_lock lock(mutex_);
    print(event);
    std::fflush(stdout);
}

void Session::complain(const yl::Error& error) const {
    if (json && streams)
        return give_event({{"event", "error"}, {"error", error_json(error)}});
    if (json && !has_given_)
        return print({{"error", error_json(error)}, {"findings", noted_}});
    clear_progress();
    std::fflush(stdout);
    print_note("ylat: " + pipes.with_own_names(error.sentence()));
}

void Session::count_warnings(std::size_t more) const {
    const std::scoped_lock lock(mutex_);
    warnings_ += more;
}

void Session::warn(const yl::Findings& findings, const std::string& about) const {
    count_warnings(
        static_cast<std::size_t>(std::ranges::count_if(findings, [](const yl::Finding& finding) {
            return finding.level != yl::FindingLevel::hint;
        })));
    for (const yl::Finding& finding : findings)
        show_finding(about, level_text(finding.level), finding.problem, remedy_of(finding));
}

void Session::warn(const Json& findings, const std::string& about) const {
    const std::string_view hint = yl::name(yl::FindingLevel::hint);
    for (const Json& finding : findings) {
        const std::string level = finding.value("level", "");
        count_warnings(level == hint ? 0 : 1);
        show_finding(about, level == yl::name(yl::FindingLevel::warning) ? "note" : level,
                     finding.value("problem", ""), finding.value("remedy", ""));
    }
}

void Session::show_finding(const std::string& about, std::string_view level,
                           const std::string& problem, std::string_view remedy) const {
    if (quiet || json)
        return;
    const std::scoped_lock lock(mutex_);
    clear_progress();
    std::fflush(stdout);
    print_note(pipes.with_own_names(fmt::format("{}: {}: {}; {}", about, level, problem, remedy)));
}

void Session::note(const yl::Findings& findings, const std::string& about) const {
    warn(findings, about);
    if (!json)
        return;
    for (Json& entry : findings_json(findings)) {
        entry["file"] = about;
        noted_.push_back(std::move(entry));
    }
}

Exit Session::outcome() const {
    return strict && warnings_ > 0 ? Exit::findings : Exit::done;
}

Json error_json(const yl::Error& error) {
    Json json = {{"kind", yl::name(error.kind)}, {"sentence", error.sentence()}};
    if (!error.place.empty())
        json["place"] = error.place;
    if (error.offset)
        json["offset"] = *error.offset;
    return json;
}

void add_shape(Json& json, const yl::TextureShape& shape) {
    json["gpu_format"] = yl::info(shape.format).name;
    json["width"] = shape.width;
    json["height"] = shape.height;
    json["depth"] = shape.depth;
    json["levels"] = shape.levels;
    json["layers"] = shape.layers;
    json["faces"] = shape.faces;
    json["gpu_bytes"] = shape.total_bytes();
}

Json findings_json(const yl::Findings& findings) {
    Json json = Json::array();
    for (const yl::Finding& finding : findings)
        json.push_back({{"code", std::string_view(finding.code)},
                        {"level", yl::name(finding.level)},
                        {"problem", finding.problem},
                        {"remedy", remedy_of(finding)}});
    return json;
}

}  // namespace ylat
