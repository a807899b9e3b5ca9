#include "pixel/channels.hpp"

#include <array>
#include <cstring>

#include <yl/status_macros.hpp>

namespace yl {
namespace {

/// From the last pixel to the first, so that none is written over before it is read: a row's wider
/// pixels lie at or behind its own.
template <class Channel, std::size_t channels>
void widen_pixels(const std::byte* source, std::byte* target, std::size_t count, Channel opaque) {
    for (std::size_t x = count; x-- > 0;) {
        std::array<Channel, channels> from;
        std::memcpy(from.data(), source + x * sizeof from, sizeof from);
        std::array<Channel, 4> to{from[0], from[0], from[0], opaque};
        if constexpr (channels >= 3) {
            to[1] = from[1];
            to[2] = from[2];
        }
        if constexpr (channels % 2 == 0)
            to[3] = from[channels - 1];
        std::memcpy(target + x * sizeof to, to.data(), sizeof to);
    }
}

template <class Channel>
void widen_channels(const std::byte* source, std::byte* target, std::size_t count, Channel opaque,
                    std::uint32_t channels) {
    switch (channels) {
        case 1:
            return widen_pixels<Channel, 1>(source, target, count, opaque);
        case 2:
            return widen_pixels<Channel, 2>(source, target, count, opaque);
        case 3:
            return widen_pixels<Channel, 3>(source, target, count, opaque);
        default:
            std::memmove(target, source, count * 4 * sizeof(Channel));
    }
}

}  // namespace

Format rgba_format(Format format, Transfer transfer) {
    const FormatInfo& f = info(format);
    if (f.kind == NumericKind::snorm)
        return f.channels[0].bits == 16 ? Format::rgba16_snorm : Format::rgba8_snorm;
    const bool srgb = transfer == Transfer::srgb || f.transfer == Transfer::srgb;
    return plain_format({4, f.channels[0].bits, f.is_float()},
                        srgb ? Transfer::srgb : Transfer::linear);
}

void widen_row(Format format, const std::byte* narrow, std::byte* wide, std::size_t count) {
    const FormatInfo& f = info(format);
    const bool is_signed = f.kind == NumericKind::snorm;
    switch (f.channels[0].bits) {
        case 8: {
            const std::uint8_t opaque = is_signed ? 0x7F : 0xFF;
            if (f.channel_count == 3)
                count = widen_rgb8_simd(narrow, wide, count, opaque);
            return widen_channels<std::uint8_t>(narrow, wide, count, opaque, f.channel_count);
        }
        case 16: {
            const std::uint16_t opaque = f.is_float() ? 0x3C00 : is_signed ? 0x7FFF : 0xFFFF;
            return widen_channels<std::uint16_t>(narrow, wide, count, opaque, f.channel_count);
        }
        default:
            return widen_channels<std::uint32_t>(narrow, wide, count, 0x3F800000, f.channel_count);
    }
}

void exchange_red_and_blue(const std::byte* source, std::byte* target, std::size_t count,
                           std::uint32_t channels) {
    const std::size_t done = exchange_red_and_blue_simd(source, target, count, channels);
    source += done * channels;
    target += done * channels;
    for (std::size_t i = done; i < count; ++i, source += channels, target += channels) {
        const std::byte first = source[0];
        target[0] = source[2];
        target[1] = source[1];
        target[2] = first;
        if (channels == 4)
            target[3] = source[3];
    }
}

Status widen_to_rgba(Image& image, Transfer transfer) {
    const Format narrow_format = image.format();
    const Format format = rgba_format(narrow_format, transfer);
    const std::uint32_t width = image.width();
    const std::uint32_t height = image.height();
    const std::size_t wide_row = std::size_t{width} * info(format).block_bytes;
    const std::size_t narrow_row = image.row_stride();
    Buffer source = std::move(image).release();
    Buffer target;
    const bool in_place = source.size() >= wide_row * height;
    if (!in_place) {
        YL_TRY(target, Buffer::allocate(wide_row * height));
    }
    std::byte* wide = in_place ? source.data() : target.data();
    for (std::size_t y = height; y-- > 0;)
        widen_row(narrow_format, source.data() + y * narrow_row, wide + y * wide_row, width);
    YL_TRY(image, Image::adopt(std::move(in_place ? source : target), format, width, height));
    return {};
}

}  // namespace yl
