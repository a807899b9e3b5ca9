// Matt surfaces: the light of half the sky, by harmonics and by a small cube.
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include <yl/environment.hpp>
#include <yl/status_macros.hpp>
#include "base/number.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "cube/light_chain.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

using std::numbers::pi;

constexpr std::uint32_t max_source = 64;  ///< texels of a face that is integrated over

/// The real spherical harmonics up to order 2, of a unit direction.
std::array<double, 9> basis_at(const Direction& d) {
    const double x = d[0], y = d[1], z = d[2];
    return {0.282094791773878,
            0.488602511902920 * y,
            0.488602511902920 * z,
            0.488602511902920 * x,
            1.092548430592079 * x * y,
            1.092548430592079 * y * z,
            0.315391565252520 * (3 * z * z - 1),
            1.092548430592079 * x * z,
            0.546274215296040 * (x * x - y * y)};
}

Direction unit(const Direction& d) {
    const double length = std::sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
    return {d[0] / length, d[1] / length, d[2] / length};
}

/// A texel of the source: where it is, and its light times the part of the sphere that it covers.
struct Emitter {
    float x, y, z;
    float red, green, blue;
};

std::vector<Emitter> emitters_of(const LightCube& light) {
    std::vector<Emitter> all;
    for (std::size_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < light.size(); ++y)
            for (std::uint32_t x = 0; x < light.size(); ++x) {
                const Direction d = unit(direction_at(middle_of(face, x, y, light.size())));
                const auto angle = static_cast<float>(texel_solid_angle(x, y, light.size()));
                const float* texel = light.texel(face, x, y);
                all.push_back({static_cast<float>(d[0]), static_cast<float>(d[1]),
                               static_cast<float>(d[2]), texel[0] * angle, texel[1] * angle,
                               texel[2] * angle});
            }
    return all;
}

}  // namespace

std::array<double, 3> SphericalHarmonics::reflected(const Direction& normal) const {
    const auto basis = basis_at(unit(normal));
    std::array<double, 3> result{};
    for (std::size_t i = 0; i < 9; ++i)
        for (std::size_t c = 0; c < 3; ++c)
            result[c] += cosine_harmonics[i] * basis[i] * radiance[i][c];
    return result;
}

Result<SphericalHarmonics> project_to_harmonics(const Texture& cube, std::uint32_t layer) try {
    YL_CHECK(check_texture(cube, "cube"));
    YL_CHECK(check_light_source(cube));
    if (layer >= cube.shape().layers)
        return fail_at(
            {ErrorKind::usage, fmt::format("the cube has {} layers", cube.shape().layers)},
            "layer");
    const LightCube light = LightCube::of(cube, 0, layer, working_format_of(cube));
    SphericalHarmonics result;
    for (std::size_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < light.size(); ++y)
            for (std::uint32_t x = 0; x < light.size(); ++x) {
                const auto basis =
                    basis_at(unit(direction_at(middle_of(face, x, y, light.size()))));
                const double angle = texel_solid_angle(x, y, light.size());
                for (std::size_t i = 0; i < 9; ++i)
                    for (std::size_t c = 0; c < 3; ++c)
                        result.radiance[i][c] +=
                            basis[i] * angle * static_cast<double>(light.texel(face, x, y)[c]);
            }
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> prefilter_diffuse(const Texture& cube, std::uint32_t face_size,
                                  const Progress& told) try {
    YL_CHECK(check_texture(cube, "cube"));
    YL_CHECK(check_light_source(cube));
    YL_TRY(Texture result, Texture::create({.format = cube.shape().format,
                                            .width = face_size,
                                            .height = face_size,
                                            .layers = cube.shape().layers,
                                            .faces = 6,
                                            .is_array = cube.shape().is_array}));
    result.metadata = cube.metadata;
    ProgressCounter progress(told, Phase::prefiltering,
                             std::uint64_t{6} * face_size * cube.shape().layers);
    for (std::uint32_t layer = 0; layer < cube.shape().layers; ++layer) {
        const LightChain chain(cube, layer);
        const auto emitters = emitters_of(chain.for_size(max_source));
        LightCube matt(face_size);
        parallel_each(std::size_t{6} * face_size, [&](std::size_t row) {
            if (progress.cancelled())
                return;
            const std::size_t face = row / face_size;
            const auto y = static_cast<std::uint32_t>(row % face_size);
            for (std::uint32_t x = 0; x < face_size; ++x) {
                const Direction n = unit(direction_at(middle_of(face, x, y, face_size)));
                const auto nx = static_cast<float>(n[0]), ny = static_cast<float>(n[1]),
                           nz = static_cast<float>(n[2]);
                float sum[3] = {};
                for (const Emitter& from : emitters) {
                    const float cosine = std::max(nx * from.x + ny * from.y + nz * from.z, 0.0F);
                    sum[0] += cosine * from.red;
                    sum[1] += cosine * from.green;
                    sum[2] += cosine * from.blue;
                }
                for (int c = 0; c < 3; ++c)
                    matt.texel(face, x, y)[c] = sum[c] / std::numbers::pi_v<float>;
                matt.texel(face, x, y)[3] = 1;
            }
            progress.add(1);
        });
        matt.store(result, 0, layer, working_format_of(result));
    }
    YL_CHECK(progress.finish());
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::string harmonics_text(const SphericalHarmonics& harmonics) {
    std::string text;
    for (const auto& triple : harmonics.radiance)
        text += fmt::format("{}{:.8g} {:.8g} {:.8g}", text.empty() ? "" : "; ", triple[0],
                            triple[1], triple[2]);
    return text;
}

std::optional<SphericalHarmonics> parse_harmonics(std::string_view text) {
    SphericalHarmonics result;
    const char* at = text.data();
    const char* end = at + text.size();
    for (auto& triple : result.radiance)
        for (double& value : triple) {
            while (at < end && (*at == ' ' || *at == ';'))
                ++at;
            const auto [next, error] = number_from_chars(at, end, value);
            if (error != std::errc{})
                return std::nullopt;
            at = next;
        }
    return at == end ? std::optional(result) : std::nullopt;
}

}  // namespace yl
