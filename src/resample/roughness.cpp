#include <yl/mip.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "pixel/check.hpp"
#include "pixel/rows.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 16;

/// Steeper slopes than this would outweigh all others.
constexpr float min_upward = 0.05F;

/// What is averaged for a measure: the direction itself, or slopes and their squares.
void make_moments(float* normal, bool is_signed, SpreadMeasure measure) {
    float n[3] = {normal[0], normal[1], normal[2]};
    if (!is_signed)
        for (float& part : n)
            part = 2 * part - 1;
    const float length = std::max(std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]), 1e-6F);
    for (float& part : n)
        part /= length;
    if (measure == SpreadMeasure::variance) {
        const float upward = std::max(n[2], min_upward);
        n[0] /= upward;
        n[1] /= upward;
        n[2] = n[0] * n[0] + n[1] * n[1];
    }
    std::copy(n, n + 3, normal);
    normal[3] = 1;
}

float variance_of(const float* moments, SpreadMeasure measure) {
    if (measure == SpreadMeasure::variance)
        return std::max(moments[2] - moments[0] * moments[0] - moments[1] * moments[1], 0.0F) / 2;
    const float squared =
        moments[0] * moments[0] + moments[1] * moments[1] + moments[2] * moments[2];
    const float length = std::min(std::sqrt(squared), 1.0F);
    const float concentration = (3 * length - length * squared) / std::max(1 - squared, 1e-6F);
    return 1 / std::max(concentration, 1e-6F);
}

/// The moments of every level, in floating point.
Result<Texture> moment_chain(ConstImageView normals, SpreadMeasure measure) {
    const FormatInfo& f = info(normals.format);
    const RowCodec input = row_codec(normals.format, Transfer::linear);
    if (input.load == nullptr || f.channel_count < 2)
        return fail(ErrorKind::unsupported, fmt::format("{} holds no normals", f.name));
    YL_TRY(Texture chain,
           Texture::create({.format = Format::rgba32_float,
                            .width = normals.width,
                            .height = normals.height,
                            .levels = full_level_count(normals.width, normals.height)},
                           Limits::none()));
    chain.metadata.alpha = AlphaMode::premultiplied;  // nothing is to be weighed
    const bool is_signed = f.kind != NumericKind::unorm;
    const ImageView top = chain.image(0);
    const RowCodec output = row_codec(top.format, Transfer::linear);
    parallel_ranges(top.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> row(std::size_t{top.width} * 4);
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            input.load(normals.row(y).data(), row.data(), top.width);
            for (float* normal = row.data(); normal != row.data() + row.size(); normal += 4) {
                if (f.channel_count == 2) {
                    const float x = is_signed ? normal[0] : 2 * normal[0] - 1;
                    const float y_part = is_signed ? normal[1] : 2 * normal[1] - 1;
                    const float z = std::sqrt(std::max(0.0F, 1 - x * x - y_part * y_part));
                    normal[2] = is_signed ? z : 0.5F + 0.5F * z;
                }
                make_moments(normal, is_signed, measure);
            }
            output.store(row.data(), top.row(y).data(), top.width);
        }
    });
    YL_CHECK(build_mips(chain));
    return chain;
}

}  // namespace

Result<std::vector<std::vector<float>>> hidden_variance(ConstImageView normals,
                                                        SpreadMeasure measure) try {
    YL_CHECK(check_view(normals, "normals"));
    YL_TRY(const Texture chain, moment_chain(normals, measure));
    std::vector<std::vector<float>> levels;
    for (std::uint32_t level = 1; level < chain.shape().levels; ++level) {
        std::vector<float>& variances = levels.emplace_back();
        const auto bytes = chain.level(level);
        for (std::size_t i = 0; i < bytes.size(); i += 16) {
            float moments[4] = {};
            for (std::size_t c = 0; c < 4; ++c)
                moments[c] = std::bit_cast<float>(load<std::uint32_t>(bytes.data() + i + 4 * c));
            variances.push_back(variance_of(moments, measure));
        }
    }
    return levels;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status widen_roughness(Texture& roughness, ConstImageView normals, Channel channel,
                       SpreadMeasure measure) try {
    YL_CHECK(check_texture(roughness, "roughness"));
    YL_CHECK(check_view(normals, "normals"));
    const TextureShape& shape = roughness.shape();
    const RowCodec codec = row_codec(shape.format, Transfer::linear);
    if (codec.load == nullptr || shape.depth > 1 || !info(shape.format).has(channel))
        return fail(ErrorKind::unsupported,
                    fmt::format("the roughness of {} cannot be widened", info(shape.format).name));
    if (shape.width != normals.width || shape.height != normals.height)
        return fail(ErrorKind::usage,
                    fmt::format("normals of {} x {} do not fit a roughness of {} x {}; resize them",
                                normals.width, normals.height, shape.width, shape.height));
    YL_TRY(const auto levels, hidden_variance(normals, measure));
    const auto place = static_cast<std::size_t>(channel);
    for (std::uint32_t level = 1; level < shape.levels; ++level)
        for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
            for (std::uint32_t face = 0; face < shape.faces; ++face) {
                const ImageView image = roughness.image(level, layer, face);
                std::vector<float> row(std::size_t{image.width} * 4);
                for (std::uint32_t y = 0; y < image.height; ++y) {
                    codec.load(image.row(y).data(), row.data(), image.width);
                    for (std::uint32_t x = 0; x < image.width; ++x) {
                        float& r = row[std::size_t{x} * 4 + place];
                        const float variance = levels[level - 1][std::size_t{y} * image.width + x];
                        const float squared = std::min(r * r * r * r + 2 * variance, 1.0F);
                        r = std::sqrt(std::sqrt(squared));
                    }
                    codec.store(row.data(), image.row(y).data(), image.width);
                }
            }
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
