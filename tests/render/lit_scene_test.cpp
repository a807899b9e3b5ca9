#include <cmath>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;

namespace {

/// A texture of one colour, with a full chain.
Texture flat(Format format, std::initializer_list<int> texel) {
    Texture texture =
        must(Texture::create({.format = format, .width = 8, .height = 8, .levels = 4}));
    for (std::uint32_t level = 0; level < 4; ++level)
        for (std::size_t i = 0; i < texture.level(level).size(); ++i)
            texture.level(level)[i] = static_cast<std::byte>(*(texel.begin() + i % texel.size()));
    return texture;
}

TextureSampler sampler_of(const Texture& texture) {
    return must(TextureSampler::create(texture, {}, LevelRange::of(texture.shape())));
}

/// The row of the brightest pixel in the middle column.
std::uint32_t brightest_row(const Scene& scene, const TextureSampler& normals, const Lamp& lamp) {
    std::uint32_t best = 0;
    float most = 0;
    for (std::uint32_t y = 0; y < scene.height; ++y) {
        const float light = lit_color(scene, normals, lamp, scene.width / 2, y)[0];
        if (light > most) {
            most = light;
            best = y;
        }
    }
    return best;
}

/// The row in which a floor that mirrors shows the lamp: as far below the horizon as the lamp
/// stands above it.
double mirrored_row(const FloorOptions& options, double elevation) {
    constexpr double radians = 3.14159265358979 / 180;
    const double step =
        2 * std::tan(static_cast<double>(options.field_of_view) * radians / 2) / options.height;
    const double below_axis = elevation - static_cast<double>(options.pitch) * radians;
    return options.height / 2.0 + std::tan(below_axis) / step;
}

}  // namespace

TEST_CASE("a calm pond mirrors the lamp where geometry says, whatever holds its normals") {
    const FloorOptions options{.width = 65, .height = 240};
    const Scene scene = floor_scene(options);
    const Texture unsigned_normals = flat(Format::rgba8_unorm, {128, 128, 255, 255});
    const Texture signed_normals = flat(Format::rg8_snorm, {0, 0});
    for (const double degrees : {14.0, 20.0, 30.0}) {
        const double angle = degrees * 3.14159265358979 / 180;
        const Lamp lamp{.towards = {0, static_cast<float>(std::cos(angle)),
                                    static_cast<float>(std::sin(angle))},
                        .roughness = 0.1F};
        const double expected = mirrored_row(options, angle);
        CAPTURE(degrees);
        for (const Texture* normals : {&unsigned_normals, &signed_normals})
            CHECK(std::abs(brightest_row(scene, sampler_of(*normals), lamp) + 0.5 - expected) <= 3);
    }
}

TEST_CASE("a rougher pond has a dimmer and wider highlight, and a map tells the same") {
    const Scene scene = floor_scene({.width = 129, .height = 120});
    const Texture normals = flat(Format::rgba8_unorm, {128, 128, 255, 255});
    const Texture rough = flat(Format::r8_unorm, {128});
    const TextureSampler unit = sampler_of(normals), map = sampler_of(rough);
    Lamp lamp{.towards = {0, 0.9F, 0.3F}, .roughness = 0.15F, .surface = {0, 0, 0, 1}};
    const std::uint32_t row = brightest_row(scene, unit, lamp);
    const auto at = [&](const Lamp& lit, std::uint32_t x) {
        return lit_color(scene, unit, lit, x, row)[0];
    };
    Lamp rougher = lamp;
    rougher.roughness = 128.0F / 255;
    CHECK(at(rougher, 64) < 0.2F * at(lamp, 64));
    CHECK(at(rougher, 34) / at(rougher, 64) > 4 * at(lamp, 34) / at(lamp, 64));
    Lamp mapped = lamp;
    mapped.roughness_map = &map;
    CHECK(at(mapped, 50) == doctest::Approx(at(rougher, 50)));
    // Above the horizon there is no water, and no light of it.
    CHECK(lit_color(scene, unit, lamp, 64, 0)[0] == 0);
    const Image picture = must(draw_lit_scene(scene, unit, lamp));
    const Image backdrop = must(draw_scene(scene, unit));
    CHECK(std::equal(picture.view().row(0).begin(), picture.view().row(0).end(),
                     backdrop.view().row(0).begin()));
}

TEST_CASE("a panel's frame points its green axis up and its third at the viewer") {
    const Scene scene = panel_scene({.width = 64, .height = 64});
    const Texture normals = flat(Format::rgba8_unorm, {128, 128, 255, 255});
    const TextureSampler unit = sampler_of(normals);
    const auto light = [&](const std::array<float, 3>& towards, std::uint32_t x, std::uint32_t y) {
        return lit_color(scene, unit, {.towards = towards, .roughness = 0.3F}, x, y)[0];
    };
    CHECK(light({0, 0, 1}, 32, 32) > light({0, 0.9F, 0.4F}, 32, 32));
    // A lamp above is mirrored above the middle, one to the right at its right.
    CHECK(light({0, 0.4F, 1}, 32, 16) > light({0, 0.4F, 1}, 32, 48));
    CHECK(light({0.4F, 0, 1}, 48, 32) > light({0.4F, 0, 1}, 16, 32));
}
