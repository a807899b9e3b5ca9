#include <yl/status_macros.hpp>

#include "demo_devices.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "describe.hpp"

namespace ylat {
namespace {

/// A driver that the demo tries; one that is not here is said, and fails only where it is needed.
struct Candidate {
    const char* api;
    const char* device;
    bool is_needed;
};

yl::Status show_driver(Driver& driver, const std::map<std::string, yl::Texture>& textures,
                       const DemoReport& report) {
    std::size_t identical = 0;
    for (const auto& [name, texture] : textures) {
        YL_TRY(const auto same, returns_identical(driver, texture));
        identical += same ? 1 : 0;
    }
    report.check(identical == textures.size());
    const yl::Texture& slate = textures.at("slate");
    const yl::Scene floor = yl::floor_scene({.width = 320, .height = 200});
    YL_TRY(const auto unit, yl::TextureSampler::create(slate, {}, yl::LevelRange::of(slate.shape()),
                                                       driver.level_curve()));
    const auto by_cpu = yl::draw_scene(floor, unit);
    const auto by_device = driver.draw(floor, slate, {}, {});
    if (!by_cpu || !by_device)
        return tl::unexpected(by_cpu ? by_device.error() : by_cpu.error());
    YL_TRY(const auto difference, yl::compare_pictures(by_cpu->view(), by_device->view(), 2));
    report.check(difference.share_within() >= 0.995);
    report.say(fmt::format("  {:<31} {:<34} {} of {} identical; floor within 2 codes at {:.2f} %",
                           driver.profile().api, driver.profile().name, identical, textures.size(),
                           100 * difference.share_within()));
    return {};
}

void show_plans(const yl::Texture& slate, const DemoReport& report) {
    report.say("\nPlanned for devices that are not here (slate):\n");
    for (const yl::DeviceProfile& profile : yl::built_in_profiles()) {
        const auto plan = yl::plan_upload(slate.shape(), profile);
        report.check(plan.has_value());
        if (plan)
            report.say(fmt::format("  {:<14} {:<34} {} in {} regions, rows to {} bytes",
                                   profile.name, profile.api, byte_text(plan->staging_bytes),
                                   plan->regions.size(), profile.row_pitch_alignment));
    }
}

}  // namespace

yl::Status show_devices(const std::map<std::string, yl::Texture>& textures,
                        const DemoReport& report) {
    report.say("\nOn other drivers:\n");
    for (const Candidate& candidate : {Candidate{"gles", "", true},
                                       {"vulkan", "", true},
                                       {"vulkan", "SwiftShader", false},
                                       {"d3d12", "", true}}) {
        const auto driver = open_driver(candidate.api, candidate.device);
        if (!driver) {
            report.check(!candidate.is_needed);
            report.say(fmt::format("  {}", driver.error().sentence()));
            continue;
        }
        if (auto status = show_driver(**driver, textures, report); !status)
            return status;
    }
    show_plans(textures.at("slate"), report);
    return {};
}

}  // namespace ylat
