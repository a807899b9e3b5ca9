#include "bake/formats.hpp"

#include <cmath>
#include <limits>

namespace yl {
namespace {

Format number_format(std::uint32_t channels, bool wide) {
    static constexpr Format narrow_formats[] = {Format::r8_unorm, Format::rg8_unorm,
                                                Format::rgba8_unorm, Format::rgba8_unorm};
    static constexpr Format wide_formats[] = {Format::r16_unorm, Format::rg16_unorm,
                                              Format::rgba16_unorm, Format::rgba16_unorm};
    return (wide ? wide_formats : narrow_formats)[channels - 1];
}

}  // namespace

Role default_role(Format format) {
    return info(format).is_float() ? Role::hdr : Role::color;
}

Format plain_format_for(ConstImageView image, const ChannelUse& use, Role role) {
    const std::uint32_t bits = info(image.format).channels[0].bits;
    const bool wide = bits == 16;
    switch (role) {
        case Role::color:
            return Format::rgba8_srgb;
        case Role::normal:
            return bits > 8 ? Format::rgba16_unorm : Format::rgba8_unorm;
        case Role::mask:
        case Role::data:
            return number_format(use.useful_channels(), wide);
        case Role::height:
            return number_format(1, wide);
        case Role::hdr:
            return Format::rgba16_float;
    }
    return Format::rgba8_srgb;
}

namespace {

/// What a family has for a role.
struct RoleFormats {
    Format color, color_with_alpha, color_with_cut_out;
    Format data, data_with_alpha;
    Format two, one;  ///< channels of data, heights and normals
    Format light;
};

constexpr RoleFormats bc_formats = {Format::bc7_srgb,  Format::bc7_srgb,   Format::bc7_srgb,
                                    Format::bc7_unorm, Format::bc7_unorm,  Format::bc5_unorm,
                                    Format::bc4_unorm, Format::bc6h_ufloat};
constexpr RoleFormats etc2_formats = {Format::etc2_rgb8_srgb,   Format::etc2_rgba8_srgb,
                                      Format::etc2_rgb8a1_srgb, Format::etc2_rgb8_unorm,
                                      Format::etc2_rgba8_unorm, Format::eac_rg11_unorm,
                                      Format::eac_r11_unorm,    Format::rgba16_float};

constexpr RoleFormats astc_formats = {Format::astc_6x6_srgb,  Format::astc_6x6_srgb,
                                      Format::astc_6x6_srgb,  Format::astc_6x6_unorm,
                                      Format::astc_6x6_unorm, Format::astc_6x6_unorm,
                                      Format::astc_6x6_unorm, Format::astc_6x6_sfloat};

const RoleFormats& formats_of(BlockFamily family) {
    switch (family) {
        case BlockFamily::etc2:
            return etc2_formats;
        case BlockFamily::astc:
        case BlockFamily::astc_hdr:
            return astc_formats;
        default:
            return bc_formats;
    }
}

}  // namespace

Format block_format_for(const ChannelUse& use, Role role, BlockFamily family) {
    const RoleFormats& formats = formats_of(family);
    switch (role) {
        case Role::color:
            return use.is_opaque         ? formats.color
                   : use.alpha_is_binary ? formats.color_with_cut_out
                                         : formats.color_with_alpha;
        case Role::normal:
            return formats.two;
        case Role::mask:
        case Role::data:
            return use.useful_channels() == 1   ? formats.one
                   : use.useful_channels() == 2 ? formats.two
                   : use.is_opaque              ? formats.data
                                                : formats.data_with_alpha;
        case Role::height:
            return formats.one;
        case Role::hdr:
            return formats.light;
    }
    return formats.color;
}

Format with_bits_per_texel(Format format, float bits) {
    const FormatInfo& f = info(format);
    if (bits <= 0 || (f.family != BlockFamily::astc && f.family != BlockFamily::astc_hdr))
        return format;
    Format nearest = format;
    float least = std::numeric_limits<float>::infinity();
    for (const FormatInfo& other : all_formats()) {
        if (other.family != f.family || other.transfer != f.transfer)
            continue;
        const float own = 8.0F * static_cast<float>(other.block_bytes) /
                          static_cast<float>(other.block_width * other.block_height);
        const float off = std::abs(std::log(own / bits));
        if (off < least) {
            least = off;
            nearest = other.format;
        }
    }
    return nearest;
}

}  // namespace yl
