// Block formats on devices that have them, and on those that have not.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

DeviceProfile device_with(std::vector<Format> formats) {
    DeviceProfile profile;
    profile.max_2d_side = profile.max_cube_side = 4096;
    profile.max_layers = 256;
    profile.formats.assign(formats.begin(), formats.end());
    return profile;
}

}  // namespace

TEST_CASE("rows of blocks are counted as rows, with the device's alignments") {
    DeviceProfile profile = device_with({Format::bc7_srgb});
    profile.row_pitch_alignment = 256;
    profile.offset_alignment = 512;
    const UploadPlan plan = must(
        plan_upload({.format = Format::bc7_srgb, .width = 20, .height = 13, .levels = 2}, profile));
    CHECK_FALSE(plan.converts());
    REQUIRE(plan.regions.size() == 2);
    CHECK(plan.regions[0].row_pitch == 256);        // 5 blocks of 16 bytes
    CHECK(plan.regions[0].slice_pitch == 4 * 256);  // 13 texels are 4 rows of blocks
    CHECK(plan.regions[1].offset == 1024);
    CHECK(plan.regions[1].slice_pitch == 2 * 256);
    CHECK(plan.staging_bytes == 1024 + 512);
}

TEST_CASE("a device without the blocks gets their texels, and is told") {
    struct Case {
        Format blocks, texels;
    };
    for (const Case& one : {Case{Format::bc7_srgb, Format::rgba8_srgb},
                            {Format::bc1_unorm, Format::rgba8_unorm},
                            {Format::bc4_unorm, Format::r8_unorm},
                            {Format::bc5_snorm, Format::rg8_snorm},
                            {Format::bc6h_ufloat, Format::rgba16_float}}) {
        CAPTURE(info(one.blocks).name);
        const Texture texture = support::random_texture(
            {.format = one.blocks, .width = 12, .height = 9, .levels = 3}, 5);
        const UploadPlan plan = must(plan_upload(texture.shape(), device_with({one.texels})));
        CHECK(plan.converts());
        CHECK(plan.shape.format == one.texels);
        REQUIRE(plan.findings.size() == 1);
        CHECK(contains(plan.findings[0].problem, std::string(info(one.blocks).name)));
        const Texture converted = must(converted_for(plan, texture));
        const Texture decoded = must(decode_texture(texture));
        for (std::uint32_t level = 0; level < 3; ++level)
            CHECK(std::ranges::equal(converted.level(level), decoded.level(level)));
    }
}

TEST_CASE("texels that the device lacks too are widened further") {
    const Texture texture =
        support::random_texture({.format = Format::bc4_unorm, .width = 8, .height = 8}, 5);
    const UploadPlan plan = must(plan_upload(texture.shape(), device_with({Format::rgba16_unorm})));
    CHECK(plan.shape.format == Format::rgba16_unorm);
    const Texture wide = must(converted_for(plan, texture));
    const Image again =
        must(convert(wide.image(0), Format::r8_unorm,
                     {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::red}));
    CHECK(support::equal_pixels(again.view(),
                                support::view_of(must(decode_blocks(texture.image(0))))));
    CHECK(must_fail(plan_upload(texture.shape(), device_with({Format::bc7_srgb}))).kind ==
          ErrorKind::device);
}

TEST_CASE("a device that says nothing of lines and volumes has none") {
    const DeviceProfile profile = device_with({Format::rgba8_unorm, Format::bc1_unorm});
    const UploadPlan line =
        must(plan_upload({.format = Format::rgba8_unorm, .width = 8, .is_1d = true}, profile));
    CHECK_FALSE(line.shape.is_1d);
    CHECK(line.findings.size() == 1);
    const Error error = must_fail(
        plan_upload({.format = Format::bc1_unorm, .width = 8, .height = 8, .depth = 2}, profile));
    CHECK(error.kind == ErrorKind::device);
    CHECK(contains(error.message, "no volumes"));
}

TEST_CASE("samplers see the texels of blocks, flat and on cubes") {
    const Texture blocks = support::random_texture(
        {.format = Format::bc7_unorm, .width = 16, .height = 16, .levels = 5, .faces = 6}, 8);
    const Texture texels = must(decode_texture(blocks));
    const LevelRange range = LevelRange::of(blocks.shape());
    const auto a = must(CubeSampler::create(blocks, {}, range));
    const auto b = must(CubeSampler::create(texels, {}, range));
    const Texture flat =
        support::random_texture({.format = Format::bc3_unorm, .width = 16, .height = 16}, 8);
    const Texture plain = must(decode_texture(flat));
    const LevelRange only = LevelRange::of(flat.shape());
    const auto c = must(TextureSampler::create(flat, {}, only));
    const auto d = must(TextureSampler::create(plain, {}, only));
    for (int i = 0; i < 40; ++i) {
        const float u = static_cast<float>(i) * 0.031F;
        CHECK(c.sample_level(u, 1 - u, 0) == d.sample_level(u, 1 - u, 0));
        CHECK(a.sample_level({u, 0.3F - u, 0.5F}, 1.5F) ==
              b.sample_level({u, 0.3F - u, 0.5F}, 1.5F));
    }
}
