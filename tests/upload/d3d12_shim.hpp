// The browser's Vulkan driver below Direct3D 12: it lacks an extension that libvkd3d asks for and our
// shaders do without, so that the loader's functions are answered in part from here.
#pragma once

#include <vkd3d.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <vector>
#include <yl/d3d12.hpp>

#include "support/check.hpp"
#include "upload/d3d12/com.hpp"

// Behind com.hpp, whose interfaces it takes.
#include <vkd3d_utils.h>

namespace support {

namespace shim {

inline constexpr const char* hidden = "VK_KHR_shader_draw_parameters";
inline PFN_vkEnumerateDeviceExtensionProperties extensions_of = nullptr;
inline PFN_vkCreateDevice create_device = nullptr;

inline VkResult VKAPI_CALL say_it_is_there(VkPhysicalDevice device, const char* layer,
                                           std::uint32_t* count, VkExtensionProperties* out) {
    std::uint32_t own = 0;
    extensions_of(device, layer, &own, nullptr);
    std::vector<VkExtensionProperties> all(own);
    extensions_of(device, layer, &own, all.data());
    all.emplace_back();
    std::strcpy(all.back().extensionName, hidden);
    if (out == nullptr) {
        *count = static_cast<std::uint32_t>(all.size());
        return VK_SUCCESS;
    }
    *count = std::min(*count, static_cast<std::uint32_t>(all.size()));
    std::copy_n(all.begin(), *count, out);
    return *count < all.size() ? VK_INCOMPLETE : VK_SUCCESS;
}

inline VkResult VKAPI_CALL create_without_it(VkPhysicalDevice device,
                                             const VkDeviceCreateInfo* info,
                                             const VkAllocationCallbacks* callbacks,
                                             VkDevice* out) {
    VkDeviceCreateInfo changed = *info;
    std::vector<const char*> names(info->ppEnabledExtensionNames,
                                   info->ppEnabledExtensionNames + info->enabledExtensionCount);
    std::erase_if(names, [](const char* name) { return std::strcmp(name, hidden) == 0; });
    changed.enabledExtensionCount = static_cast<std::uint32_t>(names.size());
    changed.ppEnabledExtensionNames = names.data();
    return create_device(device, &changed, callbacks, out);
}

inline PFN_vkVoidFunction VKAPI_CALL answer(VkInstance instance, const char* name) {
    const PFN_vkVoidFunction function = vkGetInstanceProcAddr(instance, name);
    if (std::strcmp(name, "vkEnumerateDeviceExtensionProperties") == 0) {
        extensions_of = reinterpret_cast<PFN_vkEnumerateDeviceExtensionProperties>(function);
        return reinterpret_cast<PFN_vkVoidFunction>(&say_it_is_there);
    }
    if (std::strcmp(name, "vkCreateDevice") == 0) {
        create_device = reinterpret_cast<PFN_vkCreateDevice>(function);
        return reinterpret_cast<PFN_vkVoidFunction>(&create_without_it);
    }
    return function;
}

}  // namespace shim

/// A device of the browser's driver, with a direct queue.
struct BrowserDirect3d {
    yl::d3d12::Owned<ID3D12Device> device = {};
    yl::d3d12::Owned<ID3D12CommandQueue> queue = {};
    std::string name = {};

    BrowserDirect3d() {
        ::setenv("VK_ADD_DRIVER_FILES", "/usr/lib/chromium/vk_swiftshader_icd.json", 0);
        vkd3d_instance_create_info info{};
        info.type = VKD3D_STRUCTURE_TYPE_INSTANCE_CREATE_INFO;
        info.pfn_signal_event = vkd3d_signal_event;
        info.wchar_size = sizeof(WCHAR);
        info.pfn_vkGetInstanceProcAddr = shim::answer;
        vkd3d_instance* instance = nullptr;
        REQUIRE(SUCCEEDED(vkd3d_create_instance(&info, &instance)));
        vkd3d_device_create_info wanted{};
        wanted.type = VKD3D_STRUCTURE_TYPE_DEVICE_CREATE_INFO;
        wanted.minimum_feature_level = D3D_FEATURE_LEVEL_11_0;
        wanted.instance = instance;
        wanted.vk_physical_device = find(vkd3d_instance_get_vk_instance(instance));
        REQUIRE(SUCCEEDED(
            vkd3d_create_device(&wanted, yl::d3d12::iid_of<ID3D12Device>(), device.place())));
        vkd3d_instance_decref(instance);
        D3D12_COMMAND_QUEUE_DESC desc{};
        REQUIRE(SUCCEEDED(device->CreateCommandQueue(&desc, yl::d3d12::iid_of<ID3D12CommandQueue>(),
                                                     queue.place())));
    }

    [[nodiscard]] yl::d3d12::DeviceHandles handles() const {
        return {.device = device.get(), .queue = queue.get(), .name = name};
    }

 private:
    VkPhysicalDevice find(VkInstance instance) {
        const auto enumerate = reinterpret_cast<PFN_vkEnumeratePhysicalDevices>(
            vkGetInstanceProcAddr(instance, "vkEnumeratePhysicalDevices"));
        const auto describe = reinterpret_cast<PFN_vkGetPhysicalDeviceProperties>(
            vkGetInstanceProcAddr(instance, "vkGetPhysicalDeviceProperties"));
        std::uint32_t count = 0;
        enumerate(instance, &count, nullptr);
        std::vector<VkPhysicalDevice> devices(count);
        enumerate(instance, &count, devices.data());
        for (VkPhysicalDevice candidate : devices) {
            VkPhysicalDeviceProperties properties{};
            describe(candidate, &properties);
            name = properties.deviceName;
            if (name.find("SwiftShader") != std::string::npos)
                return candidate;
        }
        FAIL("the browser's driver is not there");
        return VK_NULL_HANDLE;
    }
};

}  // namespace support
