// What is known of the jobs of earlier runs: a line of JSON for each job that ended, the last one of a
// job counting.
#pragma once

#include <map>
#include <mutex>

#include <yl/batch.hpp>
#include "base/descriptor.hpp"

namespace yl::batch {

/// A file as it was seen. What was not there has no bytes and the hash 0.
struct Seen {
    std::string path = {};
    bool is_there = false;
    std::uint64_t bytes = 0;
    std::int64_t modified = 0;  ///< nanoseconds
    Hash hash = {};
    /// The time is so young that the file may have changed since without showing it.
    bool is_doubtful = false;
};

/// Size and time; the hash is left 0.
[[nodiscard]] Seen look_at(const std::string& path);
/// The same with the hash of the content.
[[nodiscard]] Result<Seen> look_into(const std::string& path);

struct Known {
    std::string group = {}, target = {};
    std::vector<Setting> settings = {}, versions = {};
    std::vector<std::string> declared = {};  ///< the job's own inputs, without what these name
    std::vector<Seen> inputs = {}, outputs = {};
    std::uint32_t findings = 0;
    Source source = Source::built;
    double seconds = 0;  ///< that it took
};

class State {
 public:
    /// A file that is not there holds nothing; lines that were cut off by a crash are left out.
    [[nodiscard]] static Result<State> open(const std::filesystem::path& path, bool writes);

    [[nodiscard]] const Known* find(const std::string& output) const;
    [[nodiscard]] const std::map<std::string, Known>& all() const { return known_; }

    /// Writes it at once, so that it outlives this process. By any thread.
    [[nodiscard]] Status record(const std::string& output, Known known);
    [[nodiscard]] Status forget(const std::string& output);
    /// Leaves out lines that others replaced, where there are many.
    [[nodiscard]] Status tidy() const;

    State(State&& other) noexcept
        : path_(std::move(other.path_)),
          known_(std::move(other.known_)),
          lines_(other.lines_),
          journal_(std::move(other.journal_)) {}

 private:
    State(std::filesystem::path path, Descriptor journal)
        : path_(std::move(path)), journal_(std::move(journal)) {}
    Status append(const std::string& line);

    std::filesystem::path path_;
    std::map<std::string, Known> known_ = {};
    std::size_t lines_ = 0;
    Descriptor journal_;
    std::mutex mutex_ = {};
};

}  // namespace yl::batch
