#include <yl/status_macros.hpp>

#include "demo_models.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <yl/model_bake.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "draw_model.hpp"
#include "planter.hpp"

namespace ylat {
namespace {

using yl::model::Model;

/// By the driver, and held against the CPU's pictures.
yl::Status draw_both(const Model& model, const std::string& path, Driver& gpu,
                     const DemoReport& report) {
    yl::Findings findings;
    YL_TRY(const auto scene, yl::model::scene_of(model, findings));
    yl::ModelView view;
    view.width = view.height = 620;
    std::vector<yl::LabelledPicture> panels;
    for (const yl::ModelShow show : {yl::ModelShow::lit, yl::ModelShow::level}) {
        view.show = show;
        const auto by_cpu = yl::draw_model(scene, view, gpu.level_curve());
        auto by_gl = gpu.draw(scene, view);
        if (!by_cpu || !by_gl)
            return tl::unexpected(by_cpu ? by_gl.error() : by_cpu.error());
        YL_TRY(const auto difference, yl::compare_pictures(by_cpu->view(), by_gl->view(), 2));
        report.check(difference.share_within() >= 0.99);
        const auto keys = color_keys(scene, show);
        if (!keys.empty())
            by_gl = yl::with_keys(by_gl->view(), keys);
        if (!by_gl)
            return tl::unexpected(by_gl.error());
        panels.push_back(
            {std::move(*by_gl), show == yl::ModelShow::lit ? "lit" : "mip levels",
             fmt::format("CPU within 2 codes at {:.3f} %", 100 * difference.share_within())});
        report.say(fmt::format("  {:<22} {:<10} {}", "planter.png", panels.back().title,
                               panels.back().note));
    }
    YL_TRY(const auto arranged,
           yl::arrange_panels(panels, 2, "A planter, its textures from everywhere"));
    return yl::write_picture(path, arranged.view());
}

}  // namespace

yl::Status show_planter(const std::string& folder, Driver& gpu, const DemoReport& report) {
    report.say("\nA model, its textures baked into it:\n");
    const auto model = yl::model::read_model(folder + "/planter.glb");
    if (!model)
        return tl::unexpected(model.error());
    // What the list made is what the library makes.
    const std::string path = folder + "/planter_baked.glb";
    YL_TRY(const yl::Buffer of_list, yl::read_whole_file(path));
    yl::model::ModelBakeOptions options;
    YL_TRY(options.write, parse_supercompression("zstd"));
    YL_TRY(const auto baked, yl::model::bake_model(*model, path, options));
    YL_TRY(const yl::Buffer of_library, yl::read_whole_file(path));
    report.check(std::ranges::equal(of_list.bytes(), of_library.bytes()));
    std::uint64_t plain = 0, on_device = 0;
    std::size_t missing = 0;
    for (const yl::model::BakedTexture& texture : baked.textures) {
        plain += texture.plain_device_bytes;
        on_device += texture.device_bytes;
        missing += texture.error ? 1 : 0;
    }
    YL_TRY(const auto again, yl::model::read_model(folder + "/planter_baked.glb"));
    const auto before = bindings_of(*model), after = bindings_of(again);
    report.check(before.textures.size() == after.textures.size() &&
                 before.samplers == after.samplers && missing == 1);
    report.say(
        fmt::format("  {:<22} {} textures with {} samplers, {} missing; {} on the device "
                    "instead of {}",
                    "planter_baked.glb", after.textures.size(), after.samplers, missing,
                    byte_text(on_device), byte_text(plain)));
    return draw_both(again, folder + "/planter.png", gpu, report);
}

}  // namespace ylat
