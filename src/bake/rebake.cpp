// From a texture to another one: format, order of rows, size, levels.
#include <fmt/format.h>

#include <algorithm>

#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "bake/block_step.hpp"
#include "bake/chain.hpp"
#include "bake/formats.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

Role role_of(const Texture& texture, const BakeOptions& options) {
    const bool is_float = info(texture.shape().format).is_float();
    return options.role.value_or(is_float ? Role::hdr : Role::color);
}

/// Level 0 of every layer, face and slice in another size.
Result<Texture> top_in_size(const Texture& texture, const std::array<std::uint32_t, 2>& size,
                            const MipOptions& mips) {
    TextureShape shape = texture.shape();
    shape.levels = 1;
    const bool same = size[0] == shape.width && size[1] == shape.height;
    if (!same && (shape.depth > 1 || shape.faces == 6))
        return fail(ErrorKind::usage, "volumes and cubes keep their size");
    shape.width = size[0];
    shape.height = size[1];
    YL_TRY(Texture top, Texture::create(shape, Limits::none()));
    top.metadata = texture.metadata;
    if (same) {
        std::ranges::copy(texture.level(0), top.level(0).begin());
        return top;
    }
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer) {
        YL_TRY(const Image image, resize(texture.image(0, layer), size[0], size[1],
                                         {.kernel = mips.kernel.value_or(Kernel{}),
                                          .edges = mips.edges,
                                          .transfer = texture.metadata.transfer,
                                          .alpha = texture.metadata.alpha,
                                          .limit_ringing = mips.limit_ringing.value_or(false),
                                          .progress = mips.progress}));
        for (std::uint32_t y = 0; y < size[1]; ++y)
            std::ranges::copy(image.view().row(y), top.image(0, layer).row(y).begin());
    }
    return top;
}

Result<Texture> with_new_levels(const Texture& texture, const BakeOptions& options, Role role) {
    const TextureShape& given = texture.shape();
    if (!options.given.empty())
        return fail_at({ErrorKind::usage, "levels of their own are for pictures"}, "levels");
    const MipOptions mips = chain_options(options, role);
    YL_TRY(const Texture top,
           top_in_size(texture, texture_size(given.width, given.height, options), mips));
    TextureShape shape = top.shape();
    YL_CHECK(check_level_count(options, shape));
    shape.levels =
        options.levels.value_or(full_level_count(shape.width, shape.height, shape.depth));
    YL_TRY(Texture chain, Texture::create(shape, Limits::none()));
    chain.metadata = top.metadata;
    std::ranges::copy(top.level(0), chain.level(0).begin());
    YL_CHECK(fill_levels(chain, mips, options));
    if (options.first_level == 0)
        return chain;
    return without_first_levels(chain, options.first_level);
}

}  // namespace

Result<Baked> rebake(const Texture& texture, const RebakeOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    const BakeOptions& bake = options.bake;
    Baked baked{.role = role_of(texture, bake)};
    const Format present = texture.shape().format;
    YL_TRY(baked.texture, texture_in_format(texture, present, baked.role));
    if (bake.sampler)
        baked.texture.metadata.sampler = bake.sampler;
    AlphaMode& alpha = baked.texture.metadata.alpha;
    if (bake.alpha)
        alpha = *bake.alpha;
    else if (bake.role)
        alpha = alpha_mode(*bake.role, alpha);
    Format wanted = bake.format.value_or(present);
    const Origin origin = options.origin.value_or(texture.metadata.origin);
    const bool turns = origin != texture.metadata.origin;
    const bool keeps_texels =
        wanted == present && bake.compressed == BlockFamily::none && !turns && !options.new_levels;
    if (keeps_texels)
        return baked;
    if (info(present).is_block()) {
        YL_TRY(baked.texture, decode_texture(baked.texture));
    }
    if (bake.compressed != BlockFamily::none && !bake.format)
        wanted = with_bits_per_texel(
            block_format_for(analyse_channels(std::as_const(baked.texture).image(0),
                                              baked.texture.metadata.swizzle),
                             baked.role, bake.compressed),
            bake.bits_per_texel);
    YL_TRY(baked.texture, with_origin(baked.texture, origin));
    if (options.new_levels) {
        YL_TRY(baked.texture,
               texture_in_format(baked.texture, format_of_chain(wanted), baked.role));
        BakeOptions chain = bake;
        chain.origin = origin;
        YL_TRY(baked.texture, with_new_levels(baked.texture, chain, baked.role));
    }
    if (wanted != baked.texture.shape().format) {
        YL_TRY(baked.texture, texture_in_format(baked.texture, wanted, baked.role,
                                                block_options(bake, baked.role)));
    }
    const Findings sizes = check_blocks(baked.texture.shape(), wanted_family(bake));
    baked.findings.insert(baked.findings.end(), sizes.begin(), sizes.end());
    return baked;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
