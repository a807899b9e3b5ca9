#include "bake/subject.hpp"

#include <fmt/format.h>

#include <yl/convert.hpp>
#include <yl/normals.hpp>
#include <yl/status_macros.hpp>
#include "bake/formats.hpp"

namespace yl {
namespace {

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
    if (info(subject.image.format).is_float() && !f.is_float())
        findings.push_back(
            {"light-cut-off",
             fmt::format("the picture is in floating point, and {} cuts off all light above 1",
                         f.name),
             "choose the role hdr, or a -float format"});
    if (info(subject.role).transfer == Transfer::linear && f.transfer == Transfer::srgb)
        findings.push_back(
            {"numbers-as-srgb",
             fmt::format("the role {} is not a colour, but {} makes the GPU decode it as sRGB",
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

Result<Subject> subject_of(const Picture& picture, ConstImageView image,
                           const BakeOptions& options) {
    Subject subject{.picture = picture,
                    .image = image,
                    .transfer = picture.transfer,
                    .alpha = AlphaMode::straight,
                    .role = options.role.value_or(default_role(image.format)),
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
    return subject;
}

bool shows_meaning(const Subject& subject, const BakeOptions& options) {
    return !options.plain_chain && (subject.role == Role::color || subject.role == Role::normal) &&
           subject.image.width > 1 && subject.image.height > 1;
}

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

Findings check_subject(const Subject& subject, const FormatInfo& f, const ContentMeasure* content) {
    Findings findings = check_picture_info(subject.picture.info, subject.role);
    const auto add = [&](Findings more) {
        findings.insert(findings.end(), more.begin(), more.end());
    };
    if (content != nullptr)
        add(check_content(subject.use, *content, subject.role, "the picture"));
    add(check_format(subject, f));
    return findings;
}

Status place_rows(const Subject& subject, ConstImageView image, std::uint32_t first_row,
                  const BakeOptions& options, const ChannelPlan& channels, Transfer transfer,
                  ImageView target, std::optional<double>& mean_normal_length) {
    const bool are_normals = subject.role == Role::normal && !options.plain_chain &&
                             info(image.format).channel_count > 1 &&
                             info(target.format).channel_count > 1;
    if (are_normals) {
        YL_TRY(const NormalMeasure measure, convert_normals(image, target,
                                                            {.swizzle = channels.on_the_way,
                                                             .dither = options.mips.dither,
                                                             .first_row = first_row}));
        mean_normal_length = measure.mean_length;
        return {};
    }
    return convert(image, target,
                   {.source_transfer = subject.transfer,
                    .target_transfer = transfer,
                    .swizzle = channels.on_the_way,
                    .dither = options.mips.dither,
                    .first_row = first_row,
                    .to_one_channel =
                        subject.role == Role::color ? ToOneChannel::luminance : ToOneChannel::red});
}

}  // namespace yl
