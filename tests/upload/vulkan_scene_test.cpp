// Pictures by both Vulkan drivers against the CPU sampler's.
#include <fmt/format.h>

#include <yl/vulkan_scene.hpp>

#include "upload/atlas_floor.hpp"
#include "upload/scene_pattern.hpp"
#include "upload/vulkan_fixture.hpp"

using namespace yl;
using support::must;
using support::VulkanFixture;

namespace {

/// The curve of the level of detail that a driver has.
LevelCurve curve_of(const char* driver) {
    return std::string(driver) == "llvmpipe" ? LevelCurve::piecewise_linear : LevelCurve::exact;
}

double share_within_2(VulkanFixture& vulkan, LevelCurve curve, const Scene& scene,
                      const Texture& texture, const std::string& sampler_text) {
    const Sampler sampler = must(parse_sampler(sampler_text));
    const Image by_cpu = must(draw_scene(
        scene,
        must(TextureSampler::create(texture, sampler, LevelRange::of(texture.shape()), curve))));
    const auto uploaded = must(vulkan.device.upload(texture, {.sampler = sampler}));
    const Image by_vulkan =
        must(vulkan::draw_scene(vulkan.device, scene, uploaded, texture.metadata.alpha));
    return support::share_within_2(by_cpu, by_vulkan);
}

Texture waves(std::uint32_t side, Format format) {
    Texture cube = must(Texture::create({.format = format,
                                         .width = side,
                                         .height = side,
                                         .levels = full_level_count(side, side),
                                         .faces = 6}));
    for (std::uint32_t face = 0; face < 6; ++face) {
        Image image = must(Image::create(Format::rgba32_float, side, side));
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::uint32_t x = 0; x < side; ++x) {
                auto* pixel = reinterpret_cast<float*>(image.view().row(y).data()) + 4 * x;
                const float phase = static_cast<float>(face) +
                                    9 * static_cast<float>(x + 2 * y) / static_cast<float>(side);
                pixel[0] = 0.5F + 0.4F * std::sin(phase);
                pixel[1] = 0.5F + 0.4F * std::cos(1.7F * phase);
                pixel[2] = 0.1F * static_cast<float>(face);
                pixel[3] = 1;
            }
        must(convert(image.view(), cube.image(0, 0, face), {.source_transfer = Transfer::linear}));
    }
    must(build_cube_mips(cube));
    return cube;
}

}  // namespace

TEST_CASE("every filter and wrap on a floor, within 2 codes at 99.5 % of pixels") {
    const Texture texture = support::scene_pattern(Format::rgba8_srgb, 256, 128);
    const Scene scene = floor_scene({.width = 320, .height = 200});
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        for (const char* filter : support::all_filters)
            for (const char* wrap : support::all_wraps) {
                const std::string sampler = fmt::format("{} wrap={}", filter, wrap);
                CAPTURE(driver);
                CAPTURE(sampler);
                CHECK(share_within_2(vulkan, curve_of(driver), scene, texture, sampler) >= 0.995);
            }
    }
}

TEST_CASE("odd sizes, level ranges, biases, swizzles, formats and alpha on Vulkan") {
    Scene panel = panel_scene({.width = 300,
                               .height = 220,
                               .tiles = {2.5F, 1.5F},
                               .turn = 55,
                               .tilt = 20,
                               .texture_aspect = 1.5F});
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        CAPTURE(driver);
        const auto check = [&](const Texture& texture, const char* sampler) {
            CAPTURE(sampler);
            CHECK(share_within_2(vulkan, curve_of(driver), panel, texture, sampler) >= 0.995);
        };
        for (const auto& size : {std::pair{255U, 257U}, {45U, 29U}, {1U, 7U}}) {
            const Texture texture =
                support::scene_pattern(Format::rgba8_srgb, size.first, size.second);
            for (const char* sampler : {"", "bias=1.3", "lod=1..2.5", "bias=-2 mip=nearest"})
                check(texture, sampler);
        }
        for (const Swizzle& swizzle : {gray_swizzle, *parse_swizzle("b1r0")}) {
            Texture texture = support::scene_pattern(Format::rg8_unorm, 64, 64);
            texture.metadata.swizzle = swizzle;
            check(texture, "");
        }
        for (const Format format : {Format::bgra8_srgb, Format::rgba16_float, Format::rg11b10_float,
                                    Format::rgb10a2_unorm}) {
            Texture texture = support::scene_pattern(format, 128, 128);
            texture.metadata.alpha = AlphaMode::premultiplied;
            check(texture, "");
        }
    }
}

TEST_CASE("skies on Vulkan, edges and corners included") {
    const Texture cube = waves(32, Format::rgba8_srgb);
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        for (const char* filter :
             {"mag=nearest min=nearest mip=none", "mag=linear min=linear mip=none",
              "mag=linear min=linear mip=linear"})
            for (const auto& camera :
                 {std::array{0.0F, 0.0F, 60.0F}, {45.0F, 35.0F, 90.0F}, {-45.0F, -35.26F, 8.0F}}) {
                const CubeScene scene = sky_scene({.width = 200,
                                                   .height = 140,
                                                   .yaw = camera[0],
                                                   .pitch = camera[1],
                                                   .field_of_view = camera[2]});
                CAPTURE(driver);
                CAPTURE(filter);
                CAPTURE(camera[0]);
                const Sampler sampler = must(parse_sampler(filter));
                const Image by_cpu = must(draw_cube_scene(
                    scene, must(CubeSampler::create(cube, sampler, LevelRange::of(cube.shape()),
                                                    curve_of(driver)))));
                const auto uploaded = must(vulkan.device.upload(cube, {.sampler = sampler}));
                const Image by_vulkan =
                    must(vulkan::draw_cube_scene(vulkan.device, scene, uploaded));
                CHECK(support::share_within_2(by_cpu, by_vulkan) >= 0.995);
            }
    }
}

TEST_CASE("anisotropy keeps far detail on Vulkan about as much as on the CPU") {
    const Texture texture = support::scene_pattern(Format::rgba8_srgb, 256, 256);
    const Scene scene = floor_scene({.width = 320, .height = 200, .repeats = 1});
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        CAPTURE(driver);
        const auto detail = [&](const char* text) {
            const auto uploaded =
                must(vulkan.device.upload(texture, {.sampler = must(parse_sampler(text))}));
            return support::far_detail(must(vulkan::draw_scene(vulkan.device, scene, uploaded)));
        };
        const double by_cpu = support::far_detail(must(
            draw_scene(scene, must(TextureSampler::create(texture, must(parse_sampler("aniso=8")),
                                                          LevelRange::of(texture.shape()))))));
        CHECK(detail("aniso=8") > 1.5 * detail(""));
        CHECK(detail("aniso=8") == doctest::Approx(by_cpu).epsilon(0.3));
    }
}

TEST_CASE("blocks of every format are decoded by each Vulkan driver as they are here") {
    // A panel without filtering shows each texel on four pixels.
    const Scene panel = panel_scene({.width = 320, .height = 320});
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        for (const FormatInfo& f : all_formats()) {
            if (!f.is_block() || f.kind == NumericKind::snorm || f.is_float())
                continue;
            CAPTURE(driver);
            CAPTURE(f.name);
            const Texture blocks =
                support::random_texture({.format = f.format, .width = 64, .height = 64}, 11);
            CHECK(share_within_2(vulkan, curve_of(driver), panel, blocks,
                                 "mag=nearest min=nearest mip=none") >= 0.995);
        }
    }
}

TEST_CASE("blocks of every format on a panel by each Vulkan driver, at odd sizes") {
    const Scene panel = panel_scene({.width = 260, .height = 200, .tiles = {2, 2}, .turn = 20});
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        CAPTURE(driver);
        for (const FormatInfo& f : all_formats()) {
            if (!f.is_block() || f.kind == NumericKind::snorm)
                continue;
            CAPTURE(f.name);
            const Texture plain = support::scene_pattern(
                f.transfer == Transfer::srgb ? Format::rgba8_srgb : Format::rgba16_float, 91, 58);
            const Texture blocks = must(encode_texture(
                plain, f.format, {.role = f.is_float() ? Role::hdr : Role::color, .effort = 0}));
            // Filtered to 8 bits of linear light, of which the darkest is 13 codes of the picture.
            const bool is_coarse = f.transfer == Transfer::linear && !f.is_float();
            CHECK(share_within_2(vulkan, curve_of(driver), panel, blocks, "") >=
                  (is_coarse ? 0.98 : 0.995));
        }
    }
}

TEST_CASE("a tile of an atlas on a floor by each Vulkan driver: nothing bleeds in") {
    const support::AtlasFloor tiles(Format::rgba8_srgb);
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        CAPTURE(driver);
        const auto draw = [&](const Texture& texture, const Scene& scene, const Sampler& sampler) {
            const auto uploaded = must(vulkan.device.upload(texture, {.sampler = sampler}));
            return must(vulkan::draw_scene(vulkan.device, scene, uploaded, texture.metadata.alpha));
        };
        const Texture& atlas = tiles.atlas.baked.texture;
        // Mesa's software rasteriser takes the footprints of anisotropic filters from the coordinates
        // alone, whatever derivatives a shader states.
        const bool heeds_derivatives = std::string(driver) != "llvmpipe";
        for (const Sampler& sampler :
             {tiles.sampler, heeds_derivatives ? tiles.anisotropic : tiles.sampler})
            CHECK(support::worst_code(draw(tiles.alone, tiles.floor, sampler),
                                      draw(atlas, tiles.part_floor, sampler)) <= 3);
        for (const Scene& scene : {tiles.part_floor, tiles.panel})
            CHECK(share_within_2(vulkan, curve_of(driver), scene, atlas, "wrap=repeat") >= 0.995);
    }
}
