#include "upload/vulkan/sampler_cache.hpp"

#include <algorithm>

#include <yl/sampler.hpp>
#include <yl/status_macros.hpp>
#include "upload/vulkan/context.hpp"

namespace yl::vulkan {
namespace {

Result<SamplerHandle> make_sampler(const Context& context, const Sampler& sampler) {
    const VulkanSampler words = vulkan_sampler(sampler);
    const auto mode = [&](std::size_t axis) {
        return static_cast<VkSamplerAddressMode>(words.address_mode[axis]);
    };
    VkSamplerCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_SAMPLER_CREATE_INFO;
    info.magFilter = static_cast<VkFilter>(words.mag_filter);
    info.minFilter = static_cast<VkFilter>(words.min_filter);
    info.mipmapMode = static_cast<VkSamplerMipmapMode>(words.mipmap_mode);
    info.addressModeU = mode(0);
    info.addressModeV = mode(1);
    info.addressModeW = mode(2);
    info.mipLodBias = sampler.level_bias;
    info.anisotropyEnable = words.anisotropy_enable ? VK_TRUE : VK_FALSE;
    info.maxAnisotropy = sampler.max_anisotropy;
    info.compareEnable = words.compare_enable ? VK_TRUE : VK_FALSE;
    info.compareOp = static_cast<VkCompareOp>(words.compare_op);
    info.minLod = words.min_lod;
    info.maxLod = words.max_lod;
    info.borderColor = static_cast<VkBorderColor>(words.border_color);
    VkSamplerCustomBorderColorCreateInfoEXT border{};
    const bool uses_border =
        std::ranges::find(sampler.wrap, Wrap::clamp_to_border) != sampler.wrap.end();
    if (uses_border && !words.border_is_preset && context.handles.features.custom_border_colors) {
        border.sType = VK_STRUCTURE_TYPE_SAMPLER_CUSTOM_BORDER_COLOR_CREATE_INFO_EXT;
        std::ranges::copy(sampler.border, border.customBorderColor.float32);
        info.borderColor = VK_BORDER_COLOR_FLOAT_CUSTOM_EXT;
        info.pNext = &border;
    }
    VkSampler handle = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateSampler(context.device(), &info, nullptr, &handle),
                   "make a sampler"));
    return SamplerHandle(context.vk, context.device(), handle);
}

}  // namespace

Result<std::shared_ptr<const SharedSampler>> SamplerCache::get(const Sampler& sampler) {
    std::erase_if(samplers_, [](const auto& entry) { return entry.expired(); });
    for (const auto& entry : samplers_)
        if (auto shared = entry.lock(); shared != nullptr && shared->description() == sampler)
            return shared;
    YL_TRY(SamplerHandle handle, make_sampler(context_, sampler));
    auto made = std::make_shared<const SharedSampler>(std::move(handle), sampler);
    samplers_.push_back(made);
    return made;
}

std::size_t SamplerCache::size() const {
    return static_cast<std::size_t>(
        std::ranges::count_if(samplers_, [](const auto& entry) { return !entry.expired(); }));
}

}  // namespace yl::vulkan
