#include "bake/atlas/cells.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <yl/status_macros.hpp>
#include "bake/chain.hpp"
#include "pixel/rows.hpp"

namespace yl::atlas {
namespace {

/// How many texels beyond the cell a tile's chain has to see, in whole texels of its last level.
std::uint32_t margin_of(const AtlasPart& part, const MipOptions& mips, const CellRule& rule) {
    if (!part.repeats)
        return 0;
    // Each level reaches `reach` of its texels further than the level above it.
    const double reach = std::ceil(mips.kernel.value_or(Kernel{}).reach());
    return static_cast<std::uint32_t>(2 * reach) << rule.last_clean_level;
}

/// The texel of the content that shows at a place beside it.
std::uint32_t source_of(std::int64_t place, std::uint32_t side, bool repeats) {
    const std::int64_t last = std::int64_t{side} - 1;
    if (!repeats)
        return static_cast<std::uint32_t>(std::clamp<std::int64_t>(place, 0, last));
    const std::int64_t rest = place % std::int64_t{side};
    return static_cast<std::uint32_t>(rest < 0 ? rest + side : rest);
}

/// The content with its surroundings; (`left`, `top`) is where it begins.
void spread(ConstImageView content, ImageView target, std::int64_t left, std::int64_t top,
            bool repeats) {
    const std::size_t bytes = info(content.format).block_bytes;
    for (std::uint32_t y = 0; y < target.height; ++y) {
        const auto from = content.row(source_of(y - top, content.height, repeats));
        const auto to = target.row(y);
        for (std::uint32_t x = 0; x < target.width; ++x) {
            const std::size_t source = source_of(x - left, content.width, repeats);
            std::copy_n(from.begin() + static_cast<std::ptrdiff_t>(source * bytes), bytes,
                        to.begin() + static_cast<std::ptrdiff_t>(x * bytes));
        }
    }
}

void copy_box(ConstImageView source, std::uint32_t from_x, std::uint32_t from_y, ImageView target,
              const Box& to) {
    const std::size_t bytes = info(source.format).block_bytes;
    for (std::uint32_t y = 0; y < to.height; ++y)
        std::ranges::copy(source.row(from_y + y).subspan(from_x * bytes, to.width * bytes),
                          target.row(to.y + y).subspan(to.x * bytes).begin());
}

}  // namespace

CellRule CellRule::of(Format format, std::uint32_t last_clean_level) {
    const FormatInfo& f = info(format);
    const std::uint32_t texel = 1U << last_clean_level;  // of the last clean level
    const std::uint32_t block = std::lcm(f.block_width, f.block_height);
    return {last_clean_level, texel * block, texel};
}

Box visible_box(const Texture& texture) {
    const ConstImageView image = texture.image(0);
    const TextureMetadata& metadata = texture.metadata;
    const RowCodec codec = row_codec(image.format, metadata.transfer);
    std::uint32_t left = image.width, right = 0, top = image.height, bottom = 0;
    std::vector<float> rgba(std::size_t{4} * image.width);
    for (std::uint32_t y = 0; y < image.height; ++y) {
        codec.load(image.row(y).data(), rgba.data(), image.width);
        apply_swizzle(metadata.swizzle, rgba.data(), image.width);
        for (std::uint32_t x = 0; x < image.width; ++x)
            if (rgba[4 * x + 3] > 0) {
                left = std::min(left, x);
                right = std::max(right, x + 1);
                top = std::min(top, y);
                bottom = y + 1;
            }
    }
    return left < right ? Box{left, top, right - left, bottom - top} : Box{0, 0, 1, 1};
}

Status fill_cell(Texture& atlas, const AtlasPart& part, ConstImageView content,
                 const BakeOptions& options, Role role, const CellRule& rule) {
    MipOptions mips = chain_options(options, role);
    mips.edges = {Edge::clamp, Edge::clamp};
    mips.progress = {};
    const std::uint32_t margin = margin_of(part, mips, rule);
    const std::uint32_t levels = std::min(rule.last_clean_level + 1, atlas.shape().levels);
    YL_TRY(Texture own, Texture::create({.format = content.format,
                                         .width = part.cell.width + 2 * margin,
                                         .height = part.cell.height + 2 * margin,
                                         .levels = levels}));
    own.metadata = atlas.metadata;
    spread(content, own.image(0), std::int64_t{margin} + part.box.x - part.cell.x,
           std::int64_t{margin} + part.box.y - part.cell.y, part.repeats);
    YL_CHECK(fill_levels(own, mips, options));
    for (std::uint32_t level = 0; level < levels; ++level) {
        const Box& cell = part.cell;
        copy_box(std::as_const(own).image(level), margin >> level, margin >> level,
                 atlas.image(level, part.layer),
                 {cell.x >> level, cell.y >> level, cell.width >> level, cell.height >> level});
    }
    return {};
}

Status fill_mixed_levels(Texture& atlas, const BakeOptions& options, Role role,
                         const CellRule& rule) {
    const TextureShape& shape = atlas.shape();
    const std::uint32_t last = rule.last_clean_level;
    if (shape.levels <= last + 1)
        return {};
    TextureShape rest = shape;
    rest.width = shape.width_at(last);
    rest.height = shape.height_at(last);
    rest.levels = shape.levels - last;
    YL_TRY(Texture mixed, Texture::create(rest));
    mixed.metadata = atlas.metadata;
    std::ranges::copy(std::as_const(atlas).level(last), mixed.level(0).begin());
    YL_CHECK(fill_levels(mixed, chain_options(options, role), options));
    for (std::uint32_t level = 1; level < rest.levels; ++level)
        std::ranges::copy(std::as_const(mixed).level(level), atlas.level(last + level).begin());
    return {};
}

}  // namespace yl::atlas
