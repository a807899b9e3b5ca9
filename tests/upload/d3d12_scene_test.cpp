// Pictures by a Direct3D 12 device, beside those of the CPU's sampler.
#include <fmt/format.h>

#include <yl/d3d12_scene.hpp>

#include "upload/atlas_floor.hpp"
#include "upload/d3d12_fixture.hpp"
#include "upload/scene_pattern.hpp"

using namespace yl;
using support::contains;
using support::D3d12Fixture;
using support::must;
using support::must_fail;

namespace {

double share_within_2(D3d12Fixture& direct3d, const Scene& scene, const Texture& texture,
                      const std::string& sampler_text) {
    const Sampler sampler = must(parse_sampler(sampler_text));
    const Image by_cpu = must(draw_scene(
        scene, must(TextureSampler::create(texture, sampler, LevelRange::of(texture.shape()),
                                           LevelCurve::piecewise_linear))));
    const auto uploaded = must(direct3d.device.upload(texture, {.sampler = sampler}));
    const Image by_gpu =
        must(d3d12::draw_scene(direct3d.device, scene, uploaded, texture.metadata.alpha));
    return support::share_within_2(by_cpu, by_gpu);
}

}  // namespace

TEST_CASE("Direct3D 12: every filter and wrap on a floor, within 2 codes at 99.5 % of pixels") {
    D3d12Fixture direct3d;
    const Texture texture = support::scene_pattern(Format::rgba8_srgb, 256, 128);
    const Scene scene = floor_scene({.width = 320, .height = 200});
    for (const char* filter : support::all_filters)
        for (const char* wrap : {"repeat", "mirror", "clamp-to-edge"}) {
            const std::string sampler = fmt::format("{} wrap={}", filter, wrap);
            CAPTURE(sampler);
            CHECK(share_within_2(direct3d, scene, texture, sampler) >= 0.995);
        }
}

TEST_CASE("Direct3D 12: odd sizes, level ranges, biases, swizzles, formats and alpha") {
    D3d12Fixture direct3d;
    Scene panel = panel_scene({.width = 300,
                               .height = 220,
                               .tiles = {2.5F, 1.5F},
                               .turn = 55,
                               .tilt = 20,
                               .texture_aspect = 1.5F});
    const auto check = [&](const Texture& texture, const char* sampler) {
        CAPTURE(sampler);
        CAPTURE(info(texture.shape().format).name);
        CHECK(share_within_2(direct3d, panel, texture, sampler) >= 0.995);
    };
    for (const auto& size : {std::pair{255U, 257U}, {45U, 29U}, {1U, 7U}})
        for (const char* sampler : {"", "bias=1.3", "lod=1..2.5", "bias=-2 mip=nearest"})
            check(support::scene_pattern(Format::rgba8_srgb, size.first, size.second), sampler);
    for (const Swizzle& swizzle : {gray_swizzle, *parse_swizzle("b1r0")}) {
        Texture texture = support::scene_pattern(Format::rg8_unorm, 64, 64);
        texture.metadata.swizzle = swizzle;
        check(texture, "");
    }
    for (const Format format :
         {Format::bgra8_srgb, Format::rgba16_float, Format::rg11b10_float, Format::rgb10a2_unorm}) {
        Texture texture = support::scene_pattern(format, 128, 128);
        texture.metadata.alpha = AlphaMode::premultiplied;
        check(texture, "");
    }
    for (const Format format :
         {Format::bc1_srgb, Format::bc3_srgb, Format::bc6h_ufloat, Format::bc7_srgb})
        check(must(encode_texture(support::scene_pattern(Format::rgba16_float, 128, 64), format)),
              "");
    panel.cutout_threshold = 0.5F;
    check(support::scene_pattern(Format::rgba8_srgb, 128, 128), "");
}

TEST_CASE("Direct3D 12: a sky, by the size of a pixel and at a level of one's own") {
    D3d12Fixture direct3d;
    Texture cube = must(Texture::create(
        {.format = Format::rgba16_float, .width = 64, .height = 64, .levels = 7, .faces = 6}));
    for (std::uint32_t face = 0; face < 6; ++face) {
        const Texture one = support::scene_pattern(Format::rgba16_float, 64, 64);
        for (std::uint32_t level = 0; level < 7; ++level) {
            std::ranges::copy(one.level(level), cube.image(level, 0, face).data);
            // each face a colour of its own
            for (std::size_t at = face % 3 * 2; at < one.level(level).size(); at += 8)
                cube.image(level, 0, face).data[at + 1] = std::byte{0x30};
        }
    }
    CubeScene sky = sky_scene({.width = 240, .height = 160, .yaw = 40, .pitch = 25});
    for (const std::optional<float> level : {std::optional<float>(), std::optional(1.5F)}) {
        sky.sky_level = level;
        const auto uploaded = must(direct3d.device.upload(cube));
        const Image by_gpu = must(d3d12::draw_cube_scene(direct3d.device, sky, uploaded));
        const Image by_cpu = must(draw_cube_scene(
            sky, must(CubeSampler::create(cube, Sampler{}, LevelRange::of(cube.shape()),
                                          LevelCurve::piecewise_linear))));
        CHECK(support::share_within_2(by_cpu, by_gpu) >= 0.995);
    }
    // A mirror, a rough one, and a matt ball; at the rim a pixel sees half a sky.
    const auto uploaded = must(direct3d.device.upload(cube));
    const auto share_of = [&](const CubeScene& scene) {
        const Image by_gpu = must(d3d12::draw_cube_scene(direct3d.device, scene, uploaded));
        const Image by_cpu = must(draw_cube_scene(
            scene, must(CubeSampler::create(cube, Sampler{}, LevelRange::of(cube.shape()),
                                            LevelCurve::piecewise_linear))));
        return support::share_within_2(by_cpu, by_gpu);
    };
    CubeScene ball = ball_scene({.width = 240, .height = 160, .yaw = 30});
    CHECK(share_of(ball) >= 0.985);
    ball.ball_level = 3.0F;
    CHECK(share_of(ball) >= 0.99);
    SphericalHarmonics light;
    for (std::size_t i = 0; i < 9; ++i)
        for (std::size_t c = 0; c < 3; ++c)
            light.radiance[i][c] = 0.6 / static_cast<double>(1 + i) - 0.1 * static_cast<double>(c);
    ball.matt_ball = light;
    CHECK(share_of(ball) >= 0.995);
    const auto flat =
        must(direct3d.device.upload(support::scene_pattern(Format::rgba8_srgb, 16, 16)));
    CHECK(must_fail(d3d12::draw_cube_scene(direct3d.device, sky, flat)).kind == ErrorKind::usage);
}

TEST_CASE("Direct3D 12: a tile of an atlas on a floor, into which nothing bleeds") {
    D3d12Fixture direct3d;
    const support::AtlasFloor tiles(Format::rgba8_srgb);
    const auto draw = [&](const Texture& texture, const Scene& scene) {
        const auto uploaded = must(direct3d.device.upload(texture, {.sampler = tiles.sampler}));
        return must(d3d12::draw_scene(direct3d.device, scene, uploaded, texture.metadata.alpha));
    };
    const Texture& atlas = tiles.atlas.baked.texture;
    CHECK(support::worst_code(draw(tiles.alone, tiles.floor), draw(atlas, tiles.part_floor)) <= 3);
    for (const Scene& scene : {tiles.part_floor, tiles.panel})
        CHECK(share_within_2(direct3d, scene, atlas, "wrap=repeat") >= 0.995);
}
