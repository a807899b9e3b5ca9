// ylat lint: what will look wrong, with the number behind it and what to do.
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <unistd.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "batch_outputs.hpp"
#include "bound_textures.hpp"
#include "describe.hpp"
#include "finding_commands.hpp"
#include "inputs.hpp"
#include "lint_files.hpp"
#include "lint_models.hpp"
#include "lint_settings.hpp"
#include "terminal.hpp"

namespace ylat {
namespace {

std::string explanation(const yl::FindingInfo& info) {
    return fmt::format("{} ({})\n{}\n{}\n{}", std::string_view(info.code), yl::name(info.level),
                       row_text("seen", info.seen), row_text("judged by", info.basis),
                       row_text("remedy", info.remedy));
}

Json explanation_json(const yl::FindingInfo& info) {
    return {{"code", std::string_view(info.code)},
            {"level", yl::name(info.level)},
            {"seen", info.seen},
            {"basis", info.basis},
            {"remedy", info.remedy}};
}

struct Lint {
    Session& session;
    std::vector<std::string> paths = {};
    bool hints = false;
    std::string role = {}, sampler = {}, device = {}, format = {}, explained = {};
    std::vector<std::string> denied = {}, allowed = {};

    yl::Result<Exit> run() const {
        if (!explained.empty())
            return explain();
        if (paths.empty())
            return yl::fail(yl::ErrorKind::usage, "lint: FILE is required (or --explain CODE)");
        YL_TRY(const LintGroup given, command_line());
        std::optional<yl::DeviceProfile> profile;
        if (!device.empty()) {
            YL_TRY(profile, yl::find_profile(device));
        }
        std::optional<yl::Format> encoding;
        if (!format.empty()) {
            YL_TRY(encoding, parse_format(format, given.role.value_or(yl::Role::color)));
        }
        std::vector<std::string> models, others;
        YL_TRY(const PathsWithLists named, with_lists(paths));
        for (const std::string& path : named.paths)
            (is_model_name(path) ? models : others).push_back(path);
        YL_TRY(std::vector<std::string> files, files_below(others));
        const std::size_t pictures = files.size();
        std::ranges::move(models, std::back_inserter(files));
        std::vector<LintJob> jobs;
        std::vector<LintVerdicts> verdicts;
        LintSettingsFinder finder;
        for (const std::string& file : files) {
            YL_TRY(const auto settings, finder.of(file));
            jobs.push_back({file, {.profile = profile, .format = encoding}});
            if (const auto of_list = named.of_lists.find(file); of_list != named.of_lists.end())
                jobs.back().options.role = of_list->second.role;
            verdicts.emplace_back();
            if (settings != nullptr)
                for (const LintGroup& group : settings->groups)
                    if (group.names.empty() || yl::matches_pattern(file_name(file), group.names))
                        apply(group, jobs.back().options, verdicts.back());
            apply(given, jobs.back().options, verdicts.back());
        }
        std::vector<LintedFile> results = lint_files(std::span(jobs).first(pictures));
        std::vector<LintVerdicts> by_result(
            verdicts.begin(), verdicts.begin() + static_cast<std::ptrdiff_t>(pictures));
        for (std::size_t i = pictures; i < jobs.size(); ++i)
            for (LintedFile& file : lint_model(jobs[i])) {
                results.push_back(std::move(file));
                by_result.push_back(verdicts[i]);
            }
        return report(results, by_result);
    }

    /// What the command line says, which goes before what files say.
    yl::Result<LintGroup> command_line() const {
        LintGroup given{.denied = denied, .allowed = allowed};
        YL_CHECK(parse_if_given(role, parse_role, given.role));
        YL_CHECK(parse_if_given(sampler, parse_sampler_option, given.sampler));
        YL_CHECK(check_codes(denied, "--deny", true));
        YL_CHECK(check_codes(allowed, "--allow", false));
        for (const std::string& code : allowed)
            if (std::ranges::find(denied, code) != denied.end())
                return yl::fail_at({yl::ErrorKind::usage, "it is denied and allowed"}, code);
        return given;
    }

    static yl::Status check_codes(const std::vector<std::string>& codes, const char* option,
                                  bool takes_levels) {
        for (const std::string& code : codes) {
            const bool is_level = takes_levels && find_level(code);
            if (!is_level && yl::find_finding(code) == nullptr)
                return yl::fail_at({yl::ErrorKind::usage,
                                    "there is no such finding (see ylat lint --explain all)"},
                                   fmt::format("{} {}", option, code));
        }
        return {};
    }

    static std::string file_name(const std::string& path) {
        return std::filesystem::path(path).filename().string();
    }

    static void apply(const LintGroup& group, yl::LintOptions& options, LintVerdicts& verdicts) {
        if (group.role)
            options.role = group.role;
        if (group.sampler)
            options.sampler = group.sampler;
        verdicts.add(group.denied, group.allowed);
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
                            const std::vector<LintVerdicts>& verdicts) const {
        std::array<std::size_t, 3> counts{};  // by level
        std::size_t broken = 0;
        bool is_denied = false;
        std::optional<yl::Error> failure;
        Json files = Json::array();
        bool hides = false;
        for (std::size_t i = 0; i < results.size(); ++i) {
            const LintedFile& file = results[i];
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
                if (verdicts[i].allows(found.finding))
                    continue;
                ++counts[static_cast<std::size_t>(found.finding.level)];
                is_denied = is_denied || verdicts[i].denies(found.finding);
                if (hints || verdicts[i].denies(found.finding) ||
                    found.finding.level != yl::FindingLevel::hint)
                    say(file, found);
                else
                    hides = true;
                list.push_back(found_json(file, found));
            }
            Json entry = {{"input", file.path}};
            if (!file.is_model)
                entry["role"] = yl::info(file.role).name;
            entry["findings"] = list;
            files.push_back(std::move(entry));
        }
        if (session.has_printed())
            session.say("");
        session.say(fmt::format("{}: {}, {}, {}{}{}", count_text(results.size(), "file"),
                                count_text(counts[0], "error"), count_text(counts[1], "warning"),
                                count_text(counts[2], "hint"), hides ? " (--hints lists them)" : "",
                                broken > 0 ? fmt::format(", {} that cannot be read", broken) : ""));
        session.give([&] {
            return Json{{"files", files},
                        {"errors", counts[0]},
                        {"warnings", counts[1]},
                        {"hints", counts[2]}};
        });
        if (failure && session.json)
            return exit_for(failure->kind);
        if (failure)
            return tl::unexpected(*failure);
        return is_denied || (session.strict && counts[0] + counts[1] > 0) ? Exit::findings
                                                                          : Exit::done;
    }

    static std::string mending(const LintedFile& file, const yl::Evidence& found) {
        return file.is_in_model ? "" : command_for(found.finding, file.path);
    }

    /// In lines that fit the terminal, if there is one.
    static std::string headline(const std::string& text) {
        constexpr std::size_t indent = 2;
        if (!is_terminal(STDOUT_FILENO))
            return text;
        const auto lines = wrapped(text, terminal_columns(STDOUT_FILENO) - indent);
        return fmt::format("{}", fmt::join(lines, fmt::format("\n{:{}}", "", indent)));
    }

    void say(const LintedFile& file, const yl::Evidence& found) const {
        const std::string place = found.place.empty() ? "" : ", " + found.place;
        if (session.has_printed())
            session.say("");
        session.say(headline(fmt::format("{}{}: {}: {} [{}]", file.path, place,
                                         yl::name(found.finding.level), found.finding.problem,
                                         std::string_view(found.finding.code))));
        if (const yl::FindingInfo* info = yl::find_finding(found.finding.code))
            session.say(row_text("seen", info->seen));
        session.say(row_text("remedy", found.finding.remedy));
        if (const std::string mends = mending(file, found); !mends.empty())
            session.say(row_text("command", mends));
    }

    static Json found_json(const LintedFile& file, const yl::Evidence& found) {
        Json json = findings_json({found.finding})[0];
        json["place"] = found.place;
        if (found.limit != 0) {
            json["measured"] = found.measured;
            json["limit"] = found.limit;
        }
        if (const yl::FindingInfo* info = yl::find_finding(found.finding.code))
            json["seen"] = info->seen;
        if (const std::string mends = mending(file, found); !mends.empty())
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
              "Pictures, texture files, folders of them, models, or batch lists (.toml), which say "
              "the "
              "roles of their textures",
              {.reads_pipes = true}},
             {"--role", &lint->role, "ROLE",
              "What they are for: " + role_names() + " (by default what their texels suggest)"},
             {"--sampler", &lint->sampler, "SAMPLER",
              "How they are sampled, such as \"wrap=repeat aniso=8\" (by default as a texture "
              "file says; without either nothing is said about sampling)"},
             {"--device", &lint->device, "PROFILE",
              "The device that has to take them, as upload --plan names it"},
             {"--as", &lint->format, "FORMAT",
              "The format that pictures are to be stored in: with a block format a sample is "
              "encoded, to see whether it is enough"},
             {"--hints", &lint->hints, "", "List hints as well, which are often meant"},
             {"--deny", &lint->denied, "CODE|error|warning|hint",
              "End with code 1 where this is found, or anything of this level or a worse one"},
             {"--allow", &lint->allowed, "CODE", "Leave this finding out"},
             {"--explain", &lint->explained, "CODE|all",
              "Say what a finding means and what it is judged by"}}});
}

}  // namespace ylat
