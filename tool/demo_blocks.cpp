#include <yl/status_macros.hpp>

#include "demo_blocks.hpp"

#include <fmt/format.h>

#include <algorithm>
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
    const yl::BakeOptions options{.role = one.role};
    YL_TRY(const auto plain, yl::bake_file(folder + "/" + one.picture, options));
    const std::string name = std::filesystem::path(one.picture).stem().string() + "_blocks.ktx2";
    YL_TRY(const auto baked, yl::read_texture(folder + "/" + name));
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

/// What each format makes of one small picture.
struct Rival {
    const char* title;
    yl::Format format;
    double min_decibels;
};

constexpr Rival rivals[] = {{"RGBA8, the picture", yl::Format::rgba8_srgb, 99},
                            {"BC1", yl::Format::bc1a_srgb, 20},
                            {"BC7", yl::Format::bc7_srgb, 30},
                            {"ETC2 with holes", yl::Format::etc2_rgb8a1_srgb, 18},
                            {"ETC2 and EAC", yl::Format::etc2_rgba8_srgb, 20},
                            {"ASTC 4x4", yl::Format::astc_4x4_srgb, 30},
                            {"ASTC 6x6", yl::Format::astc_6x6_srgb, 22},
                            {"ASTC 8x8", yl::Format::astc_8x8_srgb, 18}};

/// Each texel as a square on gray.
yl::Result<yl::Image> squares_of(yl::ConstImageView texels, std::uint32_t side) {
    YL_TRY(yl::Image gray,
           yl::Image::create(yl::Format::rgba8_srgb, texels.width * side, texels.height * side));
    constexpr int background = 96;
    for (std::uint32_t y = 0; y < gray.height(); ++y)
        for (std::uint32_t x = 0; x < gray.width(); ++x) {
            const std::byte* texel = texels.row(y / side).data() + std::size_t{4} * (x / side);
            std::byte* pixel = gray.view().row(y).data() + std::size_t{4} * x;
            const int alpha = std::to_integer<int>(texel[3]);
            for (std::size_t c = 0; c < 3; ++c)
                pixel[c] = static_cast<std::byte>(
                    (std::to_integer<int>(texel[c]) * alpha + background * (255 - alpha)) / 255);
            pixel[3] = std::byte{255};
        }
    return gray;
}

yl::Status show_rivals(const std::string& folder, const DemoReport& report) {
    constexpr std::uint32_t side = 6;
    const std::string label = folder + "/label.png";
    YL_TRY(const auto plain, yl::bake_file(label, {.role = yl::Role::color, .levels = 1}));
    std::vector<yl::LabelledPicture> panels;
    for (const Rival& rival : rivals) {
        YL_TRY(
            const auto baked,
            yl::bake_file(label, {.role = yl::Role::color, .format = rival.format, .levels = 1}));
        YL_TRY(const auto texels, yl::decode_texture(baked.texture));

        YL_TRY(const auto difference,
               yl::measure_difference(plain.texture.image(0), baked.texture.image(0),
                                      {.role = yl::Role::color}));
        const double decibels = std::min(difference.psnr, 99.0);
        report.check(decibels >= rival.min_decibels);
        const yl::FormatInfo& f = yl::info(rival.format);
        YL_TRY(auto picture, squares_of(texels.image(0), side));
        panels.push_back({std::move(picture), rival.title,
                          fmt::format("{:.2f} bits a texel{}",
                                      8.0 * f.block_bytes / (f.block_width * f.block_height),
                                      decibels < 99 ? fmt::format(", {:.1f} dB", decibels) : "")});
    }
    YL_TRY(const auto picture,
           yl::arrange_panels(panels, 4, "What blocks lose: 45 x 29 texels of letters"));
    return yl::write_picture(folder + "/formats.png", picture.view());
}

}  // namespace

yl::Status show_blocks(const std::string& folder, Driver& gpu, const DemoReport& report) {
    report.say("\nIn blocks, uploaded as they are and read back; how far from the picture:\n");
    for (const Case& one : cases)
        if (auto status = show_one(one, folder, gpu, report); !status)
            return status;
    return show_rivals(folder, report);
}

}  // namespace ylat
