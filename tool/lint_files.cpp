#include "lint_files.hpp"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <filesystem>
#include <map>
#include <string_view>
#include <yl/build_cache.hpp>
#include <yl/status_macros.hpp>

#include "archives.hpp"
#include "inputs.hpp"
#include "lint_siblings.hpp"

namespace ylat {
namespace {

namespace fs = std::filesystem;

/// What is equal has equal sizes, formats and texels.
struct Fingerprint {
    yl::TextureShape shape = {};
    yl::batch::Hash hash = {};

    [[nodiscard]] auto key() const {
        return std::tuple(shape.format, shape.width, shape.height, shape.levels, shape.layers,
                          shape.faces, hash);
    }
};

yl::batch::Hash hash_of(std::span<const std::byte> bytes) {
    return yl::batch::hash_text({reinterpret_cast<const char*>(bytes.data()), bytes.size()});
}

yl::batch::Hash hash_of(yl::ConstImageView image) {
    std::string rows;
    for (std::uint32_t y = 0; y < image.height; ++y)
        rows += hash_of(image.row(y)).text();
    return yl::batch::hash_text(rows);
}

struct Looked {
    LintedFile file = {};
    yl::LintTraits traits = {};
    Fingerprint print = {};

    void take(yl::LintReport report) {
        file.role = report.role;
        file.found = std::move(report.found);
    }
};

yl::Status look_at_picture(const std::string& path, const yl::LintOptions& options,
                           Looked& looked) {
    YL_TRY(const yl::Picture picture, yl::read_picture(path, {.files = files_for(path)}));
    const yl::ConstImageView image = picture.image.view();
    looked.print = {{.format = image.format, .width = image.width, .height = image.height},
                    hash_of(image)};
    YL_TRY(looked.traits, yl::lint_traits(picture));
    YL_TRY(yl::LintReport report, yl::lint(picture, options));
    looked.take(std::move(report));
    for (yl::Finding& finding : yl::check_picture_info(picture.info, looked.file.role))
        looked.file.found.push_back({std::move(finding)});
    return {};
}

/// The normals of the surface whose roughness a file holds; without any, the roughness stands for
/// itself.
std::optional<yl::Texture> read_normals(const std::string& path) {
    const auto kind = file_kind(path);
    if (!kind)
        return {};
    if (*kind == FileKind::texture) {
        auto file = yl::read_texture(path, {.forgiving = true, .files = files_for(path)});
        return file ? std::optional(std::move(file->texture)) : std::nullopt;
    }
    auto baked =
        yl::bake_file(path, {.role = yl::Role::normal, .levels = 1}, {.files = files_for(path)});
    return baked ? std::optional(std::move(baked->texture)) : std::nullopt;
}

yl::Status look_at_texture(const std::string& path, const std::string& normals_path,
                           yl::LintOptions options, Looked& looked) {
    YL_TRY(const yl::TextureFile file,
           yl::read_texture(path, {.forgiving = true, .files = files_for(path)}));
    std::optional<yl::Texture> normals;
    if (!normals_path.empty() && file.texture.shape().levels > 1 &&
        (normals = read_normals(normals_path))) {
        options.normals = &*normals;
    }
    YL_TRY(looked.traits, yl::lint_traits(file.texture));
    looked.print = {file.texture.shape(), hash_of(file.texture.level(0))};
    YL_TRY(yl::LintReport report, yl::lint(file.texture, options));
    looked.take(std::move(report));
    for (yl::Evidence& found : looked.file.found)
        if (normals && found.finding.code == "roughness-not-widened")
            found.finding.remedy = "bake the roughness with the normals of " + normals_path;
    for (yl::Finding& finding : file_findings(file.info))
        looked.file.found.push_back({std::move(finding)});
    return {};
}

Looked look_at(const LintJob& job, const std::string& normals) {
    const std::string& path = job.path;
    yl::LintOptions options = job.options;
    if (options.packed == yl::PackedChannels{})
        options.packed = packed_of_name(path);
    Looked looked;
    looked.file.path = path;
    const auto kind = file_kind(path);
    const yl::Status status = !kind ? yl::Status(tl::unexpected(kind.error()))
                              : *kind == FileKind::picture
                                  ? look_at_picture(path, options, looked)
                                  : look_at_texture(path, normals, options, looked);
    if (!status)
        looked.file.error = status.error();
    return looked;
}

void find_equals(std::vector<Looked>& all) {
    std::map<decltype(Fingerprint{}.key()), std::string> first;
    for (Looked& one : all) {
        if (one.file.error)
            continue;
        const auto [place, is_new] = first.emplace(one.print.key(), one.file.path);
        if (!is_new)
            one.file.found.push_back(
                {{"same-as-another", fmt::format("it has the same texels as {}", place->second),
                  "use one of them", yl::FindingLevel::hint}});
    }
}

void find_turned(std::vector<Looked>& all) {
    Siblings siblings;
    for (Looked& one : all)
        if (auto found = siblings.add(one.file.path, one.traits))
            one.file.found.push_back(std::move(*found));
}

}  // namespace

yl::Result<std::vector<std::string>> files_below(const std::vector<std::string>& paths) {
    std::vector<std::string> files;
    for (const std::string& path : paths) {
        std::error_code error;
        if (!fs::is_directory(path, error)) {
            files.push_back(path);
            continue;
        }
        std::vector<std::string> found;
        for (fs::recursive_directory_iterator at(path, error), end; !error && at != end;
             at.increment(error))
            if (at->is_regular_file() && file_kind(at->path().string()))
                found.push_back(at->path().string());
        if (error)
            return yl::fail_at({yl::ErrorKind::io, "cannot list: " + error.message()}, path);
        if (found.empty())
            return yl::fail_at(
                {yl::ErrorKind::missing, "there is no picture and no texture file in it"}, path);
        std::ranges::sort(found);
        std::ranges::move(found, std::back_inserter(files));
    }
    return files;
}

std::vector<LintedFile> lint_files(std::span<const LintJob> jobs) {
    std::vector<Looked> all(jobs.size());
    const std::vector<std::string> normals = normals_beside(jobs);
    tbb::parallel_for(std::size_t{0}, jobs.size(),
                      [&](std::size_t i) { all[i] = look_at(jobs[i], normals[i]); });
    find_equals(all);
    find_turned(all);
    std::vector<LintedFile> results;
    for (Looked& one : all)
        results.push_back(std::move(one.file));
    return results;
}

}  // namespace ylat
