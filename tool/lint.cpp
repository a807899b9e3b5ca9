// ylat lint: what will look wrong, with the number behind it and what to do.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <memory>
#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "lint_files.hpp"

namespace ylat {
namespace {

/// As a shell takes it.
std::string quoted(const std::string& path) {
    constexpr std::string_view plain =
        "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789/._-+,";
    if (path.find_first_not_of(plain) == std::string::npos)
        return path;
    std::string text = "'";
    for (const char letter : path)
        text += letter == '\'' ? "'\\''" : std::string(1, letter);
    return text + "'";
}

std::string_view name_of(yl::FindingLevel level) {
    return level == yl::FindingLevel::hint ? "hint" : "warning";
}

/// Which findings are left out, and which make the command fail.
class Verdicts {
 public:
    static yl::Result<Verdicts> parse(const std::vector<std::string>& denied,
                                      const std::vector<std::string>& allowed) {
        Verdicts verdicts;
        for (const std::string& word : denied) {
            if (word == "hint" || word == "warning")
                verdicts.least_ =
                    word == "hint" ? yl::FindingLevel::hint : yl::FindingLevel::warning;
            else
                YL_CHECK(known(word, "--deny"));
            verdicts.verdict_[word] = true;
        }
        for (const std::string& code : allowed) {
            YL_CHECK(known(code, "--allow"));
            if (verdicts.verdict_.contains(code))
                return yl::fail_at({yl::ErrorKind::usage, "it is denied and allowed"}, code);
            verdicts.verdict_[code] = false;
        }
        return verdicts;
    }

    [[nodiscard]] bool allows(const yl::Finding& finding) const {
        const auto found = verdict_.find(std::string(std::string_view(finding.code)));
        return found != verdict_.end() && !found->second;
    }
    [[nodiscard]] bool denies(const yl::Finding& finding) const {
        const auto found = verdict_.find(std::string(std::string_view(finding.code)));
        if (found != verdict_.end())
            return found->second;
        return least_ && finding.level <= *least_;
    }

    [[nodiscard]] bool denies_hints() const { return least_ == yl::FindingLevel::hint; }

 private:
    static yl::Status known(const std::string& code, const char* option) {
        if (yl::find_finding(code) != nullptr)
            return {};
        return yl::fail_at(
            {yl::ErrorKind::usage, "there is no such finding (see ylat lint --explain all)"},
            fmt::format("{} {}", option, code));
    }

    std::map<std::string, bool> verdict_ = {};
    std::optional<yl::FindingLevel> least_ = {};
};

/// What mends a finding; {} is the file.
constexpr std::pair<std::string_view, std::string_view> commands[] = {
    {"bits-unused", "ylat rework {} --bits 8 -o OUT.png"},
    {"channels-unused", "ylat rework {} --channels r -o OUT.png"},
    {"coverage-lost", "ylat bake {} --coverage 0.5 --alpha coverage -o OUT.ktx2"},
    {"cube-faces-shuffled",
     "ylat unpack {} --level 0 -o FACES/ && ylat cube FACES/* --reorder -o OUT.ktx2"},
    {"green-inverted", "ylat rework {} --invert g -o OUT.png"},
    {"hidden-colors-bleed", "ylat rework {} --bleed -o OUT.png"},
    {"looks-premultiplied", "ylat rework {} --unpremultiply -o OUT.png"},
    {"no-detail", "ylat rework {} --resize 50% -o OUT.png"},
    {"normals-not-unit", "ylat bake {} --role normal -o OUT.ktx2"},
    {"seam-where-it-repeats", "ylat rework {} --tile 0.2 -o OUT.png"},
};

/// Empty where no command alone does it.
std::string command_for(const yl::Finding& finding, const std::string& path) {
    const auto known = std::ranges::find(commands, std::string_view(finding.code),
                                         &std::pair<std::string_view, std::string_view>::first);
    return known != std::end(commands) ? fmt::format(fmt::runtime(known->second), quoted(path))
                                       : "";
}

std::string explanation(const yl::FindingInfo& info) {
    return fmt::format("{} ({})\n{}\n{}\n{}", std::string_view(info.code), name_of(info.level),
                       row_text("seen", info.seen), row_text("judged by", info.basis),
                       row_text("remedy", info.remedy));
}

Json explanation_json(const yl::FindingInfo& info) {
    return {{"code", std::string_view(info.code)},
            {"level", name_of(info.level)},
            {"seen", info.seen},
            {"basis", info.basis},
            {"remedy", info.remedy}};
}

struct Lint {
    Session& session;
    std::vector<std::string> paths = {};
    bool hints = false;
    std::string role = {}, sampler = {}, device = {}, explained = {};
    std::vector<std::string> denied = {}, allowed = {};

    yl::Result<Exit> run() const {
        if (!explained.empty())
            return explain();
        if (paths.empty())
            return yl::fail(yl::ErrorKind::usage, "lint: FILE is required (or --explain CODE)");
        YL_TRY(const Verdicts verdicts, Verdicts::parse(denied, allowed));
        LintRequest request;
        YL_CHECK(parse_if_given(role, parse_role, request.options.role));
        if (!sampler.empty()) {
            YL_TRY(request.options.sampler, parse_sampler_option(sampler));
        }
        if (!device.empty()) {
            YL_TRY(request.options.profile, yl::find_profile(device));
        }
        YL_TRY(const std::vector<std::string> files, files_below(paths));
        const std::vector<LintedFile> results = lint_files(files, request);
        return report(results, verdicts);
    }

    yl::Result<Exit> explain() const {
        Json all = Json::array();
        for (const yl::FindingInfo& info : yl::all_findings()) {
            if (explained != "all" && explained != std::string_view(info.code))
                continue;
            if (!all.empty())
                session.say("");
            session.say(explanation(info));
            all.push_back(explanation_json(info));
        }
        if (all.empty())
            return yl::fail_at({yl::ErrorKind::usage, "there is no such finding (all lists them)"},
                               explained);
        session.give([&] { return all; });
        return Exit::done;
    }

    yl::Result<Exit> report(const std::vector<LintedFile>& results,
                            const Verdicts& verdicts) const {
        std::array<std::size_t, 2> counts{};
        std::size_t broken = 0;
        bool is_denied = false;
        std::optional<yl::Error> failure;
        Json files = Json::array();
        for (const LintedFile& file : results) {
            if (file.error) {
                ++broken;
                if (failure && !session.json)
                    session.complain(*failure);
                failure = file.error;
                files.push_back({{"input", file.path}, {"error", error_json(*file.error)}});
                continue;
            }
            Json list = Json::array();
            for (const yl::Evidence& found : file.found) {
                if (verdicts.allows(found.finding))
                    continue;
                ++counts[found.finding.level == yl::FindingLevel::hint ? 1 : 0];
                is_denied = is_denied || verdicts.denies(found.finding);
                if (shows_hints(verdicts) || found.finding.level != yl::FindingLevel::hint)
                    say(file, found);
                list.push_back(found_json(found, file.path));
            }
            files.push_back(
                {{"input", file.path}, {"role", yl::info(file.role).name}, {"findings", list}});
        }
        if (session.has_printed())
            session.say("");
        const bool hides = counts[1] > 0 && !shows_hints(verdicts);
        session.say(fmt::format("{}: {}, {}{}{}", count_text(results.size(), "file"),
                                count_text(counts[0], "warning"), count_text(counts[1], "hint"),
                                hides ? " (--hints lists them)" : "",
                                broken > 0 ? fmt::format(", {} that cannot be read", broken) : ""));
        session.give([&] {
            return Json{{"files", files}, {"warnings", counts[0]}, {"hints", counts[1]}};
        });
        if (failure && session.json)
            return exit_for(failure->kind);
        if (failure)
            return tl::unexpected(*failure);
        return is_denied || (session.strict && counts[0] > 0) ? Exit::findings : Exit::done;
    }

    [[nodiscard]] bool shows_hints(const Verdicts& verdicts) const {
        return hints || verdicts.denies_hints();
    }

    void say(const LintedFile& file, const yl::Evidence& found) const {
        const std::string place = found.place.empty() ? "" : ", " + found.place;
        if (session.has_printed())
            session.say("");
        session.say(fmt::format("{}{}: {}: {} [{}]", file.path, place, name_of(found.finding.level),
                                found.finding.problem, std::string_view(found.finding.code)));
        if (const yl::FindingInfo* info = yl::find_finding(found.finding.code))
            session.say(row_text("seen", info->seen));
        session.say(row_text("remedy", found.finding.remedy));
        if (const std::string mends = command_for(found.finding, file.path); !mends.empty())
            session.say(row_text("command", mends));
    }

    static Json found_json(const yl::Evidence& found, const std::string& path) {
        Json json = findings_json({found.finding})[0];
        json["place"] = found.place;
        if (found.limit != 0) {
            json["measured"] = found.measured;
            json["limit"] = found.limit;
        }
        if (const yl::FindingInfo* info = yl::find_finding(found.finding.code))
            json["seen"] = info->seen;
        if (const std::string mends = command_for(found.finding, path); !mends.empty())
            json["command"] = mends;
        return json;
    }
};

}  // namespace

void add_lint(CLI::App& app, Session& session) {
    auto lint = std::make_shared<Lint>(Lint{session});
    Command command(app, session, "lint", "Say what will look wrong, and what to do about it");
    command.runs([lint] { return lint->run(); });
    command.add(
        {.rows = {
             {"FILE",
              &lint->paths,
              "",
              "Pictures, texture files, or folders of them",
              {.reads_pipes = true}},
             {"--role", &lint->role, "ROLE",
              "What they are for: " + role_names() + " (by default what their texels suggest)"},
             {"--sampler", &lint->sampler, "SAMPLER",
              "How they are sampled, such as \"wrap=repeat aniso=8\" (by default as a texture "
              "file says; without either nothing is said about sampling)"},
             {"--device", &lint->device, "PROFILE",
              "The device that has to take them, as upload --plan names it"},
             {"--hints", &lint->hints, "", "List hints as well, which are often meant"},
             {"--deny", &lint->denied, "CODE|warning|hint",
              "End with code 1 where this is found, or anything of this level or a worse one"},
             {"--allow", &lint->allowed, "CODE", "Leave this finding out"},
             {"--explain", &lint->explained, "CODE|all",
              "Say what a finding means and what it is judged by"}}});
}

}  // namespace ylat
