#include "inputs.hpp"

#include <fmt/format.h>

#include <fstream>

#include "arguments.hpp"

namespace ylat {

void add_input_options(CLI::App& command, InputChoices& choices) {
    command
        .add_option(
            "--role", choices.role,
            "What the texture means: " + role_names() + " (hdr for floating point, else color)")
        ->option_text("ROLE");
    command
        .add_option(
            "--alpha", choices.alpha,
            "What alpha means: coverage, which weighs colour, or data (by role: coverage in "
            "color and hdr)")
        ->option_text("coverage|data");
    command
        .add_option("--transfer", choices.transfer,
                    "How colours are encoded, against what the file says: srgb or linear")
        ->option_text("srgb|linear");
}

yl::Result<InputOptions> parse_inputs(const InputChoices& choices) {
    InputOptions options;
    if (auto status = parse_if_given(choices.role, parse_role, options.role); !status)
        return tl::unexpected(status.error());
    if (auto status = parse_if_given(choices.alpha, parse_alpha, options.alpha); !status)
        return tl::unexpected(status.error());
    if (auto status = parse_if_given(choices.transfer, parse_transfer, options.transfer); !status)
        return tl::unexpected(status.error());
    return options;
}

yl::Result<FileKind> file_kind(const std::string& path) {
    const auto refuse = [&](yl::ErrorKind kind, std::string message) {
        return yl::fail_at({kind, std::move(message)}, path);
    };
    std::error_code error;
    const auto status = std::filesystem::status(path, error);
    if (!std::filesystem::exists(status))
        return refuse(yl::ErrorKind::io, "there is no such file");
    if (std::filesystem::is_directory(status))
        return refuse(yl::ErrorKind::io, "is a folder, not a file");
    std::ifstream file(path, std::ios::binary);
    if (!file)
        return refuse(yl::ErrorKind::io, "cannot open the file");
    std::array<std::byte, 64> bytes{};
    file.read(reinterpret_cast<char*>(bytes.data()), bytes.size());
    const auto start = std::span(bytes).first(static_cast<std::size_t>(file.gcount()));
    if (start.empty())
        return refuse(yl::ErrorKind::malformed, "the file is empty");
    if (yl::looks_like_picture(start))
        return FileKind::picture;
    if (yl::looks_like_texture(start))
        return FileKind::texture;
    return refuse(yl::ErrorKind::unsupported,
                  "this is neither a picture nor a texture file that can be read");
}

yl::Result<yl::Picture> open_picture(const Session& session, const std::string& path,
                                     const InputOptions& options) {
    const yl::Role role = options.role.value_or(yl::Role::color);
    auto picture = yl::read_picture(path, {.role = role, .transfer = options.transfer});
    if (!picture)
        return yl::fail_at(picture.error(), path);
    if (options.alpha && !(*options.alpha == yl::AlphaMode::straight &&
                           picture->alpha == yl::AlphaMode::premultiplied))
        picture->alpha = *options.alpha;
    session.note(yl::check_picture_info(picture->info, role), path);
    return picture;
}

yl::Findings file_findings(const yl::TextureFileInfo& info) {
    yl::Findings findings;
    for (const std::string& remark : info.remarks)
        findings.push_back({remark, "say its role or transfer function, or write the file anew",
                            yl::FindingLevel::hint});
    return findings;
}

yl::Result<yl::Texture> open_texture(const Session& session, const std::string& path,
                                     const InputOptions& options) {
    const auto kind = file_kind(path);
    if (!kind)
        return tl::unexpected(kind.error());
    if (*kind == FileKind::picture) {
        auto baked = yl::bake_file(
            path, {.role = options.role, .alpha = options.alpha, .transfer = options.transfer});
        if (!baked)
            return tl::unexpected(baked.error());
        session.note(baked->findings, path);
        return std::move(baked->texture);
    }
    auto file = yl::read_texture(
        path, {.role = options.role.value_or(yl::Role::color), .transfer = options.transfer});
    if (!file)
        return yl::fail_at(file.error(), path);
    session.note(file_findings(file->info), path);
    yl::AlphaMode& alpha = file->texture.traits.alpha;
    if (options.alpha)
        alpha = *options.alpha;
    else if (options.role)
        alpha = yl::alpha_mode(*options.role, alpha);
    return std::move(file->texture);
}

yl::Result<yl::Texture> open_cube(const Session& session, const std::string& path,
                                  const InputOptions& options) {
    const auto kind = file_kind(path);
    if (!kind)
        return tl::unexpected(kind.error());
    if (*kind == FileKind::picture) {
        const auto picture = yl::read_picture(
            path, {.role = options.role.value_or(yl::Role::color), .transfer = options.transfer});
        if (!picture)
            return yl::fail_at(picture.error(), path);
        const yl::Picture* one = &*picture;
        auto baked = yl::bake_cube(std::span(&one, 1), {}, {.role = options.role});
        if (!baked)
            return yl::fail_at(baked.error(), path);
        session.note(baked->findings, path);
        return std::move(baked->texture);
    }
    auto texture = open_texture(session, path, options);
    if (texture && texture->shape().faces != 6)
        return yl::fail_at({yl::ErrorKind::usage, "this is no cube map"}, path);
    return texture;
}

yl::Result<yl::Texture> upright(yl::Texture texture) {
    if (texture.traits.origin == yl::Origin::top)
        return texture;
    auto texels = yl::decode_texture(texture);
    if (!texels)
        return texels;
    return yl::with_origin(*texels, yl::Origin::top);
}

}  // namespace ylat
