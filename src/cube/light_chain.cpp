#include "cube/light_chain.hpp"

#include <fmt/format.h>

#include "cube/smaller.hpp"

namespace yl {

LightChain::LightChain(const Texture& cube, std::uint32_t layer)
    : LightChain(LightCube::of(cube, 0, layer, working_format_of(cube))) {}

LightChain::LightChain(LightCube top) {
    levels_.push_back(std::move(top));
    while (levels_.back().size() > 1)
        levels_.push_back(smaller_light_cube(levels_.back(), {.kind = Kernel::Kind::triangle}));
}

const LightCube& LightChain::for_size(std::uint32_t size) const {
    for (const LightCube& light : levels_)
        if (light.size() <= size)
            return light;
    return levels_.back();
}

Status check_light_source(const Texture& cube) {
    if (cube.shape().faces != 6)
        return fail(ErrorKind::usage, "this is not a cube map");
    if (working_format_of(cube).codec.load == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("{} cannot be read texel by texel; filter the cube before packing",
                                info(cube.shape().format).name));
    return {};
}

}  // namespace yl
