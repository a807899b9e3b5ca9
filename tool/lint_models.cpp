#include "lint_models.hpp"

#include <fmt/format.h>

#include "bound_textures.hpp"

namespace ylat {
namespace {

LintedFile linted(const BoundTextures& textures, std::size_t index, const LintJob& job) {
    LintedFile file{.path = fmt::format("{}: {}", job.path, textures.label(index)),
                    .is_in_model = true};
    if (!textures.made[index].texture) {
        file.found.push_back({{"image-missing",
                               textures.made[index].error ? textures.made[index].error->sentence()
                                                          : "there is no image",
                               "add the image", yl::FindingLevel::error}});
        return file;
    }
    auto report = textures.lint(index, job.options);
    if (!report) {
        file.error = report.error();
        return file;
    }
    file.role = report->role;
    file.found = std::move(report->found);
    return file;
}

}  // namespace

std::vector<LintedFile> lint_model(const LintJob& job) {
    LintedFile whole{.path = job.path, .is_model = true};
    const auto textures = read_bound_textures(job.path);
    if (!textures) {
        whole.error = textures.error();
        return {whole};
    }
    for (const yl::Finding& finding : textures->model.findings)
        if (finding.code != "image-missing")  // which its texture says
            whole.found.push_back({finding});
    if (job.options.profile)
        for (const yl::Finding& finding :
             yl::model::check_bindings(textures->model, textures->bindings, *job.options.profile))
            whole.found.push_back({finding});
    std::vector<LintedFile> files = {std::move(whole)};
    for (std::size_t i = 0; i < textures->size(); ++i)
        files.push_back(linted(*textures, i, job));
    return files;
}

}  // namespace ylat
