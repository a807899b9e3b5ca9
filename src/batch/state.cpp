#include "batch/state.hpp"

#include <fcntl.h>
#include <sys/stat.h>

#include <ctime>
#include <nlohmann/json.hpp>

#include <yl/status_macros.hpp>
#include "base/file.hpp"

namespace yl::batch {
namespace {

using Json = nlohmann::json;

constexpr std::int64_t nanoseconds = 1'000'000'000;
/// Clocks of file systems are coarse: within this time a file may change twice and look as if once.
/// Those that only count seconds may count every second one.
std::int64_t doubt_of(std::int64_t modified) {
    return modified % nanoseconds == 0 ? 2 * nanoseconds : nanoseconds / 100;
}

std::int64_t in_nanoseconds(const timespec& time) {
    return static_cast<std::int64_t>(time.tv_sec) * nanoseconds + time.tv_nsec;
}

Json json_of(const std::vector<Setting>& settings) {
    Json list = Json::array();
    for (const Setting& one : settings)
        list.push_back({one.name, one.value});
    return list;
}

std::vector<Setting> settings_of(const Json& list) {
    std::vector<Setting> settings;
    for (const Json& one : list)
        settings.push_back({one.at(0).get<std::string>(), one.at(1).get<std::string>()});
    return settings;
}

Json json_of(const std::vector<Seen>& files) {
    Json list = Json::array();
    for (const Seen& one : files)
        list.push_back(
            {one.path, one.is_there, one.bytes, one.modified, one.hash.text(), one.is_doubtful});
    return list;
}

std::vector<Seen> files_of(const Json& list) {
    std::vector<Seen> files;
    for (const Json& one : list)
        files.push_back({one.at(0).get<std::string>(), one.at(1).get<bool>(),
                         one.at(2).get<std::uint64_t>(), one.at(3).get<std::int64_t>(),
                         Hash::parse(one.at(4).get<std::string>()).value_or(Hash{}),
                         one.at(5).get<bool>()});
    return files;
}

constexpr std::pair<Source, std::string_view> source_names[] = {
    {Source::built, "built"}, {Source::cache, "cache"}, {Source::shared_cache, "shared cache"}};

Source source_of(std::string_view text) {
    for (const auto& [source, name] : source_names)
        if (text == name)
            return source;
    return Source::built;
}

std::string line_of(const std::string& output, const Known& known) {
    const Json line = {{"output", output},
                       {"group", known.group},
                       {"target", known.target},
                       {"settings", json_of(known.settings)},
                       {"versions", json_of(known.versions)},
                       {"declared", known.declared},
                       {"inputs", json_of(known.inputs)},
                       {"outputs", json_of(known.outputs)},
                       {"findings", known.findings},
                       {"source", name(known.source)},
                       {"seconds", known.seconds}};
    return line.dump(-1, ' ', false, Json::error_handler_t::replace) + "\n";
}

/// False for a line that is none of ours, such as one that was cut off.
bool take_line(std::string_view text, std::map<std::string, Known>& all) {
    const Json line = Json::parse(text, nullptr, false);
    if (!line.is_object())
        return false;
    try {
        const auto output = line.at("output").get<std::string>();
        if (line.contains("gone")) {
            all.erase(output);
            return true;
        }
        all[output] = {line.at("group").get<std::string>(),
                       line.at("target").get<std::string>(),
                       settings_of(line.at("settings")),
                       settings_of(line.at("versions")),
                       line.at("declared").get<std::vector<std::string>>(),
                       files_of(line.at("inputs")),
                       files_of(line.at("outputs")),
                       line.at("findings").get<std::uint32_t>(),
                       source_of(line.value("source", "built")),
                       line.value("seconds", 0.0)};
    } catch (const Json::exception&) {
        return false;
    }
    return true;
}

}  // namespace

std::string_view name(Source source) {
    return source_names[static_cast<std::size_t>(source)].second;
}

Seen look_at(const std::string& path) {
    Seen seen{path};
    struct stat info {};
    if (::stat(path.c_str(), &info) != 0)
        return seen;
    seen.is_there = true;
    seen.bytes = static_cast<std::uint64_t>(info.st_size);
    seen.modified = in_nanoseconds(info.st_mtim);
    return seen;
}

Result<Seen> look_into(const std::string& path) {
    Seen seen = look_at(path);
    if (!seen.is_there)
        return seen;
    YL_TRY(seen.hash, hash_file(path));
    timespec now{};
    ::clock_gettime(CLOCK_REALTIME, &now);
    seen.is_doubtful = in_nanoseconds(now) - seen.modified < doubt_of(seen.modified);
    return seen;
}

Result<State> State::open(const std::filesystem::path& path, bool writes) {
    std::error_code error;
    if (path.empty() || (!writes && !std::filesystem::exists(path, error)))
        return State({}, Descriptor(-1));
    if (writes && path.has_parent_path())
        std::filesystem::create_directories(path.parent_path(), error);
    Descriptor journal(writes ? ::open(path.c_str(), O_CREAT | O_RDWR | O_APPEND | O_CLOEXEC, 0666)
                              : -1);
    if (writes && !journal.valid())
        return io_error("cannot write", path);
    State state(path, std::move(journal));
    YL_TRY(const Buffer bytes, read_file(path));
    std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    const bool is_cut_off = !text.empty() && text.back() != '\n';
    while (!text.empty()) {
        const std::size_t end = std::min(text.find('\n'), text.size());
        if (end > 0 && take_line(text.substr(0, end), state.known_))
            ++state.lines_;
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    if (is_cut_off)
        YL_CHECK(state.append("\n"));
    return state;
}

const Known* State::find(const std::string& output) const {
    const auto found = known_.find(output);
    return found != known_.end() ? &found->second : nullptr;
}

Status State::append(const std::string& line) {
    if (!journal_.valid())
        return {};
    // In one call, so that processes that share the file do not mix their lines.
    if (::write(journal_.get(), line.data(), line.size()) != static_cast<ssize_t>(line.size()))
        return io_error("cannot write", path_);
    return {};
}

Status State::record(const std::string& output, Known known) {
    const std::string line = line_of(output, known);
    const std::scoped_lock lock(mutex_);
    known_[output] = std::move(known);
    ++lines_;
    return append(line);
}

Status State::forget(const std::string& output) {
    const std::scoped_lock lock(mutex_);
    known_.erase(output);
    ++lines_;
    return append(Json{{"output", output}, {"gone", true}}.dump() + "\n");
}

Status State::tidy() const {
    constexpr std::size_t few = 100;
    if (path_.empty() || lines_ < 2 * known_.size() + few)
        return {};
    std::string text;
    for (const auto& [output, known] : known_)
        text += line_of(output, known);
    return write_file(path_, std::as_bytes(std::span(text)));
}

}  // namespace yl::batch
