// Events and devices of libvkd3d, on any Vulkan driver.
#define VKD3D_UTILS_API_VERSION VKD3D_API_VERSION_1_2
#include "upload/d3d12/platform.hpp"

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <cstring>
#include <thread>

#include <vkd3d_utils.h>

#include <vkd3d.h>

#include <yl/status_macros.hpp>

namespace yl::d3d12 {
namespace {

struct Instance {
    Instance() = default;
    Instance(const Instance&) = delete;
    Instance& operator=(const Instance&) = delete;
    ~Instance() {
        if (handle != nullptr)
            vkd3d_instance_decref(handle);
    }
    vkd3d_instance* handle = nullptr;
};

vkd3d_instance_create_info instance_info() {
    vkd3d_instance_create_info info{};
    info.type = VKD3D_STRUCTURE_TYPE_INSTANCE_CREATE_INFO;
    info.pfn_signal_event = vkd3d_signal_event;
    info.wchar_size = sizeof(WCHAR);
    return info;
}

template <class Function>
Function function_of(VkInstance instance, const char* name) {
    return reinterpret_cast<Function>(vkGetInstanceProcAddr(instance, name));
}

struct NamedDevice {
    VkPhysicalDevice device = VK_NULL_HANDLE;
    std::string name = {};
};

/// libvkd3d makes no device without this extension.
bool is_enough(VkInstance instance, VkPhysicalDevice device) {
    const auto enumerate = function_of<PFN_vkEnumerateDeviceExtensionProperties>(
        instance, "vkEnumerateDeviceExtensionProperties");
    std::uint32_t count = 0;
    enumerate(device, nullptr, &count, nullptr);
    std::vector<VkExtensionProperties> extensions(count);
    enumerate(device, nullptr, &count, extensions.data());
    return std::ranges::any_of(extensions, [](const VkExtensionProperties& extension) {
        return std::strcmp(extension.extensionName, "VK_KHR_shader_draw_parameters") == 0;
    });
}

/// Those that Direct3D 12 can run on.
std::vector<NamedDevice> all_devices(VkInstance instance) {
    const auto enumerate =
        function_of<PFN_vkEnumeratePhysicalDevices>(instance, "vkEnumeratePhysicalDevices");
    const auto describe =
        function_of<PFN_vkGetPhysicalDeviceProperties>(instance, "vkGetPhysicalDeviceProperties");
    std::uint32_t count = 0;
    enumerate(instance, &count, nullptr);
    std::vector<VkPhysicalDevice> devices(count);
    enumerate(instance, &count, devices.data());
    std::vector<NamedDevice> named;
    for (VkPhysicalDevice device : devices) {
        if (!is_enough(instance, device))
            continue;
        VkPhysicalDeviceProperties properties{};
        describe(device, &properties);
        named.push_back({device, properties.deviceName});
    }
    return named;
}

using Clock = std::chrono::steady_clock;

/// Whether the fence comes to the value in time. libvkd3d 1.2 has no waits with a time limit: it is
/// looked at again and again, with pauses that grow.
bool comes(ID3D12Fence* fence, std::uint64_t value, Clock::duration time) {
    constexpr std::chrono::microseconds longest{1000};
    const auto end = Clock::now() + time;
    for (std::chrono::microseconds pause{1}; fence->GetCompletedValue() < value;
         pause = std::min(2 * pause, longest)) {
        if (Clock::now() > end)
            return false;
        std::this_thread::sleep_for(pause);
    }
    return true;
}

/// A fence that the queue signals after all that it was given so far.
Result<Owned<ID3D12Fence>> fence_behind(ID3D12CommandQueue* queue) {
    Owned<ID3D12Device> device;
    YL_CHECK(check(queue->GetDevice(iid_of<ID3D12Device>(), device.place()), "find the device"));
    Owned<ID3D12Fence> fence;
    YL_CHECK(
        check(device->CreateFence(0, D3D12_FENCE_FLAG_NONE, iid_of<ID3D12Fence>(), fence.place()),
              "create a fence"));
    YL_CHECK(check(queue->Signal(fence.get(), 1), "signal a fence"));
    return fence;
}

}  // namespace

/// libvkd3d 1.2 loses events and signals now and then (one in some hundred thousand): without events,
/// and what comes later on the same queue gets through, after which what was lost is done as well.
Status wait_for(ID3D12Fence* fence, std::uint64_t value, ID3D12CommandQueue* queue) {
    constexpr std::chrono::seconds patience{2};
    while (!comes(fence, value, patience)) {
        YL_TRY(const auto behind, fence_behind(queue));
        if (comes(behind.get(), 1, patience))
            return {};
    }
    return {};
}

/// libvkd3d 1.2 loses a wait of one queue for another now and then (one in 26,000): the program waits
/// instead.
Status let_queue_wait(ID3D12CommandQueue*, ID3D12Fence* fence, std::uint64_t value,
                      ID3D12CommandQueue* signalling) {
    return wait_for(fence, value, signalling);
}

Result<OpenedDevice> open_device(const std::string& name) {
    ::setenv("VKD3D_DEBUG", "none", 0);  // it talks on standard error otherwise
    // Mesa's software driver is then exact in level of detail and filtering.
    ::setenv("GALLIVM_PERF", "no_quad_lod,no_aos_sampling,no_rho_approx,no_brilinear", 0);
    const vkd3d_instance_create_info info = instance_info();
    Instance instance;
    YL_CHECK(check(vkd3d_create_instance(&info, &instance.handle), "start"));
    std::string names;
    Status refused;
    for (const NamedDevice& candidate :
         all_devices(vkd3d_instance_get_vk_instance(instance.handle))) {
        names += (names.empty() ? "" : ", ") + candidate.name;
        if (candidate.name.find(name) == std::string::npos)
            continue;
        OpenedDevice opened{.name = candidate.name};
        vkd3d_device_create_info device{};
        device.type = VKD3D_STRUCTURE_TYPE_DEVICE_CREATE_INFO;
        device.minimum_feature_level = D3D_FEATURE_LEVEL_11_0;
        device.instance = instance.handle;
        device.vk_physical_device = candidate.device;
        refused = check(vkd3d_create_device(&device, iid_of<ID3D12Device>(), opened.device.place()),
                        "create a device");
        if (refused)
            return opened;
    }
    if (!refused)
        return tl::unexpected(refused.error());
    return fail(ErrorKind::device, "there is no device '" + name + "'; there are " + names);
}

bool lacks_format(DXGI_FORMAT format) {
    return format == DXGI_FORMAT_R9G9B9E5_SHAREDEXP;
}

bool has_all_address_modes() {
    return false;
}

}  // namespace yl::d3d12
