// Findings that need to know how a texture is used: packed channels, prefiltered cubes, the format that
// it is to be stored in, repetition.
#include "lint/subjects.hpp"
#include "support/skies.hpp"

using namespace yl;
using namespace lint_subjects;
using support::contains;

namespace {

/// Occlusion, roughness and metalness, in this order; `between` is what metal is where it is not 1.
Color packed_at(double u, double v, double between = 0) {
    const double metal = std::sin(9 * u) * std::cos(7 * v) > 0.2 ? 1 : between;
    return {0.8 + 0.2 * noise(u, v), 0.3 + 0.5 * noise(u, v, 1), metal, 1};
}

constexpr PackedChannels gltf = {
    .occlusion = Channel::red, .roughness = Channel::green, .metalness = Channel::blue};

LintReport packed(const Paint& paint) {
    return must(lint(of_one_level(painted(128, 128, paint, Format::rgba8_unorm)),
                     {.role = Role::data, .packed = gltf}));
}

/// A soft sky, and leaves of grain on it where it is `lively`.
Color sky_at(double u, double v, bool lively) {
    const double up = 0.3 + 0.5 * v + 0.002 * u;
    const double grain = lively ? 0.3 * (noise(u, v) - 0.5) : 0;
    return {up + grain, up + 0.1 + grain, up + 0.2 + 0.5 * grain, 1};
}

}  // namespace

TEST_CASE("metalness is 0 or 1, and in its channel") {
    CHECK(codes_of(packed([](double u, double v) { return packed_at(u, v); }), false).empty());
    const Evidence between = expect(packed([](double u, double v) { return packed_at(u, v, 0.5); }),
                                    "metalness-between");
    CHECK(between.measured > between.limit);
    const auto swapped = packed([](double u, double v) {
        const Color right = packed_at(u, v);
        return Color{right[0], right[2], right[1], 1};
    });
    CHECK(contains(expect(swapped, "channels-swapped").finding.problem, "green"));
    CHECK_FALSE(codes_of(swapped).contains("metalness-between"));
    // Nobody says what these channels hold.
    CHECK_FALSE(codes_of(must(lint(of_one_level(painted(
                             128, 128, [](double u, double v) { return packed_at(u, v, 0.5); },
                             Format::rgba8_unorm)))))
                    .contains("metalness-between"));
}

TEST_CASE("normals whose grain the levels average away") {
    const auto map = [](double grain) {
        return of_one_level(painted(
            64, 64,
            [=](double u, double v) {
                const double x = grain * (noise(u, v) - 0.5), y = grain * (noise(u, v, 7) - 0.5);
                const double length = std::sqrt(x * x + y * y + 1);
                return Color{0.5 + 0.5 * x / length, 0.5 + 0.5 * y / length, 0.5 + 0.5 / length, 1};
            },
            Format::rgba8_unorm));
    };
    const Evidence found = expect(must(lint(map(1.5), {.role = Role::normal})), "normals-grainy");
    CHECK(found.finding.level == FindingLevel::hint);
    CHECK(found.measured < 0.96);
    CHECK_FALSE(codes_of(must(lint(map(0.2), {.role = Role::normal}))).contains("normals-grainy"));
}

TEST_CASE("directions in two channels are taken for normals, other numbers are not") {
    const auto two = [](const Paint& paint) {
        return must(lint(of_one_level(painted(64, 64, paint, Format::rg8_unorm)))).role;
    };
    CHECK(two([](double u, double v) { return hills(u, v); }) == Role::normal);
    CHECK(two([](double u, double v) { return hills(u, v, -1); }) == Role::normal);
    CHECK(two([](double u, double v) {
              return Color{noise(u, v), noise(u, v, 3), 0, 1};
          }) == Role::data);
    CHECK(two([](double u, double v) { return Color{u, v, 0, 1}; }) == Role::data);
}

TEST_CASE("a block format that is too weak is named, with one that is not") {
    const auto report = [](const Paint& paint, Format format, std::optional<Role> role = {},
                           Format stored = Format::rgba8_srgb) {
        return must(
            lint(of_one_level(painted(128, 128, paint, stored)), {.role = role, .format = format}));
    };
    const auto soft = [](double u, double v) { return sky_at(u, v, false); };
    const auto lively = [](double u, double v) { return sky_at(u, v, true); };
    const Evidence bands = expect(report(soft, Format::bc1_srgb), "format-too-weak");
    CHECK(contains(bands.finding.problem, "gradients"));
    CHECK(contains(bands.finding.remedy, "bc7-srgb"));
    CHECK(bands.measured > bands.limit);
    CHECK_FALSE(codes_of(report(soft, Format::bc7_srgb)).contains("format-too-weak"));
    CHECK_FALSE(codes_of(report(lively, Format::bc7_srgb)).contains("format-too-weak"));
    const auto slopes = [](double u, double v) { return hills(1.4 * u, 1.4 * v); };
    const Evidence bumps = expect(
        report(slopes, Format::bc1_unorm, Role::normal, Format::rgba8_unorm), "format-too-weak");
    CHECK(contains(bumps.finding.problem, "degrees"));
    CHECK(contains(bumps.finding.remedy, "bc5-unorm"));
    CHECK_FALSE(codes_of(report(slopes, Format::bc5_unorm, Role::normal, Format::rgba8_unorm))
                    .contains("format-too-weak"));
    const auto veiled = [](double u, double v) {
        Color color = stone(u, v);
        color[3] = 0.5 + 0.5 * std::sin(12 * u);
        return color;
    };
    CHECK(contains(expect(report(veiled, Format::bc1a_srgb), "format-too-weak").finding.problem,
                   "alpha"));
    CHECK_FALSE(codes_of(report(veiled, Format::bc3_srgb)).contains("format-too-weak"));
}

TEST_CASE("large patches of a texture that repeats are hinted at") {
    const auto patchy = [](double u, double v) {
        const double large = u < 0.5 && v < 0.5 ? 0.25 : 0;
        const double grain = 0.1 * noise(u, v);
        return Color{0.4 + large + grain, 0.4 + large + grain, 0.35 + large + grain, 1};
    };
    const Texture texture = of_one_level(painted(128, 128, patchy));
    const Evidence found = expect(must(lint(texture, {.sampler = Sampler{}})), "repeat-shows");
    CHECK(found.finding.level == FindingLevel::hint);
    Sampler clamps;
    clamps.wrap = {Wrap::clamp_to_edge, Wrap::clamp_to_edge, Wrap::clamp_to_edge};
    CHECK_FALSE(codes_of(must(lint(texture, {.sampler = clamps}))).contains("repeat-shows"));
    const Texture even = of_one_level(painted(128, 128, stone));
    CHECK_FALSE(codes_of(must(lint(even, {.sampler = Sampler{}}))).contains("repeat-shows"));
}

TEST_CASE("prefiltered levels that are only smaller") {
    // Bricks of light, as no blurred sky has them.
    const auto bricks = [](const Direction& d) {
        const double light =
            std::sin(40 * d[0]) * std::sin(37 * d[1]) * std::sin(43 * d[2]) > 0 ? 2 : 0.1;
        return std::array{light, light, light};
    };
    const Texture sky = support::cube_of(bricks, 64, Format::rgba16_float);
    const Texture filtered = must(prefilter_specular(sky));
    CHECK_FALSE(codes_of(must(lint(filtered))).contains("cube-levels-not-blurred"));
    Texture smaller = must(rebake(sky, {.new_levels = true})).texture;
    smaller.metadata.key_values = filtered.metadata.key_values;
    const Evidence found = expect(must(lint(smaller)), "cube-levels-not-blurred");
    CHECK(found.measured > found.limit);
}

TEST_CASE("blocks without detail are looked at again from their texels") {
    const auto soft = [](double u, double v) {
        const double wave = 0.5 + 0.3 * std::sin(12 * u) * std::cos(9 * v);
        return Color{wave, wave * 0.8, 0.3, 1};
    };
    const Texture plain = of_one_level(painted(512, 512, soft));
    const Texture blocks = must(encode_texture(plain, Format::bc7_srgb));
    CHECK(expect(must(lint(blocks)), "no-detail").finding.level == FindingLevel::hint);
}

TEST_CASE("levels have names, the worst first") {
    CHECK(name(FindingLevel::error) == "error");
    CHECK(name(FindingLevel::warning) == "warning");
    CHECK(name(FindingLevel::hint) == "hint");
    const Texture texture = with_levels(painted(64, 64, stone));
    TextureShape shape = texture.shape();
    shape.levels = 2;
    Texture two = must(Texture::create(shape));
    for (std::uint32_t level = 0; level < 2; ++level)
        std::ranges::copy(texture.level(level), two.level(level).begin());
    const LintReport report = must(lint(two, {.sampler = Sampler{}}));
    CHECK(expect(report, "incomplete-chain").finding.level == FindingLevel::error);
    CHECK(report.found[0].finding.code == "incomplete-chain");
}
