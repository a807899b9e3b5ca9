#include "upload/vulkan/context.hpp"

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "upload/vulkan/image.hpp"

namespace yl::vulkan {

Context::~Context() {
    if (staging != nullptr)
        static_cast<void>(staging->wait_all());
    released.release_all();
    staging.reset();
    samplers.reset();
    pool.reset();
}

Result<MemoryPiece> Context::take_memory(const VkMemoryRequirements& wanted,
                                         VkMemoryPropertyFlags properties) {
    if (handles.allocator)
        return handles.allocator->take(wanted, properties);
    return pool->take(wanted, properties);
}

void Context::give_back(const MemoryPiece& piece) {
    if (handles.allocator)
        handles.allocator->give_back(piece);
    else
        pool->give_back(piece);
}

void Context::set_label(VkObjectType type, std::uint64_t object, const std::string& label) const {
    if (vk.SetDebugUtilsObjectNameEXT == nullptr || label.empty())
        return;
    VkDebugUtilsObjectNameInfoEXT info{};
    info.sType = VK_STRUCTURE_TYPE_DEBUG_UTILS_OBJECT_NAME_INFO_EXT;
    info.objectType = type;
    info.objectHandle = object;
    info.pObjectName = label.c_str();
    vk.SetDebugUtilsObjectNameEXT(handles.device, &info);
}

Result<HostBuffer> HostBuffer::create(Context& context, VkDeviceSize bytes,
                                      VkBufferUsageFlags usage) try {
    VkBufferCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_BUFFER_CREATE_INFO;
    info.size = bytes;
    info.usage = usage;
    info.sharingMode = VK_SHARING_MODE_EXCLUSIVE;
    // Levels that are shown already are copied by the queue that samples them.
    const std::uint32_t families[] = {context.handles.queue_family,
                                      context.handles.transfer_family};
    if (context.has_two_families()) {
        info.sharingMode = VK_SHARING_MODE_CONCURRENT;
        info.queueFamilyIndexCount = 2;
        info.pQueueFamilyIndices = families;
    }
    VkBuffer buffer = VK_NULL_HANDLE;
    YL_CHECK(
        check(context.vk.CreateBuffer(context.device(), &info, nullptr, &buffer), "make a buffer"));
    HostBuffer result;
    result.buffer = BufferHandle(context.vk, context.device(), buffer);
    result.bytes = bytes;
    VkMemoryRequirements wanted{};
    context.vk.GetBufferMemoryRequirements(context.device(), buffer, &wanted);
    YL_TRY(const MemoryPiece piece,
           context.take_memory(
               wanted, VK_MEMORY_PROPERTY_HOST_VISIBLE_BIT | VK_MEMORY_PROPERTY_HOST_COHERENT_BIT));
    result.memory = OwnedMemory(context, piece);
    if (piece.mapped == nullptr)
        return fail(ErrorKind::usage, "the program's allocator has not mapped memory for the host");
    YL_CHECK(
        check(context.vk.BindBufferMemory(context.device(), buffer, piece.memory, piece.offset),
              "bind a buffer's memory"));
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::vulkan
