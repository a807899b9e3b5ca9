// Faces, directions, layouts and conventions against the tables of the standards.
#include <numbers>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/skies.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

using std::numbers::pi;

/// OpenGL 4.6, table 8.19, and Vulkan 1.3, table "Cube map face and coordinate selection", as they
/// are printed: for each face the direction's coordinate that is greatest, and what sc and tc are.
struct TableRow {
    CubeFace face;
    Direction major;
    Direction sc, tc;  ///< to be multiplied with the direction
};
const TableRow table[] = {
    {CubeFace::right, {1, 0, 0}, {0, 0, -1}, {0, -1, 0}},
    {CubeFace::left, {-1, 0, 0}, {0, 0, 1}, {0, -1, 0}},
    {CubeFace::top, {0, 1, 0}, {1, 0, 0}, {0, 0, 1}},
    {CubeFace::bottom, {0, -1, 0}, {1, 0, 0}, {0, 0, -1}},
    {CubeFace::front, {0, 0, 1}, {1, 0, 0}, {0, -1, 0}},
    {CubeFace::back, {0, 0, -1}, {-1, 0, 0}, {0, -1, 0}},
};

double dot(const Direction& a, const Direction& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

void check_same_texels(const Texture& a, const Texture& b) {
    REQUIRE(a.shape().width == b.shape().width);
    for (std::uint32_t face = 0; face < 6; ++face)
        CHECK(support::equal_pixels(a.image(0, 0, face), b.image(0, 0, face)));
}

Picture picture_from(Image image) {
    Picture picture;
    picture.transfer = Transfer::linear;
    picture.image = std::move(image);
    return picture;
}

}  // namespace

TEST_CASE("directions meet the faces as the standards' tables say, and back") {
    support::Random random(3);
    std::uniform_real_distribution<double> any(-1, 1);
    for (int i = 0; i < 2000; ++i) {
        const Direction d = {any(random), any(random), any(random)};
        const FacePoint point = face_point(d);
        const TableRow& row = table[static_cast<std::size_t>(point.face)];
        CHECK(row.face == point.face);
        const double major = dot(row.major, d);
        for (const double coordinate : d)
            CHECK(major >= std::abs(coordinate) - 1e-12);
        CHECK(point.s == doctest::Approx(0.5 * (dot(row.sc, d) / major + 1)));
        CHECK(point.t == doctest::Approx(0.5 * (dot(row.tc, d) / major + 1)));
        const Direction back = direction_at(point);
        for (std::size_t c = 0; c < 3; ++c)
            CHECK(back[c] == doctest::Approx(d[c] / major));
    }
}

TEST_CASE("texels cover the sphere, and those in a face's middle cover most") {
    for (const std::uint32_t size : {1U, 2U, 7U, 32U}) {
        double sum = 0;
        for (std::uint32_t y = 0; y < size; ++y)
            for (std::uint32_t x = 0; x < size; ++x)
                sum += texel_solid_angle(x, y, size);
        CHECK(6 * sum == doctest::Approx(4 * pi));
    }
    CHECK(texel_solid_angle(0, 0, 1) == doctest::Approx(4 * pi / 6));
    // In the middle a texel is seen straight on: its area over the squared distance.
    CHECK(texel_solid_angle(500, 500, 1001) == doctest::Approx(4.0 / 1001 / 1001).epsilon(1e-5));
    CHECK(texel_solid_angle(0, 0, 1001) ==
          doctest::Approx(4.0 / 1001 / 1001 / std::pow(3, 1.5)).epsilon(0.01));
}

TEST_CASE("crosses, rows and columns give back every texel") {
    const Texture cube = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 6, .height = 6, .faces = 6}, 5);
    for (const CubeLayout layout : {CubeLayout::horizontal_cross, CubeLayout::vertical_cross,
                                    CubeLayout::row, CubeLayout::column}) {
        CAPTURE(name(layout));
        const Picture picture = picture_from(must(picture_of_cube(cube, layout)));
        check_same_texels(must(cube_of_picture(picture)), cube);
        CHECK(find_cube_layout(name(layout)) == layout);
        CHECK(is_cut_layout(layout));
    }
}

TEST_CASE("in crosses neighbours lie beside each other as they meet on the cube") {
    const Texture cube = support::cube_of(support::wavy_sky, 32);
    struct Meeting {
        CubeLayout layout;
        std::uint32_t column, row;  ///< of the left or upper face
        bool is_across;
    };
    for (const Meeting& at : {Meeting{CubeLayout::horizontal_cross, 0, 1, true},
                              {CubeLayout::horizontal_cross, 1, 1, true},
                              {CubeLayout::horizontal_cross, 2, 1, true},
                              {CubeLayout::horizontal_cross, 1, 0, false},
                              {CubeLayout::horizontal_cross, 1, 1, false},
                              {CubeLayout::vertical_cross, 0, 1, true},
                              {CubeLayout::vertical_cross, 1, 1, true},
                              {CubeLayout::vertical_cross, 1, 0, false},
                              {CubeLayout::vertical_cross, 1, 1, false},
                              {CubeLayout::vertical_cross, 1, 2, false}}) {
        const Image picture = must(picture_of_cube(cube, at.layout));
        double max = 0;
        for (std::uint32_t i = 0; i < 32; ++i) {
            const std::uint32_t x = at.is_across ? at.column * 32 + 31 : at.column * 32 + i;
            const std::uint32_t y = at.is_across ? at.row * 32 + i : at.row * 32 + 31;
            const float* a = support::pixel_at(picture.view(), x, y);
            const float* b = support::pixel_at(picture.view(), x + (at.is_across ? 1 : 0),
                                               y + (at.is_across ? 0 : 1));
            for (int c = 0; c < 3; ++c)
                max = std::max(max, static_cast<double>(std::abs(a[c] - b[c])));
        }
        CHECK(max < 0.05);
    }
}

TEST_CASE("panoramas and balls look where they should") {
    const auto check_place = [](CubeLayout layout, const Direction& d, double u, double v) {
        CAPTURE(name(layout));
        const auto place = place_of_direction(layout, d);
        CHECK(place[0] == doctest::Approx(u));
        CHECK(place[1] == doctest::Approx(v));
        const auto back = direction_of_place(layout, {u, v});
        REQUIRE(back.has_value());
        const Direction wanted = support::unit(d), found = support::unit(*back);
        for (std::size_t c = 0; c < 3; ++c)
            CHECK(found[c] == doctest::Approx(wanted[c]));
    };
    check_place(CubeLayout::panorama, {0, 0, 1}, 0.5, 0.5);   // the middle is the front
    check_place(CubeLayout::panorama, {1, 0, 0}, 0.75, 0.5);  // the right is right of it
    check_place(CubeLayout::panorama, {-1, 0, 0}, 0.25, 0.5);
    check_place(CubeLayout::panorama, {0, 1, 1}, 0.5, 0.25);  // upwards is up
    check_place(CubeLayout::angular_map, {0, 0, 1}, 0.5, 0.5);
    check_place(CubeLayout::angular_map, {1, 0, 0}, 0.75, 0.5);
    check_place(CubeLayout::angular_map, {0, 1, 0}, 0.5, 0.25);
    check_place(CubeLayout::angular_map, {0, -1, -1}, 0.5, 0.875);
    check_place(CubeLayout::mirror_ball, {0, 0, -1}, 0.5, 0.5);  // whoever took the photograph
    check_place(CubeLayout::mirror_ball, {1, 0, 0}, 0.5 + std::sqrt(0.5) / 2, 0.5);
    check_place(CubeLayout::mirror_ball, {0, 1, 0}, 0.5, 0.5 - std::sqrt(0.5) / 2);
    CHECK(place_of_direction(CubeLayout::panorama, {0, 1, 0})[1] == doctest::Approx(0));
    CHECK_FALSE(direction_of_place(CubeLayout::angular_map, {0.01, 0.01}).has_value());
}

TEST_CASE("where a panorama begins shows in no face, however small its texels are there") {
    for (const std::uint32_t width : {64U, 1024U}) {  // enlarged, and averaged
        Image image = must(Image::create(Format::rgba32_float, width, width / 2));
        Image turned = must(Image::create(Format::rgba32_float, width, width / 2));
        support::Random random(9);
        std::uniform_real_distribution<float> any(0, 1);
        for (std::uint32_t y = 0; y < width / 2; ++y) {
            auto* from = reinterpret_cast<float*>(image.view().row(y).data());
            auto* to = reinterpret_cast<float*>(turned.view().row(y).data());
            std::generate_n(from, 4 * width, [&] { return any(random); });
            std::rotate_copy(from, from + 2 * width, from + 4 * width, to);
        }
        const CubeSourceOptions options{.layout = CubeLayout::panorama, .face_size = 16};
        const Texture cube = must(cube_of_picture(picture_from(std::move(image)), options));
        const Texture other = must(cube_of_picture(picture_from(std::move(turned)), options));
        // Half a turn about the vertical: front and back are exchanged, left and right.
        constexpr std::uint32_t from[] = {0, 1, 4, 5}, to[] = {1, 0, 5, 4};
        for (std::size_t i = 0; i < 4; ++i)
            for (std::uint32_t y = 0; y < 16; ++y)
                for (std::uint32_t x = 0; x < 16; ++x)
                    CHECK(support::pixel_at(cube.image(0, 0, from[i]), x, y)[0] ==
                          doctest::Approx(support::pixel_at(other.image(0, 0, to[i]), x, y)[0])
                              .epsilon(0.001));
    }
}

TEST_CASE("faces to a panorama and back: within 0.5 % at equal angular resolution") {
    for (const auto& sky : {support::wavy_sky, support::clear_sky}) {
        const Texture cube = support::cube_of(sky, 64);
        for (const CubeLayout layout : {CubeLayout::panorama, CubeLayout::angular_map}) {
            // Discs are finest in their middle: the rim needs more pixels.
            const std::uint32_t width = layout == CubeLayout::panorama ? 256 : 384;
            const Picture picture = picture_from(must(picture_of_cube(cube, layout, 0, 0, width)));
            const Texture back =
                must(cube_of_picture(picture, {.layout = layout, .face_size = 64}));
            double error = 0, sum = 0;
            for (std::uint32_t face = 0; face < 6; ++face)
                for (std::uint32_t y = 0; y < 64; ++y)
                    for (std::uint32_t x = 0; x < 64; ++x)
                        for (int c = 0; c < 3; ++c) {
                            const auto a = static_cast<double>(
                                support::pixel_at(cube.image(0, 0, face), x, y)[c]);
                            const auto b = static_cast<double>(
                                support::pixel_at(back.image(0, 0, face), x, y)[c]);
                            error += std::abs(a - b);
                            sum += a;
                        }
            CAPTURE(name(layout));
            MESSAGE("mean error " << 100 * error / sum << " %");
            CHECK(error / sum < 0.005);
        }
    }
}

TEST_CASE("a picture's sides tell its layout") {
    CHECK(possible_cube_layouts(512, 384).front() == CubeLayout::horizontal_cross);
    CHECK(possible_cube_layouts(384, 512).front() == CubeLayout::vertical_cross);
    CHECK(possible_cube_layouts(96, 16).front() == CubeLayout::row);
    CHECK(possible_cube_layouts(16, 96).front() == CubeLayout::column);
    CHECK(possible_cube_layouts(512, 256).front() == CubeLayout::panorama);
    CHECK(possible_cube_layouts(100, 100).front() == CubeLayout::angular_map);
    CHECK(possible_cube_layouts(100, 99).empty());
    const Picture odd = picture_from(must(Image::create(Format::rgba8_unorm, 100, 99)));
    CHECK(contains(must_fail(cube_of_picture(odd)).message, "100 x 99"));
    CHECK(contains(must_fail(cube_of_picture(odd, {.layout = CubeLayout::row})).message, "6 to 1"));
    const Picture cross = picture_from(must(Image::create(Format::rgba8_unorm, 16, 12)));
    CHECK(contains(must_fail(cube_of_picture(cross, {.face_size = 8})).message, "4 texels"));
}

TEST_CASE("conventions: every one there and back, and where their faces come from") {
    const Texture cube = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 3, .height = 3, .levels = 2, .faces = 6}, 8);
    for (const CubeConvention& convention : all_cube_conventions()) {
        CAPTURE(convention.name);
        const Texture there = must(with_convention(cube, standard_cube_convention(), convention));
        check_same_texels(must(with_convention(there, convention, standard_cube_convention())),
                          cube);
        const CubeConvention parsed = must(parse_cube_convention(cube_convention_text(convention)));
        CHECK(parsed.faces == convention.faces);
        CHECK(parsed.right_up_ahead == convention.right_up_ahead);
    }
    const auto stored = [&](const char* name) {
        return must(
            with_convention(cube, standard_cube_convention(), must(parse_cube_convention(name))));
    };
    // +Z is behind somebody who looks along -Z.
    CHECK(support::equal_pixels(support::surface_of(stored("right-handed"), 0, 0, 4),
                                cube.image(0, 0, 5)));
    CHECK(support::equal_pixels(support::surface_of(stored("right-handed"), 0, 0, 0),
                                cube.image(0, 0, 0)));
    // With z up, +Z is the top and +Y ahead.
    CHECK(support::equal_pixels(support::surface_of(stored("z-up"), 0, 0, 4), cube.image(0, 0, 2)));
    CHECK(support::equal_pixels(support::surface_of(stored("z-up"), 0, 0, 2), cube.image(0, 0, 4)));
    CHECK(
        support::equal_pixels(support::surface_of(stored("y-down"), 0, 0, 2), cube.image(0, 0, 3)));
    CHECK(
        support::equal_pixels(support::surface_of(stored("round"), 0, 0, 0), cube.image(0, 0, 4)));
    const Image flipped = must(with_orientation(cube.image(1, 0, 2), Orientation::flip));
    CHECK(
        support::equal_pixels(support::surface_of(stored("bottom-rows"), 1, 0, 2), flipped.view()));
    const Image mirrored = must(with_orientation(cube.image(0, 0, 4), Orientation::mirror));
    CHECK(support::equal_pixels(support::surface_of(stored("from-outside"), 0, 0, 4),
                                mirrored.view()));
    for (const char* wrong : {"sideways", "+x-z-y", "+x-x-y -x+z-y +y+x+z -y+x-z +z+x-y -z-x-y",
                              "+x-z-y +x-z-y +y+x+z -y+x-z +z+x-y -z-x-y"})
        CHECK_FALSE(parse_cube_convention(wrong));
}

TEST_CASE("turns add up, and have their opposites") {
    for (const Orientation a : all_orientations) {
        CHECK(combined(a, inverse(a)) == Orientation::none);
        for (const Orientation b : all_orientations) {
            const Texture source =
                support::random_texture({.format = Format::r8_unorm, .width = 3, .height = 2}, 4);
            const Image one = must(with_orientation(source.image(0), a));
            const Image both = must(with_orientation(one.view(), b));
            const Image at_once = must(with_orientation(source.image(0), combined(a, b)));
            CHECK(support::equal_pixels(both.view(), at_once.view()));
            CHECK(mirrors(combined(a, b)) == (mirrors(a) != mirrors(b)));
        }
    }
}

TEST_CASE("six faces have to be alike") {
    std::array<Image, 6> images;
    std::array<ConstImageView, 6> views;
    for (std::size_t i = 0; i < 6; ++i) {
        images[i] = must(Image::create(Format::rgba8_unorm, 4, i == 3 ? 5U : 4U));
        views[i] = images[i].view();
    }
    CHECK(contains(must_fail(cube_of_faces(views)).message, "bottom face is 4 x 5"));
    images[3] = must(Image::create(Format::rgba8_unorm, 8, 8));
    views[3] = images[3].view();
    CHECK(contains(must_fail(cube_of_faces(views)).message, "8 x 8"));
    images[3] = must(Image::create(Format::rgba8_srgb, 4, 4));
    views[3] = images[3].view();
    CHECK(contains(must_fail(cube_of_faces(views)).message, "rgba8-srgb"));
}
