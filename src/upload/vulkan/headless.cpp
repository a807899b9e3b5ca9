#include <yl/vulkan.hpp>

#include <fmt/format.h>
#include <unistd.h>
#include <vulkan/vulkan.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "upload/vulkan/functions.hpp"

namespace yl::vulkan {

struct HeadlessParts {
    VkInstance instance = VK_NULL_HANDLE;
    VkDebugUtilsMessengerEXT messenger = VK_NULL_HANDLE;
    DeviceHandles handles = {};
    std::vector<std::string> messages = {};

    HeadlessParts() = default;
    HeadlessParts(const HeadlessParts&) = delete;
    HeadlessParts& operator=(const HeadlessParts&) = delete;
    ~HeadlessParts() {
        if (handles.device != VK_NULL_HANDLE)
            vkDestroyDevice(handles.device, nullptr);
        const auto destroy = reinterpret_cast<PFN_vkDestroyDebugUtilsMessengerEXT>(
            instance == VK_NULL_HANDLE
                ? nullptr
                : vkGetInstanceProcAddr(instance, "vkDestroyDebugUtilsMessengerEXT"));
        if (messenger != VK_NULL_HANDLE && destroy != nullptr)
            destroy(instance, messenger, nullptr);
        if (instance != VK_NULL_HANDLE)
            vkDestroyInstance(instance, nullptr);
    }
};

namespace {

constexpr const char* validation_layer = "VK_LAYER_KHRONOS_validation";
/// A software driver that a browser's package brings, in a place where no loader looks.
constexpr const char* further_driver = "/usr/lib/chromium/vk_swiftshader_icd.json";

VKAPI_ATTR VkBool32 VKAPI_CALL keep_message(VkDebugUtilsMessageSeverityFlagBitsEXT,
                                            VkDebugUtilsMessageTypeFlagsEXT,
                                            const VkDebugUtilsMessengerCallbackDataEXT* data,
                                            void* messages) {
    // Extensions marked for special uses are advised against wherever they are switched on:
    // listening to the layer is such a use, and so are border colours.
    const std::string text = data->pMessage;
    if (text.find("specialuse-extension") == std::string::npos)
        static_cast<std::vector<std::string>*>(messages)->push_back(text);
    return VK_FALSE;
}

bool has_layer(const char* wanted) {
    std::uint32_t count = 0;
    vkEnumerateInstanceLayerProperties(&count, nullptr);
    std::vector<VkLayerProperties> layers(count);
    vkEnumerateInstanceLayerProperties(&count, layers.data());
    return std::ranges::any_of(layers, [&](const VkLayerProperties& layer) {
        return std::strcmp(layer.layerName, wanted) == 0;
    });
}

VkDebugUtilsMessengerCreateInfoEXT messenger_info(std::vector<std::string>& messages) {
    VkDebugUtilsMessengerCreateInfoEXT info{};
    info.sType = VK_STRUCTURE_TYPE_DEBUG_UTILS_MESSENGER_CREATE_INFO_EXT;
    info.messageSeverity = VK_DEBUG_UTILS_MESSAGE_SEVERITY_WARNING_BIT_EXT |
                           VK_DEBUG_UTILS_MESSAGE_SEVERITY_ERROR_BIT_EXT;
    info.messageType = VK_DEBUG_UTILS_MESSAGE_TYPE_VALIDATION_BIT_EXT |
                       VK_DEBUG_UTILS_MESSAGE_TYPE_PERFORMANCE_BIT_EXT;
    info.pfnUserCallback = keep_message;
    info.pUserData = &messages;
    return info;
}

Status make_instance(HeadlessParts& parts, bool validation) {
    // Drivers beside those that the loader finds; without overruling the environment.
    if (::access(further_driver, R_OK) == 0)
        ::setenv("VK_ADD_DRIVER_FILES", further_driver, 0);
    if (validation && !has_layer(validation_layer))
        return fail(ErrorKind::device, "the Vulkan validation layer is not installed");
    VkApplicationInfo application{};
    application.sType = VK_STRUCTURE_TYPE_APPLICATION_INFO;
    application.pApplicationName = "Yellow Lattice";
    application.applicationVersion = 1;
    application.apiVersion = VK_API_VERSION_1_3;
    auto messenger = messenger_info(parts.messages);
    constexpr VkValidationFeatureEnableEXT enabled[] = {
        VK_VALIDATION_FEATURE_ENABLE_SYNCHRONIZATION_VALIDATION_EXT,
        VK_VALIDATION_FEATURE_ENABLE_BEST_PRACTICES_EXT};
    VkValidationFeaturesEXT features{};
    features.sType = VK_STRUCTURE_TYPE_VALIDATION_FEATURES_EXT;
    features.pNext = &messenger;
    features.enabledValidationFeatureCount = 2;
    features.pEnabledValidationFeatures = enabled;
    const char* const extensions[] = {VK_EXT_DEBUG_UTILS_EXTENSION_NAME};
    VkInstanceCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_INSTANCE_CREATE_INFO;
    info.pApplicationInfo = &application;
    if (validation) {
        info.pNext = &features;
        info.enabledLayerCount = 1;
        info.ppEnabledLayerNames = &validation_layer;
        info.enabledExtensionCount = 1;
        info.ppEnabledExtensionNames = extensions;
    }
    YL_CHECK(check(vkCreateInstance(&info, nullptr, &parts.instance), "make an instance"));
    if (!validation)
        return {};
    const auto create = reinterpret_cast<PFN_vkCreateDebugUtilsMessengerEXT>(
        vkGetInstanceProcAddr(parts.instance, "vkCreateDebugUtilsMessengerEXT"));
    return check(create(parts.instance, &messenger, nullptr, &parts.messenger),
                 "listen to the validation layer");
}

std::vector<VkPhysicalDevice> physical_devices(VkInstance instance) {
    std::uint32_t count = 0;
    vkEnumeratePhysicalDevices(instance, &count, nullptr);
    std::vector<VkPhysicalDevice> devices(count);
    vkEnumeratePhysicalDevices(instance, &count, devices.data());
    return devices;
}

std::string name_of(VkPhysicalDevice device) {
    VkPhysicalDeviceProperties properties{};
    vkGetPhysicalDeviceProperties(device, &properties);
    return properties.deviceName;
}

/// Hardware before software; of equals the last, since drivers that were added come first.
int rank_of(VkPhysicalDevice device) {
    VkPhysicalDeviceProperties properties{};
    vkGetPhysicalDeviceProperties(device, &properties);
    switch (properties.deviceType) {
        case VK_PHYSICAL_DEVICE_TYPE_DISCRETE_GPU:
            return 3;
        case VK_PHYSICAL_DEVICE_TYPE_INTEGRATED_GPU:
            return 2;
        case VK_PHYSICAL_DEVICE_TYPE_VIRTUAL_GPU:
            return 1;
        default:
            return 0;
    }
}

Result<VkPhysicalDevice> choose_device(VkInstance instance, const std::string& wanted) {
    std::string names;
    VkPhysicalDevice best = VK_NULL_HANDLE;
    for (const VkPhysicalDevice device : physical_devices(instance)) {
        const std::string name = name_of(device);
        names += (names.empty() ? "" : ", ") + name;
        if (name.find(wanted) != std::string::npos &&
            (best == VK_NULL_HANDLE || rank_of(device) >= rank_of(best)))
            best = device;
    }
    if (best != VK_NULL_HANDLE)
        return best;
    if (names.empty())
        return fail(ErrorKind::device,
                    "there is no Vulkan device; install a driver, such as "
                    "Mesa's software driver (mesa-vulkan-drivers)");
    return fail(ErrorKind::device,
                fmt::format("there is no Vulkan device '{}'; there are: {}", wanted, names));
}

Result<std::uint32_t> graphics_family(VkPhysicalDevice device) {
    std::uint32_t count = 0;
    vkGetPhysicalDeviceQueueFamilyProperties(device, &count, nullptr);
    std::vector<VkQueueFamilyProperties> families(count);
    vkGetPhysicalDeviceQueueFamilyProperties(device, &count, families.data());
    for (std::uint32_t family = 0; family < count; ++family)
        if ((families[family].queueFlags & VK_QUEUE_GRAPHICS_BIT) != 0)
            return family;
    return fail(ErrorKind::device, "the Vulkan device draws nothing");
}

bool has_extension(VkPhysicalDevice device, const char* wanted) {
    std::uint32_t count = 0;
    vkEnumerateDeviceExtensionProperties(device, nullptr, &count, nullptr);
    std::vector<VkExtensionProperties> extensions(count);
    vkEnumerateDeviceExtensionProperties(device, nullptr, &count, extensions.data());
    return std::ranges::any_of(extensions, [&](const VkExtensionProperties& extension) {
        return std::strcmp(extension.extensionName, wanted) == 0;
    });
}

/// Everything that textures gain by and the device has, switched on.
/// The structures in which Vulkan says and is told features, chained.
struct FeatureChain {
    VkPhysicalDeviceCustomBorderColorFeaturesEXT borders{};
    VkPhysicalDeviceVulkan12Features vulkan12{};
    VkPhysicalDeviceFeatures2 core{};

    explicit FeatureChain(bool has_borders) {
        borders.sType = VK_STRUCTURE_TYPE_PHYSICAL_DEVICE_CUSTOM_BORDER_COLOR_FEATURES_EXT;
        vulkan12.sType = VK_STRUCTURE_TYPE_PHYSICAL_DEVICE_VULKAN_1_2_FEATURES;
        vulkan12.pNext = has_borders ? &borders : nullptr;
        core.sType = VK_STRUCTURE_TYPE_PHYSICAL_DEVICE_FEATURES_2;
        core.pNext = &vulkan12;
    }
    FeatureChain(const FeatureChain&) = delete;
    FeatureChain& operator=(const FeatureChain&) = delete;
};

/// Of what the library can use, what the device has.
EnabledFeatures features_of(const FeatureChain& has, bool has_borders) {
    const auto& has12 = has.vulkan12;
    EnabledFeatures features;
    features.sampler_anisotropy = has.core.features.samplerAnisotropy == VK_TRUE;
    features.image_cube_array = has.core.features.imageCubeArray == VK_TRUE;
    features.texture_compression_bc = has.core.features.textureCompressionBC == VK_TRUE;
    features.texture_compression_etc2 = has.core.features.textureCompressionETC2 == VK_TRUE;
    features.texture_compression_astc_ldr = has.core.features.textureCompressionASTC_LDR == VK_TRUE;
    features.sampler_mirror_clamp_to_edge = has12.samplerMirrorClampToEdge == VK_TRUE;
    features.geometry_shader = has.core.features.geometryShader == VK_TRUE;
    features.tessellation_shader = has.core.features.tessellationShader == VK_TRUE;
    features.custom_border_colors = has_borders && has.borders.customBorderColors == VK_TRUE &&
                                    has.borders.customBorderColorWithoutFormat == VK_TRUE;
    features.descriptor_indexing = has12.descriptorIndexing == VK_TRUE &&
                                   has12.runtimeDescriptorArray == VK_TRUE &&
                                   has12.descriptorBindingPartiallyBound == VK_TRUE &&
                                   has12.descriptorBindingSampledImageUpdateAfterBind == VK_TRUE &&
                                   has12.descriptorBindingUpdateUnusedWhilePending == VK_TRUE &&
                                   has12.shaderSampledImageArrayNonUniformIndexing == VK_TRUE;
    return features;
}

/// Asks for the features that are to be enabled.
void ask_for(const EnabledFeatures& features, const FeatureChain& has, FeatureChain& wanted) {
    const auto flag = [](bool is_on) -> VkBool32 { return is_on ? VK_TRUE : VK_FALSE; };
    if (features.custom_border_colors) {
        wanted.borders = has.borders;
        wanted.borders.pNext = nullptr;
    }
    wanted.vulkan12.samplerMirrorClampToEdge = flag(features.sampler_mirror_clamp_to_edge);
    wanted.vulkan12.descriptorIndexing = wanted.vulkan12.runtimeDescriptorArray =
        wanted.vulkan12.descriptorBindingPartiallyBound =
            wanted.vulkan12.descriptorBindingSampledImageUpdateAfterBind =
                wanted.vulkan12.descriptorBindingUpdateUnusedWhilePending =
                    wanted.vulkan12.shaderSampledImageArrayNonUniformIndexing =
                        flag(features.descriptor_indexing);
    wanted.core.features.samplerAnisotropy = flag(features.sampler_anisotropy);
    wanted.core.features.geometryShader = flag(features.geometry_shader);
    wanted.core.features.tessellationShader = flag(features.tessellation_shader);
    wanted.core.features.imageCubeArray = flag(features.image_cube_array);
    wanted.core.features.textureCompressionBC = flag(features.texture_compression_bc);
    wanted.core.features.textureCompressionETC2 = flag(features.texture_compression_etc2);
    wanted.core.features.textureCompressionASTC_LDR = flag(features.texture_compression_astc_ldr);
}

Status make_device(HeadlessParts& parts) {
    DeviceHandles& handles = parts.handles;
    const VkPhysicalDevice physical = handles.physical_device;
    const bool has_borders = has_extension(physical, VK_EXT_CUSTOM_BORDER_COLOR_EXTENSION_NAME);
    FeatureChain has(has_borders);
    vkGetPhysicalDeviceFeatures2(physical, &has.core);
    EnabledFeatures& features = handles.features;
    features = features_of(has, has_borders);
    FeatureChain wanted(features.custom_border_colors);
    ask_for(features, has, wanted);

    YL_TRY(handles.queue_family, graphics_family(physical));
    const float priority = 1;
    VkDeviceQueueCreateInfo queue{};
    queue.sType = VK_STRUCTURE_TYPE_DEVICE_QUEUE_CREATE_INFO;
    queue.queueFamilyIndex = handles.queue_family;
    queue.queueCount = 1;
    queue.pQueuePriorities = &priority;
    const char* const extension = VK_EXT_CUSTOM_BORDER_COLOR_EXTENSION_NAME;
    VkDeviceCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_DEVICE_CREATE_INFO;
    info.pNext = &wanted.core;
    info.queueCreateInfoCount = 1;
    info.pQueueCreateInfos = &queue;
    info.enabledExtensionCount = features.custom_border_colors ? 1 : 0;
    info.ppEnabledExtensionNames = &extension;
    YL_CHECK(check(vkCreateDevice(physical, &info, nullptr, &handles.device), "make a device"));
    vkGetDeviceQueue(handles.device, handles.queue_family, 0, &handles.queue);
    return {};
}

}  // namespace

Result<HeadlessDevice> HeadlessDevice::create(const HeadlessOptions& options) try {
    auto parts = std::make_unique<HeadlessParts>();
    if (options.exact_filtering)
        ::setenv("GALLIVM_PERF", "no_quad_lod,no_aos_sampling,no_rho_approx,no_brilinear", 0);
    YL_CHECK(make_instance(*parts, options.validation));
    parts->handles.instance = parts->instance;
    parts->handles.get_instance_proc_addr = vkGetInstanceProcAddr;
    YL_TRY(parts->handles.physical_device, choose_device(parts->instance, options.device));
    YL_CHECK(make_device(*parts));
    return HeadlessDevice(std::move(parts));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

HeadlessDevice::HeadlessDevice(std::unique_ptr<HeadlessParts> parts) : parts_(std::move(parts)) {}
HeadlessDevice::HeadlessDevice(HeadlessDevice&&) noexcept = default;
HeadlessDevice& HeadlessDevice::operator=(HeadlessDevice&&) noexcept = default;
HeadlessDevice::~HeadlessDevice() = default;

const DeviceHandles& HeadlessDevice::handles() const {
    return parts_->handles;
}

const std::vector<std::string>& HeadlessDevice::messages() const {
    return parts_->messages;
}

Result<std::vector<std::string>> device_names() {
    HeadlessParts parts;
    YL_CHECK(make_instance(parts, false));
    std::vector<std::string> names;
    for (const VkPhysicalDevice device : physical_devices(parts.instance))
        names.push_back(name_of(device));
    return names;
}

}  // namespace yl::vulkan
