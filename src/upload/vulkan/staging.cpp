#include "upload/vulkan/staging.hpp"

#include <algorithm>
#include <limits>

#include <yl/status_macros.hpp>
#include "upload/vulkan/barriers.hpp"
#include "upload/vulkan/context.hpp"

namespace yl::vulkan {

struct StagingRing::Slot {
    HostBuffer staging = {};
    CommandPoolHandle copy_pool = {}, acquire_pool = {};
    VkCommandBuffer copy = VK_NULL_HANDLE, acquire = VK_NULL_HANDLE;
    SemaphoreHandle copied = {};
    FenceHandle fence = {};
    std::uint64_t submission = 0;
    bool is_under_way = false;
};

namespace {

Result<CommandPoolHandle> make_pool(const Context& context, std::uint32_t family,
                                    VkCommandBuffer& commands) {
    VkCommandPoolCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_COMMAND_POOL_CREATE_INFO;
    info.flags = VK_COMMAND_POOL_CREATE_TRANSIENT_BIT;
    info.queueFamilyIndex = family;
    VkCommandPool pool = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateCommandPool(context.device(), &info, nullptr, &pool),
                   "make a command pool"));
    CommandPoolHandle handle(context.vk, context.device(), pool);
    VkCommandBufferAllocateInfo buffers{};
    buffers.sType = VK_STRUCTURE_TYPE_COMMAND_BUFFER_ALLOCATE_INFO;
    buffers.commandPool = pool;
    buffers.level = VK_COMMAND_BUFFER_LEVEL_PRIMARY;
    buffers.commandBufferCount = 1;
    YL_CHECK(check(context.vk.AllocateCommandBuffers(context.device(), &buffers, &commands),
                   "make a command buffer"));
    return handle;
}

Status begin(const Context& context, VkCommandPool pool, VkCommandBuffer commands) {
    YL_CHECK(check(context.vk.ResetCommandPool(context.device(), pool, 0), "reset commands"));
    VkCommandBufferBeginInfo info{};
    info.sType = VK_STRUCTURE_TYPE_COMMAND_BUFFER_BEGIN_INFO;
    info.flags = VK_COMMAND_BUFFER_USAGE_ONE_TIME_SUBMIT_BIT;
    return check(context.vk.BeginCommandBuffer(commands, &info), "begin commands");
}

}  // namespace

StagingRing::StagingRing(Context& context) : context_(context) {}

StagingRing::~StagingRing() {
    static_cast<void>(wait_all());
}

Status StagingRing::wait(Slot& slot) {
    if (!slot.is_under_way)
        return {};
    const VkFence fence = slot.fence.get();
    YL_CHECK(check(context_.vk.WaitForFences(context_.device(), 1, &fence, VK_TRUE,
                                             std::numeric_limits<std::uint64_t>::max()),
                   "wait for a copy"));
    slot.is_under_way = false;
    return check(context_.vk.ResetFences(context_.device(), 1, &fence), "reset a fence");
}

Status StagingRing::wait(std::uint64_t submission) {
    for (const auto& slot : slots_)
        if (slot != nullptr && slot->submission == submission)
            return wait(*slot);
    return {};  // its slot has come again since, which took waiting
}

Status StagingRing::wait_all() {
    Status first;
    for (const auto& slot : slots_)
        if (slot != nullptr)
            if (Status status = wait(*slot); !status && first)
                first = status;
    return first;
}

Status StagingRing::prepare(Slot& slot, std::uint64_t bytes) {
    YL_CHECK(wait(slot));
    const bool has_two_queues = context_.has_two_queues();
    if (!slot.fence) {
        VkFenceCreateInfo info{};
        info.sType = VK_STRUCTURE_TYPE_FENCE_CREATE_INFO;
        VkFence fence = VK_NULL_HANDLE;
        YL_CHECK(check(context_.vk.CreateFence(context_.device(), &info, nullptr, &fence),
                       "make a fence"));
        slot.fence = FenceHandle(context_.vk, context_.device(), fence);
        const std::uint32_t family =
            has_two_queues ? context_.handles.transfer_family : context_.handles.queue_family;
        YL_TRY(slot.copy_pool, make_pool(context_, family, slot.copy));
        slot.acquire = slot.copy;
    }
    if (has_two_queues && !slot.copied) {
        YL_TRY(slot.acquire_pool, make_pool(context_, context_.handles.queue_family, slot.acquire));
        VkSemaphoreCreateInfo info{};
        info.sType = VK_STRUCTURE_TYPE_SEMAPHORE_CREATE_INFO;
        VkSemaphore semaphore = VK_NULL_HANDLE;
        YL_CHECK(check(context_.vk.CreateSemaphore(context_.device(), &info, nullptr, &semaphore),
                       "make a semaphore"));
        slot.copied = SemaphoreHandle(context_.vk, context_.device(), semaphore);
    }
    if (bytes > slot.staging.bytes) {
        slot.staging = {};
        YL_TRY(slot.staging,
               HostBuffer::create(context_, std::max(bytes, context_.options.staging_budget),
                                  VK_BUFFER_USAGE_TRANSFER_SRC_BIT));
    }
    YL_CHECK(begin(context_, slot.copy_pool.get(), slot.copy));
    if (has_two_queues)
        YL_CHECK(begin(context_, slot.acquire_pool.get(), slot.acquire));
    return {};
}

Status StagingRing::send(Slot& slot, const Recording& recording) {
    YL_CHECK(check(context_.vk.EndCommandBuffer(slot.copy), "end commands"));
    VkSubmitInfo copy{};
    copy.sType = VK_STRUCTURE_TYPE_SUBMIT_INFO;
    copy.commandBufferCount = 1;
    copy.pCommandBuffers = &slot.copy;
    if (!recording.has_two_queues()) {
        return check(context_.vk.QueueSubmit(context_.handles.queue, 1, &copy, slot.fence.get()),
                     "submit a copy");
    }
    const VkSemaphore copied = slot.copied.get();
    copy.signalSemaphoreCount = 1;
    copy.pSignalSemaphores = &copied;
    YL_CHECK(check(context_.vk.EndCommandBuffer(slot.acquire), "end commands"));
    YL_CHECK(
        check(context_.vk.QueueSubmit(context_.handles.transfer_queue, 1, &copy, VK_NULL_HANDLE),
              "submit a copy"));
    const VkPipelineStageFlags stage = waiting_stages(context_.readers());
    VkSubmitInfo acquire{};
    acquire.sType = VK_STRUCTURE_TYPE_SUBMIT_INFO;
    acquire.waitSemaphoreCount = 1;
    acquire.pWaitSemaphores = &copied;
    acquire.pWaitDstStageMask = &stage;
    acquire.commandBufferCount = 1;
    acquire.pCommandBuffers = &slot.acquire;
    return check(context_.vk.QueueSubmit(context_.handles.queue, 1, &acquire, slot.fence.get()),
                 "submit the change of owner");
}

Result<std::uint64_t> StagingRing::submit(std::uint64_t bytes,
                                          const std::function<void(const Recording&)>& record) {
    auto& slot = slots_[next_];
    if (slot == nullptr)
        slot = std::make_unique<Slot>();
    YL_CHECK(prepare(*slot, bytes));
    Recording recording;
    recording.copy = slot->copy;
    recording.acquire = slot->acquire;
    recording.buffer = slot->staging.buffer.get();
    if (bytes > 0)
        recording.memory = slot->staging.contents().first(bytes);
    record(recording);
    YL_CHECK(send(*slot, recording));
    next_ = (next_ + 1) % slots_.size();
    slot->is_under_way = true;
    slot->submission = ++submissions_;
    return slot->submission;
}

}  // namespace yl::vulkan
