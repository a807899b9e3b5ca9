// ylat report: one page that shows textures, pictures and models with all that is known about them.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <set>
#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "batch_outputs.hpp"
#include "bound_textures.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "lint_files.hpp"
#include "outputs.hpp"
#include "report_models.hpp"

namespace ylat {
namespace {

/// Of a page: a texture's share times this is packed at most, since others may need less than theirs.
constexpr std::uint64_t shares_at_most = 4;

struct Page {
    std::vector<yl::ReportPart> parts = {};
    std::vector<yl::ReportModel> models = {};
    std::vector<yl::ReportFailure> failures = {};
    std::optional<yl::Error> first_error = {};
};

yl::ReportBuild build_of(const yl::batch::Verdict& verdict) {
    const std::string reason(yl::batch::name(verdict.reason));
    return {.inputs = verdict.last->inputs,
            .source = std::string(yl::batch::name(verdict.last->source)),
            .seconds = verdict.last->seconds,
            .state = verdict.detail.empty() ? reason : reason + ": " + verdict.detail};
}

struct Report {
    Session& session;
    std::vector<std::string> paths = {}, sources = {};
    std::string output = {}, role = {}, sampler = {}, format = {}, title = {};
    std::string max_size = "38M", since = {};

    yl::Result<Exit> run() const {
        std::vector<std::string> models, others;
        YL_TRY(const PathsWithLists named, with_lists(paths, Verdicts::wanted));
        for (const std::string& path : named.paths)
            (is_model_name(path) ? models : others).push_back(path);
        YL_TRY(const std::vector<std::string> files, files_below(others));
        YL_TRY(ReportChoices choices, choices_for(files, models.size()));
        for (const auto& [path, made] : named.of_lists)
            add(path, made, choices);
        Page page;
        std::set<std::string> compared;
        for (ReportedFile& file : report_files(files, choices)) {
            compared.insert(file.source);
            add(std::move(file), page);
        }
        YL_CHECK(note_unused_sources(compared));
        for (const std::string& path : models)
            add(report_model(path, choices), path, page);
        if (page.parts.empty() && page.models.empty() && page.first_error)
            return give_up(*page.first_error);
        return write(page);
    }

    static void add(const std::string& path, const BatchOutput& made, ReportChoices& choices) {
        if (!made.source.empty())
            choices.sources.emplace(path, made.source);
        if (made.role)
            choices.roles.emplace(path, *made.role);
        if (made.verdict)
            choices.builds.emplace(path, build_of(*made.verdict));
    }

    yl::Result<ReportChoices> choices_for(const std::vector<std::string>& files,
                                          std::size_t models) const {
        ReportChoices choices;
        YL_CHECK(parse_if_given(role, parse_role, choices.role));
        YL_CHECK(parse_if_given(sampler, parse_sampler_option, choices.sampler));
        if (!format.empty()) {
            YL_TRY(choices.format, parse_format(format, choices.role.value_or(yl::Role::color)));
        }
        YL_TRY(const std::uint64_t bytes, parse_bytes(max_size, "--max-size"));
        constexpr std::size_t textures_of_a_model = 8;
        const std::size_t shares =
            std::max<std::size_t>(files.size() + models * textures_of_a_model, 1);
        choices.bytes_each = std::min(bytes, bytes / shares * shares_at_most);
        YL_TRY(const std::vector<std::string> pictures, files_below(sources));
        for (const std::string& picture : pictures)
            choices.sources[stem_of(picture)] = picture;
        return choices;
    }

    /// One finding for each source that was named, a picture or a folder, without a texture beside it.
    yl::Status note_unused_sources(const std::set<std::string>& compared) const {
        for (const std::string& source : sources) {
            YL_TRY(const std::vector<std::string> files, files_below({source}));
            const auto is_compared = [&](const std::string& file) {
                return compared.contains(file);
            };
            if (std::none_of(files.begin(), files.end(), is_compared))
                session.note({{"source-not-compared",
                               "it is compared with nothing: no texture file on the page has its "
                               "name",
                               "name it as its texture, but for the ending"}},
                             source);
        }
        return {};
    }

    /// Nothing can be shown.
    yl::Result<Exit> give_up(const yl::Error& error) const {
        if (session.json)
            session.complain(error);
        return exit_for(error.kind);
    }

    void fail(const yl::Error& error, const std::string& path, Page& page) const {
        if (!page.first_error)
            page.first_error = error;
        if (!session.json)  // the page's data has it
            session.complain(error);
        page.failures.push_back({path, error.sentence()});
    }

    void add(ReportedFile file, Page& page) const {
        session.note(file.findings, file.path);
        if (file.error)
            fail(*file.error, file.path, page);
        else
            page.parts.push_back(std::move(*file.part));
    }

    void add(yl::Result<ReportedModel> model, const std::string& path, Page& page) const {
        if (!model) {
            fail(model.error(), path, page);
            return;
        }
        for (yl::ReportMaterial& material : model->model.materials)
            for (yl::ReportBinding& binding : material.bindings)
                if (binding.texture)
                    *binding.texture += page.parts.size();
        for (yl::ReportPart& part : model->parts)
            page.parts.push_back(std::move(part));
        for (yl::ReportFailure& failure : model->failures)
            page.failures.push_back(std::move(failure));
        page.models.push_back(std::move(model->model));
    }

    yl::Result<Exit> write(const Page& page) const {
        YL_TRY(const std::uint64_t max_bytes, parse_bytes(max_size, "--max-size"));
        yl::Buffer before;
        if (!since.empty()) {
            YL_TRY(before, yl::read_whole_file(since));
        }
        const yl::ReportContent content{
            .title = title.empty() ? "Textures" : title,
            .max_bytes = max_bytes,
            .textures = page.parts,
            .models = page.models,
            .failures = page.failures,
            .before = {reinterpret_cast<const char*>(before.data()), before.size()},
        };
        const auto text = yl::report_page(content);
        if (!text)
            return yl::fail_at(text.error(), since);
        YL_TRY(const std::uint64_t bytes, save(output, *text));
        session.say(fmt::format("{} and {} -> {}", count_text(page.parts.size(), "texture"),
                                count_text(page.models.size(), "model"), output));
        session.say(row_text("page", byte_text(bytes)));
        if (!page.failures.empty())
            session.say(row_text("not shown", count_text(page.failures.size(), "file")));
        if (session.json) {
            YL_TRY(const std::string data, yl::report_json(content));
            session.give([&] {
                Json result = Json::parse(data);
                result["output"] = output;
                return result;
            });
        }
        return page.first_error ? exit_for(page.first_error->kind) : session.outcome();
    }
};

}  // namespace

void add_report(CLI::App& app, Session& session) {
    auto report = std::make_shared<Report>(Report{session});
    Command command(app, session, "report", "Show textures and all about them in one page");
    command.runs([report] { return report->run(); });
    command.add(
        {.rows = {{"FILE",
                   &report->paths,
                   "",
                   "Pictures, texture files, models, folders of pictures and textures, or batch "
                   "lists (.toml), whose textures are shown beside what they are made of",
                   {.required = true, .reads_pipes = true}}}});
    command.add_output(report->output, "PAGE", "The page to write (.html)");
    command.add(
        {.rows = {
             {"--source", &report->sources, "PATH",
              "What textures were made of: pictures, textures that are not compressed, or folders "
              "of them, whose names are theirs but for the ending; each is shown beside its "
              "texture"},
             {"--as", &report->format, "FORMAT",
              "Show pictures in this format, beside what they were"},
             {"--role", &report->role, "ROLE",
              "What they are for: " + role_names() + " (by default what their texels suggest)"},
             {"--sampler", &report->sampler, "SAMPLER",
              "How they are sampled at first (by default as a texture file says)"},
             {"--since", &report->since, "PAGE",
              "An earlier report (.html), or its data (--json): what changed since is shown"},
             {"--title", &report->title, "TITLE", "The page's title (Textures when left out)"},
             {"--max-size", &report->max_size, "BYTES",
              "The page's size, with k, M or G (38M when left out): where all texels are more, the "
              "page holds smaller levels"}}});
}

}  // namespace ylat
