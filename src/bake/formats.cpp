#include "bake/formats.hpp"

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

Format block_format_for(const ChannelUse& use, Role role) {
    switch (role) {
        case Role::color:
            return Format::bc7_srgb;
        case Role::normal:
            return Format::bc5_unorm;
        case Role::mask:
        case Role::data:
            return use.useful_channels() == 1   ? Format::bc4_unorm
                   : use.useful_channels() == 2 ? Format::bc5_unorm
                                                : Format::bc7_unorm;
        case Role::height:
            return Format::bc4_unorm;
        case Role::hdr:
            return Format::bc6h_ufloat;
    }
    return Format::bc7_srgb;
}

}  // namespace yl
