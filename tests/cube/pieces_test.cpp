// The pieces that cubes are worked on with: frames, edges, panoramas in vectors, guesses.
#include <numbers>
#include <yl/yl.hpp>

#include "cube/edge_strips.hpp"
#include "cube/frames.hpp"
#include "cube/light_chain.hpp"
#include "cube/panorama_simd.hpp"
#include "cube/smaller.hpp"
#include "dawn.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/processors.hpp"
#include "support/skies.hpp"

using namespace yl;
using support::must;

namespace {

Picture linear(Image image) {
    Picture picture;
    picture.transfer = Transfer::linear;
    picture.image = std::move(image);
    return picture;
}

double dot(const Direction& a, const Direction& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

}  // namespace

TEST_CASE(
    "the texel beyond an edge is the nearest one of another face, and that one's is the first") {
    for (const std::uint32_t size : {1U, 2U, 5U, 16U})
        for (std::size_t face = 0; face < 6; ++face)
            for (std::uint32_t i = 0; i < size; ++i) {
                const auto from = static_cast<CubeFace>(face);
                const CubeTexel over = texel_beyond_edge(from, -1, i, size);
                CHECK(over.face != face);
                // Neighbours are less than two texels' width apart.
                const Direction a = support::unit(direction_at(middle_of(face, 0, i, size)));
                const Direction b =
                    support::unit(direction_at(middle_of(over.face, over.x, over.y, size)));
                CHECK(std::acos(std::min(dot(a, b), 1.0)) <= std::numbers::pi / 2 / size + 1e-9);
                // It lies at the edge of its face.
                const bool at_edge =
                    over.x == 0 || over.y == 0 || over.x == size - 1 || over.y == size - 1;
                CHECK(at_edge);
            }
}

TEST_CASE("the twelve edges: each joins two faces, and places along them are the same") {
    std::array<int, 6> met{};
    for (const CubeEdge& edge : cube_edges()) {
        CHECK(edge.a != edge.b);
        ++met[static_cast<std::size_t>(edge.a)];
        ++met[static_cast<std::size_t>(edge.b)];
        const Neighbour back = neighbour_of(edge.b, edge.side_of_b.side);
        CHECK(back.face == edge.a);
        CHECK(back.side.side == edge.side_of_a);
        CHECK(back.side.is_backwards == edge.side_of_b.is_backwards);
    }
    for (const int count : met)
        CHECK(count == 4);
    // Two that can be looked up: above the front is the top's lower edge, in the same direction.
    const Neighbour above = neighbour_of(CubeFace::front, Side::upper);
    CHECK(above.face == CubeFace::top);
    CHECK(above.side.side == Side::lower);
    CHECK_FALSE(above.side.is_backwards);
    // And above the back is the top's upper edge, the other way round.
    const Neighbour behind = neighbour_of(CubeFace::back, Side::upper);
    CHECK(behind.side.side == Side::upper);
    CHECK(behind.side.is_backwards);
}

TEST_CASE("turned images have turned sides") {
    CHECK(side_before(Orientation::none, Side::left).side == Side::left);
    CHECK_FALSE(side_before(Orientation::none, Side::left).is_backwards);
    CHECK(side_before(Orientation::mirror, Side::left).side == Side::right);
    CHECK(side_before(Orientation::mirror, Side::upper).is_backwards);
    CHECK(side_before(Orientation::quarter_right, Side::right).side == Side::upper);
    CHECK(side_before(Orientation::quarter_right, Side::upper).side == Side::left);
    CHECK(side_before(Orientation::quarter_right, Side::upper).is_backwards);
    CHECK(side_before(Orientation::half, Side::upper).side == Side::lower);
    CHECK(side_before(Orientation::transpose, Side::upper).side == Side::left);
    CHECK_FALSE(side_before(Orientation::transpose, Side::upper).is_backwards);
}

TEST_CASE("there are 48 ways to lay a cube on itself, half of them mirrored") {
    const auto maps = all_axis_maps();
    CHECK(maps.size() == 48);
    int mirrored = 0;
    for (const AxisMap& map : maps) {
        const FaceFrame frame = mapped(standard_frames()[4], map);
        const FaceFrame& home = standard_frames()[static_cast<std::size_t>(frame.middle)];
        mirrored += mirrors(orientation_between(frame, home)) ? 1 : 0;
    }
    CHECK(mirrored == 24);
}

TEST_CASE("light cubes: the middle of a texel is the texel, and edges have no step") {
    const Texture cube = support::cube_of(support::wavy_sky, 16);
    const LightCube light = LightCube::of(cube, 0, 0, working_format_of(cube));
    for (std::size_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < 16; y += 5)
            for (std::uint32_t x = 0; x < 16; x += 3) {
                const Light found = light.sample(middle_of(face, x, y, 16));
                const float* texel =
                    support::pixel_at(cube.image(0, 0, static_cast<std::uint32_t>(face)), x, y);
                for (std::size_t c = 0; c < 4; ++c)
                    CHECK(found[c] == doctest::Approx(texel[c]));
            }
    // A walk over the edge between front and right: no jump anywhere.
    Light before = light.sample(Direction{0.999, 0.3, 1});
    for (double x = 0.9995; x < 1.002; x += 0.0005) {
        const Light here = light.sample(Direction{x, 0.3, 1});
        for (std::size_t c = 0; c < 3; ++c)
            CHECK(std::abs(here[c] - before[c]) < 0.01F);
        before = here;
    }
}

TEST_CASE("quick points are the points of the tables, in single precision") {
    support::Random random(4);
    std::uniform_real_distribution<double> any(-1, 1);
    for (int i = 0; i < 1000; ++i) {
        const Direction d = {any(random), any(random), any(random)};
        const FacePoint exact = face_point(d);
        const QuickPoint quick = quick_point(static_cast<float>(d[0]), static_cast<float>(d[1]),
                                             static_cast<float>(d[2]));
        CHECK(quick.face == static_cast<std::size_t>(exact.face));
        CHECK(static_cast<double>(quick.s) == doctest::Approx(exact.s).epsilon(1e-5));
        CHECK(static_cast<double>(quick.t) == doctest::Approx(exact.t).epsilon(1e-5));
    }
    const Texture cube = support::cube_of(support::wavy_sky, 8);
    const LightChain chain(cube, 0);
    CHECK(chain.level_count() == 4);
    CHECK(chain.for_size(5).size() == 4);
    CHECK(chain.for_size(100).size() == 8);
    const QuickPoint point = quick_point(0.3F, -0.9F, 0.2F);
    Pixel sum = {};
    chain.reader(0).add(point, 0.5F, sum);
    const Light whole = chain.level(0).sample(Direction{0.3, -0.9, 0.2});
    std::array<float, 4> found{};
    store_pixel(sum, found.data());
    for (std::size_t c = 0; c < 4; ++c)
        CHECK(found[c] == doctest::Approx(0.5F * whole[c]).epsilon(1e-5));
}

TEST_CASE("places in panoramas: vectors as the plain twin, both as the arcs of the library") {
    support::Random random(6);
    std::uniform_real_distribution<float> any(-1, 1);
    for (const std::size_t count : {1U, 7U, 16U, 61U})
        for (int round = 0; round < 10; ++round) {
            RowOfDirections row;
            for (std::size_t c = 0; c < 3; ++c) {
                row.first[c] = any(random);
                row.step[c] = any(random) / 64;
            }
            std::vector<float> x(count), y(count), plain_x(count), plain_y(count);
            panorama_places_plain(row, 4096, 2048, plain_x.data(), plain_y.data(), count);
            support::for_each_instruction_set([&](const char* name) {
                CAPTURE(name);
                panorama_places(row, 4096, 2048, x.data(), y.data(), count);
                CHECK(x == plain_x);
                CHECK(y == plain_y);
            });
            for (std::size_t i = 0; i < count; ++i) {
                Direction d{};
                for (std::size_t c = 0; c < 3; ++c)
                    d[c] = static_cast<double>(row.first[c] + static_cast<float>(i) * row.step[c]);
                const auto place = place_of_direction(CubeLayout::panorama, d);
                CHECK(std::abs(static_cast<double>(plain_x[i]) - place[0] * 4096) < 2e-3);
                CHECK(std::abs(static_cast<double>(plain_y[i]) - place[1] * 2048) < 1e-3);
            }
        }
}

TEST_CASE("a small bright sun in a panorama draws no rings, and keeps its light") {
    Image panorama = must(Image::create(Format::rgba32_float, 128, 64));
    for (std::uint32_t y = 0; y < 64; ++y) {
        auto* row = reinterpret_cast<float*>(panorama.view().row(y).data());
        for (std::size_t x = 0; x < 128; ++x)
            for (std::size_t c = 0; c < 4; ++c) {
                const bool is_sun = x / 4 == 15 && y / 4 == 7;
                row[x * 4 + c] = c == 3 ? 1.0F : is_sun ? 100.0F : 0.5F;
            }
    }
    const Picture picture = linear(std::move(panorama));
    for (const std::uint32_t size : {8U, 32U, 100U}) {
        const Texture cube = must(cube_of_picture(picture, {.face_size = size}));
        double light = 0;
        for (std::uint32_t face = 0; face < 6; ++face)
            for (std::uint32_t y = 0; y < size; ++y)
                for (std::uint32_t x = 0; x < size; ++x) {
                    const float value = support::pixel_at(cube.image(0, 0, face), x, y)[0];
                    CHECK(value >= 0.5F - 1e-6F);
                    CHECK(value <= 100.0F + 1e-4F);
                    light += static_cast<double>(value) * texel_solid_angle(x, y, size);
                }
        // The sun's patch: 4 x 4 of 128 x 64 pixels next to the equator.
        const double sun = 4.0 / 128 * 2 * std::numbers::pi * 4.0 / 64 * std::numbers::pi;
        CHECK(light == doctest::Approx(4 * std::numbers::pi * 0.5 + 99.5 * sun).epsilon(0.06));
    }
}

TEST_CASE("poles of panoramas: the whole row above is one direction") {
    Image panorama = must(Image::create(Format::rgba32_float, 64, 32));
    for (std::uint32_t y = 0; y < 32; ++y) {
        auto* row = reinterpret_cast<float*>(panorama.view().row(y).data());
        for (std::size_t i = 0; i < 64 * 4; ++i)
            row[i] = i % 4 == 3 ? 1.0F : y == 0 ? static_cast<float>(i / 4 % 2) : 0.5F;
    }
    const Texture cube = must(cube_of_picture(linear(std::move(panorama)), {.face_size = 5}));
    // Stripes of 0 and 1 around the pole are seen as their mean.
    CHECK(support::pixel_at(cube.image(0, 0, 2), 2, 2)[0] == doctest::Approx(0.5).epsilon(0.02));
    CHECK(support::pixel_at(cube.image(0, 0, 4), 2, 2)[0] == doctest::Approx(0.5));
}

TEST_CASE("mirror balls and angular maps: a sky there and back") {
    const Texture cube = support::cube_of(support::wavy_sky, 32);
    for (const CubeLayout layout : {CubeLayout::mirror_ball, CubeLayout::angular_map}) {
        const Picture ball = linear(must(picture_of_cube(cube, layout, 0, 0, 512)));
        // Nothing is outside the disc.
        CHECK(support::pixel_at(ball.image.view(), 0, 0)[0] == 0);
        CHECK(support::pixel_at(ball.image.view(), 511, 511)[0] == 0);
        const Texture back = must(cube_of_picture(ball, {.layout = layout, .face_size = 32}));
        double error = 0;
        for (const std::uint32_t face : {0U, 1U, 2U, 3U})
            for (std::uint32_t y = 8; y < 24; ++y)
                for (std::uint32_t x = 8; x < 24; ++x)
                    error = std::max(
                        error, static_cast<double>(
                                   std::abs(support::pixel_at(cube.image(0, 0, face), x, y)[1] -
                                            support::pixel_at(back.image(0, 0, face), x, y)[1])));
        CAPTURE(name(layout));
        CHECK(error < 0.02);
    }
}

TEST_CASE("guesses: sides and content have to agree") {
    const Texture cube = support::cube_of(support::wavy_sky, 32);
    const auto guess = [](Image image) { return guess_cube_layout(linear(std::move(image))); };
    for (const CubeLayout layout :
         {CubeLayout::horizontal_cross, CubeLayout::vertical_cross, CubeLayout::row,
          CubeLayout::column, CubeLayout::panorama, CubeLayout::angular_map}) {
        CAPTURE(name(layout));
        const auto found = guess(must(picture_of_cube(cube, layout)));
        REQUIRE(found.has_value());
        CHECK(found->layout == layout);
        CHECK(found->agrees);
        CHECK(found->face_size == 32);
    }
    const auto noise = [](std::uint32_t width, std::uint32_t height) {
        const Texture texture = support::random_texture(
            {.format = Format::rgba8_unorm, .width = width, .height = height}, 1);
        return must(
            convert(texture.image(0), Format::rgba8_unorm,
                    {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    };
    CHECK_FALSE(guess(noise(64, 48))->agrees);
    CHECK_FALSE(guess(noise(64, 32))->agrees);
    CHECK_FALSE(guess(noise(64, 64)).has_value());
    CHECK_FALSE(guess(noise(64, 63)).has_value());
}

TEST_CASE("one smaller cube after the other: sizes, and the mean at the end") {
    const Texture cube = support::cube_of(support::wavy_sky, 20);
    LightCube light = LightCube::of(cube, 0, 0, working_format_of(cube));
    for (const std::uint32_t size : {10U, 5U, 2U, 1U}) {
        light = smaller_light_cube(light, {.kind = Kernel::Kind::triangle});
        CHECK(light.size() == size);
    }
    for (std::size_t face = 1; face < 6; ++face)
        CHECK(light.texel(face, 0, 0)[0] == light.texel(0, 0, 0)[0]);
}
