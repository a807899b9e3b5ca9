// Vulkan's functions, found through the program's own loader.
#pragma once

#include <vulkan/vulkan_core.h>

#include <yl/result.hpp>

#define YL_VK_INSTANCE(X)                     \
    X(GetPhysicalDeviceProperties)            \
    X(GetPhysicalDeviceFormatProperties)      \
    X(GetPhysicalDeviceImageFormatProperties) \
    X(GetPhysicalDeviceMemoryProperties)      \
    X(GetPhysicalDeviceQueueFamilyProperties) \
    X(GetDeviceProcAddr)

#define YL_VK_DEVICE(X)            \
    X(AllocateMemory)              \
    X(FreeMemory)                  \
    X(MapMemory)                   \
    X(CreateImage)                 \
    X(DestroyImage)                \
    X(GetImageMemoryRequirements)  \
    X(BindImageMemory)             \
    X(CreateBuffer)                \
    X(DestroyBuffer)               \
    X(GetBufferMemoryRequirements) \
    X(BindBufferMemory)            \
    X(CreateImageView)             \
    X(DestroyImageView)            \
    X(CreateSampler)               \
    X(DestroySampler)              \
    X(CreateCommandPool)           \
    X(DestroyCommandPool)          \
    X(AllocateCommandBuffers)      \
    X(ResetCommandPool)            \
    X(BeginCommandBuffer)          \
    X(EndCommandBuffer)            \
    X(CmdPipelineBarrier)          \
    X(CmdCopyBufferToImage)        \
    X(CmdCopyImageToBuffer)        \
    X(QueueSubmit)                 \
    X(CreateFence)                 \
    X(DestroyFence)                \
    X(WaitForFences)               \
    X(ResetFences)                 \
    X(CreateSemaphore)             \
    X(DestroySemaphore)            \
    X(UpdateDescriptorSets)        \
    X(CreateDescriptorSetLayout)   \
    X(DestroyDescriptorSetLayout)  \
    X(CreateDescriptorPool)        \
    X(DestroyDescriptorPool)       \
    X(AllocateDescriptorSets)      \
    X(CreateRenderPass)            \
    X(DestroyRenderPass)           \
    X(CreateFramebuffer)           \
    X(DestroyFramebuffer)          \
    X(CreateShaderModule)          \
    X(DestroyShaderModule)         \
    X(CreatePipelineLayout)        \
    X(DestroyPipelineLayout)       \
    X(CreateGraphicsPipelines)     \
    X(DestroyPipeline)             \
    X(CmdBeginRenderPass)          \
    X(CmdEndRenderPass)            \
    X(CmdBindPipeline)             \
    X(CmdBindDescriptorSets)       \
    X(CmdDraw)

namespace yl::vulkan {

struct Functions {
#define YL_VK_MEMBER(name) PFN_vk##name name = nullptr;
    YL_VK_INSTANCE(YL_VK_MEMBER)
    YL_VK_DEVICE(YL_VK_MEMBER)
#undef YL_VK_MEMBER
    PFN_vkSetDebugUtilsObjectNameEXT SetDebugUtilsObjectNameEXT = nullptr;  ///< may be null

    [[nodiscard]] static Result<Functions> load(PFN_vkGetInstanceProcAddr loader,
                                                VkInstance instance, VkDevice device);
};

/// An error that says what was being done: `ErrorKind::limit` when memory is short.
[[nodiscard]] Status check(VkResult result, const char* what);

}  // namespace yl::vulkan
