// Copies on their way: two turns of an upload buffer and command lists, each with a fence's value.
#pragma once

#include <array>
#include <functional>
#include <memory>
#include <span>

#include "upload/d3d12/com.hpp"

namespace yl::d3d12 {

struct Context;

/// What is recorded for one submission.
struct Recording {
    ID3D12GraphicsCommandList* commands = nullptr;
    ID3D12Resource* buffer = nullptr;
    std::span<std::byte> memory = {};
};

/// Where it goes: to the queue that samples, or to the one that copies, for which the first waits.
enum class Route : std::uint8_t { direct, copy };

class StagingRing {
 public:
    explicit StagingRing(Context& context);
    ~StagingRing();
    StagingRing(const StagingRing&) = delete;
    StagingRing& operator=(const StagingRing&) = delete;

    /// Lets `record` fill `bytes` bytes of the upload buffer and record commands, and submits them.
    /// Gives the number of the submission. Without a queue that copies, all go to the other.
    [[nodiscard]] Result<std::uint64_t> submit(std::uint64_t bytes, Route route,
                                               const std::function<void(const Recording&)>& record);

    /// Until this submission is done, or all of them.
    [[nodiscard]] Status wait(std::uint64_t submission);
    [[nodiscard]] Status wait_all() { return wait(submissions_); }

 private:
    struct Slot;

    [[nodiscard]] Status prepare(Slot& slot, std::uint64_t bytes, Route route);
    [[nodiscard]] Status send(ID3D12GraphicsCommandList* commands, Route route,
                              std::uint64_t submission);

    Context& context_;
    std::array<std::unique_ptr<Slot>, 2> slots_;
    Owned<ID3D12Fence> copied_ = {}, done_ = {};
    std::size_t next_ = 0;
    std::uint64_t submissions_ = 0;
};

}  // namespace yl::d3d12
