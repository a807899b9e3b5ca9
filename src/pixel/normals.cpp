#include <yl/normals.hpp>

#include <algorithm>
#include <cmath>

#include "base/attempt.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

std::uint32_t beyond(std::int64_t place, std::uint32_t size, Edge edge) {
    if (edge == Edge::repeat)
        return static_cast<std::uint32_t>((place + size) % size);
    return static_cast<std::uint32_t>(std::clamp<std::int64_t>(place, 0, size - 1));
}

}  // namespace

Result<Image> normals_from_height(ConstImageView height, const NormalOptions& options) {
    const RowCodec input = number_codec(height.format);
    if (input.load == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("{} cannot be read as heights", info(height.format).name));
    const bool is_deep = info(height.format).channels[0].bits > 8;
    YL_TRY(Image normals,
           Image::create(is_deep ? Format::rgba16_unorm : Format::rgba8_unorm, height.width,
                         height.height, {.greatest_bytes = ~std::uint64_t{0}}));
    const ImageView target = normals.view();
    const RowCodec output = number_codec(target.format);
    parallel_ranges(height.height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> rows[3];
        for (auto& row : rows)
            row.resize(std::size_t{height.width} * 4);
        std::vector<float> result(rows[0].size());
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            for (int i = 0; i < 3; ++i)
                input.load(
                    height.row(beyond(std::int64_t{y} + i - 1, height.height, options.edges[1]))
                        .data(),
                    rows[i].data(), height.width);
            for (std::uint32_t x = 0; x < height.width; ++x) {
                const std::size_t left =
                    beyond(std::int64_t{x} - 1, height.width, options.edges[0]);
                const std::size_t right =
                    beyond(std::int64_t{x} + 1, height.width, options.edges[0]);
                const auto at = [&](int row, std::size_t column) { return rows[row][4 * column]; };
                // Weights 3, 10, 3 across the direction, over two texels along it.
                const auto slope = [&](float a, float b, float c) {
                    return (3 * a + 10 * b + 3 * c) / 32 * options.height;
                };
                const float dx = slope(at(0, right) - at(0, left), at(1, right) - at(1, left),
                                       at(2, right) - at(2, left));
                const float dy = slope(at(2, left) - at(0, left), at(2, x) - at(0, x),
                                       at(2, right) - at(0, right));
                const float length = std::sqrt(dx * dx + dy * dy + 1);
                float* normal = &result[std::size_t{x} * 4];
                normal[0] = 0.5F - 0.5F * dx / length;
                normal[1] = 0.5F + (options.green_up ? 0.5F : -0.5F) * dy / length;
                normal[2] = 0.5F + 0.5F / length;
                normal[3] = 1;
            }
            output.store(result.data(), target.row(y).data(), target.width);
        }
    });
    return normals;
}

}  // namespace yl
