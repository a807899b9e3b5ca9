// ylat: the command line of Yellow Lattice.
#include <fmt/format.h>
#include <signal.h>
#include <unistd.h>

#include <tbb/global_control.h>
#include <tbb/task_scheduler_observer.h>
#include <CLI/CLI.hpp>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <exception>
#include <new>
#include <string_view>
#include <thread>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "help.hpp"
#include "manual.hpp"
#include "session.hpp"

namespace {

using namespace ylat;

/// An error before there is a command, or after it.
int complain(Session& session, Exit code, const yl::Error& error) {
    session.complain(error);
    return static_cast<int>(code);
}

/// What is still to be written out, which fails where the disk is full or nobody listens.
int written(Session& session, int code, bool has_output) {
    const bool is_flushed = std::fflush(stdout) == 0 && std::ferror(stdout) == 0;
    if (is_flushed && (has_output || (!session.has_printed() && !session.sends_file)))
        return code;
    const std::string why = has_output ? std::strerror(errno) : "it is closed";
    fmt::print(stderr, "ylat: standard output: cannot write: {}\n", why);
    return static_cast<int>(Exit::io);
}

/// What to say of a command line that makes no sense.
std::string parse_problem(const CLI::App& app, const CLI::ParseError& error, int argc,
                          char** argv) {
    if (error.get_name() != "RequiredError" || !app.get_subcommands().empty())
        return fmt::format("{} (see ylat --help)", error.what());
    std::string commands;
    for (const CLI::App* command : app.get_subcommands({}))
        commands += (commands.empty() ? "" : ", ") + command->get_name();
    for (int i = 1; i < argc; ++i)
        if (argv[i][0] != '-')
            return fmt::format("'{}' is not a command; the commands are {}", argv[i], commands);
    return fmt::format("a command is missing; the commands are {}", commands);
}

/// Where the command line could not be read.
bool wants_json(int argc, char** argv) {
    return std::any_of(argv, argv + argc, [](std::string_view word) { return word == "--json"; });
}

OptionTable common_options(Session& session) {
    return {.rows = {{"--json", &session.json, "", "Print the result, findings and errors as JSON"},
                     {"--quiet", &session.quiet, "", "Print nothing but errors"},
                     {"--strict", &session.strict, "", "Exit with code 1 if there are findings"},
                     {"--progress",
                      &session.progress_when,
                      "always|never|auto",
                      "Show progress on standard error: a bar on a terminal, lines elsewhere "
                      "(auto: a line every 10 seconds, and nothing with --quiet or --json)",
                      {.allowed = one_of({"always", "never", "auto"})}},
                     {"--threads",
                      &session.threads,
                      "N",
                      "How many threads to use (all processors when left out)",
                      {.allowed = in_range(1, 1024)}}}};
}

void add_commands(CLI::App& app, Session& session) {
    for (const auto add :
         {add_peek, add_rework, add_bake, add_cube, add_atlas, add_unpack, add_sheet, add_draw,
          add_diff, add_lint, add_report, add_upload, add_model, add_batch, add_demo})
        add(app, session);
}

struct HelpChoices {
    std::string topic = {};
    std::string form = "text";
};

/// Null for the whole program.
yl::Result<const CLI::App*> command_named(const CLI::App& app, const std::string& name) {
    if (name.empty())
        return nullptr;
    for (const CLI::App* command : app.get_subcommands({}))
        if (command->get_name() == name)
            return command;
    return yl::fail_at({yl::ErrorKind::usage, "there is no such command (see ylat help)"}, name);
}

std::string help_text(const CLI::App& app, const CLI::App* command, const std::string& form) {
    if (form == "man")
        return man_page(app, command);
    if (form == "bash")
        return bash_completion(app);
    if (form == "zsh")
        return zsh_completion(app);
    // Not help(), which would be that of this very command.
    return app.get_formatter()->make_help(
        command != nullptr ? command : &app,
        command != nullptr ? "ylat " + command->get_name() : "ylat", CLI::AppFormatMode::Normal);
}

/// `ylat help` and `ylat help COMMAND`; man pages and what shells complete as well.
void add_help(CLI::App& app, Session& session, HelpChoices& choices) {
    Command help(app, session, "help", "Say what a command takes");
    help.add({.rows = {{"COMMAND", &choices.topic, "",
                        "A command; a short list of all of them when left out"},
                       {"--as",
                        &choices.form,
                        "text|man|bash|zsh",
                        "Plain text, a man page, or a completion script for a shell",
                        {.allowed = one_of({"text", "man", "bash", "zsh"})}}}});
    help.runs([&app, &choices]() -> yl::Result<Exit> {
        YL_TRY(const CLI::App* command, command_named(app, choices.topic));
        if (command != nullptr && (choices.form == "bash" || choices.form == "zsh"))
            return yl::fail_at(
                {yl::ErrorKind::usage, "a shell's script is of all commands together"}, "--as");
        fmt::print("{}", help_text(app, command, choices.form));
        return Exit::done;
    });
}

/// Leaves signals that end the program to the main thread, which holds them back while a file takes
/// its place. Signals that a thread brings on itself stay with it.
class SignalsLeftToMain : public tbb::task_scheduler_observer {
 public:
    void on_scheduler_entry(bool is_worker) override {
        if (!is_worker)
            return;
        sigset_t others;
        ::sigfillset(&others);
        for (const int own : {SIGABRT, SIGBUS, SIGFPE, SIGILL, SIGSEGV, SIGSYS, SIGTRAP})
            ::sigdelset(&others, own);
        ::pthread_sigmask(SIG_BLOCK, &others, nullptr);
    }
};

int run_command(Session& session) {
    if (session.json && session.sends_file)
        return complain(session, Exit::usage,
                        {yl::ErrorKind::usage,
                         "the file that is made and JSON cannot both go to standard output", "-o"});
    const auto threads = static_cast<std::size_t>(
        session.threads > 0 ? session.threads
                            : static_cast<int>(std::thread::hardware_concurrency()));
    // Never destroyed: where memory ran out, oneTBB's destructors need more of it, or wait for a
    // lock that nobody gives back.
    static const tbb::global_control& limit = *new tbb::global_control(
        tbb::global_control::max_allowed_parallelism, std::max<std::size_t>(threads, 1));
    static_cast<void>(limit);
    static SignalsLeftToMain& signals = *new SignalsLeftToMain();
    signals.observe(true);
    try {
        const auto exit = session.command();
        if (exit)
            return static_cast<int>(*exit);
        return complain(session, exit_for(exit.error().kind), exit.error());
    } catch (const std::bad_alloc&) {
        return complain(session, Exit::io,
                        {yl::ErrorKind::memory, "there is not enough memory for this"});
    }
}

int run(int argc, char** argv, Session& session) {
    CLI::App app("Image files to textures: reads, bakes, draws and uploads them.", "ylat");
    app.set_version_flag("--version", fmt::format("ylat {}", yl::version));
    app.require_subcommand(1);
    app.formatter(std::make_shared<HelpFormatter>());
    app.option_defaults()->always_capture_default();
    add_options(app, session, common_options(session));
    add_commands(app, session);
    HelpChoices help;
    add_help(app, session, help);
    try {
        app.parse(argc, argv);
    } catch (const CLI::Success& asked) {  // --help and --version
        return app.exit(asked);
    } catch (const CLI::ParseError& error) {
        session.json = wants_json(argc, argv);
        return complain(session, Exit::usage,
                        {yl::ErrorKind::usage, parse_problem(app, error, argc, argv)});
    }
    return run_command(session);
}

/// For `end_without_memory`, which takes no argument.
const Session* session_of_program = nullptr;

void write_out(int stream, std::string_view text) {
    while (!text.empty()) {
        const ssize_t count = ::write(stream, text.data(), text.size());
        if (count <= 0)
            return;
        text.remove_prefix(static_cast<std::size_t>(count));
    }
}

/// What is told where nothing can be allocated, not even for the sentence.
void tell_of_memory(bool as_json) {
    if (as_json)
        write_out(STDOUT_FILENO,
                  R"({"error": {"kind": "memory", "sentence": "there is not enough memory for )"
                  R"(this"}, "findings": []})"
                  "\n");
    else
        write_out(STDERR_FILENO, "ylat: there is not enough memory for this\n");
}

/// The JSON package allocates in destructors, where a failure ends the program: in the way of every
/// other lack of memory, then. Files that are not whole have no name yet, and go with it.
[[noreturn]] void end_without_memory() {
    try {
        if (const std::exception_ptr reason = std::current_exception())
            std::rethrow_exception(reason);
    } catch (const std::bad_alloc&) {
        const Session* session = session_of_program;
        const bool has_printed = session != nullptr && session->has_printed();
        if (has_printed)
            std::fflush(stdout);
        tell_of_memory(session != nullptr && session->json && !has_printed);
        ::_exit(static_cast<int>(Exit::io));
    } catch (...) {
        std::abort();
    }
    std::abort();
}

}  // namespace

int main(int argc, char** argv) {
    const bool has_output = hold_standard_streams();
    std::set_terminate(end_without_memory);
    Session session;
    session_of_program = &session;
    try {
        const int code = run(argc, argv, session);
        return written(session, code, has_output);
    } catch (const std::bad_alloc&) {  // before the command line is read, say
        tell_of_memory(wants_json(argc, argv) && !session.has_printed());
        return static_cast<int>(Exit::io);
    } catch (const std::exception& error) {
        std::fputs("ylat: ", stderr);
        std::fputs(error.what(), stderr);
        std::fputs("\n", stderr);
        return static_cast<int>(Exit::io);
    }
}
