// ETC2: RGB, RGB with cut-outs, and RGB with a block of EAC for alpha.
#include "block/etc/color_block.hpp"
#include "block/etc/decode.hpp"
#include "block/etc/eac_values.hpp"

namespace yl::etc {
namespace {

constexpr std::uint32_t opaque = 0xFF000000U;

using Texels = std::array<std::uint32_t, 16>;  // row by row
using Palette = std::array<std::uint32_t, 4>;

/// Index 2 of a block that is not opaque is a hole.
Palette shaded(const Color& base, std::uint32_t row, bool has_holes) {
    const int small = has_holes ? 0 : intensities[row][0], large = intensities[row][1];
    return {packed(base, small) | opaque, packed(base, large) | opaque,
            has_holes ? 0 : packed(base, -small) | opaque, packed(base, -large) | opaque};
}

/// The colours of both halves: left and right, or upper and lower if flipped.
Texels of_halves(std::uint64_t word, const Color& first, const Color& second, bool has_holes) {
    const std::array<Palette, 2> palettes = {shaded(first, bits_at(word, 37, 3), has_holes),
                                             shaded(second, bits_at(word, 34, 3), has_holes)};
    const bool is_flipped = bits_at(word, 32, 1) != 0;
    Texels texels{};
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 4; ++x)
            texels[4 * y + x] = palettes[(is_flipped ? y : x) / 2][color_index(word, x, y)];
    return texels;
}

Texels of_palette(std::uint64_t word, Palette palette, bool has_holes) {
    if (has_holes)
        palette[2] = 0;
    Texels texels{};
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 4; ++x)
            texels[4 * y + x] = palette[color_index(word, x, y)];
    return texels;
}

Texels individual(std::uint64_t word) {
    Color first{}, second{};
    for (unsigned c = 0; c < 3; ++c) {
        first[c] = widened(bits_at(word, 60 - 8 * c, 4), 4);
        second[c] = widened(bits_at(word, 56 - 8 * c, 4), 4);
    }
    return of_halves(word, first, second, false);
}

Texels form_t(std::uint64_t word, bool has_holes) {
    const Color first = {widened(bits_at(word, 59, 2) << 2 | bits_at(word, 56, 2), 4),
                         widened(bits_at(word, 52, 4), 4), widened(bits_at(word, 48, 4), 4)};
    const Color second = {widened(bits_at(word, 44, 4), 4), widened(bits_at(word, 40, 4), 4),
                          widened(bits_at(word, 36, 4), 4)};
    const int distance = distances[bits_at(word, 34, 2) << 1 | bits_at(word, 32, 1)];
    return of_palette(word,
                      {packed(first) | opaque, packed(second, distance) | opaque,
                       packed(second) | opaque, packed(second, -distance) | opaque},
                      has_holes);
}

Texels form_h(std::uint64_t word, bool has_holes) {
    const std::array<std::uint32_t, 6> parts = {bits_at(word, 59, 4),
                                                bits_at(word, 56, 3) << 1 | bits_at(word, 52, 1),
                                                bits_at(word, 51, 1) << 3 | bits_at(word, 47, 3),
                                                bits_at(word, 43, 4),
                                                bits_at(word, 39, 4),
                                                bits_at(word, 35, 4)};
    const Color first = {widened(parts[0], 4), widened(parts[1], 4), widened(parts[2], 4)};
    const Color second = {widened(parts[3], 4), widened(parts[4], 4), widened(parts[5], 4)};
    // The lowest bit is not stored: it is the order of the colours.
    const bool is_descending =
        (parts[0] << 8 | parts[1] << 4 | parts[2]) >= (parts[3] << 8 | parts[4] << 4 | parts[5]);
    const int distance = distances[bits_at(word, 34, 1) << 2 | bits_at(word, 32, 1) << 1 |
                                   (is_descending ? 1U : 0U)];
    return of_palette(word,
                      {packed(first, distance) | opaque, packed(first, -distance) | opaque,
                       packed(second, distance) | opaque, packed(second, -distance) | opaque},
                      has_holes);
}

Texels planar(std::uint64_t word) {
    const Color origin = {
        widened(bits_at(word, 57, 6), 6),
        widened(bits_at(word, 56, 1) << 6 | bits_at(word, 49, 6), 7),
        widened(bits_at(word, 48, 1) << 5 | bits_at(word, 43, 2) << 3 | bits_at(word, 39, 3), 6)};
    const Color right = {widened(bits_at(word, 34, 5) << 1 | bits_at(word, 32, 1), 6),
                         widened(bits_at(word, 25, 7), 7), widened(bits_at(word, 19, 6), 6)};
    const Color below = {widened(bits_at(word, 13, 6), 6), widened(bits_at(word, 6, 7), 7),
                         widened(bits_at(word, 0, 6), 6)};
    Texels texels{};
    for (int y = 0; y < 4; ++y)
        for (int x = 0; x < 4; ++x) {
            Color color{};
            for (std::size_t c = 0; c < 3; ++c)
                color[c] =
                    (x * (right[c] - origin[c]) + y * (below[c] - origin[c]) + 4 * origin[c] + 2) >>
                    2;
            texels[static_cast<std::size_t>(4 * y + x)] = packed(color) | opaque;
        }
    return texels;
}

Texels differential(std::uint64_t word, bool has_holes) {
    std::array<int, 3> bases{}, sums{};
    for (unsigned c = 0; c < 3; ++c) {
        bases[c] = static_cast<int>(bits_at(word, 59 - 8 * c, 5));
        sums[c] = second_code(word, c);
    }
    const auto leaves_range = [&](std::size_t c) { return sums[c] < 0 || sums[c] > 31; };
    if (leaves_range(0))
        return form_t(word, has_holes);
    if (leaves_range(1))
        return form_h(word, has_holes);
    if (leaves_range(2))
        return planar(word);
    Color first{}, second{};
    for (std::size_t c = 0; c < 3; ++c) {
        first[c] = widened(static_cast<std::uint32_t>(bases[c]), 5);
        second[c] = widened(static_cast<std::uint32_t>(sums[c]), 5);
    }
    return of_halves(word, first, second, has_holes);
}

Texels opaque_texels(std::uint64_t word) {
    return bits_at(word, 33, 1) == 0 ? individual(word) : differential(word, false);
}

void store_rows(const Texels& texels, std::byte* out, std::size_t stride) {
    for (std::size_t y = 0; y < 4; ++y)
        for (std::size_t x = 0; x < 4; ++x)
            store(out + y * stride + 4 * x, texels[4 * y + x]);
}

}  // namespace

void decode_rgb(const std::byte* block, std::byte* texels, std::size_t stride) {
    store_rows(opaque_texels(word_of(block)), texels, stride);
}

void decode_rgb_cut_out(const std::byte* block, std::byte* texels, std::size_t stride) {
    const std::uint64_t word = word_of(block);
    store_rows(differential(word, bits_at(word, 33, 1) == 0), texels, stride);
}

void decode_rgba(const std::byte* block, std::byte* texels, std::size_t stride) {
    const std::uint64_t alphas = word_of(block);
    const std::array<int, 8> values = eac_values(EacKind::alpha, alphas);
    Texels colors = opaque_texels(word_of(block + 8));
    for (std::uint32_t y = 0; y < 4; ++y)
        for (std::uint32_t x = 0; x < 4; ++x) {
            std::uint32_t& texel = colors[4 * y + x];
            texel = (texel & ~opaque) | static_cast<std::uint32_t>(values[eac_index(alphas, x, y)])
                                            << 24;
        }
    store_rows(colors, texels, stride);
}

}  // namespace yl::etc
