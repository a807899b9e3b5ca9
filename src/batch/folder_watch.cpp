#include <yl/folder_watch.hpp>

#include <uv.h>

#include <set>

#include <yl/status_macros.hpp>

namespace yl::batch {

/// libuv's loop with an event for each folder. Its handles point to it: it stays where it is.
struct FolderWatch::Loop {
    struct Folder {
        uv_fs_event_t event{};
        std::string name = {};
        Loop* loop = nullptr;
    };

    Loop() {
        uv_loop_init(&uv);
        uv_timer_init(&uv, &quiet);
        uv_timer_init(&uv, &limit);
        quiet.data = limit.data = this;
    }
    Loop(const Loop&) = delete;
    Loop& operator=(const Loop&) = delete;
    ~Loop() {
        uv_walk(
            &uv,
            [](uv_handle_t* handle, void*) {
                if (uv_is_closing(handle) == 0)
                    uv_close(handle, nullptr);
            },
            nullptr);
        uv_run(&uv, UV_RUN_DEFAULT);
        uv_loop_close(&uv);
    }

    Status add(const std::string& name) {
        folders.push_back(std::make_unique<Folder>());
        Folder& folder = *folders.back();
        folder.name = name;
        folder.loop = this;
        folder.event.data = &folder;
        uv_fs_event_init(&uv, &folder.event);
        const int result = uv_fs_event_start(&folder.event, &Loop::on_change,
                                             name.empty() ? "." : name.c_str(), 0);
        if (result != 0)
            return fail_at(
                {ErrorKind::io, std::string("cannot be watched: ") + uv_strerror(result)}, name);
        return {};
    }

    static void on_change(uv_fs_event_t* event, const char* file, int, int status) {
        const Folder& folder = *static_cast<Folder*>(event->data);
        Loop& loop = *folder.loop;
        if (status != 0 || file == nullptr)
            return;
        const bool is_first = loop.changed.empty();
        loop.changed.insert(folder.name.empty() || folder.name == "."
                                ? std::string(file)
                                : folder.name + (folder.name.ends_with('/') ? "" : "/") + file);
        const auto stop = [](uv_timer_t* timer) {
            uv_stop(static_cast<Loop*>(timer->data)->limit.loop);
        };
        uv_timer_start(&loop.quiet, stop, loop.quiet_ms, 0);
        if (is_first)
            uv_timer_start(&loop.limit, stop, 4 * loop.quiet_ms, 0);
    }

    uv_loop_t uv{};
    uv_timer_t quiet{}, limit{};
    std::uint64_t quiet_ms = 0;
    std::set<std::string> changed = {};
    std::vector<std::unique_ptr<Folder>> folders = {};
};

FolderWatch::FolderWatch(std::unique_ptr<Loop> loop) : loop_(std::move(loop)) {}
FolderWatch::FolderWatch(FolderWatch&&) noexcept = default;
FolderWatch& FolderWatch::operator=(FolderWatch&&) noexcept = default;
FolderWatch::~FolderWatch() = default;

Result<FolderWatch> FolderWatch::open(std::span<const std::string> folders) {
    auto loop = std::make_unique<Loop>();
    for (const std::string& folder : folders)
        YL_CHECK(loop->add(folder));
    return FolderWatch(std::move(loop));
}

Result<std::vector<std::string>> FolderWatch::wait(std::chrono::milliseconds quiet,
                                                   std::optional<std::chrono::milliseconds> most) {
    loop_->changed.clear();
    loop_->quiet_ms = static_cast<std::uint64_t>(quiet.count());
    if (most)
        uv_timer_start(
            &loop_->limit,
            [](uv_timer_t* timer) { uv_stop(static_cast<Loop*>(timer->data)->limit.loop); },
            static_cast<std::uint64_t>(most->count()), 0);
    uv_run(&loop_->uv, UV_RUN_DEFAULT);
    uv_timer_stop(&loop_->quiet);
    uv_timer_stop(&loop_->limit);
    return std::vector<std::string>(loop_->changed.begin(), loop_->changed.end());
}

}  // namespace yl::batch
