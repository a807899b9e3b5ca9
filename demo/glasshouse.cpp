#include "glasshouse.hpp"

#include <array>
#include <functional>

#include "noise.hpp"

namespace glasshouse {
namespace {

using Color = std::array<double, 4>;  // as stored: sRGB or linear, by the picture's role

Color blend(const Color& a, const Color& b, double share_of_b) {
    Color result{};
    for (std::size_t c = 0; c < 4; ++c)
        result[c] = a[c] + (b[c] - a[c]) * share_of_b;
    return result;
}

/// Fills a picture by a function of the pixel's centre, u and v from 0 to 1.
yl::Result<yl::Image> paint(yl::Format format, std::uint32_t width, std::uint32_t height,
                            const std::function<Color(double, double)>& color_at) {
    auto image = yl::Image::create(format, width, height);
    if (!image)
        return image;
    const std::size_t channels = yl::info(format).channel_count;
    for (std::uint32_t y = 0; y < height; ++y) {
        const auto row = image->view().row(y);
        for (std::uint32_t x = 0; x < width; ++x) {
            const Color color = color_at((x + 0.5) / width, (y + 0.5) / height);
            for (std::size_t c = 0; c < channels; ++c)
                row[x * channels + c] =
                    static_cast<std::byte>(std::lround(clamp01(color[c]) * 255));
        }
    }
    return image;
}

// --- lattice: crossed yellow slats with holes between them -----------------------------------

struct Slat {
    double distance = 0;  ///< from its middle line, in slat half-widths
    double along = 0;     ///< place along it, 0 .. 1 over the picture
    std::uint32_t number = 0;
};

constexpr int lattice_cells = 4;
constexpr double slat_half_width = 0.15;  // of the distance between slats

Slat nearest_slat(double across, double along) {
    const double place = across * lattice_cells;
    const double middle = std::floor(place) + 0.5;
    return {(place - middle) / slat_half_width, along - std::floor(along),
            static_cast<std::uint32_t>(static_cast<int>(std::floor(place)) & (lattice_cells - 1))};
}

Color slat_color(const Slat& slat, std::uint32_t seed) {
    const double grain =
        layered_noise(slat.along, slat.distance * 0.1 + slat.number * 0.37, 4, 24, 3, seed);
    const double edge = ramp(1.0, 0.72, std::abs(slat.distance));
    const double shine = 1 - 0.22 * slat.distance;
    const double tone = (0.80 + 0.20 * grain) * (0.62 + 0.38 * edge) * shine;
    return {0.93 * tone, 0.72 * tone, 0.16 * tone, 1};
}

Color lattice_at(double u, double v) {
    const Slat rising = nearest_slat(u + v, u - v);
    const Slat falling = nearest_slat(u - v, u + v);
    constexpr double pixel = lattice_cells / (512.0 * slat_half_width) * 1.4;  // in half-widths
    const auto cover = [&](const Slat& slat) {
        return 1 - ramp(1.0 - pixel, 1.0, std::abs(slat.distance));
    };
    const double upper = cover(rising);
    const double lower = cover(falling);
    // Near an upper slat the lower one lies in its shade.
    Color under = slat_color(falling, 31);
    const double shade = 1 - 0.45 * ramp(2.0, 1.0, std::abs(rising.distance));
    for (std::size_t c = 0; c < 3; ++c)
        under[c] *= shade;
    Color color = blend(under, slat_color(rising, 17), upper);
    color[3] = 1 - (1 - upper) * (1 - lower);
    if (color[3] == 0)
        color = {0.62, 0.48, 0.12, 0};
    return color;
}

// --- slate: paving stones in courses, with its normal map and roughness ----------------------

struct Paving {
    double height = 0;  ///< 0 in the joints to about 1
    double stone = 0;   ///< 0 .. 1, another number for each stone
    double joint = 0;   ///< 1 in the joints
};

Paving paving_at(double u, double v) {
    constexpr std::array<double, 5> courses = {0, 0.22, 0.46, 0.74, 1.0};
    u -= std::floor(u);
    v -= std::floor(v);
    // The joints wander a little, so that no edge is quite straight.
    const double wander = 0.006 * (layered_noise(u, v, 12, 12, 3, 5) - 0.5);
    const double row_place = clamp01(v + wander);
    std::uint32_t course = 0;
    while (course + 2 < courses.size() && row_place >= courses[course + 1])
        ++course;
    const std::uint32_t stones = 2 + course % 2;
    const double shift = random01(course, 3, 11);
    const double place = (u + shift + wander) * stones;
    const double inside = place - std::floor(place);
    const auto number =
        static_cast<std::uint32_t>(static_cast<int>(std::floor(place)) % static_cast<int>(stones));
    const double to_side = std::min(inside, 1 - inside) / stones;
    const double to_course = std::min(row_place - courses[course], courses[course + 1] - row_place);
    const double to_joint = std::min(to_side, to_course);

    Paving paving;
    paving.stone = random01(course * 7 + number, 9, 23);
    paving.joint = 1 - ramp(0.006, 0.012, to_joint);
    const double bevel = ramp(0.006, 0.026, to_joint);
    const double cleft = layered_noise(u + paving.stone, v, 3, 10, 5, 41);
    const double ledge = ramp(0.45, 0.5, layered_noise(u, v + paving.stone, 4, 6, 3, 77));
    paving.height = bevel * (0.55 + 0.30 * cleft + 0.10 * ledge + 0.1 * (paving.stone - 0.5));
    return paving;
}

Color slate_at(double u, double v) {
    const Paving paving = paving_at(u, v);
    const double fleck = layered_noise(u, v, 32, 48, 3, 91);
    const Color blue = {0.36, 0.42, 0.47, 1};
    const Color violet = {0.44, 0.40, 0.46, 1};
    const Color green = {0.37, 0.43, 0.40, 1};
    const Color stone = paving.stone < 0.5 ? blend(blue, violet, paving.stone * 2)
                                           : blend(blue, green, paving.stone * 2 - 1);
    const double tone = 0.58 + 0.82 * paving.height + 0.18 * (fleck - 0.5);
    Color color = {stone[0] * tone, stone[1] * tone, stone[2] * tone, 1};
    const double sand = 0.8 + 0.4 * layered_noise(u, v, 64, 64, 2, 7);
    return blend(color, {0.22 * sand, 0.20 * sand, 0.17 * sand, 1}, paving.joint);
}

/// The surface's normal by central differences of its height.
Color slate_normal_at(double u, double v) {
    constexpr double step = 1.0 / 512;
    constexpr double depth = 0.022;  // of the full height, in widths of the picture
    const double slope_x =
        (paving_at(u + step, v).height - paving_at(u - step, v).height) * depth / (2 * step);
    const double slope_y =
        (paving_at(u, v + step).height - paving_at(u, v - step).height) * depth / (2 * step);
    const double length = std::sqrt(slope_x * slope_x + slope_y * slope_y + 1);
    // Green points up the picture (right-handed tangent space), while v runs down.
    return {0.5 - 0.5 * slope_x / length, 0.5 + 0.5 * slope_y / length, 0.5 + 0.5 / length, 1};
}

Color slate_roughness_at(double u, double v) {
    const Paving paving = paving_at(u, v);
    const double polish = layered_noise(u, v, 8, 8, 4, 63);
    const double roughness = 0.42 + 0.35 * polish - 0.12 * paving.height + 0.3 * paving.joint;
    return {roughness, roughness, roughness, 1};
}

// --- pond: ripples as a normal map ------------------------------------------------------------

/// Waves that fit into the unit square, so that the pond tiles: wind ripples of many directions,
/// the shorter the lower.
Color pond_normal_at(double u, double v) {
    constexpr int waves = 28;
    constexpr double steepness = 0.055;  // of each wave
    double slope_x = 0, slope_y = 0;
    for (int i = 0; i < waves; ++i) {
        const auto wave = static_cast<std::uint32_t>(i);
        const double length = 3 + 34 * random01(wave, 1, 77) * random01(wave, 2, 77);
        const double angle = 2 * std::numbers::pi * random01(wave, 3, 77);
        const double across = std::round(length * std::cos(angle));
        const double down = std::round(length * std::sin(angle));
        const double phase = 2 * std::numbers::pi * (across * u + down * v + random01(wave, 4, 77));
        const double count = std::max(std::hypot(across, down), 1.0);
        slope_x += steepness * across / count * std::cos(phase);
        slope_y += steepness * down / count * std::cos(phase);
    }
    const double size = std::sqrt(slope_x * slope_x + slope_y * slope_y + 1);
    return {0.5 - 0.5 * slope_x / size, 0.5 + 0.5 * slope_y / size, 0.5 + 0.5 / size, 1};
}

// --- moss: a gray mask of patches ------------------------------------------------------------

Color moss_at(double u, double v) {
    const double patches = layered_noise(u, v, 4, 4, 5, 201);
    const double tufts = layered_noise(u, v, 40, 40, 2, 305);
    const double cover = ramp(0.46, 0.62, patches) * (0.65 + 0.35 * tufts);
    return {cover, cover, cover, 1};
}

// --- label: a small plant label in pixel art --------------------------------------------------

// 45 x 29 pixels. '.' outside, '#' rim, 'o' cream, 'g' leaf, 'd' dark leaf, 'n' ink, 'y' yellow
constexpr std::array<const char*, 29> label_rows = {
    ".###########################################.",
    "##ooooooooooooooooooooooooooooooooooooooooo##",
    "#oyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyo#",
    "#oyoooooooooooooooooooooooooooooooooooooooyo#",
    "#oyoooooooooooooooooooooooooooooooooooooooyo#",
    "#oyoooooooggoooonnnnnonnnnnonnnnoonooonoooyo#",
    "#oyooooooggggooonooooonooooonooononnoonoooyo#",
    "#oyoooogggdggooonooooonooooonooononononoooyo#",
    "#oyooogggdgggooonnnnoonnnnoonnnnoonoonnoooyo#",
    "#oyoogggdgggoooonooooonooooononooonooonoooyo#",
    "#oyooggdggggoooonooooonooooonoonoonooonoooyo#",
    "#oyoogdggggooooonooooonnnnnonooononooonoooyo#",
    "#oyooodgggooooooooooooooooooooooooooooooooyo#",
    "#oyoodoooooooooooonoooonoooonooooonnnoooooyo#",
    "#oyodooooooooooooonooononooonooooooonoooooyo#",
    "#oyooooooooooooooonnoonnnoonnoooooonooooooyo#",
    "#oyooooooooooooooonononooononoooooonooooooyo#",
    "#oyooooooooooooooonnooonnoonnoooooonooooooyo#",
    "#oyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyo#",
    "##ooooooooooooooooooooooooooooooooooooooooo##",
    ".###########################################.",
    "....................#ooo#....................",
    "....................#ooo#....................",
    "....................#ooo#....................",
    "....................#ooo#....................",
    "....................#ooo#....................",
    "....................#ooo#....................",
    ".....................#o#.....................",
    "......................#......................",
};

Color label_color(char letter) {
    switch (letter) {
        case '#':
            return {0.33, 0.24, 0.14, 1};
        case 'o':
            return {0.96, 0.92, 0.80, 1};
        case 'g':
            return {0.35, 0.62, 0.27, 1};
        case 'd':
            return {0.18, 0.38, 0.20, 1};
        case 'n':
            return {0.20, 0.16, 0.22, 1};
        case 'y':
            return {0.93, 0.72, 0.16, 1};
        default:
            return {0.33, 0.24, 0.14, 0};
    }
}

Color label_at(double u, double v) {
    const auto x = static_cast<std::size_t>(u * 45);
    const auto y = static_cast<std::size_t>(v * static_cast<double>(label_rows.size()));
    return label_color(label_rows[y][x]);
}

struct Recipe {
    const char* name;
    yl::Role role;
    yl::Format format;
    std::uint32_t width, height;
    Color (*color_at)(double u, double v);
    const char* about;
};

constexpr Recipe recipes[] = {
    {"lattice", yl::Role::color, yl::Format::rgba8_srgb, 512, 512, lattice_at,
     "a yellow trellis panel with holes"},
    {"slate", yl::Role::color, yl::Format::rgb8_srgb, 512, 512, slate_at, "paving that tiles"},
    {"slate_normal", yl::Role::normal, yl::Format::rgb8_unorm, 512, 512, slate_normal_at,
     "the paving's normal map"},
    {"slate_roughness", yl::Role::data, yl::Format::r8_unorm, 512, 512, slate_roughness_at,
     "the paving's roughness"},
    {"label", yl::Role::color, yl::Format::rgba8_srgb, 45, 29, label_at,
     "a plant label in pixel art, odd-sized"},
    {"pond_normal", yl::Role::normal, yl::Format::rgb8_unorm, 512, 512, pond_normal_at,
     "ripples of a pond, as a normal map"},
    {"moss", yl::Role::mask, yl::Format::r8_unorm, 256, 256, moss_at,
     "where moss grows, as a gray mask"},
};

}  // namespace

yl::Result<std::vector<DemoPicture>> make_pictures() {
    std::vector<DemoPicture> pictures;
    for (const Recipe& recipe : recipes) {
        auto image = paint(recipe.format, recipe.width, recipe.height, recipe.color_at);
        if (!image)
            return tl::unexpected(image.error());
        pictures.push_back({recipe.name, recipe.role, std::move(*image), recipe.about});
    }
    return pictures;
}

yl::Status write_pictures(const std::vector<DemoPicture>& pictures, const std::string& folder) {
    for (const DemoPicture& picture : pictures) {
        yl::WriteOptions options;
        options.effort = 9;
        if (picture.role != yl::Role::color)
            options.transfer.reset();
        auto written =
            yl::write_picture(folder + "/" + picture.name + ".png", picture.image.view(), options);
        if (!written)
            return written;
    }
    return {};
}

std::string_view batch_list() {
    return
#include "glasshouse.toml.inc"
        ;
}

}  // namespace glasshouse
