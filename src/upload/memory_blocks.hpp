// Device memory in large blocks, handed out in pieces.
#pragma once

#include <algorithm>
#include <cstdint>
#include <list>
#include <map>
#include <optional>
#include <utility>

#include <yl/status_macros.hpp>
#include "base/internal.hpp"

namespace yl {

/// What is free of one block.
class YL_INTERNAL FreeRanges {
 public:
    explicit FreeRanges(std::uint64_t bytes) : bytes_(bytes) { sizes_[0] = bytes; }

    /// The offset of a piece out of the first range that is long enough.
    [[nodiscard]] std::optional<std::uint64_t> cut(std::uint64_t bytes, std::uint64_t alignment);
    void give_back(std::uint64_t offset, std::uint64_t bytes);
    [[nodiscard]] bool is_whole() const {
        return sizes_.size() == 1 && sizes_.begin()->second == bytes_;
    }

 private:
    std::uint64_t bytes_ = 0;
    std::map<std::uint64_t, std::uint64_t> sizes_ = {};  ///< of free ranges, by their offset
};

/// Pieces come from blocks of one kind; what is large has a block of its own. A block goes when its
/// last piece does, but for one of each kind. `Memory` frees itself.
template <class Kind, class Memory>
class MemoryBlocks {
 public:
    static constexpr std::uint64_t block_bytes = 32U << 20;

    struct Block {
        Kind kind = {};
        std::uint64_t number = 0;
        std::uint64_t bytes = 0;
        Memory memory = {};
        FreeRanges free{0};
    };
    struct Piece {
        Block* block = nullptr;  ///< stays where it is as long as the piece is out
        std::uint64_t offset = 0;
        std::uint64_t bytes = 0;
    };

    /// `make` gives the memory of a new block of so many bytes.
    template <class Make>
    [[nodiscard]] Result<Piece> take(const Kind& kind, std::uint64_t bytes, std::uint64_t alignment,
                                     const Make& make) {
        const bool is_large = bytes > block_bytes / 2;
        if (!is_large)
            for (Block& block : blocks_)
                if (block.kind == kind)
                    if (const auto offset = block.free.cut(bytes, alignment))
                        return taken({&block, *offset, bytes});
        const std::uint64_t size = is_large ? bytes : block_bytes;
        YL_TRY(Memory memory, make(size));
        blocks_.push_back({kind, next_number_++, size, std::move(memory), FreeRanges(size)});
        return taken({&blocks_.back(), *blocks_.back().free.cut(bytes, 1), bytes});
    }

    void give_back(const Piece& piece) {
        Block& block = *piece.block;
        bytes_taken_ -= piece.bytes;
        block.free.give_back(piece.offset, piece.bytes);
        const bool has_twin = std::ranges::count(blocks_, block.kind, &Block::kind) > 1;
        if (block.free.is_whole() && (has_twin || block.bytes != block_bytes))
            blocks_.remove_if([&](const Block& other) { return &other == &block; });
    }

    /// The block with this number; null when it is gone.
    [[nodiscard]] Block* find(std::uint64_t number) {
        const auto found = std::ranges::find(blocks_, number, &Block::number);
        return found != blocks_.end() ? &*found : nullptr;
    }

    [[nodiscard]] std::uint64_t bytes_taken() const { return bytes_taken_; }  ///< by pieces
    [[nodiscard]] std::size_t block_count() const { return blocks_.size(); }

 private:
    Piece taken(const Piece& piece) {
        bytes_taken_ += piece.bytes;
        return piece;
    }

    std::list<Block> blocks_ = {};
    std::uint64_t next_number_ = 1;
    std::uint64_t bytes_taken_ = 0;
};

}  // namespace yl
