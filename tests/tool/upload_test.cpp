// The tool's uploads: to every API that is here, and planned for devices that are not.
#include <filesystem>
#include <yl/yl.hpp>

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

TEST_CASE("upload by OpenGL, OpenGL ES and both Vulkan drivers reads back identical") {
    const TemporaryFolder folder;
    const std::string blocks = folder.path("slate.ktx2");
    REQUIRE(run_ylat("bake " + demo_file("slate.png") + " --as bc7-srgb --effort 0 -o " + blocks)
                .exit == 0);
    for (const char* api : {"gl", "gles", "vulkan", "vulkan --device SwiftShader", "d3d12"}) {
        CAPTURE(api);
        const json report = run_json("upload --api " + std::string(api) + " " + blocks);
        CHECK(report["identical"] == true);
        CHECK(report["gpu_format"] == "bc7-srgb");
        CHECK(report["regions"].size() == 10);
    }
    const Outcome outcome = run_ylat("upload --api vulkan --device abacus " + blocks);
    CHECK(outcome.exit == 5);
    CHECK(contains(outcome.err, "SwiftShader"));
    CHECK(run_ylat("upload --api gl --device abacus " + blocks).exit == 2);
}

TEST_CASE("volumes and lines go up as well, and conversions are said") {
    const TemporaryFolder folder;
    const std::string volume = folder.path("volume.ktx2"), line = folder.path("line.ktx2");
    must(write_texture(
        volume,
        support::random_texture(
            {.format = Format::rgb8_unorm, .width = 9, .height = 5, .depth = 4, .levels = 4}, 1)));
    must(write_texture(
        line, support::random_texture(
                  {.format = Format::rgba8_unorm, .width = 16, .levels = 5, .is_1d = true}, 1)));
    CHECK(run_json("upload --api gl " + volume)["converted"] == false);
    const json report = run_json("upload --api vulkan " + volume);
    CHECK(report["gpu_format"] == "rgba8-unorm");
    CHECK(report["identical"] == true);
    CHECK(report["regions"][0]["depth"] == 4);
    CHECK(run_json("upload --api gl " + line)["identical"] == true);
    CHECK(contains(run_ylat("upload --api gles " + line).err, "one texel high"));
}

TEST_CASE("a plan needs no device, nor the texture's texels") {
    const TemporaryFolder folder;
    const std::string file = folder.path("slate.ktx2");
    REQUIRE(run_ylat("bake " + demo_file("slate.png") + " -o " + file).exit == 0);
    const std::string no_device =
        "VK_DRIVER_FILES=/nowhere VK_ADD_DRIVER_FILES=/nowhere "
        "__EGL_VENDOR_LIBRARY_FILENAMES=/nowhere";
    const Outcome outcome = run_ylat("upload --plan d3d12 " + file, no_device);
    CHECK(outcome.exit == 0);
    CHECK(contains(outcome.out, "DXGI_FORMAT_R8G8B8A8_UNORM_SRGB (29)"));
    CHECK(contains(outcome.out, "regions to 512"));
    const json plan = run_json("upload --plan d3d12 " + file);
    // 512 x 512 x 4, and each level after it a multiple of 512 bytes further on
    const json& regions = plan["batches"][0]["regions"];
    REQUIRE(regions.size() == 10);
    CHECK(regions[0]["row_pitch"] == 2048);
    CHECK(regions[1]["offset"] == 1048576);
    CHECK(regions[9]["row_pitch"] == 256);
    CHECK(plan["api_sampler"]["filter"] == 0x15);
    CHECK(plan["findings"].empty());
}

TEST_CASE("plans say what is converted, in batches, from a level on") {
    const json plan = run_json(
        "upload --plan webgl2 --staging 100000 --smallest-first "
        "--from-level 1 --role mask " +
        demo_file("moss.png"));
    CHECK(plan["gpu_format"] == "rgba8-unorm");  // no swizzles there
    CHECK(plan["swizzle"] == "rgba");
    REQUIRE(plan["batches"].size() >= 1);
    CHECK(plan["batches"][0]["regions"][0]["level"] == 8);
    for (const json& batch : plan["batches"]) {
        CHECK(batch["bytes"] <= 100000);
        for (const json& region : batch["regions"])
            CHECK(region["level"] >= 1);
    }
    CHECK(contains(run_ylat("upload --plan webgl2 --role mask " + demo_file("moss.png")).err,
                   "reorder channels"));
    CHECK(run_ylat("upload --plan commodore " + demo_file("moss.png")).exit == 2);
    CHECK(run_ylat("upload --plan gl33 --staging 100 " + demo_file("moss.png")).exit == 3);
    CHECK(run_ylat("upload --plan gl33 --from-level 40 " + demo_file("moss.png")).exit == 2);
    for (const char* device : {"gl33", "vulkan-desktop", "webgpu", "metal"})
        CHECK(run_json("upload --role color --plan " + std::string(device) + " " +
                       demo_file("slate.png"))["gpu_format"] == "rgba8-srgb");
}

TEST_CASE("every driver draws nearly the same floor and sky") {
    const TemporaryFolder folder;
    const std::string sky = folder.path("sky.ktx2");
    REQUIRE(run_ylat("cube " + demo_file("dawn.hdr") + " --face-size 64 -o " + sky).exit == 0);
    const std::string floor =
        "draw floor " + demo_file("slate.png") + " --size 160x100 -o " + folder.path("f-");
    const std::string view = "draw sky " + sky + " --size 160x100 -o " + folder.path("s-");
    for (const char* api :
         {"cpu", "gl", "gles", "vulkan", "vulkan --device SwiftShader", "d3d12"}) {
        CAPTURE(api);
        std::string file = std::string(api) + ".png";
        std::ranges::replace(file, ' ', '_');
        CHECK(run_ylat(floor + file + " --api " + api).exit == 0);
        CHECK(run_ylat(view + file + " --api " + api).exit == 0);
        for (const char* scene : {"f-", "s-"}) {
            const json report =
                run_json("diff --tolerance 40 " + folder.path(scene + std::string("cpu.png")) +
                         " " + folder.path(scene + file));
            const json psnr = report["surfaces"][0]["psnr"];
            CHECK((psnr.is_null() || psnr.get<double>() > 48));
        }
    }
    CHECK(run_ylat("draw floor " + demo_file("slate.png") +
                   " --api vulkan --declare-levels 0..1000 -o " + folder.path("x.png"))
              .exit == 2);
}
