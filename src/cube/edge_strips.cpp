#include "cube/edge_strips.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include <yl/status_macros.hpp>
#include "cube/frames.hpp"
#include "pixel/rows.hpp"

namespace yl {
namespace {

/// A place along a side, from its beginning (0) to its end (1), a little outside if wanted.
FacePoint place_on(CubeFace face, Side side, double along, double outside = 0) {
    switch (side) {
        case Side::upper:
            return {face, along, -outside};
        case Side::right:
            return {face, 1 + outside, along};
        case Side::lower:
            return {face, along, 1 + outside};
        case Side::left:
            return {face, -outside, along};
    }
    return {face, along, 0};
}

/// The texel of a row, `depth` rows away from a side's edge, at a place along it.
std::array<std::uint32_t, 2> texel_on(Side side, std::uint32_t along, std::uint32_t depth,
                                      std::uint32_t size) {
    const std::uint32_t far = size - 1 - depth;
    switch (side) {
        case Side::upper:
            return {along, depth};
        case Side::right:
            return {far, along};
        case Side::lower:
            return {along, far};
        case Side::left:
            return {depth, along};
    }
    return {along, depth};
}

Status check(std::span<const ConstImageView, 6> images) {
    for (std::size_t i = 0; i < 6; ++i) {
        const ConstImageView& image = images[i];
        const auto wrong = [&](std::string message) {
            return fail(ErrorKind::usage, fmt::format("image {}: {}", i + 1, message));
        };
        if (image.width != image.height)
            return wrong(fmt::format("{} x {} is not square", image.width, image.height));
        if (image.width != images[0].width)
            return wrong(fmt::format("is {} wide, and image 1 {}", image.width, images[0].width));
        if (image.format != images[0].format)
            return wrong(fmt::format("is {}, and image 1 {}", info(image.format).name,
                                     info(images[0].format).name));
    }
    if (images[0].width < 2)
        return fail(ErrorKind::usage, "faces of one texel have no edges to go by");
    return {};
}

std::array<float, 3> color_at(ConstImageView image, const RowCodec& codec, std::uint32_t x,
                              std::uint32_t y) {
    std::array<float, 4> rgba{};
    codec.load(image.row(y).data() + std::size_t{x} * info(image.format).block_bytes, rgba.data(),
               1);
    const bool is_gray = info(image.format).channel_count < 3;
    std::array<float, 3> color{};
    for (std::size_t c = 0; c < 3; ++c) {
        const float light = rgba[is_gray ? 0 : c];
        // What is not a number is black, and what is infinite as bright as can be.
        color[c] = light > 0 ? std::cbrt(std::min(light, std::numeric_limits<float>::max())) : 0.0F;
    }
    return color;
}

double square_of_difference(const std::array<float, 3>& a, const std::array<float, 3>& b) {
    double sum = 0;
    for (std::size_t c = 0; c < 3; ++c) {
        const double off = static_cast<double>(a[c] - b[c]);
        sum += off * off / 3;
    }
    return sum;
}

}  // namespace

DirectedSide side_before(Orientation orientation, Side side) {
    constexpr std::uint32_t n = 3;
    const auto from = [&](std::uint32_t along) {
        const auto at = texel_on(side, along, 0, n);
        return orientation_source(orientation, at[0], at[1], n, n);
    };
    const auto begin = from(0), middle = from(1);
    for (const Side candidate : all_sides)
        if (middle == texel_on(candidate, 1, 0, n))
            return {candidate, begin != texel_on(candidate, 0, 0, n)};
    return {};
}

Neighbour neighbour_of(CubeFace face, Side side) {
    const auto beyond = [&](double along) {
        return face_point(direction_at(place_on(face, side, along, 0.01)));
    };
    const FacePoint begin = beyond(0.25), end = beyond(0.75);
    const double s = begin.s + end.s - 1, t = begin.t + end.t - 1;  // towards the side
    const bool is_level = std::abs(t) > std::abs(s);                // upper or lower
    const Side there =
        is_level ? (t < 0 ? Side::upper : Side::lower) : (s < 0 ? Side::left : Side::right);
    const bool is_backwards = is_level ? end.s < begin.s : end.t < begin.t;
    return {begin.face, {there, is_backwards}};
}

const std::array<CubeEdge, 12>& cube_edges() {
    static const auto edges = [] {
        std::array<CubeEdge, 12> all{};
        std::size_t count = 0;
        for (const CubeFace face : all_cube_faces)
            for (const Side side : all_sides) {
                const Neighbour other = neighbour_of(face, side);
                if (face < other.face)
                    all[count++] = {face, side, other.face, other.side};
            }
        return all;
    }();
    return edges;
}

Result<EdgeStrips> EdgeStrips::of(std::span<const ConstImageView, 6> images, Transfer transfer) {
    YL_CHECK(check(images));
    const RowCodec codec = row_codec(images[0].format, transfer);
    if (codec.load == nullptr)
        return fail(ErrorKind::unsupported, "blocks have to be unpacked before they are compared");
    const std::uint32_t size = images[0].width;
    const std::uint32_t count = std::min(size, samples);
    EdgeStrips result;
    std::array<std::vector<Color>, 24> strips;
    double steps = 0;
    for (std::size_t image = 0; image < 6; ++image) {
        for (const Side side : all_sides)
            for (std::uint32_t i = 0; i < count; ++i) {
                Color outer{}, inner{};
                const std::uint32_t begin = i * size / count, end = (i + 1) * size / count;
                for (std::uint32_t along = begin; along < end; ++along)
                    for (const std::uint32_t depth : {0U, 1U}) {
                        const auto at = texel_on(side, along, depth, size);
                        const Color color = color_at(images[image], codec, at[0], at[1]);
                        for (std::size_t c = 0; c < 3; ++c)
                            (depth == 0 ? outer : inner)[c] +=
                                color[c] / static_cast<float>(end - begin);
                    }
                steps += square_of_difference(outer, inner) / (24.0 * count);
                // The edge itself is half a texel further out than the outermost middles.
                Color edge{};
                for (std::size_t c = 0; c < 3; ++c)
                    edge[c] = 1.5F * outer[c] - 0.5F * inner[c];
                strips[place(image, side)].push_back(edge);
            }
        for (std::uint32_t j = 0; j < grid_side; ++j)
            for (std::uint32_t i = 0; i < grid_side; ++i)
                result.grids_[image][std::size_t{j} * grid_side + i] =
                    color_at(images[image], codec, (2 * i + 1) * size / (2 * grid_side),
                             (2 * j + 1) * size / (2 * grid_side));
    }
    result.usual_step_ = steps;
    result.compare_all(strips);
    return result;
}

void EdgeStrips::compare_all(const std::array<std::vector<Color>, 24>& strips) {
    for (std::size_t a = 0; a < 24; ++a)
        for (std::size_t b = 0; b < 24; ++b) {
            const std::size_t count = strips[a].size();
            for (std::size_t i = 0; i < count; ++i) {
                table_[a][b][0] += square_of_difference(strips[a][i], strips[b][i]);
                table_[a][b][1] += square_of_difference(strips[a][i], strips[b][count - 1 - i]);
            }
            for (double& sum : table_[a][b])
                sum /= static_cast<double>(count);
        }
}

double EdgeStrips::difference(std::size_t a, Orientation turn_a, std::size_t b,
                              Orientation turn_b) const {
    const auto way = [](std::size_t image, Orientation turn) {
        return image * 8 + static_cast<std::size_t>(turn) - 1;
    };
    if (differences_.empty())
        differences_.assign(ways * ways, std::numeric_limits<double>::quiet_NaN());
    double& known = differences_[way(a, turn_a) * ways + way(b, turn_b)];
    if (std::isnan(known))
        known = measured_difference(a, turn_a, b, turn_b);
    return known;
}

double EdgeStrips::measured_difference(std::size_t a, Orientation turn_a, std::size_t b,
                                       Orientation turn_b) const {
    double sum = 0;
    for (std::uint32_t j = 0; j < grid_side; ++j)
        for (std::uint32_t i = 0; i < grid_side; ++i) {
            const auto from_a = orientation_source(turn_a, i, j, grid_side, grid_side);
            const auto from_b = orientation_source(turn_b, i, j, grid_side, grid_side);
            sum += square_of_difference(grids_[a][std::size_t{from_a[1]} * grid_side + from_a[0]],
                                        grids_[b][std::size_t{from_b[1]} * grid_side + from_b[0]]);
        }
    return sum / (grid_side * grid_side);
}

}  // namespace yl
