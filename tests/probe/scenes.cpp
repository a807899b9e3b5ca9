// Scenes under every option, small: planes, lit planes, skies, balls, and meshes of every material.
#include <cmath>

#include <yl/atlas.hpp>
#include <yl/environment.hpp>

#include "hash.hpp"

namespace probe {
namespace {

constexpr std::uint32_t width = 48, height = 36;

yl::Texture texture_of(yl::Format format, std::uint32_t across, std::uint32_t down) {
    yl::Texture texture = chain_of(format, across, down);
    texture.metadata.transfer = yl::info(format).transfer;
    yl::or_exit(yl::build_mips(texture));
    return texture;
}

yl::TextureSampler unit_of(const yl::Texture& texture, std::string_view words,
                           yl::LevelRange declared = {}) {
    if (declared == yl::LevelRange{})
        declared = yl::LevelRange::of(texture.shape());
    return yl::or_exit(
        yl::TextureSampler::create(texture, yl::or_exit(yl::parse_sampler(words)), declared));
}

void planes() {
    const yl::Texture texture = texture_of(yl::Format::rgba8_srgb, 64, 32);
    const auto plain = unit_of(texture, ""), sharp = unit_of(texture, "aniso=4");
    for (const yl::TextureSampler* unit : {&plain, &sharp}) {
        Hash floors, panels;
        for (const float repeats : {0.4F, 3.0F})
            for (const float pitch : {-10.0F, 0.0F, 13.0F, 89.0F})
                for (const float view : {20.0F, 58.0F, 110.0F})
                    floors.add(yl::or_exit(yl::draw_scene(yl::floor_scene({.width = width,
                                                                           .height = height,
                                                                           .repeats = repeats,
                                                                           .pitch = pitch,
                                                                           .field_of_view = view}),
                                                          *unit)));
        for (const std::array<float, 2> tiles :
             {std::array{1.0F, 1.0F}, {0.5F, 3.0F}, {4.0F, 1.0F}})
            for (const float turn : {-60.0F, 0.0F, 35.0F})
                for (const float tilt : {-50.0F, 0.0F, 70.0F})
                    for (const float aspect : {0.5F, 2.0F})
                        panels.add(
                            yl::or_exit(yl::draw_scene(yl::panel_scene({.width = width,
                                                                        .height = height,
                                                                        .tiles = tiles,
                                                                        .turn = turn,
                                                                        .tilt = tilt,
                                                                        .texture_aspect = aspect}),
                                                       *unit)));
        print(fmt::format("floors, {}", unit == &plain ? "plain" : "sharp"), floors.value());
        print(fmt::format("panels, {}", unit == &plain ? "plain" : "sharp"), panels.value());
    }
}

/// Cut-outs, missing levels, sides of one pixel.
void odd_planes() {
    const yl::Texture texture = texture_of(yl::Format::rgba8_srgb, 64, 32);
    Hash cut, missing, small;
    for (const float threshold : {0.0F, 0.4F, 0.5F, 1.0F}) {
        yl::Scene scene = yl::panel_scene({.width = width, .height = height, .turn = 20});
        scene.cutout_threshold = threshold;
        cut.add(yl::or_exit(yl::draw_scene(scene, unit_of(texture, "mag=nearest"))));
    }
    for (const yl::LevelRange range :
         {yl::LevelRange{0, 1}, {1, 3}, {2, 1}, {0, 20}, {6, 1}, {5, 9}})
        for (const char* words : {"", "mip=none"})
            missing.add(
                yl::or_exit(yl::draw_scene(yl::floor_scene({.width = width, .height = height}),
                                           unit_of(texture, words, range))));
    for (const auto& [w, h] : {std::pair{1U, 1U}, {1U, 9U}, {9U, 1U}, {3U, 2U}})
        small.add(yl::or_exit(
            yl::draw_scene(yl::panel_scene({.width = w, .height = h}), unit_of(texture, ""))));
    print("planes with cut-outs", cut.value());
    print("planes without levels", missing.value());
    print("planes of few pixels", small.value());
    for (const auto& [w, h] : {std::pair{0U, 5U}, {5U, 0U}}) {
        const auto refused =
            yl::draw_scene(yl::panel_scene({.width = w, .height = h}), unit_of(texture, ""));
        if (is_there(fmt::format("a plane of {} x {}", w, h), refused))
            print(fmt::format("a plane of {} x {}", w, h), *refused);
    }
}

/// Parts of an atlas, near and so far away that many texels fall into a pixel.
void parts() {
    std::vector<yl::Picture> pictures(3);
    std::vector<yl::AtlasPicture> list;
    for (std::uint32_t i = 0; i < 3; ++i) {
        pictures[i].image = waves_in(yl::Format::rgba8_srgb, 24 + 20 * i, 40 - 12 * i);
        list.push_back({.name = std::to_string(i), .picture = &pictures[i], .repeats = i == 1});
    }
    const yl::Atlas atlas =
        yl::or_exit(yl::make_atlas(list, {.last_clean_level = 2, .turn = true}));
    for (const char* words : {"", "aniso=4", "mag=nearest min=nearest mip=nearest"}) {
        const auto unit = unit_of(atlas.baked.texture, words);
        Hash hash;
        for (const yl::AtlasPart& part : atlas.table.parts)
            for (const float repeats : {0.3F, 2.0F, 20.0F, 200.0F}) {
                yl::Scene floor =
                    yl::floor_scene({.width = width, .height = height, .repeats = repeats});
                yl::Scene panel = yl::panel_scene(
                    {.width = width, .height = height, .tiles = {repeats, 1}, .turn = 40});
                floor.part = panel.part = yl::part_coordinates(atlas.table, part);
                hash.add(yl::or_exit(yl::draw_scene(floor, unit)));
                hash.add(yl::or_exit(yl::draw_scene(panel, unit)));
            }
        print(fmt::format("parts of an atlas, {}", words), hash.value());
    }
}

yl::Texture normals() {
    const yl::Image heights = waves_in(yl::Format::r16_unorm, 64, 64);
    const yl::Image directions =
        yl::or_exit(yl::normals_from_height(heights.view(), {.height = 8}));
    yl::Picture picture;
    picture.image = yl::or_exit(yl::convert(directions.view(), yl::Format::rgba8_unorm,
                                            {.source_transfer = yl::Transfer::linear}));
    picture.transfer = yl::Transfer::linear;
    return yl::or_exit(yl::bake(picture, {.role = yl::Role::normal})).texture;
}

void lit_planes() {
    const yl::Texture map = normals(), rough = texture_of(yl::Format::r8_unorm, 32, 32);
    const auto unit = unit_of(map, ""), roughness = unit_of(rough, "");
    Hash hash;
    for (const std::array<float, 3> towards : {std::array{0.0F, 0.9F, 0.44F},
                                               {-2.0F, 0.1F, 1.0F},
                                               {1.0F, -1.0F, 0.2F},
                                               {0.0F, 0.0F, -1.0F}})
        for (const float amount : {0.0F, 0.2F, 1.0F})
            for (const yl::TextureSampler* by :
                 {static_cast<const yl::TextureSampler*>(nullptr), &roughness})
                for (const bool is_floor : {true, false}) {
                    const yl::Scene scene =
                        is_floor ? yl::floor_scene({.width = width, .height = height})
                                 : yl::panel_scene({.width = width, .height = height, .turn = 30});
                    hash.add(yl::or_exit(yl::draw_lit_scene(scene, unit,
                                                            {.towards = towards,
                                                             .roughness = amount,
                                                             .roughness_map = by,
                                                             .strength = 0.5F + amount})));
                }
    print("lit planes", hash.value());
}

void skies() {
    yl::Picture picture;
    picture.image = waves_in(yl::Format::rgba32_float, 64, 32);
    picture.transfer = yl::Transfer::linear;
    yl::Texture cube =
        yl::or_exit(yl::cube_of_picture(picture, {.layout = yl::CubeLayout::panorama}));
    const yl::Texture glossy =
        yl::or_exit(yl::prefilter_specular(cube, {.face_size = 16, .samples = 16}));
    const auto light = yl::or_exit(yl::project_to_harmonics(cube));
    Hash all, levels;
    for (const yl::Texture* sky : {static_cast<const yl::Texture*>(&cube), &glossy}) {
        const auto unit = yl::or_exit(yl::CubeSampler::create(
            *sky, yl::or_exit(yl::parse_sampler("")), yl::LevelRange::of(sky->shape())));
        for (const float yaw : {-170.0F, 0.0F, 95.0F})
            for (const float pitch : {-80.0F, 0.0F, 40.0F})
                for (const float view : {25.0F, 100.0F}) {
                    const yl::SkyOptions options = {.width = width,
                                                    .height = height,
                                                    .yaw = yaw,
                                                    .pitch = pitch,
                                                    .field_of_view = view,
                                                    .stops = view > 50 ? 1.0F : -1.5F};
                    all.add(yl::or_exit(yl::draw_cube_scene(yl::sky_scene(options), unit)));
                    yl::CubeScene ball = yl::ball_scene(options);
                    if (pitch > 0)
                        ball.matt_ball = light;
                    else
                        ball.ball_level = view > 50 ? 1.5F : 0.0F;
                    ball.sky_level = yaw > 0 ? std::optional(2.0F) : std::nullopt;
                    all.add(yl::or_exit(yl::draw_cube_scene(ball, unit)));
                }
        for (int tenth = -1; tenth <= 11; ++tenth)
            levels.add(yl::level_of_roughness(*sky, 0.1F * static_cast<float>(tenth)));
    }
    print("skies and balls", all.value());
    print("levels of roughness", levels.value());
}

/// A part of a ball: its corners have every attribute.
yl::Primitive patch(std::size_t surface, float x) {
    constexpr std::uint32_t columns = 6, rows = 5;
    yl::Primitive part;
    part.surface = surface;
    for (std::uint32_t row = 0; row <= rows; ++row)
        for (std::uint32_t column = 0; column <= columns; ++column) {
            const float u = static_cast<float>(column) / columns;
            const float v = static_cast<float>(row) / rows;
            yl::Vertex vertex;
            vertex.position = {x + 1.4F * u, 0.7F - 1.4F * v, u * (1 - u) + 0.5F * v};
            vertex.normal = {0.4F * (u - 0.5F), 0.3F * (0.5F - v), 1};
            vertex.tangent = {1, 0.1F, 0, surface % 2 == 0 ? 1.0F : -1.0F};
            vertex.coordinates = {{{2 * u, v}, {v, 1 - u}}};
            vertex.color = {1, 0.5F + 0.5F * u, 1 - 0.5F * v, 1 - 0.2F * u};
            part.vertices.push_back(vertex);
        }
    for (std::uint32_t row = 0; row < rows; ++row)
        for (std::uint32_t column = 0; column < columns; ++column) {
            const std::uint32_t a = row * (columns + 1) + column, b = a + columns + 1;
            part.indices.insert(part.indices.end(), {a, b, b + 1, a, b + 1, a + 1});
        }
    return part;
}

yl::ModelScene scene_of_materials() {
    yl::ModelScene scene;
    scene.textures.push_back(texture_of(yl::Format::rgba8_srgb, 32, 16));
    scene.textures.push_back(normals());
    scene.textures.push_back(texture_of(yl::Format::rgba8_unorm, 16, 32));
    const auto use = [](std::size_t texture, std::uint32_t set, const char* words) {
        yl::SurfaceTexture result{.texture = texture,
                                  .sampler = yl::or_exit(yl::parse_sampler(words)),
                                  .coordinate_set = set};
        if (set == 1)
            result.matrix = {1.5F, 0.2F, 0.1F, -0.3F, 0.8F, 0.4F};
        return result;
    };
    for (std::size_t i = 0; i < 8; ++i) {
        yl::Material material;
        material.base_color = {0.9F, 0.7F, 0.5F, 0.8F};
        material.metallic = i % 2 == 0 ? 0.1F : 0.9F;
        material.roughness = 0.15F + 0.1F * static_cast<float>(i);
        material.alpha =
            std::array{yl::AlphaUse::opaque, yl::AlphaUse::mask, yl::AlphaUse::blend}[i % 3];
        material.is_two_sided = i % 4 == 1;
        material.is_unlit = i == 6;
        material.emissive = {i == 3 ? 0.4F : 0.0F, 0, 0.1F};
        material.normal_scale = 0.5F + 0.25F * static_cast<float>(i);
        material.occlusion_strength = i == 4 ? 0.3F : 1.0F;
        const auto set = static_cast<std::uint32_t>(i % 2);
        if (i != 2)
            material.base_color_texture =
                use(0, set, i == 5 ? "mag=nearest mip=nearest" : "aniso=4");
        if (i > 1)
            material.normal_texture = use(1, 1 - set, "");
        if (i % 3 == 1)
            material.metallic_roughness_texture = use(2, set, "wrap=mirror");
        if (i > 3)
            material.occlusion_texture = use(2, 0, "");
        if (i == 3 || i == 7)
            material.emissive_texture = use(0, set, "wrap=clamp-to-edge");
        scene.surfaces.push_back(material);
        scene.parts.push_back(patch(i, 0.9F * static_cast<float>(i) - 3.5F));
    }
    return scene;
}

void meshes() {
    const yl::ModelScene scene = scene_of_materials();
    for (const yl::ModelShow show : {yl::ModelShow::lit, yl::ModelShow::uv, yl::ModelShow::normal,
                                     yl::ModelShow::slot, yl::ModelShow::level}) {
        Hash hash;
        for (const auto& [yaw, pitch] :
             {std::pair{0.0F, 0.0F}, {30.0F, 20.0F}, {-75.0F, -40.0F}, {180.0F, 5.0F}})
            for (const auto& [view, zoom] : {std::pair{32.0F, 1.0F}, {80.0F, 3.0F}})
                for (const auto& [w, h] : {std::pair{60U, 24U}, {24U, 60U}}) {
                    auto drawn = yl::draw_model(scene, {.width = w,
                                                        .height = h,
                                                        .yaw = yaw,
                                                        .pitch = pitch,
                                                        .field_of_view = view,
                                                        .zoom = zoom,
                                                        .show = show});
                    hash.add(yl::or_exit(std::move(drawn)));
                }
        print(fmt::format("meshes, {}", yl::name(show)), hash.value());
    }
    Hash colors;
    for (std::size_t i = 0; i < 20; ++i)
        colors.add_all(yl::slot_color(i), yl::level_color(i));
    print("colours of slots and levels", colors.value());
    yl::ModelScene broken = scene_of_materials();
    const auto draw_broken = [&](const char* how) {
        const auto drawn = yl::draw_model(broken, {.width = 8, .height = 8});
        if (is_there(how, drawn))
            print(how, *drawn);
    };
    broken.parts[2].indices[4] = 1000;
    draw_broken("a mesh whose index leads nowhere");
    broken = scene_of_materials();
    broken.parts[1].surface = 8;
    draw_broken("a mesh whose material is not there");
    broken = scene_of_materials();
    broken.surfaces[0].base_color_texture->texture = 3;
    draw_broken("a mesh whose texture is not there");
    broken = scene_of_materials();
    broken.surfaces[0].base_color_texture->coordinate_set = 2;
    draw_broken("a mesh whose coordinates are not there");
}

}  // namespace

void scenes(const Places&) {
    planes();
    odd_planes();
    parts();
    lit_planes();
    skies();
    meshes();
}

}  // namespace probe
