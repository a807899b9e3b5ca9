#include <yl/cube.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "base/progress.hpp"
#include "cube/smaller.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// Each texel at an edge with the mean of all that it meets.
LightCube joined(const LightCube& light) {
    LightCube result = light;
    const std::int64_t last = std::int64_t{light.size()} - 1;
    for (std::size_t face = 0; face < 6; ++face)
        for (std::int64_t y = 0; y <= last; ++y)
            for (std::int64_t x = 0; x <= last; ++x) {
                const bool meets_across = x == 0 || x == last, meets_down = y == 0 || y == last;
                if (!meets_across && !meets_down)
                    continue;
                const float* own = light.texel(face, x, y);
                const float* across = light.texel(face, x == 0 ? -1 : last + 1, y);
                const float* down = light.texel(face, x, y == 0 ? -1 : last + 1);
                float* target = result.texel(face, x, y);
                for (std::size_t c = 0; c < 4; ++c) {
                    const float sum =
                        own[c] + (meets_across ? across[c] : 0) + (meets_down ? down[c] : 0);
                    target[c] = sum / (meets_across && meets_down ? 3.0F : 2.0F);
                }
            }
    result.fill_frames();
    return result;
}

}  // namespace

Status build_cube_mips(Texture& cube, const CubeMipOptions& options) try {
    YL_CHECK(check_texture(cube, "cube"));
    const TextureShape& shape = cube.shape();
    if (shape.faces != 6)
        return fail(ErrorKind::usage, "this is not a cube map; build_mips is for other textures");
    if ((options.given_levels & 1) == 0)
        return fail(ErrorKind::usage, "level 0 is what the others are made of: it has to be given");
    WorkingFormat format = working_format_of(cube);
    if (format.codec.load == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("no mip chain can be made of {}; make it before packing to blocks",
                                info(shape.format).name));
    format.dither = options.dither;
    std::uint64_t texels = 0;  // of a layer's faces, which the chain is made of
    for (std::uint32_t level = 0; level + 1 < shape.levels; ++level)
        texels += std::uint64_t{shape.width_at(level)} * shape.width_at(level);
    ProgressCounter progress(options.progress, Phase::levels, texels * shape.layers);
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer) {
        LightCube light = LightCube::of(cube, 0, layer, format);
        for (std::uint32_t level = 1; level < shape.levels; ++level) {
            if (progress.cancelled())
                return progress.status();
            progress.add(std::uint64_t{shape.width_at(level - 1)} * shape.width_at(level - 1));
            if ((options.given_levels >> level & 1) != 0) {
                light = LightCube::of(cube, level, layer, format);
                continue;
            }
            light = smaller_light_cube(light, options.kernel);
            (options.joined_edges ? joined(light) : light).store(cube, level, layer, format);
        }
    }
    return progress.finish();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
