#include <yl/bake.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/convert.hpp>
#include <yl/measure.hpp>
#include <yl/mip.hpp>
#include <yl/normals.hpp>
#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "bake/block_step.hpp"
#include "bake/chain.hpp"
#include "bake/formats.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// A picture in its role.
struct Subject {
    const Picture& picture;
    ConstImageView image;
    Transfer transfer;
    AlphaMode alpha;
    Role role;
    ChannelUse use;
};

Result<Subject> subject_of(const Picture& picture, const BakeOptions& options) {
    Subject subject{.picture = picture,
                    .image = picture.image.view(),
                    .transfer = picture.transfer,
                    .alpha = AlphaMode::straight,
                    .role = options.role.value_or(default_role(picture)),
                    .use = {}};
    const FormatInfo& f = info(subject.image.format);
    if (f.kind == NumericKind::unorm && info(subject.role).transfer == Transfer::linear)
        subject.transfer = Transfer::linear;
    if (options.transfer) {
        if (f.is_float() && *options.transfer == Transfer::srgb)
            return fail_at(
                {ErrorKind::usage,
                 "the picture is in floating point, which is linear: its transfer function "
                 "cannot be sRGB"},
                "transfer");
        subject.transfer = *options.transfer;
    }
    // A format that says sRGB itself is taken for its twin where that is not so.
    if (subject.transfer == Transfer::linear)
        subject.image.format =
            with_transfer(subject.image.format, Transfer::linear).value_or(subject.image.format);
    const bool keeps_stored = !options.alpha || (*options.alpha == AlphaMode::straight &&
                                                 picture.alpha == AlphaMode::premultiplied);
    subject.alpha = keeps_stored
                        ? (options.alpha ? picture.alpha : alpha_mode(subject.role, picture.alpha))
                        : *options.alpha;
    subject.use = analyse_channels(subject.image, picture.swizzle);
    return subject;
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

Findings check_format(const Subject& subject, const FormatInfo& f) {
    const Picture& picture = subject.picture;
    const ChannelUse& use = subject.use;
    Findings findings;
    const bool narrow = f.kind == NumericKind::unorm && f.channels[0].bits <= 8;
    if (subject.transfer == Transfer::srgb && f.transfer == Transfer::linear && narrow)
        findings.push_back(
            {"dark-bands",
             fmt::format("{} holds linear light in 8 bits: dark tones will show bands", f.name),
             "choose an -srgb format, or 16 bits"});
    if (info(picture.image.format()).is_float() && !f.is_float())
        findings.push_back(
            {"light-cut-off",
             fmt::format("the picture is in floating point, and {} cuts off all light above 1",
                         f.name),
             "choose the role hdr, or a -float format"});
    if (info(subject.role).transfer == Transfer::linear && f.transfer == Transfer::srgb)
        findings.push_back(
            {"numbers-as-srgb",
             fmt::format("the role {} is no colour, but {} makes the GPU decode it as sRGB",
                         info(subject.role).name, f.name),
             fmt::format("choose {}",
                         info(with_transfer(f.format, Transfer::linear).value_or(f.format)).name)});
    if (!use.is_gray && f.channel_count == 1)
        findings.push_back(
            {"color-dropped",
             fmt::format("{} keeps {} alone of a coloured picture", f.name,
                         subject.role == Role::color ? "the luminance" : "the red channel"),
             "choose a format with three or four channels if colour is meant"});
    if (!use.is_opaque && !f.has(Channel::alpha) && !(use.is_gray && f.channel_count == 2))
        findings.push_back(
            {"alpha-dropped",
             fmt::format("the picture has transparent pixels and {} has no alpha", f.name),
             "choose a format with alpha"});
    if (picture.info.file_bits == 16 && narrow && subject.role == Role::height)
        findings.push_back(
            {"height-steps",
             fmt::format("{} keeps 8 of the picture's 16 bits: slopes will show steps", f.name),
             "choose r16-unorm"});
    return findings;
}

}  // namespace

Format default_format(const Picture& picture, Role role) {
    const ConstImageView image = picture.image.view();
    return plain_format_for(image, analyse_channels(image, picture.swizzle), role);
}

Format default_block_format(const Picture& picture, Role role) {
    return block_format_for(analyse_channels(picture.image.view(), picture.swizzle), role);
}

namespace {

/// Turns a picture's rows round where the texture begins at the bottom.
Status place_picture(const Subject& subject, ConstImageView image, const BakeOptions& options,
                     const ChannelPlan& channels, Transfer transfer, ImageView target,
                     std::optional<double>& mean_normal_length) {
    Image turned;
    if (options.origin == Origin::bottom) {
        YL_TRY(turned, upside_down(image));
        image = std::as_const(turned).view();
    }
    const bool are_normals = subject.role == Role::normal && !options.plain_chain &&
                             info(image.format).channel_count > 1 &&
                             info(target.format).channel_count > 1;
    if (are_normals) {
        YL_TRY(const NormalMeasure measure,
               convert_normals(image, target,
                               {.swizzle = channels.on_the_way, .dither = options.mips.dither}));
        mean_normal_length = measure.mean_length;
        return {};
    }
    return convert(image, target,
                   {.source_transfer = subject.transfer,
                    .target_transfer = transfer,
                    .swizzle = channels.on_the_way,
                    .dither = options.mips.dither,
                    .to_one_channel =
                        subject.role == Role::color ? ToOneChannel::luminance : ToOneChannel::red});
}

Status place_given_levels(const BakeOptions& options, Role role, Texture& texture,
                          std::uint32_t& given) {
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
        BakeOptions same_role = options;
        same_role.role = role;
        YL_TRY(const Subject subject, subject_of(picture, same_role));
        std::optional<double> ignored;
        YL_CHECK(place_picture(subject, subject.image, options,
                               plan_channels(picture, subject.use, info(shape.format)),
                               texture.metadata.transfer, texture.image(entry.level), ignored));
        given |= 1U << entry.level;
    }
    return {};
}

Status make_chain(const BakeOptions& options, Role role, Texture& texture) {
    MipOptions mips = chain_options(options, role);
    YL_CHECK(place_given_levels(options, role, texture, mips.given_levels));
    return fill_levels(texture, mips, options);
}

/// What is said of the picture in its role, before anything is made of it.
Findings check_subject(const Subject& subject, const BakeOptions& options, const FormatInfo& f) {
    Findings findings = check_picture_info(subject.picture.info, subject.role);
    const auto add = [&](Findings more) {
        findings.insert(findings.end(), more.begin(), more.end());
    };
    const bool shows_meaning =
        !options.plain_chain && (subject.role == Role::color || subject.role == Role::normal);
    if (shows_meaning && subject.image.width > 1 && subject.image.height > 1)
        add(check_content(subject.use, measure_content(subject.image, subject.picture.swizzle),
                          subject.role, "the picture"));
    add(check_format(subject, f));
    if (options.mips.guard_fireflies) {
        const double lost = light_of_fireflies(subject.image, options.mips.edges);
        if (lost == 0)
            findings.push_back({"no-fireflies",
                                "dimming fireflies changes nothing: no texel outshines its "
                                "neighbours",
                                "leave it out", FindingLevel::hint});
        if (lost > 0)
            findings.push_back(
                {"fireflies-dimmed",
                 fmt::format("dimming fireflies takes {:.2g} % of the picture's light", 100 * lost),
                 "leave them if they are meant, as a sun is",
                 lost < 0.01 ? FindingLevel::hint : FindingLevel::warning});
    }
    return findings;
}

/// The picture in the size that the texture gets.
Result<Image> fitted_to_size(const Subject& subject, const BakeOptions& options,
                             const std::array<std::uint32_t, 2>& size) {
    const MipOptions mips = chain_options(options, subject.role);
    return resize(subject.image, size[0], size[1],
                  {.kernel = mips.kernel.value_or(Kernel{}),
                   .edges = mips.edges,
                   .transfer = subject.transfer,
                   .alpha = subject.alpha,
                   .limit_ringing = mips.limit_ringing.value_or(false),
                   .progress = options.progress});
}

}  // namespace

Result<Baked> bake(const Picture& picture, const BakeOptions& options) try {
    YL_CHECK(check_view(picture.image.view(), "picture"));
    YL_TRY(Subject subject, subject_of(picture, options));
    Baked baked{.role = subject.role, .is_opaque = subject.use.is_opaque};
    const Format wanted =
        wanted_format(options, plain_format_for(subject.image, subject.use, subject.role),
                      block_format_for(subject.use, subject.role));
    const Format format = format_of_chain(wanted);
    const ChannelPlan channels = plan_channels(picture, subject.use, info(wanted));
    baked.findings = check_subject(subject, options, info(wanted));
    const auto size = texture_size(subject.image.width, subject.image.height, options);
    Image resized;
    if (size[0] != subject.image.width || size[1] != subject.image.height) {
        YL_TRY(resized, fitted_to_size(subject, options, size));
        subject.image = std::as_const(resized).view();
    }
    const std::uint32_t most_levels = full_level_count(size[0], size[1]);
    YL_CHECK(check_level_count(options, {.width = size[0], .height = size[1]}));
    YL_TRY(baked.texture, Texture::create({.format = format,
                                           .width = size[0],
                                           .height = size[1],
                                           .levels = options.levels.value_or(most_levels)}));
    TextureMetadata& metadata = baked.texture.metadata;
    metadata.alpha = subject.alpha;
    metadata.origin = options.origin;
    metadata.swizzle = channels.seen;
    metadata.sampler = options.sampler;
    YL_CHECK(place_picture(subject, subject.image, options, channels, metadata.transfer,
                           baked.texture.image(0), baked.mean_normal_length));
    YL_CHECK(make_chain(options, subject.role, baked.texture));
    if (options.first_level > 0) {
        YL_TRY(baked.texture, without_first_levels(baked.texture, options.first_level));
    }
    YL_CHECK(
        encode_chain(baked.texture, wanted, block_options(options, subject.role), baked.findings));
    return baked;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Baked> bake_file(const std::filesystem::path& path, const BakeOptions& options,
                        const ReadOptions& reading) try {
    ReadOptions read = reading;
    read.role = options.role.value_or(Role::color);
    if (options.progress)
        read.progress = options.progress;
    YL_TRY(const Picture picture, read_picture(path, read));
    auto baked = bake(picture, options);
    if (!baked)
        return fail_at(baked.error(), path.string());
    return baked;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
