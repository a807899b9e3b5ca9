// Models of other formats, behind their guard: whatever a file holds, this process lives.
//
// A process for each file would take the longer part of the time. So a worker reads one file after
// the other with nothing between it and Assimp; when a file ends it, the guard reads that file once
// more in the fuzzer's own process, which tells Assimp's crashes from ours.
#include <poll.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <filesystem>
#include <fstream>
#include <optional>
#include <string>
#include <yl/model_import.hpp>

#include "input.hpp"

namespace {

/// The first byte chooses the ending, since it is one of the ways that tell the format.
constexpr const char* endings[] = {"obj", "ply",  "stl", "fbx", "dae", "3ds", "ase", "x",
                                   "lwo", "ms3d", "off", "md2", "md3", "mdl", "bvh", "blend"};

const std::filesystem::path& folder() {
    static const std::filesystem::path path = [] {
        auto made =
            std::filesystem::temp_directory_path() / ("yl-fuzz-import-" + std::to_string(getpid()));
        std::filesystem::create_directories(made);
        return made;
    }();
    return path;
}

std::filesystem::path file_with(std::uint8_t ending) {
    return folder() / (std::string("model.") + endings[ending]);
}

void check_model(const yl::Result<yl::model::Model>& model) {
    if (!model)
        return fuzz::check(!model.error().message.empty());
    for (const auto& material : model->materials)
        for (const auto& texture : material.textures)
            fuzz::check(!texture.image || *texture.image < model->images.size());
}

class Worker {
 public:
    Worker() {
        int to_worker[2], from_worker[2];
        fuzz::check(::pipe(to_worker) == 0 && ::pipe(from_worker) == 0);
        process_ = ::fork();
        fuzz::check(process_ >= 0);
        if (process_ == 0)
            work(to_worker[0], from_worker[1]);
        ::close(to_worker[0]);
        ::close(from_worker[1]);
        questions_ = to_worker[1];
        answers_ = from_worker[0];
    }
    Worker(const Worker&) = delete;
    Worker& operator=(const Worker&) = delete;
    ~Worker() {
        ::kill(process_, SIGKILL);
        ::waitpid(process_, nullptr, 0);
        ::close(questions_);
        ::close(answers_);
    }

    /// Whether it lives through the file.
    bool reads(std::uint8_t ending) {
        constexpr int most_milliseconds = 5000;
        pollfd answer{answers_, POLLIN, 0};
        char byte = 0;
        return ::write(questions_, &ending, 1) == 1 && ::poll(&answer, 1, most_milliseconds) > 0 &&
               ::read(answers_, &byte, 1) == 1;
    }

 private:
    [[noreturn]] static void work(int questions, int answers) {
        for (const int fault : {SIGSEGV, SIGBUS, SIGABRT, SIGFPE, SIGILL})
            ::signal(fault, SIG_DFL);
        // Assimp's leaks add up, so a worker ends at some time.
        constexpr int most_files = 2000;
        std::uint8_t ending = 0;
        for (int i = 0; i < most_files && ::read(questions, &ending, 1) == 1; ++i) {
            check_model(yl::model::read_any_model(file_with(ending)));
            if (::write(answers, &ending, 1) != 1)
                break;
        }
        ::_exit(0);
    }

    pid_t process_ = 0;
    int questions_ = -1;
    int answers_ = -1;
};

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const bool ignores_pipes = ::signal(SIGPIPE, SIG_IGN) != SIG_ERR;
    static std::optional<Worker> worker;
    fuzz::Input input(data, size);
    const std::uint8_t ending = input.take<std::uint8_t>() % std::size(endings);
    const auto file = file_with(ending);
    const auto bytes = input.rest();
    std::ofstream(file, std::ios::binary)
        .write(reinterpret_cast<const char*>(bytes.data()),
               static_cast<std::streamsize>(bytes.size()));
    if (!worker)
        worker.emplace();
    if (!ignores_pipes || !worker->reads(ending)) {
        worker.reset();
        check_model(yl::model::read_untrusted_model(
            file, {}, {.time = std::chrono::seconds(5), .bytes = std::uint64_t{1} << 45}));
    }
    std::filesystem::remove(file);
    return 0;
}
