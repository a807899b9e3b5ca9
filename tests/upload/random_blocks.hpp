// Random blocks of every mode, and how far two decoders of them are apart.
#pragma once

#include <cmath>
#include <yl/yl.hpp>

#include "base/bytes.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/random_astc.hpp"

namespace support {

inline constexpr std::uint32_t blocks_side = 1024;  ///< texels: 65,536 blocks a texture
inline constexpr std::uint32_t block_rounds = 16;   ///< so that there are a million

/// Random blocks; of BC6H and BC7, as many of each mode, the reserved ones among them.
inline yl::Texture random_blocks(yl::Format format, std::uint32_t seed) {
    Random random(seed);
    yl::Texture texture =
        must(yl::Texture::create({.format = format, .width = blocks_side, .height = blocks_side}));
    const auto bytes = texture.level(0);
    for (std::size_t at = 0; at < bytes.size(); at += 4)
        yl::store(&bytes[at], static_cast<std::uint32_t>(random()));
    const yl::FormatInfo& f = yl::info(format);
    if (f.family == yl::BlockFamily::astc || f.family == yl::BlockFamily::astc_hdr) {
        fill_with_astc(bytes, random);
        return texture;
    }
    for (std::size_t at = 0; at < bytes.size(); at += f.block_bytes) {
        const std::size_t block = at / f.block_bytes;
        const unsigned first = std::to_integer<unsigned>(bytes[at]);
        if (f.family != yl::BlockFamily::bc) {
            if (block % 64 == 0)  // everything alike
                std::fill_n(&bytes[at], f.block_bytes, bytes[at]);
        } else if (f.format >= yl::Format::bc7_unorm) {
            const auto mode = static_cast<unsigned>(block % 9);  // 8: no mode
            bytes[at] = static_cast<std::byte>(mode == 8 ? 0 : (first << (mode + 1) | 1U << mode));
        } else if (f.is_float()) {
            bytes[at] = static_cast<std::byte>((first & 0xE0U) | (block % 32));
        } else if (block % 64 == 0) {  // both endpoints alike
            const std::size_t width = f.channel_count <= 2 ? 1 : 2;
            const std::size_t start = f.channel_count == 4 && f.block_bytes == 16 ? 8 : 0;
            std::copy_n(&bytes[at + start], width, &bytes[at + start + width]);
        }
    }
    return texture;
}

struct Differences {
    std::size_t texels = 0;
    int max = 0;
};

enum class Zeros { signed_apart, alike };

/// How far two drivers' texels of the same format are apart; those of floats by their bits.
inline Differences compare_texels(yl::Format format, std::span<const std::byte> mine,
                                  std::span<const std::byte> theirs,
                                  Zeros zeros = Zeros::signed_apart) {
    const yl::FormatInfo& f = yl::info(format);
    Differences result;
    if (f.is_float()) {
        for (std::size_t i = 0; i < mine.size(); i += 2) {
            const auto a = yl::load<std::uint16_t>(&mine[i]),
                       b = yl::load<std::uint16_t>(&theirs[i]);
            const bool are_zeros = ((a | b) & 0x7FFF) == 0;
            if (a != b && !(are_zeros && zeros == Zeros::alike))
                ++result.texels;
        }
        return result;
    }
    const bool is_signed = f.kind == yl::NumericKind::snorm;
    if (f.type_size == 2) {  // drivers widen the 11 bits of EAC in several ways: those are compared
        const auto code = [&](const std::byte* at) {
            const auto bits = yl::load<std::uint16_t>(at);
            return is_signed ? std::lround(std::max<int>(static_cast<std::int16_t>(bits), -32767) *
                                           1023 / 32767.0)
                             : std::lround(bits * 2047 / 65535.0);
        };
        for (std::size_t i = 0; i < mine.size(); i += 2) {
            const auto difference = static_cast<int>(std::abs(code(&mine[i]) - code(&theirs[i])));
            result.texels += difference != 0 ? 1 : 0;
            result.max = std::max(result.max, difference);
        }
        return result;
    }
    for (std::size_t i = 0; i < mine.size(); ++i) {
        const auto number = [&](std::byte b) {
            return is_signed ? std::max<int>(static_cast<std::int8_t>(b), -127)
                             : std::to_integer<int>(b);
        };
        const int difference = std::abs(number(mine[i]) - number(theirs[i]));
        result.texels += difference != 0 ? 1 : 0;
        result.max = std::max(result.max, difference);
    }
    return result;
}

}  // namespace support
