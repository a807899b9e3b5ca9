#include <yl/bake.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/measure.hpp>
#include <yl/mip.hpp>
#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "bake/block_step.hpp"
#include "bake/chain.hpp"
#include "bake/formats.hpp"
#include "bake/subject.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {

Format default_format(const Picture& picture, Role role) {
    const ConstImageView image = picture.image.view();
    return plain_format_for(image, analyse_channels(image, picture.swizzle), role);
}

Format default_block_format(const Picture& picture, Role role, BlockFamily family) {
    return block_format_for(analyse_channels(picture.image.view(), picture.swizzle), role, family);
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
    return place_rows(subject, image, 0, options, channels, transfer, target, mean_normal_length);
}

Result<Subject> measured_subject(const Picture& picture, const BakeOptions& options) {
    YL_TRY(Subject subject, subject_of(picture, picture.image.view(), options));
    subject.use = analyse_channels(subject.image, picture.swizzle);
    return subject;
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
        YL_TRY(const Subject subject, measured_subject(picture, same_role));
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

Findings check_fireflies(const Subject& subject, const BakeOptions& options) {
    Findings findings;
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

/// Findings about the picture in its role.
Findings check_whole(const Subject& subject, const BakeOptions& options, const FormatInfo& f) {
    ContentMeasure content;
    const bool counts = shows_meaning(subject, options);
    if (counts)
        content = measure_content(subject.image, subject.picture.swizzle);
    Findings findings = check_subject(subject, f, counts ? &content : nullptr);
    for (Finding& more : check_fireflies(subject, options))
        findings.push_back(std::move(more));
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
    YL_TRY(Subject subject, measured_subject(picture, options));
    Baked baked{.role = subject.role, .is_opaque = subject.use.is_opaque};
    const Format wanted = wanted_format(
        options, plain_format_for(subject.image, subject.use, subject.role),
        [&](BlockFamily family) { return block_format_for(subject.use, subject.role, family); });
    const Format format = format_of_chain(wanted);
    const ChannelPlan channels = plan_channels(picture, subject.use, info(wanted));
    baked.findings = check_whole(subject, options, info(wanted));
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
    YL_CHECK(encode_chain(baked.texture, wanted, block_options(options, subject.role),
                          wanted_family(options), baked.findings));
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
