// Copies on a queue of their own. The software drivers have one queue, which stands for both here: its
// submissions are watched, and one that is made for a second queue goes to it as well.
#include <string_view>

#include "upload/kinds.hpp"
#include "upload/vulkan_fixture.hpp"

using namespace yl;
using support::must;
using support::VulkanFixture;

namespace {

struct Submission {
    VkQueue queue = VK_NULL_HANDLE;
    std::vector<VkSemaphore> waits = {}, signals = {};
    std::vector<VkPipelineStageFlags> stages = {};
    VkFence fence = VK_NULL_HANDLE;
};

/// Of one device at a time: Vulkan's functions have no room for a program's own data.
struct Watch {
    PFN_vkGetInstanceProcAddr instance_functions = nullptr;
    PFN_vkGetDeviceProcAddr device_functions = nullptr;
    PFN_vkQueueSubmit submit = nullptr;
    VkQueue only_queue = VK_NULL_HANDLE;
    std::vector<Submission> seen = {};
};

Watch watch;
int second_queue = 0;  // its address is a handle that no driver gives

VkResult submit_watched(VkQueue queue, std::uint32_t count, const VkSubmitInfo* infos,
                        VkFence fence) {
    for (const VkSubmitInfo& info : std::span(infos, count))
        watch.seen.push_back(
            {queue,
             {info.pWaitSemaphores, info.pWaitSemaphores + info.waitSemaphoreCount},
             {info.pSignalSemaphores, info.pSignalSemaphores + info.signalSemaphoreCount},
             {info.pWaitDstStageMask, info.pWaitDstStageMask + info.waitSemaphoreCount},
             fence});
    return watch.submit(watch.only_queue, count, infos, fence);
}

PFN_vkVoidFunction device_function(VkDevice device, const char* name) {
    const PFN_vkVoidFunction function = watch.device_functions(device, name);
    if (std::string_view(name) != "vkQueueSubmit")
        return function;
    watch.submit = reinterpret_cast<PFN_vkQueueSubmit>(function);
    return reinterpret_cast<PFN_vkVoidFunction>(submit_watched);
}

PFN_vkVoidFunction instance_function(VkInstance instance, const char* name) {
    const PFN_vkVoidFunction function = watch.instance_functions(instance, name);
    if (std::string_view(name) != "vkGetDeviceProcAddr")
        return function;
    watch.device_functions = reinterpret_cast<PFN_vkGetDeviceProcAddr>(function);
    return reinterpret_cast<PFN_vkVoidFunction>(device_function);
}

vulkan::DeviceHandles watched_handles(const VulkanFixture& vulkan, bool has_second_queue) {
    vulkan::DeviceHandles handles = vulkan.headless.handles();
    watch = {.instance_functions = handles.get_instance_proc_addr, .only_queue = handles.queue};
    handles.get_instance_proc_addr = instance_function;
    if (has_second_queue) {
        handles.transfer_queue = reinterpret_cast<VkQueue>(&second_queue);
        handles.transfer_family = handles.queue_family;
    }
    return handles;
}

}  // namespace

TEST_CASE("textures are copied on the transfer queue, and the other waits for each copy") {
    for (const char* driver : support::vulkan_drivers) {
        const VulkanFixture vulkan(driver);
        const vulkan::DeviceHandles handles = watched_handles(vulkan, true);
        auto device = must(vulkan::Device::open(handles, {.staging_budget = 20'000}));
        const Texture texture = support::random_texture(
            {.format = Format::rgba8_srgb, .width = 128, .height = 64, .levels = 8}, 3);
        const auto uploaded = must(device.upload(texture));
        const std::size_t submissions = watch.seen.size();
        CHECK(submissions >= 4);  // 32 KiB of the first level, in parts
        REQUIRE(submissions % 2 == 0);
        for (std::size_t i = 0; i < submissions; i += 2) {
            const Submission &copy = watch.seen[i], &acquire = watch.seen[i + 1];
            CHECK(copy.queue == handles.transfer_queue);
            CHECK(copy.waits.empty());
            CHECK(copy.fence == VK_NULL_HANDLE);  // memory is used again when both are done
            REQUIRE(copy.signals.size() == 1);
            CHECK(acquire.queue == handles.queue);
            CHECK(acquire.waits == copy.signals);
            // Whatever samples or copies, and not the commands before that.
            REQUIRE(acquire.stages.size() == 1);
            for (const VkPipelineStageFlags stage :
                 {VK_PIPELINE_STAGE_VERTEX_SHADER_BIT, VK_PIPELINE_STAGE_FRAGMENT_SHADER_BIT,
                  VK_PIPELINE_STAGE_COMPUTE_SHADER_BIT, VK_PIPELINE_STAGE_TRANSFER_BIT})
                CHECK((acquire.stages[0] & stage) != 0);
            CHECK((acquire.stages[0] & VK_PIPELINE_STAGE_VERTEX_INPUT_BIT) == 0);
            CHECK(acquire.signals.empty());
            CHECK(acquire.fence != VK_NULL_HANDLE);
        }
        CHECK(support::holds(uploaded, uploaded.plan(), texture));
    }
}

TEST_CASE("with one queue a copy has its own fence and waits for nothing") {
    for (const bool is_named_twice : {false, true}) {
        const VulkanFixture vulkan(support::vulkan_drivers[0]);
        vulkan::DeviceHandles handles = watched_handles(vulkan, false);
        if (is_named_twice) {
            handles.transfer_queue = handles.queue;
            handles.transfer_family = handles.queue_family;
        }
        auto device = must(vulkan::Device::open(handles));
        const Texture texture =
            support::random_texture({.format = Format::rgba8_unorm, .width = 9, .height = 5}, 3);
        const auto uploaded = must(device.upload(texture));
        REQUIRE_FALSE(watch.seen.empty());
        for (const Submission& one : watch.seen) {
            CHECK(one.queue == handles.queue);
            CHECK(one.waits.empty());
            CHECK(one.signals.empty());
            CHECK(one.fence != VK_NULL_HANDLE);
        }
        CHECK(support::holds(uploaded, uploaded.plan(), texture));
    }
}
