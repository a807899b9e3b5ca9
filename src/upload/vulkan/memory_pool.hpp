// Device memory in large blocks, handed out in pieces.
#pragma once

#include <map>
#include <memory>
#include <vector>

#include <yl/vulkan.hpp>
#include "upload/vulkan/functions.hpp"

namespace yl::vulkan {

/// Pieces come from blocks of one memory type; what is large has a block of its own. A block goes
/// when its last piece does, but for one of each type.
class MemoryPool {
 public:
    MemoryPool(const Functions& vk, VkPhysicalDevice physical_device, VkDevice device);
    ~MemoryPool();
    MemoryPool(const MemoryPool&) = delete;
    MemoryPool& operator=(const MemoryPool&) = delete;

    [[nodiscard]] Result<MemoryPiece> take(const VkMemoryRequirements& wanted,
                                           VkMemoryPropertyFlags properties);
    void give_back(const MemoryPiece& piece);

    [[nodiscard]] VkDeviceSize bytes_taken() const { return bytes_taken_; }  ///< by pieces

 private:
    struct Block {
        VkMemoryPropertyFlags asked = 0;  ///< of all pieces: images and buffers keep apart
        std::uint64_t number = 0;
        std::uint32_t type = 0;
        VkDeviceMemory memory = VK_NULL_HANDLE;
        VkDeviceSize size = 0;
        std::byte* mapped = nullptr;
        std::map<VkDeviceSize, VkDeviceSize> free = {};  ///< sizes of free ranges by their offset
    };

    [[nodiscard]] std::optional<std::uint32_t> find_type(std::uint32_t allowed,
                                                         VkMemoryPropertyFlags properties) const;
    [[nodiscard]] Result<Block> new_block(std::uint32_t type, VkDeviceSize size);
    [[nodiscard]] static std::optional<MemoryPiece> cut(Block& block,
                                                        const VkMemoryRequirements& wanted);
    void release(std::size_t index);

    const Functions& vk_;
    VkDevice device_;
    VkPhysicalDeviceMemoryProperties types_ = {};
    std::vector<Block> blocks_ = {};
    std::uint64_t next_number_ = 1;
    VkDeviceSize bytes_taken_ = 0;
};

}  // namespace yl::vulkan
