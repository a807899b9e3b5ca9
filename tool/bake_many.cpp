#include "bake_many.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <set>

#include <yl/batch.hpp>
#include <yl/status_macros.hpp>

#include "arguments.hpp"

namespace ylat {
namespace {

/// What people call the maps of a material. The last such word of a name counts.
constexpr std::pair<std::string_view, yl::Role> role_words[] = {
    {"normal", yl::Role::normal},
    {"normals", yl::Role::normal},
    {"nm", yl::Role::normal},
    {"nrm", yl::Role::normal},
    {"orm", yl::Role::data},
    {"disp", yl::Role::height},
    {"height", yl::Role::height},
    {"bump", yl::Role::height},
    {"displacement", yl::Role::height},
    {"roughness", yl::Role::data},
    {"rough", yl::Role::data},
    {"metallic", yl::Role::data},
    {"metalness", yl::Role::data},
    {"metal", yl::Role::data},
    {"occlusion", yl::Role::data},
    {"ao", yl::Role::data},
    {"gloss", yl::Role::data},
    {"mask", yl::Role::mask},
    {"opacity", yl::Role::mask},
    {"color", yl::Role::color},
    {"albedo", yl::Role::color},
    {"diffuse", yl::Role::color},
    {"emissive", yl::Role::color},
};

}  // namespace

std::vector<std::string> words_of_name(const std::string& path) {
    std::vector<std::string> words(1);
    for (const char letter : std::filesystem::path(path).stem().string()) {
        const auto lower = static_cast<char>(std::tolower(static_cast<unsigned char>(letter)));
        if (lower >= 'a' && lower <= 'z')
            words.back() += lower;
        else if (!words.back().empty())
            words.emplace_back();
    }
    return words;
}

yl::Result<std::vector<RolePattern>> parse_role_patterns(const std::vector<std::string>& texts) {
    std::vector<RolePattern> patterns;
    for (const std::string& text : texts) {
        const std::size_t equals = text.rfind('=');
        const auto role =
            equals == std::string::npos ? std::nullopt : yl::find_role(text.substr(equals + 1));
        if (!role || equals == 0)
            return yl::fail_at({yl::ErrorKind::usage,
                                fmt::format("'{}' is not understood; it takes a pattern with * and "
                                            "?, '=' and a role: {}",
                                            text, role_names())},
                               "--role-of");
        patterns.push_back({text.substr(0, equals), *role});
    }
    return patterns;
}

std::optional<yl::Role> role_of_name(const std::string& path,
                                     const std::vector<RolePattern>& patterns) {
    const std::string name = std::filesystem::path(path).stem().string();
    for (const RolePattern& pattern : patterns)
        if (yl::matches_pattern(name, pattern.pattern))
            return pattern.role;
    std::optional<yl::Role> role;
    for (const std::string& word : words_of_name(path))
        for (const auto& [known, meaning] : role_words)
            if (word == known)
                role = meaning;
    return role;
}

bool is_folder(const std::string& output) {
    std::error_code error;
    const std::string ending = lower_case_ending(output);
    const bool is_named_as_file = ending == "ktx2" || ending == "dds";
    return output.ends_with('/') ||
           (!is_named_as_file && std::filesystem::is_directory(output, error));
}

namespace {

/// A job for each input; one of a name that is taken already is complained about instead.
struct FolderBuild {
    const Session& session;
    const std::function<yl::Result<BakedOne>(const std::string&, const std::string&,
                                             const std::string&)>& bake;
    std::vector<yl::batch::Job> jobs = {};
    std::vector<BakedOne> baked = {};                   ///< one for each job
    std::vector<std::size_t> inputs = {};               ///< which each job is of
    std::vector<std::optional<yl::Error>> errors = {};  ///< one for each input

    void add(const std::vector<std::string>& paths, const std::string& folder) {
        std::set<std::string> taken;
        errors.resize(paths.size());
        baked.resize(paths.size());
        for (std::size_t i = 0; i < paths.size(); ++i) {
            const std::string name = std::filesystem::path(paths[i]).stem().string() + ".ktx2";
            const std::string output = (std::filesystem::path(folder) / name).string();
            if (!taken.insert(name).second) {
                errors[i] = {yl::ErrorKind::usage,
                             fmt::format("{} is made of another input already", output), paths[i]};
                continue;
            }
            yl::batch::Job job{.output = output, .inputs = {paths[i]}};
            job.make = [this, path = paths[i], output, index = jobs.size()](
                           const std::filesystem::path& file) -> yl::Result<yl::batch::Made> {
                YL_TRY(baked[index], bake(path, output, file.string()));
                return yl::batch::Made{};
            };
            jobs.push_back(std::move(job));
            inputs.push_back(i);
        }
    }

    void take(const yl::batch::Event& event) {
        if (event.kind == yl::batch::Event::Kind::finished)
            session.say(baked[event.job].line);
        if (event.kind == yl::batch::Event::Kind::failed)
            errors[inputs[event.job]] = event.error;
    }
};

}  // namespace

yl::Result<Exit> bake_into_folder(
    const Session& session, const std::vector<std::string>& paths, const std::string& folder,
    const std::function<yl::Result<BakedOne>(const std::string& path, const std::string& output,
                                             const std::string& file)>& bake) {
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    if (error)
        return yl::fail_at({yl::ErrorKind::io, "cannot make the folder: " + error.message()},
                           folder);
    FolderBuild work{session, bake};
    work.add(paths, folder);
    yl::batch::BuildOptions options;
    options.on_event = [&work](const yl::batch::Event& event) { work.take(event); };
    YL_TRY(const yl::batch::Summary summary, yl::batch::build(work.jobs, options));
    Json entries = Json::array();
    Exit worst = Exit::done;
    std::size_t job = 0;
    for (std::size_t i = 0; i < paths.size(); ++i) {
        const bool has_job = job < work.jobs.size() && work.inputs[job] == i;
        job += has_job ? 1 : 0;
        if (!work.errors[i]) {
            entries.push_back(std::move(work.baked[job - 1].entry));
            continue;
        }
        worst = std::max(worst, exit_for(work.errors[i]->kind));
        if (session.json)
            entries.push_back({{"input", paths[i]}, {"error", error_json(*work.errors[i])}});
        else
            session.complain(*work.errors[i]);
    }
    session.say(fmt::format("{} of {} baked into {}", summary.built, paths.size(), folder));
    session.give([&] { return entries; });
    return worst == Exit::done ? session.outcome() : worst;
}

}  // namespace ylat
