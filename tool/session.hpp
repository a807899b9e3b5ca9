// What all commands share: the options that mean the same everywhere, and how results leave.
#pragma once

#include <functional>
#include <memory>
#include <mutex>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>
#include <yl/yl.hpp>

#include "options.hpp"
#include "pipes.hpp"
#include "progress.hpp"

namespace ylat {

using Json = nlohmann::ordered_json;

/// Exit codes of the tool.
enum class Exit : int { done = 0, findings = 1, usage = 2, bad_input = 3, io = 4, no_device = 5 };

[[nodiscard]] Exit exit_for(yl::ErrorKind kind);

/// One run of the tool: the common options, and the command that was chosen.
struct Session {
    bool json = false;
    bool quiet = false;
    bool strict = false;
    int threads = 0;  ///< 0: all
    std::string progress_when = "auto";
    bool streams = false;     ///< with --json, documents of one line each, one after the other
    bool sends_file = false;  ///< standard output is the file that is made
    Pipes pipes = {};         ///< what came through pipes
    std::function<yl::Result<Exit>()> command;
    std::function<yl::Status()> check = {};  ///< of the command's values; may be empty
    /// Takes the document for programs instead of standard output, for a command within another.
    std::function<void(const Json&)> receiver = {};

    Session() = default;
    Session(const Session&) = delete;
    Session& operator=(const Session&) = delete;

    /// A line for people, on standard output; silent with --json or --quiet.
    void say(const std::string& line) const;
    /// The result for programs, with --json; nothing is made of it otherwise.
    void give(const std::function<Json()>& result) const;
    /// One document of several, while the command runs.
    void give_event(const Json& event) const;
    /// An error: for people on standard error, for programs in the one document.
    void complain(const yl::Error& error) const;
    /// Findings for people, on standard error, each with its remedy. They count under --strict; for
    /// programs they stand in the result.
    void warn(const yl::Findings& findings, const std::string& about) const;
    /// The same of findings that a command gave for programs, as in its result.
    void warn(const Json& findings, const std::string& about) const;
    /// How many of a command's findings count under --strict.
    [[nodiscard]] std::size_t warnings() const { return warnings_; }
    /// For what counts without being shown.
    void count_warnings(std::size_t more) const;
    /// The same, and they go into the result for programs: for what is not in it yet.
    void note(const yl::Findings& findings, const std::string& about) const;
    /// Whether anything went to standard output.
    [[nodiscard]] bool has_printed() const { return has_printed_; }
    /// For every call that can take long.
    [[nodiscard]] yl::Progress progress() const;
    /// How a command ends whose work is done: findings alone fail only under --strict.
    [[nodiscard]] Exit outcome() const;

 private:
    void print(const Json& document) const;
    void show_finding(const std::string& about, std::string_view level, const std::string& problem,
                      std::string_view remedy) const;
    [[nodiscard]] ProgressStyle progress_style() const;
    /// Before anything is printed.
    void clear_progress() const;

    mutable std::mutex mutex_ =
        {};  ///< over what is counted: several textures may be baked at once
    mutable std::size_t warnings_ = 0;
    mutable std::vector<Json> noted_ = {};
    mutable std::shared_ptr<ProgressDisplay> display_ = {};
    mutable bool has_given_ = false, has_printed_ = false;
};

/// Errors and findings for programs.
[[nodiscard]] Json error_json(const yl::Error& error);
[[nodiscard]] Json findings_json(const yl::Findings& findings);

/// Adds what a texture is made of: format, sizes, counts and bytes.
void add_shape(Json& json, const yl::TextureShape& shape);

// One of these for each command, in the file of its name.
void add_peek(CLI::App& app, Session& session);
void add_rework(CLI::App& app, Session& session);
void add_bake(CLI::App& app, Session& session);
void add_atlas(CLI::App& app, Session& session);
void add_cube(CLI::App& app, Session& session);
void add_unpack(CLI::App& app, Session& session);
void add_sheet(CLI::App& app, Session& session);
void add_draw(CLI::App& app, Session& session);
void add_diff(CLI::App& app, Session& session);
void add_upload(CLI::App& app, Session& session);
void add_lint(CLI::App& app, Session& session);
void add_report(CLI::App& app, Session& session);
void add_batch(CLI::App& app, Session& session);
void add_model(CLI::App& app, Session& session);
void add_demo(CLI::App& app, Session& session);

}  // namespace ylat
