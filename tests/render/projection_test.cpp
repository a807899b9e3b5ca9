// The camera of meshes, the order of drawing, and light, by hand.
#include <numbers>

#include "render/light.hpp"
#include "render/model/projection.hpp"
#include "support/meshes.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::front_view;
using support::must;
using support::square;

namespace {

ModelScene scene_of_squares(std::initializer_list<Primitive> parts, std::size_t surfaces = 3) {
    ModelScene scene;
    scene.parts = parts;
    scene.surfaces.resize(surfaces);
    return scene;
}

std::array<float, 2> place_of(const ModelCamera& camera, const std::array<float, 3>& position) {
    const auto at = camera.project(position);
    return {at.x / at.w, at.y / at.w};
}

}  // namespace

TEST_CASE("from the front: x to the right, y upwards, and the nearest part fills 92 %") {
    const ModelScene scene = scene_of_squares({square(0)});
    const ModelCamera camera = camera_of(scene, front_view(ModelShow::lit));
    CHECK(camera.middle == Vector3{0, 0, 0});
    const auto corner = place_of(camera, {1, 1, 0});
    CHECK(corner[0] == doctest::Approx(0.92));
    CHECK(corner[1] == doctest::Approx(-0.92));  // y runs downwards in the picture
    CHECK(place_of(camera, {0, 0, 0}) == std::array<float, 2>{0, 0});
    CHECK(camera.eye[2] > 0);
    CHECK(camera.eye[0] == doctest::Approx(0));
    // What is nearer is larger.
    CHECK(place_of(camera, {1, 0, 0.5F})[0] > place_of(camera, {1, 0, 0})[0]);
}

TEST_CASE("yaw goes to the right of the front, pitch above; zoom shows less") {
    const ModelScene scene = scene_of_squares({square(0), support::ball(1, 0)});
    ModelView view = front_view(ModelShow::lit);
    view.yaw = 90;
    CHECK(camera_of(scene, view).eye[0] > 1);
    CHECK(camera_of(scene, view).eye[2] == doctest::Approx(0).epsilon(0.001));
    view.yaw = 0;
    view.pitch = 90;
    const ModelCamera above = camera_of(scene, view);
    CHECK(above.eye[1] > 1);
    CHECK(place_of(above, {0, 0, -1})[1] < 0);  // the back is above
    view.pitch = 0;
    const ModelCamera plain = camera_of(scene, view);
    view.zoom = 2;
    const ModelCamera larger = camera_of(scene, view);
    CHECK(place_of(larger, {0.3F, 0, 0})[0] ==
          doctest::Approx(2 * place_of(plain, {0.3F, 0, 0})[0]));
    CHECK(larger.distance == plain.distance);
}

TEST_CASE("wide and tall pictures measure by their smaller side") {
    const ModelScene scene = scene_of_squares({square(0)});
    ModelView wide = front_view(ModelShow::lit);
    wide.width = 200;
    const ModelCamera camera = camera_of(scene, wide);
    CHECK(place_of(camera, {0, 1, 0})[1] == doctest::Approx(-0.92));
    CHECK(place_of(camera, {1, 0, 0})[0] == doctest::Approx(0.46));
}

TEST_CASE("depth runs from -w at the nearest to w at the farthest, and rises between") {
    const ModelScene scene = scene_of_squares({square(0, 0.7F), square(1, -0.4F)});
    const ModelCamera camera = camera_of(scene, front_view(ModelShow::lit));
    CHECK(camera.depth(camera.nearest) == doctest::Approx(-camera.nearest));
    CHECK(camera.depth(camera.farthest) == doctest::Approx(camera.farthest));
    float last = -1;
    for (const float z : {0.7F, 0.3F, 0.0F, -0.4F}) {
        const float w = camera.project({0, 0, z}).w;
        CHECK(w > camera.nearest);
        CHECK(w < camera.farthest);
        const float depth = camera.depth(w) / w;
        CHECK(depth > last);
        last = depth;
    }
}

TEST_CASE("scenes without vertices, of one point, and flat ones have a camera all the same") {
    for (const bool has_point : {false, true}) {
        ModelScene scene = scene_of_squares({});
        if (has_point)
            scene.parts.push_back(square(0, 5, 0));
        const ModelCamera camera = camera_of(scene, front_view(ModelShow::lit));
        CHECK(std::isfinite(camera.distance));
        CHECK(camera.nearest > 0);
        CHECK(camera.farthest > camera.nearest);
        const Image picture = must(draw_model(scene, front_view(ModelShow::lit, 8)));
        CHECK(picture.width() == 8);
    }
}

TEST_CASE("solid parts keep their order, blending ones come last, the farthest first") {
    ModelScene scene = scene_of_squares(
        {square(1, 0.2F), square(0, 0), square(1, 0.8F), square(2, 0.1F), square(1, -0.5F)});
    scene.surfaces[1].alpha = AlphaUse::blend;
    scene.surfaces[2].alpha = AlphaUse::mask;
    const ModelCamera camera = camera_of(scene, front_view(ModelShow::lit));
    const auto draws = must(draws_of(scene, camera));
    std::vector<std::ptrdiff_t> order;
    for (const MeshDraw& draw : draws)
        order.push_back(draw.part - scene.parts.data());
    CHECK(order == std::vector<std::ptrdiff_t>{1, 3, 4, 0, 2});
    // Within a part the farthest triangles are first.
    Primitive deep = square(1, -1);
    const Primitive front = square(1, 1);
    for (const Vertex& vertex : front.vertices)
        deep.vertices.push_back(vertex);
    deep.indices = {4, 5, 6, 0, 1, 2};
    scene.parts = {deep};
    const auto sorted = must(draws_of(scene, camera_of(scene, front_view(ModelShow::lit))));
    CHECK(sorted[0].indices == std::vector<std::uint32_t>{0, 1, 2, 4, 5, 6});
}

TEST_CASE("four samples become one pixel in linear light") {
    Image samples = must(Image::create(Format::rgba8_srgb, 4, 2));
    const auto codes =
        support::bytes_of({255, 0, 0, 255, 0,   0, 0, 255, 10, 20, 30, 255, 10, 20, 30, 255,
                           255, 0, 0, 255, 255, 0, 0, 0,   10, 20, 30, 255, 10, 20, 30, 255});
    for (std::uint32_t y = 0; y < 2; ++y)
        std::copy_n(codes.begin() + 16 * y, 16, samples.view().row(y).begin());
    const Image pixels = must(average_samples(samples.view()));
    CHECK(pixels.width() == 2);
    CHECK(pixels.height() == 1);
    // Three quarters of full light are code 225; alpha is solid.
    CHECK(support::bytes_of(pixels.view()) == support::bytes_of({225, 0, 0, 255, 10, 20, 30, 255}));
}

TEST_CASE("the lobe against its formula in double precision") {
    support::Random random(5);
    std::uniform_real_distribution<double> any(-1, 1), some(0.05, 1);
    for (int i = 0; i < 200; ++i) {
        const auto direction = [&] {
            return normalised({static_cast<float>(any(random)), static_cast<float>(any(random)),
                               static_cast<float>(std::abs(any(random)) + 0.05)});
        };
        const Vector3 n = {0, 0, 1}, l = direction(), v = direction();
        const double roughness = some(random);
        const Shine got = shine(n, l, v, static_cast<float>(roughness));
        std::array<double, 3> h{};
        double length = 0;
        for (std::size_t c = 0; c < 3; ++c) {
            h[c] = static_cast<double>(l[c]) + static_cast<double>(v[c]);
            length += h[c] * h[c];
        }
        length = std::sqrt(length);
        const double nh = h[2] / length, nl = l[2], nv = v[2];
        double hv = 0;
        for (std::size_t c = 0; c < 3; ++c)
            hv += h[c] / length * static_cast<double>(v[c]);
        const double a2 = std::max(std::pow(roughness, 4), 1e-6);
        const double d = a2 / (std::numbers::pi * std::pow(nh * nh * (a2 - 1) + 1, 2));
        const double g = 0.5 / (nl * std::sqrt(nv * nv * (1 - a2) + a2) +
                                nv * std::sqrt(nl * nl * (1 - a2) + a2));
        CHECK(static_cast<double>(got.lobe) == doctest::Approx(d * g * nl).epsilon(0.01));
        CHECK(static_cast<double>(got.rise) == doctest::Approx(std::pow(1 - hv, 5)).epsilon(0.01));
        CHECK(got.at(1) == doctest::Approx(got.lobe));
        CHECK(got.at(0) == doctest::Approx(got.lobe * got.rise));
    }
}

TEST_CASE("a matt white square under the lamp has the light that the formula says") {
    ModelScene scene = scene_of_squares({square(0)}, 1);
    scene.surfaces[0].metallic = 0;
    const ModelView view = front_view(ModelShow::lit);
    const ModelCamera camera = camera_of(scene, view);
    const Image picture = must(draw_model(scene, view));
    const Vector3 l = camera.towards_lamp();
    CHECK(dot(l, l) == doctest::Approx(1));
    CHECK(l[0] < 0);  // from the left, and above
    CHECK(l[1] > 0);
    const Shine shining = shine({0, 0, 1}, l, {0, 0, 1}, 1);
    const float light = 0.85F * l[2] + 0.30F + 0.04F * 0.30F * 1.4F + 2 * shining.at(0.04F);
    const int expected = linear_to_srgb8(light);
    const int got = std::to_integer<int>(picture.view().row(50)[4 * 50]);
    CHECK(std::abs(got - expected) <= 1);
    // Half as much colour, half as much of the matt part.
    scene.surfaces[0].base_color = {0.5F, 0.5F, 0.5F, 1};
    const Image darker = must(draw_model(scene, view));
    const float half = 0.5F * (0.85F * l[2] + 0.30F) + 0.04F * 0.30F * 1.4F + 2 * shining.at(0.04F);
    CHECK(std::abs(std::to_integer<int>(darker.view().row(50)[4 * 50]) - linear_to_srgb8(half)) <=
          1);
}

TEST_CASE("occlusion dims the ambient part alone, by its strength") {
    ModelScene scene = scene_of_squares({square(0)}, 1);
    scene.surfaces[0].metallic = 0;
    Texture closed = must(Texture::create({.format = Format::r8_unorm}));
    closed.level(0)[0] = std::byte{0};
    scene.textures.push_back(std::move(closed));
    const ModelView view = front_view(ModelShow::lit);
    const auto red = [&] {
        return std::to_integer<int>(
            support::view_of(must(draw_model(scene, view))).row(50)[4 * 50]);
    };
    const int open = red();
    scene.surfaces[0].occlusion_texture = support::use_of(0);
    scene.surfaces[0].occlusion_strength = 0;
    CHECK(red() == open);
    scene.surfaces[0].occlusion_strength = 0.5F;
    const int half = red();
    scene.surfaces[0].occlusion_strength = 1;
    const int full = red();
    CHECK(half < open);
    CHECK(full < half);
    const Vector3 l = camera_of(scene, view).towards_lamp();
    const float light = 0.85F * l[2] + 2 * shine({0, 0, 1}, l, {0, 0, 1}, 1).at(0.04F);
    CHECK(std::abs(full - linear_to_srgb8(light)) <= 1);
}

TEST_CASE("metallic and roughness come from blue and green, times their factors") {
    ModelScene scene = scene_of_squares({square(0)}, 2);
    Texture map = must(Texture::create({.format = Format::rgba8_unorm}));
    std::ranges::copy(support::bytes_of({0, 128, 255, 255}), map.level(0).begin());
    scene.textures.push_back(std::move(map));
    const ModelView view = front_view(ModelShow::lit);
    const auto red = [&] {
        return std::to_integer<int>(
            support::view_of(must(draw_model(scene, view))).row(50)[4 * 50]);
    };
    scene.surfaces[0].base_color = {0.6F, 0.6F, 0.6F, 1};
    scene.surfaces[0].metallic = 1;
    scene.surfaces[0].roughness = 128.0F / 255;
    const int by_factors = red();
    scene.surfaces[0].roughness = 1;
    scene.surfaces[0].metallic_roughness_texture = support::use_of(0);
    CHECK(std::abs(red() - by_factors) <= 1);
    scene.surfaces[0].metallic = 0;
    CHECK(red() > by_factors);  // matt surfaces are lighter here
}
