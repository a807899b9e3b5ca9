#include <yl/status_macros.hpp>

#include "inputs.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "archives.hpp"
#include "arguments.hpp"

namespace ylat {

OptionTable input_options(InputChoices& choices, InputRules rules) {
    return {.rows = {{"--role",
                      &choices.role,
                      "ROLE",
                      "What the texture means: " + role_names() +
                          " (hdr for floating point, else color)",
                      {.rules = std::move(rules.role)}},
                     {"--alpha",
                      &choices.alpha,
                      "coverage|data",
                      "What alpha means: coverage, which weighs colour, or data (by default "
                      "coverage for color and hdr, otherwise data)",
                      {.rules = std::move(rules.alpha)}},
                     {"--transfer",
                      &choices.transfer,
                      "srgb|linear",
                      "How colours are encoded, overriding the file: srgb or linear",
                      {.rules = std::move(rules.transfer)}}}};
}

OptionTable picture_options(InputChoices& choices, Facts has_profile) {
    return {
        .rows = {{"--profile",
                  &choices.profile,
                  "apply|keep|ignore",
                  "Colours that a picture says are not sRGB's, by a profile or otherwise: apply "
                  "(convert them), keep (as they are, with the profile) or ignore",
                  {.allowed = one_of({"apply", "keep", "ignore"}),
                   .rules = {idle_without(has_profile,
                                          "no picture says that its colours are not sRGB's, or "
                                          "it holds no colours")}}},
                 {"--part", &choices.part, "NAME",
                  "Of OpenEXR files with several parts: the one of this name, not the first"}}};
}

bool tells_of_profile(const yl::Findings& findings) {
    return std::ranges::any_of(findings, [](const yl::Finding& finding) {
        return finding.code == "colors-converted" || finding.code == "colors-not-converted";
    });
}

yl::Result<InputOptions> parse_inputs(const InputChoices& choices) {
    InputOptions options;
    options.profile = choices.profile == "keep"     ? yl::ProfileUse::keep
                      : choices.profile == "ignore" ? yl::ProfileUse::ignore
                                                    : yl::ProfileUse::apply;
    options.part = choices.part;
    YL_CHECK(parse_if_given(choices.role, parse_role, options.role));
    YL_CHECK(parse_if_given(choices.alpha, parse_alpha, options.alpha));
    YL_CHECK(parse_if_given(choices.transfer, parse_transfer, options.transfer));
    return options;
}

yl::Status refuse_part(const std::string& path, const std::string& part) {
    if (part.empty())
        return {};
    return yl::fail_at(
        {yl::ErrorKind::usage, fmt::format("{} is a texture, which has no parts", path)}, "--part");
}

yl::Result<FileKind> file_kind(const std::string& path) {
    YL_TRY(const auto content, yl::file_content(path, files_for(path)));
    if (content == yl::FileContent::other)
        return yl::fail_at({yl::ErrorKind::unsupported,
                            "this is neither a picture nor a texture file that can be read"},
                           path);
    return content == yl::FileContent::picture ? FileKind::picture : FileKind::texture;
}

namespace {

/// What the command line says of alpha; a picture that says it is premultiplied stays so.
void overrule_alpha(yl::Picture& picture, const InputOptions& options) {
    if (options.alpha && !(*options.alpha == yl::AlphaMode::straight &&
                           picture.alpha == yl::AlphaMode::premultiplied))
        picture.alpha = *options.alpha;
}

/// Level 0 of a texture's first surface.
yl::Result<yl::Picture> first_surface(const Session& session, const std::string& path,
                                      const InputOptions& options) {
    YL_TRY(auto opened, open_texture(session, path, options));
    const auto texture = upright(std::move(opened));
    if (!texture)
        return yl::fail_at(texture.error(), path);
    note_first_surface(session, texture->shape(), path, texture->shape().faces > 1);
    auto picture = yl::picture_of_surface(*texture, {0, 0, 0, 0});
    if (!picture)
        return yl::fail_at(picture.error(), path);
    return picture;
}

}  // namespace

yl::Result<yl::Picture> picture_of(const Session& session, const std::string& path,
                                   const InputOptions& options) {
    const auto kind = file_kind(path);  // whoever reads a picture says what is wrong
    if (kind && *kind == FileKind::texture) {
        YL_CHECK(refuse_part(path, options.part));
        return first_surface(session, path, options);
    }
    const yl::Role role = options.role.value_or(yl::Role::color);
    auto picture = yl::read_picture(path, {.role = role,
                                           .transfer = options.transfer,
                                           .profile = options.profile,
                                           .part = options.part,
                                           .files = files_for(path),
                                           .progress = session.progress()});
    if (!picture)
        return yl::fail_at(picture.error(), path);
    overrule_alpha(*picture, options);
    return picture;
}

yl::Result<yl::PictureFrames> frames_of(const Session& session, const std::string& path,
                                        const InputOptions& options) {
    const auto kind = file_kind(path);
    if (kind && *kind == FileKind::texture) {
        yl::PictureFrames one;
        YL_TRY(auto picture, picture_of(session, path, options));
        one.pictures.push_back(std::move(picture));
        return one;
    }
    auto frames = yl::read_frames(path, {.role = options.role.value_or(yl::Role::color),
                                         .transfer = options.transfer,
                                         .profile = options.profile,
                                         .part = options.part,
                                         .files = files_for(path),
                                         .progress = session.progress()});
    if (!frames)
        return yl::fail_at(frames.error(), path);
    for (yl::Picture& picture : frames->pictures)
        overrule_alpha(picture, options);
    return frames;
}

yl::Result<yl::Picture> open_picture(const Session& session, const std::string& path,
                                     const InputOptions& options) {
    auto picture = picture_of(session, path, options);
    if (picture)
        session.note(yl::check_picture_info(picture->info, options.role.value_or(yl::Role::color)),
                     path);
    return picture;
}

void note_first_surface(const Session& session, const yl::TextureShape& shape,
                        const std::string& path, bool one_face) {
    if (shape.layers == 1 && shape.depth == 1 && !one_face)
        return;
    session.note({{"first-surface-alone",
                   "the texture has several layers, faces or slices: the first alone is taken",
                   "take the others out with ylat unpack"}},
                 path);
}

yl::Findings file_findings(const yl::TextureFileInfo& info) {
    yl::Findings findings;
    for (const std::string& remark : info.remarks)
        findings.push_back({"file-remark", remark,
                            "say its role or transfer function, or export the file again",
                            yl::FindingLevel::hint});
    return findings;
}

namespace {

/// Options that a texture file leaves without effect.
void note_idle(const Session& session, const std::string& path, const InputOptions& options,
               const yl::TextureFile& file) {
    if (options.alpha && !options.uses_alpha)
        session.note({{"option-without-effect",
                       "--alpha changes nothing: texels are taken as they are", "leave it out"}},
                     path);
    if (!options.role || options.uses_role || options.transfer)
        return;
    const auto otherwise =
        yl::TextureStream::open(path, {.files = files_for(path)}, yl::FileAccess::on_demand);
    const bool is_same = otherwise && otherwise->shape() == file.texture.shape() &&
                         otherwise->metadata().transfer == file.texture.metadata.transfer;
    if (is_same)
        session.note({{"option-without-effect",
                       "--role changes nothing: the texture says itself what its texels are",
                       "leave it out, or bake it again in that role"}},
                     path);
}

}  // namespace

yl::Result<yl::Texture> open_texture(const Session& session, const std::string& path,
                                     const InputOptions& options) {
    YL_TRY(const auto kind, file_kind(path));
    if (kind == FileKind::picture) {
        const yl::Progress progress = session.progress();
        YL_TRY(auto baked, yl::bake_file(path, {.role = options.role,
                                                .alpha = options.alpha,
                                                .transfer = options.transfer,
                                                .progress = progress}));
        session.note(baked.findings, path);
        if (options.alpha && baked.is_opaque)
            session.note({{"option-without-effect",
                           "--alpha changes nothing: alpha is 1 everywhere", "leave it out"}},
                         path);
        return std::move(baked.texture);
    }
    auto file = yl::read_texture(path, {.role = options.role.value_or(yl::Role::color),
                                        .transfer = options.transfer,
                                        .files = files_for(path),
                                        .progress = session.progress()});
    if (!file)
        return yl::fail_at(file.error(), path);
    session.note(file_findings(file->info), path);
    note_idle(session, path, options, *file);
    yl::AlphaMode& alpha = file->texture.metadata.alpha;
    if (options.alpha)
        alpha = *options.alpha;
    else if (options.role)
        alpha = yl::alpha_mode(*options.role, alpha);
    return std::move(file->texture);
}

yl::Result<yl::Texture> open_cube(const Session& session, const std::string& path,
                                  const InputOptions& options) {
    YL_TRY(const auto kind, file_kind(path));
    if (kind == FileKind::picture) {
        const auto picture = yl::read_picture(path, {.role = options.role.value_or(yl::Role::color),
                                                     .transfer = options.transfer,
                                                     .files = files_for(path),
                                                     .progress = session.progress()});
        if (!picture)
            return yl::fail_at(picture.error(), path);
        if (options.alpha && !options.uses_alpha)
            session.note({{"option-without-effect", "--alpha changes nothing: a sky has no alpha",
                           "leave it out"}},
                         path);
        const yl::Picture* one = &*picture;
        auto baked = yl::bake_cube(std::span(&one, 1), {},
                                   {.role = options.role, .progress = session.progress()});
        if (!baked)
            return yl::fail_at(baked.error(), path);
        session.note(baked->findings, path);
        return std::move(baked->texture);
    }
    auto texture = open_texture(session, path, options);
    if (texture && texture->shape().faces != 6)
        return yl::fail_at({yl::ErrorKind::usage, "this is not a cube map"}, path);
    return texture;
}

yl::Result<yl::Texture> upright(yl::Texture texture) {
    if (texture.metadata.origin == yl::Origin::top)
        return texture;
    auto texels = yl::decode_texture(texture);
    if (!texels)
        return texels;
    return yl::with_origin(*texels, yl::Origin::top);
}

}  // namespace ylat
