#include <nlohmann/json.hpp>
#include <yl/yl.hpp>

#include "support/pictures.hpp"
#include "tool/run_ylat.hpp"

using namespace yl;
using support::contains;
using support::demo_file;
using support::must;
using support::run_ylat;
using support::TemporaryFolder;

namespace {

/// The picture that the tool makes, which has to succeed.
Picture rework(const std::string& arguments, const std::string& ending = "png",
               Role role = Role::color) {
    const TemporaryFolder folder;
    const std::string out = folder.path("out." + ending);
    const auto outcome = run_ylat("rework " + arguments + " -o " + out);
    CAPTURE(arguments);
    CAPTURE(outcome.err);
    REQUIRE(outcome.exit == 0);
    CHECK(contains(outcome.out, out));
    return must(read_picture(out, {.role = role}));
}

Picture demo_picture(const char* name, Role role = Role::color) {
    return must(read_picture(demo_file(name), {.role = role}));
}

void check_usage(const std::string& arguments, const std::string& reason) {
    const TemporaryFolder folder;
    const auto outcome = run_ylat("rework " + arguments + " -o " + folder.path("out.png"));
    CAPTURE(arguments);
    CHECK(outcome.exit == 2);
    CAPTURE(outcome.err);
    CHECK(contains(outcome.err, reason));
    CHECK(folder.entries().empty());
}

}  // namespace

TEST_CASE("steps are taken in the order in which they stand") {
    const Picture label = demo_picture("label.png");
    const ConstImageView part = must(cropped(label.image.view(), {3, 4, 20, 10}));
    CHECK(support::equal_pixels(
        support::view_of(rework(demo_file("label.png") + " --crop 3,4,20x10 --turn right").image),
        support::view_of(must(with_orientation(part, Orientation::quarter_right)))));
    const Image turned_first =
        must(with_orientation(label.image.view(), Orientation::quarter_right));
    CHECK(support::equal_pixels(
        support::view_of(rework(demo_file("label.png") + " --turn right --crop 3,4,20x10 ").image),
        support::view_of(
            must(convert(must(cropped(turned_first.view(), {3, 4, 20, 10})), Format::rgba8_srgb,
                         {.source_transfer = Transfer::linear})))));
    // The same step twice, each with its own value.
    CHECK(support::equal_pixels(
        support::view_of(rework(demo_file("label.png") + " --turn right --turn left").image),
        label.image.view()));
}

TEST_CASE("channels of several files are packed, with one inverted and one a number") {
    const Picture packed =
        rework("--pack r=" + demo_file("moss.png") + " g=" + demo_file("moss.png") + ":-r b=0.2",
               "png", Role::data);
    REQUIRE(packed.image.format() == Format::rgb8_unorm);
    const Picture moss = demo_picture("moss.png", Role::mask);
    for (std::uint32_t y = 0; y < 256; y += 17)
        for (std::uint32_t x = 0; x < 256; x += 13) {
            const int code = std::to_integer<int>(moss.image.view().row(y)[x]);
            const auto pixel = packed.image.view().row(y).subspan(x * 3, 3);
            CHECK(std::to_integer<int>(pixel[0]) == code);
            CHECK(std::to_integer<int>(pixel[1]) == 255 - code);
            CHECK(std::to_integer<int>(pixel[2]) == 51);
        }
}

TEST_CASE("resizing, depths and file formats follow the library") {
    const Picture slate = demo_picture("slate.png");
    const Image expected = must(resize(slate.image.view(), 128, 128,
                                       {.kernel = {.kind = Kernel::Kind::kaiser},
                                        .edges = {Edge::repeat, Edge::repeat},
                                        .transfer = Transfer::srgb}));
    CHECK(support::equal_pixels(
        support::view_of(
            rework(demo_file("slate.png") + " --resize 25% --filter kaiser:3 --edge repeat").image),
        expected.view()));
    CHECK(rework(demo_file("slate.png"), "exr").image.format() == Format::rgb16_float);
    CHECK(rework(demo_file("slate.png") + " --bits 16").image.format() == Format::rgb16_unorm);
    CHECK(rework(demo_file("slate.png") + " --channels rrr1", "tga").image.format() ==
          Format::rgba8_srgb);
    CHECK(rework(demo_file("moss.png") + " --normals 8 --edge repeat", "png", Role::normal)
              .image.format() == Format::rgb8_unorm);
}

TEST_CASE("masking, bleeding, laying over and premultiplying") {
    const Picture masked =
        rework(demo_file("slate.png") + " --mask " + demo_file("slate_roughness.png"));
    const Picture mask = demo_picture("slate_roughness.png", Role::mask);
    CHECK(masked.image.format() == Format::rgba8_srgb);
    CHECK(masked.image.view().row(9)[9 * 4 + 3] == mask.image.view().row(9)[9]);
    const Picture over = rework(demo_file("lattice.png") + " --composite-over 0,0,1");
    CHECK(analyse_channels(over.image.view()).is_opaque);
    const Picture bled = rework(demo_file("lattice.png") + " --bleed");
    Picture expected = demo_picture("lattice.png");
    must(bleed_colors(expected.image.view()));
    CHECK(support::equal_pixels(bled.image.view(), expected.image.view()));
    const Picture multiplied = rework(demo_file("lattice.png") + " --premultiply");
    Picture by_library = demo_picture("lattice.png");
    must(premultiply(by_library.image.view(), Transfer::srgb));
    CHECK(support::equal_pixels(multiplied.image.view(), by_library.image.view()));
    const Picture inverted =
        rework(demo_file("slate_normal.png") + " --invert g", "png", Role::normal);
    const Picture normal = demo_picture("slate_normal.png", Role::normal);
    CHECK(std::to_integer<int>(inverted.image.view().row(5)[16]) ==
          255 - std::to_integer<int>(normal.image.view().row(5)[16]));
}

TEST_CASE("what makes no sense is refused, and nothing is written") {
    const std::string label = demo_file("label.png");
    check_usage(label + " --turn up", "--turn");
    check_usage(label + " --crop 40,0,20x5", "does not lie in 45 x 29");
    check_usage(label + " --crop 1,2", "--crop");
    check_usage(label + " --resize 0x4", "--resize");
    check_usage(label + " --resize 20x20 --filter fir", "--filter");
    check_usage(label + " --channels xyz", "--channels");
    check_usage(label + " --mask " + demo_file("moss.png"), "--mask");
    check_usage(label + " --bits 9", "--bits");
    check_usage("", "--pack");
    check_usage("--pack g=" + label, "--pack");
    check_usage("--pack r=" + label + " g=" + demo_file("moss.png"), "differ in size");
    check_usage(label + " --composite-over 1,2", "--composite-over");
    const TemporaryFolder folder;
    const auto gif = run_ylat("rework " + label + " -o " + folder.path("out.gif"));
    CHECK(gif.exit == 2);
    CHECK(contains(gif.err, "is not a picture format that is written"));
    CHECK(run_ylat("rework " + folder.path("none.png") + " -o " + folder.path("a.png")).exit == 4);
}

TEST_CASE("peek lays many files out as a table, and says which it cannot read") {
    const auto table = run_ylat("peek " + demo_file("label.png") + " " + demo_file("moss.png") +
                                " " + demo_file("none.png"));
    CHECK(table.exit == 4);
    CHECK(contains(table.err, "none.png"));
    CHECK(contains(table.out, "file "));
    CHECK(contains(table.out, "45 x 29"));
    CHECK(contains(table.out, "0 or 1"));
    CHECK(contains(table.out, "256 x 256"));
    CHECK_FALSE(contains(table.out, "row 0"));
    const auto full =
        run_ylat("peek --in-full " + demo_file("label.png") + " " + demo_file("moss.png"));
    CHECK(full.exit == 0);
    CHECK(contains(full.out, "row 0"));
}

TEST_CASE("gray is the luminance of linear light, with its alpha") {
    const support::TemporaryFolder folder;
    Picture picture;
    picture.image = must(Image::create(Format::rgba8_srgb, 3, 1));
    const std::uint8_t codes[] = {255, 0, 0, 200, 0, 255, 0, 100, 90, 90, 90, 255};
    std::memcpy(picture.image.view().row(0).data(), codes, sizeof codes);
    must(write_picture(folder.path("in.png"), picture));
    REQUIRE(
        run_ylat("rework " + folder.path("in.png") + " --gray -o " + folder.path("out.png")).exit ==
        0);
    const Picture gray = must(read_picture(folder.path("out.png")));
    REQUIRE(info(gray.image.format()).channel_count == 2);
    const auto code = [&](std::size_t i) {
        return std::to_integer<int>(gray.image.view().row(0)[i]);
    };
    CHECK(code(0) == std::lround(255 * srgb_encode(0.2126)));
    CHECK(code(1) == 200);
    CHECK(code(2) == std::lround(255 * srgb_encode(0.7152)));
    CHECK(code(3) == 100);
    CHECK(code(4) == 90);
}

TEST_CASE("split: a file for each channel, as it is stored, and together they are the picture") {
    const support::TemporaryFolder folder;
    const std::string lattice = demo_file("lattice.png");
    const auto outcome = run_ylat("rework " + lattice + " --split -o " + folder.path("part.png"));
    REQUIRE(outcome.exit == 0);
    CHECK(folder.entries() ==
          std::vector<std::string>{"part_a.png", "part_b.png", "part_g.png", "part_r.png"});
    CHECK(contains(outcome.out, "part_g.png"));
    std::string pack = "rework --pack";
    for (const char* letter : {"r", "g", "b", "a"})
        pack +=
            std::string(" ") + letter + "=" + folder.path(std::string("part_") + letter + ".png");
    REQUIRE(run_ylat(pack + " -o " + folder.path("whole.png")).exit == 0);
    const Picture whole = must(read_picture(folder.path("whole.png")));
    const Picture before = must(read_picture(lattice));
    CHECK(support::bytes_of(whole.image.view()) == support::bytes_of(before.image.view()));
    CHECK(run_ylat("rework " + lattice + " --split -o -").exit == 2);
}
