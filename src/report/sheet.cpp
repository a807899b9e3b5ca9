#include <yl/sheet.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/block.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "report/canvas.hpp"
#include "report/panel_sizes.hpp"
#include "report/surface_picture.hpp"

namespace yl {
namespace {

constexpr std::uint32_t gap = 10;
constexpr std::uint32_t lowest_column = 200;            ///< pixels
constexpr std::uint32_t smallest_top_level = 8;         ///< pixels, of the longer side
constexpr std::uint32_t smallest_enlarged_level = 256;  ///< unless the sheet has no room for it

std::string label_of(const SurfaceChoice& choice, const TextureShape& shape) {
    constexpr std::array channels = {"red", "green", "blue", "alpha", "zero", "one"};
    std::string text = fmt::format("level {}: {} x {}", choice.level, shape.width_at(choice.level),
                                   shape.height_at(choice.level));
    if (shape.is_array || shape.layers > 1)
        text += fmt::format(", layer {}", choice.layer);
    if (shape.depth > 1)
        text += fmt::format(", slice {}", choice.slice);
    if (choice.channel)
        text += fmt::format(", {}", channels[static_cast<std::size_t>(*choice.channel)]);
    return text;
}

using Chain = std::vector<SurfaceChoice>;

/// One for each layer, each slice of level 0, and each channel that is shown alone.
std::vector<Chain> chains_of(const TextureShape& shape, const SheetOptions& options) {
    std::vector<std::optional<SwizzleSource>> channels(options.channels.begin(),
                                                       options.channels.end());
    if (channels.empty())
        channels.emplace_back();
    std::vector<Chain> chains;
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t slice = 0; slice < shape.depth; ++slice)
            for (const auto& channel : channels) {
                chains.emplace_back();
                for (std::uint32_t level = 0; level < shape.levels; ++level)
                    if (slice < shape.depth_at(level))
                        chains.back().push_back({level, layer, 0, slice, channel});
            }
    return chains;
}

/// Where one surface and its label go.
struct Placed {
    SurfaceChoice choice = {};
    std::string label = {};
    std::array<std::uint32_t, 2> size = {};
    std::uint32_t x = 0, y = 0;
};

struct Page {
    std::vector<Placed> pictures = {};
    std::uint32_t width = 0, height = 0;
    std::vector<std::string> heading = {};
};

/// A chain at true size: the top level, and beside it the others, one below the other.
Page lay_out_chain(const TextureShape& shape, const Chain& chain, std::uint32_t longest) {
    const std::uint32_t line = line_height(TextSize::small) + gap / 2;
    Page block;
    std::uint32_t x = 0, y = 0, widest = 0;
    for (const SurfaceChoice& choice : chain) {
        Placed placed{choice, label_of(choice, shape), picture_size(shape, choice, longest, false)};
        const std::uint32_t width =
            std::max(placed.size[0], text_width(placed.label, TextSize::small));
        const std::uint32_t height = placed.size[1] + line + gap;
        const bool starts_column =
            block.pictures.size() == 1 ||
            (y > 0 && y + height > std::max(block.pictures[0].size[1] + 4 * line, lowest_column));
        if (starts_column) {
            x += widest + gap;
            y = 0;
            widest = 0;
        }
        placed.x = x;
        placed.y = y;
        block.pictures.push_back(std::move(placed));
        y += height;
        widest = std::max(widest, width);
        block.width = std::max(block.width, x + width);
        block.height = std::max(block.height, y);
    }
    return block;
}

/// Chains stand side by side as long as they fit into the width.
Page lay_out_chains(const TextureShape& shape, const std::vector<Chain>& chains,
                    const std::string& heading, std::uint32_t longest, std::uint32_t max_width) {
    Page page;
    page.heading = heading_lines(heading, max_width);
    const std::uint32_t top = page_margin + heading_height(page.heading);
    page.width = 2 * page_margin + widest_of(page.heading);
    std::uint32_t x = page_margin, y = top, row_height = 0;
    for (const Chain& chain : chains) {
        Page block = lay_out_chain(shape, chain, longest);
        if (x > page_margin && x + block.width + page_margin > max_width) {
            x = page_margin;
            y += row_height;
            row_height = 0;
        }
        for (Placed& placed : block.pictures) {
            placed.x += x;
            placed.y += y;
            page.pictures.push_back(std::move(placed));
        }
        page.width = std::max(page.width, x + block.width + page_margin);
        row_height = std::max(row_height, block.height);
        page.height = std::max(page.height, y + row_height + page_margin);
        x += block.width + 2 * gap;
    }
    return page;
}

/// The largest from `smallest` to `largest` with which the sheet fits; `size_at` gives its sides.
template <class SizeAt>
Result<std::uint32_t> largest_that_fits(std::uint32_t smallest, std::uint32_t largest,
                                        std::uint32_t max_side, const SizeAt& size_at) {
    const auto longer = [&](std::uint32_t side) {
        const auto size = size_at(side);
        return std::max(size[0], size[1]);
    };
    smallest = std::min(smallest, largest);
    if (longer(smallest) > max_side)
        return fail_at({ErrorKind::usage,
                        fmt::format("the sheet does not fit into {} pixels: its longer side needs "
                                    "{} at the least",
                                    max_side, longer(smallest))},
                       "max_side");
    while (smallest < largest) {
        const std::uint32_t middle = smallest + (largest - smallest + 1) / 2;
        if (longer(middle) <= max_side)
            smallest = middle;
        else
            largest = middle - 1;
    }
    return smallest;
}

Result<Image> true_size_sheet(const Texture& texture, const std::string& heading,
                              const SheetOptions& options) {
    const TextureShape& shape = texture.shape();
    const auto chains = chains_of(shape, options);
    const auto page_at = [&](std::uint32_t longest) {
        return lay_out_chains(shape, chains, heading, longest, options.max_side);
    };
    YL_TRY(const std::uint32_t longest,
           largest_that_fits(smallest_top_level, std::max(shape.width, shape.height),
                             options.max_side, [&](std::uint32_t side) {
                                 const Page page = page_at(side);
                                 return std::array{page.width, page.height};
                             }));
    const Page page = page_at(longest);
    YL_TRY(Canvas canvas, Canvas::create(page.width, page.height, paper));
    write_heading(canvas, page.heading);
    for (const Placed& placed : page.pictures) {
        YL_TRY(const Image picture,
               surface_picture(texture, placed.choice, longest, false, options.stops));
        canvas.place(placed.x, placed.y, picture.view());
        canvas.text(placed.x, placed.y + placed.size[1] + gap / 2, placed.label, TextSize::small,
                    title_ink);
    }
    return std::move(canvas).take();
}

/// The texels of the top level are squares of whole pixels where there is room.
std::uint32_t whole_multiple(std::uint32_t side, std::uint32_t texels) {
    return side > texels ? side / texels * texels : side;
}

Result<Image> enlarged_sheet(const Texture& texture, const std::string& heading,
                             const SheetOptions& options) {
    const TextureShape& shape = texture.shape();
    Chain all;
    for (const Chain& chain : chains_of(shape, options))
        all.insert(all.end(), chain.begin(), chain.end());
    const auto size_at = [&](std::uint32_t side) {
        std::vector<PanelSize> panels;
        for (const SurfaceChoice& choice : all) {
            const auto [width, height] = picture_size(shape, choice, side, true);
            panels.push_back({width, height, label_of(choice, shape), ""});
        }
        return panels_size(panels, options.columns, heading);
    };
    const std::uint32_t texels = std::max(shape.width, shape.height);
    YL_TRY(std::uint32_t side,
           largest_that_fits(smallest_top_level, std::max(texels, smallest_enlarged_level),
                             options.max_side, size_at));
    side = whole_multiple(side, texels);
    std::vector<LabelledPicture> pictures;
    for (const SurfaceChoice& choice : all) {
        YL_TRY(Image picture, surface_picture(texture, choice, side, true, options.stops));
        pictures.push_back({std::move(picture), label_of(choice, shape), ""});
    }
    return arrange_panels(pictures, options.columns, heading);
}

}  // namespace

Result<Image> level_sheet(const Texture& texture, const std::string& heading,
                          const SheetOptions& options) try {
    YL_CHECK(check_texture(texture, "texture"));
    if (info(texture.shape().format).is_block()) {
        YL_TRY(const Texture texels, decode_texture(texture));
        return level_sheet(texels, heading, options);
    }
    return options.enlarged ? enlarged_sheet(texture, heading, options)
                            : true_size_sheet(texture, heading, options);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
