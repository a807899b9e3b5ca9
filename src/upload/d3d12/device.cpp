#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/d3d12/profile.hpp"
#include "upload/d3d12/texture_parts.hpp"
#include "upload/device_texture.hpp"
#include "upload/staging.hpp"

namespace yl::d3d12 {

struct RecordedUpload::Staging {
    HostBuffer buffer = {};
};

namespace {

Status check_queue(ID3D12CommandQueue* queue, D3D12_COMMAND_LIST_TYPE type, const char* name) {
    if (queue == nullptr || queue->GetDesc().Type == type)
        return {};
    return fail_at({ErrorKind::usage,
                    fmt::format("the queue is of the type {}; it has to be {}",
                                static_cast<int>(queue->GetDesc().Type), static_cast<int>(type))},
                   name);
}

}  // namespace

Result<Device> Device::open(const DeviceHandles& handles, const DeviceOptions& options) try {
    if (handles.device == nullptr || handles.queue == nullptr)
        return fail(ErrorKind::usage, "the device and a queue are needed");
    YL_CHECK(check_queue(handles.queue, D3D12_COMMAND_LIST_TYPE_DIRECT, "queue"));
    YL_CHECK(check_queue(handles.copy_queue, D3D12_COMMAND_LIST_TYPE_COPY, "copy_queue"));
    auto context = std::make_shared<Context>(options);
    context->handles = handles;
    YL_TRY(context->profile, read_profile(handles));
    context->heaps = std::make_shared<HeapPool>(handles.device);
    context->staging = std::make_unique<StagingRing>(*context);
    Device device;
    device.context_ = std::move(context);
    return device;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

const DeviceProfile& Device::profile() const {
    return context_->profile;
}

Status Device::wait() {
    return context_->staging->wait_all();
}

void Device::next_frame() {
    context_->released.next_frame();
}

Result<GpuTexture> Device::create(const TextureDesc& desc, UploadPlan plan,
                                  const ResourceOptions& options) try {
    auto parts = std::make_unique<GpuTexture::Parts>();
    parts->context = context_;
    parts->describe(desc, std::move(plan), {context_, &context_->profile});
    YL_TRY(parts->resource, make_resource(*context_, parts->plan.shape, desc.label, options));
    return GpuTexture(std::move(parts));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<GpuTexture> Device::upload(const Texture& texture, const UploadOptions& options,
                                  const ResourceOptions& resource) try {
    YL_CHECK(check_texture(texture, "texture"));
    const auto create_prepared = [&](PreparedUpload& prepared) -> Result<GpuTexture> {
        YL_TRY(GpuTexture made, create(prepared.desc, prepared.plan, resource));
        made.parts()->findings = std::move(prepared.findings);
        return made;
    };
    YL_TRY(GpuTexture result, upload_within(context_->options.staging_budget, profile(), texture,
                                            options, create_prepared));
    YL_CHECK(wait());
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<RecordedUpload> Device::record(ID3D12GraphicsCommandList* commands, const Texture& texture,
                                      const UploadOptions& options,
                                      const ResourceOptions& resource) try {
    YL_CHECK(check_texture(texture, "texture"));
    if (commands == nullptr)
        return fail_at({ErrorKind::usage, "there is no command list"}, "commands");
    YL_TRY(PreparedUpload prepared, prepare_upload(texture, profile(), options));
    const UploadPlan& plan = prepared.plan;
    YL_TRY(GpuTexture result, create(prepared.desc, plan, resource));
    result.parts()->findings = std::move(prepared.findings);
    auto staging = std::make_unique<RecordedUpload::Staging>();
    // One buffer for all batches, one after the other, each where any format may begin.
    constexpr std::uint64_t batch_alignment = 1536;  // a multiple of 512 and 12
    const BatchOffsets at = batch_offsets(plan, batch_alignment);
    YL_TRY(staging->buffer,
           HostBuffer::create(context_->device(), at.bytes, D3D12_HEAP_TYPE_UPLOAD));
    ResourceParts& parts = *result.parts()->resource;
    result.parts()->shown = plan.levels;
    for (std::uint32_t level = plan.levels.first; level <= plan.levels.last(); ++level)
        parts.change(commands, level, D3D12_RESOURCE_STATE_COPY_DEST);
    for (std::size_t i = 0; i < plan.batches.size(); ++i) {
        lay_out(plan, plan.batches[i], prepared.source(texture),
                staging->buffer.contents().subspan(at.offsets[i]));
        record_copies(commands, parts, plan, plan.batches[i], staging->buffer.resource.get(),
                      at.offsets[i]);
    }
    for (std::uint32_t level = plan.levels.first; level <= plan.levels.last(); ++level) {
        parts.change(commands, level, readable);
        parts.written[level] = true;
    }
    return RecordedUpload(std::move(result), std::move(staging));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::unique_ptr<DeviceTexture>> Device::reserve(const TextureDesc& desc) try {
    YL_TRY(UploadPlan plan, plan_to_reserve(desc, profile()));
    YL_TRY(GpuTexture texture, create(desc, std::move(plan)));
    return std::make_unique<GpuTexture>(std::move(texture));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

RecordedUpload::RecordedUpload(GpuTexture texture, std::unique_ptr<Staging> staging)
    : texture_(std::move(texture)), staging_(std::move(staging)) {}
RecordedUpload::RecordedUpload(RecordedUpload&&) noexcept = default;
RecordedUpload& RecordedUpload::operator=(RecordedUpload&&) noexcept = default;
RecordedUpload::~RecordedUpload() = default;

GpuTexture& RecordedUpload::texture() {
    return texture_;
}

GpuTexture RecordedUpload::finish() && {
    staging_.reset();
    return std::move(texture_);
}

}  // namespace yl::d3d12
