// A cube whose levels go to Direct3D 12 one by one, the smallest first, and are shown as they come:
//     cube_levels_d3d12 dawn.hdr faces.png
#include <cstdio>
#include <yl/d3d12.hpp>
#include <yl/yl.hpp>

using yl::or_exit;

int main(int argc, char** argv) {
    if (argc != 3)
        return std::fprintf(stderr, "usage: cube_levels_d3d12 PANORAMA OUT.png\n"), 2;
    const yl::d3d12::HeadlessDevice headless = or_exit(yl::d3d12::HeadlessDevice::create());
    yl::d3d12::Device device = or_exit(yl::d3d12::Device::open(headless.handles()));

    const yl::Picture panorama = or_exit(yl::read_picture(std::filesystem::path(argv[1])));
    const yl::Picture* const pictures[] = {&panorama};
    const std::string names[] = {argv[1]};
    yl::CubeBakeOptions options;
    options.source.face_size = 64;
    const yl::BakedCube sky = or_exit(yl::bake_cube(pictures, names, options));

    const yl::PreparedUpload prepared = or_exit(yl::prepare_upload(sky.texture, device.profile()));
    const auto texture = or_exit(device.reserve(prepared.desc));
    const std::uint32_t levels = prepared.desc.shape.levels;
    for (std::uint32_t level = levels; level-- > 0;) {
        const yl::UploadPlan plan =
            or_exit(yl::plan_upload(sky.texture, device.profile(), {.levels = {level, 1}}));
        for (std::size_t batch = 0; batch < plan.batches.size(); ++batch)
            or_exit(texture->write(plan, batch, prepared.source(sky.texture)));
        or_exit(texture->set_level_range({level, levels - level}));
    }
    const yl::Texture back = or_exit(texture->read_back());
    const yl::Image sheet = or_exit(yl::level_sheet(back, "as it came back"));
    or_exit(yl::write_picture(argv[2], sheet.view()));
    std::printf("%u levels of six faces, shown from number %u on\n", levels,
                texture->level_range().first);
}
