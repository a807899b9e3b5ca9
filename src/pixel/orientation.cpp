#include <yl/edit.hpp>

#include <cstring>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 32;

}  // namespace

bool exchanges_sides(Orientation orientation) {
    return orientation >= Orientation::transpose;
}

std::string_view name(Orientation orientation) {
    switch (orientation) {
        case Orientation::none:
            return "not at all";
        case Orientation::mirror:
            return "mirrored left to right";
        case Orientation::half:
            return "half round";
        case Orientation::flip:
            return "mirrored top to bottom";
        case Orientation::transpose:
            return "rows to columns";
        case Orientation::quarter_right:
            return "a quarter to the right";
        case Orientation::transverse:
            return "rows to columns and half round";
        case Orientation::quarter_left:
            return "a quarter to the left";
    }
    return "";
}

std::array<std::uint32_t, 2> orientation_source(Orientation orientation, std::uint32_t x,
                                                std::uint32_t y, std::uint32_t width,
                                                std::uint32_t height) {
    const std::uint32_t right = width - 1;
    const std::uint32_t bottom = height - 1;
    switch (orientation) {
        case Orientation::none:
            return {x, y};
        case Orientation::mirror:
            return {right - x, y};
        case Orientation::half:
            return {right - x, bottom - y};
        case Orientation::flip:
            return {x, bottom - y};
        case Orientation::transpose:
            return {y, x};
        case Orientation::quarter_right:
            return {y, bottom - x};
        case Orientation::transverse:
            return {right - y, bottom - x};
        case Orientation::quarter_left:
            return {right - y, x};
    }
    return {x, y};
}

Orientation combined(Orientation first, Orientation second) {
    // Two corners of a square tell every turn apart.
    const auto corners = [](const auto& from) { return std::array{from(0U, 0U), from(1U, 0U)}; };
    const auto both = corners([&](std::uint32_t x, std::uint32_t y) {
        const auto between = orientation_source(second, x, y, 2, 2);
        return orientation_source(first, between[0], between[1], 2, 2);
    });
    for (const Orientation orientation : all_orientations)
        if (both == corners([&](std::uint32_t x, std::uint32_t y) {
                return orientation_source(orientation, x, y, 2, 2);
            }))
            return orientation;
    return Orientation::none;
}

Orientation inverse(Orientation orientation) {
    if (orientation == Orientation::quarter_right)
        return Orientation::quarter_left;
    return orientation == Orientation::quarter_left ? Orientation::quarter_right : orientation;
}

Result<Image> with_orientation(ConstImageView image, Orientation orientation) try {
    YL_CHECK(check_view(image, "image"));
    const FormatInfo& f = info(image.format);
    if (f.block_width != 1 || f.block_height != 1)
        return fail(ErrorKind::unsupported, "blocks cannot be turned");
    const bool exchange = exchanges_sides(orientation);
    YL_TRY(Image result, Image::create(image.format, exchange ? image.height : image.width,
                                       exchange ? image.width : image.height, Limits::none()));
    const ImageView target = result.view();
    const std::size_t bytes = f.block_bytes;
    parallel_ranges(target.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            std::byte* texel = target.row(y).data();
            for (std::uint32_t x = 0; x < target.width; ++x, texel += bytes) {
                const auto [from_x, from_y] =
                    orientation_source(orientation, x, y, image.width, image.height);
                std::memcpy(texel, image.data + from_y * image.row_stride + from_x * bytes, bytes);
            }
        }
    });
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
