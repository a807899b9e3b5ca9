// ylat unpack: a texture's levels, layers and faces back to picture files.
#include <fmt/format.h>

#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "inputs.hpp"

namespace ylat {
namespace {

enum UnpackFact : Facts { is_cube = 1, sized_picture = 2 };

struct Unpack {
    Session& session;
    Command command;
    std::string texture_path = {};
    InputChoices inputs = {};
    bool rebuild_z = false;
    std::string folder = {};
    std::string layout = "faces";
    std::string ending = {};
    std::string convention = "standard";
    std::optional<std::uint32_t> only_level = {};
    std::optional<std::uint32_t> width = {};

    yl::Result<Exit> run() const {
        YL_TRY(const auto kind, file_kind(texture_path));
        if (kind != FileKind::texture)
            return yl::fail_at(
                {yl::ErrorKind::usage, "this is a picture already; ylat rework changes pictures"},
                texture_path);
        YL_TRY(auto opened, texels());
        yl::Texture texture = std::move(opened);
        const auto wanted_layout = yl::find_cube_layout(layout);
        const bool is_sized = wanted_layout && !yl::is_cut_layout(*wanted_layout);
        YL_CHECK(command.refuse_options(when(texture.shape().faces == 6, is_cube) |
                                        when(is_sized, sized_picture)));
        const yl::TextureShape& shape = texture.shape();
        if (only_level && *only_level >= shape.levels)
            return yl::fail_at({yl::ErrorKind::usage,
                                fmt::format("the texture has levels 0 to {}", shape.levels - 1)},
                               "--level");
        if (convention != "standard") {
            const auto wish = yl::parse_cube_convention(convention);
            if (!wish)
                return yl::fail_at(wish.error(), "--convention");
            auto stored = yl::with_convention(texture, yl::standard_cube_convention(), *wish);
            if (!stored)
                return yl::fail_at(stored.error(), "--convention");
            texture = std::move(*stored);
        }
        const auto& chosen = wanted_layout;
        if (layout != "faces" && !chosen)
            return yl::fail_at(
                {yl::ErrorKind::usage, fmt::format("'{}' is not a layout; it takes faces, {}",
                                                   layout, cube_layout_names())},
                "--layout");
        std::error_code error;
        std::filesystem::create_directories(folder, error);
        if (error)
            return yl::fail_at({yl::ErrorKind::io, "cannot make the folder: " + error.message()},
                               folder);
        std::vector<std::string> written;
        YL_CHECK(chosen ? write_layouts(texture, *chosen, written)
                        : write_surfaces(texture, written));
        session.say(fmt::format("{} -> {}", texture_path, folder));
        for (const std::string& name : written)
            session.say("  " + name);
        session.give([&] {
            return Json({{"input", texture_path}, {"folder", folder}, {"files", written}});
        });
        return session.outcome();
    }

    /// The texture as pictures hold it: decoded, row 0 at the top, directions biased where the role
    /// is normal.
    yl::Result<yl::Texture> texels() const {
        YL_TRY(auto chosen, parse_inputs(inputs));
        chosen.uses_role = chosen.role == yl::Role::normal;
        YL_TRY(const auto texture, open_texture(session, texture_path, chosen));
        auto decoded = yl::decode_texture(texture);
        if (!decoded)
            return decoded;
        auto turned = upright(std::move(*decoded));
        const yl::Role role = chosen.role.value_or(yl::Role::color);
        if (!turned || (role != yl::Role::normal && !rebuild_z))
            return turned;
        const yl::FormatInfo& f = yl::info(turned->shape().format);
        const bool has_third = f.channel_count > 2;
        if (rebuild_z && f.channel_count != 2)
            return yl::fail_at({yl::ErrorKind::usage,
                                fmt::format("{} has {} channels; a third one is rebuilt of two",
                                            f.name, f.channel_count)},
                               "--rebuild-z");
        const bool is_biased = yl::normal_encoding(f.format) == yl::NormalEncoding::biased;
        if ((has_third && is_biased) || (!has_third && !rebuild_z)) {
            session.note({{"option-without-effect",
                           "--role changes nothing: the components are written as they are stored",
                           "leave it out; --rebuild-z makes the third of two"}},
                         texture_path);
            return turned;
        }
        return yl::texture_in_format(
            *turned, f.channels[0].bits > 8 ? yl::Format::rgba16_unorm : yl::Format::rgba8_unorm,
            yl::Role::normal);
    }

    [[nodiscard]] bool is_wanted(std::uint32_t level) const {
        return !only_level || *only_level == level;
    }

    [[nodiscard]] std::string chosen_ending(const yl::Texture& texture) const {
        if (!ending.empty())
            return ending.starts_with('.') ? ending.substr(1) : ending;
        return yl::info(texture.shape().format).is_float() ? "exr" : "png";
    }

    yl::Status write(const yl::Picture& picture, const std::string& name,
                     std::vector<std::string>& written) const {
        YL_TRY(const auto fitting, yl::fitted_to(name.substr(name.rfind('.') + 1), picture));
        auto status = yl::write_picture(folder + "/" + name, fitting);
        if (status)
            written.push_back(name);
        return status;
    }

    /// "slate_level2", with the texture's own name, so that those of several can lie in one folder.
    [[nodiscard]] std::string name_of_level(std::uint32_t level) const {
        const std::string stem = std::filesystem::path(texture_path).stem().string();
        const bool is_pipe = session.pipes.with_own_names(texture_path) != texture_path;
        return fmt::format("{}_level{}", is_pipe ? "input" : stem, level);
    }

    /// "sky_level2_layer0_right", as far as there are several.
    [[nodiscard]] std::string name_of(const yl::TextureShape& shape,
                                      const yl::SubresourceIndex& place) const {
        std::string name = name_of_level(place.level);
        if (shape.is_array || shape.layers > 1)
            name += fmt::format("_layer{}", place.layer);
        if (shape.faces == 6)
            name += fmt::format("_{}", yl::name(yl::all_cube_faces[place.face]));
        if (shape.depth > 1)
            name += fmt::format("_slice{}", place.slice);
        return name;
    }

    yl::Status write_surfaces(const yl::Texture& texture, std::vector<std::string>& written) const {
        const yl::TextureShape& shape = texture.shape();
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            for (std::uint32_t layer = 0; is_wanted(level) && layer < shape.layers; ++layer)
                for (std::uint32_t face = 0; face < shape.faces; ++face)
                    for (std::uint32_t slice = 0; slice < shape.depth_at(level); ++slice) {
                        const yl::SubresourceIndex place = {level, layer, face, slice};
                        YL_TRY(const auto picture, yl::picture_of_surface(texture, place));
                        auto status = write(
                            picture, name_of(shape, place) + "." + chosen_ending(texture), written);
                        if (!status)
                            return status;
                    }
        return {};
    }

    yl::Status write_layouts(const yl::Texture& texture, yl::CubeLayout chosen,
                             std::vector<std::string>& written) const {
        const yl::TextureShape& shape = texture.shape();
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            for (std::uint32_t layer = 0; is_wanted(level) && layer < shape.layers; ++layer) {
                auto image = yl::picture_of_cube(texture, chosen, level, layer, width);
                if (!image)
                    return yl::fail_at(image.error(), texture_path);
                YL_TRY(const auto picture,
                       yl::picture_with_metadata(std::move(*image), texture.metadata));
                std::string name = name_of_level(level);
                if (shape.is_array || shape.layers > 1)
                    name += fmt::format("_layer{}", layer);
                auto status =
                    write(picture, fmt::format("{}_{}.{}", name, layout, chosen_ending(texture)),
                          written);
                if (!status)
                    return status;
            }
        return {};
    }
};

}  // namespace

void add_unpack(CLI::App& app, Session& session) {
    auto unpack = std::make_shared<Unpack>(Unpack{
        session,
        Command(app, session, "unpack", "Write a texture's levels, layers and faces as pictures")});
    Command& command = unpack->command;
    command.runs([unpack] { return unpack->run(); });
    const OptionRule needs_cube = refused_without(is_cube, "the texture is not a cube map");
    command.add(
        {.rows = {{"TEXTURE",
                   &unpack->texture_path,
                   "",
                   "A texture file",
                   {.required = true, .reads_pipes = true}},
                  {"-o", &unpack->folder, "DIR", "The folder to write into", {.required = true}},
                  {"--layout",
                   &unpack->layout,
                   "LAYOUT",
                   "Of cubes: faces (six pictures), " + cube_layout_names(),
                   {.rules = {needs_cube}}},
                  {"--convention",
                   &unpack->convention,
                   "NAME",
                   "Cubes: the order and the frames of the faces",
                   {.rules = {needs_cube}}}}});
    command.add(input_options(unpack->inputs));
    command.add({.rows = {{"--rebuild-z", &unpack->rebuild_z, "",
                           "Normals in two channels: rebuild the third"},
                          {"--level", &unpack->only_level, "N", "Only this level"},
                          {"--width",
                           &unpack->width,
                           "PIXELS",
                           "Width of a panorama or ball in pixels",
                           {.allowed = in_range(1, 32768),
                            .rules = {refused_without(
                                sized_picture,
                                "it goes with a --layout whose size is open, such as panorama")}}},
                          {"--ending", &unpack->ending, "ENDING",
                           "Kind of picture file: png, exr, hdr, tga ... (exr for floating point, "
                           "otherwise png)"}}});
}

}  // namespace ylat
