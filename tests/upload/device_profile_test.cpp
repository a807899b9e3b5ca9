// Built-in profiles, what plans make of them, and what samplers may do there.
#include <bit>
#include <set>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

UploadPlan plan_for(const char* device, const TextureShape& shape,
                    const UploadOptions& options = {}, const Swizzle& swizzle = identity_swizzle) {
    return must(plan_upload(shape, must(find_profile(device)), options, swizzle));
}

}  // namespace

TEST_CASE("there are nine built-in devices, and an unknown one is refused by name") {
    std::set<std::string> names;
    for (const DeviceProfile& profile : built_in_profiles()) {
        names.insert(profile.name);
        CHECK(profile.supports(Format::rgba8_srgb));
        CHECK(profile.max_2d_side >= 1024);
        CHECK(std::ranges::is_sorted(profile.formats, {}, &FormatSupport::format));
    }
    CHECK(names == std::set<std::string>{"gl33", "gles30", "webgl2", "webgpu", "vulkan-desktop",
                                         "vulkan-mobile", "d3d12", "metal", "d3d11"});
    const Error error = must_fail(find_profile("commodore"));
    CHECK(error.kind == ErrorKind::usage);
    CHECK(contains(error.message, "vulkan-mobile"));
}

TEST_CASE("every format has a plan on every device, and the plan's format is there") {
    for (const DeviceProfile& profile : built_in_profiles())
        for (const FormatInfo& f : all_formats()) {
            CAPTURE(profile.name);
            CAPTURE(f.name);
            const UploadPlan plan = must(
                plan_upload({.format = f.format, .width = 20, .height = 12, .levels = 5}, profile));
            CHECK(profile.supports(plan.shape.format));
            CHECK(plan.converts() == !plan.findings.empty());
            CHECK(info(plan.shape.format).channel_count >= f.channel_count);
            CHECK(info(plan.shape.format).transfer == f.transfer);
        }
}

TEST_CASE("Direct3D 12: pitches of 256 and places of 512 bytes, slice after slice") {
    // 100 texels of 4 bytes: 400, in rows of 512; the next level 50, 200 bytes in rows of 256
    const UploadPlan plan = plan_for(
        "d3d12",
        {.format = Format::rgba8_srgb, .width = 100, .height = 3, .depth = 5, .levels = 2});
    REQUIRE(plan.regions.size() == 2);
    CHECK(plan.regions[0].row_pitch == 512);
    CHECK(plan.regions[0].slice_pitch == 1536);
    CHECK(plan.regions[0].depth == 5);
    CHECK(plan.regions[1].offset == 7680);  // 5 * 1536, which is a multiple of 512
    CHECK(plan.regions[1].row_pitch == 256);
    CHECK(plan.regions[1].depth == 2);
    CHECK(plan.staging_bytes == 7680 + 2 * 256);
    // blocks: 25 of 16 bytes are 400 again; 2 rows of them
    const UploadPlan blocks =
        plan_for("d3d12", {.format = Format::bc7_srgb, .width = 100, .height = 8});
    CHECK(blocks.regions[0].row_pitch == 512);
    CHECK(blocks.regions[0].slice_pitch == 1024);
}

TEST_CASE("offsets are whole texels, also of three bytes or twelve") {
    DeviceProfile profile = must(find_profile("vulkan-desktop"));
    profile.offset_alignment = 4;
    profile.formats.insert(profile.formats.begin(), Format::rgb8_unorm);
    const UploadPlan plan = must(
        plan_upload({.format = Format::rgb8_unorm, .width = 5, .height = 3, .levels = 3}, profile));
    CHECK(plan.regions[1].offset == 48);  // after 45 bytes, a multiple of 3 and of 4
    CHECK(plan.regions[2].offset == 60);  // after 48 + 6 bytes
}

TEST_CASE("what a device lacks is expanded, decompressed, widened or put in its place") {
    CHECK(plan_for("vulkan-desktop", {.format = Format::rgb8_srgb}).shape.format ==
          Format::rgba8_srgb);
    CHECK(plan_for("gles30", {.format = Format::bgra8_srgb}).shape.format == Format::rgba8_srgb);
    CHECK(plan_for("gles30", {.format = Format::bc7_srgb, .width = 4, .height = 4}).shape.format ==
          Format::rgba8_srgb);
    CHECK(plan_for("webgpu", {.format = Format::r16_unorm}).shape.format == Format::r32_float);
    CHECK(plan_for("d3d12", {.format = Format::r8_srgb}).shape.format == Format::rgba8_srgb);
    CHECK(plan_for("gl33", {.format = Format::bc6h_ufloat, .width = 4, .height = 4}).shape.format ==
          Format::rgba16_float);
    // BGRA to RGBA, by its bytes
    const Texture bgra = support::random_texture({.format = Format::bgra8_unorm}, 3);
    const Texture rgba = must(converted_for(plan_for("gles30", bgra.shape()), bgra));
    CHECK(rgba.level(0)[0] == bgra.level(0)[2]);
    CHECK(rgba.level(0)[2] == bgra.level(0)[0]);
    CHECK(rgba.level(0)[3] == bgra.level(0)[3]);
}

TEST_CASE("blocks whose sides do not fit are decompressed where the device wants whole ones") {
    const TextureShape odd = {.format = Format::bc1_srgb, .width = 10, .height = 8};
    const UploadPlan plan = plan_for("webgpu", odd);
    CHECK(plan.shape.format == Format::rgba8_srgb);
    REQUIRE(plan.findings.size() == 1);
    CHECK(contains(plan.findings[0].problem, "10 x 8"));
    CHECK(contains(plan.findings[0].remedy, "4"));
    CHECK_FALSE(plan_for("vulkan-desktop", odd).converts());
    // levels below may be smaller than a block
    CHECK_FALSE(
        plan_for("webgpu", {.format = Format::bc1_srgb, .width = 12, .height = 8, .levels = 4})
            .converts());
}

TEST_CASE("a device without swizzles gets channels in their places") {
    Texture gray =
        support::random_texture({.format = Format::r8_unorm, .width = 3, .height = 2}, 5);
    gray.metadata.swizzle = gray_swizzle;
    const UploadPlan kept = plan_for("vulkan-mobile", gray.shape(), {}, gray_swizzle);
    CHECK_FALSE(kept.converts());
    CHECK(kept.swizzle == gray_swizzle);
    const UploadPlan plan = plan_for("webgpu", gray.shape(), {}, gray_swizzle);
    CHECK(plan.shape.format == Format::rgba8_unorm);
    CHECK(plan.swizzle == identity_swizzle);
    REQUIRE(plan.findings.size() == 1);
    CHECK(contains(plan.findings[0].problem, "reorder"));
    const Texture converted = must(converted_for(plan, gray));
    for (std::size_t i = 0; i < 6; ++i) {
        CHECK(converted.level(0)[4 * i] == gray.level(0)[i]);
        CHECK(converted.level(0)[4 * i + 2] == gray.level(0)[i]);
        CHECK(converted.level(0)[4 * i + 3] == std::byte{255});
    }
    CHECK(converted.metadata.swizzle == identity_swizzle);
    // "r001" is what one channel gives anyway
    CHECK_FALSE(plan_for("webgpu", gray.shape(), {}, *parse_swizzle("r001")).converts());
    // blocks as well
    const UploadPlan blocks = plan_for(
        "webgl2", {.format = Format::bc4_unorm, .width = 8, .height = 8}, {}, gray_swizzle);
    CHECK(blocks.shape.format == Format::rgba8_unorm);
}

TEST_CASE("lines become surfaces where there are none, or none with levels") {
    TextureShape line = {.format = Format::rgba8_unorm, .width = 16, .levels = 5};
    line.is_1d = true;
    CHECK(plan_for("d3d12", line).shape.is_1d);
    for (const char* device : {"gles30", "webgpu", "metal"}) {
        const UploadPlan plan = plan_for(device, line);
        CHECK_FALSE(plan.shape.is_1d);
        REQUIRE(plan.findings.size() == 1);
        CHECK(contains(plan.findings[0].remedy, "v = 0.5"));
    }
    line.levels = 1;
    CHECK(plan_for("webgpu", line).shape.is_1d);
}

TEST_CASE("block formats in volumes go where the device takes them") {
    const auto volume = [](Format format) {
        return TextureShape{.format = format, .width = 8, .height = 8, .depth = 4};
    };
    CHECK(plan_for("gl33", volume(Format::bc3_srgb)).shape.format == Format::rgba8_srgb);
    CHECK_FALSE(plan_for("d3d12", volume(Format::bc3_srgb)).converts());
    CHECK(plan_for("webgpu", volume(Format::bc7_unorm)).shape.format == Format::rgba8_unorm);
}

TEST_CASE("what does not fit a device is refused with what it would take") {
    const auto refused = [](const char* device, const TextureShape& shape) {
        const Error error = must_fail(plan_upload(shape, must(find_profile(device))));
        CHECK(error.kind == ErrorKind::device);
        return error.message;
    };
    CHECK(contains(refused("gles30", {.format = Format::r8_unorm, .width = 8192, .height = 2}),
                   "4096"));
    // Nearly all devices take these, but not every one: planned, and said.
    const UploadPlan large =
        must(plan_upload(TextureShape{.format = Format::r8_unorm, .width = 2048, .height = 2},
                         must(find_profile("gl33"))));
    REQUIRE(large.findings.size() == 1);
    CHECK(contains(large.findings[0].problem, "which is 1024"));
    CHECK(must(plan_upload(TextureShape{.format = Format::r8_unorm, .width = 1024, .height = 2},
                           must(find_profile("gl33"))))
              .findings.empty());
    CHECK(contains(refused("vulkan-mobile", {.format = Format::r8_unorm,
                                             .width = 4,
                                             .height = 4,
                                             .layers = 2,
                                             .faces = 6,
                                             .is_array = true}),
                   "arrays of cubes"));
    CHECK(contains(refused("gl33", {.format = Format::r8_unorm, .layers = 3000, .is_array = true}),
                   "3000 layers exceed the device's 2048"));
    CHECK(contains(refused("gl33", {.format = Format::r8_unorm, .depth = 3000}), "volumes"));
    DeviceProfile old = must(find_profile("gl33"));
    old.needs_power_of_two = true;
    CHECK(contains(
        must_fail(
            plan_upload({.format = Format::r8_unorm, .width = 6, .height = 4, .levels = 2}, old))
            .message,
        "powers of two"));
}

TEST_CASE("a options: some levels, some layers, the smallest first") {
    const TextureShape shape = {.format = Format::rgba8_unorm,
                                .width = 16,
                                .height = 16,
                                .levels = 5,
                                .layers = 3,
                                .is_array = true};
    const UploadPlan plan =
        plan_for("gl33", shape,
                 {.levels = {2, 2}, .first_layer = 1, .layer_count = 1, .smallest_first = true});
    REQUIRE(plan.regions.size() == 2);
    CHECK(plan.regions[0].level == 3);
    CHECK(plan.regions[1].level == 2);
    CHECK(plan.regions[0].layer == 1);
    CHECK(plan.shape == shape);  // the device's texture has all of it
    CHECK(plan.levels == LevelRange{2, 2});
    const DeviceProfile device = must(find_profile("gl33"));
    CHECK(must_fail(plan_upload(shape, device, {.levels = {5, 1}})).kind == ErrorKind::usage);
    CHECK(must_fail(plan_upload(shape, device, {.first_layer = 3})).kind == ErrorKind::usage);
    CHECK(must_fail(plan_upload(shape, device, {.format = Format::bc7_unorm})).kind ==
          ErrorKind::usage);
    // another format, on request
    const UploadPlan half = plan_for("gl33", shape, {.format = Format::rgba16_float});
    CHECK(half.shape.format == Format::rgba16_float);
    CHECK(contains(half.findings[0].problem, "as asked"));
}

TEST_CASE("a staging budget makes batches, between regions, slices and rows") {
    const TextureShape shape = {
        .format = Format::rgba8_unorm, .width = 64, .height = 64, .levels = 7};
    // rows of 256 bytes: 20 of them fit 5,200 bytes
    const UploadPlan plan = plan_for("gl33", shape, {.staging_budget = 5200});
    CHECK(plan.max_batch <= 5200);
    std::uint32_t rows = 0;
    std::size_t regions = 0;
    for (const UploadBatch& batch : plan.batches) {
        CHECK(batch.bytes <= 5200);
        CHECK(batch.first_region == regions);
        regions += batch.region_count;
        for (const UploadRegion& region : plan.regions_of(batch)) {
            CHECK(region.offset + region.slice_pitch * region.depth <= batch.bytes);
            if (region.level == 0) {
                CHECK(region.y == rows);
                rows += region.height;
            }
        }
    }
    CHECK(rows == 64);
    CHECK(regions == plan.regions.size());
    CHECK(plan.regions[0].height == 20);
    CHECK(must_fail(plan_upload(shape, must(find_profile("gl33")), {.staging_budget = 255})).kind ==
          ErrorKind::limit);
    // blocks are not cut: 64 texels are 16 blocks of 16 bytes, 5 rows of blocks fit 1,300 bytes
    const UploadPlan blocks =
        plan_for("d3d12", {.format = Format::bc3_unorm, .width = 64, .height = 62 + 2},
                 {.staging_budget = 1300});
    CHECK(blocks.regions[0].height == 20);
    CHECK(blocks.regions[1].y == 20);
    // slices: 8 x 8 texels are 2,048 bytes with the pitch of 256; two fit
    const UploadPlan slices =
        plan_for("d3d12", {.format = Format::rgba8_unorm, .width = 8, .height = 8, .depth = 5},
                 {.staging_budget = 5000});
    REQUIRE(slices.regions.size() == 3);
    CHECK(slices.regions[1].z == 2);
    CHECK(slices.regions[2].depth == 1);
}

TEST_CASE("updates are boxes inside one level, of whole blocks") {
    const DeviceProfile device = must(find_profile("vulkan-desktop"));
    const UploadPlan whole = must(
        plan_upload({.format = Format::bc1_unorm, .width = 22, .height = 16, .levels = 2}, device));
    const UploadPlan plan =
        must(plan_update(whole, {.x = 20, .y = 4, .width = 2, .height = 8}, device));
    REQUIRE(plan.regions.size() == 1);
    CHECK(plan.regions[0].x == 20);
    CHECK(plan.regions[0].row_pitch == 8);
    CHECK(plan.staging_bytes == 16);
    const auto refused = [&](const TextureBox& box) {
        return must_fail(plan_update(whole, box, device)).message;
    };
    CHECK(contains(refused({.x = 2, .width = 4, .height = 4}), "cut blocks"));
    CHECK(contains(refused({.width = 6, .height = 4}), "cut blocks"));
    CHECK(contains(refused({.level = 1, .x = 8, .width = 4, .height = 4}), "do not lie within"));
    CHECK(contains(refused({.x = 0xFFFFFFF0, .width = 32, .height = 4}), "do not lie within"));
    CHECK(contains(refused({.level = 2}), "no level 2"));
}

TEST_CASE("samplers are fitted to what devices have") {
    const auto fitted = [](const char* device, const char* text, std::size_t changes) {
        Findings findings;
        const Sampler sampler =
            fit_sampler(must(parse_sampler(text)), must(find_profile(device)), findings);
        CHECK(findings.size() == changes);
        return sampler;
    };
    CHECK(fitted("gles30", "wrap=clamp-to-border", 1).wrap[0] == Wrap::clamp_to_edge);
    CHECK(fitted("gl33", "wrap=clamp-to-border border=0.2,0.3,0.4,1", 0).border[1] == 0.3F);
    CHECK(fitted("metal", "wrap=clamp-to-border border=0.2,0.3,0.4,1", 1).border ==
          std::array<float, 4>{0, 0, 0, 1});
    CHECK(fitted("metal", "wrap=clamp-to-border border=1,1,1,1", 0).border[0] == 1);
    CHECK(fitted("webgpu", "wrap=mirror-once", 1).wrap[1] == Wrap::mirror);
    CHECK(fitted("webgpu", "bias=0.5", 1).level_bias == 0);
    CHECK(fitted("vulkan-mobile", "bias=-3", 1).level_bias == -2);
    CHECK(fitted("vulkan-mobile", "aniso=8", 1).max_anisotropy == 1);
    CHECK(fitted("d3d12", "aniso=8 bias=2 wrap=mirror-once", 0).max_anisotropy == 8);
}

TEST_CASE("findings about a texture and its sampler on a device, each with a remedy") {
    const auto findings = [](const char* device, const TextureUse& use) {
        std::string all;
        for (const Finding& finding : check_on_device(use, must(find_profile(device)))) {
            CHECK_FALSE(finding.remedy.empty());
            all += finding.problem + "\n";
        }
        return all;
    };
    const TextureShape full = {.format = Format::rgba8_srgb, .width = 4, .height = 4, .levels = 3};
    CHECK(findings("gl33", {.shape = full, .role = Role::color}).empty());
    CHECK(contains(findings("gl33", {.shape = full, .role = Role::normal}), "normal values in"));
    TextureShape linear = full;
    linear.format = Format::rgba8_unorm;
    CHECK(contains(findings("gl33", {.shape = linear, .role = Role::color}), "colours in"));
    CHECK(findings("gl33", {.shape = linear, .role = Role::normal}).empty());
    TextureShape floats = full;
    floats.format = Format::rgba32_float;
    CHECK(contains(findings("webgpu", {.shape = floats}), "does not filter"));
    CHECK(
        findings("webgpu", {.shape = floats,
                            .sampler = must(parse_sampler("mag=nearest min=nearest mip=nearest"))})
            .empty());
    CHECK(findings("d3d12", {.shape = floats}).empty());
    CHECK(contains(findings("gl33", {.shape = full, .declared = LevelRange{0, 1001}}), ""));
    TextureShape bare = full;
    bare.levels = 1;
    CHECK(contains(findings("gl33", {.shape = bare, .declared = LevelRange{0, 1001}}), "black"));
    CHECK(contains(findings("gl33", {.shape = full, .sampler = must(parse_sampler("lod=5..9"))}),
                   "beyond"));
    CHECK(contains(
        findings("gl33", {.shape = full, .sampler = must(parse_sampler("mag=nearest aniso=4"))}),
        "anisotropy"));
    CHECK(
        contains(findings("gl33", {.shape = full, .sampler = must(parse_sampler("compare=less"))}),
                 "no depth"));
    DeviceProfile old = must(find_profile("gl33"));
    old.has_seamless_cubes = false;
    old.needs_power_of_two = true;
    TextureShape cube = full;
    cube.faces = 6;
    CHECK(check_on_device({.shape = cube}, old).size() == 1);
    TextureShape odd = bare;
    odd.width = 5;
    CHECK(contains(check_on_device({.shape = odd, .sampler = must(parse_sampler("mip=none"))}, old)
                       .at(0)
                       .problem,
                   "powers of two"));
    CHECK(check_on_device(
              {.shape = odd, .sampler = must(parse_sampler("mip=none wrap=clamp-to-edge"))}, old)
              .empty());
}

TEST_CASE("every format in every role: colours without their curve, and numbers with one") {
    const auto format_named = [](const std::string& name) {
        const auto found = std::ranges::find(all_formats(), name, &FormatInfo::name);
        return found != all_formats().end() ? found->name : std::string_view();
    };
    const auto ended_otherwise = [&](std::string_view name, std::string_view end,
                                     const char* other) -> std::string_view {
        return name.ends_with(end)
                   ? format_named(std::string(name.substr(0, name.size() - end.size())) + other)
                   : std::string_view();
    };
    std::size_t found = 0;
    for (const FormatInfo& f : all_formats())
        for (const RoleInfo& role : all_roles()) {
            CAPTURE(std::string(f.name));
            CAPTURE(std::string(role.name));
            const auto curved = ended_otherwise(f.name, "-unorm", "-srgb"),
                       plain = ended_otherwise(f.name, "-srgb", "-unorm");
            const bool is_light = role.role == Role::color || role.role == Role::hdr;
            const Findings findings = check_role(f.format, role.role);
            if (role.role == Role::color && !curved.empty() && f.channel_count >= 3) {
                REQUIRE(findings.size() == 1);
                CHECK(findings[0].code == "color-as-linear");
                CHECK(contains(findings[0].remedy, curved));
            } else if (!is_light && f.name.ends_with("-srgb")) {
                REQUIRE(findings.size() == 1);
                CHECK(findings[0].code == "numbers-as-srgb");
                CHECK(contains(findings[0].remedy, plain.empty() ? f.name : plain));
            } else {
                CHECK(findings.empty());
            }
            found += findings.size();
        }
    CHECK(found > 100);
}

TEST_CASE("more textures than units and more samplers than a heap holds") {
    const DeviceProfile device = must(find_profile("webgpu"));
    CHECK(check_counts(16, 16, device).empty());
    const Findings findings = check_counts(17, 20, device);
    REQUIRE(findings.size() == 2);
    CHECK(contains(findings[0].remedy, "array"));
    CHECK(contains(findings[1].remedy, "share"));
}

TEST_CASE("samplers in the words of each API, as their standards number them") {
    const Sampler s = must(
        parse_sampler("mag=linear min=nearest mip=linear wrap=mirror,clamp-to-border,mirror-once "
                      "border=1,1,1,1 lod=1..4 compare=greater"));
    const GlSampler gl = gl_sampler(s);
    CHECK(gl.mag_filter == 0x2601);
    CHECK(gl.min_filter == 0x2702);  // GL_NEAREST_MIPMAP_LINEAR
    CHECK(gl.wrap == std::array<std::uint32_t, 3>{0x8370, 0x812D, 0x8743});
    CHECK(gl.compare_mode == 0x884E);
    CHECK(gl.compare_func == 0x0204);  // GL_GREATER
    CHECK(gl_sampler({}).min_filter == 0x2703);
    CHECK(gl_sampler(must(parse_sampler("mip=none"))).min_filter == 0x2601);
    CHECK(gl_sampler(must(parse_sampler("mip=nearest"))).min_filter == 0x2701);

    const VulkanSampler vulkan = vulkan_sampler(s);
    CHECK(vulkan.min_filter == 0);
    CHECK(vulkan.mipmap_mode == 1);
    CHECK(vulkan.address_mode == std::array<std::uint32_t, 3>{1, 3, 4});
    CHECK(vulkan.compare_op == 4);
    CHECK(vulkan.border_color == 4);  // VK_BORDER_COLOR_FLOAT_OPAQUE_WHITE
    CHECK(vulkan.border_is_preset);
    CHECK(vulkan.min_lod == 1);
    CHECK(vulkan_sampler(must(parse_sampler("mip=none"))).max_lod == 0.25F);
    CHECK_FALSE(vulkan_sampler(must(parse_sampler("border=0.5,0,0,1"))).border_is_preset);

    const D3d12Sampler direct3d = d3d12_sampler(s);
    CHECK(direct3d.filter == 0x85);  // D3D12_FILTER_COMPARISON_MIN_POINT_MAG_MIP_LINEAR
    CHECK(direct3d.address_mode == std::array<std::uint32_t, 3>{2, 4, 5});
    CHECK(direct3d.comparison_func == 5);
    CHECK(d3d12_sampler({}).filter == 0x15);  // D3D12_FILTER_MIN_MAG_MIP_LINEAR
    CHECK(d3d12_sampler(must(parse_sampler("aniso=8"))).filter == 0x55);  // ANISOTROPIC

    const WebGpuSampler web = webgpu_sampler(must(parse_sampler("wrap=mirror compare=less")));
    CHECK(web.address_mode[2] == "mirror-repeat");
    CHECK(web.compare == "less");
    CHECK(webgpu_sampler(s).address_mode[1].empty());
    CHECK(webgpu_sampler(must(parse_sampler("mag=nearest aniso=8"))).max_anisotropy == 1);

    const MetalSampler metal = metal_sampler(s);
    CHECK(metal.min_filter == "Nearest");
    CHECK(metal.mip_filter == "Linear");
    CHECK(metal.address_mode[2] == "MirrorClampToEdge");
    CHECK(metal.border_color == "OpaqueWhite");
    CHECK(metal.compare_function == "Greater");
}

TEST_CASE("block formats are copied in whole blocks where the device takes no others") {
    const TextureShape shape{.format = Format::bc7_srgb, .width = 16, .height = 8, .levels = 5};
    for (const char* device : {"webgpu", "d3d12", "vulkan-desktop"}) {
        CAPTURE(device);
        const bool is_whole = std::string(device) != "vulkan-desktop";
        const UploadPlan plan = plan_for(device, shape);
        for (const UploadRegion& region : plan.regions) {
            CHECK((region.width % 4 == 0) == (is_whole || shape.width_at(region.level) >= 4));
            CHECK((region.height % 4 == 0) == (is_whole || shape.height_at(region.level) >= 4));
        }
        // The stand-in checks what such a device would.
        RecordingDevice recorder(must(find_profile(device)));
        const Texture texture = support::random_texture(shape, 3);
        const UploadedTexture uploaded = must(upload_texture(recorder, texture));
        const Texture back = must(uploaded.texture->read_back());
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            CHECK(std::ranges::equal(back.level(level), texture.level(level)));
    }
}

TEST_CASE("lines with layers, and rows that OpenGL pads") {
    const TextureShape lines{
        .format = Format::rgba8_unorm, .width = 16, .layers = 3, .is_array = true, .is_1d = true};
    CHECK_FALSE(plan_for("webgpu", lines).shape.is_1d);
    CHECK(plan_for("d3d12", lines).shape.is_1d);
    // GL_UNPACK_ALIGNMENT pads rows of 15 bytes to 16, which is no whole number of texels.
    const UploadPlan padded =
        plan_for("gl33", {.format = Format::rgb8_unorm, .width = 5, .height = 2});
    CHECK(padded.regions[0].row_pitch == 16);
}

TEST_CASE("samplers without mip levels still minify, and anisotropy that is left out is said") {
    const Sampler plain = must(parse_sampler("mip=none"));
    CHECK(webgpu_sampler(plain).lod_max_clamp == 0.25F);
    CHECK(d3d12_sampler(plain).max_lod == 0.25F);
    const Sampler uneven = must(parse_sampler("mag=nearest aniso=8"));
    for (const char* device : {"webgpu", "d3d12", "vulkan-desktop"}) {
        Findings changes;
        const Sampler fitted = fit_sampler(uneven, must(find_profile(device)), changes);
        const bool is_lenient = std::string(device) == "vulkan-desktop";
        CHECK(fitted.max_anisotropy == (is_lenient ? 8 : 1));
        CHECK(changes.size() == (is_lenient ? 0U : 1U));
    }
}

TEST_CASE("devices that want powers of two look at width and height, and at how u and v wrap") {
    DeviceProfile old = must(find_profile("gl33"));
    old.needs_power_of_two = true;
    const auto is_named = [&](std::uint32_t width, std::uint32_t height, const char* wrap) {
        const TextureShape shape{
            .format = Format::rgba8_unorm, .width = width, .height = height, .levels = 1};
        const Findings findings = check_on_device(
            {.shape = shape, .sampler = must(parse_sampler(std::string("mip=none wrap=") + wrap))},
            old);
        return std::ranges::any_of(
            findings, [](const Finding& finding) { return finding.code == "not-power-of-two"; });
    };
    for (const auto& [width, height] : {std::pair{5U, 4U}, {4U, 5U}, {5U, 5U}}) {
        CHECK(is_named(width, height, "repeat,clamp-to-edge"));
        CHECK(is_named(width, height, "clamp-to-edge,repeat"));
        CHECK_FALSE(is_named(width, height, "clamp-to-edge,clamp-to-edge"));
    }
    CHECK_FALSE(is_named(4, 8, "repeat"));
}

TEST_CASE("findings have codes, each a short name of lower-case words") {
    DeviceProfile old = must(find_profile("gl33"));
    old.needs_power_of_two = true;
    old.has_seamless_cubes = false;
    old.has_mirror_once = false;
    const TextureShape cube{
        .format = Format::rgba32_float, .width = 5, .height = 5, .levels = 1, .faces = 6};
    const Sampler sampler = must(parse_sampler("aniso=16 bias=9 compare=less wrap=mirror-once"));
    Findings findings = check_on_device({.shape = cube, .sampler = sampler}, old);
    static_cast<void>(fit_sampler(sampler, old, findings));
    std::set<std::string_view> codes;
    for (const Finding& finding : findings) {
        CAPTURE(finding.problem);
        const std::string_view code = finding.code;
        CHECK(code.size() > 3);
        CHECK(std::ranges::all_of(code, [](char letter) {
            return (letter >= 'a' && letter <= 'z') || (letter >= '0' && letter <= '9') ||
                   letter == '-';
        }));
        codes.insert(code);
    }
    for (const char* code : {"no-mips", "cube-seam-on-device", "compare-without-depth",
                             "not-power-of-two", "mirror-once-replaced"})
        CHECK(codes.contains(code));
}
