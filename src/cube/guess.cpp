// What layout of a cube a picture seems to be.
#include <algorithm>
#include <cmath>

#include <yl/cube.hpp>
#include <yl/measure.hpp>
#include "pixel/rows.hpp"

namespace yl {
namespace {

/// A row's spread in cube roots of light: how unlike each other its pixels are.
double spread_of_row(const Picture& picture, std::uint32_t y) {
    const ConstImageView image = picture.image.view();
    const RowCodec codec = row_codec(image.format, picture.transfer);
    std::vector<float> rgba(std::size_t{image.width} * 4);
    codec.load(image.row(y).data(), rgba.data(), image.width);
    double sum = 0, squares = 0;
    for (std::size_t i = 0; i < rgba.size(); i += 4) {
        const double value = std::cbrt(std::max(static_cast<double>(rgba[i] + rgba[i + 1]), 0.0));
        sum += value;
        squares += value * value;
    }
    const double mean = sum / image.width;
    return std::sqrt(std::max(squares / image.width - mean * mean, 0.0));
}

bool is_panorama(const Picture& picture) {
    const ConstImageView image = picture.image.view();
    if (measure_seams(image).across > SeamMeasure::visible)
        return false;
    // The poles are single directions; half a row lower it is already a small circle.
    const double poles =
        std::max(spread_of_row(picture, 0), spread_of_row(picture, image.height - 1));
    double most = 0;
    for (const std::uint32_t part : {1U, 2U, 3U})
        most = std::max(most, spread_of_row(picture, image.height * part / 4));
    // Half a row from the pole of 64 rows is a circle of 1/40 of the equator; in photographs the
    // first row varies about as much as any other.
    constexpr double most_at_poles = 0.3;
    return poles <= most_at_poles * most;
}

/// Nothing outside the disc: all four corners are the same bytes.
bool is_disc(ConstImageView image) {
    const std::size_t bytes = info(image.format).block_bytes;
    const std::byte* first = image.row(0).data();
    const std::uint32_t reach = std::max(image.width / 12, 1U);
    for (std::uint32_t y = 0; y < reach; ++y)
        for (std::uint32_t x = 0; x < reach; ++x)
            for (const std::uint32_t row : {y, image.height - 1 - y})
                for (const std::uint32_t column : {x, image.width - 1 - x})
                    if (!std::equal(first, first + bytes, image.row(row).data() + column * bytes))
                        return false;
    const std::byte* middle = image.row(image.height / 2).data() + image.width / 2 * bytes;
    return !std::equal(first, first + bytes, middle);
}

/// The cells of a cross that hold no face are plain.
bool has_plain_corners(ConstImageView image, CubeLayout layout, std::uint32_t side) {
    if (layout != CubeLayout::horizontal_cross && layout != CubeLayout::vertical_cross)
        return true;
    const std::size_t bytes = info(image.format).block_bytes;
    const std::byte* first = image.row(0).data();
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x)
            if (!std::equal(first, first + bytes, image.row(y).data() + x * bytes))
                return false;
    return true;
}

CubeLayoutGuess guess_cut(const Picture& picture, CubeLayout layout) {
    CubeLayoutGuess guess{.layout = layout};
    const auto cube = cube_of_picture(picture, {.layout = layout});
    if (!cube || cube->shape().width < 2)
        return guess;
    guess.face_size = cube->shape().width;
    std::array<ConstImageView, 6> faces;
    FaceArrangement straight;
    for (std::uint32_t i = 0; i < 6; ++i) {
        faces[i] = cube->image(0, 0, i);
        straight[i] = {i, Orientation::none};
    }
    if (const auto order = check_face_order(faces, picture.transfer, straight)) {
        guess.agrees =
            order->joins && has_plain_corners(picture.image.view(), layout, guess.face_size);
        guess.misfit = order->misfit;
    }
    return guess;
}

}  // namespace

std::optional<CubeLayoutGuess> guess_cube_layout(const Picture& picture) {
    const ConstImageView image = picture.image.view();
    if (info(image.format).is_block())  // whose pixels are not to be seen
        return std::nullopt;
    for (const CubeLayout layout : possible_cube_layouts(image.width, image.height)) {
        if (is_cut_layout(layout))
            return guess_cut(picture, layout);
        if (layout == CubeLayout::panorama && image.height >= 4)
            return CubeLayoutGuess{layout, image.width / 4, is_panorama(picture)};
        if (layout == CubeLayout::half_panorama && image.height >= 4)
            return CubeLayoutGuess{layout, image.width / 4,
                                   measure_seams(image).across <= SeamMeasure::visible};
        if (layout == CubeLayout::angular_map && image.width >= 16 && is_disc(image))
            return CubeLayoutGuess{layout, image.width / 2, true};
    }
    return std::nullopt;
}

}  // namespace yl
