// The driver's pictures against the CPU sampler's.
#include <fmt/format.h>

#include <yl/gl_scene.hpp>
#include <yl/yl.hpp>

#include "upload/atlas_floor.hpp"
#include "upload/gl_fixture.hpp"
#include "upload/scene_pattern.hpp"

using namespace yl;
using support::GlFixture;
using support::must;

namespace {

/// The pattern is so harsh that the rasteriser's own curve for the level of detail is needed; the
/// demo pictures, compared elsewhere, agree with the exact one.
double share_within_2(const GlFixture& gl, const Scene& scene, const Texture& texture,
                      const std::string& sampler_text, std::optional<LevelRange> declared = {}) {
    const Sampler sampler = must(parse_sampler(sampler_text));
    const LevelRange range = declared.value_or(LevelRange::of(texture.shape()));
    const Image by_cpu = must(draw_scene(
        scene,
        must(TextureSampler::create(texture, sampler, range, LevelCurve::piecewise_linear))));
    const auto uploaded =
        must(gl.device.upload(texture, {.sampler = sampler}, {.declared_levels = declared}));
    const Image by_gl = must(gl::draw_scene(gl.device, scene, uploaded, texture.metadata.alpha));
    return support::share_within_2(by_cpu, by_gl);
}

}  // namespace

TEST_CASE("every filter and wrap on a floor: within 2 code values at 99.9 % of pixels") {
    const GlFixture gl;
    const Texture texture = support::scene_pattern(Format::rgba8_srgb, 256, 128);
    const Scene scene = floor_scene({.width = 320, .height = 200});
    for (const char* filter : support::all_filters)
        for (const char* wrap : support::all_wraps) {
            const std::string sampler = fmt::format("{} wrap={}", filter, wrap);
            CAPTURE(sampler);
            CHECK(share_within_2(gl, scene, texture, sampler) >= 0.999);
        }
}

TEST_CASE("odd sizes, turned panels, level ranges, biases and swizzles") {
    const GlFixture gl;
    const Scene panel = panel_scene({.width = 300,
                                     .height = 220,
                                     .tiles = {2.5F, 1.5F},
                                     .turn = 55,
                                     .tilt = 20,
                                     .texture_aspect = 1.5F});
    for (const auto& size : {std::pair{255U, 257U}, {300U, 200U}, {45U, 29U}, {1U, 7U}}) {
        const auto width = size.first;
        const auto height = size.second;

        const Texture texture = support::scene_pattern(Format::rgba8_srgb, width, height);
        for (const char* sampler : {"", "mag=nearest min=nearest mip=nearest", "bias=1.3",
                                    "lod=1..2.5", "bias=-2 mip=nearest", "lod=0..0"}) {
            CAPTURE(width);
            CAPTURE(sampler);
            CHECK(share_within_2(gl, panel, texture, sampler) >= 0.999);
        }
    }
    for (const Swizzle& swizzle : {gray_swizzle, gray_alpha_swizzle, *parse_swizzle("b1r0")}) {
        Texture texture = support::scene_pattern(Format::rg8_unorm, 64, 64);
        texture.metadata.swizzle = swizzle;
        CHECK(share_within_2(gl, panel, texture, "") >= 0.999);
    }
}

TEST_CASE("formats look alike, with straight and premultiplied alpha, and cut out") {
    const GlFixture gl;
    Scene panel = panel_scene({.width = 300, .height = 220, .tiles = {2, 2}, .turn = -30});
    for (const Format format :
         {Format::rgba8_unorm, Format::bgra8_srgb, Format::r8_srgb, Format::rgba16_float,
          Format::rg11b10_float, Format::rgb9e5_float, Format::rgb10a2_unorm}) {
        Texture texture = support::scene_pattern(format, 128, 128);
        CAPTURE(info(format).name);
        CHECK(share_within_2(gl, panel, texture, "") >= 0.999);
        texture.metadata.alpha = AlphaMode::premultiplied;
        CHECK(share_within_2(gl, panel, texture, "") >= 0.999);
    }
    panel.cutout_threshold = 0.5F;
    CHECK(share_within_2(gl, panel, support::scene_pattern(Format::rgba8_srgb, 128, 128), "") >=
          0.999);
}

namespace {

void check_blocks(const gl::Device& device) {
    const Scene panel = panel_scene({.width = 260, .height = 200, .tiles = {2, 2}, .turn = 20});
    for (const FormatInfo& f : all_formats()) {
        if (!f.is_block() || f.kind == NumericKind::snorm)
            continue;
        CAPTURE(f.name);
        const Texture plain = support::scene_pattern(
            f.transfer == Transfer::srgb ? Format::rgba8_srgb : Format::rgba16_float, 91, 58);
        const Texture blocks = must(encode_texture(
            plain, f.format, {.role = f.is_float() ? Role::hdr : Role::color, .effort = 0}));
        const Image by_cpu = must(draw_scene(
            panel, must(TextureSampler::create(blocks, Sampler{}, LevelRange::of(blocks.shape()),
                                               LevelCurve::piecewise_linear))));
        const auto uploaded = must(device.upload(blocks));
        const Image by_gl = must(gl::draw_scene(device, panel, uploaded, blocks.metadata.alpha));
        CHECK(support::share_within_2(by_cpu, by_gl) >= 0.995);
    }
}

}  // namespace

TEST_CASE("blocks of every format on a panel, at odd sizes") {
    SUBCASE("OpenGL") {
        const GlFixture gl;
        check_blocks(gl.device);
    }
    SUBCASE("OpenGL ES") {
        const auto context =
            must(gl::HeadlessContext::create({.major = 3, .minor = 2, .embedded = true}));
        check_blocks(must(gl::Device::open(context.loader())));
    }
}

TEST_CASE(
    "declared levels that are missing make the driver's surface black, and the CPU sampler's") {
    const GlFixture gl;
    Texture one = must(Texture::create({.format = Format::rgba8_srgb, .width = 16, .height = 16}));
    std::ranges::fill(one.level(0), std::byte{255});
    const Scene panel = panel_scene({.width = 64, .height = 64});
    const auto uploaded = must(gl.device.upload(one, {}, {.declared_levels = LevelRange{}}));
    REQUIRE_FALSE(uploaded.findings().empty());
    const Image image = must(gl::draw_scene(gl.device, panel, uploaded));
    CHECK(std::to_integer<int>(image.view().row(32)[32 * 4]) == 0);
    CHECK(share_within_2(gl, panel, one, "", LevelRange{}) == 1.0);
    CHECK(share_within_2(gl, panel, one, "mip=none", LevelRange{}) == 1.0);
    CHECK(share_within_2(gl, panel, one, "") == 1.0);
}

TEST_CASE("anisotropy keeps far detail: the driver and the CPU sampler agree on how much") {
    const GlFixture gl;
    const Texture texture = support::scene_pattern(Format::rgba8_srgb, 256, 256);
    const Scene scene = floor_scene({.width = 320, .height = 200, .repeats = 1});
    const auto by_cpu = [&](const char* text) {
        return support::far_detail(
            must(draw_scene(scene, must(TextureSampler::create(texture, must(parse_sampler(text)),
                                                               LevelRange::of(texture.shape()))))));
    };
    const auto by_gl = [&](const char* text) {
        const auto uploaded =
            must(gl.device.upload(texture, {.sampler = must(parse_sampler(text))}));
        return support::far_detail(must(gl::draw_scene(gl.device, scene, uploaded)));
    };
    CHECK(by_gl("aniso=8") > 1.5 * by_gl(""));
    CHECK(by_cpu("aniso=8") > 1.5 * by_cpu(""));
    CHECK(by_cpu("aniso=8") == doctest::Approx(by_gl("aniso=8")).epsilon(0.3));
}

TEST_CASE("OpenGL ES: filters, wraps, formats and a sky") {
    const auto context =
        must(gl::HeadlessContext::create({.major = 3, .minor = 2, .embedded = true}));
    const auto device = must(gl::Device::open(context.loader()));
    const Texture texture = support::scene_pattern(Format::rgba8_srgb, 256, 128);
    const Scene scene = floor_scene({.width = 320, .height = 200});
    for (const char* filter : support::all_filters)
        for (const char* wrap : support::all_wraps) {
            const std::string text = fmt::format("{} wrap={}", filter, wrap);
            CAPTURE(text);
            Findings changes;
            const Sampler sampler =
                fit_sampler(must(parse_sampler(text)), device.profile(), changes);
            const Image by_cpu =
                must(draw_scene(scene, must(TextureSampler::create(texture, sampler,
                                                                   LevelRange::of(texture.shape()),
                                                                   LevelCurve::piecewise_linear))));
            const auto uploaded = must(device.upload(texture, {.sampler = sampler}));
            CHECK(support::share_within_2(by_cpu, must(gl::draw_scene(device, scene, uploaded))) >=
                  0.995);
        }
}

TEST_CASE("a tile of an atlas on a floor: nothing bleeds in, at any distance") {
    const GlFixture gl;
    const support::AtlasFloor tiles(Format::rgba8_srgb);
    const auto draw = [&](const Texture& texture, const Scene& scene, const Sampler& sampler) {
        const auto uploaded = must(gl.device.upload(texture, {.sampler = sampler}));
        return must(gl::draw_scene(gl.device, scene, uploaded, texture.metadata.alpha));
    };
    const Texture& atlas = tiles.atlas.baked.texture;
    CHECK(support::worst_code(draw(tiles.alone, tiles.floor, tiles.sampler),
                              draw(atlas, tiles.part_floor, tiles.sampler)) <= 3);
    CHECK(share_within_2(gl, tiles.part_floor, atlas, "wrap=repeat") >= 0.999);
    CHECK(share_within_2(gl, tiles.panel, atlas, "wrap=repeat") >= 0.999);
}
