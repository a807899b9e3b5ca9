#include "codec/png/colors.hpp"

#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "codec/color_conversion.hpp"
#include "codec/gamma.hpp"
#include "codec/picture_format.hpp"
#include "codec/profile.hpp"

namespace yl::png {
namespace {

/// Colours that a gamma of its own has encoded become sRGB (PNG, third edition, section 13.13).
void apply_declared_gamma(const Parsed& parsed, Picture& picture) {
    const bool is_color = picture.transfer == Transfer::srgb;
    if (!parsed.gamma || parsed.transfer_rank != 0 || !is_color)
        return;
    apply_gamma(picture.image.view(), *parsed.gamma);
    note_conversion(picture.info, fmt::format("the declared gamma of {:.5f}", *parsed.gamma));
}

}  // namespace

Format begin_picture(Parsed& parsed, const RowExpander& expander, const ReadOptions& options,
                     Picture& picture) {
    const Header& header = parsed.header;
    picture.info = parsed.info;
    picture.info.file_channels = expander.own_channels();
    picture.info.file_bits = header.bits;
    picture.info.has_palette = header.color == ColorType::palette;
    picture.info.is_interlaced = header.interlaced;
    picture.info.declared_transfer = parsed.declared_transfer;
    const bool counts = info(options.role).transfer == Transfer::srgb;
    if (parsed.transfer_rank <= gamma_rank && parsed.has_other_primaries && counts)
        picture.info.unapplied = "the primaries of chunk cHRM";
    if (parsed.transfer_rank == profile_rank)
        take_profile(picture.info, parsed.profile_name, std::move(parsed.profile));
    settle_transfer(picture, options);
    picture.swizzle = channel_swizzle(expander.channels());
    return plain_format({expander.channels(), expander.bits()}, picture.transfer);
}

Status settle_colors(const Parsed& parsed, Picture& picture, const ReadOptions& options) {
    const std::string said = picture.info.unapplied;
    const bool is_by_chunk = !said.empty() && parsed.transfer_rank != profile_rank;
    if (is_by_chunk && parsed.stated) {
        StatedColors stated = *parsed.stated;
        if (parsed.gamma && parsed.transfer_rank == 0) {
            stated.curve = StatedColors::Curve::gamma;
            stated.gamma = 1 / *parsed.gamma;
        }
        YL_CHECK(settle_stated(picture, stated, said, options));
        if (!picture.info.applied_profile.empty())
            return {};
    } else if (is_by_chunk) {
        picture.info.remarks.push_back(
            fmt::format("{}: not applied; colours were taken as {}", said,
                        picture.transfer == Transfer::srgb ? "sRGB" : "linear, of BT.709"));
    }
    if (!options.transfer)
        apply_declared_gamma(parsed, picture);
    return {};
}

}  // namespace yl::png
