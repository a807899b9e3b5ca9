// How well the faces of a cube join.
#include <cmath>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "cube/light_cube.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

double step_between(const float* a, const float* b) {
    double max = 0;
    for (int c = 0; c < 3; ++c)
        max = std::max(max, std::abs(std::cbrt(static_cast<double>(std::max(a[c], 0.0F))) -
                                     std::cbrt(static_cast<double>(std::max(b[c], 0.0F)))));
    return max;
}

struct Steps {
    double sum = 0, max = 0, count = 0;
    void add(double step) {
        sum += step;
        max = std::max(max, step);
        ++count;
    }
    [[nodiscard]] double mean() const { return count > 0 ? sum / count : 0; }
};

}  // namespace

Result<CubeSeams> measure_cube_seams(const Texture& cube, std::uint32_t level,
                                     std::uint32_t layer) try {
    YL_CHECK(check_texture(cube, "cube"));
    const TextureShape& shape = cube.shape();
    if (shape.faces != 6 || level >= shape.levels || layer >= shape.layers)
        return fail(ErrorKind::usage, "this is not a level of a cube map");
    const WorkingFormat format = working_format_of(cube);
    if (format.codec.load == nullptr)
        return fail(ErrorKind::unsupported, "blocks have to be unpacked before they are measured");
    const LightCube light = LightCube::of(cube, level, layer, format);
    const std::int64_t size = light.size();
    Steps across, within;
    for (std::size_t face = 0; face < 6; ++face)
        for (std::int64_t y = 0; y < size; ++y)
            for (std::int64_t x = 0; x < size; ++x) {
                const float* here = light.texel(face, x, y);
                (x + 1 < size ? within : across)
                    .add(step_between(here, light.texel(face, x + 1, y)));
                (y + 1 < size ? within : across)
                    .add(step_between(here, light.texel(face, x, y + 1)));
                // Each edge of the cube is met from both of its faces.
                if (x == 0)
                    across.add(step_between(here, light.texel(face, -1, y)));
                if (y == 0)
                    across.add(step_between(here, light.texel(face, x, -1)));
            }
    return CubeSeams{across.max, within.max, across.mean(), within.mean()};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
