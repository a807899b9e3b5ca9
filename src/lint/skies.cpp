// Cubes of one sky, sharp and blurred, have their light in the same directions.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <utility>

#include <yl/convert.hpp>
#include <yl/cube.hpp>
#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "lint/traits.hpp"

namespace yl::lint_checks {
namespace {

constexpr std::uint32_t side = 8;  // parts of a face across and down
constexpr std::size_t parts = std::size_t{6} * side * side;

using Sky = std::vector<float>;

Direction unit(const Direction& d) {
    const double length = std::hypot(d[0], d[1], d[2]);
    return {d[0] / length, d[1] / length, d[2] / length};
}

const std::vector<Direction>& directions() {
    static const std::vector<Direction> made = [] {
        std::vector<Direction> all;
        for (const CubeFace face : all_cube_faces)
            for (std::uint32_t y = 0; y < side; ++y)
                for (std::uint32_t x = 0; x < side; ++x)
                    all.push_back(unit(direction_at({face, (x + 0.5) / side, (y + 0.5) / side})));
        return all;
    }();
    return made;
}

std::size_t part_at(const Direction& direction) {
    const FacePoint point = face_point(direction);
    const auto cell = [](double at) {
        return std::min(static_cast<std::size_t>(std::max(at, 0.0) * side), std::size_t{side - 1});
    };
    return (static_cast<std::size_t>(point.face) * side + cell(point.t)) * side + cell(point.s);
}

/// The sky as matte surfaces gather it from all around.
Sky gathered(const Sky& sky) {
    Sky blurred(parts);
    for (std::size_t i = 0; i < parts; ++i) {
        double sum = 0, weights = 0;
        for (std::size_t j = 0; j < parts; ++j) {
            const Direction &a = directions()[i], &b = directions()[j];
            const auto place = static_cast<std::uint32_t>(j);
            const double weight = std::max(0.0, a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) *
                                  texel_solid_angle(place % side, place / side % side, side);
            sum += weight * static_cast<double>(sky[j]);
            weights += weight;
        }
        blurred[i] = static_cast<float>(sum / weights);
    }
    return blurred;
}

/// A sky less its mean, in cube roots of light, so that a sun does not outweigh all else; of length 1.
struct Evened {
    Sky sky = {};         ///< empty for even skies
    double contrast = 0;  ///< the deviation that it had, as a share of its mean
};

Evened evened(Sky sky) {
    double sum = 0, squares = 0;
    for (float& light : sky) {
        light = std::cbrt(std::max(light, 0.0F));
        sum += static_cast<double>(light);
    }
    const double mean = sum / parts;
    for (float& light : sky) {
        light -= static_cast<float>(mean);
        squares += static_cast<double>(light * light);
    }
    constexpr double even = 0.004;  // a hundredth of light
    const double deviation = std::sqrt(squares / parts);
    if (deviation < even * mean)
        return {};
    for (float& light : sky)
        light /= static_cast<float>(std::sqrt(squares));
    return {std::move(sky), deviation / mean};
}

/// One of the 48 ways to lay a cube on itself: the axis that each takes the place of, and its sign.
struct Turn {
    std::array<std::size_t, 3> axis = {0, 1, 2};
    std::array<int, 3> sign = {1, 1, 1};

    [[nodiscard]] Direction apply(const Direction& d) const {
        return {sign[0] * d[axis[0]], sign[1] * d[axis[1]], sign[2] * d[axis[2]]};
    }
    [[nodiscard]] bool is_none() const { return *this == Turn{}; }
    [[nodiscard]] bool mirrors() const {
        const bool is_odd = (axis[1] + 3 - axis[0]) % 3 == 2;
        return (sign[0] * sign[1] * sign[2] < 0) != is_odd;
    }
    friend bool operator==(const Turn&, const Turn&) = default;
};

std::vector<Turn> all_turns() {
    std::vector<Turn> turns;
    std::array<std::size_t, 3> axis = {0, 1, 2};
    do {
        for (unsigned signs = 0; signs < 8; ++signs) {
            const auto sign = [signs](unsigned bit) { return (signs >> bit & 1) != 0 ? -1 : 1; };
            turns.push_back({axis, {sign(0), sign(1), sign(2)}});
        }
    } while (std::ranges::next_permutation(axis).found);
    return turns;
}

double agreement(const Sky& a, const Sky& b, const Turn& turn) {
    double product = 0;
    for (std::size_t i = 0; i < parts; ++i)
        product += static_cast<double>(a[i] * b[part_at(turn.apply(directions()[i]))]);
    return product;
}

struct Best {
    Turn turn = {};
    double agreement = 0, as_it_is = 0;
};

/// Skies of other contrasts are others, however well they agree: nearly even ones all look alike.
void look_for_better(const Evened& a, const Evened& b, Best& best) {
    constexpr double times = 1.4;
    if (a.sky.empty() || b.sky.empty() || a.contrast > times * b.contrast ||
        b.contrast > times * a.contrast)
        return;
    for (const Turn& turn : all_turns()) {
        const double agrees = agreement(a.sky, b.sky, turn);
        if (turn.is_none())
            best.as_it_is = std::max(best.as_it_is, agrees);
        if (agrees > best.agreement) {
            best.agreement = agrees;
            best.turn = turn;
        }
    }
}

}  // namespace

Result<std::vector<float>> sky_of(const Texture& cube) {
    Sky sky;
    for (std::uint32_t face = 0; face < 6; ++face) {
        YL_TRY(const Image light, convert(cube.image(0, 0, face), Format::rgba32_float,
                                          {.source_transfer = cube.metadata.transfer}));
        YL_TRY(const Image small,
               resize(light.view(), side, side,
                      {.kernel = {.kind = Kernel::Kind::box}, .alpha = AlphaMode::data}));
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::uint32_t x = 0; x < side; ++x) {
                float sum = 0;
                for (std::size_t c = 0; c < 3; ++c)
                    sum += std::bit_cast<float>(
                        load<std::uint32_t>(small.view().row(y).data() + 16 * x + 4 * c));
                sky.push_back(sum / 3);
            }
    }
    return sky;
}

std::optional<Evidence> compare_skies(const std::vector<float>& sky,
                                      const std::vector<float>& other,
                                      std::string_view other_name) {
    if (sky.empty() || other.empty())
        return {};
    Best best;
    look_for_better(evened(sky), evened(other), best);
    look_for_better(evened(gathered(sky)), evened(other), best);
    look_for_better(evened(sky), evened(gathered(other)), best);
    // Blurred in whatever way, the same sky agrees by 0.97 and more.
    constexpr double same = 0.95, limit = 0.17;
    if (best.agreement < same || best.agreement - best.as_it_is < limit)
        return {};
    return Evidence{{"sky-turned-among-siblings",
                     fmt::format("its light agrees with that of {} by {:.2f} once it is {}, and by "
                                 "{:.2f} as it is",
                                 other_name, best.agreement,
                                 best.turn.mirrors() ? "mirrored" : "turned", best.as_it_is),
                     best.turn.mirrors() ? "mirror one of them" : "turn one of them"},
                    "",
                    best.agreement - best.as_it_is,
                    limit};
}

}  // namespace yl::lint_checks
