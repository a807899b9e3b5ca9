#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

DeviceProfile strict_device() {
    DeviceProfile profile;
    profile.name = "strict";
    profile.api = "made up";
    profile.max_2d_side = 4096;
    profile.max_anisotropy = 4;
    profile.row_pitch_alignment = 256;
    profile.offset_alignment = 512;
    profile.formats = {Format::r8_unorm, Format::rgba8_unorm, Format::rgba8_srgb,
                       Format::rgba16_float, Format::rgba32_float};
    return profile;
}

}  // namespace

TEST_CASE("regions follow the device's pitches and placements") {
    const UploadPlan plan = must(plan_upload(
        {.format = Format::rgba8_srgb, .width = 100, .height = 30, .levels = 3}, strict_device()));
    CHECK_FALSE(plan.converts());
    REQUIRE(plan.regions.size() == 3);
    CHECK(plan.regions[0].row_pitch == 512);  // 400 bytes, in steps of 256
    CHECK(plan.regions[0].slice_pitch == 512 * 30);
    CHECK(plan.regions[1].offset == 512 * 30);
    CHECK(plan.regions[1].row_pitch == 256);                     // 200 bytes
    CHECK(plan.regions[2].offset == 512 * 30 + 256 * 15 + 256);  // rounded up to a multiple of 512
    CHECK(plan.regions[2].width == 25);
    CHECK(plan.regions[2].height == 7);
    CHECK(plan.staging_bytes == plan.regions[2].offset + 256 * 7);
}

TEST_CASE("a format that the device lacks is replaced by one that holds its values") {
    const auto chosen = [](Format format) {
        return must(plan_upload({.format = format}, strict_device())).shape.format;
    };
    CHECK(chosen(Format::r8_srgb) == Format::rgba8_srgb);
    CHECK(chosen(Format::rgb8_unorm) == Format::rgba8_unorm);
    CHECK(chosen(Format::r16_float) == Format::rgba16_float);
    CHECK(chosen(Format::r16_unorm) == Format::rgba32_float);
    CHECK(chosen(Format::rgb9e5_float) != Format::rgb9e5_float);
    CHECK(chosen(Format::r8_unorm) == Format::r8_unorm);
    const UploadPlan plan = must(plan_upload(
        {.format = Format::rgb8_unorm, .width = 5, .height = 3, .levels = 2}, strict_device()));
    REQUIRE(plan.findings.size() == 1);
    CHECK(contains(plan.findings[0].problem, "rgb8-unorm"));
    const Texture texture = support::random_texture(
        {.format = Format::rgb8_unorm, .width = 5, .height = 3, .levels = 2}, 1);
    const Texture converted = must(converted_for(plan, texture));
    CHECK(converted.level(1)[1] == texture.level(1)[1]);
    CHECK(converted.level(1)[3] == std::byte{255});
    CHECK(converted.level(1)[4] == texture.level(1)[3]);
}

TEST_CASE("what cannot be taken at all is refused") {
    CHECK(contains(must_fail(plan_upload({.format = Format::r8_unorm, .width = 5000, .height = 1},
                                         strict_device()))
                       .message,
                   "4096"));
    DeviceProfile bare = strict_device();
    bare.formats = {Format::r8_unorm};
    CHECK(must_fail(plan_upload({.format = Format::rgba8_srgb}, bare)).kind == ErrorKind::device);
    // A device that says nothing of cubes has none.
    const TextureShape cube = {.format = Format::r8_unorm, .width = 4, .height = 4, .faces = 6};
    CHECK(must_fail(plan_upload(cube, bare)).kind == ErrorKind::device);
    TextureShape volume = {.format = Format::r8_unorm, .width = 4, .height = 4, .depth = 4};
    CHECK(must_fail(plan_upload(volume, bare)).kind == ErrorKind::device);
}

TEST_CASE("cubes and arrays have one region for each face of each layer of each level") {
    DeviceProfile profile = strict_device();
    profile.max_cube_side = 64;
    profile.max_layers = 12;
    const TextureShape cubes = {.format = Format::r8_unorm,
                                .width = 4,
                                .height = 4,
                                .levels = 2,
                                .layers = 2,
                                .faces = 6,
                                .is_array = true};
    CHECK(contains(must_fail(plan_upload(cubes, profile)).message, "arrays of cubes"));
    profile.has_cube_arrays = true;
    const UploadPlan plan = must(plan_upload(cubes, profile));
    REQUIRE(plan.regions.size() == 24);
    CHECK(plan.regions[0].face == 0);
    CHECK(plan.regions[7].layer == 1);
    CHECK(plan.regions[7].face == 1);
    CHECK(plan.regions[12].level == 1);
    for (std::size_t i = 1; i < plan.regions.size(); ++i)
        CHECK(plan.regions[i].offset >=
              plan.regions[i - 1].offset + plan.regions[i - 1].slice_pitch);
    TextureShape many = cubes;
    many.layers = 3;
    CHECK(contains(must_fail(plan_upload(many, profile)).message, "12"));
    many = cubes;
    many.width = many.height = 128;
    CHECK(contains(must_fail(plan_upload(many, profile)).message, "64 for cubes"));
}

TEST_CASE("anisotropy is lowered to the device's, and that is said") {
    Findings findings;
    const Sampler fitted = fit_sampler(must(parse_sampler("aniso=16")), strict_device(), findings);
    CHECK(fitted.max_anisotropy == 4);
    REQUIRE(findings.size() == 1);
    CHECK(contains(findings[0].problem, "16"));
    CHECK(fit_sampler(must(parse_sampler("aniso=4")), strict_device(), findings).max_anisotropy ==
          4);
    CHECK(findings.size() == 1);
}

TEST_CASE("lines with two layers are surfaces where a device has no arrays of lines") {
    DeviceProfile profile = must(find_profile("gl33"));
    profile.has_1d_arrays = false;
    for (const std::uint32_t layers : {1U, 2U, 3U}) {
        CAPTURE(layers);
        const TextureShape line{.format = Format::r8_unorm,
                                .width = 8,
                                .layers = layers,
                                .is_array = layers > 1,
                                .is_1d = true};
        const UploadPlan plan = must(plan_upload(line, profile));
        CHECK(plan.shape.is_1d == (layers == 1));
        CHECK(plan.findings.empty() == (layers == 1));
    }
}

TEST_CASE(
    "Direct3D 11: tight rows, and subresources that the driver has mapped at its own pitches") {
    const DeviceProfile profile = must(find_profile("d3d11"));
    for (const TextureShape& shape :
         {TextureShape{.format = Format::rgba8_unorm, .width = 13, .height = 7, .levels = 4},
          {.format = Format::bc1_unorm, .width = 20, .height = 12, .levels = 3, .faces = 1},
          {.format = Format::rgba16_float, .width = 5, .height = 6, .depth = 4, .levels = 3}}) {
        CAPTURE(info(shape.format).name);
        const Texture texture = support::random_texture(shape, 8);
        const UploadPlan plan = must(plan_upload(texture, profile));
        CHECK_FALSE(plan.converts());
        for (const UploadRegion& region : plan.regions) {
            const FormatInfo& f = info(shape.format);
            const std::uint64_t row_bytes = texture.shape().row_bytes(region.level);
            const std::uint64_t rows = (region.height + f.block_height - 1) / f.block_height;
            CHECK(region.row_pitch == row_bytes);  // SysMemPitch
            CHECK(region.slice_pitch == row_bytes * rows);
            const std::uint64_t pitch = row_bytes + 24, slice = pitch * rows + 40;
            std::vector<std::byte> mapped(slice * region.depth, std::byte{0xEE});
            must(fill_mapped(plan, region, texture, mapped, pitch, slice));
            for (std::uint32_t z = 0; z < region.depth; ++z)
                for (std::uint64_t row = 0; row < rows; ++row) {
                    const std::byte* own = texture.image(region.level).data +
                                           z * texture.shape().surface_bytes(region.level) +
                                           row * row_bytes;
                    const std::byte* at = mapped.data() + z * slice + row * pitch;
                    CHECK(std::equal(own, own + row_bytes, at));
                    CHECK(at[row_bytes] == std::byte{0xEE});
                }
            const auto refused = [&](std::size_t bytes, std::uint64_t row, std::uint64_t depth) {
                return must_fail(fill_mapped(plan, region, texture, std::span(mapped).first(bytes),
                                             row, depth))
                    .place;
            };
            CHECK(refused(mapped.size(), row_bytes - 1, slice) == "row_pitch");
            CHECK(refused(row_bytes * rows * region.depth - 1, row_bytes, row_bytes * rows) ==
                  "memory");
            if (region.depth > 1)
                CHECK(refused(mapped.size(), pitch, pitch * rows - 25) == "slice_pitch");
        }
    }
    const TextureShape cubes{.levels = 5, .layers = 3, .faces = 6};
    CHECK(direct3d_subresource(cubes, 2, 1, 4) == 2 + 5 * (6 + 4));
}

TEST_CASE("Direct3D 11 has no swizzles: gray is told, or becomes four channels") {
    const DeviceProfile profile = must(find_profile("d3d11"));
    const UploadPlan plan = must(plan_upload({.format = Format::r8_unorm, .width = 8, .height = 8},
                                             profile, {}, gray_swizzle));
    CHECK(plan.shape.format == Format::rgba8_unorm);
    REQUIRE(plan.findings.size() == 1);
    CHECK(plan.findings[0].code == "swizzle-missing");
}
