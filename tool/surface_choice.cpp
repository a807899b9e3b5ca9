#include "surface_choice.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include <yl/status_macros.hpp>

#include "archives.hpp"

namespace ylat {
namespace {

yl::Result<yl::AtlasPart> find_part(const yl::AtlasTable& table, const std::string& name) {
    if (const yl::AtlasPart* part = table.find(name))
        return *part;
    std::string names;
    constexpr std::size_t most = 12;
    for (std::size_t i = 0; i < std::min(table.parts.size(), most); ++i)
        names += (names.empty() ? "" : ", ") + table.parts[i].name;
    if (table.parts.size() > most)
        names += " ...";
    return yl::fail_at(
        {yl::ErrorKind::usage, fmt::format("the atlas has no part '{}'; it has {}", name, names)},
        "--part");
}

yl::Status show_part(ChosenSurface& chosen, std::uint32_t& layer, const std::string& path,
                     const SurfaceChoices& choices) {
    const std::string table_path =
        choices.table.empty() ? std::filesystem::path(path).replace_extension(".json").string()
                              : choices.table;
    std::error_code error;
    if (choices.table.empty() && !std::filesystem::exists(table_path, error))
        return yl::fail_at(
            {yl::ErrorKind::usage,
             fmt::format("there is no table of parts, {}; say where it is by --table", table_path)},
            "--part");
    YL_TRY(const auto table, yl::read_atlas_table(table_path, files_for(table_path)));
    const yl::TextureShape& shape = chosen.texture.shape();
    if (table.width != shape.width || table.height != shape.height || table.layers != shape.layers)
        return yl::fail_at({yl::ErrorKind::usage,
                            fmt::format("the table is of an atlas of {} x {} texels in {} layers, "
                                        "and {} has {} x {} in {}",
                                        table.width, table.height, table.layers, path, shape.width,
                                        shape.height, shape.layers)},
                           table_path);
    YL_TRY(const auto part, find_part(table, choices.part));
    layer = part.layer;
    chosen.part = yl::part_coordinates(table, part);
    chosen.size = part.picture_size;
    return {};
}

}  // namespace

yl::Result<ChosenSurface> choose_surface(yl::Texture texture, const std::string& path,
                                         const SurfaceChoices& choices) {
    ChosenSurface chosen{.texture = std::move(texture)};
    const yl::TextureShape shape = chosen.texture.shape();
    chosen.size = {shape.width, shape.height};
    std::uint32_t layer = choices.layer.value_or(0);
    if (!choices.part.empty())
        YL_CHECK(show_part(chosen, layer, path, choices));
    const bool is_3d = shape.dimensions() == 3;
    if (choices.slice || (is_3d && !choices.layer)) {
        if (choices.slice && !is_3d)
            return yl::fail_at({yl::ErrorKind::usage, "the texture is not a 3D texture"},
                               "--slice");
        auto slice = yl::single_slice(chosen.texture, choices.slice.value_or(0));
        if (!slice)
            return yl::fail_at({slice.error().kind, slice.error().message}, "--slice");
        chosen.texture = std::move(*slice);
    } else if (choices.layer || shape.layers > 1 || shape.is_array) {
        if (choices.layer && !shape.is_array)
            return yl::fail_at({yl::ErrorKind::usage, "the texture is not an array"}, "--layer");
        auto single = yl::single_layer(chosen.texture, layer);
        if (!single)
            return yl::fail_at({single.error().kind, single.error().message}, "--layer");
        chosen.texture = std::move(*single);
    }
    return chosen;
}

}  // namespace ylat
