#include <yl/yl.hpp>

#include <cmath>
#include <cstring>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/skies.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

constexpr std::uint32_t side = 64;

Picture face_picture(const Texture& cube, CubeFace face,
                     Orientation orientation = Orientation::none) {
    Picture picture;
    picture.image =
        must(with_orientation(cube.image(0, 0, static_cast<std::uint32_t>(face)), orientation));
    picture.transfer = Transfer::linear;
    return picture;
}

struct Six {
    std::vector<Picture> pictures = {};
    std::vector<std::string> names = {};

    void add(Picture picture, std::string name) {
        pictures.push_back(std::move(picture));
        names.push_back(std::move(name));
    }
    [[nodiscard]] Result<BakedCube> bake(const CubeBakeOptions& options = {}) const {
        std::vector<const Picture*> pointers;
        for (const Picture& picture : pictures)
            pointers.push_back(&picture);
        return bake_cube(pointers, names, options);
    }
};

Texture wavy() {
    return must(texture_in_format(support::cube_of(support::wavy_sky, side), Format::rgba32_float,
                                  Role::hdr));
}

Six straight(const Texture& sky) {
    Six six;
    for (const CubeFace face : all_cube_faces)
        six.add(face_picture(sky, face), std::string(name(face)) + ".png");
    return six;
}

double mean_difference(const Texture& a, const Texture& b) {
    double sum = 0, whole = 0;
    for (std::uint32_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < a.shape().height; ++y)
            for (std::size_t x = 0; x < std::size_t{a.shape().width} * 4; ++x) {
                float p = 0, q = 0;
                std::memcpy(&p, a.image(0, 0, face).row(y).data() + 4 * x, 4);
                std::memcpy(&q, b.image(0, 0, face).row(y).data() + 4 * x, 4);
                sum += std::abs(static_cast<double>(p - q));
                whole += std::abs(static_cast<double>(p));
            }
    return sum / whole;
}

}  // namespace

TEST_CASE("octahedra, paraboloids and halves of panoramas hold a sky, there and back") {
    const Texture sky = wavy();
    for (const CubeLayout layout : {CubeLayout::octahedral, CubeLayout::dual_paraboloid}) {
        CAPTURE(name(layout));
        Picture picture;
        picture.image = must(picture_of_cube(sky, layout, 0, 0, 512));
        picture.transfer = Transfer::linear;
        const Texture back = must(cube_of_picture(picture, {.layout = layout, .face_size = side}));
        CHECK(mean_difference(sky, back) < 0.01);
    }
    for (const CubeLayout layout : all_cube_layouts()) {
        if (is_cut_layout(layout))
            continue;
        CAPTURE(name(layout));
        for (int i = 0; i < 500; ++i) {
            const double up = std::cos(0.37 * i), azimuth = 1.7 * i, flat = std::sqrt(1 - up * up);
            const Direction d = {flat * std::cos(azimuth), up, flat * std::sin(azimuth)};
            if (layout == CubeLayout::half_panorama && up < 0)
                continue;
            const auto place = place_of_direction(layout, d);
            const auto again = direction_of_place(layout, place);
            REQUIRE(again);
            for (std::size_t c = 0; c < 3; ++c)
                CHECK((*again)[c] == doctest::Approx(d[c]).epsilon(1e-6));
        }
    }
    // By hand: the top is in the middle, ahead at the upper edge; the back on the right.
    CHECK(place_of_direction(CubeLayout::octahedral, {0, 1, 0})[0] == doctest::Approx(0.5));
    CHECK(place_of_direction(CubeLayout::octahedral, {0, 0, 1})[1] == doctest::Approx(0));
    CHECK(place_of_direction(CubeLayout::octahedral, {1, 0, 0})[0] == doctest::Approx(1));
    CHECK(place_of_direction(CubeLayout::dual_paraboloid, {0, 0, 1})[0] == doctest::Approx(0.25));
    CHECK(place_of_direction(CubeLayout::dual_paraboloid, {0, 0, -1})[0] == doctest::Approx(0.75));
    CHECK(place_of_direction(CubeLayout::half_panorama, {0, 0, 1})[1] == doctest::Approx(1));
}

TEST_CASE("half a panorama is the upper half of a sky, and that is said") {
    const Texture sky = wavy();
    const Image whole = must(picture_of_cube(sky, CubeLayout::panorama, 0, 0, 256));
    Picture half;
    half.image =
        must(cropped(whole.view(), {0, 0, 256, 64})).format == whole.format()
            ? must(convert(must(cropped(whole.view(), {0, 0, 256, 64})), whole.format(), {}))
            : Image();
    half.transfer = Transfer::linear;
    const Picture* one = &half;
    const BakedCube baked =
        must(bake_cube(std::span(&one, 1), {}, {.format = Format::rgba32_float, .levels = 1}));
    CHECK(contains(baked.source, "half-panorama, by its sides"));
    REQUIRE_FALSE(baked.findings.empty());
    CHECK(contains(baked.findings[0].problem, "below the horizon"));
    // The top face is the same as of the whole.
    Picture full;
    full.image = must(convert(whole.view(), whole.format(), {}));
    full.transfer = Transfer::linear;
    const Texture expected = must(cube_of_picture(full));
    const auto top = static_cast<std::uint32_t>(CubeFace::top);
    CHECK(*must(measure_difference(baked.texture.image(0, 0, top), expected.image(0, 0, top),
                                   {.role = Role::hdr}))
               .relative_error < 0.002);
}

TEST_CASE("what one picture was taken for is said, and what contradicts it") {
    Picture noise;
    noise.image = must(Image::create(Format::rgb8_srgb, 64, 32));
    support::Random random(4);
    support::fill_random(noise.image.view(), random);
    const Picture* one = &noise;
    const BakedCube guessed = must(bake_cube(std::span(&one, 1), {}));
    CHECK(contains(guessed.source, "by its sides"));
    REQUIRE_FALSE(guessed.findings.empty());
    CHECK(contains(guessed.findings[0].problem, "contradicts"));
    const BakedCube asked =
        must(bake_cube(std::span(&one, 1), {}, {.source = {.layout = CubeLayout::panorama}}));
    for (const Finding& finding : asked.findings)
        CHECK_FALSE(contains(finding.problem, "contradicts"));
}

TEST_CASE("what pictures say of their colours and was not applied is said of a cube, once") {
    std::array<Picture, 6> faces;
    std::vector<const Picture*> pointers;
    for (Picture& face : faces) {
        face.image = must(Image::create(Format::rgba8_srgb, 4, 4));
        for (std::uint32_t y = 0; y < 4; ++y)
            std::ranges::fill(face.image.view().row(y), std::byte{90});
        face.info.file_format = "PNG";
        face.info.unapplied = "the colour profile 'P3'";
        face.info.remarks = {"the colour profile 'P3' was kept, not applied"};
        pointers.push_back(&face);
    }
    const std::vector<std::string> names = {"right", "left", "top", "bottom", "front", "back"};
    const BakedCube baked = must(bake_cube(pointers, names));
    const auto said = std::ranges::count_if(
        baked.findings, [](const Finding& finding) { return contains(finding.problem, "'P3'"); });
    CHECK(said == 1);
}

TEST_CASE("skies that nearly join are built, and the edge is named") {
    const Texture sky = wavy();
    Six six = straight(sky);
    six.names = {"q", "w", "x1", "zz", "foo", "bar"};
    // A broad band along one edge of the front is brighter: a seam, and still that face's place.
    for (std::uint32_t y = 0; y < side / 2; ++y)
        for (std::size_t x = 0; x < side * 4; ++x) {
            float value = 0;
            std::byte* at = six.pictures[4].image.view().row(y).data() + 4 * x;
            std::memcpy(&value, at, 4);
            value = x % 4 == 3 ? value : value * 1.3F;
            std::memcpy(at, &value, 4);
        }
    const BakedCube built = must(six.bake({.top = 2, .front = 4}));
    const bool is_said = std::ranges::any_of(built.findings, [](const Finding& finding) {
        return contains(finding.problem, "nearly join") || contains(finding.problem, "join well");
    });
    CHECK(is_said);
    CHECK(mean_difference(must(texture_in_format(built.texture, Format::rgba32_float, Role::hdr)),
                          sky) < 0.2);
}

TEST_CASE("skies named as games name them find their turns by their edges") {
    const Texture sky = wavy();
    for (const Orientation top :
         {Orientation::none, Orientation::quarter_right, Orientation::quarter_left})
        for (const bool exchanged : {false, true}) {
            CAPTURE(name(top));
            CAPTURE(exchanged);
            Six six;
            six.add(face_picture(sky, exchanged ? CubeFace::left : CubeFace::right),
                    "desert_rt.tga");
            six.add(face_picture(sky, exchanged ? CubeFace::right : CubeFace::left),
                    "desert_lf.tga");
            six.add(face_picture(sky, CubeFace::top, top), "desert_up.tga");
            six.add(face_picture(sky, CubeFace::bottom, inverse(top)), "desert_dn.tga");
            six.add(face_picture(sky, CubeFace::front), "desert_ft.tga");
            six.add(face_picture(sky, CubeFace::back), "desert_bk.tga");
            const BakedCube baked = must(six.bake({.format = Format::rgba32_float, .levels = 1}));
            CHECK(mean_difference(baked.texture, sky) < 1e-6);
            CHECK(baked.findings.empty());
            if (exchanged || top != Orientation::none) {
                CHECK(contains(baked.source, "as games do"));
                CHECK_FALSE(baked.changes.empty());
            }
        }
    CHECK_FALSE(are_game_names(
        std::array<std::string, 6>{"a_right", "a_left", "a_top", "a_bottom", "a_front", "a_back"}));
}

TEST_CASE("faces of several sizes become one size when it is asked for") {
    Six six = straight(wavy());
    six.pictures[2].image = must(resize(std::as_const(six.pictures[2]).image.view(), 32, 32));
    CHECK(contains(must_fail(six.bake()).message, "one size"));
    const BakedCube baked =
        must(six.bake({.format = Format::rgba32_float, .levels = 1, .source = {.face_size = 48}}));
    CHECK(baked.texture.shape().width == 48);
}
