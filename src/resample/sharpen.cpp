#include "resample/sharpen.hpp"

#include <algorithm>
#include <vector>

namespace yl {
namespace {

std::uint32_t neighbour(std::int64_t place, std::uint32_t size, Edge edge) {
    if (place >= 0 && place < size)
        return static_cast<std::uint32_t>(place);
    if (edge == Edge::repeat)
        return place < 0 ? size - 1 : 0;
    return place < 0 ? 0 : size - 1;
}

}  // namespace

void sharpen(ImageView image, std::uint32_t level, float amount, const Edges& edges,
             const WorkingFormat& format) {
    const std::size_t row_floats = std::size_t{image.width} * 4;
    std::vector<float> texels(row_floats * image.height);
    for (std::uint32_t y = 0; y < image.height; ++y)
        format.load(image.row(y).data(), texels.data() + y * row_floats, image.width);
    WorkingFormat plain = format;
    plain.fade.reset();  // that has been done
    std::vector<float> row(row_floats);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        for (std::uint32_t x = 0; x < image.width; ++x)
            for (std::size_t c = 0; c < 4; ++c) {
                float sum = 0;
                for (int i = -1; i <= 1; ++i)
                    for (int j = -1; j <= 1; ++j)
                        sum += texels[neighbour(std::int64_t{y} + i, image.height, edges[1]) *
                                          row_floats +
                                      std::size_t{
                                          neighbour(std::int64_t{x} + j, image.width, edges[0])} *
                                          4 +
                                      c];
                const float own = texels[y * row_floats + std::size_t{x} * 4 + c];
                // Alpha is kept: it says where something is, not how it looks.
                const bool is_weight = c == 3;
                row[std::size_t{x} * 4 + c] = is_weight ? own : own + amount * (own - sum / 9);
            }
        plain.store(row.data(), row.data(), image.row(y).data(), image.width, {y, level});
    }
}

}  // namespace yl
