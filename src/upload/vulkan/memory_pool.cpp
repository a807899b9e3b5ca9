#include "upload/vulkan/memory_pool.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"

namespace yl::vulkan {
namespace {

constexpr VkDeviceSize block_bytes = 32U << 20;

}  // namespace

MemoryPool::MemoryPool(const Functions& vk, VkPhysicalDevice physical_device, VkDevice device)
    : vk_(vk), device_(device) {
    vk.GetPhysicalDeviceMemoryProperties(physical_device, &types_);
}

MemoryPool::~MemoryPool() {
    while (!blocks_.empty())
        release(blocks_.size() - 1);
}

void MemoryPool::release(std::size_t index) {
    vk_.FreeMemory(device_, blocks_[index].memory, nullptr);  // which unmaps it
    blocks_.erase(blocks_.begin() + static_cast<std::ptrdiff_t>(index));
}

std::optional<std::uint32_t> MemoryPool::find_type(std::uint32_t allowed,
                                                   VkMemoryPropertyFlags properties) const {
    for (std::uint32_t type = 0; type < types_.memoryTypeCount; ++type)
        if ((allowed >> type & 1) != 0 &&
            (types_.memoryTypes[type].propertyFlags & properties) == properties)
            return type;
    return std::nullopt;
}

Result<MemoryPool::Block> MemoryPool::new_block(std::uint32_t type, VkDeviceSize size) {
    VkMemoryAllocateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_MEMORY_ALLOCATE_INFO;
    info.allocationSize = size;
    info.memoryTypeIndex = type;
    Block block;
    block.number = next_number_++;
    block.type = type;
    block.size = size;
    YL_CHECK(
        check(vk_.AllocateMemory(device_, &info, nullptr, &block.memory), "take device memory"));
    block.free[0] = size;
    const auto flags = types_.memoryTypes[type].propertyFlags;
    if ((flags & VK_MEMORY_PROPERTY_HOST_VISIBLE_BIT) == 0)
        return block;
    void* mapped = nullptr;
    const Status status =
        check(vk_.MapMemory(device_, block.memory, 0, VK_WHOLE_SIZE, 0, &mapped), "map memory");
    if (!status) {
        vk_.FreeMemory(device_, block.memory, nullptr);
        return tl::unexpected(status.error());
    }
    block.mapped = static_cast<std::byte*>(mapped);
    return block;
}

/// The first free range that is long enough.
std::optional<MemoryPiece> MemoryPool::cut(Block& block, const VkMemoryRequirements& wanted) {
    for (const auto& [begin, size] : block.free) {
        const VkDeviceSize offset = round_up(begin, std::max<VkDeviceSize>(wanted.alignment, 1));
        const VkDeviceSize end = begin + size;
        if (offset > end || end - offset < wanted.size)
            continue;
        const VkDeviceSize free_begin = begin;
        block.free.erase(free_begin);
        if (offset > free_begin)
            block.free[free_begin] = offset - free_begin;
        if (end > offset + wanted.size)
            block.free[offset + wanted.size] = end - offset - wanted.size;
        return MemoryPiece{block.memory, offset, wanted.size,
                           block.mapped != nullptr ? block.mapped + offset : nullptr, block.number};
    }
    return std::nullopt;
}

Result<MemoryPiece> MemoryPool::take(const VkMemoryRequirements& wanted,
                                     VkMemoryPropertyFlags properties) {
    const auto type = find_type(wanted.memoryTypeBits, properties);
    if (!type)
        return fail(ErrorKind::device, "the Vulkan device has no memory of the kind needed");
    const bool is_large = wanted.size > block_bytes / 2;
    for (Block& block : blocks_)
        // Images and buffers ask for different properties. They share no block, so that the
        // granularity between them (bufferImageGranularity) is of no concern.
        if (block.type == *type && block.asked == properties && !is_large)
            if (auto piece = cut(block, wanted)) {
                bytes_taken_ += piece->size;
                return *piece;
            }
    const VkDeviceSize size = is_large ? wanted.size : block_bytes;
    YL_TRY(Block block, new_block(*type, size));
    block.asked = properties;
    blocks_.push_back(std::move(block));
    const auto piece = cut(blocks_.back(), wanted);
    if (!piece)
        return fail(ErrorKind::limit,
                    fmt::format("{} bytes do not fit a block of {}", wanted.size, size));
    bytes_taken_ += piece->size;
    return *piece;
}

void MemoryPool::give_back(const MemoryPiece& piece) {
    const auto block = std::ranges::find(blocks_, piece.tag, &Block::number);
    if (block == blocks_.end())
        return;
    bytes_taken_ -= piece.size;
    auto range = block->free.emplace(piece.offset, piece.size).first;
    if (const auto next = std::next(range);
        next != block->free.end() && range->first + range->second == next->first) {
        range->second += next->second;
        block->free.erase(next);
    }
    if (range != block->free.begin()) {
        const auto before = std::prev(range);
        if (before->first + before->second == range->first) {
            before->second += range->second;
            block->free.erase(range);
        }
    }
    const bool is_empty = block->free.size() == 1 && block->free.begin()->second == block->size;
    const bool has_twin = std::ranges::count_if(blocks_, [&](const Block& other) {
                              return other.type == block->type && other.asked == block->asked;
                          }) > 1;
    if (is_empty && (has_twin || block->size != block_bytes))
        release(static_cast<std::size_t>(block - blocks_.begin()));
}

}  // namespace yl::vulkan
