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
    // A quarter of one channel: by its share of the brightness.
    const double shares[] = {0.25, 0.6, 0.15};
    for (std::size_t c = 0; c < 3; ++c)
        for (const bool at_right : {false, true})
            for (const bool at_bottom : {false, true}) {
                CAPTURE(c);
                const auto quarter = [&](double u, double v) {
                    Color color{0, 0, 0, 1};
                    color[c] = (u > 0.5) == at_right && (v > 0.5) == at_bottom ? 1 : 0;
                    return color;
                };
                const Texture one = of_one_level(painted(128, 64, quarter));
                const Evidence patch = expect(
                    must(lint(one, {.role = Role::color, .sampler = Sampler{}})), "repeat-shows");
                CHECK(patch.measured == doctest::Approx(shares[c] * std::sqrt(0.25 * 0.75)));
            }
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

TEST_CASE("alpha that cuts out is steep, alpha that blends is soft, and both are clean") {
    const auto with_hole = [](double softness, double clear, double opaque) {
        return of_one_level(painted(128, 128, [=](double u, double v) {
            Color color = stone(u, v);
            const double far = std::hypot(u - 0.5, v - 0.5);
            color[3] =
                clear + (opaque - clear) * std::clamp((0.35 - far) / softness + 0.5, 0.0, 1.0);
            return color;
        }));
    };
    const auto codes = [](const Texture& texture, std::optional<AlphaUse> use = {}) {
        return codes_of(must(lint(texture, {.role = Role::color, .alpha_use = use})));
    };
    const Texture crisp = with_hole(0.02, 0, 1), soft = with_hole(0.5, 0, 1);
    for (const auto use : {AlphaUse::mask, AlphaUse::opaque})
        for (const char* code : {"cutout-soft", "cutout-blended", "cutout-not-clean"})
            CHECK_FALSE(codes(crisp, use).contains(code));
    CHECK_FALSE(codes(soft, AlphaUse::blend).contains("cutout-blended"));
    CHECK_FALSE(codes(soft).contains("cutout-soft"));  // nobody says that it cuts out
    const Evidence in_mask =
        expect(must(lint(soft, {.role = Role::color, .alpha_use = AlphaUse::mask})), "cutout-soft");
    CHECK(in_mask.measured > 0.5);
    CHECK(in_mask.finding.level == FindingLevel::warning);
    const Texture hard = with_hole(0.0001, 0, 1);
    const Evidence in_blend = expect(
        must(lint(hard, {.role = Role::color, .alpha_use = AlphaUse::blend})), "cutout-blended");
    CHECK(in_blend.measured < 0.005);
    for (const Texture& unclean : {with_hole(0.0001, 0.02, 1), with_hole(0.0001, 0, 0.96)})
        CHECK(expect(must(lint(unclean, {.role = Role::color})), "cutout-not-clean").measured >
              0.3);
}

TEST_CASE("roughness makes up for the grain of its normals, or is said not to") {
    constexpr std::uint32_t side = 128;
    const auto normal_at = [](double u, double v) {
        const double x = 1.5 * (noise(u, v) - 0.5), y = 1.5 * (noise(u, v, 7) - 0.5);
        const double length = std::sqrt(x * x + y * y + 1);
        return Color{0.5 + 0.5 * x / length, 0.5 + 0.5 * y / length, 0.5 + 0.5 / length, 1};
    };
    const auto picture_of = [](const Paint& paint, Format format) {
        Picture picture{.image = painted(side, side, paint, format)};
        picture.transfer = Transfer::linear;
        return picture;
    };
    const auto rough_at = [](double u, double v) {
        const double value = 0.3 + 0.1 * noise(u, v, 3);
        return Color{value, value, value, 1};
    };
    const Texture normals =
        with_levels(painted(side, side, normal_at, Format::rgba8_unorm), Role::normal);
    const Texture blocks = must(encode_texture(normals, Format::bc5_unorm, {.role = Role::normal}));
    BakeOptions options{.role = Role::data};
    const Picture roughness = picture_of(rough_at, Format::r8_unorm);
    const Texture plain = must(bake(roughness, options)).texture;
    options.normals = std::make_shared<const Picture>(picture_of(normal_at, Format::rgba8_unorm));
    const Texture widened = must(bake(roughness, options)).texture;
    const auto looked_at = [](const Texture& texture, const Texture& beside) {
        return must(
            lint(texture,
                 {.role = Role::data, .packed = {.roughness = Channel::red}, .normals = &beside}));
    };
    for (const Texture* beside : {&normals, &blocks}) {
        const Evidence found = expect(looked_at(plain, *beside), "roughness-not-widened");
        CHECK(found.measured < 0.1);
        CHECK(found.place == "level 3");
        CHECK(find(looked_at(widened, *beside), "roughness-not-widened") == nullptr);
    }
    // Normals without grain ask for nothing, and those of another size are of another surface.
    const Texture even = with_levels(painted(
                                         side, side,
                                         [](double, double) {
                                             return Color{0.5, 0.5, 1, 1};
                                         },
                                         Format::rgba8_unorm),
                                     Role::normal);
    CHECK(find(looked_at(plain, even), "roughness-not-widened") == nullptr);
    const Texture small =
        with_levels(painted(64, 64, normal_at, Format::rgba8_unorm), Role::normal);
    CHECK(find(looked_at(plain, small), "roughness-not-widened") == nullptr);
}

TEST_CASE("skies beside each other: turned, mirrored, and as they should be") {
    const Texture sky = support::cube_of(support::wavy_sky, 64);
    const auto seen_by = [](const std::function<Direction(const Direction&)>& turn) {
        return support::cube_of([turn](const Direction& d) { return support::wavy_sky(turn(d)); },
                                64);
    };
    const LintTraits traits = must(lint_traits(sky));
    CHECK(traits.edges.empty());
    CHECK_FALSE(compare_traits(traits, traits, "itself"));
    const Texture matte = must(prefilter_diffuse(sky)), blurred = must(prefilter_specular(sky));
    for (const Texture* of_it : {&matte, &blurred}) {
        CHECK_FALSE(compare_traits(must(lint_traits(*of_it)), traits, "sky.ktx2"));
        CHECK_FALSE(compare_traits(traits, must(lint_traits(*of_it)), "sky.ktx2"));
    }
    const Texture quarter = seen_by([](const Direction& d) {
        return Direction{d[2], d[1], -d[0]};
    });
    const Texture mirrored = seen_by([](const Direction& d) {
        return Direction{-d[0], d[1], d[2]};
    });
    const Texture* others[] = {&quarter, &mirrored};
    for (const Texture* other : others) {
        const std::string word = other == &quarter ? "turned" : "mirrored";
        CAPTURE(word);
        for (const bool is_matte : {false, true}) {
            const Texture one = is_matte ? must(prefilter_diffuse(*other)) : must(other->clone());
            const auto found = compare_traits(must(lint_traits(one)), traits, "sky.ktx2");
            REQUIRE(found);
            CHECK(std::string_view(found->finding.code) == "sky-turned-among-siblings");
            CHECK(contains(found->finding.problem, word));
            CHECK(contains(found->finding.problem, "sky.ktx2"));
            CHECK(found->measured > found->limit);
        }
    }
    // Another sky, and an even one, have nothing to say.
    const Texture other = support::cube_of(support::clear_sky, 64);
    CHECK_FALSE(compare_traits(must(lint_traits(other)), traits, "sky.ktx2"));
    // In blocks, of several layers, and without texels.
    const Texture in_blocks = must(encode_texture(quarter, Format::bc6h_ufloat));
    CHECK(compare_traits(must(lint_traits(in_blocks)), traits, "sky.ktx2"));
    CHECK(lint_traits(Texture{}).error().kind == ErrorKind::usage);
}
