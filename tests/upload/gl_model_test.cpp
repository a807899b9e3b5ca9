// Meshes by an OpenGL driver against those of the CPU; and one texture with many samplers.
#include <yl/gl_scene.hpp>

#include "support/meshes.hpp"
#include "support/pictures.hpp"
#include "upload/gl/functions.hpp"
#include "upload/gl_fixture.hpp"
#include "upload/scene_pattern.hpp"

using namespace yl;
using support::ball;
using support::GlFixture;
using support::must;
using support::square;
using support::use_of;

namespace {

Texture smooth_normals() {
    Image image = must(Image::create(Format::rgba8_unorm, 64, 64));
    for (std::uint32_t y = 0; y < 64; ++y)
        for (std::uint32_t x = 0; x < 64; ++x) {
            auto* texel = &image.view().row(y)[std::size_t{4} * x];
            const float a = 0.35F * std::sin(static_cast<float>(x) * 0.2F);
            const float b = 0.35F * std::cos(static_cast<float>(y) * 0.3F);
            texel[0] = static_cast<std::byte>(std::lround(127.5F + 127.5F * a));
            texel[1] = static_cast<std::byte>(std::lround(127.5F + 127.5F * b));
            texel[2] =
                static_cast<std::byte>(std::lround(127.5F + 127.5F * std::sqrt(1 - a * a - b * b)));
            texel[3] = std::byte{255};
        }
    Picture picture;
    picture.image = std::move(image);
    picture.transfer = Transfer::linear;
    return must(bake(picture, {.role = Role::normal})).texture;
}

/// Everything that the shader knows: five textures, both sets, transforms, cut-outs, panes, vertex
/// colours, a placeholder, two sides, a surface without light.
ModelScene rich_scene() {
    ModelScene scene;
    scene.textures.push_back(support::scene_pattern(Format::rgba8_srgb, 128, 64));
    scene.textures.push_back(smooth_normals());
    scene.textures.push_back(support::scene_pattern(Format::rgba8_unorm, 64, 64));
    scene.textures.push_back(must(Texture::create({.format = Format::rgba8_srgb})));
    std::ranges::copy(support::bytes_of({226, 120, 38, 255}), scene.textures[3].level(0).begin());
    Material full;
    full.name = "full";
    full.base_color_texture = use_of(0, must(parse_sampler("mip=linear wrap=mirror")));
    full.base_color_texture->matrix = {0.9F, 0.2F, 0.1F, -0.2F, 0.9F, 0.3F};
    full.metallic = 0.7F;
    full.metallic_roughness_texture = use_of(2, must(parse_sampler("mip=nearest")));
    full.metallic_roughness_texture->coordinate_set = 1;
    full.normal_texture = use_of(1);
    full.normal_scale = 0.8F;
    full.occlusion_texture = use_of(2);
    full.occlusion_strength = 0.6F;
    full.emissive = {0.05F, 0.1F, 0.2F};
    full.emissive_texture = use_of(0);
    Material cut;
    cut.base_color_texture = use_of(0, must(parse_sampler("wrap=clamp-to-edge")));
    cut.alpha = AlphaUse::mask;
    cut.cutoff = 0.4F;
    cut.is_two_sided = true;
    Material pane;
    pane.base_color = {0.3F, 0.8F, 0.5F, 0.5F};
    pane.metallic = 0;
    pane.roughness = 0.3F;
    pane.alpha = AlphaUse::blend;
    Material missing;
    missing.base_color_texture = use_of(3);
    missing.base_color_texture->is_placeholder = true;
    missing.base_color = {0, 0, 0, 1};  // does not darken a placeholder
    Material sign = cut;
    sign.is_unlit = true;
    sign.alpha = AlphaUse::opaque;
    sign.base_color = {0.5F, 1, 1, 1};
    scene.surfaces = {full, cut, pane, missing, sign};
    scene.parts = {square(2, 1.6F, 0.9F), ball(0, -1.2F), ball(3, 1.2F), square(1, -1.3F, 2.2F),
                   square(4, 1.3F, 0.3F)};
    scene.parts[3].has_coordinates = false;
    return scene;
}

}  // namespace

TEST_CASE("everything that can be shown: within 2 code values at 99 % of pixels, from all sides") {
    const GlFixture gl;
    const ModelScene scene = rich_scene();
    for (const ModelShow show :
         {ModelShow::lit, ModelShow::uv, ModelShow::normal, ModelShow::slot, ModelShow::level})
        for (const float yaw : {20.0F, 160.0F}) {
            CAPTURE(name(show));
            CAPTURE(yaw);
            ModelView view{.width = 240, .height = 180, .yaw = yaw, .show = show};
            const Image by_cpu = must(draw_model(scene, view, LevelCurve::piecewise_linear));
            const Image by_gl = must(gl::draw_model(gl.device, scene, view));
            CHECK(support::share_within_2(by_cpu, by_gl) >= 0.99);
            CHECK(support::mean_difference(by_cpu.view(), by_gl.view()) < 0.2);
        }
}

TEST_CASE("every filter and wrap on a turned square") {
    const GlFixture gl;
    ModelScene scene;
    scene.textures.push_back(support::scene_pattern(Format::rgba8_srgb, 256, 128));
    Primitive part = square(0);
    for (Vertex& vertex : part.vertices)
        for (float& coordinate : vertex.coordinates[0])
            coordinate = coordinate * 3 - 1;
    scene.parts = {part};
    Material surface;
    surface.base_color = {0, 0, 0, 1};
    surface.emissive = {1, 1, 1};
    scene.surfaces = {surface};
    ModelView view{.width = 160, .height = 120, .yaw = 55, .pitch = 25};
    for (const char* filter : support::all_filters)
        for (const char* wrap : support::all_wraps) {
            const std::string sampler = std::string(filter) + " wrap=" + wrap;
            CAPTURE(sampler);
            scene.surfaces[0].emissive_texture = use_of(0, must(parse_sampler(sampler)));
            const Image by_cpu = must(draw_model(scene, view, LevelCurve::piecewise_linear));
            const Image by_gl = must(gl::draw_model(gl.device, scene, view));
            CHECK(support::share_within_2(by_cpu, by_gl) >= 0.99);
        }
}

TEST_CASE("OpenGL ES draws the same, and the context is left clean") {
    const auto context =
        must(gl::HeadlessContext::create({.major = 3, .minor = 2, .embedded = true}));
    const auto device = must(gl::Device::open(context.loader()));
    const ModelScene scene = rich_scene();
    const ModelView view{.width = 200, .height = 150, .pitch = 35, .zoom = 1.3F};
    const Image by_cpu = must(draw_model(scene, view, LevelCurve::piecewise_linear));
    const Image by_es = must(gl::draw_model(device, scene, view));
    CHECK(support::share_within_2(by_cpu, by_es) >= 0.985);
    const gl::Functions& functions = device.functions();
    CHECK(functions.IsEnabled(GL_DEPTH_TEST) == GL_FALSE);
    CHECK(functions.IsEnabled(GL_BLEND) == GL_FALSE);
    CHECK(functions.integer(GL_FRAMEBUFFER_BINDING) == 0);
    CHECK(functions.integer(GL_CURRENT_PROGRAM) == 0);
    CHECK(support::equal_pixels(by_es.view(),
                                support::view_of(must(gl::draw_model(device, scene, view)))));
}

TEST_CASE("one texture is bound with many samplers, which are shared and go with it") {
    const GlFixture fixture;
    const gl::Functions& gl = fixture.device.functions();
    const Sampler edge = must(parse_sampler("wrap=clamp-to-edge"));
    const Sampler mirror = must(parse_sampler("wrap=mirror aniso=4096"));
    {
        const auto texture = must(fixture.device.upload(
            support::random_texture({.format = Format::rgba8_srgb, .width = 8, .height = 8}, 1)));
        const std::size_t before = fixture.device.sampler_count();
        texture.bind(0);
        texture.bind(1, edge);
        texture.bind(2, mirror);
        texture.bind(3, edge);
        CHECK(fixture.device.sampler_count() == before + 2);
        std::array<GLint, 4> samplers{};
        for (GLuint unit = 0; unit < 4; ++unit) {
            gl.ActiveTexture(GL_TEXTURE0 + unit);
            CHECK(gl.integer(GL_TEXTURE_BINDING_2D) == static_cast<GLint>(texture.texture_name()));
            samplers[unit] = gl.integer(GL_SAMPLER_BINDING);
        }
        CHECK(samplers[0] == static_cast<GLint>(texture.sampler_name()));
        CHECK(samplers[1] == samplers[3]);
        CHECK(samplers[1] != samplers[0]);
        CHECK(samplers[2] != samplers[1]);
    }
    CHECK(fixture.device.sampler_count() == 0);
    must(gl.check("bind samplers"));
}
