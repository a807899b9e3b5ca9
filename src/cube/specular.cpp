// Reflections by roughness.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

#include <yl/environment.hpp>
#include <yl/status_macros.hpp>
#include "base/number.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "cube/light_chain.hpp"
#include "cube/sun.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

using std::numbers::pi;

/// A direction around the normal (z), what it counts for, and where in the chain it is looked up.
struct LobeSample {
    float x = 0, y = 0, z = 0;
    float weight = 0;
    std::uint32_t level = 0;  ///< the finer of the two
    float share_of_next = 0;
    float azimuth = 0;  ///< around the normal
};

double radical_inverse(std::uint32_t i) {
    double result = 0;
    for (double half = 0.5; i != 0; i >>= 1, half /= 2)
        result += (i & 1U) != 0 ? half : 0;
    return result;
}

/// The GGX lobe over half vectors, mirrored into directions of light; view and normal are the same.
std::vector<LobeSample> lobe(double roughness, std::uint32_t count, std::uint32_t source_size,
                             std::size_t levels) {
    const double alpha = roughness * roughness;
    const double texel = 4 * pi / (6.0 * source_size * source_size);  // steradians, on average
    std::vector<LobeSample> samples;
    double sum = 0;
    for (std::uint32_t i = 0; i < count; ++i) {
        // Squared, so that the wide tail of the lobe has its share of the samples, too.
        const double rest = 1 - (i + 0.5) / count, v = radical_inverse(i);
        const double u = 1 - rest * rest, share = 2 * rest;
        const double cosine = std::sqrt((1 - u) / (1 + (alpha * alpha - 1) * u));
        const double sine = std::sqrt(std::max(0.0, 1 - cosine * cosine));
        const double z = 2 * cosine * cosine - 1;  // of the direction of light
        if (z <= 0)
            continue;
        const double across = 2 * cosine * sine;
        const double denominator = cosine * cosine * (alpha * alpha - 1) + 1;
        const double density = alpha * alpha / (pi * denominator * denominator) / 4;
        const double covered = share / (count * density);  // steradians that the sample stands for
        // Half a level more, so that neighbouring samples overlap.
        const double level = std::clamp(0.5 * std::log2(covered / texel) + 0.5, 0.0,
                                        static_cast<double>(levels - 1));
        const auto finer = static_cast<std::uint32_t>(
            std::min(std::floor(level), static_cast<double>(levels - 1)));
        samples.push_back({static_cast<float>(across * std::cos(2 * pi * v)),
                           static_cast<float>(across * std::sin(2 * pi * v)), static_cast<float>(z),
                           static_cast<float>(share * z), finer, static_cast<float>(level - finer),
                           static_cast<float>(v)});
        sum += share * z;
    }
    for (LobeSample& sample : samples)
        sample.weight /= static_cast<float>(sum);
    // Level by level, and in each round the normal, so that what is read next lies near.
    std::sort(samples.begin(), samples.end(), [](const LobeSample& a, const LobeSample& b) {
        return std::tie(a.level, a.azimuth) < std::tie(b.level, b.azimuth);
    });
    return samples;
}

/// Two directions at right angles to a unit normal (Duff and others, "Building an Orthonormal
/// Basis, Revisited", 2017).
struct Basis {
    float tx, ty, tz, bx, by, bz;

    Basis(float x, float y, float z) {
        const float sign = std::copysign(1.0F, z);
        const float a = -1 / (sign + z), b = x * y * a;
        tx = 1 + sign * x * x * a, ty = sign * b, tz = -sign * x;
        bx = b, by = sign + y * y * a, bz = -y;
    }
};

Light gathered(const std::vector<LightChain::Reader>& levels,
               const std::vector<LobeSample>& samples, const Direction& direction) {
    const double length = std::sqrt(direction[0] * direction[0] + direction[1] * direction[1] +
                                    direction[2] * direction[2]);
    const auto nx = static_cast<float>(direction[0] / length),
               ny = static_cast<float>(direction[1] / length),
               nz = static_cast<float>(direction[2] / length);
    const Basis basis(nx, ny, nz);
    Pixel sum = {};
    for (const LobeSample& sample : samples) {
        const QuickPoint point =
            quick_point(sample.x * basis.tx + sample.y * basis.bx + sample.z * nx,
                        sample.x * basis.ty + sample.y * basis.by + sample.z * ny,
                        sample.x * basis.tz + sample.y * basis.bz + sample.z * nz);
        const float of_next = sample.weight * sample.share_of_next;
        levels[sample.level].add(point, sample.weight - of_next, sum);
        if (of_next > 0)
            levels[sample.level + 1].add(point, of_next, sum);
    }
    return {sum[0], sum[1], sum[2], sum[3]};
}

/// The lobe as a function of the cosine between a direction of light and the normal: the density of
/// such directions times that cosine, and its whole over the sphere.
struct LobeKernel {
    float square;  ///< of alpha
    float whole = 0;

    explicit LobeKernel(double roughness)
        : square(static_cast<float>(std::max(std::pow(roughness, 4), 1e-10))) {
        // Half vectors in even shares; the rest of those beyond the horizon is lost.
        constexpr int steps = 1 << 16;
        double sum = 0;
        for (int i = 0; i < steps; ++i) {
            const double u = (i + 0.5) / steps;
            const double cosine_square = (1 - u) / (1 + (static_cast<double>(square) - 1) * u);
            sum += std::max(2 * cosine_square - 1, 0.0);
        }
        whole = static_cast<float>(sum / steps);
    }

    [[nodiscard]] float at(float cosine) const {
        const float below = (1 + cosine) * 0.5F * (square - 1) + 1;
        return square / (static_cast<float>(4 * pi) * below * below) * cosine;
    }
};

/// The light of the sun on a surface that faces `n`.
void add_sun(const std::vector<SunSpot>& spots, const LobeKernel& kernel, const Direction& n,
             Light& light) {
    const double length = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
    const auto x = static_cast<float>(n[0] / length), y = static_cast<float>(n[1] / length),
               z = static_cast<float>(n[2] / length);
    for (const SunSpot& spot : spots) {
        const float cosine = spot.x * x + spot.y * y + spot.z * z;
        if (cosine <= 0)
            continue;
        const float share = kernel.at(cosine) / kernel.whole;
        for (std::size_t c = 0; c < 3; ++c)
            light[c] += spot.light[c] * share;
    }
}

/// A texel of the sky with the part of the sphere that it covers.
struct SkyTexel {
    float x, y, z, angle;
    const float* light;
};

std::vector<SkyTexel> texels_of(const LightCube& sky) {
    std::vector<SkyTexel> texels;
    for (std::size_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < sky.size(); ++y)
            for (std::uint32_t x = 0; x < sky.size(); ++x) {
                const Direction d = direction_at(middle_of(face, x, y, sky.size()));
                const double length = std::sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
                texels.push_back({static_cast<float>(d[0] / length),
                                  static_cast<float>(d[1] / length),
                                  static_cast<float>(d[2] / length),
                                  static_cast<float>(texel_solid_angle(x, y, sky.size())),
                                  sky.texel(face, x, y)});
            }
    return texels;
}

/// All of the sky on a surface that faces `n`.
Light summed(const std::vector<SkyTexel>& sky, const LobeKernel& kernel, const Direction& n) {
    const double length = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
    const auto x = static_cast<float>(n[0] / length), y = static_cast<float>(n[1] / length),
               z = static_cast<float>(n[2] / length);
    Pixel sum = {};
    float weights = 0;
    for (const SkyTexel& texel : sky) {
        const float cosine = texel.x * x + texel.y * y + texel.z * z;
        if (cosine <= 0)
            continue;
        const float weight = kernel.at(cosine) * texel.angle;
        sum += weight * load_pixel(texel.light);
        weights += weight;
    }
    sum = sum / weights;
    return {sum[0], sum[1], sum[2], sum[3]};
}

/// A sky without its sun, in levels, and the sun.
struct Surroundings {
    LightChain chain;
    SunLight sun;

    static Surroundings of(const Texture& cube, std::uint32_t layer) {
        LightCube sky = LightCube::of(cube, 0, layer, working_format_of(cube));
        SunLight sun = SunLight::take_from(sky);
        return {LightChain(std::move(sky)), std::move(sun)};
    }
};

constexpr std::uint32_t max_summed = 16;     ///< texels of a face whose sky is summed
constexpr std::uint32_t summed_source = 64;  ///< texels of a face of the sky that is summed
/// Lobes narrower than a few texels of that sky are sampled.
constexpr double min_summed_alpha = 0.1;

/// A level that shows the sky as a mirror does, with its sun.
LightCube mirrored(const Texture& cube, std::uint32_t layer, std::uint32_t size) {
    const LightChain chain(cube, layer);
    LightCube result(size);
    for (std::size_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < size; ++y)
            for (std::uint32_t x = 0; x < size; ++x) {
                const Light light = chain.for_size(size).sample(middle_of(face, x, y, size));
                std::copy(light.begin(), light.end(), result.texel(face, x, y));
            }
    return result;
}

LightCube filtered(const Surroundings& around, double roughness, std::uint32_t size,
                   std::uint32_t count, ProgressCounter& progress) {
    LightCube result(size);
    const LightChain& chain = around.chain;
    const double alpha = roughness * roughness;
    const LobeKernel kernel(roughness);
    const auto spots = around.sun.gathered_within(0.05 * alpha);
    const bool sums = size <= max_summed && alpha >= min_summed_alpha;
    const auto sky = sums ? texels_of(chain.for_size(summed_source)) : std::vector<SkyTexel>{};
    const auto samples = sums ? std::vector<LobeSample>{}
                              : lobe(roughness, count, chain.level(0).size(), chain.level_count());
    std::vector<LightChain::Reader> levels;
    for (std::size_t level = 0; level < chain.level_count(); ++level)
        levels.push_back(chain.reader(level));
    parallel_each(std::size_t{6} * size, [&](std::size_t row) {
        if (progress.cancelled())
            return;
        const std::size_t face = row / size;
        const auto y = static_cast<std::uint32_t>(row % size);
        for (std::uint32_t x = 0; x < size; ++x) {
            const Direction normal = direction_at(middle_of(face, x, y, size));
            Light light = sums ? summed(sky, kernel, normal) : gathered(levels, samples, normal);
            add_sun(spots, kernel, normal, light);
            std::copy(light.begin(), light.end(), result.texel(face, x, y));
        }
        progress.add(size);
    });
    return result;
}

std::uint32_t default_levels(std::uint32_t size) {
    std::uint32_t levels = 1;
    while (size >> levels >= 4)
        ++levels;
    return levels;
}

}  // namespace

Result<Texture> prefilter_specular(const Texture& cube, const SpecularOptions& options) try {
    YL_CHECK(check_texture(cube, "cube"));
    YL_CHECK(check_light_source(cube));
    const std::uint32_t size = options.face_size.value_or(cube.shape().width);
    const std::uint32_t levels = options.levels.value_or(default_levels(size));
    if (levels == 0 || levels > full_level_count(size, size))
        return fail(ErrorKind::usage, fmt::format("a face of {} texels has 1 to {} levels, not {}",
                                                  size, full_level_count(size, size), levels));
    if (!options.roughness.empty() && options.roughness.size() != levels)
        return fail(ErrorKind::usage, fmt::format("{} levels need {} numbers of roughness, not {}",
                                                  levels, levels, options.roughness.size()));
    if (options.samples == 0 || options.samples > 1U << 20)
        return fail(ErrorKind::usage, "between 1 and 1048576 samples can be taken");
    YL_TRY(Texture result, Texture::create({.format = cube.shape().format,
                                            .width = size,
                                            .height = size,
                                            .levels = levels,
                                            .layers = cube.shape().layers,
                                            .faces = 6,
                                            .is_array = cube.shape().is_array}));
    result.metadata = cube.metadata;
    const WorkingFormat format = working_format_of(cube);
    std::string note;
    for (std::uint32_t level = 0; level < levels; ++level) {
        const float roughness = !options.roughness.empty() ? options.roughness[level]
                                : levels == 1
                                    ? 0.0F
                                    : static_cast<float>(level) / static_cast<float>(levels - 1);
        if (!(roughness >= 0 && roughness <= 1))
            return fail(ErrorKind::usage,
                        fmt::format("a roughness of {} is out of range: 0 to 1", roughness));
        note += fmt::format("{}{:.6g}", level > 0 ? " " : "", roughness);
    }
    result.metadata.key_values[specular_note] = note;
    const auto roughness = roughness_of_levels(result);
    std::uint64_t texels = 0;
    for (std::uint32_t level = 0; level < levels; ++level)
        texels += std::uint64_t{6} * level_side(size, level) * level_side(size, level);
    ProgressCounter progress(options.progress, Phase::prefiltering, texels * cube.shape().layers);
    for (std::uint32_t layer = 0; layer < cube.shape().layers; ++layer) {
        const auto around = Surroundings::of(cube, layer);
        for (std::uint32_t level = 0; level < levels; ++level) {
            const std::uint32_t side = level_side(size, level);
            const LightCube light = roughness[level] > 0
                                        ? filtered(around, static_cast<double>(roughness[level]),
                                                   side, options.samples, progress)
                                        : mirrored(cube, layer, side);
            if (!(roughness[level] > 0))
                progress.add(std::uint64_t{6} * side * side);
            if (progress.cancelled())
                return tl::unexpected(progress.status().error());
            light.store(result, level, layer, format);
        }
    }
    YL_CHECK(progress.finish());
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::vector<float> roughness_of_levels(const Texture& cube) {
    std::vector<float> result;
    const auto note = cube.metadata.key_values.find(specular_note);
    if (note == cube.metadata.key_values.end())
        return result;
    const char* at = note->second.data();
    const char* end = at + note->second.size();
    while (at < end) {
        float value = 0;
        const auto [next, error] = number_from_chars(at, end, value);
        if (error != std::errc{})
            return {};
        result.push_back(value);
        at = next;
        while (at < end && *at == ' ')
            ++at;
    }
    return result;
}

}  // namespace yl
