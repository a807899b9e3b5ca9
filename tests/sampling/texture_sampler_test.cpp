#include <cmath>
#include <cstring>
#include <yl/yl.hpp>

#include "support/check.hpp"

using namespace yl;
using support::must;

namespace {

/// A texture of one channel whose levels hold the given values.
Texture gray_texture(std::uint32_t width, std::uint32_t height,
                     const std::vector<std::vector<float>>& levels) {
    Texture texture = must(Texture::create({.format = Format::r32_float,
                                            .width = width,
                                            .height = height,
                                            .levels = static_cast<std::uint32_t>(levels.size())}));
    for (std::uint32_t level = 0; level < levels.size(); ++level)
        std::memcpy(texture.level(level).data(), levels[level].data(), levels[level].size() * 4);
    return texture;
}

float red(const Texture& texture, const char* sampler, float u, float v, float level = -1) {
    return must(TextureSampler::create(texture, must(parse_sampler(sampler)),
                                       LevelRange::of(texture.shape())))
        .sample_level(u, v, level)[0];
}

}  // namespace

TEST_CASE("nearest takes the texel that holds the point") {
    const Texture texture = gray_texture(4, 1, {{10, 20, 30, 40}});
    CHECK(red(texture, "mag=nearest", 0.0F, 0.5F) == 10);
    CHECK(red(texture, "mag=nearest", 0.2499F, 0.5F) == 10);
    CHECK(red(texture, "mag=nearest", 0.25F, 0.5F) == 20);
    CHECK(red(texture, "mag=nearest", 0.9999F, 0.5F) == 40);
}

TEST_CASE("linear blends between texel centres") {
    const Texture texture = gray_texture(2, 2, {{0, 8, 4, 100}});
    const char* clamp = "wrap=clamp-to-edge";
    CHECK(red(texture, clamp, 0.25F, 0.25F) == 0);
    CHECK(red(texture, clamp, 0.5F, 0.25F) == doctest::Approx(4));
    CHECK(red(texture, clamp, 0.25F, 0.5F) == doctest::Approx(2));
    CHECK(red(texture, clamp, 0.5F, 0.5F) == doctest::Approx(28));
    CHECK(red(texture, clamp, 0.0F, 0.0F) == 0);
    CHECK(red(texture, "wrap=repeat", 0.0F, 0.25F) == doctest::Approx(4));
}

TEST_CASE("each wrap, hand-worked, on an axis of three texels") {
    const Texture texture = gray_texture(3, 1, {{10, 20, 30}});
    const auto texels =
        [&](const std::string& wrap) {  // from four texels before the image to four after it
            std::vector<float> seen;
            for (int i = -4; i < 7; ++i)
                seen.push_back(red(texture, ("mag=nearest border=7,0,0,1 wrap=" + wrap).c_str(),
                                   (static_cast<float>(i) + 0.5F) / 3, 0.5F));
            return seen;
        };
    CHECK(texels("repeat") == std::vector<float>{30, 10, 20, 30, 10, 20, 30, 10, 20, 30, 10});
    CHECK(texels("mirror") == std::vector<float>{30, 30, 20, 10, 10, 20, 30, 30, 20, 10, 10});
    CHECK(texels("clamp-to-edge") ==
          std::vector<float>{10, 10, 10, 10, 10, 20, 30, 30, 30, 30, 30});
    CHECK(texels("clamp-to-border,clamp-to-edge") ==
          std::vector<float>{7, 7, 7, 7, 10, 20, 30, 7, 7, 7, 7});
    CHECK(texels("mirror-once") == std::vector<float>{30, 30, 20, 10, 10, 20, 30, 30, 30, 30, 30});
}

TEST_CASE("u wraps by the first wrap, v by the second, and a flat texture has no third") {
    const Texture texture =
        gray_texture(4, 3, {{10, 20, 30, 40, 50, 60, 70, 80, 90, 100, 110, 120}});
    const Texture turned =
        gray_texture(3, 4, {{10, 50, 90, 20, 60, 100, 30, 70, 110, 40, 80, 120}});
    constexpr Wrap wraps[] = {Wrap::repeat, Wrap::mirror, Wrap::clamp_to_edge,
                              Wrap::clamp_to_border, Wrap::mirror_once};
    const auto sampled = [](const Texture& of, Wrap u, Wrap v, Wrap w, Filter filter) {
        Sampler sampler{.mag = filter};
        sampler.wrap = {u, v, w};
        sampler.border = {7, 0, 0, 1};
        return must(TextureSampler::create(of, sampler, LevelRange::of(of.shape())));
    };
    for (const Wrap u : wraps)
        for (const Wrap v : wraps)
            for (const Filter filter : {Filter::nearest, Filter::linear}) {
                const auto plain = sampled(texture, u, v, Wrap::repeat, filter);
                const auto swapped = sampled(turned, v, u, Wrap::repeat, filter);
                for (const Wrap w : wraps) {
                    const auto other = sampled(texture, u, v, w, filter);
                    for (int i = -7; i <= 12; ++i)
                        for (int k = -6; k <= 9; ++k) {
                            const float x = 0.21F * static_cast<float>(i);
                            const float y = 0.27F * static_cast<float>(k);
                            const float value = plain.sample_level(x, y, 0)[0];
                            CHECK(other.sample_level(x, y, 0)[0] == value);
                            CHECK(swapped.sample_level(y, x, 0)[0] ==
                                  doctest::Approx(value).epsilon(1e-5));
                        }
                }
            }
}

TEST_CASE("axes wrap by themselves, and the border blends in") {
    const Texture texture = gray_texture(2, 2, {{10, 20, 30, 40}});
    CHECK(red(texture, "mag=nearest wrap=repeat,clamp-to-edge", 1.25F, 5.0F) == 30);
    CHECK(red(texture, "mag=nearest wrap=clamp-to-edge,repeat", 5.0F, 1.25F) == 20);
    CHECK(red(texture, "wrap=clamp-to-border border=1,0,0,1", 0.0F, 0.25F) == doctest::Approx(5.5));
}

TEST_CASE("the mip filters choose and blend levels") {
    const Texture texture =
        gray_texture(4, 4, {std::vector<float>(16, 0), std::vector<float>(4, 100), {200}});
    const auto at = [&](const char* mip, float level) {
        return red(texture, mip, 0.5F, 0.5F, level);
    };
    CHECK(at("mip=none", 2) == 0);
    CHECK(at("mip=nearest", 0.5F) == 0);
    CHECK(at("mip=nearest", 0.51F) == 100);
    CHECK(at("mip=nearest", 9) == 200);
    CHECK(at("mip=linear", 0.25F) == doctest::Approx(25));
    CHECK(at("mip=linear", 1.5F) == doctest::Approx(150));
    CHECK(at("mip=linear", 50) == 200);
    CHECK(at("mip=linear", -3) == 0);
    CHECK(at("mip=linear bias=1", 0.5F) == doctest::Approx(150));
    CHECK(at("mip=linear lod=0..1", 2) == doctest::Approx(100));
    CHECK(at("mip=linear lod=1.5..8", 0) == doctest::Approx(150));
    CHECK(at("mip=linear", std::numeric_limits<float>::quiet_NaN()) == 0);
}

TEST_CASE("mag and min filters change at level of detail 0") {
    const Texture texture = gray_texture(2, 1, {{0, 100}, {50}});
    CHECK(red(texture, "mag=nearest min=linear mip=none", 0.45F, 0.5F, -0.01F) == 0);
    CHECK(red(texture, "mag=nearest min=linear mip=none", 0.45F, 0.5F, 0.01F) ==
          doctest::Approx(40));
    CHECK(red(texture, "mag=linear min=nearest mip=none", 0.45F, 0.5F, 0.01F) == 0);
}

TEST_CASE("the footprint sets the level of detail, in texels of the base level") {
    const Texture texture = gray_texture(
        8, 4,
        {std::vector<float>(32, 0), std::vector<float>(8, 100), std::vector<float>(2, 200), {300}});
    const auto sampler = must(
        TextureSampler::create(texture, must(parse_sampler("")), LevelRange::of(texture.shape())));
    CHECK(sampler.sample(0.5F, 0.5F, {.du_dx = 2.0F / 8, .dv_dy = 1.0F / 4})[0] ==
          doctest::Approx(100));
    CHECK(sampler.sample(0.5F, 0.5F, {.du_dx = 1.0F / 8, .dv_dy = 4.0F / 4})[0] ==
          doctest::Approx(200));
    CHECK(sampler.sample(0.5F, 0.5F, {.du_dx = 3.0F / 8, .dv_dx = 4.0F / 4})[0] ==
          doctest::Approx(100 * std::log2(5.0)));
    CHECK(sampler.sample(0.5F, 0.5F, {})[0] == 0);
}

TEST_CASE(
    "anisotropic filtering takes the shorter axis for its level, and averages along the longer") {
    const Texture texture = gray_texture(8, 8,
                                         {std::vector<float>(64, 0),
                                          std::vector<float>(16, 100),
                                          std::vector<float>(4, 200),
                                          {300}});
    const Footprint eight_to_one{.du_dx = 8.0F / 8, .dv_dy = 1.0F / 8};
    const auto at = [&](const char* text) {
        return must(TextureSampler::create(texture, must(parse_sampler(text)),
                                           LevelRange::of(texture.shape())))
            .sample(0.5F, 0.5F, eight_to_one)[0];
    };
    CHECK(at("") == doctest::Approx(300));
    CHECK(at("aniso=2") == doctest::Approx(200));
    CHECK(at("aniso=8") == doctest::Approx(0));
    CHECK(at("aniso=16") == doctest::Approx(0));
    // Columns 0, 10, 20 ... of which four samples across two texels each see the mean.
    const Texture ramp = gray_texture(8, 1, {{0, 10, 20, 30, 40, 50, 60, 70}});
    const auto spread = must(TextureSampler::create(
        ramp, must(parse_sampler("aniso=4 wrap=clamp-to-edge")), LevelRange::of(ramp.shape())));
    CHECK(spread.sample(0.5F, 0.5F, {.du_dx = 4.0F / 8, .dv_dy = 1.0F})[0] == doctest::Approx(35));
}

TEST_CASE(
    "the piecewise curve meets the exact one at powers of two and lies a little below between") {
    const Texture texture = gray_texture(
        8, 1,
        {std::vector<float>(8, 0), std::vector<float>(4, 100), std::vector<float>(2, 200), {300}});
    const auto at = [&](float texels, LevelCurve curve) {
        const auto sampler = must(
            TextureSampler::create(texture, Sampler{}, LevelRange::of(texture.shape()), curve));
        return sampler.sample(0.5F, 0.5F, {.du_dx = texels / 8})[0];
    };
    CHECK(at(2, LevelCurve::piecewise_linear) == doctest::Approx(100));
    CHECK(at(4, LevelCurve::piecewise_linear) == doctest::Approx(200));
    CHECK(at(std::sqrt(1.5F), LevelCurve::piecewise_linear) ==
          doctest::Approx(25));  // half of 1.5 - 1
    for (float texels = 1; texels < 8; texels += 0.13F) {
        const float below =
            at(texels, LevelCurve::exact) - at(texels, LevelCurve::piecewise_linear);
        CHECK(below >= -0.01F);
        CHECK(below <= 4.4F);
    }
}

TEST_CASE("an incomplete texture is opaque black, whatever it holds") {
    const Texture texture = gray_texture(4, 4, {std::vector<float>(16, 9)});
    const auto sampler = must(TextureSampler::create(texture, Sampler{}, {0, 1000}));
    CHECK(sampler.sample(0.5F, 0.5F, {}) == Rgba{0, 0, 0, 1});
    CHECK(sampler.sample_level(0.5F, 0.5F, 0) == Rgba{0, 0, 0, 1});
}

TEST_CASE("colour is decoded before it is filtered, and the swizzle comes last") {
    Texture texture = must(Texture::create({.format = Format::r8_srgb, .width = 2, .height = 1}));
    texture.level(0)[0] = std::byte{0};
    texture.level(0)[1] = std::byte{255};
    texture.metadata.swizzle = gray_swizzle;
    const auto sampler =
        must(TextureSampler::create(texture, must(parse_sampler("wrap=clamp-to-edge")), {0, 1}));
    CHECK(sampler.sample_level(0.5F, 0.5F, 0) == Rgba{0.5F, 0.5F, 0.5F, 1});
}

TEST_CASE("far and senseless coordinates stay within the image") {
    const Texture texture = gray_texture(3, 3, {{1, 2, 3, 4, 5, 6, 7, 8, 9}});
    for (const float u : {1e30F, -1e30F, std::numeric_limits<float>::infinity(),
                          std::numeric_limits<float>::quiet_NaN()})
        for (const char* wrap : {"wrap=repeat", "wrap=mirror", "wrap=clamp-to-edge",
                                 "wrap=clamp-to-border", "wrap=mirror-once"}) {
            const float value = red(texture, wrap, u, 0.5F);
            CHECK(value >= 0);
            CHECK(value <= 9);
        }
}
