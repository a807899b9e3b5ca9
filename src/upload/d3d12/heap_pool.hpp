// Heaps for textures, in pieces as small as Direct3D allows.
#pragma once

#include <memory>

#include "upload/d3d12/com.hpp"
#include "upload/memory_blocks.hpp"

namespace yl::d3d12 {

/// Heaps that hold textures which are neither drawn into nor hold depths: all devices have those.
class HeapPool : public std::enable_shared_from_this<HeapPool> {
    struct Kind {
        bool operator==(const Kind&) const = default;
    };
    using Heaps = MemoryBlocks<Kind, Owned<ID3D12Heap>>;

 public:
    explicit HeapPool(ID3D12Device* device) : device_(device) {}

    /// A piece of a heap, which goes back at the end of its scope.
    class Placement {
     public:
        Placement() = default;
        Placement(std::shared_ptr<HeapPool> pool, const Heaps::Piece& piece)
            : pool_(std::move(pool)), piece_(piece) {}
        Placement(Placement&& other) noexcept = default;
        Placement& operator=(Placement&& other) noexcept {
            std::swap(pool_, other.pool_);
            std::swap(piece_, other.piece_);
            return *this;
        }
        Placement(const Placement&) = delete;
        Placement& operator=(const Placement&) = delete;
        ~Placement() {
            if (pool_ != nullptr)
                pool_->heaps_.give_back(piece_);
        }
        [[nodiscard]] ID3D12Heap* heap() const { return piece_.block->memory.get(); }
        [[nodiscard]] std::uint64_t offset() const { return piece_.offset; }
        [[nodiscard]] std::uint64_t bytes() const { return piece_.bytes; }
        explicit operator bool() const { return pool_ != nullptr; }

     private:
        std::shared_ptr<HeapPool> pool_ = {};  ///< null: no placement
        Heaps::Piece piece_ = {};
    };

    /// Room for a texture; sets the alignment of its description. None for what is to be committed:
    /// large ones, and those that are drawn into.
    [[nodiscard]] Result<Placement> place(const TextureShape& shape, D3D12_RESOURCE_DESC& desc);

    [[nodiscard]] std::uint64_t bytes_taken() const { return heaps_.bytes_taken(); }
    [[nodiscard]] std::size_t heap_count() const { return heaps_.block_count(); }

 private:
    [[nodiscard]] D3D12_RESOURCE_ALLOCATION_INFO needs(const TextureShape& shape,
                                                       D3D12_RESOURCE_DESC& desc) const;
    [[nodiscard]] Result<Owned<ID3D12Heap>> make_heap(std::uint64_t bytes) const;

    ID3D12Device* device_;
    Heaps heaps_ = {};
};

/// Whether Direct3D lets a texture begin at multiples of 4 KiB: its largest level has at most 16
/// tiles of that size.
[[nodiscard]] bool takes_small_alignment(const TextureShape& shape);

}  // namespace yl::d3d12
