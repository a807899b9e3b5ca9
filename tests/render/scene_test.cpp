#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;

namespace {

std::array<float, 2> coordinate(const Scene& scene, float x, float y) {
    const auto& m = scene.texture_from_pixel;
    const float q = m[6] * x + m[7] * y + m[8];
    return {(m[0] * x + m[1] * y + m[2]) / q, (m[3] * x + m[4] * y + m[5]) / q};
}

/// A texture of two by two texels: red, green / blue, white.
Texture four_colors() {
    Texture texture =
        must(Texture::create({.format = Format::rgba8_srgb, .width = 2, .height = 2}));
    const std::uint32_t texels[] = {0xFF0000FF, 0xFF00FF00, 0xFFFF0000, 0xFFFFFFFF};
    std::memcpy(texture.level(0).data(), texels, sizeof texels);
    return texture;
}

std::uint32_t pixel(const Image& image, std::uint32_t x, std::uint32_t y) {
    std::uint32_t value = 0;
    std::memcpy(&value, image.view().row(y).data() + 4 * x, 4);
    return value;
}

}  // namespace

TEST_CASE("a panel seen straight on shows the picture upright, unmirrored and in its shape") {
    const Scene scene = panel_scene({.width = 200, .height = 100, .texture_aspect = 1});
    CHECK(coordinate(scene, 100, 50)[0] == doctest::Approx(0.5));
    CHECK(coordinate(scene, 100, 50)[1] == doctest::Approx(0.5));
    CHECK(coordinate(scene, 100 - 43, 7)[0] ==
          doctest::Approx(0).epsilon(0.001));  // 86 of 100 rows
    CHECK(coordinate(scene, 100 + 43, 93)[1] == doctest::Approx(1));
    const Texture texture = four_colors();
    const Image image = must(draw_scene(
        scene, must(TextureSampler::create(texture, must(parse_sampler("mag=nearest")), {0, 1}))));
    CHECK(pixel(image, 80, 30) == 0xFF0000FF);
    CHECK(pixel(image, 120, 30) == 0xFF00FF00);
    CHECK(pixel(image, 80, 70) == 0xFFFF0000);
    CHECK(pixel(image, 120, 70) == 0xFFFFFFFF);
    CHECK(pixel(image, 10, 50) != 0xFF0000FF);
}

TEST_CASE("a turned panel has its right side farther away, a tilted one its top") {
    const Scene turned = panel_scene({.width = 300, .height = 300, .turn = 40});
    const auto step_at = [](const Scene& scene, float x, float y) {
        return coordinate(scene, x, y + 1)[1] - coordinate(scene, x, y)[1];  // texture a pixel
    };
    CHECK(step_at(turned, 250, 150) > step_at(turned, 50, 150) * 1.2F);
    const Scene tilted = panel_scene({.width = 300, .height = 300, .tilt = 40});
    CHECK(step_at(tilted, 150, 50) > step_at(tilted, 150, 250) * 1.2F);
}

TEST_CASE("repeats fill the panel") {
    const Scene scene =
        panel_scene({.width = 100, .height = 100, .tiles = {3, 2}, .texture_aspect = 2});
    CHECK(scene.u_end == 3);
    CHECK(scene.v_end == 2);
    CHECK(coordinate(scene, 50, 50)[0] == doctest::Approx(1.5));
    const float across = 1 / (coordinate(scene, 51, 50)[0] - coordinate(scene, 50, 50)[0]);
    const float down = 1 / (coordinate(scene, 50, 51)[1] - coordinate(scene, 50, 50)[1]);
    CHECK(across / down == doctest::Approx(2));  // a tile is twice as wide as high
}

TEST_CASE("a floor runs to the horizon, its picture's top away from the viewer") {
    const Scene scene = floor_scene({.width = 400, .height = 300});
    const Texture texture = four_colors();
    const Image image = must(draw_scene(
        scene, must(TextureSampler::create(texture, must(parse_sampler("mip=none")), {0, 1}))));
    const auto near = coordinate(scene, 200, 299);
    const auto far = coordinate(scene, 200, 200);
    CHECK(far[1] < near[1]);
    CHECK(coordinate(scene, 300, 250)[0] > coordinate(scene, 100, 250)[0]);
    CHECK(near[0] == doctest::Approx(0.5));
    CHECK(pixel(image, 200, 10) ==
          pixel(image, 50, 10));  // above the horizon there is only the sky
}

TEST_CASE("alpha blends in linear light, or cuts out") {
    Texture texture = must(Texture::create({.format = Format::rgba8_srgb}));
    const std::uint8_t half_white[] = {255, 255, 255, 128};
    std::memcpy(texture.level(0).data(), half_white, 4);
    Scene scene = panel_scene({.width = 20, .height = 20});
    scene.backdrop_top = scene.backdrop_bottom = {0, 0, 0, 1};
    const auto sampler =
        must(TextureSampler::create(texture, must(parse_sampler("mip=none")), {0, 1}));
    CHECK((pixel(must(draw_scene(scene, sampler)), 10, 10) & 0xFF) ==
          188);  // the code of half the light
    scene.cutout_threshold = 0.5F;
    CHECK((pixel(must(draw_scene(scene, sampler)), 10, 10) & 0xFF) == 255);
    scene.cutout_threshold = 0.6F;
    CHECK((pixel(must(draw_scene(scene, sampler)), 10, 10) & 0xFF) == 0);
    scene.cutout_threshold.reset();
    texture.metadata.alpha = AlphaMode::premultiplied;
    CHECK((pixel(must(draw_scene(scene, must(TextureSampler::create(texture, Sampler{}, {0, 1})))),
                 10, 10) &
           0xFF) == 255);
}

TEST_CASE("an incomplete texture makes the surface black") {
    Texture texture = four_colors();
    const Scene scene = panel_scene({.width = 20, .height = 20});
    const Image image =
        must(draw_scene(scene, must(TextureSampler::create(texture, Sampler{}, {0, 1000}))));
    CHECK(pixel(image, 10, 10) == 0xFF000000);
}

TEST_CASE("roughness is a share of the levels where a chain does not say more") {
    const Texture cube = must(Texture::create(
        {.format = Format::rgba16_float, .width = 16, .height = 16, .levels = 5, .faces = 6}));
    for (const float roughness : {0.0F, 0.25F, 0.7F, 1.0F})
        CHECK(level_of_roughness(cube, roughness) == doctest::Approx(4 * roughness));
}

TEST_CASE("roughness finds its place between those of the levels") {
    Texture cube = must(Texture::create(
        {.format = Format::rgba16_float, .width = 8, .height = 8, .levels = 4, .faces = 6}));
    for (const char* known : {"0 0.2 0.5 1", "0.1 0.3 0.3 0.9", "0.2 0.2 0.6 1"}) {
        cube.metadata.key_values[specular_note] = known;
        const std::vector<float> levels = roughness_of_levels(cube);
        REQUIRE(levels.size() == 4);
        for (float roughness = 0; roughness <= 1; roughness += 0.0625F) {
            CAPTURE(known);
            CAPTURE(roughness);
            const float level = level_of_roughness(cube, roughness);
            REQUIRE(level >= 0);
            REQUIRE(level <= 3);
            const auto below = static_cast<std::size_t>(std::min(level, 2.0F));
            const float share = level - static_cast<float>(below);
            const float found = levels[below] * (1 - share) + levels[below + 1] * share;
            CHECK(found == doctest::Approx(std::clamp(roughness, levels[0], levels[3])));
        }
    }
    // Numbers of another chain say nothing.
    cube.metadata.key_values[specular_note] = "0 1";
    CHECK(level_of_roughness(cube, 0.5F) == doctest::Approx(1.5));
}
