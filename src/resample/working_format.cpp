#include "resample/working_format.hpp"

#include <algorithm>
#include <cmath>

#include "pixel/dither.hpp"
#include "resample/rows_simd.hpp"

namespace yl {

WorkingFormat WorkingFormat::of(Format format, Transfer transfer, AlphaMode alpha) {
    WorkingFormat working;
    working.format = format;
    working.codec = row_codec(format, transfer);
    working.transfer = transfer;
    working.weigh_by_alpha = info(format).has(Channel::alpha) && alpha == AlphaMode::straight;
    return working;
}

WorkingFormat WorkingFormat::of_chain(Format format, const TextureMetadata& metadata,
                                      const MipOptions& options) {
    WorkingFormat working =
        of(format, metadata.transfer, options.are_normals ? AlphaMode::data : metadata.alpha);
    working.dither = options.dither;
    working.are_normals = options.are_normals;
    working.fade = options.fade;
    return working;
}

void WorkingFormat::load(const std::byte* texels, float* working, std::size_t count) const {
    codec.load(texels, working, count);
    if (are_normals)
        rebuild_third(working, count);
    if (weigh_by_alpha)
        yl::weigh_by_alpha(working, count);
}

void WorkingFormat::store(const float* working, float* scratch, std::byte* texels,
                          std::size_t count, const Place& place) const {
    const bool changes = fade || are_normals || dither;
    if (weigh_by_alpha && !changes && !place.is_opaque)
        return store_in_pieces(working, scratch, texels, count);
    if (weigh_by_alpha && changes)
        undo_weighing(working, scratch, count);
    else if (changes && scratch != working)
        std::copy_n(working, 4 * count, scratch);
    if (fade)
        fade_out(scratch, count, place.level);
    if (are_normals)
        normalise(scratch, count);
    if (dither)
        dither_row(scratch, count, place.y, format, transfer);
    codec.store(changes ? scratch : working, texels, count);
}

void WorkingFormat::store_in_pieces(const float* working, float* scratch, std::byte* texels,
                                    std::size_t count) const {
    constexpr std::size_t piece = 256;  // small enough to stay in the nearest cache
    const std::size_t texel_bytes = info(format).block_bytes;
    for (std::size_t begin = 0; begin < count; begin += piece) {
        const std::size_t n = std::min(piece, count - begin);
        undo_weighing(working + 4 * begin, scratch, n);
        codec.store(scratch, texels + begin * texel_bytes, n);
    }
}

void WorkingFormat::rebuild_third(float* working, std::size_t count) const {
    const FormatInfo& f = info(format);
    if (f.channel_count != 2)
        return;
    const bool is_signed = f.kind != NumericKind::unorm;
    for (float* pixel = working; pixel != working + 4 * count; pixel += 4) {
        const float x = is_signed ? pixel[0] : 2 * pixel[0] - 1;
        const float y = is_signed ? pixel[1] : 2 * pixel[1] - 1;
        const float z = std::sqrt(std::max(0.0F, 1 - x * x - y * y));
        pixel[2] = is_signed ? z : 0.5F + 0.5F * z;
    }
}

void WorkingFormat::normalise(float* working, std::size_t count) const {
    const bool is_signed = info(format).kind != NumericKind::unorm;
    for (float* pixel = working; pixel != working + 4 * count; pixel += 4) {
        float n[3] = {};
        for (int c = 0; c < 3; ++c)
            n[c] = is_signed ? pixel[c] : 2 * pixel[c] - 1;
        const float length = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
        // Directions that cancel out leave none: straight up is as good as any.
        const bool has_direction = length > 1e-6F;
        for (int c = 0; c < 3; ++c) {
            const float unit = has_direction ? n[c] / length : (c == 2 ? 1.0F : 0.0F);
            pixel[c] = is_signed ? unit : 0.5F + 0.5F * unit;
        }
    }
}

void WorkingFormat::fade_out(float* working, std::size_t count, std::uint32_t level) const {
    const float span = static_cast<float>(std::max(fade->end, fade->begin + 1) - fade->begin);
    const float share = level <= fade->begin
                            ? 0.0F
                            : std::min(static_cast<float>(level - fade->begin) / span, 1.0F);
    for (std::size_t i = 0; i < 4 * count; ++i)
        working[i] += (mean[i % 4] - working[i]) * share;
}

}  // namespace yl
