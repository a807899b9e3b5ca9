// Vulkan objects that are destroyed at the end of their scope.
#pragma once

#include <utility>

#include "upload/vulkan/functions.hpp"

namespace yl::vulkan {

template <class Object, auto destroy>
class Handle {
 public:
    Handle() = default;
    Handle(const Functions& vk, VkDevice device, Object object)
        : vk_(&vk), device_(device), object_(object) {}
    Handle(Handle&& other) noexcept { *this = std::move(other); }
    Handle& operator=(Handle&& other) noexcept {
        std::swap(vk_, other.vk_);
        std::swap(device_, other.device_);
        std::swap(object_, other.object_);
        return *this;
    }
    Handle(const Handle&) = delete;
    Handle& operator=(const Handle&) = delete;
    ~Handle() {
        if (object_ != VK_NULL_HANDLE)
            (vk_->*destroy)(device_, object_, nullptr);
    }

    [[nodiscard]] Object get() const { return object_; }
    [[nodiscard]] explicit operator bool() const { return object_ != VK_NULL_HANDLE; }

 private:
    const Functions* vk_ = nullptr;
    VkDevice device_ = VK_NULL_HANDLE;
    Object object_ = VK_NULL_HANDLE;
};

using ImageHandle = Handle<VkImage, &Functions::DestroyImage>;
using ImageViewHandle = Handle<VkImageView, &Functions::DestroyImageView>;
using BufferHandle = Handle<VkBuffer, &Functions::DestroyBuffer>;
using SamplerHandle = Handle<VkSampler, &Functions::DestroySampler>;
using CommandPoolHandle = Handle<VkCommandPool, &Functions::DestroyCommandPool>;
using FenceHandle = Handle<VkFence, &Functions::DestroyFence>;
using SemaphoreHandle = Handle<VkSemaphore, &Functions::DestroySemaphore>;
using SetLayoutHandle = Handle<VkDescriptorSetLayout, &Functions::DestroyDescriptorSetLayout>;
using DescriptorPoolHandle = Handle<VkDescriptorPool, &Functions::DestroyDescriptorPool>;
using RenderPassHandle = Handle<VkRenderPass, &Functions::DestroyRenderPass>;
using FramebufferHandle = Handle<VkFramebuffer, &Functions::DestroyFramebuffer>;
using ShaderHandle = Handle<VkShaderModule, &Functions::DestroyShaderModule>;
using PipelineLayoutHandle = Handle<VkPipelineLayout, &Functions::DestroyPipelineLayout>;
using PipelineHandle = Handle<VkPipeline, &Functions::DestroyPipeline>;
using MemoryHandle = Handle<VkDeviceMemory, &Functions::FreeMemory>;

}  // namespace yl::vulkan
