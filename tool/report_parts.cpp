#include "report_parts.hpp"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <filesystem>
#include <yl/status_macros.hpp>

#include "archives.hpp"
#include "describe.hpp"
#include "finding_commands.hpp"
#include "inputs.hpp"
#include "lint_files.hpp"

namespace ylat {
namespace {

/// A file as a texture, and what it was before it was compressed.
struct Opened {
    yl::Texture texture = {};
    std::optional<yl::Texture> source = {};
    std::string source_name = {}, file_format = {};
    std::uint64_t file_bytes = 0;
    bool is_picture = false;
};

std::string name_of(const std::string& path) {
    return std::filesystem::path(path).filename().string();
}

std::uint64_t bytes_of(const std::string& path) {
    std::error_code error;
    const auto size = std::filesystem::file_size(path, error);
    return error ? 0 : size;  // inside of an archive
}

yl::Result<Opened> open_as_picture(const std::string& path, const ReportChoices& choices,
                                   yl::Role role) {
    const yl::ReadOptions reading{.files = files_for(path)};
    YL_TRY(yl::Baked plain, yl::bake_file(path, {.role = role}, reading));
    YL_TRY(const yl::PictureHeader header, yl::peek_picture(path, reading.files));
    Opened opened{.texture = std::move(plain.texture),
                  .file_format = std::string(header.file_format),
                  .file_bytes = bytes_of(path),
                  .is_picture = true};
    if (choices.format) {
        YL_TRY(yl::Baked baked,
               yl::bake_file(path, {.role = role, .format = choices.format}, reading));
        opened.source = std::move(opened.texture);
        opened.texture = std::move(baked.texture);
        opened.source_name = name_of(path);
    }
    return opened;
}

/// The whole panorama, cross or strip of a cube whose faces are so large.
yl::Result<yl::Texture> cube_of_source(const std::string& path, const yl::TextureShape& shape) {
    YL_TRY(const yl::Picture picture, yl::read_picture(path, {.files = files_for(path)}));
    const yl::Picture* const pictures[] = {&picture};
    const std::string names[] = {name_of(path)};
    yl::CubeBakeOptions options{.levels = shape.levels};
    const auto guess = yl::guess_cube_layout(picture);
    if (guess && !yl::is_cut_layout(guess->layout))
        options.source.face_size = shape.width;
    YL_TRY(yl::BakedCube baked, yl::bake_cube(pictures, names, options));
    return std::move(baked.texture);
}

/// What a texture was made of, as a chain that is not compressed: a picture, a picture of a whole sky
/// for cubes, or another texture file.
yl::Result<yl::Texture> read_source(const std::string& path, yl::Role role,
                                    const yl::TextureShape& shape) {
    YL_TRY(const FileKind kind, file_kind(path));
    if (kind == FileKind::texture) {
        YL_TRY(yl::TextureFile file, yl::read_texture(path, {.files = files_for(path)}));
        return upright(std::move(file.texture));
    }
    if (shape.faces == 6)
        return cube_of_source(path, shape);
    // A smaller picture has fewer levels: both shapes are said then.
    YL_TRY(const yl::PictureHeader header, yl::peek_picture(path, files_for(path)));
    const auto levels = std::min(shape.levels, yl::full_level_count(header.width, header.height));
    YL_TRY(yl::Baked baked,
           yl::bake_file(path, {.role = role, .levels = levels}, {.files = files_for(path)}));
    return std::move(baked.texture);
}

/// Fails where the source cannot be read; one that does not fit is a finding.
yl::Status add_source(const std::string& path, yl::Role role, Opened& opened,
                      yl::Findings& findings) {
    const yl::TextureShape& shape = opened.texture.shape();
    YL_TRY(const FileKind kind, file_kind(path));
    if (kind == FileKind::picture && !yl::roughness_of_levels(opened.texture).empty()) {
        findings.push_back(
            {"source-not-compared",
             fmt::format("{} is not compared with it: its levels are prefiltered", path),
             "name the prefiltered cube before it was compressed"});
        return {};
    }
    auto read = read_source(path, role, shape);
    if (!read && read.error().kind == yl::ErrorKind::usage) {
        findings.push_back(
            {"source-not-compared",
             fmt::format("{} is not compared with it: {}", path, read.error().sentence()),
             "name a source of the same kind"});
        return {};
    }
    if (!read)
        return tl::unexpected(read.error());
    yl::Texture source = std::move(*read);
    const bool is_block = yl::info(source.shape().format).is_block();
    if (is_block || !yl::have_equal_sizes(source.shape(), shape) ||
        source.shape().levels != shape.levels) {
        const auto text = [](const yl::TextureShape& of) {
            return fmt::format("{} with {}", size_text(of.width, of.height), shape_text(of));
        };
        findings.push_back(
            {"source-not-compared",
             is_block ? fmt::format("{} is not compared with it: it is compressed itself", path)
                      : fmt::format("{} is not compared with it: it makes {}, and this has {}",
                                    path, text(source.shape()), text(shape)),
             "name a source of the same size, with as many layers"});
        return {};
    }
    opened.source = std::move(source);
    opened.source_name = name_of(path);
    return {};
}

yl::Result<Opened> open_as_texture(const std::string& path, const ReportChoices& choices,
                                   yl::Role role, ReportedFile& reported) {
    YL_TRY(yl::TextureFile file,
           yl::read_texture(
               path, {.role = choices.role_of(path), .forgiving = true, .files = files_for(path)}));
    Opened opened{.file_format = file.info.file_format, .file_bytes = file.info.file_bytes};
    YL_TRY(opened.texture, upright(std::move(file.texture)));
    auto source = choices.sources.find(path);
    if (source == choices.sources.end())
        source = choices.sources.find(stem_of(path));
    if (source == choices.sources.end())
        return opened;
    reported.source = source->second;
    YL_CHECK(add_source(reported.source, role, opened, reported.findings));
    return opened;
}

yl::Result<yl::ReportPart> part_of(const LintedFile& linted, const ReportChoices& choices,
                                   ReportedFile& reported) {
    YL_TRY(const FileKind kind, file_kind(linted.path));
    YL_TRY(const Opened opened, kind == FileKind::picture
                                    ? open_as_picture(linted.path, choices, linted.role)
                                    : open_as_texture(linted.path, choices, linted.role, reported));
    yl::ReportTexture shown{.name = name_of(linted.path),
                            .file = linted.path,
                            .file_format = opened.file_format,
                            .file_bytes = opened.file_bytes,
                            .is_picture = opened.is_picture,
                            .texture = &opened.texture,
                            .source = opened.source ? &*opened.source : nullptr,
                            .source_name = opened.source_name,
                            .lint = {linted.role, linted.found},
                            .sampler = choices.sampler};
    if (const auto build = choices.builds.find(linted.path); build != choices.builds.end())
        shown.build = build->second;
    for (const yl::Evidence& found : linted.found)
        shown.commands.push_back(command_for(found.finding, linted.path));
    return yl::report_part(shown, {.max_bytes = choices.bytes_each});
}

ReportedFile reported(const LintedFile& linted, const ReportChoices& choices) {
    ReportedFile file{.path = linted.path, .error = linted.error};
    if (file.error)
        return file;
    auto part = part_of(linted, choices, file);
    if (part)
        file.part = std::move(*part);
    else
        file.error = yl::fail_at(part.error(), linted.path).value();
    return file;
}

}  // namespace

std::optional<yl::Role> ReportChoices::role_of(const std::string& path) const {
    const auto of_list = roles.find(path);
    return role || of_list == roles.end() ? role : of_list->second;
}

std::string stem_of(const std::string& path) {
    return std::filesystem::path(path).stem().string();
}

std::vector<ReportedFile> report_files(const std::vector<std::string>& paths,
                                       const ReportChoices& choices) {
    std::vector<LintJob> jobs;
    for (const std::string& path : paths)
        jobs.push_back({path, {.role = choices.role_of(path), .sampler = choices.sampler}});
    const std::vector<LintedFile> linted = lint_files(jobs);
    std::vector<ReportedFile> files(linted.size());
    tbb::parallel_for(std::size_t{0}, linted.size(),
                      [&](std::size_t i) { files[i] = reported(linted[i], choices); });
    return files;
}

}  // namespace ylat
