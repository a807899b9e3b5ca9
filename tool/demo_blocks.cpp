#include <yl/status_macros.hpp>

#include "demo_blocks.hpp"

#include <fmt/format.h>
#include <yl/yl.hpp>

#include "describe.hpp"

namespace ylat {
namespace {

struct Case {
    const char* picture;
    yl::Role role;
    double min_decibels;  ///< that its first level has to keep
};

constexpr Case cases[] = {{"slate.png", yl::Role::color, 38},
                          {"lattice.png", yl::Role::color, 38},
                          {"pond_normal.png", yl::Role::normal, 38},
                          {"moss.png", yl::Role::mask, 38},
                          {"dawn.hdr", yl::Role::hdr, 0}};

std::string distance_text(const yl::ImageDifference& difference) {
    if (difference.mean_angle)
        return fmt::format("{:.2f} degrees", *difference.mean_angle);
    if (difference.log_error)
        return fmt::format("{:.4f} stops", *difference.log_error);
    return fmt::format("{:.1f} dB", difference.psnr);
}

yl::Status show_one(const Case& one, const std::string& folder, Driver& gpu,
                    const DemoReport& report) {
    yl::BakeOptions options{.role = one.role};
    YL_TRY(const auto plain, yl::bake_file(folder + "/" + one.picture, options));
    options.compressed = yl::BlockFamily::bc;
    YL_TRY(const auto baked, yl::bake_file(folder + "/" + one.picture, options));
    const std::string name = std::filesystem::path(one.picture).stem().string() + "_blocks.ktx2";
    const auto written = yl::write_texture(folder + "/" + name, baked.texture);
    if (!written)
        return written;
    YL_TRY(const auto identical, returns_identical(gpu, baked.texture));
    YL_TRY(
        const auto difference,
        yl::measure_difference(plain.texture.image(0), baked.texture.image(0), {.role = one.role}));
    report.check(identical);
    report.check(difference.log_error ? difference.log_error < 0.02
                                      : difference.psnr > one.min_decibels);
    report.say(fmt::format("  {:<24} {:<12} {:>10} -> {:>10}  {:<10} {}", name,
                           yl::info(baked.texture.shape().format).name,
                           byte_text(plain.texture.shape().total_bytes()),
                           byte_text(baked.texture.shape().total_bytes()),
                           identical ? "identical" : "DIFFERENT", distance_text(difference)));
    return {};
}

}  // namespace

yl::Status show_blocks(const std::string& folder, Driver& gpu, const DemoReport& report) {
    report.say("\nIn blocks, uploaded as they are and read back; how far from the picture:\n");
    for (const Case& one : cases)
        if (auto status = show_one(one, folder, gpu, report); !status)
            return status;
    return {};
}

}  // namespace ylat
