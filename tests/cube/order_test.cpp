// Faces put in order by names and by edges.
#include <algorithm>
#include <cstring>
#include <limits>
#include <numeric>
#include <set>
#include <yl/yl.hpp>

#include "dawn.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/skies.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

/// Six images of a cube in any order, turned, some mirrored.
struct Scramble {
    std::array<std::size_t, 6> shown{};  ///< of each image, the face that it shows
    std::array<Orientation, 6> orientations{};
    std::array<Image, 6> images;

    Scramble(const Texture& cube, support::Random& random, std::size_t mirrored) {
        std::iota(shown.begin(), shown.end(), 0);
        std::shuffle(shown.begin(), shown.end(), random);
        for (std::size_t i = 0; i < 6; ++i) {
            orientations[i] = all_orientations[random() % 4];  // not mirrored
            if (i < mirrored)
                orientations[i] = combined(orientations[i], Orientation::mirror);
            images[i] = must(with_orientation(
                cube.image(0, 0, static_cast<std::uint32_t>(shown[i])), orientations[i]));
        }
    }

    [[nodiscard]] std::array<ConstImageView, 6> views() const {
        std::array<ConstImageView, 6> result;
        for (std::size_t i = 0; i < 6; ++i)
            result[i] = images[i].view();
        return result;
    }

    [[nodiscard]] std::size_t image_of(CubeFace face) const {
        return static_cast<std::size_t>(
            std::find(shown.begin(), shown.end(), static_cast<std::size_t>(face)) - shown.begin());
    }

    /// Whether the arrangement shows the cube as it was.
    [[nodiscard]] bool is_undone_by(const FaceArrangement& faces) const {
        for (std::size_t face = 0; face < 6; ++face)
            if (shown[faces[face].image] != face ||
                faces[face].orientation != inverse(orientations[faces[face].image]))
                return false;
        return true;
    }
};

Texture dawn(std::uint32_t size) {
    const auto faces = must(glasshouse::dawn_faces(size));
    std::array<ConstImageView, 6> views;
    for (std::size_t i = 0; i < 6; ++i)
        views[i] = faces[i].view();
    return must(cube_of_faces(views));
}

std::array<std::string, 6> names(std::initializer_list<const char*> list) {
    std::array<std::string, 6> result;
    std::copy(list.begin(), list.end(), result.begin());
    return result;
}

}  // namespace

TEST_CASE("names tell the faces, in any case and place") {
    constexpr auto expected = all_cube_faces;
    for (const auto& set :
         {names({"px.png", "nx.png", "py.png", "ny.png", "pz.png", "nz.png"}),
          names({"sky_posx.jpg", "sky_negx.jpg", "sky_posy.jpg", "sky_negy.jpg", "sky_posz.jpg",
                 "sky_negz.jpg"}),
          names({"Right.tga", "Left.tga", "Top.tga", "Bottom.tga", "Front.tga", "Back.tga"}),
          names({"eveningrt.tga", "eveninglf.tga", "eveningup.tga", "eveningdn.tga",
                 "eveningft.tga", "eveningbk.tga"}),
          names({"a-right-1k.png", "a-left-1k.png", "a-up-1k.png", "a-down-1k.png",
                 "a-front-1k.png", "a-back-1k.png"}),
          names({"r.png", "l.png", "u.png", "d.png", "f.png", "b.png"}),
          names({"sky0.png", "sky1.png", "sky2.png", "sky3.png", "sky4.png", "sky5.png"}),
          names({"1.png", "2.png", "3.png", "4.png", "5.png", "6.png"}),
          names({"+X.exr", "-X.exr", "+Y.exr", "-Y.exr", "+Z.exr", "-Z.exr"}),
          names({"m_east.hdr", "m_west.hdr", "m_up.hdr", "m_down.hdr", "m_north.hdr",
                 "m_south.hdr"})}) {
        CAPTURE(set[0]);
        const auto found = faces_by_name(set);
        REQUIRE(found.has_value());
        CHECK(std::equal(found->begin(), found->end(), expected.begin()));
    }
    CHECK_FALSE(faces_by_name(names({"a", "b", "c", "d", "e", "f"})).has_value());
    CHECK_FALSE(
        faces_by_name(names({"left", "left2", "top", "bottom", "front", "back"})).has_value());
}

TEST_CASE("200 scrambles of each of three skies are undone") {
    struct Subject {
        std::string name;
        Texture cube;
        int unsure = 0, wrong = 0;
    };
    std::vector<Subject> subjects;
    subjects.push_back({"dawn", dawn(32)});
    subjects.push_back({"wavy", support::cube_of(support::wavy_sky, 32, Format::rgba8_srgb)});
    subjects.push_back({"clear", support::cube_of(support::clear_sky, 32, Format::rgba16_float)});
    support::Random random(2026);
    for (Subject& subject : subjects) {
        for (int round = 0; round < 200; ++round) {
            const Scramble scramble(subject.cube, random, random() % 3);
            OrderHints hints;
            hints.top = scramble.image_of(CubeFace::top);
            hints.front = scramble.image_of(CubeFace::front);
            const FaceOrder order =
                must(find_face_order(scramble.views(), Transfer::linear, hints));
            subject.unsure += order.is_sure ? 0 : 1;
            subject.wrong += order.is_sure && !scramble.is_undone_by(order.faces) ? 1 : 0;
        }
        MESSAGE(subject.name << ": unsure " << subject.unsure << ", wrong " << subject.wrong
                             << " of 200");
        CHECK(subject.wrong == 0);
        CHECK(subject.unsure == 0);
    }
}

TEST_CASE("a search that is cut short has an arrangement all the same, and is unsure of it") {
    const Texture cube = support::cube_of(support::wavy_sky, 32);
    support::Random random(11);
    const Scramble scramble(cube, random, 0);
    const auto order_within = [&](std::size_t tries) {
        OrderHints hints;
        hints.max_tries = tries;
        return must(find_face_order(scramble.views(), Transfer::linear, hints));
    };
    for (const std::size_t tries : {0U, 1U, 100U}) {
        const FaceOrder order = order_within(tries);
        CHECK(order.confidence == 0);
        CHECK_FALSE(order.is_sure);
        std::set<std::size_t> images;
        for (const PlacedFace& face : order.faces)
            images.insert(face.image);
        CHECK(images.size() == 6);
        CHECK(*images.rbegin() == 5);
    }
    CHECK(order_within(50'000).is_sure);
}

TEST_CASE("with no hint all 48 ways to lay the whole cube are one, and that is said") {
    const Texture cube = support::cube_of(support::wavy_sky, 32);
    support::Random random(7);
    const Scramble scramble(cube, random, 0);
    const FaceOrder order = must(find_face_order(scramble.views(), Transfer::linear));
    CHECK(order.is_sure);
    CHECK_FALSE(order.knows_up);
    CHECK(order.joins);
    // Whatever way it is laid, the faces join as well as those of the cube itself.
    FaceArrangement straight;
    for (std::size_t i = 0; i < 6; ++i)
        straight[i] = {i, Orientation::none};
    const FaceOrder own =
        must(check_face_order(support::faces_of(cube), Transfer::linear, straight));
    CHECK(order.misfit == doctest::Approx(own.misfit));
    CHECK(own.joins);
}

TEST_CASE("skies that look the same all round are not guessed at") {
    const auto layered = [](const Direction& direction) {
        const Direction d = support::unit(direction);
        // Four sides alike, and mirrored at the horizon.
        const double x = d[0] * d[0], z = d[2] * d[2], y = d[1] * d[1];
        return std::array{0.3 + 0.2 * y + 0.1 * x * z, 0.3 + 0.1 * x * z, 0.5 - 0.1 * y};
    };
    const Texture cube = support::cube_of(layered, 32);
    // A mark that no edge shows, in the middle of each face, makes them different pictures.
    Texture marked = must(Texture::create(cube.shape()));
    for (std::uint32_t face = 0; face < 6; ++face) {
        must(convert(cube.image(0, 0, face), marked.image(0, 0, face),
                     {.source_transfer = Transfer::linear}));
        auto* pixel = reinterpret_cast<float*>(marked.image(0, 0, face).row(14).data());
        for (int i = 10 * 4; i < 24 * 4; ++i)
            pixel[i] = 0.1F * static_cast<float>(face + 1);
    }
    support::Random random(9);
    const Scramble scramble(marked, random, 0);
    const FaceOrder order = must(find_face_order(scramble.views(), Transfer::linear));
    CHECK_FALSE(order.is_sure);
    CHECK(order.confidence < 0.25);
}

TEST_CASE("what is wrong is said in words") {
    FaceArrangement faces;
    for (std::size_t i = 0; i < 6; ++i)
        faces[i] = {i, Orientation::none};
    CHECK(differences_in_words(all_cube_faces, faces).empty());
    std::swap(faces[0].image, faces[1].image);
    faces[2].orientation = Orientation::quarter_left;
    faces[4].orientation = Orientation::mirror;
    CHECK(differences_in_words(all_cube_faces, faces) ==
          std::vector<std::string>{"right and left are exchanged",
                                   "the top is turned a quarter to the right",
                                   "the front is mirrored left to right"});
    FaceArrangement round;
    for (std::size_t i = 0; i < 6; ++i)
        round[i] = {i, Orientation::none};
    round[0].image = 4;  // what is called front is the right
    round[4].image = 1;
    round[1].image = 0;
    const auto words = differences_in_words(all_cube_faces, round);
    REQUIRE(words.size() == 3);
    CHECK(words[0] == "what is called right is the left");
    CHECK(words[1] == "what is called left is the front");
    CHECK(words[2] == "what is called front is the right");
}

TEST_CASE("pictures that are not a cube do not join, and the worst edge is named") {
    std::array<Image, 6> images;
    std::array<ConstImageView, 6> views;
    for (std::size_t i = 0; i < 6; ++i) {
        images[i] = must(Image::create(Format::rgba8_srgb, 16, 16));
        for (std::uint32_t y = 0; y < 16; ++y)
            for (std::size_t b = 0; b < 64; ++b)
                images[i].view().row(y)[b] = static_cast<std::byte>(40 * i);
        views[i] = images[i].view();
    }
    const FaceOrder order = must(find_face_order(views, Transfer::srgb));
    CHECK_FALSE(order.joins);
    CHECK(order.worst.misfit > 0.1);
    CHECK(order.worst.image_a != order.worst.image_b);
    images[2] = must(Image::create(Format::rgba8_srgb, 16, 8));
    views[2] = images[2].view();
    CHECK(contains(must_fail(find_face_order(views, Transfer::srgb)).message, "image 3"));
}

TEST_CASE("texels that are infinite or no number stop no search for an order") {
    constexpr float infinity = std::numeric_limits<float>::infinity();
    for (const float odd : {infinity, -infinity, std::numeric_limits<float>::quiet_NaN()}) {
        Image image = must(Image::create(Format::rgba32_float, 4, 4));
        for (std::uint32_t y = 0; y < 4; ++y)
            for (std::size_t i = 0; i < 16; ++i)
                std::memcpy(&image.view().row(y)[i * 4], &odd, 4);
        std::array<ConstImageView, 6> views;
        views.fill(std::as_const(image).view());
        const FaceOrder order = must(find_face_order(views, Transfer::linear));
        CHECK(order.misfit == 0);  // all six are alike
        std::set<std::size_t> used;
        for (const PlacedFace& face : order.faces)
            used.insert(face.image);
        CHECK(used.size() == 6);
    }
}

/// Six faces of one colour.
struct FlatFaces {
    std::array<Image, 6> images = {};
    std::array<ConstImageView, 6> views = {};

    FlatFaces(std::uint32_t side, std::byte code) {
        for (std::size_t i = 0; i < 6; ++i) {
            images[i] = must(Image::create(Format::rgba8_srgb, side, side));
            for (std::uint32_t y = 0; y < side; ++y)
                std::ranges::fill(images[i].view().row(y), code);
            views[i] = std::as_const(images[i]).view();
        }
    }
};

TEST_CASE("a night sky with one dim star in each face is given up early, and unsure") {
    FlatFaces sky(11, std::byte{125});
    for (std::size_t i = 0; i < 6; ++i)
        sky.images[i].view().row(3)[4 * (2 + i)] = std::byte{136};
    const FaceOrder order = must(find_face_order(sky.views, Transfer::srgb, {}));
    CHECK(order.confidence == 0);
    CHECK_FALSE(order.is_sure);
    CHECK(must(arranged_cube(sky.views, order.faces)).shape().faces == 6);
}

TEST_CASE("six faces of one colour are alike in every order, and soon found so") {
    const FlatFaces faces(16, std::byte{90});
    const FaceOrder order = must(find_face_order(faces.views, Transfer::srgb));
    CHECK(order.misfit == 0);
    CHECK(order.joins);
}
