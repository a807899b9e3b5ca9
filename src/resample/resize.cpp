#include <yl/resize.hpp>

#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "pixel/check.hpp"
#include "resample/row_source.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 16;

}  // namespace

Result<Image> resize(ConstImageView image, std::uint32_t width, std::uint32_t height,
                     const ResizeOptions& options) try {
    YL_CHECK(check_view(image, "image"));
    WorkingFormat format = WorkingFormat::of(image.format, options.transfer, options.alpha);
    format.dither = options.dither;
    if (format.codec.load == nullptr)
        return fail(
            ErrorKind::unsupported,
            fmt::format("{} cannot be resized; unpack its blocks first", info(image.format).name));
    YL_TRY(Image result,
           Image::create(image.format, width, height, {.max_bytes = ~std::uint64_t{0}}));
    const auto across = axis_weights(options.kernel, options.edges[0], image.width, width);
    const auto down = axis_weights(options.kernel, options.edges[1], image.height, height);
    const Reducer reducer{across, down, options.limit_ringing};
    const ImageView target = result.view();
    ProgressCounter progress(options.progress, Phase::resizing, height);
    parallel_ranges(height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        if (progress.cancelled())
            return;
        StoredRows rows(image, format);
        ReducedRows reduced(
            rows, reducer, format,
            {target, 0, static_cast<std::uint32_t>(begin), static_cast<std::uint32_t>(end)});
        for (std::size_t y = begin; y < end; ++y)
            static_cast<void>(reduced.row(static_cast<std::int64_t>(y)));
        progress.add(end - begin);
    });
    YL_CHECK(progress.finish());
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
