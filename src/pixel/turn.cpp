#include <yl/turn.hpp>

#include <cstring>

#include "base/attempt.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_at_least = 32;

bool exchanges_sides(Turn turn) {
    return turn >= Turn::transpose;
}

}  // namespace

std::string_view name(Turn turn) {
    switch (turn) {
        case Turn::none:
            return "not at all";
        case Turn::mirror:
            return "mirrored left to right";
        case Turn::half:
            return "half round";
        case Turn::flip:
            return "mirrored top to bottom";
        case Turn::transpose:
            return "rows to columns";
        case Turn::quarter_right:
            return "a quarter to the right";
        case Turn::transverse:
            return "rows to columns and half round";
        case Turn::quarter_left:
            return "a quarter to the left";
    }
    return "";
}

std::array<std::uint32_t, 2> turned_from(Turn turn, std::uint32_t x, std::uint32_t y,
                                         std::uint32_t width, std::uint32_t height) {
    const std::uint32_t right = width - 1;
    const std::uint32_t bottom = height - 1;
    switch (turn) {
        case Turn::none:
            return {x, y};
        case Turn::mirror:
            return {right - x, y};
        case Turn::half:
            return {right - x, bottom - y};
        case Turn::flip:
            return {x, bottom - y};
        case Turn::transpose:
            return {y, x};
        case Turn::quarter_right:
            return {y, bottom - x};
        case Turn::transverse:
            return {right - y, bottom - x};
        case Turn::quarter_left:
            return {right - y, x};
    }
    return {x, y};
}

Turn combined(Turn first, Turn second) {
    // Two corners of a square tell every turn apart.
    const auto corners = [](const auto& from) { return std::array{from(0U, 0U), from(1U, 0U)}; };
    const auto both = corners([&](std::uint32_t x, std::uint32_t y) {
        const auto between = turned_from(second, x, y, 2, 2);
        return turned_from(first, between[0], between[1], 2, 2);
    });
    for (const Turn turn : all_turns)
        if (both == corners([&](std::uint32_t x, std::uint32_t y) {
                return turned_from(turn, x, y, 2, 2);
            }))
            return turn;
    return Turn::none;
}

Turn inverse(Turn turn) {
    if (turn == Turn::quarter_right)
        return Turn::quarter_left;
    return turn == Turn::quarter_left ? Turn::quarter_right : turn;
}

Result<Image> turned(ConstImageView image, Turn turn) try {
    YL_CHECK(check_view(image, "image"));
    const FormatInfo& f = info(image.format);
    if (f.block_width != 1 || f.block_height != 1)
        return fail(ErrorKind::unsupported, "blocks cannot be turned");
    const bool exchange = exchanges_sides(turn);
    YL_TRY(Image result,
           Image::create(image.format, exchange ? image.height : image.width,
                         exchange ? image.width : image.height,
                         {.greatest_side = ~0U, .greatest_bytes = ~std::uint64_t{0}}));
    const ImageView target = result.view();
    const std::size_t bytes = f.block_bytes;
    parallel_ranges(target.height, rows_at_least, [&](std::size_t begin, std::size_t end) {
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            std::byte* texel = target.row(y).data();
            for (std::uint32_t x = 0; x < target.width; ++x, texel += bytes) {
                const auto [from_x, from_y] = turned_from(turn, x, y, image.width, image.height);
                std::memcpy(texel, image.data + from_y * image.row_stride + from_x * bytes, bytes);
            }
        }
    });
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
