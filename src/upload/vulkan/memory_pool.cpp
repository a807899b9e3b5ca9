#include "upload/vulkan/memory_pool.hpp"

#include <yl/status_macros.hpp>

namespace yl::vulkan {

MemoryPool::MemoryPool(const Functions& vk, VkPhysicalDevice physical_device, VkDevice device)
    : vk_(vk), device_(device) {
    vk.GetPhysicalDeviceMemoryProperties(physical_device, &types_);
}

std::optional<std::uint32_t> MemoryPool::find_type(std::uint32_t allowed,
                                                   VkMemoryPropertyFlags properties) const {
    for (std::uint32_t type = 0; type < types_.memoryTypeCount; ++type)
        if ((allowed >> type & 1) != 0 &&
            (types_.memoryTypes[type].propertyFlags & properties) == properties)
            return type;
    return std::nullopt;
}

Result<MemoryPool::Memory> MemoryPool::allocate(std::uint32_t type, VkDeviceSize size) const {
    VkMemoryAllocateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_MEMORY_ALLOCATE_INFO;
    info.allocationSize = size;
    info.memoryTypeIndex = type;
    VkDeviceMemory allocated = VK_NULL_HANDLE;
    YL_CHECK(check(vk_.AllocateMemory(device_, &info, nullptr, &allocated), "take device memory"));
    Memory memory;
    memory.handle = MemoryHandle(vk_, device_, allocated);
    if ((types_.memoryTypes[type].propertyFlags & VK_MEMORY_PROPERTY_HOST_VISIBLE_BIT) == 0)
        return memory;
    void* mapped = nullptr;
    YL_CHECK(check(vk_.MapMemory(device_, allocated, 0, VK_WHOLE_SIZE, 0, &mapped), "map memory"));
    memory.mapped = static_cast<std::byte*>(mapped);
    return memory;
}

Result<MemoryPiece> MemoryPool::take(const VkMemoryRequirements& wanted,
                                     VkMemoryPropertyFlags properties) {
    const auto type = find_type(wanted.memoryTypeBits, properties);
    if (!type)
        return fail(ErrorKind::device, "the Vulkan device has no memory of the kind needed");
    YL_TRY(const auto piece,
           blocks_.take({*type, properties}, wanted.size, wanted.alignment,
                        [&](VkDeviceSize size) { return allocate(*type, size); }));
    const Memory& memory = piece.block->memory;
    return MemoryPiece{memory.handle.get(), piece.offset, piece.bytes,
                       memory.mapped != nullptr ? memory.mapped + piece.offset : nullptr,
                       piece.block->number};
}

void MemoryPool::give_back(const MemoryPiece& piece) {
    if (auto* block = blocks_.find(piece.tag))
        blocks_.give_back({block, piece.offset, piece.size});
}

}  // namespace yl::vulkan
