// What a picture is probably meant for, and what contradicts its role.
#include <fmt/format.h>

#include <yl/bake.hpp>
#include "bake/formats.hpp"

namespace yl {
namespace {

constexpr float fewest_directions = 0.5F;  // of a normal map's texels; photographs have 0 to 40 %

std::string percent(float share) {
    return fmt::format("{:.0f} %", static_cast<double>(100 * share));
}

}  // namespace

Role default_role(const Picture& picture) {
    return default_role(picture.image.format());
}

RoleGuess guess_role(const Picture& picture) {
    const ConstImageView image = picture.image.view();
    const FormatInfo& f = info(image.format);
    const ContentMeasure content = measure_content(image, picture.swizzle);
    const ChannelUse use = analyse_channels(image, picture.swizzle);
    if (f.is_float())
        return {Role::hdr, "it is in floating point"};
    if (!use.is_gray && !content.is_uniform && content.looks_like_normals())
        return {Role::normal,
                fmt::format("{} of its texels are directions", percent(content.directions))};
    if (use.is_gray && use.is_opaque && picture.info.file_bits == 16)
        return {Role::height, "it is gray of 16 bits"};
    if (use.is_gray && use.is_opaque && picture.info.file_channels == 1)
        return {Role::mask, "it is gray"};
    return {Role::color, use.is_gray ? "nothing contradicts it" : "it is coloured"};
}

Findings check_content(const ChannelUse& channels, const ContentMeasure& content, Role role,
                       const std::string& use) {
    if (content.is_uniform)
        return {};
    if (role == Role::color && !channels.is_gray && content.looks_like_normals())
        return {{"normal-as-color",
                 fmt::format("{} looks like a normal map ({} of its texels are directions) and is "
                             "treated as colour: its values will be changed by the sRGB curve",
                             use, percent(content.directions)),
                 "choose the role normal"}};
    if (role != Role::normal || content.directions >= fewest_directions)
        return {};
    if (channels.is_gray)
        return {{"height-as-normal", fmt::format("{} is gray: it holds heights, no normals", use),
                 "make normals of the heights, or use it where heights belong"}};
    return {{"no-normals",
             fmt::format("{} holds no normals: {} of its texels can be directions", use,
                         percent(content.directions)),
             "use a normal map of three channels, linear, with blue pointing outwards"}};
}

Findings check_picture_info(const PictureInfo& info, Role role) {
    Findings findings;
    if (info.file_format.empty())
        return findings;  // no file has said anything
    const bool is_color = yl::info(role).transfer == Transfer::srgb;
    for (const std::string& remark : info.remarks) {
        if (!info.applied_profile.empty() && remark == info.transfer_reason)
            findings.push_back({"colors-converted", remark,
                                "keep them as they are if they are not colours",
                                FindingLevel::hint});
        else if (!info.unapplied.empty() && remark.find("not applied") != std::string::npos)
            findings.push_back(
                {"colors-not-converted", remark, "convert the picture to sRGB first"});
        else
            findings.push_back({"file-remark", remark, "look at the picture, or export it again"});
    }
    const bool is_silent =
        !info.declared_transfer && info.unapplied.empty() && info.leaves_transfer_open;
    if (is_color && is_silent)
        findings.push_back({"transfer-unknown",
                            "the file does not say how its colours are encoded: they are taken as "
                            "sRGB",
                            "tag the picture, or say its transfer function", FindingLevel::hint});
    return findings;
}

}  // namespace yl
