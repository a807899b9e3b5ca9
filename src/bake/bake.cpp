#include <yl/bake.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include <yl/analysis.hpp>
#include <yl/convert.hpp>
#include <yl/coverage.hpp>
#include <yl/mip.hpp>
#include <yl/resize.hpp>
#include <yl/roughness.hpp>
#include "bake/block_step.hpp"
#include "base/attempt.hpp"

namespace yl {
namespace {

Format number_format(std::uint32_t channels, bool wide) {
    static constexpr Format narrow_formats[] = {Format::r8_unorm, Format::rg8_unorm,
                                                Format::rgba8_unorm, Format::rgba8_unorm};
    static constexpr Format wide_formats[] = {Format::r16_unorm, Format::rg16_unorm,
                                              Format::rgba16_unorm, Format::rgba16_unorm};
    return (wide ? wide_formats : narrow_formats)[channels - 1];
}

/// How the texture's few channels are seen, and how the picture's channels get into them.
struct ChannelPlan {
    Swizzle seen = identity_swizzle;
    Swizzle on_the_way = identity_swizzle;
};

ChannelPlan plan_channels(const Picture& picture, const ChannelUse& use, const FormatInfo& target) {
    const bool stored_gray = picture.swizzle != identity_swizzle;
    if (target.channel_count > 2)
        return {identity_swizzle, picture.swizzle};
    if (!stored_gray && !use.is_gray)
        return {};
    if (target.channel_count == 1)
        return {gray_swizzle, identity_swizzle};
    // Two channels of a gray picture hold gray and alpha.
    static constexpr Swizzle gray_then_alpha = {SwizzleSource::red, SwizzleSource::alpha,
                                                SwizzleSource::zero, SwizzleSource::one};
    if (!stored_gray)
        return {gray_alpha_swizzle, gray_then_alpha};
    const bool has_alpha = picture.swizzle == gray_alpha_swizzle;
    return has_alpha ? ChannelPlan{gray_alpha_swizzle, identity_swizzle}
                     : ChannelPlan{gray_alpha_swizzle,
                                   {SwizzleSource::red, SwizzleSource::one, SwizzleSource::zero,
                                    SwizzleSource::one}};
}

Findings check_format(const Picture& picture, const BakeOptions& options, const ChannelUse& use,
                      const FormatInfo& f) {
    Findings findings;
    const bool narrow = f.kind == NumericKind::unorm && f.channels[0].bits <= 8;
    if (picture.transfer == Transfer::srgb && f.transfer == Transfer::linear && narrow)
        findings.push_back(
            {fmt::format("{} holds linear light in 8 bits: dark tones will show bands", f.name),
             "choose an -srgb format, or 16 bits"});
    if (info(picture.image.format()).is_float() && !f.is_float())
        findings.push_back(
            {fmt::format("the picture is in floating point, and {} cuts off all light above 1",
                         f.name),
             "choose the role hdr, or a -float format"});
    if (info(options.role).transfer == Transfer::linear && f.transfer == Transfer::srgb)
        findings.push_back(
            {fmt::format("the role {} is no colour, but {} makes the GPU decode it as sRGB",
                         info(options.role).name, f.name),
             fmt::format("choose {}",
                         info(with_transfer(f.format, Transfer::linear).value_or(f.format)).name)});
    if (!use.is_gray && f.channel_count == 1)
        findings.push_back(
            {fmt::format("{} keeps the red channel alone of a coloured picture", f.name),
             "choose a format with three or four channels if colour is meant"});
    if (!use.is_opaque && !f.has(Channel::alpha) && !(use.is_gray && f.channel_count == 2))
        findings.push_back(
            {fmt::format("the picture has transparent pixels and {} has no alpha", f.name),
             "choose a format with alpha"});
    if (picture.info.file_bits == 16 && narrow && options.role == Role::height)
        findings.push_back(
            {fmt::format("{} keeps 8 of the picture's 16 bits: slopes will show steps", f.name),
             "choose r16-unorm"});
    return findings;
}

/// The image with its rows in opposite order: a view cannot go backwards, so this one is a copy.
Result<Image> upside_down(ConstImageView image) {
    YL_TRY(Image turned,
           Image::create(image.format, image.width, image.height,
                         {.greatest_side = ~0U, .greatest_bytes = ~std::uint64_t{0}}));
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const auto row = image.row(image.height - 1 - y);
        std::copy(row.begin(), row.end(), turned.view().row(y).begin());
    }
    return turned;
}

}  // namespace

Format default_format(const Picture& picture, Role role) {
    const auto channels = [&] {
        return analyse_channels(picture.image.view(), picture.swizzle).useful_channels();
    };
    const bool wide = info(picture.image.format()).channels[0].bits == 16;
    switch (role) {
        case Role::color:
            return Format::rgba8_srgb;
        case Role::normal:
            return wide ? Format::rgba16_unorm : Format::rgba8_unorm;
        case Role::mask:
        case Role::data:
            return number_format(channels(), wide);
        case Role::height:
            return number_format(1, wide);
        case Role::hdr:
            return Format::rgba16_float;
    }
    return Format::rgba8_srgb;
}

Format default_block_format(const Picture& picture, Role role) {
    const std::uint32_t channels =
        role == Role::mask || role == Role::data
            ? analyse_channels(picture.image.view(), picture.swizzle).useful_channels()
            : 0;
    switch (role) {
        case Role::color:
            return Format::bc7_srgb;
        case Role::normal:
            return Format::bc5_unorm;
        case Role::mask:
        case Role::data:
            return channels == 1   ? Format::bc4_unorm
                   : channels == 2 ? Format::bc5_unorm
                                   : Format::bc7_unorm;
        case Role::height:
            return Format::bc4_unorm;
        case Role::hdr:
            return Format::bc6h_ufloat;
    }
    return Format::bc7_srgb;
}

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

/// The size that the texture gets of a picture's.
std::array<std::uint32_t, 2> texture_size(ConstImageView picture, const BakeOptions& options) {
    std::array<std::uint32_t, 2> size = {picture.width, picture.height};
    const std::uint32_t longer = std::max(size[0], size[1]);
    const std::uint32_t greatest = options.greatest_side.value_or(longer);
    for (std::uint32_t& side : size) {
        if (longer > greatest)
            side = std::max(
                static_cast<std::uint32_t>((std::uint64_t{side} * greatest + longer / 2) / longer),
                1U);
        side = power_of_two(side, options.power_of_two);
        while (options.greatest_side && side > greatest)
            side = power_of_two(side - 1, PowerOfTwo::down);
    }
    return size;
}

/// How a picture gets into a level: its channels, its colours, and which way up.
Status place_picture(const Picture& picture, ConstImageView image, const BakeOptions& options,
                     const ChannelPlan& channels, Transfer transfer, ImageView target) {
    const ConvertOptions conversion{.source_transfer = picture.transfer,
                                    .target_transfer = transfer,
                                    .swizzle = channels.on_the_way,
                                    .dither = options.mips.dither};
    if (options.origin == Origin::top)
        return convert(image, target, conversion);
    YL_TRY(const Image turned, upside_down(image));
    return convert(turned.view(), target, conversion);
}

Status place_given_levels(const BakeOptions& options, Texture& texture, std::uint32_t& given) {
    const TextureShape& shape = texture.shape();
    for (const GivenLevel& entry : options.given) {
        const auto place = fmt::format("level {}", entry.level);
        if (entry.picture == nullptr)
            return fail_at({ErrorKind::usage, "there is no picture"}, place);
        const Picture& picture = *entry.picture;
        const ConstImageView image = picture.image.view();
        if (entry.level == 0 || entry.level >= shape.levels)
            return fail_at(
                {ErrorKind::usage, fmt::format("the chain has levels 0 to {}", shape.levels - 1)},
                place);
        const std::uint32_t width = shape.width_at(entry.level);
        const std::uint32_t height = shape.height_at(entry.level);
        if (image.width != width || image.height != height)
            return fail_at({ErrorKind::usage,
                            fmt::format("the picture is {} x {}; at this level the texture is "
                                        "{} x {}",
                                        image.width, image.height, width, height)},
                           place);
        const ChannelUse use = analyse_channels(image, picture.swizzle);
        YL_CHECK(place_picture(picture, image, options,
                               plan_channels(picture, use, info(shape.format)),
                               texture.traits.transfer, texture.image(entry.level)));
        given |= 1U << entry.level;
    }
    return {};
}

Status make_chain(const BakeOptions& options, Texture& texture) {
    MipOptions mips = options.mips;
    if (!options.plain_chain) {
        mips.are_normals = mips.are_normals || options.role == Role::normal;
        mips.guard_fireflies = mips.guard_fireflies || options.role == Role::hdr;
    }
    YL_CHECK(place_given_levels(options, texture, mips.given_levels));
    YL_CHECK(build_mips(texture, mips));
    if (options.normals) {
        YL_TRY(const Image upright,
               options.origin == Origin::bottom
                   ? upside_down(options.normals->image.view())
                   : convert(options.normals->image.view(), options.normals->image.format()));
        YL_CHECK(widen_roughness(texture, upright.view()));
    }
    if (options.coverage)
        YL_CHECK(keep_coverage(texture, *options.coverage));
    return {};
}

/// The texture without its first levels.
Result<Texture> without_first(const Texture& texture, std::uint32_t count) {
    TextureShape shape = texture.shape();
    if (count >= shape.levels)
        return fail_at({ErrorKind::usage, fmt::format("the chain has {} levels, from 0 to {}",
                                                      shape.levels, shape.levels - 1)},
                       "first level");
    shape.width = shape.width_at(count);
    shape.height = shape.height_at(count);
    shape.levels -= count;
    YL_TRY(Texture rest, Texture::create(shape));
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        std::copy(texture.level(level + count).begin(), texture.level(level + count).end(),
                  rest.level(level).begin());
    rest.traits = texture.traits;
    return rest;
}

}  // namespace

Result<Baked> bake(const Picture& picture, const BakeOptions& options) {
    const Format wanted =
        options.format.value_or(options.compressed ? default_block_format(picture, options.role)
                                                   : default_format(picture, options.role));
    const Format format = format_of_chain(wanted);
    ConstImageView source = picture.image.view();
    const ChannelUse use = analyse_channels(source, picture.swizzle);
    const ChannelPlan channels = plan_channels(picture, use, info(wanted));
    const auto size = texture_size(source, options);
    Image resized;
    if (size[0] != source.width || size[1] != source.height) {
        YL_TRY(resized, resize(source, size[0], size[1],
                               {.kernel = options.mips.kernel,
                                .edges = options.mips.edges,
                                .transfer = picture.transfer,
                                .alpha = picture.alpha,
                                .limit_ringing = options.mips.limit_ringing}));
        source = std::as_const(resized).view();
    }
    const std::uint32_t most_levels = full_level_count(size[0], size[1]);
    if (options.levels && (*options.levels == 0 || *options.levels > most_levels))
        return fail_at(
            {ErrorKind::usage, fmt::format("{} levels were asked for; {} x {} pixels have 1 to {}",
                                           *options.levels, size[0], size[1], most_levels)},
            "levels");
    Baked baked;
    baked.findings = check_format(picture, options, use, info(wanted));
    YL_TRY(baked.texture, Texture::create({.format = format,
                                           .width = size[0],
                                           .height = size[1],
                                           .levels = options.levels.value_or(most_levels)}));
    TextureTraits& traits = baked.texture.traits;
    traits.alpha = picture.alpha;
    traits.origin = options.origin;
    traits.swizzle = channels.seen;
    traits.sampler = options.sampler;
    YL_CHECK(
        place_picture(picture, source, options, channels, traits.transfer, baked.texture.image(0)));
    YL_CHECK(make_chain(options, baked.texture));
    if (options.first_level > 0) {
        YL_TRY(baked.texture, without_first(baked.texture, options.first_level));
    }
    YL_CHECK(encode_chain(baked.texture, wanted, options.role, options.blocks));
    const Findings sizes = check_block_size(baked.texture.shape());
    baked.findings.insert(baked.findings.end(), sizes.begin(), sizes.end());
    return baked;
}

Result<Baked> bake_file(const std::filesystem::path& path, const BakeOptions& options,
                        const ReadLimits& limits) {
    YL_TRY(const Picture picture, read_picture(path, {.role = options.role, .limits = limits}));
    auto baked = bake(picture, options);
    if (!baked)
        return fail_at(baked.error(), path.string());
    return baked;
}

}  // namespace yl
