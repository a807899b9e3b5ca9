// Each finding on a texture that was made to have it, and on one that is sound.
#include "lint/subjects.hpp"
#include "lint/traits.hpp"
#include "support/skies.hpp"

using namespace yl;
using namespace lint_subjects;
using support::contains;

TEST_CASE("sound textures of every role have no warning") {
    const auto wavy = [](double u, double v) {
        return Color{0.5 + 0.3 * std::sin(30 * u + 9 * v), 0, 0, 1};
    };
    const std::pair<Texture, Role> sound[] = {
        {with_levels(painted(128, 128, stone)), Role::color},
        {with_levels(painted(96, 60, stone)), Role::color},
        {with_levels(
             painted(
                 128, 128, [](double u, double v) { return hills(u, v); }, Format::rgba8_unorm),
             Role::normal),
         Role::normal},
        {with_levels(painted(64, 64, wavy, Format::r8_unorm), Role::mask), Role::mask},
        {with_levels(painted(64, 64, stone, Format::rgba8_unorm), Role::data), Role::data}};
    for (const auto& one : sound) {
        const Texture& texture = one.first;
        const Role role = one.second;
        CAPTURE(info(role).name);
        const LintReport given = must(lint(texture, {.role = role}));
        CHECK(codes_of(given, false) == std::set<std::string>{});
        CHECK(given.role == role);
        CHECK(codes_of(must(lint(texture)), false) == std::set<std::string>{});
    }
    // Encoded in blocks they are as sound.
    for (const Format format :
         {Format::bc7_srgb, Format::bc1_srgb, Format::etc2_rgb8_srgb, Format::astc_6x6_srgb}) {
        CAPTURE(info(format).name);
        const Texture blocks = must(encode_texture(sound[0].first, format, {.effort = 0}));
        CHECK(codes_of(must(lint(blocks)), false) == std::set<std::string>{});
    }
}

TEST_CASE("levels made of sRGB codes are told from those of light, whatever the filter") {
    const auto stripes = [](double u, double v) {
        const double light = noise(u, v) < 0.5 ? 0.05 : 0.9;
        return Color{light, light * 0.9, light * 0.8, 1};
    };
    for (const Kernel& kernel :
         {Kernel{.kind = Kernel::Kind::box}, Kernel{.kind = Kernel::Kind::kaiser},
          Kernel{.kind = Kernel::Kind::lanczos}}) {
        CAPTURE(kernel_text(kernel));
        const Image image = painted(128, 128, stripes);
        Texture light = with_levels(image), codes = with_levels(image);
        must(build_mips(light, {.kernel = kernel}));
        // Averaged as if codes were numbers.
        Texture numbers = must(Texture::create({.format = Format::rgba8_unorm,
                                                .width = 128,
                                                .height = 128,
                                                .levels = codes.shape().levels}));
        std::ranges::copy(codes.level(0), numbers.level(0).begin());
        must(build_mips(numbers, {.kernel = kernel}));
        for (std::uint32_t level = 1; level < codes.shape().levels; ++level)
            std::ranges::copy(numbers.level(level), codes.level(level).begin());
        CHECK(find(must(lint(light)), "mips-in-gamma-space") == nullptr);
        const Evidence found = expect(must(lint(codes)), "mips-in-gamma-space");
        CHECK(std::abs(found.measured) < 0.2);
        CHECK(found.measured < found.limit);
    }
}

TEST_CASE("texels along the edges of cube faces are left out: they are means with the next face") {
    constexpr std::uint32_t side = 64;
    // A gentle slope but for a strip of black and white at one edge, whose mean of codes is in level 1.
    for (int edge = 0; edge < 4; ++edge)
        for (const std::uint32_t faces : {1U, 6U}) {
            Texture texture = must(Texture::create({.format = Format::rgba8_srgb,
                                                    .width = side,
                                                    .height = side,
                                                    .levels = 2,
                                                    .faces = faces}));
            for (std::uint32_t level = 0; level < 2; ++level)
                for (std::uint32_t face = 0; face < faces; ++face)
                    for (std::uint32_t y = 0; y < side >> level; ++y)
                        for (std::uint32_t x = 0; x < side >> level; ++x) {
                            const std::uint32_t last = (side >> level) - 1, width = 2U >> level;
                            const std::uint32_t away = std::array{
                                x, y, last - x, last - y}[static_cast<std::size_t>(edge)];
                            const bool is_strip = level == 0 && away < width;
                            const auto slope = static_cast<int>(64 + ((x + y) << level) + level);
                            const int code = is_strip ? 255 * static_cast<int>((x + y) % 2)
                                             : level == 1 && away < width ? 128
                                                                          : slope;
                            const auto texel =
                                texture.image(level, 0, face).row(y).subspan(4 * std::size_t{x}, 4);
                            std::ranges::fill(texel.first(3), static_cast<std::byte>(code));
                            texel[3] = std::byte{255};
                        }
            CAPTURE(edge);
            CAPTURE(faces);
            const LintReport given = must(lint(texture, {.role = Role::color}));
            CHECK((find(given, "mips-in-gamma-space") != nullptr) == (faces == 1));
        }
}

TEST_CASE("maps of edges are made of pictures that are large enough across and down") {
    struct Size {
        std::uint32_t width, height;
        bool is_enough;
    };
    for (const Size& size :
         {Size{48, 48, true}, {47, 90, false}, {90, 47, false}, {48, 90, true}, {90, 48, true}}) {
        CAPTURE(size.width);
        CAPTURE(size.height);
        const Image image = painted(size.width, size.height, stone);
        CHECK(lint_checks::edges_of(image.view()).empty() != size.is_enough);
    }
}

TEST_CASE("levels that are no versions of the one above") {
    Texture texture = with_levels(painted(64, 64, stone));
    SUBCASE("of one colour") {
        std::ranges::fill(texture.level(2), std::byte{0});
        const Evidence found = expect(must(lint(texture)), "level-uniform");
        CHECK(found.place == "level 2");
    }
    SUBCASE("another picture") {
        const Image other = painted(32, 32, [](double u, double v) {
            return Color{noise(u, v), u, v, 1};
        });
        copy_rows(other, texture.level(1));
        CHECK(expect(must(lint(texture)), "level-unrelated").place == "level 1");
    }
    SUBCASE("turned over") {
        const auto leaning = [](double u, double v) {
            Color color = stone(u, v);
            color[0] = 0.2 + 0.6 * v;
            return color;
        };
        texture = with_levels(painted(64, 64, leaning));
        const Texture flipped =
            with_levels(painted(64, 64, [&](double u, double v) { return leaning(u, 1 - v); }));
        std::ranges::copy(flipped.level(1), texture.level(1).begin());
        CHECK(expect(must(lint(texture)), "level-unrelated").measured > 0.04);
    }
    SUBCASE("in the second layer and the third face alone") {
        Texture cube = must(Texture::create({.format = Format::rgba8_srgb,
                                             .width = 64,
                                             .height = 64,
                                             .levels = texture.shape().levels,
                                             .layers = 2,
                                             .faces = 6,
                                             .is_array = true}));
        for (std::uint32_t level = 0; level < cube.shape().levels; ++level)
            for (std::size_t at = 0; at < cube.level(level).size();
                 at += texture.level(level).size())
                std::ranges::copy(texture.level(level),
                                  cube.level(level).begin() + static_cast<std::ptrdiff_t>(at));
        CHECK(codes_of(must(lint(cube)), false).empty());
        const std::size_t surface = texture.level(1).size();
        std::ranges::fill(cube.level(1).subspan(8 * surface, surface), std::byte{9});
        CHECK(expect(must(lint(cube)), "level-uniform").place == "layer 1, face +Y, level 1");
    }
}

TEST_CASE("cut-outs whose levels lose their coverage") {
    const auto fence = [](double u, double v) {
        const bool is_bar = std::fmod(u * 32, 1) < 0.3 || std::fmod(v * 32, 1) < 0.3;
        return Color{0.6, 0.5, 0.3, is_bar ? 1.0 : 0.0};
    };
    Texture kept = with_levels(painted(256, 256, fence));
    Texture lost = with_levels(painted(256, 256, fence));
    must(build_mips(lost, {.kernel = Kernel{.kind = Kernel::Kind::box}}));
    must(build_mips(kept, {.kernel = Kernel{.kind = Kernel::Kind::box}}));
    must(preserve_coverage(kept, 0.5F));
    const bool thins_out = find(must(lint(lost)), "coverage-lost") != nullptr;
    CHECK(thins_out == (coverage(lost.image(3), 0.5F) < 0.75 * coverage(lost.image(0), 0.5F)));
    CHECK(find(must(lint(kept)), "coverage-lost") == nullptr);
    // Bars of a third of a level's texels vanish for certain.
    const auto hairs = [](double u, double) {
        return Color{0.4, 0.4, 0.4, std::fmod(u * 64, 1) < 0.25 ? 1.0 : 0.0};
    };
    Texture thin = with_levels(painted(256, 256, hairs));
    must(build_mips(thin, {.kernel = Kernel{.kind = Kernel::Kind::box}}));
    CHECK(expect(must(lint(thin)), "coverage-lost").measured < 0.75);
}

TEST_CASE("which way green points is seen by the slopes") {
    const auto map = [](double green) {
        return of_one_level(painted(
            128, 96, [green](double u, double v) { return hills(u, v, green); },
            Format::rgba8_unorm));
    };
    CHECK(find(must(lint(map(1))), "green-inverted") == nullptr);
    const Evidence found = expect(must(lint(map(-1))), "green-inverted");
    CHECK(found.measured > 10);
    CHECK(must(lint(map(1))).role == Role::normal);
    // Two channels hold the same.
    const Texture two = must(encode_texture(map(-1), Format::bc5_unorm, {.effort = 0}));
    expect(must(lint(two, {.role = Role::normal})), "green-inverted");
    const Texture right = must(encode_texture(map(1), Format::bc5_unorm, {.effort = 0}));
    CHECK(find(must(lint(right, {.role = Role::normal})), "green-inverted") == nullptr);
}

TEST_CASE("normals in the wrong encoding, of the wrong length, or none at all") {
    const auto map = [](double length, Format format) {
        return of_one_level(painted(
            64, 64, [length](double u, double v) { return hills(u, v, 1, length); }, format));
    };
    expect(must(lint(map(1, Format::rgba8_srgb))), "normal-as-srgb");
    CHECK(find(must(lint(map(1, Format::rgba8_unorm))), "normal-as-srgb") == nullptr);
    CHECK(expect(must(lint(map(0.88, Format::rgba8_unorm), {.role = Role::normal})),
                 "normals-not-unit")
              .measured > 0.9);
    CHECK(find(must(lint(map(0.97, Format::rgba8_unorm), {.role = Role::normal})),
               "normals-not-unit") == nullptr);
    expect(must(lint(of_one_level(painted(64, 64, stone, Format::rgba8_unorm)),
                     {.role = Role::normal})),
           "no-normals");
    const auto gray = [](double u, double v) {
        const double h = noise(u, v);
        return Color{h, h, h, 1};
    };
    expect(must(lint(of_one_level(painted(64, 64, gray, Format::rgba8_unorm)),
                     {.role = Role::normal})),
           "height-as-normal");
    expect(
        must(lint(of_one_level(painted(64, 64, stone, Format::rgba8_srgb)), {.role = Role::data})),
        "numbers-as-srgb");
}

TEST_CASE("what alpha means is seen by the colours beside it") {
    const auto disc = [](double u, double v) {
        return std::clamp(8 * (0.4 - std::hypot(u - 0.5, v - 0.5)), 0.0, 1.0);
    };
    const Image straight = painted(96, 96, [&](double u, double v) {
        Color color = stone(u, v);
        color[3] = disc(u, v);
        return color;
    });
    const Image premultiplied = painted(96, 96, [&](double u, double v) {
        const Color color = stone(u, v);
        const double a = disc(u, v);
        return Color{color[0] * a, color[1] * a, color[2] * a, a};
    });
    CHECK(codes_of(must(lint(of_one_level(straight)))).empty());
    const LintReport looks = must(lint(of_one_level(premultiplied)));
    CHECK(expect(looks, "looks-premultiplied").measured < 0.35);
    Texture marked = of_one_level(premultiplied);
    marked.metadata.alpha = AlphaMode::premultiplied;
    CHECK(codes_of(must(lint(marked)), false).empty());
    Texture wrong = of_one_level(straight);
    wrong.metadata.alpha = AlphaMode::premultiplied;
    expect(must(lint(wrong)), "not-premultiplied");
    // Black beside a bright edge bleeds; colours that go on do not.
    const Image cut = painted(96, 96, [&](double u, double v) {
        const bool is_in = disc(u, v) > 0.5;
        return is_in ? Color{0.9, 0.8, 0.7, 1} : Color{0, 0, 0, 0};
    });
    CHECK(expect(must(lint(of_one_level(cut))), "hidden-colors-bleed").finding.level ==
          FindingLevel::hint);
    expect(must(lint(of_one_level(painted(64, 64, stone)))), "alpha-opaque");
}

TEST_CASE("formats and sizes that hold more than there is") {
    const auto gray = [](double u, double v) {
        const double h = noise(u, v);
        return Color{h, h, h, 1};
    };
    expect(must(lint(of_one_level(painted(64, 64, gray)))), "channels-unused");
    CHECK(find(must(lint(of_one_level(painted(64, 64, stone)))), "channels-unused") == nullptr);
    Image wide = must(Image::create(Format::r16_unorm, 32, 32));
    for (std::uint32_t y = 0; y < 32; ++y)
        for (std::size_t x = 0; x < 64; ++x)
            wide.view().row(y)[x] =
                static_cast<std::byte>((x / 2 * 7 + y * 3) % 256);  // both bytes alike
    expect(must(lint(of_one_level(wide))), "bits-unused");
    wide.view().row(3)[5] = std::byte{1};
    CHECK(find(must(lint(of_one_level(wide))), "bits-unused") == nullptr);
    const auto soft = [](double u, double v) {
        return Color{0.5 + 0.4 * std::sin(6 * u), 0.5 + 0.3 * std::cos(5 * v), 0.5, 1};
    };
    const Evidence empty = expect(must(lint(of_one_level(painted(1024, 512, soft)))), "no-detail");
    CHECK(contains(empty.finding.problem, "the 2 largest levels"));
    CHECK(find(must(lint(of_one_level(painted(512, 512, stone)))), "no-detail") == nullptr);
}

TEST_CASE("samplers that show what the texture is not made for") {
    const Sampler repeats;
    const auto ramp = [](double u, double v) {
        return Color{u, 0.5 + 0.1 * std::sin(2 * 3.14159265 * v), 0.5, 1};
    };
    const Texture texture = of_one_level(painted(128, 128, ramp));
    CHECK(find(must(lint(texture)), "seam-where-it-repeats") ==
          nullptr);  // nothing is known of a sampler
    const Evidence seam =
        expect(must(lint(texture, {.sampler = repeats})), "seam-where-it-repeats");
    CHECK(seam.place == "from left to right");
    CHECK(seam.measured > 50);
    Sampler clamps;
    clamps.wrap = {Wrap::clamp_to_edge, Wrap::clamp_to_edge, Wrap::clamp_to_edge};
    CHECK(find(must(lint(texture, {.sampler = clamps})), "seam-where-it-repeats") == nullptr);
    const auto down = [](double u, double v) {
        return Color{0.5 + 0.1 * std::sin(2 * 3.14159265 * u), v, 0.5, 1};
    };
    CHECK(expect(must(lint(of_one_level(painted(128, 128, down)), {.sampler = repeats})),
                 "seam-where-it-repeats")
              .place == "from top to bottom");

    Sampler nearest = clamps;
    nearest.mag = nearest.min = Filter::nearest;
    nearest.mip = MipFilter::none;
    const auto many = [](double u, double v) {
        const double light = 0.5 + 0.3 * std::sin(7 * u) * std::cos(5 * v) + 0.03 * noise(u, v);
        return Color{light, 0.9 * light, 0.7 * light, 1};
    };
    for (const bool is_gray : {false, true})  // which has few tones
        expect(must(lint(of_one_level(painted(
                             128, 128,
                             [&](double u, double v) {
                                 const Color color = many(u, v);
                                 return is_gray ? Color{color[0], color[0], color[0], 1} : color;
                             })),
                         {.sampler = nearest})),
               "nearest-on-photograph");
    // What is small on both sides is drawn, say.
    for (const auto& [width, height, is_large] :
         {std::tuple{128U, 32U, true}, std::tuple{32U, 128U, true}, std::tuple{64U, 64U, false}}) {
        const Texture of_size = of_one_level(painted(width, height, many));
        const LintReport report = must(lint(of_size, {.role = Role::color, .sampler = nearest}));
        CHECK(codes_of(report).contains("nearest-on-photograph") == is_large);
    }
    const auto blocks = [](double u, double v) {  // hundreds of tones, and no photograph
        const double x = std::floor(u * 32) / 32, y = std::floor(v * 32) / 32;
        return Color{noise(x, y), noise(x, y, 1), noise(x, y, 2), 1};
    };
    CHECK(find(must(lint(of_one_level(painted(128, 128, blocks)), {.sampler = nearest})),
               "nearest-on-photograph") == nullptr);
    CHECK(find(must(lint(of_one_level(painted(128, 128, many)), {.sampler = clamps})),
               "nearest-on-photograph") == nullptr);
    const auto drawn = [](double u, double v) {
        return noise(std::floor(u * 16) / 16, std::floor(v * 16) / 16) < 0.5
                   ? Color{0.9, 0.2, 0.1, 1}
                   : Color{0.1, 0.2, 0.6, 1};
    };
    expect(must(lint(of_one_level(painted(16, 16, drawn)), {.sampler = clamps})),
           "linear-on-drawn-pixels");
    CHECK(find(must(lint(of_one_level(painted(16, 16, drawn)), {.sampler = nearest})),
               "linear-on-drawn-pixels") == nullptr);
    expect(must(lint(texture, {.sampler = Sampler{}})), "incomplete-chain");
    // A picture gets its levels and its format later.
    Picture picture;
    picture.image = painted(128, 128, ramp);
    const auto of_picture =
        codes_of(must(lint(picture, {.role = Role::data, .sampler = Sampler{}})));
    CHECK(of_picture.contains("seam-where-it-repeats"));
    CHECK_FALSE(of_picture.contains("incomplete-chain"));
    CHECK_FALSE(of_picture.contains("numbers-as-srgb"));
}

TEST_CASE("cubes whose faces are shuffled, of different skies, or apart in smaller levels") {
    const Texture sky = support::cube_of(support::wavy_sky, 64);
    CHECK(codes_of(must(lint(sky)), false).empty());
    std::array<ConstImageView, 6> faces;
    const auto faces_as_stored = [&] {
        for (std::uint32_t face = 0; face < 6; ++face)
            faces[face] = sky.image(0, 0, face);
    };
    faces_as_stored();
    std::swap(faces[0], faces[4]);
    const Evidence shuffled = expect(must(lint(must(cube_of_faces(faces)))), "cube-faces-shuffled");
    CHECK(contains(shuffled.finding.problem, "exchanged"));
    CHECK(shuffled.measured > 4);
    // Faces that are seen from outside join once they are mirrored, as right and left exchanged do.
    std::array<Image, 6> mirrored;
    for (std::uint32_t face = 0; face < 6; ++face) {
        mirrored[face] = must(with_orientation(sky.image(0, 0, face), Orientation::mirror));
        faces[face] = std::as_const(mirrored[face]).view();
    }
    CHECK(expect(must(lint(must(cube_of_faces(faces)))), "cube-mirrored").measured > 4);
    faces_as_stored();
    std::swap(faces[0], faces[1]);
    const auto exchanged = must(lint(must(cube_of_faces(faces))));
    CHECK(contains(expect(exchanged, "cube-mirrored").finding.remedy, "right and left"));
    CHECK_FALSE(codes_of(exchanged).contains("cube-faces-shuffled"));
    // A face of another sky joins in no order.
    const Texture other = support::cube_of(
        [](const Direction& d) {
            return std::array{2.0 + std::sin(9 * d[0]), 3.0, 1.0};
        },
        64);
    faces_as_stored();
    faces[2] = other.image(0, 0, 2);
    expect(must(lint(must(cube_of_faces(faces)))), "cube-faces-apart");
    // Levels of which one face was made of something else.
    Texture levels = must(Texture::create(
        {.format = sky.shape().format, .width = 64, .height = 64, .levels = 4, .faces = 6}));
    std::ranges::copy(sky.level(0), levels.level(0).begin());
    must(build_cube_mips(levels));
    CHECK(codes_of(must(lint(levels)), false).empty());
    const std::size_t surface = levels.level(2).size() / 6;
    std::ranges::fill(levels.level(2).subspan(3 * surface, surface), std::byte{0});
    CHECK(expect(must(lint(levels)), "cube-seams-in-levels").place == "level 2");
}

TEST_CASE("single texels that outshine a face are hinted at") {
    Texture sky = support::cube_of(support::clear_sky, 32);
    CHECK(find(must(lint(sky)), "fireflies") == nullptr);
    auto* texels = reinterpret_cast<float*>(sky.level(0).data());
    const std::size_t channels = info(sky.shape().format).channel_count;
    for (std::size_t c = 0; c < 3; ++c)
        texels[(40 * 32 + 17) * channels + c] = 4000;
    CHECK(expect(must(lint(sky)), "fireflies").measured > 0.02);
}

TEST_CASE("the table of findings: every code once, in order, with sentences") {
    const auto all = all_findings();
    CHECK(all.size() > 130);
    for (std::size_t i = 0; i < all.size(); ++i) {
        const std::string_view code = all[i].code;
        CAPTURE(code);
        if (i > 0)
            CHECK(std::string_view(all[i - 1].code) < code);
        CHECK(find_finding(code) == &all[i]);
        for (const std::string_view sentence : {all[i].seen, all[i].basis, all[i].remedy}) {
            CHECK(sentence.size() > 7);
            CHECK(sentence.ends_with('.'));
        }
    }
    CHECK(find_finding("") == nullptr);
    CHECK(find_finding("no-such-thing") == nullptr);
}
