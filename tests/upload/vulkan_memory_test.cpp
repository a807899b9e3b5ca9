// Memory in pieces, on functions that only count; and a driver that fails on request.
#include <map>

#include "upload/kinds.hpp"
#include "upload/vulkan/memory_pool.hpp"
#include "upload/vulkan_fixture.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;

namespace {

/// A device with two kinds of memory, of which nothing is real but the counts.
struct CountedMemory {
    static inline std::map<std::uint64_t, VkDeviceSize> blocks = {};
    static inline std::uint64_t next = 1;
    static inline VkDeviceSize limit = 0;
    static inline std::vector<std::byte> host = {};

    static VKAPI_ATTR VkResult VKAPI_CALL allocate(VkDevice, const VkMemoryAllocateInfo* info,
                                                   const VkAllocationCallbacks*,
                                                   VkDeviceMemory* memory) {
        VkDeviceSize in_use = info->allocationSize;
        for (const auto& [handle, size] : blocks)
            in_use += size;
        if (in_use > limit)
            return VK_ERROR_OUT_OF_DEVICE_MEMORY;
        *memory = reinterpret_cast<VkDeviceMemory>(next);
        blocks[next++] = info->allocationSize;
        return VK_SUCCESS;
    }
    static VKAPI_ATTR void VKAPI_CALL release(VkDevice, VkDeviceMemory memory,
                                              const VkAllocationCallbacks*) {
        blocks.erase(reinterpret_cast<std::uint64_t>(memory));
    }
    static VKAPI_ATTR VkResult VKAPI_CALL map(VkDevice, VkDeviceMemory memory, VkDeviceSize,
                                              VkDeviceSize, VkMemoryMapFlags, void** mapped) {
        host.resize(blocks.at(reinterpret_cast<std::uint64_t>(memory)));
        *mapped = host.data();
        return VK_SUCCESS;
    }
    static VKAPI_ATTR void VKAPI_CALL types(VkPhysicalDevice,
                                            VkPhysicalDeviceMemoryProperties* properties) {
        *properties = {};
        properties->memoryTypeCount = 2;
        properties->memoryTypes[0].propertyFlags = VK_MEMORY_PROPERTY_DEVICE_LOCAL_BIT;
        properties->memoryTypes[1].propertyFlags =
            VK_MEMORY_PROPERTY_HOST_VISIBLE_BIT | VK_MEMORY_PROPERTY_HOST_COHERENT_BIT;
    }

    static vulkan::Functions functions() {
        blocks.clear();
        limit = ~0ULL;
        vulkan::Functions vk;
        vk.AllocateMemory = allocate;
        vk.FreeMemory = release;
        vk.MapMemory = map;
        vk.GetPhysicalDeviceMemoryProperties = types;
        return vk;
    }
};

VkMemoryRequirements wanted(VkDeviceSize size, VkDeviceSize alignment = 256,
                            std::uint32_t types = 3) {
    return {size, alignment, types};
}

}  // namespace

TEST_CASE("pieces share blocks, aligned and apart, and blocks go with their last piece") {
    const vulkan::Functions vk = CountedMemory::functions();
    {
        vulkan::MemoryPool pool(vk, VK_NULL_HANDLE, VK_NULL_HANDLE);
        const auto take = [&](VkDeviceSize size, VkDeviceSize alignment = 256) {
            return must(pool.take(wanted(size, alignment), VK_MEMORY_PROPERTY_DEVICE_LOCAL_BIT));
        };
        const auto a = take(1000), b = take(500, 4096), c = take(10);
        CHECK(CountedMemory::blocks.size() == 1);
        CHECK(a.offset == 0);
        CHECK(b.offset == 4096);
        CHECK(c.offset == 1024);  // in the gap before b
        CHECK(pool.bytes_taken() == 1510);
        CHECK(a.mapped == nullptr);
        pool.give_back(a);
        pool.give_back(c);
        const auto again = take(4000);  // the gap is whole again
        CHECK(again.offset == 0);
        // large ones have a block of their own, which goes at once
        const auto large = take(20U << 20);
        CHECK(CountedMemory::blocks.size() == 2);
        CHECK(large.offset == 0);
        pool.give_back(large);
        CHECK(CountedMemory::blocks.size() == 1);
        // of equal blocks one stays
        std::vector<vulkan::MemoryPiece> many;
        for (int i = 0; i < 10; ++i)
            many.push_back(take(10U << 20));
        CHECK(CountedMemory::blocks.size() == 4);
        for (const auto& piece : many)
            pool.give_back(piece);
        CHECK(CountedMemory::blocks.size() == 1);
        pool.give_back(again);
        pool.give_back(b);
        CHECK(pool.bytes_taken() == 0);
    }
    CHECK(CountedMemory::blocks.empty());
}

TEST_CASE("memory that the host sees is mapped, and what the device lacks is said") {
    const vulkan::Functions vk = CountedMemory::functions();
    vulkan::MemoryPool pool(vk, VK_NULL_HANDLE, VK_NULL_HANDLE);
    constexpr VkMemoryPropertyFlags seen = VK_MEMORY_PROPERTY_HOST_VISIBLE_BIT;
    const auto first = must(pool.take(wanted(100), seen));
    const auto second = must(pool.take(wanted(100), seen));
    CHECK(first.mapped == CountedMemory::host.data());
    CHECK(static_cast<std::byte*>(second.mapped) - static_cast<std::byte*>(first.mapped) == 256);
    CHECK(must_fail(pool.take(wanted(100, 256, 1), seen)).kind == ErrorKind::device);
    CountedMemory::limit = 40U << 20;
    const Error error =
        must_fail(pool.take(wanted(60U << 20), VK_MEMORY_PROPERTY_DEVICE_LOCAL_BIT));
    CHECK(error.kind == ErrorKind::memory);
    CHECK(CountedMemory::blocks.size() == 1);
}

namespace {

/// The real driver, but that its queue is lost when told so.
struct UnpluggedDriver {
    static inline bool is_lost = false;
    static inline PFN_vkQueueSubmit submit = nullptr;
    static inline PFN_vkGetDeviceProcAddr device_functions = nullptr;

    static VKAPI_ATTR VkResult VKAPI_CALL queue_submit(VkQueue queue, std::uint32_t count,
                                                       const VkSubmitInfo* submits, VkFence fence) {
        return is_lost ? VK_ERROR_DEVICE_LOST : submit(queue, count, submits, fence);
    }
    static VKAPI_ATTR PFN_vkVoidFunction VKAPI_CALL device_function(VkDevice device,
                                                                    const char* name) {
        const PFN_vkVoidFunction found = device_functions(device, name);
        if (std::string(name) != "vkQueueSubmit")
            return found;
        submit = reinterpret_cast<PFN_vkQueueSubmit>(found);
        return reinterpret_cast<PFN_vkVoidFunction>(&queue_submit);
    }
    static VKAPI_ATTR PFN_vkVoidFunction VKAPI_CALL function(VkInstance instance,
                                                             const char* name) {
        const PFN_vkVoidFunction found = vkGetInstanceProcAddr(instance, name);
        if (std::string(name) != "vkGetDeviceProcAddr")
            return found;
        device_functions = reinterpret_cast<PFN_vkGetDeviceProcAddr>(found);
        return reinterpret_cast<PFN_vkVoidFunction>(&device_function);
    }
};

}  // namespace

TEST_CASE("a lost Vulkan device is an error, and everything is given back") {
    const auto headless = must(
        vulkan::HeadlessDevice::create({.device = support::vulkan_drivers[0], .validation = true}));
    {
        vulkan::DeviceHandles handles = headless.handles();
        handles.get_instance_proc_addr = &UnpluggedDriver::function;
        UnpluggedDriver::is_lost = false;
        auto device = must(vulkan::Device::open(handles));
        const Texture texture = support::random_texture(
            {.format = Format::rgba8_unorm, .width = 8, .height = 8, .levels = 4}, 1);
        auto kept = must(device.upload(texture));
        UnpluggedDriver::is_lost = true;
        for (const Error& error :
             {must_fail(device.upload(texture)), must_fail(kept.read_back()),
              must_fail(
                  kept.update({.width = 8, .height = 8},
                              support::random_texture(
                                  {.format = Format::rgba8_unorm, .width = 8, .height = 8}, 2)))}) {
            CHECK(error.kind == ErrorKind::device);
            CHECK(contains(error.message, "lost"));
        }
    }
    for (const std::string& message : headless.messages())
        FAIL_CHECK(message);
}
