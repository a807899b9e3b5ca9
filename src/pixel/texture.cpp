#include <yl/texture.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {

std::uint32_t full_level_count(std::uint32_t width, std::uint32_t height, std::uint32_t depth) {
    return static_cast<std::uint32_t>(std::bit_width(std::max({width, height, depth, 1U})));
}

std::uint64_t TextureShape::row_bytes(std::uint32_t level) const {
    const FormatInfo& f = info(format);
    return ceil_div(width_at(level), f.block_width) * f.block_bytes;
}

std::uint64_t TextureShape::surface_bytes(std::uint32_t level) const {
    return row_bytes(level) * ceil_div(height_at(level), info(format).block_height);
}

std::uint64_t TextureShape::level_bytes(std::uint32_t level) const {
    return surface_bytes(level) * depth_at(level) * layers * faces;
}

std::uint64_t TextureShape::total_bytes() const {
    std::uint64_t total = 0;
    for (std::uint32_t level = 0; level < levels; ++level)
        total += level_bytes(level);
    return total;
}

bool have_equal_sizes(const TextureShape& a, const TextureShape& b) {
    return a.width == b.width && a.height == b.height && a.depth == b.depth &&
           a.layers == b.layers && a.faces == b.faces;
}

Status check_shape(const TextureShape& shape, const Limits& limits) {
    const FormatInfo* format = find_format(shape.format);
    if (format == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("format number {} is not in the format table",
                                static_cast<std::uint32_t>(shape.format)));
    const auto size = fmt::format("{} x {} x {}", shape.width, shape.height, shape.depth);
    if (std::min({shape.width, shape.height, shape.depth, shape.layers}) == 0)
        return fail(ErrorKind::usage, fmt::format("a texture of {} texels and {} layers is empty",
                                                  size, shape.layers));
    if (std::max({shape.width, shape.height, shape.depth}) > limits.max_side)
        return fail(ErrorKind::limit, fmt::format("{} texels exceed the limit of {} for a side",
                                                  size, limits.max_side));
    const std::uint32_t most_levels = full_level_count(shape.width, shape.height, shape.depth);
    if (shape.levels == 0 || shape.levels > most_levels)
        return fail(ErrorKind::usage,
                    fmt::format("{} levels do not fit {} texels, which have 1 to {}", shape.levels,
                                size, most_levels));
    if (shape.faces != 1 &&
        (shape.faces != 6 || shape.width != shape.height || shape.dimensions() == 3))
        return fail(ErrorKind::usage,
                    fmt::format("{} faces of {} texels make no cube: a cube has 6 square faces",
                                shape.faces, size));
    if (shape.is_1d && (shape.height != 1 || shape.depth != 1 || shape.is_3d || shape.faces != 1 ||
                        format->is_block()))
        return fail(ErrorKind::usage,
                    fmt::format("{} texels of {} make no line: a line has one side, and no blocks",
                                size, format->name));
    if (shape.dimensions() == 3 && (shape.is_array || shape.layers != 1))
        return fail(ErrorKind::usage,
                    fmt::format("{} layers of volumes cannot be stored", shape.layers));
    if (!shape.is_array && shape.layers != 1)
        return fail(ErrorKind::usage, fmt::format("{} layers need an array", shape.layers));
    // The levels of a chain take less than twice the top level's bytes.
    CheckedSize bytes = CheckedSize(ceil_div(shape.width, format->block_width)) *
                        ceil_div(shape.height, format->block_height) * format->block_bytes *
                        shape.depth * shape.layers * shape.faces;
    if (!(bytes * 2).overflowed())
        bytes = shape.total_bytes();
    if (!bytes.fits(limits.max_bytes))
        return fail(ErrorKind::limit,
                    fmt::format("{} texels of {} in {} levels, {} layers and {} faces "
                                "exceed the limit of {} bytes",
                                size, format->name, shape.levels, shape.layers, shape.faces,
                                limits.max_bytes));
    return {};
}

Result<Texture> Texture::create(const TextureShape& shape, const Limits& limits) try {
    YL_CHECK(check_shape(shape, limits));
    Texture texture;
    std::uint64_t size = 0;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        size = round_up(size, Buffer::alignment);
        texture.level_offsets_.push_back(static_cast<std::size_t>(size));
        size += shape.level_bytes(level);
    }
    YL_TRY(texture.pixels_, Buffer::allocate(size));
    texture.shape_ = shape;
    texture.metadata.transfer = info(shape.format).transfer;
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Texture::Texture(Texture&& other) noexcept
    : metadata(std::move(other.metadata)),
      shape_(std::exchange(other.shape_, {})),
      level_offsets_(std::exchange(other.level_offsets_, {})),
      pixels_(std::move(other.pixels_)) {}

Texture& Texture::operator=(Texture&& other) noexcept {
    metadata = std::move(other.metadata);
    shape_ = std::exchange(other.shape_, {});
    level_offsets_ = std::exchange(other.level_offsets_, {});
    pixels_ = std::move(other.pixels_);
    return *this;
}

Result<Texture> Texture::clone() const try {
    Texture copy;
    YL_TRY(copy.pixels_, Buffer::allocate(pixels_.size()));
    std::ranges::copy(pixels_.bytes(), copy.pixels_.data());
    copy.metadata = metadata;
    copy.shape_ = shape_;
    copy.level_offsets_ = level_offsets_;
    return copy;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

std::optional<std::size_t> Texture::surface_offset(std::uint32_t level, std::uint32_t layer,
                                                   std::uint32_t face) const {
    if (is_empty() || level >= shape_.levels || layer >= shape_.layers || face >= shape_.faces)
        return std::nullopt;
    const std::uint64_t index =
        (std::uint64_t{layer} * shape_.faces + face) * shape_.depth_at(level);
    return level_offsets_[level] + static_cast<std::size_t>(index * shape_.surface_bytes(level));
}

ImageView Texture::image(std::uint32_t level, std::uint32_t layer, std::uint32_t face) & {
    const auto offset = surface_offset(level, layer, face);
    if (!offset)
        return {};
    return {pixels_.data() + *offset, shape_.format, shape_.width_at(level),
            shape_.height_at(level), static_cast<std::size_t>(shape_.row_bytes(level))};
}

ConstImageView Texture::image(std::uint32_t level, std::uint32_t layer, std::uint32_t face) const& {
    const auto offset = surface_offset(level, layer, face);
    if (!offset)
        return {};
    return {pixels_.data() + *offset, shape_.format, shape_.width_at(level),
            shape_.height_at(level), static_cast<std::size_t>(shape_.row_bytes(level))};
}

std::span<std::byte> Texture::level(std::uint32_t level) & {
    if (is_empty() || level >= shape_.levels)
        return {};
    return pixels_.bytes().subspan(level_offsets_[level],
                                   static_cast<std::size_t>(shape_.level_bytes(level)));
}

std::span<const std::byte> Texture::level(std::uint32_t level) const& {
    if (is_empty() || level >= shape_.levels)
        return {};
    return pixels_.bytes().subspan(level_offsets_[level],
                                   static_cast<std::size_t>(shape_.level_bytes(level)));
}

TextureShape shape_without_top_levels(const TextureShape& shape, std::uint32_t levels) {
    const std::uint32_t dropped = std::min(levels, shape.levels - 1);
    TextureShape rest = shape;
    rest.is_3d = shape.dimensions() == 3;  // although its depth may have become 1
    rest.width = shape.width_at(dropped);
    rest.height = shape.height_at(dropped);
    rest.depth = shape.depth_at(dropped);
    rest.levels = shape.levels - dropped;
    if (rest.depth > 1)
        rest.is_3d = shape.is_3d;
    return rest;
}

Result<Texture> without_top_levels(const Texture& texture, std::uint32_t levels) try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_TRY(Texture rest,
           Texture::create(shape_without_top_levels(texture.shape(), levels), Limits::none()));
    rest.metadata = texture.metadata;
    const std::uint32_t dropped = texture.shape().levels - rest.shape().levels;
    for (std::uint32_t level = 0; level < rest.shape().levels; ++level)
        std::ranges::copy(texture.level(level + dropped), rest.level(level).begin());
    return rest;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> with_origin(const Texture& texture, Origin origin) try {
    YL_CHECK(check_texture(texture, "texture"));
    const TextureShape& shape = texture.shape();
    const bool turns = texture.metadata.origin != origin && !shape.is_1d;
    if (turns && info(shape.format).is_block())
        return fail(ErrorKind::unsupported,
                    fmt::format("the rows of {} cannot change their order; decode it first",
                                info(shape.format).name));
    YL_TRY(Texture result, Texture::create(shape, Limits::none()));
    result.metadata = texture.metadata;
    result.metadata.origin = origin;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const auto from = texture.level(level);
        const auto to = result.level(level);
        const auto row_bytes = static_cast<std::size_t>(shape.row_bytes(level));
        const std::size_t height = turns ? shape.height_at(level) : 1;
        const std::size_t bytes = turns ? row_bytes : from.size();
        for (std::size_t at = 0; at < from.size(); at += height * bytes)
            for (std::size_t y = 0; y < height; ++y)
                std::copy_n(from.data() + at + (height - 1 - y) * bytes, bytes,
                            to.data() + at + y * bytes);
    }
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
