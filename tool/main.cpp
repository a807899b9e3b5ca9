// ylat: the command line of Yellow Lattice.
#include <fmt/format.h>
#include <tbb/global_control.h>

#include <cstdio>
#include <exception>
#include <thread>

#include "session.hpp"

namespace {

using namespace ylat;

int complain(Exit code, const std::string& sentence) {
    std::fflush(stdout);
    fmt::print(stderr, "ylat: {}\n", sentence);
    return static_cast<int>(code);
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
            return fmt::format("'{}' is no command; the commands are {}", argv[i], commands);
    return fmt::format("a command is missing; the commands are {}", commands);
}

int run(int argc, char** argv) {
    CLI::App app("Image files to textures: reads, bakes, draws and uploads them.", "ylat");
    app.set_version_flag("--version", fmt::format("ylat {}", yl::version));
    app.require_subcommand(1);
    Session session;
    app.add_flag("--json", session.json, "Print the result as JSON");
    app.add_flag("--quiet", session.quiet, "Print nothing but errors");
    app.add_flag("--strict", session.strict, "Fail with exit code 1 when there are findings");
    app.add_option("--threads", session.threads,
                   "Threads to work with (all processors when left out)")
        ->check(CLI::Range(1, 1024));
    add_peek(app, session);
    add_rework(app, session);
    add_bake(app, session);
    add_cube(app, session);
    add_unpack(app, session);
    add_sheet(app, session);
    add_draw(app, session);
    add_diff(app, session);
    add_upload(app, session);
    add_mesh(app, session);
    add_demo(app, session);
    try {
        app.parse(argc, argv);
    } catch (const CLI::Success& wish) {  // --help and --version
        return app.exit(wish);
    } catch (const CLI::ParseError& error) {
        return complain(Exit::usage, parse_problem(app, error, argc, argv));
    }
    const auto threads = static_cast<std::size_t>(
        session.threads > 0 ? session.threads
                            : static_cast<int>(std::thread::hardware_concurrency()));
    const tbb::global_control limit(tbb::global_control::max_allowed_parallelism,
                                    std::max<std::size_t>(threads, 1));
    const auto exit = session.command();
    if (exit)
        return static_cast<int>(*exit);
    session.complain(exit.error());
    return static_cast<int>(exit_for(exit.error().kind));
}

}  // namespace

int main(int argc, char** argv) {
    try {
        return run(argc, argv);
    } catch (const std::exception& error) {  // out of memory in a container, say
        return complain(Exit::io, error.what());
    }
}
