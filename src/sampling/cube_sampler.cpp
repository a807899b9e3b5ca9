#include <yl/texture_sampler.hpp>

#include <fmt/format.h>

#include <cmath>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "cube/light_chain.hpp"
#include "pixel/check.hpp"
#include "pixel/rows.hpp"
#include "sampling/decoded.hpp"
#include "sampling/level_choice.hpp"

namespace yl {
namespace {

constexpr Rgba opaque_black = {0, 0, 0, 1};

}  // namespace

/// On a face, from 0 to 1.
struct CubeSampler::Place {
    std::size_t face;
    float s, t;
};

Result<CubeSampler> CubeSampler::create(const Texture& cube, const Sampler& sampler,
                                        LevelRange range, LevelCurve curve, bool is_seamless) try {
    YL_CHECK(check_texture(cube, "cube"));
    if (cube.shape().faces != 6)
        return fail(ErrorKind::usage, "this is not a cube map");
    CubeSampler result;
    YL_TRY(result.decoded_, decoded_if_blocks(cube));
    result.texture_ = result.decoded_ ? result.decoded_.get() : &cube;
    result.sampler_ = sampler;
    result.range_ = range;
    result.curve_ = curve;
    result.is_seamless_ = is_seamless;
    result.load_ = row_codec(result.texture_->shape().format, Transfer::linear).load;
    if (result.load_ == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("{} cannot be sampled", info(cube.shape().format).name));
    for (std::uint32_t level = 0; level < cube.shape().levels; ++level)
        for (std::uint32_t face = 0; face < 6; ++face)
            result.surfaces_.push_back(result.texture_->image(level, 0, face));
    result.texel_bytes_ = info(result.texture_->shape().format).block_bytes;
    result.complete_ = is_complete(cube.shape(), sampler, range);
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

CubeSampler::Place CubeSampler::place_of(const Ray& direction) {
    const QuickPoint point = quick_point(direction[0], direction[1], direction[2]);
    return {point.face, point.s, point.t};
}

Rgba CubeSampler::seen(Rgba stored) const {
    apply_swizzle(texture_->metadata.swizzle, stored.data(), 1);
    return stored;
}

Rgba CubeSampler::texel(std::uint32_t level, std::size_t face, std::int64_t x,
                        std::int64_t y) const {
    const std::int64_t size = surfaces_[level * 6].width;
    const std::int64_t inner_x = std::clamp<std::int64_t>(x, 0, size - 1);
    const std::int64_t inner_y = std::clamp<std::int64_t>(y, 0, size - 1);
    if (is_seamless_ && x != inner_x && y != inner_y) {
        const Rgba own = texel(level, face, inner_x, inner_y);
        const Rgba across = texel(level, face, x, inner_y), down = texel(level, face, inner_x, y);
        Rgba mean;
        for (std::size_t c = 0; c < 4; ++c)
            mean[c] = (own[c] + across[c] + down[c]) / 3;
        return mean;
    }
    CubeTexel place = {face, static_cast<std::uint32_t>(inner_x),
                       static_cast<std::uint32_t>(inner_y)};
    if (is_seamless_ && (x != inner_x || y != inner_y))
        place =
            texel_beyond_edge(static_cast<CubeFace>(face), x, y, static_cast<std::uint32_t>(size));
    const ConstImageView& image = surfaces_[level * 6 + place.face];
    Rgba rgba;
    load_(image.row(place.y).data() + std::size_t{place.x} * texel_bytes_, rgba.data(), 1);
    return rgba;
}

Rgba CubeSampler::filtered_level(const Place& place, std::uint32_t level, Filter filter) const {
    const auto size = static_cast<float>(surfaces_[level * 6].width);
    const float x = place.s * size, y = place.t * size;
    if (filter == Filter::nearest)
        return texel(level, place.face,
                     static_cast<std::int64_t>(std::min(std::floor(x), size - 1)),
                     static_cast<std::int64_t>(std::min(std::floor(y), size - 1)));
    const float left = std::floor(x - 0.5F), top = std::floor(y - 0.5F);
    const auto i = static_cast<std::int64_t>(left), j = static_cast<std::int64_t>(top);
    const float share = x - 0.5F - left;
    const std::size_t face = place.face;
    return blended(blended(texel(level, face, i, j), texel(level, face, i + 1, j), share),
                   blended(texel(level, face, i, j + 1), texel(level, face, i + 1, j + 1), share),
                   y - 0.5F - top);
}

Rgba CubeSampler::filtered(const Place& place, float level_of_detail) const {
    const LevelChoice choice =
        choose_level(sampler_, range_, texture_->shape().levels, level_of_detail);
    const Rgba near = filtered_level(place, choice.level, choice.filter);
    if (choice.share_of_next <= 0)
        return near;
    return blended(near, filtered_level(place, choice.level + 1, choice.filter),
                   choice.share_of_next);
}

Rgba CubeSampler::sample_level(const Ray& direction, float level_of_detail) const {
    if (!complete_)
        return opaque_black;
    return seen(filtered(place_of(direction), clamp_level_of_detail(sampler_, level_of_detail)));
}

Rgba CubeSampler::sample(const Ray& direction, const DirectionFootprint& footprint) const {
    if (!complete_)
        return opaque_black;
    const Place place = place_of(direction);
    const auto size = static_cast<float>(texture_->shape().width_at(range_.first));
    // How far the place moves: the face's own plane is where the greatest coordinate is 1.
    const std::size_t axis = place.face / 2;
    const float max = std::abs(direction[axis]);
    const auto moved = [&](const Ray& step) {
        float square = 0;
        const float step_of_greatest = direction[axis] < 0 ? -step[axis] : step[axis];
        for (std::size_t c = 0; c < 3; ++c) {
            if (c == axis)
                continue;
            const float speed =
                (step[c] - direction[c] / max * step_of_greatest) / max * 0.5F * size;
            square += speed * speed;
        }
        return std::sqrt(square);
    };
    const float along_x = moved(footprint.dx), along_y = moved(footprint.dy);
    const float longer = std::max(along_x, along_y);
    if (sampler_.max_anisotropy <= 1)
        return seen(
            filtered(place, clamp_level_of_detail(sampler_, level_of_footprint(longer, curve_))));
    const float count = samples_along(longer, std::min(along_x, along_y), sampler_.max_anisotropy);
    const float level = clamp_level_of_detail(sampler_, level_of_footprint(longer / count, curve_));
    const Ray& step = along_x > along_y ? footprint.dx : footprint.dy;
    Rgba sum = {};
    for (float i = 1; i <= count; ++i) {
        const float shift = i / (count + 1) - 0.5F;
        const Rgba one =
            filtered(place_of({direction[0] + step[0] * shift, direction[1] + step[1] * shift,
                               direction[2] + step[2] * shift}),
                     level);
        for (std::size_t c = 0; c < 4; ++c)
            sum[c] += one[c] / count;
    }
    return seen(sum);
}

}  // namespace yl
