#include <yl/texture_sampler.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "pixel/rows.hpp"
#include "sampling/decoded.hpp"
#include "sampling/level_choice.hpp"
#include "sampling/wrap.hpp"

namespace yl {
namespace {

constexpr Rgba opaque_black = {0, 0, 0, 1};

}  // namespace

Result<TextureSampler> TextureSampler::create(const Texture& texture, const Sampler& sampler,
                                              LevelRange range, LevelCurve curve) try {
    YL_CHECK(check_texture(texture, "texture"));
    TextureSampler result;
    result.curve_ = curve;
    YL_TRY(result.decoded_, decoded_if_blocks(texture));
    result.texture_ = result.decoded_ ? result.decoded_.get() : &texture;
    result.sampler_ = sampler;
    result.range_ = range;
    result.load_ = row_codec(result.texture_->shape().format, Transfer::linear).load;
    if (result.load_ == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("{} cannot be sampled", info(texture.shape().format).name));
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        result.levels_.push_back(result.texture_->image(level));
    result.texel_bytes_ = info(result.texture_->shape().format).block_bytes;
    result.complete_ = is_complete(texture.shape(), sampler, range);
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Rgba TextureSampler::seen(Rgba stored) const {
    apply_swizzle(texture_->metadata.swizzle, stored.data(), 1);
    return stored;
}

Rgba TextureSampler::texel(std::uint32_t level, std::int64_t x, std::int64_t y) const {
    const ConstImageView& image = levels_[level];
    const std::int64_t column = wrap_texel(sampler_.wrap[0], x, image.width);
    const std::int64_t row = wrap_texel(sampler_.wrap[1], y, image.height);
    if (column == border_texel || row == border_texel)
        return sampler_.border;
    Rgba rgba;
    load_(image.data + static_cast<std::size_t>(row) * image.row_stride +
              static_cast<std::size_t>(column) * texel_bytes_,
          rgba.data(), 1);
    return rgba;
}

Rgba TextureSampler::filtered_level(float u, float v, std::uint32_t level, Filter filter) const {
    const ConstImageView& image = levels_[level];
    const float x = reduce_coordinate(sampler_.wrap[0], u) * static_cast<float>(image.width);
    const float y = reduce_coordinate(sampler_.wrap[1], v) * static_cast<float>(image.height);
    if (filter == Filter::nearest)
        return texel(level, static_cast<std::int64_t>(std::floor(x)),
                     static_cast<std::int64_t>(std::floor(y)));
    const float left = std::floor(x - 0.5F);
    const float top = std::floor(y - 0.5F);
    const auto i = static_cast<std::int64_t>(left);
    const auto j = static_cast<std::int64_t>(top);
    const float right_share = x - 0.5F - left;
    return blended(blended(texel(level, i, j), texel(level, i + 1, j), right_share),
                   blended(texel(level, i, j + 1), texel(level, i + 1, j + 1), right_share),
                   y - 0.5F - top);
}

/// The level of detail is already biased and clamped.
Rgba TextureSampler::filtered(float u, float v, float level_of_detail) const {
    const LevelChoice choice =
        choose_level(sampler_, range_, texture_->shape().levels, level_of_detail);
    const Rgba near = filtered_level(u, v, choice.level, choice.filter);
    if (choice.share_of_next <= 0)
        return near;
    return blended(near, filtered_level(u, v, choice.level + 1, choice.filter),
                   choice.share_of_next);
}

Rgba TextureSampler::sample_level(float u, float v, float level_of_detail) const {
    if (!complete_)
        return opaque_black;
    return seen(filtered(u, v, clamp_level_of_detail(sampler_, level_of_detail)));
}

Rgba TextureSampler::sample(float u, float v, const Footprint& footprint) const {
    if (!complete_)
        return opaque_black;
    const ConstImageView base = texture_->image(range_.first);
    const auto width = static_cast<float>(base.width);
    const auto height = static_cast<float>(base.height);
    const float along_x = std::hypot(footprint.du_dx * width, footprint.dv_dx * height);
    const float along_y = std::hypot(footprint.du_dy * width, footprint.dv_dy * height);
    const float longer = std::max(along_x, along_y);
    if (sampler_.max_anisotropy <= 1)
        return seen(
            filtered(u, v, clamp_level_of_detail(sampler_, level_of_footprint(longer, curve_))));

    const float shorter = std::min(along_x, along_y);
    const float count = samples_along(longer, shorter, sampler_.max_anisotropy);
    const float level = clamp_level_of_detail(sampler_, level_of_footprint(longer / count, curve_));
    const bool x_is_longer = along_x > along_y;
    const float step_u = x_is_longer ? footprint.du_dx : footprint.du_dy;
    const float step_v = x_is_longer ? footprint.dv_dx : footprint.dv_dy;
    Rgba sum = {};
    for (float i = 1; i <= count; ++i) {
        const float shift = i / (count + 1) - 0.5F;
        const Rgba one = filtered(u + step_u * shift, v + step_v * shift, level);
        for (std::size_t c = 0; c < 4; ++c)
            sum[c] += one[c] / count;
    }
    return seen(sum);
}

}  // namespace yl
