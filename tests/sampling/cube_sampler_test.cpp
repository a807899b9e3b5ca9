// The CPU's cube sampler against values worked out by hand.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/skies.hpp"

using namespace yl;
using support::must;

namespace {

/// Each face one number: 10, 20 ... 60 of 255; each texel of it alike.
Texture numbered(std::uint32_t size) {
    Texture cube = must(
        Texture::create({.format = Format::r8_unorm, .width = size, .height = size, .faces = 6}));
    for (std::uint32_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < size; ++y)
            for (std::byte& texel : cube.image(0, 0, face).row(y))
                texel = static_cast<std::byte>(10 * (face + 1));
    return cube;
}

float red_of(const CubeSampler& sampler, const CubeSampler::Ray& direction) {
    return sampler.sample_level(direction, 0)[0] * 255;
}

}  // namespace

TEST_CASE("each axis looks at its face, however long the direction is") {
    const Texture cube = numbered(4);
    const auto sampler =
        must(CubeSampler::create(cube, must(parse_sampler("mag=nearest min=nearest mip=none")),
                                 LevelRange::of(cube.shape())));
    CHECK(red_of(sampler, {3, 0.1F, 0}) == doctest::Approx(10));
    CHECK(red_of(sampler, {-0.2F, 0.1F, 0}) == doctest::Approx(20));
    CHECK(red_of(sampler, {0, 7, 2}) == doctest::Approx(30));
    CHECK(red_of(sampler, {0, -7, 2}) == doctest::Approx(40));
    CHECK(red_of(sampler, {0, 0, 1e-3F}) == doctest::Approx(50));
    CHECK(red_of(sampler, {0.9F, 0, -1}) == doctest::Approx(60));
}

TEST_CASE("linear filtering goes on over edges, and takes three texels at a corner") {
    const Texture cube = numbered(4);
    const Sampler linear = must(parse_sampler("mag=linear min=linear mip=none"));
    const LevelRange range = LevelRange::of(cube.shape());
    const auto seamless = must(CubeSampler::create(cube, linear, range));
    const auto plain = must(CubeSampler::create(cube, linear, range, LevelCurve::exact, false));
    // On the edge between right (10) and front (50), seen from either face.
    CHECK(red_of(seamless, {1, 0, 0.99999F}) == doctest::Approx(30).epsilon(0.001));
    CHECK(red_of(seamless, {0.99999F, 0, 1}) == doctest::Approx(30).epsilon(0.001));
    CHECK(red_of(plain, {1, 0, 0.99999F}) == doctest::Approx(10));
    CHECK(red_of(plain, {0.99999F, 0, 1}) == doctest::Approx(50));
    // Where right (10), top (30) and front (50) meet: own, two neighbours and the mean of all
    // three.
    CHECK(red_of(seamless, {1, 0.99999F, 0.99999F}) == doctest::Approx(30).epsilon(0.001));
    // A quarter of a texel from the edge, a quarter of the neighbour's.
    const float s = 1 - 2 * 0.25F / 4;
    CHECK(red_of(seamless, {s, 0, 1}) == doctest::Approx(0.75 * 50 + 0.25 * 10).epsilon(0.001));
}

TEST_CASE("the level of detail is that of the place on the face") {
    Texture cube = must(Texture::create(
        {.format = Format::r8_unorm, .width = 64, .height = 64, .levels = 7, .faces = 6}));
    for (std::uint32_t level = 0; level < 7; ++level)
        std::fill(cube.level(level).begin(), cube.level(level).end(),
                  static_cast<std::byte>(10 * level));
    const auto sampler =
        must(CubeSampler::create(cube, must(parse_sampler("mag=linear min=linear mip=linear")),
                                 LevelRange::of(cube.shape())));
    const auto level_of = [&](const CubeSampler::Ray& direction, const CubeSampler::Ray& step) {
        return sampler.sample(direction, {.dx = step})[0] * 255 / 10;
    };
    // On a face of 64 texels from -1 to 1, a step of 1/32 is one texel.
    CHECK(level_of({0, 0, 1}, {4.0F / 32, 0, 0}) == doctest::Approx(2).epsilon(0.01));
    CHECK(level_of({0, 0, 2}, {4.0F / 32, 0, 0}) == doctest::Approx(1).epsilon(0.01));
    CHECK(level_of({0, 0, -1}, {0, 8.0F / 32, 0}) == doctest::Approx(3).epsilon(0.01));
    CHECK(level_of({1, 0, 0}, {0, 0, 8.0F / 32}) == doctest::Approx(3).epsilon(0.01));
    // Going straight away from the middle moves no place there, but it does beside it.
    CHECK(level_of({0, 0, 1}, {0, 0, 0.5F}) == doctest::Approx(0));
    CHECK(level_of({0.5F, 0, 1}, {0, 0, 8.0F / 32}) == doctest::Approx(2).epsilon(0.01));
    CHECK(sampler.sample_level({0, 1, 0}, 4.5F)[0] * 255 / 10 == doctest::Approx(4.5));
}

TEST_CASE("a camera sees what is where, unmirrored, by its vertical field of view") {
    // Looking ahead from the middle: right is +X, above is +Y.
    const CubeScene scene = sky_scene({.width = 300, .height = 200, .field_of_view = 90});
    const auto& m = scene.direction_from_pixel;
    const auto direction = [&](float x, float y) {
        return support::unit({static_cast<double>(m[0] * x + m[1] * y + m[2]),
                              static_cast<double>(m[3] * x + m[4] * y + m[5]),
                              static_cast<double>(m[6] * x + m[7] * y + m[8])});
    };
    CHECK(direction(150, 100)[2] == doctest::Approx(1));
    CHECK(direction(150, 0)[1] == doctest::Approx(std::sqrt(0.5)));    // 45 degrees up at the rim
    CHECK(direction(250, 100)[0] == doctest::Approx(std::sqrt(0.5)));  // as far to the right
    CHECK(direction(300, 100)[0] == doctest::Approx(1.5 / std::sqrt(1 + 1.5 * 1.5)));
    const CubeScene turned = sky_scene({.width = 2, .height = 2, .yaw = 90});
    CHECK(turned.direction_from_pixel[0] + turned.direction_from_pixel[1] +
              turned.direction_from_pixel[2] ==
          doctest::Approx(1));  // ahead is +X now
    const CubeScene up = sky_scene({.width = 2, .height = 2, .pitch = 90});
    CHECK(up.direction_from_pixel[3] + up.direction_from_pixel[4] + up.direction_from_pixel[5] ==
          doctest::Approx(1));
}

TEST_CASE("a footprint asks for the same level on every face, on either side of each axis") {
    // Each level one number: 0, 20, 40 ... of 255.
    Texture cube = must(Texture::create(
        {.format = Format::r8_unorm, .width = 64, .height = 64, .levels = 7, .faces = 6}));
    for (std::uint32_t level = 0; level < 7; ++level)
        for (std::byte& texel : cube.level(level))
            texel = static_cast<std::byte>(20 * level);
    const auto sampler =
        must(CubeSampler::create(cube, must(parse_sampler("mag=linear min=linear mip=linear")),
                                 LevelRange::of(cube.shape())));
    // Off the middle, so that the axis itself changes along the footprint.
    const CubeSampler::Ray ray = {1, 0.3F, -0.45F}, dx = {0.03F, 0.11F, 0.02F},
                           dy = {-0.04F, 0.01F, 0.07F};
    const auto placed = [](const CubeSampler::Ray& v, std::size_t axis, float sign) {
        CubeSampler::Ray result{};
        for (std::size_t i = 0; i < 3; ++i)
            result[(i + axis) % 3] = sign * v[i];
        return result;
    };
    const float expected = sampler.sample(ray, {dx, dy})[0] * 255;
    CHECK(expected > 20);
    CHECK(expected < 100);
    for (std::size_t axis = 0; axis < 3; ++axis)
        for (const float sign : {1.0F, -1.0F}) {
            CAPTURE(axis);
            CAPTURE(sign);
            const float found = sampler.sample(placed(ray, axis, sign),
                                               {placed(dx, axis, sign), placed(dy, axis, sign)})[0];
            CHECK(found * 255 == doctest::Approx(expected).epsilon(0.002));
        }
}
