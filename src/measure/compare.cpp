#include <yl/measure.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {

Result<PictureDifference> compare_pictures(ConstImageView a, ConstImageView b, int tolerance) try {
    YL_CHECK(check_view(a, "a"));
    YL_CHECK(check_view(b, "b"));
    const FormatInfo& f = info(a.format);
    if (a.width != b.width || a.height != b.height || a.format != b.format)
        return fail(ErrorKind::usage,
                    fmt::format("{} x {} pixels of {} cannot be compared with {} x {} of {}",
                                a.width, a.height, f.name, b.width, b.height, info(b.format).name));
    if (f.is_block() || f.type_size != 1 || f.block_bytes == 0)
        return fail(ErrorKind::usage, fmt::format("{} has no 8-bit channels to compare", f.name));
    PictureDifference result;
    result.pixels = std::uint64_t{a.width} * a.height;
    std::uint64_t sum = 0;
    for (std::uint32_t y = 0; y < a.height; ++y) {
        const auto row_a = a.row(y);
        const auto row_b = b.row(y);
        for (std::uint32_t x = 0; x < a.width; ++x) {
            int most = 0;
            for (std::size_t i = std::size_t{x} * f.block_bytes, end = i + f.block_bytes; i < end;
                 ++i) {
                const int difference =
                    std::abs(std::to_integer<int>(row_a[i]) - std::to_integer<int>(row_b[i]));
                most = std::max(most, difference);
                sum += static_cast<std::uint64_t>(difference);
            }
            if (most > tolerance)
                ++result.pixels_beyond;
            if (most <= result.max)
                continue;
            result.max = most;
            result.worst_x = x;
            result.worst_y = y;
        }
    }
    result.mean = static_cast<double>(sum) / static_cast<double>(result.pixels * f.block_bytes);
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
