// Cubes, arrays and arrays of cubes on the driver, and skies drawn by it against the CPU sampler's.
#include <fmt/format.h>

#include <yl/gl_scene.hpp>
#include <yl/yl.hpp>

#include "support/pictures.hpp"
#include "support/skies.hpp"
#include "upload/gl_fixture.hpp"

using namespace yl;
using support::GlFixture;
using support::must;
using support::must_fail;

namespace {

bool returns_identical(const GlFixture& gl, const Texture& texture,
                       const gl::StorageOptions& storage = {}) {
    const Texture back = must(must(gl.device.upload(texture, {}, storage)).read_back());
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        if (!std::ranges::equal(texture.level(level), back.level(level)))
            return false;
    return true;
}

Texture waves(std::uint32_t size, Format format) {
    const Texture cube = support::cube_of(support::wavy_sky, size, format);
    TextureShape shape = cube.shape();
    shape.levels = full_level_count(size, size);
    Texture chain = must(Texture::create(shape));
    std::copy(cube.level(0).begin(), cube.level(0).end(), chain.level(0).begin());
    must(build_cube_mips(chain));
    return chain;
}

double share_within_2(const GlFixture& gl, const CubeScene& scene, const Texture& cube,
                      const std::string& text) {
    const Sampler sampler = must(parse_sampler(text));
    const auto unit = must(CubeSampler::create(cube, sampler, LevelRange::of(cube.shape()),
                                               LevelCurve::piecewise_linear));
    const Image by_cpu = must(draw_cube_scene(scene, unit));
    const auto uploaded = must(gl.device.upload(cube, {.sampler = sampler}));
    const Image by_gl = must(gl::draw_cube_scene(gl.device, scene, uploaded));
    return must(compare_pictures(by_cpu.view(), by_gl.view(), 2)).share_within();
}

}  // namespace

TEST_CASE("cubes, arrays and arrays of cubes come back as they were, in many formats and sizes") {
    const GlFixture gl;
    for (const Format format : {Format::rgba8_srgb, Format::rgb8_unorm, Format::r16_float,
                                Format::rgb9e5_float, Format::rgba32_float, Format::rg8_unorm})
        for (const std::uint32_t size : {1U, 5U, 16U})
            for (const std::uint32_t faces : {1U, 6U})
                for (const std::uint32_t layers : {1U, 3U})
                    for (const bool immutable : {true, false}) {
                        const Texture texture =
                            support::random_texture({.format = format,
                                                     .width = size,
                                                     .height = size,
                                                     .levels = full_level_count(size, size),
                                                     .layers = layers,
                                                     .faces = faces,
                                                     .is_array = layers > 1},
                                                    size + faces);
                        CAPTURE(info(format).name);
                        CAPTURE(size);
                        CAPTURE(faces);
                        CAPTURE(layers);
                        CHECK(returns_identical(gl, texture, {.immutable = immutable}));
                    }
}

TEST_CASE(
    "skies: every filter within 2 code values at 99.5 % of pixels, edges and corners included") {
    const GlFixture gl;
    for (const Format format : {Format::rgba8_srgb, Format::rgba16_float}) {
        const Texture cube = waves(32, format);
        for (const char* filter :
             {"mag=nearest min=nearest mip=none", "mag=linear min=linear mip=none",
              "mag=linear min=linear mip=nearest", "mag=linear min=linear mip=linear",
              "mag=linear min=linear mip=linear bias=1.5 lod=0.5..3"})
            for (const auto& camera : {std::array{0.0F, 0.0F, 60.0F},
                                       {45.0F, 35.0F, 90.0F},
                                       {200.0F, -80.0F, 120.0F},
                                       {-45.0F, -35.26F, 8.0F}}) {
                const CubeScene scene = sky_scene({.width = 200,
                                                   .height = 140,
                                                   .yaw = camera[0],
                                                   .pitch = camera[1],
                                                   .field_of_view = camera[2]});
                CAPTURE(filter);
                CAPTURE(camera[0]);
                CHECK(share_within_2(gl, scene, cube, filter) >= 0.995);
            }
    }
}

TEST_CASE("skies seen from far off, by small levels") {
    const GlFixture gl;
    const Texture cube = waves(256, Format::rgba8_srgb);
    const CubeScene scene = sky_scene({.width = 96, .height = 64, .yaw = 30, .field_of_view = 110});
    for (const char* filter :
         {"mag=linear min=linear mip=linear", "mag=linear min=linear mip=nearest"}) {
        CAPTURE(filter);
        CHECK(share_within_2(gl, scene, cube, filter) >= 0.995);
    }
}

TEST_CASE("balls: mirrors, rough ones and matt ones") {
    const GlFixture gl;
    const Texture cube = waves(64, Format::rgba16_float);
    const std::string sampler = "mag=linear min=linear mip=linear";
    CubeScene ball = ball_scene({.width = 200, .height = 160, .yaw = 120, .pitch = 10});
    CHECK(share_within_2(gl, ball, cube, sampler) >= 0.985);  // at the rim a pixel sees half a sky
    ball.ball_level = 2.4F;
    CHECK(share_within_2(gl, ball, cube, sampler) >= 0.995);
    ball.matt_ball = must(project_to_harmonics(cube));
    CHECK(share_within_2(gl, ball, cube, sampler) >= 0.995);
}

TEST_CASE("a sky that is not a cube is refused") {
    const GlFixture gl;
    const Texture flat =
        support::random_texture({.format = Format::rgba8_unorm, .width = 4, .height = 4}, 1);
    CHECK(must_fail(gl::draw_cube_scene(gl.device, sky_scene({}), must(gl.device.upload(flat))))
              .kind == ErrorKind::usage);
    CHECK(must_fail(CubeSampler::create(flat, {}, {})).kind == ErrorKind::usage);
}
