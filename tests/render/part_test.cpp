// Parts of an atlas drawn by the CPU sampler, beside their pictures drawn alone.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "upload/atlas_floor.hpp"

using namespace yl;
using support::must;

namespace {

Image drawn(const Scene& scene, const Texture& texture, const Sampler& sampler) {
    const TextureSampler unit =
        must(TextureSampler::create(texture, sampler, LevelRange::of(texture.shape())));
    return must(draw_scene(scene, unit));
}

}  // namespace

TEST_CASE("a tile on a floor looks as it does alone, at every promised level") {
    for (const Format format : {Format::rgba8_srgb, Format::rgba16_unorm, Format::rgba16_float}) {
        const support::AtlasFloor tiles(format);
        CAPTURE(info(format).name);
        for (std::uint32_t level = 0; level <= tiles.last_clean_level; ++level) {
            Sampler sampler = tiles.sampler;
            sampler.min_level = sampler.max_level = static_cast<float>(level);
            CAPTURE(level);
            CHECK(support::worst_code(
                      drawn(tiles.floor, tiles.alone, sampler),
                      drawn(tiles.part_floor, tiles.atlas.baked.texture, sampler)) <= 3);
        }
        for (const Sampler& sampler : {tiles.sampler, tiles.anisotropic})
            CHECK(support::worst_code(
                      drawn(tiles.floor, tiles.alone, sampler),
                      drawn(tiles.part_floor, tiles.atlas.baked.texture, sampler)) <= 3);
        // As long as they are, footprints of anisotropic filters reach the neighbours.
        Scene long_steps = tiles.part_floor;
        long_steps.part->last_level_size = {0, 0};
        CHECK(support::worst_code(drawn(tiles.floor, tiles.alone, tiles.anisotropic),
                                  drawn(long_steps, tiles.atlas.baked.texture, tiles.anisotropic)) >
              20);
        // Levels beyond the clean ones do bleed, or the numbers above would mean nothing.
        Scene wrong = tiles.part_floor;
        wrong.part->repeats = false;
        CHECK(support::worst_code(drawn(tiles.floor, tiles.alone, tiles.sampler),
                                  drawn(wrong, tiles.atlas.baked.texture, tiles.sampler)) > 60);
    }
}

TEST_CASE("beyond its box a trimmed part is transparent") {
    const support::AtlasFloor tiles(Format::rgba8_srgb);
    Scene panel = panel_scene({.width = 96, .height = 96});
    panel.part = part_coordinates(tiles.atlas.table, *tiles.atlas.table.find("gray"));
    const Image image = drawn(panel, tiles.atlas.baked.texture, tiles.sampler);
    Scene empty = panel;
    empty.part->box = {2, 2, 2, 2};
    const Image backdrop = drawn(empty, tiles.atlas.baked.texture, tiles.sampler);
    const auto red = [](const Image& of, std::uint32_t x, std::uint32_t y) {
        return std::to_integer<int>(of.view().row(y)[4 * x]);
    };
    // The picture spans 86 of 96 pixels; 5 of its 24 columns on the left and 9 rows are empty.
    CHECK(red(image, 60, 70) == 128);
    CHECK(red(image, 12, 70) == red(backdrop, 12, 70));
    CHECK(red(image, 60, 20) == red(backdrop, 60, 20));
    CHECK(red(image, 88, 70) == red(backdrop, 88, 70));
}

TEST_CASE("a lit floor reads parts of its normal map and of its roughness map") {
    const support::AtlasFloor tiles(Format::rgba8_unorm);
    Scene whole = tiles.floor, part = tiles.part_floor;
    const auto unit = [&](const Texture& texture) {
        return must(
            TextureSampler::create(texture, tiles.sampler, LevelRange::of(texture.shape())));
    };
    const TextureSampler alone = unit(tiles.alone), atlas = unit(tiles.atlas.baked.texture);
    const Lamp lamp = {.roughness_map = &alone}, lamp_on_atlas = {.roughness_map = &atlas};
    CHECK(support::worst_code(must(draw_lit_scene(whole, alone, lamp)),
                              must(draw_lit_scene(part, atlas, lamp_on_atlas))) <= 3);
}
