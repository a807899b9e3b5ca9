#include "bake/chain.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include <yl/cube.hpp>
#include <yl/mip.hpp>
#include <yl/status_macros.hpp>

namespace yl {
namespace {

std::uint32_t power_of_two(std::uint32_t side, PowerOfTwo rounding) {
    const std::uint32_t down = std::bit_floor(side);
    const std::uint32_t up = std::bit_ceil(side);
    switch (rounding) {
        case PowerOfTwo::any:
            return side;
        case PowerOfTwo::up:
            return up;
        case PowerOfTwo::down:
            return down;
        case PowerOfTwo::nearest:
            return side - down < up - side ? down : up;
    }
    return side;
}

}  // namespace

std::array<std::uint32_t, 2> texture_size(std::uint32_t width, std::uint32_t height,
                                          const BakeOptions& options) {
    std::array<std::uint32_t, 2> size = {width, height};
    const std::uint32_t longer = std::max(size[0], size[1]);
    const std::uint32_t max = options.max_side.value_or(longer);
    for (std::uint32_t& side : size) {
        if (longer > max)
            side = std::max(
                static_cast<std::uint32_t>((std::uint64_t{side} * max + longer / 2) / longer), 1U);
        side = power_of_two(side, options.power_of_two);
        while (options.max_side && side > max)
            side = power_of_two(side - 1, PowerOfTwo::down);
    }
    return size;
}

MipOptions chain_options(const BakeOptions& options, Role role) {
    MipOptions mips = options.mips;
    if (options.progress)
        mips.progress = options.progress;
    if (options.plain_chain)
        return mips;
    mips.are_normals = mips.are_normals || role == Role::normal;
    if (!mips.kernel) {
        mips.kernel = default_kernel(role);
        if (!mips.limit_ringing)
            mips.limit_ringing = mips.kernel->kind != Kernel::Kind::box;
    }
    return mips;
}

Status check_level_count(const BakeOptions& options, const TextureShape& shape) {
    const std::uint32_t most = full_level_count(shape.width, shape.height, shape.depth);
    if (!options.levels || (*options.levels > 0 && *options.levels <= most))
        return {};
    return fail_at(
        {ErrorKind::usage, fmt::format("{} levels were asked for; {} x {} pixels have 1 to {}",
                                       *options.levels, shape.width, shape.height, most)},
        "levels");
}

Status fill_levels(Texture& texture, const MipOptions& mips, const BakeOptions& options) {
    const bool is_cube = texture.shape().faces == 6;
    if (texture.shape().dimensions() == 3 && mips.sharpen > 0)
        return fail_at({ErrorKind::usage, "volumes are not sharpened"}, "sharpen");
    YL_CHECK(is_cube ? build_cube_mips(texture, {.kernel = mips.kernel.value_or(Kernel{}),
                                                 .dither = mips.dither,
                                                 .given_levels = mips.given_levels,
                                                 .progress = mips.progress})
                     : build_mips(texture, mips));
    if (options.normals) {
        Image normals;
        ConstImageView view = options.normals->image.view();
        if (options.origin == Origin::bottom) {
            YL_TRY(normals, upside_down(view));
            view = std::as_const(normals).view();
        }
        // Gray holds every channel in its first.
        const bool is_gray = texture.metadata.swizzle != identity_swizzle ||
                             !info(texture.shape().format).has(options.roughness_channel);
        YL_CHECK(
            widen_roughness(texture, view, is_gray ? Channel::red : options.roughness_channel));
    }
    if (options.coverage)
        YL_CHECK(preserve_coverage(texture, *options.coverage));
    return {};
}

Status check_first_level(const TextureShape& shape, std::uint32_t count) {
    if (count < shape.levels)
        return {};
    return fail_at({ErrorKind::usage, fmt::format("the chain has {} levels, from 0 to {}",
                                                  shape.levels, shape.levels - 1)},
                   "first level");
}

Result<Texture> without_first_levels(const Texture& texture, std::uint32_t count) {
    YL_CHECK(check_first_level(texture.shape(), count));
    return without_top_levels(texture, count);
}

Result<Image> upside_down(ConstImageView image) {
    YL_TRY(Image turned, Image::create(image.format, image.width, image.height, Limits::none()));
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const auto row = image.row(image.height - 1 - y);
        std::copy(row.begin(), row.end(), turned.view().row(y).begin());
    }
    return turned;
}

}  // namespace yl
