// Pictures to cubes by one call, and textures back to pictures.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/skies.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

constexpr std::uint32_t side = 32;

bool has_problem(const Findings& findings, const std::string& part) {
    return std::ranges::any_of(findings,
                               [&](const Finding& f) { return contains(f.problem, part); });
}

/// Six pictures of one sky, as files would give them.
struct SixPictures {
    std::vector<Picture> pictures = std::vector<Picture>(6);
    std::vector<std::string> names = {"a_right.png",  "a_left.png",  "a_top.png",
                                      "a_bottom.png", "a_front.png", "a_back.png"};

    explicit SixPictures(Format format = Format::rgb8_srgb,
                         const support::Sky& sky = support::wavy_sky) {
        const Texture cube = support::cube_of(sky, side);
        for (std::uint32_t face = 0; face < 6; ++face) {
            Picture& picture = pictures[face];
            picture.transfer = info(format).transfer;
            picture.image = must(
                convert(cube.image(0, 0, face), format, {.source_transfer = Transfer::linear}));
        }
    }

    void turn(std::size_t image, Orientation orientation) {
        pictures[image].image = must(with_orientation(pictures[image].image.view(), orientation));
    }

    [[nodiscard]] Result<BakedCube> bake(const CubeBakeOptions& options = {}) const {
        std::vector<const Picture*> pointers;
        for (const Picture& picture : pictures)
            pointers.push_back(&picture);
        return bake_cube(pointers, names, options);
    }
};

Result<BakedCube> bake_one(const Picture& picture, const CubeBakeOptions& options = {}) {
    const Picture* one = &picture;
    return bake_cube(std::span(&one, 1), {}, options);
}

bool equal_level(const Texture& a, const Texture& b, std::uint32_t level) {
    return std::ranges::equal(a.level(level), b.level(level));
}

Picture picture_of(Image image, Transfer transfer) {
    Picture picture;
    picture.transfer = transfer;
    picture.image = std::move(image);
    return picture;
}

}  // namespace

TEST_CASE("six named pictures become a cube with a full chain, without any finding") {
    const BakedCube baked = must(SixPictures().bake());
    const TextureShape& shape = baked.texture.shape();
    CHECK(baked.findings.empty());
    CHECK(baked.changes.empty());
    CHECK_FALSE(baked.followed_edges);
    CHECK(shape.format == Format::rgba8_srgb);
    CHECK(shape.width == side);
    CHECK(shape.levels == 6);
    CHECK(shape.faces == 6);
    CHECK(contains(baked.source, "by their names"));
    REQUIRE(baked.order.has_value());
    CHECK(baked.order->is_sure);
    CHECK(baked.order->joins);
}

TEST_CASE("pictures in floating point become light") {
    const BakedCube baked = must(SixPictures(Format::rgb32_float).bake());
    CHECK(baked.texture.shape().format == Format::rgba16_float);
    CHECK(must(SixPictures(Format::rgb32_float).bake({.format = Format::rgb9e5_float}))
              .texture.shape()
              .format == Format::rgb9e5_float);
    CHECK(
        must(SixPictures(Format::rgb32_float).bake({.role = Role::color})).texture.shape().format ==
        Format::rgba8_srgb);
}

TEST_CASE("the order of the arguments does not matter where there are names") {
    SixPictures mixed;
    const Texture straight = must(SixPictures().bake()).texture;
    std::swap(mixed.pictures[0], mixed.pictures[4]);
    std::swap(mixed.names[0], mixed.names[4]);
    std::swap(mixed.pictures[1], mixed.pictures[2]);
    std::swap(mixed.names[1], mixed.names[2]);
    const BakedCube baked = must(mixed.bake());
    CHECK(baked.findings.empty());
    for (std::uint32_t level = 0; level < 6; ++level)
        CHECK(equal_level(baked.texture, straight, level));
}

TEST_CASE("names against edges: both are said, and the edges followed only when asked") {
    SixPictures scrambled;
    const Texture straight = must(SixPictures().bake()).texture;
    std::swap(scrambled.pictures[0], scrambled.pictures[2]);
    scrambled.turn(5, Orientation::half);
    const BakedCube kept = must(scrambled.bake());
    REQUIRE(kept.findings.size() == 1);
    CHECK(contains(kept.findings[0].problem, "right and top are exchanged"));
    CHECK(contains(kept.findings[0].problem, "the back is turned half round"));
    CHECK_FALSE(equal_level(kept.texture, straight, 0));
    const BakedCube followed = must(scrambled.bake({.reorder = true}));
    CHECK(followed.findings.empty());
    CHECK(followed.followed_edges);
    CHECK(followed.changes.size() == 2);
    for (std::uint32_t level = 0; level < 6; ++level)
        CHECK(equal_level(followed.texture, straight, level));
}

TEST_CASE("without names the edges order the pictures, and hints settle which is up") {
    SixPictures nameless;
    const Texture straight = must(SixPictures().bake()).texture;
    nameless.names = {"x1y", "q", "foo", "bar", "w", "zz"};
    std::swap(nameless.pictures[0], nameless.pictures[3]);
    nameless.turn(1, Orientation::quarter_left);
    const BakedCube unsure = must(nameless.bake());
    REQUIRE(unsure.findings.size() == 1);
    CHECK(contains(unsure.findings[0].problem, "which of them is above"));
    CHECK_FALSE(must(measure_cube_seams(unsure.texture)).shows());
    const BakedCube told = must(nameless.bake({.top = 2, .front = 4}));
    CHECK(told.findings.empty());
    CHECK(equal_level(told.texture, straight, 0));
}

TEST_CASE("nameless pictures that do not join, or join in any order, are refused") {
    SixPictures strangers;
    strangers.names = {"x1y", "q", "foo", "bar", "w", "zz"};
    for (std::size_t i = 0; i < 6; ++i)
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::byte& byte : strangers.pictures[i].image.view().row(y))
                byte = static_cast<std::byte>(45 * i);
    const Error apart = must_fail(strangers.bake());
    CHECK(apart.kind == ErrorKind::usage);
    CHECK(contains(apart.message, "do not join"));
    CHECK(contains(apart.message, " as "));
    // All alike along their edges, with another mark in each middle.
    for (std::size_t i = 0; i < 6; ++i)
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::size_t x = 0; x < std::size_t{side} * 3; ++x)
                strangers.pictures[i].image.view().row(y)[x] =
                    static_cast<std::byte>(y > 8 && y < 24 && x > 24 && x < 72 ? 40 * i : 128);
    CHECK(contains(must_fail(strangers.bake()).message, "do not tell the order"));
    strangers.names = SixPictures().names;
    const BakedCube named = must(strangers.bake({.reorder = true}));
    CHECK_FALSE(named.followed_edges);
}

TEST_CASE("one way to read alpha for all six pictures") {
    SixPictures six(Format::rgba8_srgb);
    for (Picture& picture : six.pictures)
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::uint32_t x = 0; x < side; ++x)
                picture.image.view().row(y)[x * 4 + 3] = std::byte{128};
    const BakedCube straight = must(six.bake());
    CHECK(straight.texture.metadata.alpha == AlphaMode::straight);
    for (Picture& picture : six.pictures)
        must(premultiply(picture.image.view(), Transfer::srgb));
    SixPictures mixed(Format::rgba8_srgb);
    for (std::size_t i : {0U, 2U, 3U, 4U, 5U}) {
        mixed.pictures[i] = std::move(six.pictures[i]);
        mixed.pictures[i].alpha = AlphaMode::premultiplied;
    }
    // The opaque one is both, and no copy is made of it.
    const BakedCube opaque = must(mixed.bake());
    CHECK(opaque.texture.metadata.alpha == AlphaMode::premultiplied);
    CHECK_FALSE(has_problem(opaque.findings, "multiplied by alpha"));
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x)
            mixed.pictures[1].image.view().row(y)[x * 4 + 3] = std::byte{128};
    const BakedCube joined = must(mixed.bake());
    CHECK(joined.texture.metadata.alpha == AlphaMode::premultiplied);
    CHECK(has_problem(joined.findings, "a_left.png: its colours are multiplied"));
    CHECK(std::ranges::equal(joined.texture.image(0, 0, 1).row(3),
                             std::as_const(six.pictures[1].image).view().row(3)));
}

TEST_CASE("pictures that are unlike the others are named") {
    SixPictures odd;
    odd.pictures[3].image = must(Image::create(Format::rgb8_srgb, 16, 16));
    CHECK(contains(must_fail(odd.bake()).message, "a_bottom.png is 16 x 16"));
    odd.pictures[3].image = must(Image::create(Format::rgb8_srgb, side, 16));
    CHECK(contains(must_fail(odd.bake()).message, "faces are square"));
    const BakedCube squared = must(odd.bake({.source = {.face_size = 24}}));
    CHECK(squared.texture.shape().width == 24);
    CHECK(has_problem(squared.findings, "a_bottom.png is 32 x 16: it is resized to a square"));
    SixPictures mixed;
    mixed.pictures[3].image = must(convert(mixed.pictures[3], Format::rgba8_srgb)).image;
    const BakedCube of_two_kinds = must(mixed.bake());
    CHECK(support::equal_pixels(of_two_kinds.texture.image(0, 0, 3),
                                support::surface_of(must(SixPictures().bake()).texture, 0, 0, 3)));
    CHECK(has_problem(of_two_kinds.findings, "a_bottom.png holds rgba8-srgb and"));
    const std::vector<const Picture*> two = {&odd.pictures[0], &odd.pictures[1]};
    CHECK(contains(must_fail(bake_cube(two, odd.names)).message, "not of 2"));
}

TEST_CASE("crosses: their order is checked as that of six pictures is") {
    SixPictures six;
    const Texture straight = must(six.bake()).texture;
    Image cross = must(picture_of_cube(straight, CubeLayout::horizontal_cross));
    const BakedCube baked = must(bake_one(picture_of(std::move(cross), Transfer::srgb)));
    CHECK(baked.findings.empty());
    CHECK(contains(baked.source, "horizontal-cross"));
    CHECK(equal_level(baked.texture, straight, 0));
    // A row whose second half somebody laid the other way round.
    six.turn(2, Orientation::quarter_right);
    const Texture wrong = must(six.bake()).texture;
    Image row = must(picture_of_cube(wrong, CubeLayout::row));
    const Picture picture = picture_of(std::move(row), Transfer::srgb);
    const BakedCube noticed = must(bake_one(picture));
    REQUIRE(noticed.findings.size() == 1);
    CHECK(contains(noticed.findings[0].problem, "the top is turned a quarter to the right"));
    const BakedCube followed = must(bake_one(picture, {.reorder = true}));
    CHECK(equal_level(followed.texture, straight, 0));
}

TEST_CASE("faces are turned, and stored sets of other worlds brought home") {
    const SixPictures six;
    const Texture straight = must(six.bake()).texture;
    CubeBakeOptions options{.levels = 1};
    options.orientations[4] = Orientation::mirror;
    const BakedCube baked = must(six.bake(options));
    CHECK(baked.texture.shape().levels == 1);
    const Image mirrored = must(with_orientation(straight.image(0, 0, 4), Orientation::mirror));
    CHECK(support::equal_pixels(baked.texture.image(0, 0, 4), mirrored.view()));
    CHECK_FALSE(baked.findings.empty());  // it does not join any more

    const CubeConvention z_up = must(parse_cube_convention("z-up"));
    const Texture stored = must(with_convention(straight, standard_cube_convention(), z_up));
    Image row = must(picture_of_cube(stored, CubeLayout::row));
    CubeBakeOptions foreign;
    foreign.convention = z_up;
    const BakedCube home = must(bake_one(picture_of(std::move(row), Transfer::srgb), foreign));
    CHECK(equal_level(home.texture, straight, 0));
}

TEST_CASE("given levels are checked and kept") {
    const SixPictures six;
    const Texture chain = must(six.bake()).texture;
    const auto level_picture = [&](std::uint32_t level) {
        Image row = must(picture_of_cube(chain, CubeLayout::row, level));
        return std::make_shared<const Picture>(picture_of(std::move(row), Transfer::srgb));
    };
    Image top = must(picture_of_cube(chain, CubeLayout::row));
    const Picture picture = picture_of(std::move(top), Transfer::srgb);
    CubeBakeOptions options;
    options.given = {{.level = 2, .pictures = {level_picture(2)}}};
    CHECK(equal_level(must(bake_one(picture, options)).texture, chain, 2));
    options.given = {{.level = 2, .pictures = {level_picture(3)}}};
    CHECK(contains(must_fail(bake_one(picture, options)).message,
                   "level 2 has faces of 4 texels; it should have 8"));
    options.given = {{.level = 9, .pictures = {level_picture(3)}}};
    CHECK(contains(must_fail(bake_one(picture, options)).message, "levels 1 to 5"));
    options.prefilter = CubePrefilter::specular;
    CHECK(must_fail(bake_one(picture, options)).kind == ErrorKind::usage);
    CHECK(contains(must_fail(bake_one(picture, {.levels = 7})).message, "1 to 6 levels"));
}

TEST_CASE("prefiltered cubes carry what they are for in their notes, also through a file") {
    const SixPictures six(Format::rgb32_float);
    const BakedCube specular = must(six.bake(
        {.prefilter = CubePrefilter::specular, .specular = {.face_size = 16, .samples = 32}}));
    const auto file = must(texture_file_bytes("ktx2", specular.texture));
    const TextureFile back = must(read_texture(file));
    CHECK(roughness_of_levels(back.texture) == roughness_of_levels(specular.texture));
    CHECK(back.texture.shape().levels == 3);
    const BakedCube diffuse =
        must(six.bake({.prefilter = CubePrefilter::diffuse, .specular = {.face_size = 4}}));
    REQUIRE(diffuse.harmonics.has_value());
    const auto noted = parse_harmonics(diffuse.texture.metadata.key_values.at(irradiance_note));
    REQUIRE(noted.has_value());
    CHECK(noted->radiance[0][0] == doctest::Approx(diffuse.harmonics->radiance[0][0]));
}

TEST_CASE("surfaces come back as pictures") {
    const Texture texture = support::random_texture({.format = Format::rgba8_srgb,
                                                     .width = 5,
                                                     .height = 5,
                                                     .levels = 2,
                                                     .layers = 2,
                                                     .faces = 6,
                                                     .is_array = true},
                                                    3);
    const Picture picture = must(picture_of_surface(texture, {.level = 1, .layer = 1, .face = 4}));
    CHECK(support::equal_pixels(picture.image.view(), texture.image(1, 1, 4)));
    CHECK(picture.transfer == Transfer::srgb);
    CHECK(must_fail(picture_of_surface(texture, {.level = 2})).kind == ErrorKind::usage);
    CHECK(must_fail(picture_of_surface(texture, {.face = 6})).kind == ErrorKind::usage);
    CHECK(must_fail(picture_of_surface(texture, {.slice = 1})).kind == ErrorKind::usage);
    Texture volume = support::random_texture(
        {.format = Format::r8_unorm, .width = 3, .height = 2, .depth = 4}, 4);
    volume.metadata.swizzle = gray_swizzle;
    const Picture slice = must(picture_of_surface(volume, {.slice = 2}));
    CHECK(slice.swizzle == gray_swizzle);
    CHECK(std::equal(slice.image.view().data, slice.image.view().data + 6,
                     volume.level(0).data() + 12));
}
