#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include <yl/tone.hpp>

#include <yl/convert.hpp>
#include <yl/edit.hpp>
#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// How much two pixels of four floats are apart: as seen, dark differences count as bright ones.
float difference(const float* a, const float* b) {
    float sum = 0;
    for (std::size_t c = 0; c < 4; ++c) {
        const float d = std::sqrt(std::max(a[c], 0.0F)) - std::sqrt(std::max(b[c], 0.0F));
        sum += d * d;
    }
    return sum;
}

/// The way through `costs` from the first row to the last, a column at most to either side at each,
/// that costs least (dynamic programming).
std::vector<std::uint32_t> cheapest_way(std::vector<float> costs, std::uint32_t width) {
    const auto height = static_cast<std::uint32_t>(costs.size() / width);
    const auto cheapest_near = [&](std::uint32_t x, std::uint32_t y) {
        const float* row = costs.data() + std::size_t{y} * width;
        const std::uint32_t begin = x > 0 ? x - 1 : 0, end = std::min(x + 2, width);
        return static_cast<std::uint32_t>(std::min_element(row + begin, row + end) - row);
    };
    for (std::uint32_t y = 1; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x)
            costs[std::size_t{y} * width + x] +=
                costs[std::size_t{y - 1} * width + cheapest_near(x, y - 1)];
    std::vector<std::uint32_t> way(height);
    const float* last = costs.data() + std::size_t{height - 1} * width;
    way[height - 1] = static_cast<std::uint32_t>(std::min_element(last, last + width) - last);
    for (std::uint32_t y = height - 1; y > 0; --y)
        way[y - 1] = cheapest_near(way[y], y - 1);
    return way;
}

/// What a transition of this reach sees: means over as many columns to either side.
std::vector<float> spread(const std::vector<float>& costs, std::uint32_t width,
                          std::uint32_t reach) {
    std::vector<float> result(costs.size());
    for (std::size_t begin = 0; begin < costs.size(); begin += width)
        for (std::uint32_t x = 0; x < width; ++x) {
            const std::uint32_t first = x - std::min(x, reach),
                                last = std::min(x + reach, width - 1);
            float sum = 0;
            for (std::uint32_t i = first; i <= last; ++i)
                sum += costs[begin + i];
            result[begin + x] = sum / static_cast<float>(last - first + 1);
        }
    return result;
}

/// Lays the last `over` columns over the first ones, in linear light with colours weighed by alpha.
Result<Image> joined(const Image& picture, std::uint32_t over) {
    const ConstImageView in = picture.view();
    const auto pixel = [&](std::uint32_t x, std::uint32_t y) {
        return reinterpret_cast<const float*>(in.row(y).data()) + std::size_t{4} * x;
    };
    const std::uint32_t width = in.width - over;
    YL_TRY(Image out, Image::create(in.format, width, in.height, Limits::none()));
    std::vector<float> costs;
    costs.reserve(std::size_t{over} * in.height);
    for (std::uint32_t y = 0; y < in.height; ++y)
        for (std::uint32_t x = 0; x < over; ++x)
            costs.push_back(difference(pixel(x, y), pixel(width + x, y)));
    const std::uint32_t columns = std::max(over / 12, 1U);  // of the transition, to either side
    const auto way = cheapest_way(spread(costs, over, columns), over);
    const auto reach = static_cast<float>(columns);
    for (std::uint32_t y = 0; y < in.height; ++y) {
        auto* row = reinterpret_cast<float*>(out.view().row(y).data());
        std::copy_n(pixel(0, y), std::size_t{4} * width, row);
        for (std::uint32_t x = 0; x < over; ++x) {
            // The end of the picture up to the way, its beginning behind it; at the borders of what
            // lies over each other one of them alone.
            const auto from_begin = static_cast<float>(x), to_end = static_cast<float>(over - x);
            const float t = (from_begin - static_cast<float>(way[y])) / (2 * reach) + 0.5F;
            const float own = std::clamp(t, 1 - std::min(to_end / reach, 1.0F),
                                         std::min(from_begin / reach, 1.0F));
            const float share = own * own * (3 - 2 * own);
            for (std::size_t c = 0; c < 4; ++c)
                row[4 * x + c] = share * pixel(x, y)[c] + (1 - share) * pixel(width + x, y)[c];
        }
    }
    return out;
}

/// Texels are little-endian, wherever the program runs: to numbers of this processor, and back.
void turn_numbers(ImageView picture) {
    for (std::uint32_t y = 0; y < picture.height; ++y)
        swap_unless_little<std::uint32_t>(picture.row(y));
}

Result<Image> blended(Image picture, std::uint32_t over_x, std::uint32_t over_y) {
    turn_numbers(picture.view());
    if (over_x > 0) {
        YL_TRY(picture, joined(picture, over_x));
    }
    if (over_y > 0) {
        // Rows are the columns of the picture transposed.
        YL_TRY(picture, with_orientation(std::as_const(picture).view(), Orientation::transpose));
        YL_TRY(picture, joined(picture, over_y));
        YL_TRY(picture, with_orientation(std::as_const(picture).view(), Orientation::transpose));
    }
    turn_numbers(picture.view());
    return picture;
}

}  // namespace

Result<Image> with_blended_seams(ConstImageView image, Transfer transfer,
                                 const SeamOptions& options) try {
    YL_CHECK(check_view(image, "image"));
    constexpr std::uint32_t min_side = 8;
    if (!(options.share > 0 && options.share <= 0.5F))
        return fail(ErrorKind::usage,
                    fmt::format("a share of {} is not above 0 and up to 0.5", options.share));
    if (std::min(image.width, image.height) < min_side)
        return fail(ErrorKind::usage,
                    fmt::format("{} x {} pixels are too few to blend", image.width, image.height));
    if (!plain_channels(image.format))
        return fail(ErrorKind::usage,
                    fmt::format("{} has no plain channels to blend", info(image.format).name));
    const auto over = [&](std::uint32_t side, bool wanted) {
        const auto count = static_cast<std::uint32_t>(options.share * static_cast<float>(side));
        return wanted ? std::max(count, 1U) : 0U;
    };
    const bool has_alpha = info(image.format).has(Channel::alpha);
    YL_TRY(Image light, convert(image, Format::rgba32_float, {.source_transfer = transfer}));
    if (has_alpha)
        YL_CHECK(premultiply(light.view(), Transfer::linear));
    YL_TRY(light, blended(std::move(light), over(image.width, options.across),
                          over(image.height, options.along)));
    if (has_alpha)
        YL_CHECK(unpremultiply(light.view(), Transfer::linear));
    return convert(std::as_const(light).view(), image.format,
                   {.target_transfer = transfer, .to_one_channel = ToOneChannel::red});
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
