// Device memory for images and buffers, in pieces of large blocks.
#pragma once

#include <memory>

#include <yl/vulkan.hpp>
#include "upload/memory_blocks.hpp"
#include "upload/vulkan/handle.hpp"

namespace yl::vulkan {

class MemoryPool {
 public:
    MemoryPool(const Functions& vk, VkPhysicalDevice physical_device, VkDevice device);

    [[nodiscard]] Result<MemoryPiece> take(const VkMemoryRequirements& wanted,
                                           VkMemoryPropertyFlags properties);
    void give_back(const MemoryPiece& piece);

    [[nodiscard]] VkDeviceSize bytes_taken() const { return blocks_.bytes_taken(); }  ///< by pieces

 private:
    /// Images and buffers ask for different properties. They share no block, so that the
    /// granularity between them (bufferImageGranularity) is of no concern.
    struct Kind {
        std::uint32_t type = 0;
        VkMemoryPropertyFlags asked = 0;
        bool operator==(const Kind&) const = default;
    };
    struct Memory {
        MemoryHandle handle = {};
        std::byte* mapped = nullptr;  ///< freeing it unmaps it
    };

    [[nodiscard]] std::optional<std::uint32_t> find_type(std::uint32_t allowed,
                                                         VkMemoryPropertyFlags properties) const;
    [[nodiscard]] Result<Memory> allocate(std::uint32_t type, VkDeviceSize size) const;

    const Functions& vk_;
    VkDevice device_;
    VkPhysicalDeviceMemoryProperties types_ = {};
    MemoryBlocks<Kind, Memory> blocks_ = {};
};

}  // namespace yl::vulkan
