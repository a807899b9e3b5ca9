// Chains without seams, and light gathered from cubes, against integrals over all texels.
#include <numbers>
#include <yl/yl.hpp>

#include "cube/sun.hpp"
#include "dawn.hpp"
#include "support/check.hpp"
#include "support/pictures.hpp"
#include "support/skies.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::pixel_at;

namespace {

using std::numbers::pi;

Texture dawn_cube(std::uint32_t size) {
    return support::cube_of(glasshouse::dawn_light, size);
}

/// Each texel the mean of 16, so that the sun is neither missed nor met too often.
Texture finely_sampled_dawn(std::uint32_t size) {
    return support::cube_of(
        [size](const Direction& direction) {
            const FacePoint middle = face_point(direction);
            std::array<double, 3> sum{};
            for (int i = 0; i < 16; ++i) {
                const auto light = glasshouse::dawn_light(
                    direction_at({middle.face, middle.s + (i % 4 - 1.5) / (4.0 * size),
                                  middle.t + (i / 4 - 1.5) / (4.0 * size)}));
                for (std::size_t c = 0; c < 3; ++c)
                    sum[c] += light[c] / 16;
            }
            return sum;
        },
        size);
}

Texture with_levels(const Texture& cube) {
    TextureShape shape = cube.shape();
    shape.levels = full_level_count(shape.width, shape.height);
    Texture chain = must(Texture::create(shape));
    chain.metadata = cube.metadata;
    std::copy(cube.level(0).begin(), cube.level(0).end(), chain.level(0).begin());
    return chain;
}

/// The sum of `weight(direction)` times the light over the whole sphere, and of the weights.
template <class Weight>
std::array<double, 4> integral(const Texture& cube, const Weight& weight, std::uint32_t level = 0) {
    std::array<double, 4> sum{};
    const std::uint32_t size = cube.shape().width_at(level);
    for (std::uint32_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < size; ++y)
            for (std::uint32_t x = 0; x < size; ++x) {
                const Direction d = support::unit(
                    direction_at({all_cube_faces[face], (x + 0.5) / size, (y + 0.5) / size}));
                const double w = weight(d) * texel_solid_angle(x, y, size);
                for (std::size_t c = 0; c < 3; ++c)
                    sum[c] +=
                        w * static_cast<double>(pixel_at(cube.image(level, 0, face), x, y)[c]);
                sum[3] += w;
            }
    return sum;
}

double dot(const Direction& a, const Direction& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

}  // namespace

TEST_CASE("chains: steps across edges are no greater than those within faces") {
    for (const auto& [name, cube] :
         {std::pair{std::string("dawn"), dawn_cube(64)},
          std::pair{std::string("wavy"), support::cube_of(support::wavy_sky, 64)}}) {
        Texture seamless = with_levels(cube), plain = with_levels(cube);
        must(build_cube_mips(seamless));
        must(build_mips(plain));
        for (std::uint32_t level = 1; level < seamless.shape().levels; ++level) {
            const CubeSeams ours = must(measure_cube_seams(seamless, level));
            const CubeSeams each_face = must(measure_cube_seams(plain, level));
            MESSAGE(name << " level " << level << ": across " << ours.max_across << ", within "
                         << ours.max_within << "; face by face " << each_face.max_across << ", "
                         << each_face.max_within);
            CHECK(ours.max_across <= ours.max_within + 1e-6);
        }
    }
}

TEST_CASE("chains keep the mean of the sphere, and constants to the last bit that is stored") {
    Texture chain = with_levels(support::cube_of(support::wavy_sky, 32));
    must(build_cube_mips(chain));
    const auto mean = integral(chain, [](const Direction&) { return 1; });
    for (std::uint32_t level = 1; level < chain.shape().levels; ++level) {
        const auto smaller = integral(
            chain, [](const Direction&) { return 1; }, level);
        for (std::size_t c = 0; c < 3; ++c)
            CHECK(smaller[c] / smaller[3] == doctest::Approx(mean[c] / mean[3]).epsilon(0.004));
    }
    Texture gray = must(Texture::create(
        {.format = Format::rgba8_srgb, .width = 20, .height = 20, .levels = 5, .faces = 6}));
    std::fill(gray.level(0).begin(), gray.level(0).end(), std::byte{77});
    for (const char* kernel : {"box", "triangle", "kaiser:3"})
        for (const bool joined : {false, true}) {
            must(build_cube_mips(gray,
                                 {.kernel = must(parse_kernel(kernel)), .joined_edges = joined}));
            for (std::uint32_t level = 1; level < 5; ++level)
                for (const std::byte byte : gray.level(level))
                    CHECK(byte == std::byte{77});
        }
}

TEST_CASE("joined edges: texels that meet are equal, for devices without seamless filtering") {
    Texture chain = with_levels(support::cube_of(support::wavy_sky, 16));
    must(build_cube_mips(chain, {.joined_edges = true}));
    for (std::uint32_t level = 1; level < chain.shape().levels; ++level)
        CHECK(must(measure_cube_seams(chain, level)).max_across < 1e-6);
}

TEST_CASE("given levels of a cube stay") {
    Texture chain = with_levels(support::cube_of(support::wavy_sky, 16));
    std::fill(chain.level(2).begin(), chain.level(2).end(), std::byte{0});
    must(build_cube_mips(chain, {.given_levels = 0b101}));
    for (const std::byte byte : chain.level(2))
        CHECK(byte == std::byte{0});
    CHECK(pixel_at(chain.image(3, 0, 0), 0, 0)[0] == 0);
    CHECK(pixel_at(chain.image(1, 0, 0), 0, 0)[0] > 0);
    Texture flat = must(Texture::create({.format = Format::rgba8_unorm, .width = 4, .height = 4}));
    CHECK(must_fail(build_cube_mips(flat)).kind == ErrorKind::usage);
}

TEST_CASE("harmonics give the light on matt surfaces") {
    // Of light that is itself of order 2 at most they are exact.
    const auto smooth = [](const Direction& direction) {
        const Direction d = support::unit(direction);
        return std::array{1 + 0.5 * d[1], 1 - 0.3 * d[0] + 0.2 * d[2], 1 + 0.4 * d[0] * d[2]};
    };
    const Texture cube = support::cube_of(smooth, 64);
    const SphericalHarmonics harmonics = must(project_to_harmonics(cube));
    support::Random random(5);
    std::uniform_real_distribution<double> any(-1, 1);
    for (int i = 0; i < 20; ++i) {
        const Direction n = support::unit({any(random), any(random), any(random)});
        const auto reflected = harmonics.reflected(n);
        const auto brute =
            integral(cube, [&](const Direction& d) { return std::max(dot(n, d), 0.0) / pi; });
        for (std::size_t c = 0; c < 3; ++c)
            CHECK(reflected[c] == doctest::Approx(brute[c]).epsilon(0.001));
    }
    const auto parsed = parse_harmonics(harmonics_text(harmonics));
    REQUIRE(parsed.has_value());
    for (std::size_t i = 0; i < 9; ++i)
        for (std::size_t c = 0; c < 3; ++c)
            CHECK(parsed->radiance[i][c] == doctest::Approx(harmonics.radiance[i][c]));
    CHECK_FALSE(parse_harmonics("1 2 3").has_value());
}

TEST_CASE(
    "the dawn's light on matt surfaces: harmonics and the small cube, by the whole integral") {
    const Texture cube = finely_sampled_dawn(64);
    const SphericalHarmonics harmonics = must(project_to_harmonics(cube));
    const Texture matt = must(prefilter_diffuse(cube, 8));
    double harmonics_error = 0, cube_error = 0, sum = 0;
    for (std::uint32_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < 8; ++y)
            for (std::uint32_t x = 0; x < 8; ++x) {
                const Direction n = support::unit(
                    direction_at({all_cube_faces[face], (x + 0.5) / 8, (y + 0.5) / 8}));
                const auto brute = integral(
                    cube, [&](const Direction& d) { return std::max(dot(n, d), 0.0) / pi; });
                const auto reflected = harmonics.reflected(n);
                for (std::size_t c = 0; c < 3; ++c) {
                    harmonics_error += std::abs(reflected[c] - brute[c]);
                    cube_error += std::abs(
                        static_cast<double>(pixel_at(matt.image(0, 0, face), x, y)[c]) - brute[c]);
                    sum += brute[c];
                }
            }
    MESSAGE("harmonics off by " << 100 * harmonics_error / sum << " %, the cube by "
                                << 100 * cube_error / sum << " %");
    CHECK(harmonics_error / sum < 0.03);
    CHECK(cube_error / sum < 0.001);
}

TEST_CASE("rough reflections against the whole integral of the lobe") {
    for (const auto& [name, cube] :
         {std::pair{std::string("wavy"), support::cube_of(support::wavy_sky, 32)},
          std::pair{std::string("dawn"), dawn_cube(32)}}) {
        const Texture chain = must(prefilter_specular(
            cube,
            {.face_size = 16, .levels = 4, .samples = 1024, .roughness = {0, 0.4F, 0.7F, 1}}));
        const std::vector<float> roughness = roughness_of_levels(chain);
        REQUIRE(roughness.size() == 4);
        for (std::uint32_t level = 1; level < 4; ++level) {
            const double alpha = std::pow(static_cast<double>(roughness[level]), 2);
            const std::uint32_t size = chain.shape().width_at(level);
            double error = 0, sum = 0;
            for (std::uint32_t face = 0; face < 6; ++face)
                for (std::uint32_t y = 0; y < size; ++y)
                    for (std::uint32_t x = 0; x < size; ++x) {
                        const Direction n = support::unit(direction_at(
                            {all_cube_faces[face], (x + 0.5) / size, (y + 0.5) / size}));
                        // Directions of light around n, by the density of half vectors between.
                        const auto whole = integral(cube, [&](const Direction& d) {
                            const double z = dot(n, d);
                            if (z <= 0)
                                return 0.0;
                            const double half_square = (1 + z) / 2;
                            const double below = half_square * (alpha * alpha - 1) + 1;
                            return alpha * alpha / (below * below) * z;
                        });
                        for (std::size_t c = 0; c < 3; ++c) {
                            const double wanted = whole[c] / whole[3];
                            error += std::abs(static_cast<double>(
                                                  pixel_at(chain.image(level, 0, face), x, y)[c]) -
                                              wanted);
                            sum += wanted;
                        }
                    }
            MESSAGE(name << " roughness " << roughness[level] << ": off by " << 100 * error / sum
                         << " %");
            CHECK(error / sum < 0.02);
        }
    }
}

TEST_CASE("prefiltering says what it cannot do") {
    const Texture cube = support::cube_of(support::clear_sky, 8);
    CHECK(contains(must_fail(prefilter_specular(cube, {.levels = 9})).message, "1 to 4"));
    CHECK(contains(must_fail(prefilter_specular(cube, {.levels = 2, .roughness = {0.5F}})).message,
                   "2 numbers"));
    CHECK(must_fail(prefilter_specular(cube, {.samples = 0})).kind == ErrorKind::usage);
    CHECK(must_fail(prefilter_specular(cube, {.levels = 1, .roughness = {2}})).kind ==
          ErrorKind::usage);
    const Texture flat =
        must(Texture::create({.format = Format::rgba16_float, .width = 4, .height = 4}));
    CHECK(must_fail(prefilter_diffuse(flat)).kind == ErrorKind::usage);
    CHECK(must_fail(project_to_harmonics(flat)).kind == ErrorKind::usage);
    // A mirror is the source itself.
    const Texture mirror = must(prefilter_specular(cube, {.levels = 1}));
    for (std::uint32_t face = 0; face < 6; ++face)
        CHECK(support::equal_pixels(mirror.image(0, 0, face), cube.image(0, 0, face)));
}

TEST_CASE("suns taken out of a sky: at most one texel in 64, and no light is lost") {
    constexpr std::uint32_t size = 16;
    constexpr std::size_t most = 6 * size * size / 64;
    for (const std::size_t count : {0UL, 1UL, most - 1, most, most + 1, 2 * most}) {
        CAPTURE(count);
        LightCube sky(size);
        // On all faces, each sun of another strength; every 7th texel, so that none stand together.
        std::size_t number = 0;
        for (std::size_t at = 0; at < 6 * size * size; ++at) {
            float* texel = sky.texel(at / (size * size), at % size, at / size % size);
            const bool is_sun = at % 7 == 3 && number < count;
            const float light = is_sun ? 100 + static_cast<float>(number++) : 0.1F;
            texel[0] = light, texel[1] = 0.5F * light, texel[2] = 0.25F * light, texel[3] = 1;
        }
        sky.fill_frames();
        const auto sum_of = [&] {
            double sum = 0;
            for (std::size_t face = 0; face < 6; ++face)
                for (std::uint32_t y = 0; y < size; ++y)
                    for (std::uint32_t x = 0; x < size; ++x)
                        sum += static_cast<double>(sky.texel(face, x, y)[0]) *
                               texel_solid_angle(x, y, size);
            return sum;
        };
        const double before = sum_of();
        const SunLight sun = SunLight::take_from(sky);
        const auto spots = sun.gathered_within(0.001);
        CHECK(spots.size() == std::min(count, most));
        CHECK(sun.empty() == (count == 0));
        double taken = 0;
        for (const SunSpot& spot : spots) {
            taken += static_cast<double>(spot.light[0]);
            CHECK(spot.light[1] == doctest::Approx(0.5F * spot.light[0]).epsilon(1e-4));
            CHECK(spot.x * spot.x + spot.y * spot.y + spot.z * spot.z ==
                  doctest::Approx(1).epsilon(1e-4));
        }
        CHECK(sum_of() + taken == doctest::Approx(before).epsilon(1e-4));
    }
}

TEST_CASE("a very bright sun: rough levels against the whole integral, at every texel looked at") {
    Texture sky = support::cube_of(support::wavy_sky, 64);
    // A sun of a texel and some glow, 30,000 times as bright as its sky.
    const FormatInfo& f = info(sky.shape().format);
    REQUIRE(f.is_float());
    Texture floats = must(texture_in_format(sky, Format::rgba32_float, Role::hdr));
    for (const auto& [x, y, light] : {std::tuple{40U, 11U, 30000.0F}, {41U, 11U, 6000.0F}}) {
        const std::array<float, 4> sun = {light, light * 0.9F, light * 0.7F, 1};
        std::memcpy(floats.image(0, 0, 2).row(y).data() + std::size_t{x} * 16, sun.data(), 16);
    }
    const Texture chain = must(prefilter_specular(
        floats, {.face_size = 64, .levels = 5, .roughness = {0, 0.25F, 0.5F, 0.75F, 1}}));
    for (std::uint32_t level = 1; level < 5; ++level) {
        const double alpha = std::pow(static_cast<double>(roughness_of_levels(chain)[level]), 2);
        const std::uint32_t size = chain.shape().width_at(level);
        double error = 0, sum = 0, worst = 0;
        for (std::uint32_t place = 3; place < 6 * size * size; place += std::max(size, 7U)) {
            const std::uint32_t face = place / (size * size);
            const std::uint32_t x = place % size, y = place / size % size;
            const Direction n = support::unit(
                direction_at({all_cube_faces[face], (x + 0.5) / size, (y + 0.5) / size}));
            const auto whole = integral(floats, [&](const Direction& d) {
                const double z = dot(n, d);
                if (z <= 0)
                    return 0.0;
                const double below = (1 + z) / 2 * (alpha * alpha - 1) + 1;
                return alpha * alpha / (below * below) * z;
            });
            const double wanted = whole[1] / whole[3];
            const double found =
                static_cast<double>(pixel_at(chain.image(level, 0, face), x, y)[1]);
            error += std::abs(found - wanted);
            sum += wanted;
            worst = std::max(worst, std::abs(found - wanted) / wanted);
        }
        CAPTURE(level);
        MESSAGE("alpha " << alpha << ": mean " << 100 * error / sum << " %, worst " << 100 * worst
                         << " %");
        CHECK(error / sum < 0.01);
        CHECK(worst < 0.05);
    }
}

TEST_CASE("the table of split sums is the integral of the lobe, and states its mapping") {
    // By half vectors on a fine grid over the sphere, without importance.
    const auto integrated = [](double n_v, double roughness) {
        const double alpha = roughness * roughness, a2 = alpha * alpha;
        const double vx = std::sqrt(1 - n_v * n_v);
        double scale = 0, bias = 0;
        constexpr int tilts = 4000, azimuths = 400;
        for (int i = 0; i < tilts; ++i) {
            // Denser where the lobe is: tilt = q^3 of a right angle.
            const double q = (i + 0.5) / tilts;
            const double tilt = std::numbers::pi / 2 * q * q * q;
            const double step = std::numbers::pi / 2 * 3 * q * q / tilts;
            const double c = std::cos(tilt), s = std::sin(tilt);
            const double d = a2 / (std::numbers::pi * std::pow(c * c * (a2 - 1) + 1, 2));
            for (int j = 0; j < azimuths; ++j) {
                const double azimuth = 2 * std::numbers::pi * (j + 0.5) / azimuths;
                const double v_h = vx * s * std::cos(azimuth) + n_v * c;
                const double n_l = 2 * v_h * c - n_v;
                if (n_l <= 0 || v_h <= 0)
                    continue;
                const double visible = 0.5 / (n_l * std::sqrt(n_v * n_v * (1 - a2) + a2) +
                                              n_v * std::sqrt(n_l * n_l * (1 - a2) + a2));
                // The solid angle of light is 4 (v.h) times that of half vectors.
                const double weight =
                    d * visible * n_l * 4 * v_h * s * step * 2 * std::numbers::pi / azimuths;
                const double fresnel = std::pow(1 - v_h, 5);
                scale += (1 - fresnel) * weight;
                bias += fresnel * weight;
            }
        }
        return ScaleAndBias{scale, bias};
    };
    for (const double n_v : {0.05, 0.3, 0.7, 1.0})
        for (const double roughness : {0.15, 0.4, 0.7, 1.0}) {
            CAPTURE(n_v);
            CAPTURE(roughness);
            const ScaleAndBias found = split_sum(n_v, roughness),
                               wanted = integrated(n_v, roughness);
            CHECK(std::abs(found.scale - wanted.scale) < 0.005);
            CHECK(std::abs(found.bias - wanted.bias) < 0.005);
        }
    for (const Format format : {Format::rg16_float, Format::rg16_unorm}) {
        const Texture table = must(split_sum_table(16, format));
        const Image texels = must(
            convert(table.image(0), Format::rgba32_float, {.source_transfer = Transfer::linear}));
        float values[2] = {};
        std::memcpy(values, texels.view().row(4).data() + 16 * 9, 8);
        const ScaleAndBias wanted = split_sum(9.5 / 16, 4.5 / 16);
        CHECK(static_cast<double>(values[0]) == doctest::Approx(wanted.scale).epsilon(0.001));
        CHECK(static_cast<double>(values[1]) == doctest::Approx(wanted.bias).epsilon(0.01));
        CHECK(support::contains(table.metadata.key_values.at(split_sum_note), "v = roughness"));
    }
    CHECK(support::must_fail(split_sum_table(16, Format::rgba8_unorm)).kind == ErrorKind::usage);
}

TEST_CASE("later layers are lit by their own sky") {
    const Texture first = support::cube_of(support::wavy_sky, 16, Format::rgba32_float);
    Texture both = must(Texture::create({.format = Format::rgba32_float,
                                         .width = 16,
                                         .height = 16,
                                         .layers = 2,
                                         .faces = 6,
                                         .is_array = true}));
    const std::size_t half = first.level(0).size();
    std::ranges::copy(first.level(0), both.level(0).begin());
    // The other layer: the same faces, one further each.
    Texture second = must(first.clone());
    std::rotate(second.level(0).begin(),
                second.level(0).begin() + static_cast<std::ptrdiff_t>(half / 6),
                second.level(0).end());
    std::ranges::copy(second.level(0), both.level(0).begin() + static_cast<std::ptrdiff_t>(half));
    const SpecularOptions options{.face_size = 8, .samples = 32};
    const auto is_second = [](const Texture& of_both, const Texture& alone) {
        for (std::uint32_t level = 0; level < alone.shape().levels; ++level)
            for (std::uint32_t face = 0; face < 6; ++face) {
                const auto a = of_both.image(level, 1, face), b = alone.image(level, 0, face);
                for (std::uint32_t y = 0; y < a.height; ++y)
                    if (!std::ranges::equal(a.row(y), b.row(y)))
                        return false;
            }
        return true;
    };
    CHECK(is_second(must(prefilter_specular(both, options)),
                    must(prefilter_specular(second, options))));
    CHECK(is_second(must(prefilter_diffuse(both, 8)), must(prefilter_diffuse(second, 8))));
    CHECK(must(project_to_harmonics(both, 1)).radiance ==
          must(project_to_harmonics(second)).radiance);
    CHECK(must(project_to_harmonics(both, 0)).radiance ==
          must(project_to_harmonics(first)).radiance);
    CHECK(must_fail(project_to_harmonics(both, 2)).kind == ErrorKind::usage);
}
