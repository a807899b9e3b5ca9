// Levels and surfaces out of texture files, by their layout.
#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include <yl/status_macros.hpp>
#include "base/file.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "container/texture_format.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

struct Place {
    std::uint32_t level, layer, face, slice;
};

Status check_place(const TextureShape& shape, const Place& at) {
    if (at.level < shape.levels && at.layer < shape.layers && at.face < shape.faces &&
        at.slice < shape.depth_at(at.level))
        return {};
    return fail(ErrorKind::usage,
                fmt::format("the texture has no level {}, layer {}, face {}, slice {}", at.level,
                            at.layer, at.face, at.slice));
}

/// One surface into rows of any stride.
Status copy_surface(const ByteSource& source, const TextureLayout& layout, const Place& at,
                    std::vector<std::byte>& space, ImageView target) {
    const TextureShape& shape = layout.shape;
    const auto row_bytes = static_cast<std::size_t>(shape.row_bytes(at.level));
    const auto surface_bytes = static_cast<std::size_t>(shape.surface_bytes(at.level));
    const auto rows = static_cast<std::uint32_t>(surface_bytes / row_bytes);
    const int face = layout.stored_face[at.face];
    if (face < 0) {
        for (std::uint32_t row = 0; row < rows; ++row)
            std::ranges::fill(target.row(row), std::byte{0});
        return {};
    }
    const LevelPlace& place = layout.levels[at.level];
    const std::uint64_t offset = place.offset + at.layer * place.layer_stride +
                                 static_cast<std::uint64_t>(face) * place.face_stride +
                                 at.slice * place.slice_stride;
    const bool is_tight = place.row_stride == row_bytes && target.row_stride == row_bytes;
    if (!layout.expansion.expand && is_tight)
        return source.read(offset, {target.data, surface_bytes});
    YL_TRY(const ByteSpan stored, source.piece(offset, place.slice_stride, space));
    for (std::uint32_t row = 0; row < rows; ++row) {
        const std::byte* texels = stored.data() + row * place.row_stride;
        if (layout.expansion.expand)
            layout.expansion.expand(texels, target.row(row).data(), shape.width_at(at.level));
        else
            std::memcpy(target.row(row).data(), texels, row_bytes);
    }
    return {};
}

/// Whether a level lies in the file just as it lies in a texture.
bool is_as_in_texture(const TextureLayout& layout, std::uint32_t level) {
    const LevelPlace& place = layout.levels[level];
    const TextureShape& shape = layout.shape;
    const LevelPlace tight = layout.tight_place(level, place.offset, place.length);
    return !layout.expansion.expand && layout.stored_face == std::array<int, 6>{0, 1, 2, 3, 4, 5} &&
           place.row_stride == tight.row_stride &&
           (shape.depth == 1 || place.slice_stride == tight.slice_stride) &&
           (shape.faces == 1 || place.face_stride == tight.face_stride) &&
           (shape.layers == 1 || place.layer_stride == tight.layer_stride);
}

}  // namespace

LevelPlace TextureLayout::tight_place(std::uint32_t level, std::uint64_t offset,
                                      std::uint64_t length) const {
    LevelPlace place{.offset = offset, .length = length};
    place.row_stride = shape.row_bytes(level);
    place.slice_stride = shape.surface_bytes(level);
    place.face_stride = place.slice_stride * shape.depth_at(level);
    place.layer_stride = place.face_stride * shape.faces;
    return place;
}

const TextureShape& TextureStream::shape() const {
    return layout_->shape;
}
const TextureMetadata& TextureStream::metadata() const {
    return layout_->metadata;
}
const TextureFileInfo& TextureStream::info() const {
    return layout_->info;
}

Result<ConstImageView> TextureStream::surface(std::uint32_t level, std::uint32_t layer,
                                              std::uint32_t face, std::uint32_t slice) const& try {
    const TextureShape& shape = layout_->shape;
    YL_CHECK(check_place(shape, {level, layer, face, slice}));
    const int stored_face = layout_->stored_face[face];
    if (!source_->is_in_memory())
        return fail(ErrorKind::unsupported,
                    "the file is read on demand: its levels have to be read");
    if (layout_->unpack || layout_->expansion.expand || stored_face < 0)
        return fail(ErrorKind::unsupported,
                    "the file's bytes are not the texture's: its levels have to be read");
    const LevelPlace& place = layout_->levels[level];
    const std::uint64_t offset = place.offset + layer * place.layer_stride +
                                 static_cast<std::uint64_t>(stored_face) * place.face_stride +
                                 slice * place.slice_stride;
    return ConstImageView{source_->memory().data() + offset, shape.format, shape.width_at(level),
                          shape.height_at(level), static_cast<std::size_t>(place.row_stride)};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status TextureStream::read_surface(ImageView target, std::uint32_t level, std::uint32_t layer,
                                   std::uint32_t face, std::uint32_t slice) const try {
    YL_CHECK(check_view(target, "target"));
    const TextureShape& shape = layout_->shape;
    YL_CHECK(check_place(shape, {level, layer, face, slice}));
    if (target.format != shape.format || target.width != shape.width_at(level) ||
        target.height != shape.height_at(level))
        return fail_at({ErrorKind::usage,
                        fmt::format("{} x {} texels in {} were asked for; the level has {} x {} in "
                                    "{}",
                                    target.width, target.height, yl::info(target.format).name,
                                    shape.width_at(level), shape.height_at(level),
                                    yl::info(shape.format).name)},
                       "target");
    std::vector<std::byte> space;
    if (!layout_->unpack)
        return copy_surface(*source_, *layout_, {level, layer, face, slice}, space, target);
    std::vector<std::byte> all(static_cast<std::size_t>(shape.level_bytes(level)));
    YL_CHECK(read_level(level, all));
    const LevelPlace place = layout_->tight_place(level, 0, all.size());
    const std::byte* from = all.data() + layer * place.layer_stride + face * place.face_stride +
                            slice * place.slice_stride;
    for (std::uint32_t row = 0; row < target.row_count(); ++row)
        std::memcpy(target.row(row).data(), from + row * place.row_stride, target.row_bytes());
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status TextureStream::read_level(std::uint32_t level, std::span<std::byte> target) const try {
    const TextureShape& shape = layout_->shape;
    if (level >= shape.levels || target.size() != shape.level_bytes(level))
        return fail(ErrorKind::usage,
                    level >= shape.levels
                        ? fmt::format("the texture has levels 0 to {}", shape.levels - 1)
                        : fmt::format("level {} has {} bytes, not {}", level,
                                      shape.level_bytes(level), target.size()));
    const LevelPlace& place = layout_->levels[level];
    std::vector<std::byte> space;
    if (layout_->unpack) {
        YL_TRY(const ByteSpan stored, source_->piece(place.offset, place.length, space));
        if (auto unpacked = layout_->unpack(stored, target); !unpacked)
            return fail(unpacked.error().kind,
                        fmt::format("level {}: its {}", level, unpacked.error().message),
                        place.offset);
        return {};
    }
    if (is_as_in_texture(*layout_, level))
        return source_->read(place.offset, target);
    std::byte* out = target.data();
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face)
            for (std::uint32_t slice = 0; slice < shape.depth_at(level); ++slice) {
                YL_CHECK(
                    copy_surface(*source_, *layout_, {level, layer, face, slice}, space,
                                 {out, shape.format, shape.width_at(level), shape.height_at(level),
                                  static_cast<std::size_t>(shape.row_bytes(level))}));
                out += shape.surface_bytes(level);
            }
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status TextureStream::read_smallest_first(std::uint32_t first_level,
                                          const LevelHandler& handler) const try {
    if (first_level >= shape().levels)
        return fail(ErrorKind::usage,
                    fmt::format("the texture has levels 0 to {}", shape().levels - 1));
    std::vector<std::byte> texels;
    for (std::uint32_t level = shape().levels; level-- > first_level;) {
        texels.resize(static_cast<std::size_t>(shape().level_bytes(level)));
        YL_CHECK(read_level(level, texels));
        if (!handler(level, texels))
            return {};
    }
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> TextureStream::read_all(std::uint32_t first_level) const try {
    if (first_level >= shape().levels)
        return fail(ErrorKind::usage,
                    fmt::format("the texture has levels 0 to {}", shape().levels - 1));
    const TextureShape rest = shape_without_top_levels(shape(), first_level);
    YL_TRY(Texture texture, Texture::create(rest, Limits::none()));
    texture.metadata = layout_->metadata;
    std::vector<Status> read(rest.levels);
    ProgressCounter progress(progress_, Phase::reading, rest.total_bytes());
    const auto read_one = [&](std::size_t level) {
        const auto number = static_cast<std::uint32_t>(level);
        if (progress.cancelled())
            return;
        read[level] = read_level(first_level + number, texture.level(number));
        progress.add(texture.level(number).size());
    };
    if (layout_->unpack)
        parallel_each(rest.levels, read_one);
    else
        for (std::size_t level = 0; level < rest.levels; ++level)
            read_one(level);
    for (const Status& status : read)
        YL_CHECK(status);
    YL_CHECK(progress.finish());
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
