#include "model/import/trial.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <csignal>
#include <cstring>
#include <fstream>
#include <thread>

#include "base/descriptor.hpp"
#include "base/file.hpp"
#include "model/import/source.hpp"

namespace yl::model {
namespace {

constexpr int out_of_memory_code = 3, refused_code = 4;
constexpr std::size_t longest_report = 4096;  // which a pipe takes without a reader

/// What a child says of a file that it could not read: the kind of the error, its message.
void report(int pipe, const Error& error) {
    std::string text(1, static_cast<char>(error.kind));
    text += error.message.substr(0, longest_report - 1);
    while (::write(pipe, text.data(), text.size()) < 0 && errno == EINTR) {
    }
}

Error read_report(int pipe) {
    std::array<char, longest_report> text{};
    ssize_t size = -1;
    do {
        size = ::read(pipe, text.data(), text.size());
    } while (size < 0 && errno == EINTR);
    if (size < 2)
        return {ErrorKind::malformed, "the file is damaged"};
    return {static_cast<ErrorKind>(text[0]),
            std::string(&text[1], static_cast<std::size_t>(size) - 1)};
}

#ifdef __SANITIZE_ADDRESS__
constexpr bool takes_terabytes = true;  // of addresses, for the sanitizer itself
#else
constexpr bool takes_terabytes = false;
#endif

/// Bytes of address space that this process has already.
std::uint64_t bytes_in_use() {
    std::uint64_t pages = 0;
    std::ifstream("/proc/self/statm") >> pages;
    return pages * static_cast<std::uint64_t>(::sysconf(_SC_PAGESIZE));
}

void set_limit(int resource, std::uint64_t most) {
    const rlimit limit{most, most};
    ::setrlimit(static_cast<__rlimit_resource_t>(resource), &limit);
}

/// What the child does: all that Assimp does for a model, on this one thread.
[[noreturn]] void read_and_leave(const std::filesystem::path& path, const ModelReadOptions& options,
                                 const ImportLimits& limits, int pipe) {
    // A program's own handlers might make an orderly end of a crash, which is to be seen.
    for (const int fault : {SIGSEGV, SIGBUS, SIGABRT, SIGFPE, SIGILL})
        ::signal(fault, SIG_DFL);
    set_limit(RLIMIT_CORE, 0);
    set_limit(RLIMIT_CPU, static_cast<std::uint64_t>(limits.time.count()));
    if (!takes_terabytes)
        set_limit(RLIMIT_AS, bytes_in_use() + limits.bytes);
    int code = 0;
    try {
        const auto source = ImportedSource::open(path, options);
        Findings findings;
        const auto parts = source ? (*source)->parts(findings) : tl::unexpected(source.error());
        if (!parts && parts.error().kind == ErrorKind::memory) {
            code = out_of_memory_code;
        } else if (!source) {
            report(pipe, source.error());
            code = refused_code;
        }
    } catch (const std::bad_alloc&) {
        code = out_of_memory_code;
    }
    ::_exit(code);
}

/// Nothing when it still runs at the end of its time; it is ended then.
std::optional<int> status_of(pid_t child, std::chrono::seconds time) {
    using namespace std::chrono_literals;
    const auto end = std::chrono::steady_clock::now() + time;
    int status = 0;
    for (auto pause = 1ms; std::chrono::steady_clock::now() < end;
         pause = std::min(2 * pause, 20ms)) {
        const pid_t ended = ::waitpid(child, &status, WNOHANG);
        if (ended == child)
            return status;
        std::this_thread::sleep_for(pause);
    }
    ::kill(child, SIGKILL);
    ::waitpid(child, &status, 0);
    return std::nullopt;
}

}  // namespace

Status try_in_child(const std::filesystem::path& path, const ModelReadOptions& options,
                    const ImportLimits& limits) {
    const auto refuse = [&](ErrorKind kind, std::string message) {
        return fail_at({kind, std::move(message)}, path.string());
    };
    int ends[2] = {-1, -1};
    if (::pipe2(ends, O_CLOEXEC) != 0)
        return refuse(file_error_kind(errno),
                      fmt::format("cannot begin a process to read it: {}", std::strerror(errno)));
    const Descriptor reads(ends[0]), writes(ends[1]);
    const pid_t child = ::fork();
    if (child < 0)
        return refuse(file_error_kind(errno),
                      fmt::format("cannot begin a process to read it: {}", std::strerror(errno)));
    if (child == 0)
        read_and_leave(path, options, limits, writes.get());
    const auto status = status_of(child, limits.time);
    if (!status || (WIFSIGNALED(*status) && WTERMSIG(*status) == SIGXCPU))
        return refuse(ErrorKind::limit,
                      fmt::format("reading it takes longer than {} seconds", limits.time.count()));
    if (WIFSIGNALED(*status))
        return refuse(ErrorKind::malformed,
                      fmt::format("the file is damaged: its reader ended with signal {} ({})",
                                  WTERMSIG(*status), ::strsignal(WTERMSIG(*status))));
    if (WEXITSTATUS(*status) == out_of_memory_code)
        return refuse(ErrorKind::limit,
                      fmt::format("reading it takes more than {} bytes of memory", limits.bytes));
    if (WEXITSTATUS(*status) == refused_code) {
        // Not read again, as this process has no limits.
        Error error = read_report(reads.get());
        return refuse(error.kind, std::move(error.message));
    }
    if (WEXITSTATUS(*status) != 0)
        return refuse(ErrorKind::malformed,
                      fmt::format("the file is damaged: its reader ended with code {}",
                                  WEXITSTATUS(*status)));
    return {};
}

}  // namespace yl::model
