// Pixel formats of DDS: four-letter codes, masks, and the numbers of DXGI.
#include <fmt/format.h>

#include <algorithm>

#include "container/dds/layout.hpp"
#include "container/masked_texels.hpp"

namespace yl::dds {
namespace {

struct Code {
    std::uint32_t code;
    Format format;
    AlphaMode alpha = AlphaMode::straight;
};

constexpr Code codes[] = {
    {code_of("DXT1"), Format::bc1a_unorm},
    {code_of("DXT2"), Format::bc2_unorm, AlphaMode::premultiplied},
    {code_of("DXT3"), Format::bc2_unorm},
    {code_of("DXT4"), Format::bc3_unorm, AlphaMode::premultiplied},
    {code_of("DXT5"), Format::bc3_unorm},
    {code_of("ATI1"), Format::bc4_unorm},
    {code_of("BC4U"), Format::bc4_unorm},
    {code_of("BC4S"), Format::bc4_snorm},
    {code_of("ATI2"), Format::bc5_unorm},
    {code_of("BC5U"), Format::bc5_unorm},
    {code_of("BC5S"), Format::bc5_snorm},
    // Numbers instead of letters: the format numbers of Direct3D 9.
    {36, Format::rgba16_unorm},
    {110, Format::rgba16_snorm},
    {111, Format::r16_float},
    {112, Format::rg16_float},
    {113, Format::rgba16_float},
    {114, Format::r32_float},
    {115, Format::rg32_float},
    {116, Format::rgba32_float},
};

struct Masked {
    std::uint32_t flags, bits;
    std::array<std::uint32_t, 4> masks;
    Format format;
    Swizzle swizzle = identity_swizzle;
};

constexpr std::uint32_t rgba_flags = format_rgb | format_alpha;
constexpr Swizzle alpha_swizzle = {SwizzleSource::zero, SwizzleSource::zero, SwizzleSource::zero,
                                   SwizzleSource::red};

/// Layouts that the format table has too; alpha's mask counts only with the flag for alpha.
constexpr Masked masked_formats[] = {
    {rgba_flags, 32, {0xFF, 0xFF00, 0xFF0000, 0xFF000000}, Format::rgba8_unorm},
    {rgba_flags, 32, {0xFF0000, 0xFF00, 0xFF, 0xFF000000}, Format::bgra8_unorm},
    {rgba_flags, 32, {0x3FF, 0xFFC00, 0x3FF00000, 0xC0000000}, Format::rgb10a2_unorm},
    {format_rgb, 24, {0xFF, 0xFF00, 0xFF0000, 0}, Format::rgb8_unorm},
    {format_rgb, 32, {0xFFFF, 0xFFFF0000, 0, 0}, Format::rg16_unorm},
    {format_rgb, 16, {0xFF, 0xFF00, 0, 0}, Format::rg8_unorm},
    {format_rgb, 8, {0xFF, 0, 0, 0}, Format::r8_unorm},
    {format_rgb, 16, {0xFFFF, 0, 0, 0}, Format::r16_unorm},
    {format_luminance, 8, {0xFF, 0, 0, 0}, Format::r8_unorm, gray_swizzle},
    {format_luminance, 16, {0xFFFF, 0, 0, 0}, Format::r16_unorm, gray_swizzle},
    {format_luminance | format_alpha,
     16,
     {0xFF, 0, 0, 0xFF00},
     Format::rg8_unorm,
     gray_alpha_swizzle},
    {format_alpha_only, 8, {0, 0, 0, 0xFF}, Format::r8_unorm, alpha_swizzle},
    {format_signed, 16, {0xFF, 0xFF00, 0, 0}, Format::rg8_snorm},
    {format_signed, 32, {0xFFFF, 0xFFFF0000, 0, 0}, Format::rg16_snorm},
    {format_signed, 32, {0xFF, 0xFF00, 0xFF0000, 0xFF000000}, Format::rgba8_snorm},
};

constexpr std::uint32_t meaningful_flags =
    format_alpha | format_alpha_only | format_rgb | format_luminance | format_signed;

/// Texels under masks that no format of the table has, widened to RGBA of 8 bits.
RowExpansion widened(const PixelFormat& pixels, bool is_gray) {
    const bool has_alpha = (pixels.flags & format_alpha) != 0;
    ColorMasks masks;
    for (std::size_t c = 0; c < 3; ++c)
        masks[c] = MaskedChannel(pixels.masks[is_gray ? 0 : c]);
    masks[3] = MaskedChannel(has_alpha ? pixels.masks[3] : 0);
    return widened_masks(masks, pixels.bits / 8);
}

/// More than 8 bits a channel: 10, 10, 10 and 2 with blue lowest.
RowExpansion turned_rgb10a2() {
    return {4, [](const std::byte* stored, std::byte* texels, std::size_t count) {
                for (std::size_t i = 0; i < count; ++i) {
                    const auto pixel = load<std::uint32_t>(stored + 4 * i);
                    store(texels + 4 * i,
                          (pixel & 0xC00FFC00U) | (pixel & 0x3FFU) << 20 | (pixel >> 20 & 0x3FFU));
                }
            }};
}

bool masks_are_sound(const PixelFormat& pixels) {
    const std::uint64_t all = (std::uint64_t{1} << pixels.bits) - 1;
    std::uint32_t seen = 0;
    for (const std::uint32_t mask : pixels.masks) {
        if (!MaskedChannel(mask).is_sound() || (mask & seen) != 0 || mask > all)
            return false;
        seen |= mask;
    }
    return seen != 0;
}

std::string letters(std::uint32_t code) {
    std::string text;
    for (int i = 0; i < 4; ++i) {
        const char letter = static_cast<char>(code >> 8 * i & 0xFFU);
        text += letter >= ' ' && letter <= '~' ? letter : '?';
    }
    return text;
}

}  // namespace

Result<KnownFormat> known_legacy_format(const PixelFormat& pixels) {
    if ((pixels.flags & format_code) != 0) {
        const auto* found = std::find_if(std::begin(codes), std::end(codes), [&](const Code& code) {
            return code.code == pixels.code;
        });
        if (found == std::end(codes))
            return fail(ErrorKind::unsupported,
                        fmt::format("the four-letter code is '{}' ({}), which is not handled",
                                    letters(pixels.code), pixels.code),
                        4 + 4 * word_code);
        return KnownFormat{found->format, identity_swizzle, found->alpha, {}, ""};
    }
    PixelFormat plain = pixels;
    plain.flags &= meaningful_flags;
    if ((plain.flags & (format_alpha | format_alpha_only | format_signed)) == 0)
        plain.masks[3] = 0;
    for (const Masked& masked : masked_formats)
        if (masked.flags == plain.flags && masked.bits == plain.bits && masked.masks == plain.masks)
            return KnownFormat{masked.format, masked.swizzle, AlphaMode::straight, {}, ""};
    const bool has_bits =
        plain.bits == 8 || plain.bits == 16 || plain.bits == 24 || plain.bits == 32;
    const bool is_gray = (plain.flags & format_luminance) != 0;
    if (!has_bits || (plain.flags & (format_rgb | format_luminance)) == 0 ||
        (plain.flags & format_signed) != 0 || !masks_are_sound(plain))
        return fail(ErrorKind::unsupported,
                    fmt::format("the pixel format has flags {:#x}, {} bits and masks {:#x}, {:#x}, "
                                "{:#x}, {:#x}, which are not handled",
                                pixels.flags, pixels.bits, pixels.masks[0], pixels.masks[1],
                                pixels.masks[2], pixels.masks[3]),
                    4 + 4 * word_format_flags);
    if (plain.masks == std::array<std::uint32_t, 4>{0x3FF00000, 0xFFC00, 0x3FF, 0xC0000000})
        return KnownFormat{Format::rgb10a2_unorm, identity_swizzle, AlphaMode::straight,
                           turned_rgb10a2(), "red and blue of 10 bits have changed places"};
    return KnownFormat{
        Format::rgba8_unorm, identity_swizzle, AlphaMode::straight, widened(plain, is_gray),
        fmt::format("texels of {} bits under masks are widened to RGBA of 8 bits", plain.bits)};
}

Result<KnownFormat> known_dxgi_format(std::uint32_t number) {
    // Typeless formats count as unsigned fractions, those of BC6H as unsigned floats.
    struct Typeless {
        std::uint32_t number, taken_as;
    };
    static constexpr Typeless typeless[] = {{1, 2},   {5, 6},   {9, 10},  {15, 16}, {23, 24},
                                            {27, 28}, {33, 35}, {39, 41}, {48, 49}, {53, 56},
                                            {60, 61}, {70, 71}, {73, 74}, {76, 77}, {79, 80},
                                            {82, 83}, {90, 87}, {92, 88}, {94, 95}, {97, 98}};
    KnownFormat known;
    for (const Typeless& entry : typeless)
        if (entry.number == number) {
            number = entry.taken_as;
            known.remark = "the format is typeless: its numbers are taken as fractions or floats";
        }
    struct Under {
        std::uint32_t number;
        PixelFormat pixels;
    };
    static const Under masked[] = {{85, {format_rgb, 0, 16, {0xF800, 0x7E0, 0x1F, 0}}},
                                   {86, {rgba_flags, 0, 16, {0x7C00, 0x3E0, 0x1F, 0x8000}}},
                                   {88, {format_rgb, 0, 32, {0xFF0000, 0xFF00, 0xFF, 0}}},
                                   {93, {format_rgb, 0, 32, {0xFF0000, 0xFF00, 0xFF, 0}}},
                                   {115, {rgba_flags, 0, 16, {0xF00, 0xF0, 0xF, 0xF000}}},
                                   {65, {format_alpha_only, 0, 8, {0, 0, 0, 0xFF}}}};
    for (const Under& entry : masked)
        if (entry.number == number) {
            constexpr std::uint32_t bgrx8_srgb = 93;
            auto packed = known_legacy_format(entry.pixels);
            if (packed && number == bgrx8_srgb)
                packed->format = Format::rgba8_srgb;
            return packed;
        }
    // Formats with the same number differ in what they say of alpha: the richer one is meant.
    for (const FormatInfo& f : all_formats())
        if (number != 0 && f.dxgi == number && f.channel_count > info(known.format).channel_count)
            known.format = f.format;
    if (known.format == Format::undefined)
        return fail(ErrorKind::unsupported,
                    fmt::format("dxgiFormat is {}, which is not in the format table", number),
                    header_bytes);
    return known;
}

std::optional<PixelFormat> legacy_format(Format format, const TextureMetadata& metadata) {
    const Format linear = with_transfer(format, Transfer::linear).value_or(format);
    const bool premultiplied = metadata.alpha == AlphaMode::premultiplied;
    if (linear == Format::bc1_unorm)
        return PixelFormat{format_code, code_of("DXT1"), 0, {}};
    const Code* fallback = nullptr;
    for (const Code& code : codes)
        if (code.format == linear) {
            if ((code.alpha == AlphaMode::premultiplied) == premultiplied)
                return PixelFormat{format_code, code.code, 0, {}};
            fallback = code.alpha == AlphaMode::straight && fallback == nullptr ? &code : fallback;
        }
    if (fallback != nullptr)
        return PixelFormat{format_code, fallback->code, 0, {}};
    const Masked* plain = nullptr;
    for (const Masked& masked : masked_formats)
        if (masked.format == linear) {
            if (masked.swizzle == metadata.swizzle)
                return PixelFormat{masked.flags, 0, masked.bits, masked.masks};
            plain = plain == nullptr ? &masked : plain;
        }
    if (plain != nullptr)
        return PixelFormat{plain->flags, 0, plain->bits, plain->masks};
    return {};
}

}  // namespace yl::dds
