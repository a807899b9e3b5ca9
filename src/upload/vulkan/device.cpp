#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/device_texture.hpp"
#include "upload/staging.hpp"
#include "upload/vulkan/profile.hpp"
#include "upload/vulkan/texture_parts.hpp"

namespace yl::vulkan {

struct RecordedUpload::Staging {
    HostBuffer buffer = {};
};

Result<Device> Device::open(const DeviceHandles& handles, const DeviceOptions& options) try {
    auto context = std::make_shared<Context>(options);
    context->handles = handles;
    YL_TRY(context->vk,
           Functions::load(handles.get_instance_proc_addr, handles.instance, handles.device));
    if (handles.queue == VK_NULL_HANDLE || handles.physical_device == VK_NULL_HANDLE)
        return fail(ErrorKind::usage, "the physical device and a queue are needed");
    if (handles.transfer_queue != VK_NULL_HANDLE && !copies_anywhere(context->vk, handles))
        context->handles.transfer_queue = VK_NULL_HANDLE;
    YL_TRY(context->profile, read_profile(context->vk, handles));
    if (!handles.allocator)
        context->pool =
            std::make_unique<MemoryPool>(context->vk, handles.physical_device, handles.device);
    context->samplers = std::make_unique<SamplerCache>(*context);
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

std::size_t Device::sampler_count() const {
    return context_->samplers->size();
}

Status Device::wait() {
    return context_->staging->wait_all();
}

void Device::next_frame() {
    context_->released.next_frame();
}

Result<GpuTexture> Device::create(const TextureDesc& desc, UploadPlan plan,
                                  VkImageUsageFlags further_usage) try {
    auto parts = std::make_unique<GpuTexture::Parts>();
    parts->context = context_;
    parts->describe(desc, std::move(plan), {context_, &context_->profile});
    YL_TRY(parts->shared_sampler, context_->samplers->get(desc.sampler));
    YL_TRY(parts->image, make_image(*context_, parts->plan.shape, desc.label, further_usage));
    return GpuTexture(std::move(parts));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<GpuTexture> Device::upload(const Texture& texture, const UploadOptions& options,
                                  VkImageUsageFlags further_usage) try {
    YL_CHECK(check_texture(texture, "texture"));
    const auto create_prepared = [&](PreparedUpload& prepared) -> Result<GpuTexture> {
        YL_TRY(GpuTexture made, create(prepared.desc, prepared.plan, further_usage));
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

Result<RecordedUpload> Device::record(VkCommandBuffer commands, const Texture& texture,
                                      const UploadOptions& options,
                                      VkImageUsageFlags further_usage) try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_TRY(PreparedUpload prepared, prepare_upload(texture, profile(), options));
    const UploadPlan& plan = prepared.plan;
    YL_TRY(GpuTexture result, create(prepared.desc, plan, further_usage));
    result.parts()->findings = std::move(prepared.findings);
    auto staging = std::make_unique<RecordedUpload::Staging>();
    // One buffer for all batches, one after the other, each where any format may begin.
    constexpr VkDeviceSize batch_alignment = 768;  // a multiple of 16, 12 and 256
    const BatchOffsets at = batch_offsets(plan, batch_alignment);
    YL_TRY(staging->buffer,
           HostBuffer::create(*context_, at.bytes, VK_BUFFER_USAGE_TRANSFER_SRC_BIT));
    ImageParts& parts = *result.parts()->image;
    const std::uint32_t first = plan.levels.first, count = plan.levels.count;
    result.parts()->shown = plan.levels;
    YL_TRY(parts.view, make_view(*context_, parts.image.get(), plan.shape, plan.swizzle,
                                 result.parts()->shown));
    std::vector<std::vector<VkBufferImageCopy>> copies;
    for (std::size_t i = 0; i < plan.batches.size(); ++i) {
        lay_out(plan, plan.batches[i], prepared.source(texture),
                staging->buffer.contents().subspan(at.offsets[i]));
        copies.push_back(copies_of(plan, plan.batches[i], at.offsets[i]));
    }
    // From here on nothing fails: the program's commands must not name what is gone.
    vulkan::record(context_->vk, commands,
                   barriers_for(parts.image.get(),
                                parts.change(first, count, VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL),
                                context_->readers()));
    for (const auto& part : copies)
        context_->vk.CmdCopyBufferToImage(commands, staging->buffer.buffer.get(), parts.image.get(),
                                          VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL,
                                          static_cast<std::uint32_t>(part.size()), part.data());
    vulkan::record(
        context_->vk, commands,
        barriers_for(parts.image.get(),
                     parts.change(first, count, VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL),
                     context_->readers()));
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

}  // namespace yl::vulkan
