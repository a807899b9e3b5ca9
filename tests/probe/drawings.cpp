// Scenes drawn on the CPU, sheets, panels, maps of differences.
#include "hash.hpp"

namespace probe {
namespace {

void flat_scenes() {
    for (const yl::Format format : {yl::Format::rgba8_srgb, yl::Format::bc7_srgb}) {
        yl::Texture plain = chain_of(yl::Format::rgba8_srgb, 64, 64);
        plain.metadata.transfer = yl::Transfer::srgb;
        yl::or_exit(yl::build_mips(plain));
        const yl::Texture texture =
            yl::or_exit(yl::texture_in_format(plain, format, yl::Role::color, {.effort = 0}));
        for (const char* words :
             {"", "mag=nearest min=nearest mip=nearest", "aniso=8 wrap=mirror,repeat",
              "wrap=clamp-to-border,clamp-to-edge border=1,0,0,1 bias=1"}) {
            const auto unit = yl::or_exit(
                yl::TextureSampler::create(texture, yl::or_exit(yl::parse_sampler(words)),
                                           yl::LevelRange::of(texture.shape())));
            const std::string name = fmt::format("{}, {}", yl::info(format).name, words);
            print("floor, " + name,
                  yl::or_exit(yl::draw_scene(yl::floor_scene({.width = 96, .height = 64}), unit)));
            print("panel, " + name,
                  yl::or_exit(yl::draw_scene(yl::panel_scene({.width = 96,
                                                              .height = 64,
                                                              .tiles = {2, 1.5F},
                                                              .turn = 30,
                                                              .tilt = 20,
                                                              .texture_aspect = 2}),
                                             unit)));
        }
    }
}

void lit_scene() {
    const yl::Image heights = waves_in(yl::Format::r16_unorm, 64, 64);
    const yl::Image directions = yl::or_exit(yl::normals_from_height(heights.view()));
    yl::Picture picture;
    picture.image = yl::or_exit(yl::convert(directions.view(), yl::Format::rgba8_unorm,
                                            {.source_transfer = yl::Transfer::linear}));
    picture.transfer = yl::Transfer::linear;
    const auto normals = yl::or_exit(yl::bake(picture, {.role = yl::Role::normal})).texture;
    const auto unit = yl::or_exit(
        yl::TextureSampler::create(normals, yl::Sampler(), yl::LevelRange::of(normals.shape())));
    print("lit floor", yl::or_exit(yl::draw_lit_scene(yl::floor_scene({.width = 96, .height = 64}),
                                                      unit, yl::Lamp())));
}

void cube_scenes() {
    yl::Picture picture;
    picture.image = waves_in(yl::Format::rgba32_float, 128, 64);
    picture.transfer = yl::Transfer::linear;
    const yl::Texture cube =
        yl::or_exit(yl::cube_of_picture(picture, {.layout = yl::CubeLayout::panorama}));
    const yl::SkyOptions view = {.width = 96, .height = 64, .yaw = 70, .pitch = 25, .stops = 0.5F};
    for (const char* words : {"wrap=clamp-to-edge", "mag=nearest min=nearest"}) {
        const auto unit = yl::or_exit(yl::CubeSampler::create(
            cube, yl::or_exit(yl::parse_sampler(words)), yl::LevelRange::of(cube.shape())));
        print("sky, " + text(words), yl::or_exit(yl::draw_cube_scene(yl::sky_scene(view), unit)));
        print("ball, " + text(words), yl::or_exit(yl::draw_cube_scene(yl::ball_scene(view), unit)));
    }
    print("sheet of a cube", yl::or_exit(yl::level_sheet(cube, "sky", {.stops = 1})));
}

void sheets() {
    yl::Texture flat = chain_of(yl::Format::rgba8_srgb, 64, 40);
    yl::or_exit(yl::build_mips(flat));
    print("sheet", yl::or_exit(yl::level_sheet(flat, "probe")));
    print("sheet, enlarged",
          yl::or_exit(yl::level_sheet(
              flat, "a heading that is long enough to be broken into two lines of the sheet",
              {.enlarged = true, .columns = 3})));
    print("sheet of channels",
          yl::or_exit(yl::level_sheet(
              flat, "", {.channels = {yl::SwizzleSource::green, yl::SwizzleSource::alpha}})));
    print("sheet, small", yl::or_exit(yl::level_sheet(flat, "small", {.max_side = 300})));
    for (const yl::TextureShape& shape : {yl::TextureShape{.format = yl::Format::r8_unorm,
                                         .width = 24,
                                         .height = 40,
                                         .levels = 3,
                                         .layers = 3,
                                         .is_array = true},
                                          yl::TextureShape{.format = yl::Format::r8_unorm,
                                          .width = 24,
                                          .height = 40,
                                          .levels = 2,
                                          .layers = 1,
                                          .is_array = true},
                                          yl::TextureShape{.format = yl::Format::rgba16_float,
                                          .width = 16,
                                          .height = 8,
                                          .depth = 5,
                                          .levels = 3}}) {
        yl::Texture texture = yl::or_exit(yl::Texture::create(shape));
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            for (std::size_t i = 0; i < texture.level(level).size(); ++i)
                texture.level(level)[i] = static_cast<std::byte>(i * 7 % 61);
        const std::string name = fmt::format("{} layers, {} slices", shape.layers, shape.depth);
        print("sheet of " + name, yl::or_exit(yl::level_sheet(texture, name)));
        print("sheet of " + name + ", enlarged",
              yl::or_exit(yl::level_sheet(texture, name, {.enlarged = true})));
    }
    const auto refused = yl::level_sheet(flat, "tiny", {.max_side = 20});
    if (is_there("sheet without room", refused))
        print("sheet without room", *refused);
}

void panels() {
    std::vector<yl::LabelledPicture> pictures;
    for (std::uint32_t i = 0; i < 5; ++i)
        pictures.push_back({waves_in(yl::Format::rgba8_srgb, 60 + 20 * i, 50 - 5 * i),
                            i % 2 == 0 ? "a title of several words" : "\xC3\x84\xC3\xA9",
                            i == 2 ? "a note" : ""});
    for (const std::uint32_t columns : {1U, 3U, 9U})
        print(fmt::format("panels in {} columns", columns),
              yl::or_exit(yl::arrange_panels(pictures, columns, "Panels")));
    print("keys", yl::or_exit(yl::with_keys(pictures[0].picture.view(),
                                            {{{1, 0, 0, 1}, "red"}, {{0, 0.2F, 1, 1}, "blue"}})));
    const yl::Image a = waves_in(yl::Format::rgba8_srgb, 48, 32);
    yl::Image b = waves_in(yl::Format::rgba8_srgb, 48, 32);
    yl::or_exit(yl::invert_channel(b.view(), yl::Channel::blue));
    for (const double full : {16.0, 64.0, 255.0})
        print(fmt::format("difference, full at {}", full),
              yl::or_exit(yl::draw_difference(a.view(), b.view(), full)));
    const auto found = yl::or_exit(yl::compare_pictures(a.view(), b.view(), 20));
    print("pictures compared", found.pixels, found.pixels_beyond, found.max, found.worst_x,
          found.worst_y, found.mean);
}

}  // namespace

void drawings(const Places&) {
    flat_scenes();
    lit_scene();
    cube_scenes();
    sheets();
    panels();
}

}  // namespace probe
