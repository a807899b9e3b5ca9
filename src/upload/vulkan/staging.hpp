// Copies on their way: two turns of staging memory and commands, each with a fence.
#pragma once

#include <array>
#include <functional>
#include <memory>
#include <span>

#include "upload/vulkan/handle.hpp"

namespace yl::vulkan {

struct Context;
struct HostBuffer;

/// What is recorded for one submission: on the queue that copies, and, where textures change their
/// owner, on the queue that samples.
struct Recording {
    VkCommandBuffer copy = VK_NULL_HANDLE;
    VkCommandBuffer acquire = VK_NULL_HANDLE;  ///< the same as `copy` where there is one queue
    VkBuffer buffer = VK_NULL_HANDLE;
    std::span<std::byte> memory = {};

    [[nodiscard]] bool has_two_queues() const { return copy != acquire; }
};

class StagingRing {
 public:
    explicit StagingRing(Context& context);
    ~StagingRing();
    StagingRing(const StagingRing&) = delete;
    StagingRing& operator=(const StagingRing&) = delete;

    /// Lets `record` fill `bytes` bytes of staging memory and record commands, and submits them.
    /// Gives the number of the submission.
    [[nodiscard]] Result<std::uint64_t> submit(std::uint64_t bytes,
                                               const std::function<void(const Recording&)>& record);

    /// Until this submission is done, or all of them.
    [[nodiscard]] Status wait(std::uint64_t submission);
    [[nodiscard]] Status wait_all();

 private:
    struct Slot;

    [[nodiscard]] Status prepare(Slot& slot, std::uint64_t bytes);
    [[nodiscard]] Status wait(Slot& slot);
    [[nodiscard]] Status send(Slot& slot, const Recording& recording);

    Context& context_;
    std::array<std::unique_ptr<Slot>, 2> slots_;
    std::size_t next_ = 0;
    std::uint64_t submissions_ = 0;
};

}  // namespace yl::vulkan
