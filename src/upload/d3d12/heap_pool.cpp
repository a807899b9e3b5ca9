#include "upload/d3d12/heap_pool.hpp"

#include <bit>
#include <limits>

#include <yl/status_macros.hpp>

namespace yl::d3d12 {

bool takes_small_alignment(const TextureShape& shape) {
    // A tile of 4 KiB is square, or twice as wide as it is high.
    constexpr std::uint64_t tile_bytes = D3D12_SMALL_RESOURCE_PLACEMENT_ALIGNMENT, most_tiles = 16;
    const FormatInfo& f = info(shape.format);
    if (!std::has_single_bit(unsigned{f.block_bytes}))
        return false;
    const unsigned bits = std::countr_zero(tile_bytes) - std::countr_zero(unsigned{f.block_bytes});
    const std::uint64_t width = f.block_width * (std::uint64_t{1} << (bits + 1) / 2);
    const std::uint64_t height = f.block_height * (std::uint64_t{1} << bits / 2);
    const auto tiles = [](std::uint64_t side, std::uint64_t tile) {
        return (side + tile - 1) / tile;
    };
    return tiles(shape.width, width) * tiles(shape.height, height) * shape.depth <= most_tiles;
}

D3D12_RESOURCE_ALLOCATION_INFO HeapPool::needs(const TextureShape& shape,
                                               D3D12_RESOURCE_DESC& desc) const {
    constexpr std::uint64_t refused = std::numeric_limits<std::uint64_t>::max();
    if (takes_small_alignment(shape)) {
        desc.Alignment = D3D12_SMALL_RESOURCE_PLACEMENT_ALIGNMENT;
        const auto small = device_->GetResourceAllocationInfo(0, 1, &desc);
        if (small.SizeInBytes != refused && small.Alignment == desc.Alignment)
            return small;
    }
    desc.Alignment = 0;
    return device_->GetResourceAllocationInfo(0, 1, &desc);
}

Result<Owned<ID3D12Heap>> HeapPool::make_heap(std::uint64_t bytes) const {
    D3D12_HEAP_DESC desc{};
    desc.SizeInBytes = bytes;
    desc.Properties.Type = D3D12_HEAP_TYPE_DEFAULT;
    desc.Alignment = D3D12_DEFAULT_RESOURCE_PLACEMENT_ALIGNMENT;
    desc.Flags = D3D12_HEAP_FLAG_ALLOW_ONLY_NON_RT_DS_TEXTURES;
    Owned<ID3D12Heap> heap;
    YL_CHECK(check(device_->CreateHeap(&desc, iid_of<ID3D12Heap>(), heap.place()), "make a heap"));
    return heap;
}

Result<HeapPool::Placement> HeapPool::place(const TextureShape& shape, D3D12_RESOURCE_DESC& desc) {
    constexpr unsigned drawn_into = static_cast<unsigned>(D3D12_RESOURCE_FLAG_ALLOW_RENDER_TARGET) |
                                    static_cast<unsigned>(D3D12_RESOURCE_FLAG_ALLOW_DEPTH_STENCIL);
    if ((static_cast<unsigned>(desc.Flags) & drawn_into) != 0)
        return Placement{};
    const D3D12_RESOURCE_ALLOCATION_INFO needed = needs(shape, desc);
    if (needed.SizeInBytes > Heaps::block_bytes / 2) {
        desc.Alignment = 0;
        return Placement{};
    }
    YL_TRY(const auto piece, heaps_.take({}, needed.SizeInBytes, needed.Alignment,
                                         [&](std::uint64_t bytes) { return make_heap(bytes); }));
    return Placement(shared_from_this(), piece);
}

}  // namespace yl::d3d12
