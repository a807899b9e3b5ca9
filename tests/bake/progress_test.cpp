// Every long call tells how far it is, and ends when it is told to.
#include <functional>
#include <map>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/files.hpp"
#include "support/pictures.hpp"
#include "support/reference_jpeg.hpp"

using namespace yl;
using support::must;
using support::must_fail;
using support::TemporaryFolder;

namespace {

Picture picture_of(Format format, std::uint32_t width, std::uint32_t height) {
    Picture picture;
    picture.image = must(Image::create(format, width, height));
    support::Random random(3);
    support::fill_random(picture.image.view(), random);
    picture.transfer = info(format).transfer;
    return picture;
}

/// A call, which hands over its status, with the phases that it goes through.
struct Call {
    const char* name;
    std::vector<Phase> phases;
    std::function<Status(const Progress&)> run;
};

template <class T>
Status status_of(const Result<T>& result) {
    return result ? Status() : Status(tl::unexpected(result.error()));
}

/// A call that has one long piece of work, which tells of more than its begin and end, and can be
/// ended in the middle.
void check_steps_within(const Call& call, Phase phase) {
    CAPTURE(call.name);
    std::vector<float> shares;
    must(call.run([&](const ProgressStep& step) {
        if (step.phase == phase && step.share > 0 && step.share < 1)
            shares.push_back(step.share);
        return true;
    }));
    CHECK(shares.size() > 2);
    CHECK(std::ranges::is_sorted(shares));
    float last = 0;
    const Status status = call.run([&](const ProgressStep& step) {
        last = step.phase == phase ? step.share : 0;
        return last < 0.4F;
    });
    CHECK(must_fail(status).kind == ErrorKind::cancelled);
    CHECK(last < 0.9F);
}

/// Shares of each phase, in the order in which they are told.
std::map<Phase, std::vector<float>> told_by(const Call& call) {
    std::map<Phase, std::vector<float>> told;
    must(call.run([&](const ProgressStep& step) {
        CHECK(step.share >= 0);
        CHECK(step.share <= 1);
        told[step.phase].push_back(step.share);
        return true;
    }));
    return told;
}

void check_call(const Call& call) {
    CAPTURE(call.name);
    const auto told = told_by(call);
    CHECK(told.size() == call.phases.size());
    for (const Phase phase : call.phases) {
        CAPTURE(name(phase));
        REQUIRE(told.contains(phase));
        CHECK(told.at(phase).back() == 1);
        // Cancelled where the phase begins, and at its last step.
        for (const float share : {0.0F, 1.0F}) {
            bool was_asked_again = false, is_over = false;
            const Status status = call.run([&](const ProgressStep& step) {
                was_asked_again |= is_over && step.phase == phase;
                is_over |= step.phase == phase && step.share >= share;
                return !is_over;
            });
            CHECK(must_fail(status).kind == ErrorKind::cancelled);
            CHECK_FALSE(was_asked_again);
        }
    }
}

}  // namespace

TEST_CASE("pictures and textures: phases are told to their end, and cancel") {
    const TemporaryFolder folder;
    const Picture picture = picture_of(Format::rgba8_srgb, 150, 130);
    must(write_picture(folder.path("p.png"), picture));
    const Texture texture = support::random_texture(
        {.format = Format::rgba8_srgb, .width = 64, .height = 64, .levels = 7}, 2);
    must(write_texture(folder.path("t.ktx2"), texture));
    const std::vector<Call> calls = {
        {"read_picture",
         {Phase::reading},
         [&](const Progress& told) {
             return status_of(read_picture(folder.path("p.png"), {.progress = told}));
         }},
        {"read_texture",
         {Phase::reading},
         [&](const Progress& told) {
             return status_of(read_texture(folder.path("t.ktx2"), {.progress = told}));
         }},
        {"resize",
         {Phase::resizing},
         [&](const Progress& told) {
             return status_of(resize(picture.image.view(), 90, 70, {.progress = told}));
         }},
        {"bake_file",
         {Phase::reading, Phase::resizing, Phase::levels, Phase::encoding},
         [&](const Progress& told) {
             return status_of(bake_file(folder.path("p.png"), {.compressed = BlockFamily::bc,
                                                               .blocks = {.effort = 0},
                                                               .max_side = 100,
                                                               .progress = told}));
         }},
        {"from the top",
         {Phase::levels},
         [&](const Progress& told) {
             return status_of(bake(picture, {.mips = {.from_top = true}, .progress = told}));
         }},
        {"rebake",
         {Phase::levels, Phase::encoding},
         [&](const Progress& told) {
             return status_of(rebake(
                 texture,
                 {.bake = {.format = Format::bc1_srgb, .blocks = {.effort = 0}, .progress = told},
                  .new_levels = true}));
         }},
        {"write_texture", {Phase::packing, Phase::writing}, [&](const Progress& told) {
             return write_texture(folder.path("out.ktx2"), texture,
                                  {.supercompression = Supercompression::zstd, .progress = told});
         }}};
    for (const Call& call : calls)
        check_call(call);
    CHECK_FALSE(std::filesystem::exists(folder.path("none.ktx2")));
    const auto cancelled = write_texture(folder.path("none.ktx2"), texture,
                                         {.progress = [](const ProgressStep&) { return false; }});
    CHECK(must_fail(cancelled).kind == ErrorKind::cancelled);
    CHECK_FALSE(std::filesystem::exists(folder.path("none.ktx2")));
}

TEST_CASE("one picture's file and one level's frame tell how far they are") {
    const auto jpeg = [](support::ReferenceJpeg kind, bool allow_partial) {
        kind.width = kind.height = 160;
        return [file = support::write_reference_jpeg(kind), allow_partial](const Progress& told) {
            return status_of(read_picture(std::span<const std::byte>(file),
                                          {.allow_partial = allow_partial, .progress = told}));
        };
    };
    for (const bool allow_partial : {false, true}) {
        check_steps_within({"baseline", {}, jpeg({}, allow_partial)}, Phase::reading);
        check_steps_within({"progressive", {}, jpeg({.progressive = true}, allow_partial)},
                           Phase::reading);
        check_steps_within({"a scan for each", {}, jpeg({.separate_scans = true}, allow_partial)},
                           Phase::reading);
    }
    const Texture texture =
        support::random_texture({.format = Format::rgba8_srgb, .width = 1024, .height = 1280}, 2);
    check_steps_within(
        {"zstd",
         {},
         [&](const Progress& told) {
             return status_of(texture_file_bytes(
                 "ktx2", texture,
                 {.supercompression = Supercompression::zstd, .level = 1, .progress = told}));
         }},
        Phase::packing);
}

TEST_CASE("volumes and cubes: phases are told to their end, and cancel") {
    const Picture sky = picture_of(Format::rgba16_float, 64, 32);
    const Picture* one = &sky;
    const Texture cube = must(cube_of_picture(sky));
    const auto baked = [&](const CubeBakeOptions& options) {
        return status_of(bake_cube(std::span(&one, 1), {}, options));
    };
    const std::array<std::string, 6> names = {"right", "left", "top", "bottom", "front", "back"};
    std::array<Picture, 6> faces;
    std::array<const Picture*, 6> six{};
    for (std::uint32_t i = 0; i < 6; ++i) {
        faces[i] = must(picture_of_surface(cube, {0, 0, i, 0}));
        six[i] = &faces[i];
    }
    const Texture volume = support::random_texture(
        {.format = Format::rgba8_unorm, .width = 8, .height = 8, .depth = 8, .levels = 4}, 2);
    const std::vector<Call> calls = {
        {"volume",
         {Phase::levels},
         [&](const Progress& told) {
             Texture copy = must(volume.clone());
             return build_mips(copy, {.progress = told});
         }},
        {"bake_cube",
         {Phase::assembling, Phase::levels, Phase::encoding},
         [&](const Progress& told) {
             return baked(
                 {.compressed = BlockFamily::bc, .blocks = {.effort = 0}, .progress = told});
         }},
        {"specular",
         {Phase::assembling, Phase::prefiltering},
         [&](const Progress& told) {
             return baked({.prefilter = CubePrefilter::specular,
                           .specular = {.samples = 8},
                           .progress = told});
         }},
        {"diffuse",
         {Phase::assembling, Phase::prefiltering},
         [&](const Progress& told) {
             return baked({.prefilter = CubePrefilter::diffuse,
                           .specular = {.face_size = 4},
                           .progress = told});
         }},
        {"six pictures",
         {Phase::ordering, Phase::levels},
         [&](const Progress& told) {
             return status_of(bake_cube(six, names, {.progress = told}));
         }},
        {"prefilter_specular", {Phase::prefiltering}, [&](const Progress& told) {
             return status_of(prefilter_specular(cube, {.samples = 8, .progress = told}));
         }}};
    for (const Call& call : calls)
        check_call(call);
}

TEST_CASE(
    "readers of the program's own serve bake_file, and progress is none of the options' value") {
    const TemporaryFolder folder;
    support::write_text(folder.path("dot.own"), "OWN 7");
    const PictureReader own{"OWN",
                            [](std::span<const std::byte> bytes) {
                                return bytes.size() > 3 && bytes[0] == std::byte{'O'} &&
                                       bytes[1] == std::byte{'W'};
                            },
                            [](std::span<const std::byte>, const ReadOptions&) -> Result<Picture> {
                                return picture_of(Format::rgba8_srgb, 7, 7);
                            }};
    CHECK(must(bake_file(folder.path("dot.own"), {}, {.further_readers = {own}}))
              .texture.shape()
              .width == 7);
    CHECK(must_fail(bake_file(folder.path("dot.own"))).kind == ErrorKind::unsupported);
    BakeOptions told;
    told.progress = [](const ProgressStep&) { return true; };
    CHECK(told == BakeOptions());
}

TEST_CASE("a file's content in place of its name is seen through") {
    const Picture picture = picture_of(Format::rgba8_srgb, 3, 3);
    const auto file = must(encode_picture("png", picture));
    const std::string content(reinterpret_cast<const char*>(file.data()), file.size());
    const Error error = must_fail(read_picture(content));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(support::contains(error.message, "content"));
    const auto texture = must(
        texture_file_bytes("dds", support::random_texture({.format = Format::rgba8_unorm}, 1)));
    const std::string words(reinterpret_cast<const char*>(texture.data()), texture.size());
    CHECK(must_fail(read_texture(words)).kind == ErrorKind::usage);
}
