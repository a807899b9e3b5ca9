// A floor of one tile of an atlas, beside the same tile alone.
#pragma once

#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

namespace support {

/// A tile among pictures in colours that it has none of.
struct AtlasFloor {
    yl::Texture alone = {};
    yl::Atlas atlas = {};
    yl::Scene floor = yl::floor_scene({.width = 320, .height = 200, .repeats = 2});
    yl::Scene part_floor = floor, panel = {};
    yl::Sampler sampler = must(yl::parse_sampler("mag=linear min=linear mip=linear wrap=repeat"));
    yl::Sampler anisotropic = must(yl::parse_sampler("wrap=repeat aniso=16"));

    static constexpr std::uint32_t last_clean_level = 3;

    explicit AtlasFloor(yl::Format format) {
        std::vector<yl::Picture> pictures;
        pictures.push_back(tile());
        for (const int red : {0, 255})
            pictures.push_back(flat(red, 40));
        pictures.push_back(flat(128, 24));
        for (std::uint32_t y = 0; y < 24; ++y)  // borders to trim
            for (std::uint32_t x = 0; x < 24; ++x)
                if (x < 5 || y < 9 || x >= 20)
                    pictures[3].image.view().row(y)[4 * x + 3] = std::byte{0};
        std::vector<yl::AtlasPicture> list = {{"tile", &pictures[0]},
                                              {"black", &pictures[1]},
                                              {"red", &pictures[2]},
                                              {"gray", &pictures[3]}};
        list[0].repeats = true;
        yl::AtlasOptions options = {.last_clean_level = last_clean_level};
        options.bake.format = format;
        atlas = must(yl::make_atlas(list, options));
        yl::BakeOptions bake = {.format = format, .levels = last_clean_level + 1};
        bake.mips.edges = {yl::Edge::repeat, yl::Edge::repeat};
        alone = must(yl::bake(pictures[0], bake)).texture;
        constexpr float last_side = 64 >> last_clean_level;
        floor.part =
            yl::PartCoordinates{.last_level_size = {last_side, last_side}, .repeats = true};
        part_floor.part = yl::part_coordinates(atlas.table, *atlas.table.find("tile"));
        panel = yl::panel_scene({.width = 200, .height = 160, .turn = 30});
        panel.part = yl::part_coordinates(atlas.table, *atlas.table.find("gray"));
    }

    static yl::Picture tile() {
        yl::Picture picture = flat(0, 64);
        for (std::uint32_t y = 0; y < 64; ++y)
            for (std::uint32_t x = 0; x < 64; ++x) {
                auto* pixel = &picture.image.view().row(y)[4 * x];
                pixel[1] = std::byte((x / 8 + y / 4) % 2 == 0 ? 230 : 60);
                pixel[2] = std::byte(2 * x + y);
            }
        return picture;
    }

    static yl::Picture flat(int red, std::uint32_t side) {
        yl::Picture picture;
        picture.image = must(yl::Image::create(yl::Format::rgba8_srgb, side, side));
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::uint32_t x = 0; x < side; ++x) {
                picture.image.view().row(y)[4 * x] = std::byte(red);
                picture.image.view().row(y)[4 * x + 3] = std::byte{255};
            }
        return picture;
    }
};

/// The greatest difference in codes.
inline int worst_code(const yl::Image& a, const yl::Image& b) {
    int worst = 0;
    for (std::uint32_t y = 0; y < a.height(); ++y)
        for (std::size_t i = 0; i < a.view().row(y).size(); ++i)
            worst = std::max(worst, std::abs(std::to_integer<int>(a.view().row(y)[i]) -
                                             std::to_integer<int>(b.view().row(y)[i])));
    return worst;
}

}  // namespace support
