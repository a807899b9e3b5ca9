#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "upload/d3d12/platform.hpp"

namespace yl::d3d12 {

struct HeadlessParts {
    OpenedDevice opened = {};
    Owned<ID3D12CommandQueue> queue = {}, copy_queue = {};
    DeviceHandles handles = {};
};

namespace {

Status make_queue(ID3D12Device* device, D3D12_COMMAND_LIST_TYPE type,
                  Owned<ID3D12CommandQueue>& queue) {
    D3D12_COMMAND_QUEUE_DESC desc{};
    desc.Type = type;
    return check(device->CreateCommandQueue(&desc, iid_of<ID3D12CommandQueue>(), queue.place()),
                 "make a queue");
}

}  // namespace

Result<HeadlessDevice> HeadlessDevice::create(const HeadlessOptions& options) try {
    auto parts = std::make_unique<HeadlessParts>();
    YL_TRY(parts->opened, open_device(options.device));
    ID3D12Device* device = parts->opened.device.get();
    YL_CHECK(make_queue(device, D3D12_COMMAND_LIST_TYPE_DIRECT, parts->queue));
    if (options.has_copy_queue)
        YL_CHECK(make_queue(device, D3D12_COMMAND_LIST_TYPE_COPY, parts->copy_queue));
    parts->handles = {.device = device,
                      .queue = parts->queue.get(),
                      .copy_queue = parts->copy_queue.get(),
                      .name = parts->opened.name};
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

}  // namespace yl::d3d12
