#include "batch/job_run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include <yl/status_macros.hpp>
#include "batch/cache/entry.hpp"
#include "batch/cache/hash.hpp"
#include "batch/folder_entries.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

class JobRun {
 public:
    JobRun(const Job& job, const BuildOptions& options, const WorkFolder& work)
        : job_(job), options_(options), work_(work) {}

    Result<Finished> run(State& state) {
        constexpr int attempts = 3;
        for (int i = 0; i < attempts; ++i) {
            begun_ = std::chrono::steady_clock::now();
            YL_CHECK(read_inputs());
            YL_TRY(const bool is_done, fetch_or_make());
            if (!is_done)
                return Finished{.is_busy = true};
            if (inputs_are_as_they_were()) {
                YL_CHECK(state.record(job_.output, known()));
                return std::move(finished_);
            }
        }
        return fail_at({ErrorKind::io, "its inputs change again and again while it is made"},
                       job_.output);
    }

 private:
    Status read_inputs() {
        std::vector<std::string> paths = job_.inputs;
        for (const std::string& path : paths)
            if (!look_at(path).is_there)
                return fail_at({ErrorKind::missing, "no such file"}, path);
        if (job_.more_inputs) {
            YL_TRY(const auto more, job_.more_inputs());
            for (const std::string& path : more)
                if (std::ranges::find(paths, path) == paths.end())
                    paths.push_back(path);
        }
        inputs_.clear();
        for (const std::string& path : paths) {
            YL_TRY(Seen seen, look_into(path));
            inputs_.push_back(std::move(seen));
        }
        key_ = key();
        return {};
    }

    [[nodiscard]] Hash key() const {
        Hasher hasher;
        hasher.add("entry 1");
        hasher.add(fs::path(job_.output).filename().string());
        for (const auto* list : {&job_.settings, &job_.versions}) {
            hasher.add(std::to_string(list->size()));
            for (const Setting& one : *list) {
                hasher.add(one.name);
                hasher.add(one.value);
            }
        }
        for (const Seen& input : inputs_)
            hasher.add(input.is_there ? input.hash.text() : "absent");
        return hasher.hash();
    }

    /// False where somebody else makes it.
    Result<bool> fetch_or_make() {
        if (options_.cache == nullptr)
            return make_without_cache();
        const auto lock = options_.cache->try_lock(key_);
        if (!lock)
            return false;
        if (!options_.force) {
            if (const auto entry = options_.cache->find(key_))
                return place(*entry, Source::cache);
            if (const auto entry = fetch_shared())
                return place(*entry, Source::shared_cache);
        }
        YL_TRY(const fs::path folder, work_.next());
        YL_TRY(const StoredEntry made, make_in(folder));
        if (!inputs_are_as_they_were())
            return true;
        YL_TRY(const CacheEntry entry, options_.cache->store(key_, made, folder));
        store_shared(entry);
        std::error_code error;
        fs::remove_all(folder, error);
        return place(entry, Source::built);
    }

    std::optional<CacheEntry> fetch_shared() {
        if (options_.shared == nullptr)
            return {};
        const fs::path file = options_.cache->scratch();
        const auto is_there = options_.shared->fetch(key_, file);
        std::error_code error;
        if (!is_there)
            finished_.remark = is_there.error();
        if (!is_there || !*is_there)
            return {};
        auto entry = options_.cache->adopt(key_, file);
        if (entry)
            return std::move(*entry);
        finished_.remark = entry.error();
        finished_.remark->place = options_.shared->name();
        fs::remove(file, error);
        return {};
    }

    /// A cache that takes nothing is remarked on; what was made stays made.
    void store_shared(const CacheEntry& entry) {
        if (options_.shared == nullptr || !options_.shared->is_writable())
            return;
        if (const auto stored = options_.shared->store(key_, entry.path()); !stored)
            finished_.remark = stored.error();
    }

    Result<StoredEntry> make_in(const fs::path& folder) {
        const std::string file = fs::path(job_.output).filename().string();
        auto made = job_.make(folder / file);
        if (!made)
            return tl::unexpected(std::move(made).error());
        StoredEntry entry{made->report, made->findings, {}};
        std::error_code error;
        for (const fs::directory_entry& one : folder_entries(folder)) {
            if (!one.is_regular_file(error))
                return fail_at({ErrorKind::usage, "jobs make files beside each other, no folders"},
                               job_.output);
            entry.files.push_back({one.path().filename().string()});
        }
        std::ranges::sort(entry.files, {}, &StoredFile::name);
        if (std::ranges::find(entry.files, file, &StoredFile::name) == entry.files.end())
            return fail_at({ErrorKind::usage, "the job ended without making this file"},
                           job_.output);
        return entry;
    }

    Result<bool> place(const CacheEntry& entry, Source source) {
        YL_CHECK(begin_placing(entry.stored().report, entry.stored().findings, source));
        for (std::size_t i = 0; i < entry.stored().files.size(); ++i) {
            const StoredFile& file = entry.stored().files[i];
            const std::string path = place_of(file.name);
            if (!holds(path, file.hash))
                YL_CHECK(entry.write_file(i, path));
            placed(path, file.hash);
        }
        return true;
    }

    Result<bool> make_without_cache() {
        YL_TRY(const fs::path folder, work_.next());
        YL_TRY(StoredEntry made, make_in(folder));
        if (!inputs_are_as_they_were())
            return true;
        // Packed and unpacked, files come into their places in the one way there is.
        const fs::path packed = folder / "..entry";
        YL_CHECK(pack_entry(made, folder, packed));
        YL_TRY(const CacheEntry entry, open_entry(packed));
        YL_TRY(const bool is_done, place(entry, Source::built));
        std::error_code error;
        fs::remove_all(folder, error);
        return is_done;
    }

    Status begin_placing(const std::string& report, std::uint32_t findings, Source source) {
        finished_.source = source;
        finished_.made = {report, findings};
        finished_.bytes = 0;
        outputs_.clear();
        const fs::path folder = fs::path(job_.output).parent_path();
        std::error_code error;
        if (!folder.empty())
            fs::create_directories(folder, error);
        if (error)
            return fail_at({ErrorKind::io, "cannot make the folder: " + error.message()},
                           folder.string());
        return {};
    }

    [[nodiscard]] std::string place_of(const std::string& name) const {
        return (fs::path(job_.output).parent_path() / name).string();
    }

    static bool holds(const std::string& path, const Hash& hash) {
        if (!look_at(path).is_there)
            return false;
        const auto there = hash_file(path);
        return there && *there == hash;
    }

    void placed(const std::string& path, const Hash& hash) {
        Seen seen = look_at(path);
        seen.hash = hash;
        finished_.bytes += seen.bytes;
        outputs_.push_back(std::move(seen));
    }

    [[nodiscard]] bool inputs_are_as_they_were() const {
        return std::ranges::all_of(inputs_, [](const Seen& input) {
            const Seen now = look_at(input.path);
            return now.is_there == input.is_there && now.bytes == input.bytes &&
                   now.modified == input.modified;
        });
    }

    [[nodiscard]] Known known() const {
        const std::chrono::duration<double> taken = std::chrono::steady_clock::now() - begun_;
        return {job_.group, job_.target, job_.settings,           job_.versions,    job_.inputs,
                inputs_,    outputs_,    finished_.made.findings, finished_.source, taken.count()};
    }

    const Job& job_;
    const BuildOptions& options_;
    const WorkFolder& work_;
    std::vector<Seen> inputs_ = {}, outputs_ = {};
    Hash key_ = {};
    std::chrono::steady_clock::time_point begun_ = {};
    Finished finished_ = {};
};

}  // namespace

Result<Finished> run_job(const Job& job, const BuildOptions& options, const WorkFolder& work,
                         State& state) {
    return JobRun(job, options, work).run(state);
}

}  // namespace yl::batch
