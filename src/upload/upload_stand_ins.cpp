#include <yl/upload_stand_ins.hpp>

#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "upload/stand_in_memory.hpp"

namespace yl {
namespace {

tl::unexpected<Error> broken(std::string rule) {
    return fail(ErrorKind::usage, std::move(rule));
}

/// A subresource's whole box.
TextureBox whole_box(const StandInMemory& memory, std::uint32_t subresource) {
    const TextureShape& shape = memory.texture.shape();
    TextureBox box = memory.box_in(subresource % shape.levels, subresource / shape.levels);
    box.width = shape.width_at(box.level);
    box.height = shape.height_at(box.level);
    box.depth = shape.depth_at(box.level);
    return box;
}

std::uint32_t subresources(const TextureShape& shape) {
    return shape.levels * shape.layers * shape.faces;
}

}  // namespace

Direct3d11StandIn::Direct3d11StandIn(std::unique_ptr<StandInMemory> memory, Direct3d11Usage usage)
    : memory_(std::move(memory)), usage_(usage) {}
Direct3d11StandIn::Direct3d11StandIn(Direct3d11StandIn&&) noexcept = default;
Direct3d11StandIn& Direct3d11StandIn::operator=(Direct3d11StandIn&&) noexcept = default;
Direct3d11StandIn::~Direct3d11StandIn() = default;

Result<Direct3d11StandIn> Direct3d11StandIn::create(const TextureShape& shape,
                                                    Direct3d11Usage usage,
                                                    std::span<const Direct3d11Data> initial) try {
    YL_TRY(const DeviceProfile profile, find_profile("d3d11"));
    YL_CHECK(check_planned(shape, profile));
    YL_TRY(auto memory, StandInMemory::create(shape));
    if (usage == Direct3d11Usage::immutable && initial.empty())
        return broken("an immutable texture is made without data");
    if (usage == Direct3d11Usage::dynamic && subresources(shape) != 1)
        return broken("a dynamic texture has more than one level, layer or face");
    if (!initial.empty() && initial.size() != subresources(shape))
        return broken(fmt::format("there are {} initial data for {} subresources", initial.size(),
                                  subresources(shape)));
    for (std::uint32_t i = 0; i < initial.size(); ++i) {
        const TextureBox box = whole_box(*memory, i);
        const Direct3d11Data& data = initial[i];
        YL_CHECK(memory->check_rows(box, data.memory.size(), data.row_pitch, data.depth_pitch));
        memory->write(box, data.memory.data(), data.row_pitch, data.depth_pitch);
    }
    return Direct3d11StandIn(std::move(memory), usage);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status Direct3d11StandIn::update_subresource(std::uint32_t subresource,
                                             const std::optional<Direct3d11Box>& b,
                                             const Direct3d11Data& data) {
    const TextureShape& shape = memory_->texture.shape();
    if (usage_ == Direct3d11Usage::immutable || usage_ == Direct3d11Usage::dynamic)
        return broken("UpdateSubresource takes no immutable or dynamic textures");
    if (subresource >= subresources(shape))
        return broken(fmt::format("there is no subresource {}", subresource));
    if (mapped_ == subresource)
        return broken(fmt::format("subresource {} is mapped", subresource));
    TextureBox box = whole_box(*memory_, subresource);
    if (b) {
        if (b->right <= b->left || b->bottom <= b->top || b->back <= b->front)
            return broken("the box is empty");
        box.x = b->left;
        box.y = b->top;
        box.z = b->front;
        box.width = b->right - b->left;
        box.height = b->bottom - b->top;
        box.depth = b->back - b->front;
        // Boxes are of whole blocks, beyond the end of small levels as well.
        YL_CHECK(memory_->check_box(box, true));
    }
    YL_CHECK(memory_->check_rows(box, data.memory.size(), data.row_pitch, data.depth_pitch));
    memory_->write(box, data.memory.data(), data.row_pitch, data.depth_pitch);
    return {};
}

Result<Direct3d11Mapped> Direct3d11StandIn::map(std::uint32_t subresource) try {
    const TextureShape& shape = memory_->texture.shape();
    if (usage_ != Direct3d11Usage::dynamic && usage_ != Direct3d11Usage::staging)
        return broken("Map takes dynamic and staging textures");
    if (subresource >= subresources(shape))
        return broken(fmt::format("there is no subresource {}", subresource));
    if (mapped_)
        return broken(fmt::format("subresource {} is mapped already", *mapped_));
    const TextureBox box = whole_box(*memory_, subresource);
    // No program can rely on tight rows: there is always some room behind them, and behind slices.
    constexpr std::uint64_t room = 64;
    const std::uint64_t row = round_up(shape.row_bytes(box.level), room) + room;
    const std::uint64_t rows = shape.surface_bytes(box.level) / shape.row_bytes(box.level);
    const std::uint64_t slice = row * (rows + 1);
    mapping_.assign(slice * box.depth, std::byte{0xCD});
    mapped_ = subresource;
    return Direct3d11Mapped{mapping_, static_cast<std::uint32_t>(row),
                            static_cast<std::uint32_t>(slice)};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status Direct3d11StandIn::unmap(std::uint32_t subresource) {
    if (mapped_ != subresource)
        return broken(fmt::format("subresource {} is not mapped", subresource));
    const TextureBox box = whole_box(*memory_, subresource);
    const std::uint64_t slice = mapping_.size() / box.depth;
    const TextureShape& shape = memory_->texture.shape();
    const std::uint64_t rows = shape.surface_bytes(box.level) / shape.row_bytes(box.level);
    memory_->write(box, mapping_.data(), slice / (rows + 1), slice);
    mapped_.reset();
    return {};
}

const Texture& Direct3d11StandIn::contents() const {
    return memory_->texture;
}

bool Direct3d11StandIn::is_complete() const {
    return memory_->is_complete();
}

MetalStandIn::MetalStandIn(std::unique_ptr<StandInMemory> memory, MetalStorage storage)
    : memory_(std::move(memory)), storage_(storage) {}
MetalStandIn::MetalStandIn(MetalStandIn&&) noexcept = default;
MetalStandIn& MetalStandIn::operator=(MetalStandIn&&) noexcept = default;
MetalStandIn::~MetalStandIn() = default;

Result<MetalStandIn> MetalStandIn::create(const TextureShape& shape, MetalStorage storage) try {
    YL_TRY(const DeviceProfile profile, find_profile("metal"));
    YL_CHECK(check_planned(shape, profile));
    YL_TRY(auto memory, StandInMemory::create(shape));
    return MetalStandIn(std::move(memory), storage);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status MetalStandIn::write(const MetalRegion& region, std::uint32_t level, std::uint32_t slice,
                           std::span<const std::byte> bytes, std::uint64_t bytes_per_row,
                           std::uint64_t bytes_per_image) {
    const TextureShape& shape = memory_->texture.shape();
    const FormatInfo& f = info(shape.format);
    TextureBox box = memory_->box_in(level, slice);
    box.x = region.x;
    box.y = region.y;
    box.z = region.z;
    box.width = region.width;
    box.height = region.height;
    box.depth = region.depth;
    YL_CHECK(memory_->check_box(box, false));
    if (bytes_per_row % f.block_bytes != 0)
        return broken(fmt::format("{} bytes per row are no multiple of {}'s {}", bytes_per_row,
                                  f.name, f.block_bytes));
    if (shape.dimensions() == 3 && region.depth > 1) {
        if (bytes_per_row == 0 || bytes_per_image % bytes_per_row != 0)
            return broken(fmt::format("{} bytes per image are no multiple of the {} per row",
                                      bytes_per_image, bytes_per_row));
    }
    YL_CHECK(memory_->check_rows(box, bytes.size(), bytes_per_row, bytes_per_image));
    memory_->write(box, bytes.data(), bytes_per_row, bytes_per_image);
    return {};
}

Status MetalStandIn::replace_region(const MetalRegion& region, std::uint32_t level,
                                    std::uint32_t slice, std::span<const std::byte> bytes,
                                    std::uint64_t bytes_per_row, std::uint64_t bytes_per_image) {
    if (storage_ == MetalStorage::device_private)
        return broken(
            "replaceRegion takes no textures of the storage mode private: use a blit "
            "encoder");
    if (memory_->texture.shape().dimensions() != 3 && bytes_per_image != 0)
        return broken("bytesPerImage is 0 but for volumes");
    return write(region, level, slice, bytes, bytes_per_row, bytes_per_image);
}

Status MetalStandIn::copy_from_buffer(std::span<const std::byte> buffer, std::uint64_t offset,
                                      std::uint64_t bytes_per_row, std::uint64_t bytes_per_image,
                                      const MetalRegion& region, std::uint32_t slice,
                                      std::uint32_t level) {
    const FormatInfo& f = info(memory_->texture.shape().format);
    constexpr std::uint64_t most_texels = 32767;
    if (offset % f.block_bytes != 0)
        return broken(fmt::format("byte {} of the buffer is no multiple of {}'s {}", offset, f.name,
                                  f.block_bytes));
    if (offset > buffer.size())
        return broken("a region leaves its memory");
    if (!f.is_block() && bytes_per_row > most_texels * f.block_bytes)
        return broken(
            fmt::format("{} bytes per row are more than {} texels", bytes_per_row, most_texels));
    return write(region, level, slice, buffer.subspan(offset), bytes_per_row, bytes_per_image);
}

const Texture& MetalStandIn::contents() const {
    return memory_->texture;
}

bool MetalStandIn::is_complete() const {
    return memory_->is_complete();
}

std::uint32_t metal_texture_type(const TextureShape& shape) {
    // MTLTextureType1D, 1DArray, 2D, 2DArray, 2DMultisample, Cube, CubeArray, 3D
    const bool is_array = shape.is_array || shape.layers > 1;
    constexpr std::uint32_t line = 0, plane = 2, cube = 5, volume = 7;
    if (shape.dimensions() == 3)
        return volume;
    const std::uint32_t kind = shape.faces == 6 ? cube : shape.dimensions() == 1 ? line : plane;
    return kind + (is_array ? 1 : 0);
}

std::array<std::uint32_t, 4> metal_swizzle(const Swizzle& swizzle) {
    constexpr std::uint32_t zero = 0, one = 1, red = 2;
    std::array<std::uint32_t, 4> numbers{};
    for (std::size_t c = 0; c < numbers.size(); ++c)
        numbers[c] = swizzle[c] == SwizzleSource::zero ? zero
                     : swizzle[c] == SwizzleSource::one
                         ? one
                         : red + static_cast<std::uint32_t>(swizzle[c]);
    return numbers;
}

}  // namespace yl
