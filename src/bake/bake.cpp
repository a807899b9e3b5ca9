#include <yl/bake.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/analysis.hpp>
#include <yl/convert.hpp>
#include <yl/mip.hpp>
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

Result<Baked> bake(const Picture& picture, const BakeOptions& options) {
    const Format format = options.format.value_or(default_format(picture, options.role));
    const ConstImageView source = picture.image.view();
    const std::uint32_t most_levels = full_level_count(source.width, source.height);
    if (options.levels && (*options.levels == 0 || *options.levels > most_levels))
        return fail_at({ErrorKind::usage,
                        fmt::format("{} levels were asked for; {} x {} pixels have 1 to {}",
                                    *options.levels, source.width, source.height, most_levels)},
                       "levels");
    const ChannelUse use = analyse_channels(source, picture.swizzle);
    const ChannelPlan channels = plan_channels(picture, use, info(format));
    Baked baked;
    baked.findings = check_format(picture, options, use, info(format));
    YL_TRY(baked.texture, Texture::create({.format = format,
                                           .width = source.width,
                                           .height = source.height,
                                           .levels = options.levels.value_or(most_levels)}));
    TextureTraits& traits = baked.texture.traits;
    traits.alpha = picture.alpha;
    traits.origin = options.origin;
    traits.swizzle = channels.seen;
    traits.sampler = options.sampler;
    const ConvertOptions conversion{.source_transfer = picture.transfer,
                                    .target_transfer = traits.transfer,
                                    .swizzle = channels.on_the_way};
    if (options.origin == Origin::bottom) {
        YL_TRY(const Image turned, upside_down(source));
        YL_CHECK(convert(turned.view(), baked.texture.image(0), conversion));
    } else {
        YL_CHECK(convert(source, baked.texture.image(0), conversion));
    }
    YL_CHECK(build_mips(baked.texture));
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
