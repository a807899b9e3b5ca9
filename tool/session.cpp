#include "session.hpp"

#include <fmt/format.h>

#include <cstdio>

namespace ylat {

namespace {

const char* level_text(yl::FindingLevel level) {
    return level == yl::FindingLevel::hint ? "hint" : "note";
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
        case yl::ErrorKind::io:
        case yl::ErrorKind::cancelled:
            return Exit::io;
        case yl::ErrorKind::device:
            return Exit::no_device;
    }
    return Exit::bad_input;
}

void Session::say(const std::string& line) const {
    if (!json && !quiet)
        fmt::print("{}\n", line);
}

void Session::give(const Json& result) const {
    if (!json)
        return;
    Json whole = result;
    if (whole.is_object() && !noted_.empty()) {
        Json& findings = whole["findings"];
        findings = findings.is_null() ? Json::array() : findings;
        findings.insert(findings.end(), noted_.begin(), noted_.end());
    }
    fmt::print("{}\n", whole.dump(2, ' ', false, Json::error_handler_t::replace));
}

void Session::complain(const yl::Error& error) const {
    std::fflush(stdout);
    fmt::print(stderr, "ylat: {}\n", error.sentence());
}

void Session::warn(const yl::Findings& findings, const std::string& about) const {
    for (const yl::Finding& finding : findings)
        warnings_ += finding.level == yl::FindingLevel::warning ? 1 : 0;
    if (quiet)
        return;
    std::fflush(stdout);
    for (const yl::Finding& finding : findings)
        fmt::print(stderr, "{}: {}: {}; {}\n", about, level_text(finding.level), finding.problem,
                   finding.remedy);
}

void Session::note(const yl::Findings& findings, const std::string& about) const {
    warn(findings, about);
    for (Json& entry : findings_json(findings)) {
        entry["file"] = about;
        noted_.push_back(std::move(entry));
    }
}

Exit Session::outcome() const {
    return strict && warnings_ > 0 ? Exit::findings : Exit::done;
}

Json findings_json(const yl::Findings& findings) {
    Json json = Json::array();
    for (const yl::Finding& finding : findings)
        json.push_back({{"level", finding.level == yl::FindingLevel::hint ? "hint" : "warning"},
                        {"problem", finding.problem},
                        {"remedy", finding.remedy}});
    return json;
}

CLI::App* add_command(CLI::App& app, Session& session, const char* name, const char* description,
                      std::function<yl::Result<Exit>()> run) {
    CLI::App* command = app.add_subcommand(name, description);
    command->fallthrough();
    command->callback([&session, run = std::move(run)] { session.command = run; });
    return command;
}

}  // namespace ylat
