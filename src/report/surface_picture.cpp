#include "report/surface_picture.hpp"

#include <fmt/format.h>
#include <bit>

#include <algorithm>
#include <cmath>

#include <yl/convert.hpp>
#include <yl/cube.hpp>
#include <yl/edit.hpp>
#include <yl/format.hpp>
#include <yl/resize.hpp>
#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "report/canvas.hpp"

namespace yl {
namespace {

/// In linear floats, brighter or darker.
Result<Image> exposed(ConstImageView view, float stops) {
    YL_TRY(Image image, convert(view, Format::rgba32_float, {}));
    const float factor = std::exp2(stops);
    for (std::uint32_t y = 0; y < image.height(); ++y) {
        std::byte* row = image.view().row(y).data();
        for (std::size_t i = 0; i < std::size_t{image.width()} * 4; ++i) {
            const auto value = std::bit_cast<float>(load<std::uint32_t>(row + 4 * i));
            store(row + 4 * i, std::bit_cast<std::uint32_t>(i % 4 == 3 ? value : value * factor));
        }
    }
    return image;
}

/// One channel in the first three, or all four as a shader sees them.
Swizzle shown_swizzle(const Swizzle& seen, std::optional<SwizzleSource> channel) {
    if (!channel)
        return seen;
    const auto index = static_cast<std::size_t>(*channel);
    const SwizzleSource source = index < 4 ? seen[index] : *channel;
    return {source, source, source, SwizzleSource::one};
}

/// One pixel for each texel, with straight alpha where it is coverage and 1 elsewhere.
Result<Image> texels_of(const Texture& texture, const SurfaceChoice& choice, float stops) {
    const TextureMetadata& metadata = texture.metadata;
    ConstImageView view = texture.image(choice.level, choice.layer, choice.face);
    view.data += choice.slice * texture.shape().surface_bytes(choice.level);
    Image brighter;
    const bool is_alpha = choice.channel == SwizzleSource::alpha;
    if (stops != 0 && info(view.format).is_float() && !is_alpha) {
        YL_TRY(brighter, exposed(view, stops));
        view = std::as_const(brighter).view();
    }
    const FormatInfo& f = info(view.format);
    const bool is_light = !is_alpha && (metadata.transfer == Transfer::srgb ||
                                        f.transfer == Transfer::srgb || f.is_float());
    YL_TRY(Image image, convert(view, is_light ? Format::rgba8_srgb : Format::rgba8_unorm,
                                {.source_transfer = metadata.transfer,
                                 .swizzle = shown_swizzle(metadata.swizzle, choice.channel)}));
    if (!is_light) {
        const std::uint32_t width = image.width(), height = image.height();
        YL_TRY(image, Image::adopt(std::move(image).release(), Format::rgba8_srgb, width, height));
    }
    if (metadata.alpha == AlphaMode::premultiplied && !choice.channel)
        YL_CHECK(unpremultiply(image.view(), Transfer::srgb));
    if (metadata.alpha == AlphaMode::data || metadata.alpha == AlphaMode::opaque)
        for (std::uint32_t y = 0; y < image.height(); ++y)
            for (std::size_t x = 0; x < image.width(); ++x)
                image.view().row(y)[x * 4 + 3] = std::byte{255};
    return image;
}

/// Squares of two grays behind what is not opaque, blended in linear light.
void lay_over_checkerboard(ImageView picture) {
    constexpr std::uint32_t square = 8;  // pixels
    constexpr std::array grays = {0.16F, 0.07F};
    const auto& light_of = srgb8_to_linear();
    for (std::uint32_t y = 0; y < picture.height; ++y)
        for (std::uint32_t x = 0; x < picture.width; ++x) {
            std::byte* pixel = picture.row(y).data() + std::size_t{x} * 4;
            if (pixel[3] == std::byte{255})
                continue;
            const float alpha = static_cast<float>(pixel[3]) / 255;
            const float behind = grays[(x / square + y / square) % 2] * (1 - alpha);
            for (std::size_t c = 0; c < 3; ++c) {
                const float light = light_of[std::to_integer<std::size_t>(pixel[c])];
                pixel[c] = std::byte{linear_to_srgb8(light * alpha + behind)};
            }
            pixel[3] = std::byte{255};
        }
}

Result<Image> face_picture(const Texture& texture, const SurfaceChoice& choice, std::uint32_t width,
                           std::uint32_t height, float stops) {
    YL_TRY(Image image, texels_of(texture, choice, stops));
    if (image.width() != width || image.height() != height) {
        YL_TRY(image, resize(std::as_const(image).view(), width, height,
                             {.kernel = {.kind = Kernel::Kind::box}}));
    }
    lay_over_checkerboard(image.view());
    return image;
}

/// The six faces as they join, each with its name where there is room.
Result<Image> cross_picture(const Texture& texture, SurfaceChoice choice, std::uint32_t side,
                            float stops) {
    constexpr std::array<std::array<std::uint32_t, 2>, 6> places = {
        {{2, 1}, {0, 1}, {1, 0}, {1, 2}, {1, 1}, {3, 1}}};
    YL_TRY(Canvas canvas, Canvas::create(4 * side, 3 * side, paper));
    for (choice.face = 0; choice.face < 6; ++choice.face) {
        YL_TRY(const Image picture, face_picture(texture, choice, side, side, stops));
        const std::uint32_t x = places[choice.face][0] * side, y = places[choice.face][1] * side;
        canvas.place(x, y, picture.view());
        const CubeFace face = all_cube_faces[choice.face];
        const std::string label = fmt::format("{} {}", axis_name(face), name(face));
        if (text_width(label, TextSize::small) + 8 > side)
            continue;
        canvas.text(x + 5, y + 5, label, TextSize::small, {0, 0, 0});
        canvas.text(x + 4, y + 4, label, TextSize::small, title_ink);
    }
    return std::move(canvas).take();
}

}  // namespace

std::array<std::uint32_t, 2> picture_size(const TextureShape& shape, const SurfaceChoice& choice,
                                          std::uint32_t longest, bool enlarged) {
    const std::uint32_t width = shape.width_at(choice.level),
                        height = shape.height_at(choice.level);
    const std::uint32_t longer = std::max(width, height);
    // Each level is shown half as large as the one above, until it has its own size.
    constexpr std::uint32_t smallest = 32;  // pixels, of levels that are shown smaller
    const std::uint32_t halved = std::min(longest, std::max(longest >> choice.level, smallest));
    const std::uint32_t target = enlarged ? longest : std::min(longer, halved);
    if (shape.faces == 6)
        return {4 * target, 3 * target};
    const auto side = [&](std::uint32_t texels) {
        const double pixels = static_cast<double>(texels) * target / longer;
        return std::max(static_cast<std::uint32_t>(pixels + 0.5), 1U);
    };
    return {side(width), side(height)};
}

Result<Image> surface_picture(const Texture& texture, const SurfaceChoice& choice,
                              std::uint32_t longest, bool enlarged, float stops) {
    const auto [width, height] = picture_size(texture.shape(), choice, longest, enlarged);
    return texture.shape().faces == 6 ? cross_picture(texture, choice, height / 3, stops)
                                      : face_picture(texture, choice, width, height, stops);
}

}  // namespace yl
