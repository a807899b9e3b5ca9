#include "session.hpp"

#include <fmt/format.h>

#include <cstdio>

namespace ylat {

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
    if (json)
        fmt::print("{}\n", result.dump(2, ' ', false, Json::error_handler_t::replace));
}

void Session::complain(const yl::Error& error) const {
    std::fflush(stdout);
    fmt::print(stderr, "ylat: {}\n", error.sentence());
}

void Session::warn(const yl::Findings& findings, const std::string& about) const {
    if (quiet)
        return;
    std::fflush(stdout);
    for (const yl::Finding& finding : findings)
        fmt::print(stderr, "{}: note: {}; {}\n", about, finding.problem, finding.remedy);
}

Json findings_json(const yl::Findings& findings) {
    Json json = Json::array();
    for (const yl::Finding& finding : findings)
        json.push_back({{"problem", finding.problem}, {"remedy", finding.remedy}});
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
