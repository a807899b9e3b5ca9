// Cube maps: whether the faces join as they are, at every level, and what will sparkle.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include <yl/block.hpp>
#include <yl/cube.hpp>
#include <yl/edit.hpp>
#include <yl/mip.hpp>
#include <yl/status_macros.hpp>
#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

/// The order in which the faces are stored.
constexpr std::array<CubeFace, 6> as_stored = {CubeFace::right,  CubeFace::left,  CubeFace::top,
                                               CubeFace::bottom, CubeFace::front, CubeFace::back};

std::string place_of(std::uint32_t layers, std::uint32_t layer, std::string_view rest) {
    const std::string place = layers > 1 ? fmt::format("layer {}", layer) : "";
    return place.empty() || rest.empty() ? place + std::string(rest)
                                         : fmt::format("{}, {}", place, rest);
}

/// How the faces would join, in words; nothing where no other order is sure to.
Result<std::vector<std::string>> better_order(const Texture& cube, std::uint32_t layer) {
    std::array<ConstImageView, 6> faces;
    for (std::uint32_t face = 0; face < 6; ++face)
        faces[face] = cube.image(0, layer, face);
    YL_TRY(const FaceOrder order,
           find_face_order(faces, cube.metadata.transfer, {.claimed = as_stored}));
    if (!order.is_sure || !order.joins)
        return std::vector<std::string>{};
    return differences_in_words(as_stored, order.faces);
}

/// Whether the faces join once each of them is mirrored where it is: seen from outside of the cube,
/// or with right and left exchanged, which joins in the same way.
Result<bool> joins_mirrored(const Texture& cube, std::uint32_t layer) {
    std::array<Image, 6> mirrored;
    std::array<ConstImageView, 6> faces;
    for (std::uint32_t face = 0; face < 6; ++face) {
        YL_TRY(mirrored[face], with_orientation(cube.image(0, layer, face), Orientation::mirror));
        faces[face] = std::as_const(mirrored[face]).view();
    }
    YL_TRY(const Texture other, cube_of_faces(faces));
    YL_TRY(const CubeSeams seams, measure_cube_seams(other, 0, 0));
    return !seams.shows();
}

Status check_joints(const Texture& cube, std::uint32_t layer, Found& found) {
    YL_TRY(const CubeSeams seams, measure_cube_seams(cube, 0, layer));
    const std::uint32_t layers = cube.shape().layers;
    if (seams.shows()) {
        YL_TRY(const bool is_mirrored, joins_mirrored(cube, layer));
        if (is_mirrored) {
            found.push_back({{"cube-mirrored",
                              fmt::format("steps across edges are {:.1f} times those within faces, "
                                          "and the faces join once each is mirrored",
                                          seams.ratio()),
                              "mirror each face if they are seen from outside; if letters in them "
                              "read well, exchange right and left instead"},
                             place_of(layers, layer, ""),
                             seams.ratio(),
                             CubeSeams::visible});
            return {};
        }
        YL_TRY(const std::vector<std::string> words, better_order(cube, layer));
        if (!words.empty())
            found.push_back(
                {{"cube-faces-shuffled",
                  fmt::format("the faces join in another order: {}", fmt::join(words, "; ")),
                  "put them in order by their edges"},
                 place_of(layers, layer, ""),
                 seams.ratio(),
                 CubeSeams::visible});
        else
            found.push_back({{"cube-faces-apart",
                              fmt::format("steps across edges are {:.1f} times those within faces",
                                          seams.ratio()),
                              "lay the faces out and look: one may be of another sky"},
                             place_of(layers, layer, ""),
                             seams.ratio(),
                             CubeSeams::visible});
        return {};
    }
    // Of a few texels any edge may be the steepest step.
    constexpr std::uint32_t least_side = 8;
    for (std::uint32_t level = 1;
         level < cube.shape().levels && cube.shape().width >> level >= least_side; ++level) {
        YL_TRY(const CubeSeams below, measure_cube_seams(cube, level, layer));
        if (!below.shows())
            continue;
        found.push_back({{"cube-seams-in-levels",
                          fmt::format("the first level joins, and in level {} steps across edges "
                                      "are {:.1f} times those within faces",
                                      level, below.ratio()),
                          "make the levels of all faces together"},
                         place_of(layers, layer, fmt::format("level {}", level)),
                         below.ratio(),
                         CubeSeams::visible});
        return {};
    }
    return {};
}

void check_sparkle(const Texture& cube, std::uint32_t layer, Found& found) {
    double most = 0;
    for (std::uint32_t face = 0; face < 6; ++face)
        most = std::max(most, light_of_fireflies(cube.image(0, layer, face), {}));
    constexpr double limit = 0.02;
    if (most > limit)
        found.push_back(
            {{"fireflies",
              fmt::format("single texels hold {:.0f} % of a face's light: what is "
                          "prefiltered from it will sparkle",
                          100 * most),
              "dim them before prefiltering, unless one is the sun", FindingLevel::hint},
             place_of(cube.shape().layers, layer, ""),
             most,
             limit});
}

/// The mean step between neighbouring texels, in stops of light or in codes.
double mean_step(const Plane& plane, bool is_float) {
    const auto value = [&](std::uint32_t x, std::uint32_t y) {
        const float* texel = plane.at(x, y);
        const double sum = static_cast<double>(texel[0] + texel[1] + texel[2]);
        return is_float ? std::log2(std::max(sum, 1e-6)) : sum;
    };
    double sum = 0;
    for (std::uint32_t y = 0; y + 1 < plane.height; ++y)
        for (std::uint32_t x = 0; x + 1 < plane.width; ++x)
            sum +=
                std::abs(value(x + 1, y) - value(x, y)) + std::abs(value(x, y + 1) - value(x, y));
    return sum / static_cast<double>(plane.texels());
}

/// The level as it were if it had only been made smaller.
Plane unblurred(const Chain& chain, std::size_t level) {
    Plane plane = chain.levels[0];
    for (std::size_t i = 1; i <= level; ++i)
        plane = halved(plane, chain.levels[i].width, chain.levels[i].height);
    return plane;
}

}  // namespace

void check_blur(const Subject& subject, Found& found) {
    constexpr float rough = 0.35F;           // where the lobe is several texels wide
    constexpr std::uint32_t least_side = 8;  // texels
    constexpr double limit = 0.85;           // of what levels of that roughness have at most 0.6
    for (std::size_t level = 1; level < subject.roughness.size(); ++level) {
        if (subject.roughness[level] < rough)
            continue;
        double steps = 0, without = 0;
        for (const Chain& chain : subject.chains) {
            if (level >= chain.levels.size() || chain.levels[level].width < least_side)
                return;
            steps += mean_step(chain.levels[level], subject.is_float());
            without += mean_step(unblurred(chain, level), subject.is_float());
        }
        constexpr double flat = 1e-3;
        if (without < flat || steps < limit * without)
            continue;
        found.push_back({{"cube-levels-not-blurred",
                          fmt::format("level {} is said to be of roughness {:.2f}, and its steps "
                                      "from texel to texel are {:.2f} of those that the first "
                                      "level alone would have there",
                                      level, subject.roughness[level], steps / without),
                          "prefilter it again"},
                         fmt::format("level {}", level),
                         steps / without,
                         limit});
        return;
    }
}

Status check_cube(const Texture& texture, Found& found) {
    if (texture.shape().faces != 6 || texture.shape().width < 8)
        return {};
    Texture decoded;
    const bool is_block = info(texture.shape().format).is_block();
    if (is_block) {
        YL_TRY(decoded, decode_texture(texture));
    }
    const Texture& cube = is_block ? decoded : texture;
    for (std::uint32_t layer = 0; layer < cube.shape().layers; ++layer) {
        YL_CHECK(check_joints(cube, layer, found));
        check_sparkle(cube, layer, found);
    }
    return {};
}

}  // namespace yl::lint_checks
