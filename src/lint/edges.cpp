// Textures of one surface have their edges in the same places.
#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>

#include <yl/convert.hpp>
#include <yl/resize.hpp>
#include "base/bytes.hpp"
#include "lint/traits.hpp"

namespace yl::lint_checks {
namespace {

constexpr std::uint32_t side = 48;  // of a map: enough to tell up from down

double correlation(const std::vector<float>& a, const std::vector<float>& b, bool turned) {
    double product = 0;
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x)
            product +=
                static_cast<double>(a[y * side + x] * b[(turned ? side - 1 - y : y) * side + x]);
    return product;
}

}  // namespace

std::vector<float> edges_of(ConstImageView image) {
    if (std::min(image.width, image.height) < side)
        return {};
    const auto plain = convert(image, Format::rgba32_float, {.source_transfer = Transfer::linear});
    if (!plain)
        return {};
    const auto small = resize(plain->view(), side, side,
                              {.kernel = {.kind = Kernel::Kind::box}, .alpha = AlphaMode::data});
    if (!small)
        return {};
    const ConstImageView view = small->view();
    const auto difference = [&](std::uint32_t x, std::uint32_t y, std::uint32_t u,
                                std::uint32_t v) {
        float sum = 0;
        for (std::size_t c = 0; c < 3; ++c)
            sum += std::abs(std::bit_cast<float>(load<std::uint32_t>(view.row(y).data() +
                                                                     16 * std::size_t{x} + 4 * c)) -
                            std::bit_cast<float>(load<std::uint32_t>(view.row(v).data() +
                                                                     16 * std::size_t{u} + 4 * c)));
        return sum;
    };
    std::vector<float> map(side * side);
    double sum = 0, squares = 0;
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            // Upwards and downwards alike, so that a map that is turned over has the same edges.
            const std::uint32_t right = (x + 1) % side, below = (y + 1) % side,
                                above = (y + side - 1) % side;
            map[y * side + x] = difference(x, y, right, y) + difference(x, y, x, below) +
                                difference(x, y, x, above);
            sum += static_cast<double>(map[y * side + x]);
        }
    const double mean = sum / (double{1} * side * side);
    for (float& value : map) {
        value -= static_cast<float>(mean);
        squares += static_cast<double>(value * value);
    }
    constexpr double even = 1e-4;
    if (squares < even)
        return {};
    for (float& value : map)
        value /= static_cast<float>(std::sqrt(squares));
    return map;
}

std::optional<Evidence> compare_edges(const std::vector<float>& edges,
                                      const std::vector<float>& other,
                                      std::string_view other_name) {
    if (edges.empty() || other.empty())
        return {};
    const double straight = correlation(other, edges, false),
                 turned = correlation(other, edges, true);
    // Maps of one surface agree by 0.4 to 0.9 as they are and by 0.1 at most turned over.
    constexpr double alike = 0.25, limit = 0.2;
    if (turned < alike || turned - straight < limit)
        return {};
    return Evidence{
        {"upside-down-among-siblings",
         fmt::format("its edges agree with those of {} by {:.2f} turned over, and by {:.2f} as "
                     "it is",
                     other_name, turned, straight),
         "turn one of them over"},
        "",
        turned - straight,
        limit};
}

}  // namespace yl::lint_checks
