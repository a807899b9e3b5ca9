// Meshes drawn on the CPU: places, depth, cut-outs, blending, levels, by hand.
#include "support/check.hpp"
#include "support/meshes.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::front_view;
using support::must;
using support::must_fail;
using support::square;
using support::use_of;

namespace {

using Codes = std::array<int, 3>;

Codes codes_at(const Image& image, std::uint32_t x, std::uint32_t y) {
    const auto* texel = &image.view().row(y)[std::size_t{4} * x];
    return {std::to_integer<int>(texel[0]), std::to_integer<int>(texel[1]),
            std::to_integer<int>(texel[2])};
}

bool is_near(const Codes& a, const Codes& b, int most = 1) {
    for (std::size_t c = 0; c < 3; ++c)
        if (std::abs(a[c] - b[c]) > most)
            return false;
    return true;
}

/// A texture of one level with these texels, row by row, RGBA.
Texture texture_of(std::uint32_t width, std::uint32_t height, std::initializer_list<int> codes) {
    Texture texture =
        must(Texture::create({.format = Format::rgba8_srgb, .width = width, .height = height}));
    std::ranges::transform(codes, texture.level(0).begin(),
                           [](int code) { return static_cast<std::byte>(code); });
    return texture;
}

/// A surface that shines by itself and throws no light back but a shimmer.
Material glowing(const std::array<float, 3>& light) {
    Material surface;
    surface.base_color = {0, 0, 0, 1};
    surface.metallic = 1;  // a black metal
    surface.emissive = light;
    return surface;
}

Image drawn(const ModelScene& scene, const ModelView& view) {
    return must(draw_model(scene, view));
}

}  // namespace

TEST_CASE("of two surfaces in one place the first is seen, as by a test of less depth") {
    ModelScene scene;
    scene.parts = {square(0), square(1)};
    scene.surfaces = {glowing({1, 0, 0}), glowing({0, 0, 1})};
    const Image picture = drawn(scene, front_view(ModelShow::lit));
    for (const std::uint32_t at : {20U, 50U, 80U}) {
        CHECK(codes_at(picture, at, at)[0] > 200);
        CHECK(codes_at(picture, at, at)[2] < 60);
    }
}

TEST_CASE("a square before the camera: its place, its picture upright, the backdrop around it") {
    ModelScene scene;
    scene.parts = {square(0)};
    scene.textures.push_back(texture_of(2, 2,
                                        {255, 0, 0, 255, 0, 255, 0, 255,  //
                                         0, 0, 255, 255, 255, 255, 0, 255}));
    Material surface = glowing({1, 1, 1});
    surface.emissive_texture =
        use_of(0, {.mag = Filter::nearest, .min = Filter::nearest, .mip = MipFilter::none});
    scene.surfaces = {surface};
    const Image picture = drawn(scene, front_view(ModelShow::lit));
    // 92 of 100 pixels: from 4 to 96.
    CHECK(is_near(codes_at(picture, 10, 10), {255, 0, 0}, 3));
    CHECK(is_near(codes_at(picture, 90, 10), {0, 255, 0}, 3));
    CHECK(is_near(codes_at(picture, 10, 90), {0, 0, 255}, 3));
    CHECK(is_near(codes_at(picture, 90, 90), {255, 255, 0}, 3));
    CHECK(codes_at(picture, 5, 30)[0] > 200);
    const Codes beside = codes_at(picture, 2, 50);
    CHECK(beside[0] == codes_at(picture, 98, 50)[0]);
    CHECK(is_near(codes_at(picture, 2, 0), {149, 162, 170}, 1));  // 0.30, 0.36, 0.40 as sRGB
    CHECK(beside[0] < 149);
}

TEST_CASE("an unlit surface shows its base colour as it is, from wherever the lamp shines") {
    ModelScene scene;
    scene.parts = {square(0)};
    scene.textures.push_back(texture_of(1, 1, {200, 100, 50, 255}));
    Material surface;
    surface.base_color_texture = use_of(0);
    surface.is_unlit = true;
    surface.emissive = {1, 1, 1};
    scene.surfaces = {surface};
    for (const float yaw : {-60.0F, 0.0F, 60.0F}) {
        ModelView view = front_view(ModelShow::lit);
        view.yaw = yaw;
        CHECK(codes_at(drawn(scene, view), 50, 50) == Codes{200, 100, 50});
    }
}

TEST_CASE("the camera holds all of a mesh, from every side") {
    ModelScene scene;
    scene.parts = {support::ball(0, 0), support::ball(0, 3.5F)};
    scene.surfaces = {glowing({1, 1, 1})};
    for (const float yaw : {0.0F, 75.0F, 200.0F})
        for (const float pitch : {-60.0F, 10.0F, 89.0F}) {
            CAPTURE(yaw);
            CAPTURE(pitch);
            ModelView view = front_view(ModelShow::lit, 120);
            view.width = 200;
            view.yaw = yaw;
            view.pitch = pitch;
            const Image picture = drawn(scene, view);
            std::uint32_t min_x = 200, most_x = 0, min_y = 120, most_y = 0;
            for (std::uint32_t y = 0; y < 120; ++y)
                for (std::uint32_t x = 0; x < 200; ++x)
                    if (codes_at(picture, x, y)[0] > 220) {
                        min_x = std::min(min_x, x);
                        most_x = std::max(most_x, x);
                        min_y = std::min(min_y, y);
                        most_y = std::max(most_y, y);
                    }
            CHECK(min_x >= 6);
            CHECK(most_x <= 193);
            CHECK(min_y >= 3);
            CHECK(most_y <= 116);
            // It fills the picture one way or the other.
            CHECK((most_x - min_x > 100 || most_y - min_y > 85));
        }
}

TEST_CASE("what is nearer hides what is behind, whichever is drawn first") {
    ModelScene scene;
    scene.surfaces = {glowing({1, 0, 0}), glowing({0, 1, 0})};
    for (const bool near_first : {true, false}) {
        scene.parts = {square(0, near_first ? 0.5F : 0.0F, near_first ? 0.5F : 1.0F),
                       square(1, near_first ? 0.0F : 0.5F, near_first ? 1.0F : 0.5F)};
        const Image picture = drawn(scene, front_view(ModelShow::lit));
        const std::size_t near_channel = near_first ? 0 : 1;
        CHECK(codes_at(picture, 50, 50)[near_channel] > 240);
        CHECK(codes_at(picture, 50, 50)[1 - near_channel] < 20);
        CHECK(codes_at(picture, 12, 12)[1 - near_channel] > 240);
    }
}

TEST_CASE("backs are not seen unless the material has two sides") {
    ModelScene scene;
    scene.parts = {square(0)};
    scene.surfaces = {glowing({1, 1, 1})};
    ModelView behind = front_view(ModelShow::lit);
    behind.yaw = 180;
    CHECK(codes_at(drawn(scene, behind), 50, 50)[0] < 149);
    scene.surfaces[0].is_two_sided = true;
    CHECK(codes_at(drawn(scene, behind), 50, 50)[0] > 240);
    behind.show = ModelShow::normal;  // towards the viewer, which is -z
    CHECK(is_near(codes_at(drawn(scene, behind), 50, 50), {188, 188, 0}));
}

TEST_CASE("masks cut out at their cutoff; blending lies over what is behind, the farthest first") {
    ModelScene scene;
    scene.parts = {square(0, 0.5F, 0.8F), square(1)};
    scene.surfaces = {glowing({1, 0, 0}), glowing({0, 0, 1})};
    scene.surfaces[0].base_color[3] = 0.5F;
    scene.surfaces[0].alpha = AlphaUse::mask;
    scene.surfaces[0].cutoff = 0.5F;
    const ModelView view = front_view(ModelShow::lit);
    CHECK(codes_at(drawn(scene, view), 50, 50)[0] > 240);  // just reached
    scene.surfaces[0].cutoff = 0.51F;
    CHECK(codes_at(drawn(scene, view), 50, 50)[2] > 240);
    scene.surfaces[0].alpha = AlphaUse::blend;
    CHECK(is_near(codes_at(drawn(scene, view), 50, 50), {188, 0, 188}, 3));  // half, in light
    // Three panes, in any order of the list: green nearest, then red, then blue.
    scene.surfaces.push_back(glowing({0, 1, 0}));
    for (Material& surface : scene.surfaces) {
        surface.alpha = AlphaUse::blend;
        surface.base_color[3] = 0.5F;
    }
    scene.parts.push_back(square(2, 0.9F, 0.8F));
    const Image first = drawn(scene, view);
    std::swap(scene.parts[0], scene.parts[2]);
    CHECK(support::equal_pixels(first.view(), support::view_of(drawn(scene, view))));
    const Codes seen = codes_at(first, 50, 50);
    CHECK(seen[1] > seen[0]);
    CHECK(seen[0] > seen[2]);
}

TEST_CASE("coordinates, materials and levels in colours") {
    ModelScene scene;
    scene.parts = {square(0)};
    scene.surfaces = {glowing({1, 1, 1})};
    const Image uv = drawn(scene, front_view(ModelShow::uv));
    CHECK(codes_at(uv, 94, 50)[0] > codes_at(uv, 6, 50)[0] + 100);  // u to the right
    CHECK(codes_at(uv, 50, 94)[1] > codes_at(uv, 50, 6)[1] + 100);  // v downwards
    scene.parts[0].has_coordinates = false;
    const Codes plain = codes_at(drawn(scene, front_view(ModelShow::uv)), 30, 70);
    CHECK(plain[0] == plain[1]);  // gray
    scene.surfaces.push_back(glowing({1, 1, 1}));
    scene.parts.push_back(square(1, 0.5F, 0.3F));
    const Image slots = drawn(scene, front_view(ModelShow::slot));
    for (const auto& [x, surface] : {std::pair{10U, 0U}, std::pair{50U, 1U}}) {
        Codes expected{};
        for (std::size_t c = 0; c < 3; ++c)
            expected[c] = linear_to_srgb8(slot_color(surface)[c]);
        CHECK(is_near(codes_at(slots, x, 50), expected, 6));
    }
    CHECK(is_near(codes_at(drawn(scene, front_view(ModelShow::normal)), 50, 50), {188, 188, 255}));
}

TEST_CASE("levels follow from texels per pixel, and from the sampler") {
    ModelScene scene;
    scene.parts = {square(0)};
    scene.surfaces = {glowing({0, 0, 0})};
    // 92 pixels across: 92 texels are level 0, 184 level 1, 736 level 3.
    const auto color_with = [&](std::uint32_t side, const char* sampler) {
        scene.textures.clear();
        scene.textures.push_back(must(Texture::create({.format = Format::rgba8_srgb,
                                                       .width = side,
                                                       .height = side,
                                                       .levels = full_level_count(side, side)})));
        scene.surfaces[0].base_color_texture = use_of(0, must(parse_sampler(sampler)));
        return codes_at(drawn(scene, front_view(ModelShow::level)), 50, 50);
    };
    const auto expected = [](std::size_t level) {
        Codes codes{};
        for (std::size_t c = 0; c < 3; ++c)
            codes[c] = linear_to_srgb8(level_color(level)[c]);
        return codes;
    };
    CHECK(is_near(color_with(92, "mip=linear"), expected(0), 6));
    CHECK(is_near(color_with(184, "mip=linear"), expected(1), 6));
    CHECK(is_near(color_with(736, "mip=linear"), expected(3), 6));
    CHECK(is_near(color_with(736, "mip=none"), expected(0), 6));
    CHECK(is_near(color_with(736, "mip=nearest bias=1"), expected(4), 6));
    CHECK(is_near(color_with(736, "mip=linear lod=0..2"), expected(2), 6));
    CHECK_FALSE(is_near(expected(2), expected(3), 12));
}

TEST_CASE("transforms and second coordinate sets turn the picture") {
    ModelScene scene;
    scene.parts = {square(0)};
    scene.textures.push_back(texture_of(2, 1, {255, 0, 0, 255, 0, 255, 0, 255}));
    scene.surfaces = {glowing({1, 1, 1})};
    SurfaceTexture use =
        use_of(0, {.mag = Filter::nearest, .min = Filter::nearest, .mip = MipFilter::none});
    const auto left = [&] {
        scene.surfaces[0].emissive_texture = use;
        return codes_at(drawn(scene, front_view(ModelShow::lit)), 20, 50);
    };
    CHECK(left()[0] > 240);
    use.coordinate_set = 1;  // mirrored in the square's second set
    CHECK(left()[1] > 240);
    use.coordinate_set = 0;
    use.matrix = {1, 0, 0.5F, 0, 1, 0};
    CHECK(left()[1] > 240);
}

TEST_CASE("a transform's picture and levels are those of coordinates transformed beforehand") {
    // Every element counts: it shears, turns, and is not as tall as it is wide.
    for (const std::array<float, 6>& m : {std::array{3.0F, 0.0F, 0.1F, 0.0F, 1.0F, 0.2F},
                                          {1.0F, 0.0F, 0.1F, 0.0F, 3.0F, 0.2F},
                                          {0.2F, 3.0F, 0.1F, -1.0F, 0.3F, 0.2F},
                                          {0.2F, -1.0F, 0.1F, 3.0F, 0.3F, 0.2F}})
        for (const ModelShow show : {ModelShow::lit, ModelShow::level})
            for (const std::uint32_t set : {0U, 1U}) {
                ModelScene scene;
                scene.parts = {square(0)};
                scene.textures.push_back(support::random_texture(
                    {.format = Format::rgba8_srgb, .width = 128, .height = 64, .levels = 8}, 5));
                scene.surfaces = {glowing({1, 1, 1})};
                SurfaceTexture use = use_of(0, must(parse_sampler("wrap=repeat aniso=4")));
                use.matrix = m;
                use.coordinate_set = set;
                auto& slot = show == ModelShow::lit ? scene.surfaces[0].emissive_texture
                                                    : scene.surfaces[0].base_color_texture;
                slot = use;
                const Image by_matrix = drawn(scene, front_view(show));
                for (Vertex& vertex : scene.parts[0].vertices) {
                    auto& [u, v] = vertex.coordinates[set];
                    vertex.coordinates[set] = {m[0] * u + m[1] * v + m[2],
                                               m[3] * u + m[4] * v + m[5]};
                }
                slot->matrix = {1, 0, 0, 0, 1, 0};
                const Image by_vertices = drawn(scene, front_view(show));
                CHECK(support::mean_difference(by_matrix.view(), by_vertices.view()) < 0.1);
            }
}

TEST_CASE("a normal map tilts the light, and its scale how far") {
    ModelScene scene;
    scene.parts = {square(0)};
    Texture map = must(Texture::create({.format = Format::rgba8_unorm}));
    std::ranges::copy(support::bytes_of({218, 128, 218, 255}), map.level(0).begin());  // 45 degrees
    scene.textures.push_back(std::move(map));
    Material surface;
    surface.normal_texture = use_of(0);
    scene.surfaces = {surface};
    const ModelView view = front_view(ModelShow::normal);
    const Codes tilted = codes_at(drawn(scene, view), 50, 50);
    // (0.707, 0, 0.707): 0.854 is code 237.
    CHECK(is_near(tilted, {237, 188, 237}, 2));
    scene.surfaces[0].normal_scale = 0;
    CHECK(is_near(codes_at(drawn(scene, view), 50, 50), {188, 188, 255}));
    // Where the picture is mirrored, so is the tilt: across by the tangent, along v by its sign.
    const auto tilted_by = [&](std::initializer_list<int> normal,
                               const std::array<float, 4>& tangent) {
        Texture single = must(Texture::create({.format = Format::rgba8_unorm}));
        std::ranges::copy(support::bytes_of(normal), single.level(0).begin());
        scene.textures[0] = std::move(single);
        scene.surfaces[0].normal_scale = 1;
        for (Vertex& vertex : scene.parts[0].vertices)
            vertex.tangent = tangent;
        return codes_at(drawn(scene, view), 50, 50);
    };
    const std::initializer_list<int> across = {218, 128, 218, 255}, along = {128, 218, 218, 255};
    CHECK(is_near(tilted_by(across, {-1, 0, 0, -1}), {107, 188, 237}, 2));
    CHECK(is_near(tilted_by(across, {1, 0, 0, -1}), {237, 188, 237}, 2));
    CHECK(is_near(tilted_by(along, {1, 0, 0, 1}), {188, 237, 237}, 2));
    CHECK(is_near(tilted_by(along, {1, 0, 0, -1}), {188, 107, 237}, 2));
    CHECK(is_near(tilted_by(along, {-1, 0, 0, -1}), {188, 237, 237}, 2));
    for (Vertex& vertex : scene.parts[0].vertices)
        vertex.tangent = {1, 0, 0, 1};
    // With two channels the third is rebuilt.
    Texture two = must(Texture::create({.format = Format::rg8_unorm}));
    std::ranges::copy(support::bytes_of({218, 128}), two.level(0).begin());
    scene.textures[0] = std::move(two);
    scene.surfaces[0].normal_scale = 1;
    CHECK(is_near(codes_at(drawn(scene, view), 50, 50), tilted, 2));
}

TEST_CASE("broken scenes are errors") {
    ModelScene scene;
    scene.parts = {square(1)};
    scene.surfaces = {Material{}};
    const ModelView view = front_view(ModelShow::lit, 16);
    CHECK(contains(must_fail(draw_model(scene, view)).message, "has material 1, of 1"));
    scene.parts = {square(0)};
    scene.parts[0].indices[5] = 4;
    CHECK(contains(must_fail(draw_model(scene, view)).message, "vertex 4, and 4 vertices"));
    scene.parts[0].indices[5] = 3;
    scene.surfaces[0].normal_texture = use_of(0);
    CHECK(contains(must_fail(draw_model(scene, view)).message, "texture that is not there"));
}

TEST_CASE("names of what is shown, and colour keys below a picture") {
    for (const ModelShow show :
         {ModelShow::lit, ModelShow::uv, ModelShow::normal, ModelShow::slot, ModelShow::level})
        CHECK(find_model_show(name(show)) == show);
    CHECK_FALSE(find_model_show("depth"));
    Image picture = must(Image::create(Format::rgba8_srgb, 120, 40));
    std::ranges::fill(picture.view().row(0), std::byte{9});
    const Image keyed = must(with_keys(
        picture.view(), {{{1, 0, 0, 1}, "first"}, {{0, 1, 0, 1}, "a longer second one"}}));
    CHECK(keyed.width() == 120);
    CHECK(keyed.height() > 70);  // two lines
    CHECK(codes_at(keyed, 5, 0) == Codes{9, 9, 9});
    CHECK(is_near(codes_at(keyed, 20, 60), {255, 0, 0}));
}
