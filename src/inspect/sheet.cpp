#include <yl/sheet.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <yl/alpha.hpp>
#include <yl/block.hpp>
#include <yl/convert.hpp>
#include <yl/cube.hpp>
#include <yl/panels.hpp>
#include <yl/resize.hpp>
#include "base/attempt.hpp"
#include "base/out_of_memory.hpp"
#include "inspect/canvas.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

constexpr std::uint32_t gap = 10;
constexpr std::array<float, 3> behind = {0.03F, 0.03F, 0.03F};

struct Surface {
    std::uint32_t level = 0, layer = 0, face = 0, slice = 0;
};

std::string label_of(const Surface& surface, const TextureShape& shape) {
    std::string text = fmt::format("level {}: {} x {}", surface.level,
                                   shape.width_at(surface.level), shape.height_at(surface.level));
    if (shape.is_array || shape.layers > 1)
        text += fmt::format(", layer {}", surface.layer);
    if (shape.depth > 1)
        text += fmt::format(", slice {}", surface.slice);
    return text;
}

/// In linear floats, brighter or darker.
Result<Image> exposed(ConstImageView view, float stops) {
    YL_TRY(Image image, convert(view, Format::rgba32_float, {}));
    const float factor = std::exp2(stops);
    for (std::uint32_t y = 0; y < image.height(); ++y) {
        auto* values = reinterpret_cast<float*>(image.view().row(y).data());
        for (std::size_t i = 0; i < std::size_t{image.width()} * 4; ++i)
            values[i] *= i % 4 == 3 ? 1 : factor;
    }
    return image;
}

/// A surface as it is looked at, `rgba8-srgb`.
Result<Image> shown(const Texture& texture, const Surface& surface, float stops) {
    const TextureTraits& traits = texture.traits;
    ConstImageView view = texture.image(surface.level, surface.layer, surface.face);
    view.data += surface.slice * texture.shape().surface_bytes(surface.level);
    Image brighter;
    if (stops != 0 && info(view.format).is_float()) {
        YL_TRY(brighter, exposed(view, stops));
        view = std::as_const(brighter).view();
    }
    const FormatInfo& f = info(view.format);
    const bool is_light =
        traits.transfer == Transfer::srgb || f.transfer == Transfer::srgb || f.is_float();
    YL_TRY(Image image, convert(view, is_light ? Format::rgba8_srgb : Format::rgba8_unorm,
                                {.source_transfer = traits.transfer, .swizzle = traits.swizzle}));
    if (!is_light) {
        const std::uint32_t width = image.width(), height = image.height();
        YL_TRY(image, Image::adopt(std::move(image).release(), Format::rgba8_srgb, width, height));
    }
    YL_CHECK(lay_over(image.view(), behind, Transfer::srgb));
    return image;
}

Result<Image> resized_to(Image image, std::uint32_t longer_side) {
    const double scale = static_cast<double>(longer_side) / std::max(image.width(), image.height());
    const auto side = [&](std::uint32_t texels) {
        return std::max(static_cast<std::uint32_t>(texels * scale + 0.5), 1U);
    };
    if (scale == 1)
        return image;
    return resize(std::as_const(image).view(), side(image.width()), side(image.height()),
                  {.kernel = {.kind = Kernel::Kind::box}});
}

/// The six faces as they join, each with its name where there is room.
Result<Image> shown_cross(const Texture& texture, const Surface& surface, std::uint32_t face_side,
                          float stops) {
    constexpr std::array<std::array<std::uint32_t, 2>, 6> places = {
        {{2, 1}, {0, 1}, {1, 0}, {1, 2}, {1, 1}, {3, 1}}};
    YL_TRY(Canvas canvas, Canvas::create(4 * face_side, 3 * face_side, paper));
    for (std::uint32_t face = 0; face < 6; ++face) {
        YL_TRY(Image whole, shown(texture, {surface.level, surface.layer, face, 0}, stops));
        YL_TRY(const Image picture, resized_to(std::move(whole), face_side));
        const std::uint32_t x = places[face][0] * face_side, y = places[face][1] * face_side;
        canvas.place(x, y, picture.view());
        const std::string label =
            fmt::format("{} {}", axis_name(all_cube_faces[face]), name(all_cube_faces[face]));
        if (text_width(label, TextSize::small) + 8 > face_side)
            continue;
        canvas.text(x + 5, y + 5, label, TextSize::small, {0, 0, 0});
        canvas.text(x + 4, y + 4, label, TextSize::small, title_ink);
    }
    return std::move(canvas).take();
}

Result<Image> shown_at(const Texture& texture, const Surface& surface, std::uint32_t longer_side,
                       float stops) {
    if (texture.shape().faces == 6)
        return shown_cross(texture, surface, longer_side, stops);
    YL_TRY(Image image, shown(texture, surface, stops));
    return resized_to(std::move(image), longer_side);
}

/// One row of the sheet for each layer and slice of level 0: its chain. Cubes are whole.
std::vector<std::vector<Surface>> chains_of(const TextureShape& shape) {
    std::vector<std::vector<Surface>> chains;
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t slice = 0; slice < shape.depth; ++slice) {
            chains.emplace_back();
            for (std::uint32_t level = 0; level < shape.levels; ++level)
                if (slice < shape.depth_at(level))
                    chains.back().push_back({level, layer, 0, slice});
        }
    return chains;
}

/// A chain at true size: the top level, and beside it the others, one below the other.
struct Placed {
    Image picture = {};
    std::string label = {};
    std::uint32_t x = 0, y = 0;
};

struct Block {
    std::vector<Placed> pictures = {};
    std::uint32_t width = 0, height = 0;
};

Result<Block> lay_out_chain(const Texture& texture, const std::vector<Surface>& chain,
                            const SheetOptions& options) {
    const std::uint32_t line = line_height(TextSize::small) + gap / 2;
    Block block;
    std::uint32_t x = 0, y = 0, widest = 0;
    for (const Surface& surface : chain) {
        const std::uint32_t longer = std::max(texture.shape().width_at(surface.level),
                                              texture.shape().height_at(surface.level));
        YL_TRY(Image picture,
               shown_at(texture, surface, std::min(longer, options.greatest_side), options.stops));
        const std::string label = label_of(surface, texture.shape());
        const std::uint32_t width = std::max(picture.width(), text_width(label, TextSize::small));
        const std::uint32_t height = picture.height() + line + gap;
        const bool starts_column =
            block.pictures.size() == 1 ||
            (y > 0 && y + height > block.pictures[0].picture.height() + 4 * line);
        if (starts_column) {
            x += widest + gap;
            y = 0;
            widest = 0;
        }
        block.pictures.push_back({std::move(picture), label, x, y});
        y += height;
        widest = std::max(widest, width);
        block.width = std::max(block.width, x + width);
        block.height = std::max(block.height, y);
    }
    return block;
}

Result<Image> true_size_sheet(const Texture& texture, const std::string& heading,
                              const SheetOptions& options) {
    std::vector<Block> blocks;
    std::uint64_t height = page_margin + line_height(TextSize::large) + gap;
    std::uint32_t width = text_width(heading, TextSize::large);
    for (const auto& chain : chains_of(texture.shape())) {
        YL_TRY(Block block, lay_out_chain(texture, chain, options));
        width = std::max(width, block.width);
        height += block.height;
        blocks.push_back(std::move(block));
    }
    height += page_margin;
    if (height > 65535)
        return fail(ErrorKind::usage,
                    fmt::format("a sheet of {} chains would be {} pixels high; choose a smaller "
                                "greatest side",
                                blocks.size(), height));
    YL_TRY(Canvas canvas,
           Canvas::create(width + 2 * page_margin, static_cast<std::uint32_t>(height), paper));
    canvas.text(page_margin, page_margin, heading, TextSize::large, heading_ink);
    std::uint32_t top = page_margin + line_height(TextSize::large) + gap;
    for (const Block& block : blocks) {
        for (const Placed& placed : block.pictures) {
            canvas.place(page_margin + placed.x, top + placed.y, placed.picture.view());
            canvas.text(page_margin + placed.x, top + placed.y + placed.picture.height() + gap / 2,
                        placed.label, TextSize::small, title_ink);
        }
        top += block.height;
    }
    return std::move(canvas).take();
}

}  // namespace

Result<Image> level_sheet(const Texture& texture, const std::string& heading,
                          const SheetOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    if (info(texture.shape().format).is_block()) {
        YL_TRY(const Texture texels, decode_texture(texture));
        return level_sheet(texels, heading, options);
    }
    const TextureShape& shape = texture.shape();
    if (!options.enlarged)
        return true_size_sheet(texture, heading, options);
    const std::uint32_t side = std::min(std::max(shape.width, shape.height), options.greatest_side);
    std::vector<LabelledPicture> pictures;
    for (const auto& chain : chains_of(shape))
        for (const Surface& surface : chain) {
            YL_TRY(Image picture, shown_at(texture, surface, side, options.stops));
            pictures.push_back({std::move(picture), label_of(surface, shape), ""});
        }
    return arrange_panels(pictures, options.columns, heading);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
