// Comparing pictures: the place of the worst pixel, and windows at the last rows.
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

using namespace yl;
using support::must;

namespace {

Image gray(std::uint32_t width, std::uint32_t height) {
    Image image = must(Image::create(Format::rgba8_srgb, width, height));
    for (std::uint32_t y = 0; y < height; ++y)
        std::ranges::fill(image.view().row(y), std::byte{100});
    return image;
}

}  // namespace

TEST_CASE("of equal differences the first is the worst, row by row") {
    const Image a = gray(9, 5);
    Image b = gray(9, 5);
    for (const auto& [x, y] : {std::pair{7, 1}, {2, 3}, {8, 4}})
        b.view().row(static_cast<std::uint32_t>(y))[static_cast<std::size_t>(4 * x)] =
            std::byte{120};
    const PictureDifference difference = must(compare_pictures(a.view(), b.view(), 19));
    CHECK(difference.max == 20);
    CHECK(difference.worst_x == 7);
    CHECK(difference.worst_y == 1);
    CHECK(difference.pixels_beyond == 3);
    CHECK(must(compare_pictures(a.view(), b.view(), 20)).pixels_beyond == 0);
}

TEST_CASE("structure counts up to the last row and column, on both axes") {
    for (const bool is_row : {true, false}) {
        const std::uint32_t width = is_row ? 16 : 11, height = is_row ? 11 : 16;
        for (const bool is_last : {true, false}) {
            const Image a = gray(width, height);
            Image b = gray(width, height);
            for (std::uint32_t i = 0; i < (is_row ? width : height); ++i) {
                const std::uint32_t end = is_row ? height - 1 : width - 1;
                const std::uint32_t x = is_row ? i : (is_last ? end : 0);
                const std::uint32_t y = is_row ? (is_last ? end : 0) : i;
                for (std::size_t c = 0; c < 3; ++c)
                    b.view().row(y)[4 * x + c] = std::byte(i % 2 == 0 ? 255 : 0);
            }
            const double ssim = must(measure_difference(a.view(), b.view())).ssim;
            CAPTURE(is_row);
            CAPTURE(is_last);
            CHECK(ssim < 0.999);
        }
    }
}
