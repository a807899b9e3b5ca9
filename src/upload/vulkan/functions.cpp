#include "upload/vulkan/functions.hpp"

#include <fmt/format.h>

namespace yl::vulkan {

Result<Functions> Functions::load(PFN_vkGetInstanceProcAddr loader, VkInstance instance,
                                  VkDevice device) {
    if (loader == nullptr || instance == VK_NULL_HANDLE || device == VK_NULL_HANDLE)
        return fail(ErrorKind::usage, "instance, device and vkGetInstanceProcAddr are needed");
    Functions vk;
    const char* missing = nullptr;
#define YL_VK_LOAD_INSTANCE(name)                                           \
    vk.name = reinterpret_cast<PFN_vk##name>(loader(instance, "vk" #name)); \
    if (vk.name == nullptr)                                                 \
        missing = "vk" #name;
    YL_VK_INSTANCE(YL_VK_LOAD_INSTANCE)
#undef YL_VK_LOAD_INSTANCE
    if (missing == nullptr) {
#define YL_VK_LOAD_DEVICE(name)                                                         \
    vk.name = reinterpret_cast<PFN_vk##name>(vk.GetDeviceProcAddr(device, "vk" #name)); \
    if (vk.name == nullptr)                                                             \
        missing = "vk" #name;
        YL_VK_DEVICE(YL_VK_LOAD_DEVICE)
#undef YL_VK_LOAD_DEVICE
    }
    if (missing != nullptr)
        return fail(ErrorKind::device, fmt::format("the Vulkan device has no {}", missing));
    vk.SetDebugUtilsObjectNameEXT = reinterpret_cast<PFN_vkSetDebugUtilsObjectNameEXT>(
        loader(instance, "vkSetDebugUtilsObjectNameEXT"));
    return vk;
}

Status check(VkResult result, const char* what) {
    switch (result) {
        case VK_SUCCESS:
            return {};
        case VK_ERROR_OUT_OF_HOST_MEMORY:
        case VK_ERROR_OUT_OF_DEVICE_MEMORY:
        case VK_ERROR_OUT_OF_POOL_MEMORY:
        case VK_ERROR_TOO_MANY_OBJECTS:
            return fail(ErrorKind::memory, fmt::format("Vulkan has no memory left to {} ({})", what,
                                                       static_cast<int>(result)));
        case VK_ERROR_DEVICE_LOST:
            return fail(ErrorKind::device,
                        fmt::format("the Vulkan device was lost on the way to {}", what));
        default:
            return fail(ErrorKind::device,
                        fmt::format("Vulkan refused to {} ({})", what, static_cast<int>(result)));
    }
}

}  // namespace yl::vulkan
