// ylat cube, unpack, and the scenes of skies.
#include <filesystem>
#include <nlohmann/json.hpp>
#include <yl/yl.hpp>

#include "dawn.hpp"
#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using nlohmann::json;
using support::contains;
using support::demo_file;
using support::must;
using support::Outcome;
using support::run_json;
using support::run_ylat;
using support::TemporaryFolder;

namespace {

std::string dawn_faces(const char* between = " ") {
    std::string files;
    for (const CubeFace face : all_cube_faces)
        files +=
            (files.empty() ? "" : between) + demo_file("dawn_" + std::string(name(face)) + ".hdr");
    return files;
}

Texture texture_of(const std::string& path) {
    return std::move(must(read_texture(path)).texture);
}

bool equal_cubes(const Texture& a, const Texture& b) {
    if (a.shape() != b.shape())
        return false;
    for (std::uint32_t level = 0; level < a.shape().levels; ++level)
        if (!std::ranges::equal(a.level(level), b.level(level)))
            return false;
    return true;
}

}  // namespace

TEST_CASE("the dawn is what its generator makes") {
    const TemporaryFolder folder;
    must(glasshouse::write_dawn(folder.path("")));
    for (const char* file : {"dawn.hdr", "dawn_cross.exr", "dawn_right.hdr", "dawn_back.hdr"}) {
        CAPTURE(file);
        CHECK(support::equal_pixels(support::view_of(must(read_picture(folder.path(file))).image),
                                    support::view_of(must(read_picture(demo_file(file))).image)));
    }
}

TEST_CASE("cube says what is wrong with six scrambled faces, and puts it right when asked") {
    const TemporaryFolder folder;
    const std::string out = folder.path("named.ktx2");
    const Outcome named = run_ylat("cube " + dawn_faces() + " -o " + out);
    CHECK(named.exit == 0);
    for (const char* part : {"names and edges disagree", "right and front are exchanged",
                             "the top is turned a quarter to the right",
                             "the back is mirrored left to right", "--reorder"})
        CHECK(contains(named.err, part));
    // The names are followed all the same.
    const Picture right = must(read_picture(demo_file("dawn_right.hdr")));
    const Image expected = must(
        convert(right.image.view(), Format::rgba16_float, {.source_transfer = Transfer::linear}));
    CHECK(support::equal_pixels(support::surface_of(texture_of(out), 0, 0, 0), expected.view()));

    const std::string put_right = folder.path("right.ktx2");
    const json report = run_json("cube " + dawn_faces() + " --reorder -o " + put_right);
    CHECK(report["followed_edges"] == true);
    CHECK(report["changes"].size() == 3);
    CHECK(report["sure"] == true);
    CHECK(report["confidence"] > 0.9);
    CHECK(report["seam_ratio"] < 1);
    CHECK(report["levels"] == 8);
    CHECK(report["gpu_format"] == "rgba16-float");
    const Texture cube = texture_of(put_right);
    const auto truth = must(glasshouse::dawn_faces(128));
    for (std::uint32_t face = 0; face < 6; ++face) {
        // By way of files with a shared exponent of eight bits.
        double error = 0, sum = 0;
        for (std::uint32_t y = 0; y < 128; ++y)
            for (std::uint32_t x = 0; x < 128 * 3; ++x) {
                const auto wanted = static_cast<double>(
                    reinterpret_cast<const float*>(truth[face].view().row(y).data())[x]);
                const auto* halves =
                    reinterpret_cast<const std::uint16_t*>(cube.image(0, 0, face).row(y).data());
                error += std::abs(static_cast<double>(half_to_float(halves[x / 3 * 4 + x % 3])) -
                                  wanted);
                sum += wanted;
            }
        CAPTURE(face);
        CHECK(error / sum < 0.01);
    }
}

TEST_CASE("faces may be named one by one, and pictures without names need a word about up") {
    const TemporaryFolder folder;
    const std::string straight = folder.path("straight.ktx2"), named = folder.path("named.ktx2");
    REQUIRE(run_ylat("cube " + dawn_faces() + " --reorder -o " + straight).exit == 0);
    REQUIRE(run_ylat("unpack " + straight + " -o " + folder.path("faces") + " --level 0").exit ==
            0);
    const auto face = [&](const char* which) {
        return folder.path(std::string("faces/straight_level0_") + which + ".exr");
    };
    std::string by_name, anonymous;
    for (const char* which : {"back", "left", "top", "right", "front", "bottom"}) {
        by_name += std::string(which) + "=" + face(which) + " ";
        const std::string copy = folder.path("p" + std::to_string(anonymous.size()) + "q.exr");
        std::filesystem::copy_file(face(which), copy);
        anonymous += copy + " ";
    }
    REQUIRE(run_ylat("cube " + by_name + "-o " + named).exit == 0);
    CHECK(equal_cubes(texture_of(named), texture_of(straight)));

    const std::string guessed = folder.path("guessed.ktx2");
    const Outcome outcome = run_ylat("cube " + anonymous + "-o " + guessed);
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.err, "which of them is above"));
    // p0 is the back, and so on; with top and front told all is known.
    std::vector<std::string> files;
    for (std::size_t at = 0; at < anonymous.size();) {
        const std::size_t end = anonymous.find(' ', at);
        files.push_back(anonymous.substr(at, end - at));
        at = end + 1;
    }
    REQUIRE(run_ylat("cube " + anonymous + "--top " + files[2] + " --front " + files[4] + " -o " +
                     guessed)
                .exit == 0);
    CHECK(equal_cubes(texture_of(guessed), texture_of(straight)));
}

TEST_CASE("crosses, panoramas and back by unpack") {
    const TemporaryFolder folder;
    const std::string cross = folder.path("cross.ktx2");
    const json report = run_json("cube " + demo_file("dawn_cross.exr") + " -o " + cross);
    CHECK(contains(report["source"].get<std::string>(), "horizontal-cross"));
    CHECK(report["face_size"] == 128);
    for (const char* layout : {"horizontal-cross", "vertical-cross", "row", "column"}) {
        CAPTURE(layout);
        const std::string unpacked = folder.path(layout), again = folder.path("again.ktx2");
        REQUIRE(
            run_ylat("unpack " + cross + " -o " + unpacked + " --layout " + layout + " --level 0")
                .exit == 0);
        REQUIRE(
            run_ylat("cube " + unpacked + "/cross_level0_" + layout + ".exr -o " + again).exit ==
            0);
        CHECK(equal_cubes(texture_of(again), texture_of(cross)));
    }
    REQUIRE(run_ylat("unpack " + cross + " -o " + folder.path("p") +
                     " --layout panorama --width 256 --ending png")
                .exit == 0);
    const Picture panorama = must(read_picture(folder.path("p/cross_level0_panorama.png")));
    CHECK(panorama.image.width() == 256);
    CHECK(panorama.image.height() == 128);
    CHECK(std::filesystem::exists(folder.path("p/cross_level7_panorama.png")));
    const json faces = run_json("unpack " + cross + " -o " + folder.path("all"));
    CHECK(faces["files"].size() == 48);
    CHECK(std::filesystem::exists(folder.path("all/cross_level3_bottom.exr")));
}

TEST_CASE("a program's own levels are stored as given") {
    const TemporaryFolder folder;
    const std::string cross = folder.path("cross.ktx2"), given = folder.path("given.ktx2");
    REQUIRE(run_ylat("cube " + demo_file("dawn_cross.exr") + " -o " + cross).exit == 0);
    REQUIRE(run_ylat("unpack " + cross + " -o " + folder.path("u") + " --layout row").exit == 0);
    // The whole set, with level 1 of another make: the faces' order turned round.
    REQUIRE(run_ylat("cube " + folder.path("u/cross_level0_row.exr") + " -o " + given +
                     " --level 1=" + folder.path("u/cross_level1_row.exr") +
                     " --level 2=" + folder.path("u/cross_level2_row.exr"))
                .exit == 0);
    const Texture a = texture_of(given), b = texture_of(cross);
    CHECK(std::ranges::equal(a.level(1), b.level(1)));
    CHECK(std::ranges::equal(a.level(2), b.level(2)));
    // Six pictures for a level, in the order of those of level 0.
    REQUIRE(run_ylat("unpack " + cross + " -o " + folder.path("f")).exit == 0);
    std::string level0, level2;
    for (const char* which : {"top", "right", "front", "left", "back", "bottom"}) {
        level0 += folder.path(std::string("f/cross_level0_") + which + ".exr") + " ";
        level2 += (level2.empty() ? "" : ",") +
                  folder.path(std::string("f/cross_level2_") + which + ".exr");
    }
    REQUIRE(run_ylat("cube " + level0 + "--level 2=" + level2 + " -o " + given).exit == 0);
    CHECK(std::ranges::equal(support::level_of(texture_of(given), 0), b.level(0)));
    CHECK(std::ranges::equal(support::level_of(texture_of(given), 2), b.level(2)));
    const Outcome wrong =
        run_ylat("cube " + folder.path("u/cross_level0_row.exr") + " -o " + folder.path("w.ktx2") +
                 " --level 1=" + folder.path("u/cross_level2_row.exr"));
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.err, "level 1 has faces of 32 texels; it should have 64"));
    CHECK_FALSE(std::filesystem::exists(folder.path("w.ktx2")));
}

TEST_CASE("prefiltered cubes tell their roughness and their light") {
    const TemporaryFolder folder;
    const json specular =
        run_json("cube " + demo_file("dawn.hdr") + " --prefilter specular " +
                 "--face-size 32 --levels 4 --samples 64 --roughness 0,0.2,0.5,1 -o " +
                 folder.path("s.ktx2"));
    CHECK(specular["roughness"].size() == 4);
    const Texture chain = texture_of(folder.path("s.ktx2"));
    CHECK(roughness_of_levels(chain) == std::vector<float>{0, 0.2F, 0.5F, 1});
    CHECK(level_of_roughness(chain, 0.35F) == doctest::Approx(1.5));
    const json diffuse = run_json("cube " + demo_file("dawn.hdr") +
                                  " --prefilter diffuse --face-size 8 -o " + folder.path("d.ktx2"));
    CHECK(diffuse["harmonics"].size() == 9);
    CHECK(diffuse["face_size"] == 8);
    const auto& notes = texture_of(folder.path("d.ktx2")).metadata.key_values;
    REQUIRE(notes.contains(irradiance_note));
    CHECK(parse_harmonics(notes.at(irradiance_note)).has_value());
}

TEST_CASE("skies and balls are drawn alike by the CPU and by the driver") {
    const TemporaryFolder folder;
    const std::string cube = folder.path("c.ktx2");
    REQUIRE(run_ylat("cube " + demo_file("dawn.hdr") + " --face-size 64 -o " + cube).exit == 0);
    for (const char* scene : {"sky --yaw 40 --pitch 20 --fov 80 --stops 1", "ball --yaw 170",
                              "ball --roughness 0.5", "ball --matt"}) {
        CAPTURE(scene);
        const std::string what =
            std::string("draw ") + std::string(scene) + " " + cube + " --size 120x80 -o ";
        // The scene's name comes first, then the texture.
        REQUIRE(run_ylat(what + folder.path("cpu.png")).exit == 0);
        REQUIRE(run_ylat(what + folder.path("gl.png") + " --api gl").exit == 0);
        const auto a = must(read_picture(folder.path("cpu.png")));
        const auto b = must(read_picture(folder.path("gl.png")));
        CHECK(must(compare_pictures(a.image.view(), b.image.view(), 2)).share_within() >= 0.98);
    }
    const json upload = run_json("upload " + cube);
    CHECK(upload["identical"] == true);
    CHECK(upload["regions"].size() == 42);
    CHECK(run_ylat("sheet " + cube + " -o " + folder.path("sheet.png")).exit == 0);
}

TEST_CASE("peek tells layouts and how well faces join") {
    CHECK(contains(run_ylat("peek " + demo_file("dawn.hdr")).out, "seems to be a panorama"));
    CHECK(contains(run_ylat("peek " + demo_file("dawn_cross.exr")).out,
                   "horizontal-cross with faces of 128, which join"));
    const json lattice = run_json("peek " + demo_file("lattice.png"));
    CHECK_FALSE(lattice[0].contains("cube_layout"));
}

TEST_CASE("what is not a cube is refused with a reason") {
    const TemporaryFolder folder;
    const auto refused = [&](const std::string& arguments, int exit, const char* part) {
        const Outcome outcome = run_ylat("cube " + arguments + " -o " + folder.path("o.ktx2"));
        CAPTURE(arguments);
        CAPTURE(outcome.err);
        CHECK(outcome.exit == exit);
        CHECK(contains(outcome.err, part));
        CHECK_FALSE(std::filesystem::exists(folder.path("o.ktx2")));
    };
    refused(demo_file("label.png"), 2, "45 x 29 is not a layout");
    refused(demo_file("slate.png") + " " + demo_file("moss.png"), 2, "one picture or of six");
    refused(demo_file("dawn.hdr") + " --layout spiral", 2, "'spiral' is not a layout");
    refused(demo_file("dawn.hdr") + " --layout row", 2, "6 to 1");
    refused(demo_file("dawn.hdr") + " --turn top=round", 2, "top=round");
    refused(demo_file("dawn.hdr") + " --convention sideways", 2, "sideways");
    refused(demo_file("dawn.hdr") + " --prefilter specular --levels 3 --roughness 0,1", 2,
            "3 numbers of roughness");
    refused("nowhere.png", 4, "nowhere.png");
    std::string six;
    for (const char* name : {"slate", "slate_normal", "pond_normal", "slate", "lattice", "slate"})
        six += demo_file(std::string(name) + ".png") + " ";
    refused(six, 2, "do not join");
    const Outcome flat =
        run_ylat("draw sky " + demo_file("label.png") + " -o " + folder.path("s.png"));
    CHECK(flat.exit == 2);
    CHECK(contains(flat.err, "is not a layout of a cube"));
    // What a scene cannot show is not left out in silence.
    const std::string cube = folder.path("c.ktx2"), to = " -o " + folder.path("s.png");
    REQUIRE(run_ylat("cube " + demo_file("dawn.hdr") + " --face-size 8 -o " + cube).exit == 0);
    const Outcome lit = run_ylat("draw ball " + cube + " --lamp 0,1,0" + to);
    CHECK(lit.exit == 2);
    CHECK(contains(lit.err, "--lamp"));
    const Outcome floor = run_ylat("draw floor " + cube + to);
    CHECK(floor.exit == 2);
    CHECK(contains(floor.err, "sky and ball"));
    CHECK_FALSE(std::filesystem::exists(folder.path("s.png")));
    CHECK(run_ylat("unpack " + demo_file("label.png") + " -o " + folder.path("u")).exit == 2);
}

TEST_CASE("turns and conventions are undone by themselves") {
    const TemporaryFolder folder;
    const std::string plain = folder.path("a.ktx2"), turned = folder.path("b.ktx2");
    const std::string cross = demo_file("dawn_cross.exr");
    REQUIRE(run_ylat("cube " + cross + " -o " + plain).exit == 0);
    // One face is wrong on purpose, so that there are findings.
    const Outcome outcome = run_ylat("cube " + cross + " --turn top=right --levels 1 -o " + turned);
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.err, "do not join well"));
    const Image top = must(yl::with_orientation(support::surface_of(texture_of(plain), 0, 0, 2),
                                                Orientation::quarter_right));
    CHECK(support::equal_pixels(support::surface_of(texture_of(turned), 0, 0, 2), top.view()));
    REQUIRE(run_ylat("unpack " + plain + " -o " + folder.path("z") +
                     " --convention z-up --level 0 --layout row")
                .exit == 0);
    REQUIRE(
        run_ylat("cube " + folder.path("z/a_level0_row.exr") + " --convention z-up -o " + turned)
            .exit <= 1);
    CHECK(std::ranges::equal(support::level_of(texture_of(turned), 0),
                             support::level_of(texture_of(plain), 0)));
}
