#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <set>

#include <yl/sampler_rules.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/device_texture.hpp"
#include "upload/staging.hpp"
#include "upload/vulkan/texture_parts.hpp"

namespace yl::vulkan {
namespace {

constexpr VkImageLayout readable = VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL;
constexpr VkImageLayout writable = VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL;
constexpr VkImageLayout copyable = VK_IMAGE_LAYOUT_TRANSFER_SRC_OPTIMAL;

std::set<std::uint32_t> levels_of(std::span<const UploadRegion> regions) {
    std::set<std::uint32_t> levels;
    for (const UploadRegion& region : regions)
        levels.insert(region.level);
    return levels;
}

/// Levels that samplers see already belong to the queue that samples; the others to the one that
/// copies, until they are shown.
void record_write(Context& context, ImageParts& parts, const UploadPlan& plan,
                  const UploadBatch& batch, const Recording& recording) {
    const Functions& vk = context.vk;
    const auto copies = copies_of(plan, batch, 0);
    for (const std::uint32_t level : levels_of(plan.regions_of(batch))) {
        const bool was_shown = parts.is_shown(level);
        const VkCommandBuffer commands = was_shown ? recording.acquire : recording.copy;
        std::vector<VkBufferImageCopy> here;
        std::ranges::copy_if(copies, std::back_inserter(here), [&](const VkBufferImageCopy& copy) {
            return copy.imageSubresource.mipLevel == level;
        });
        if (parts.layouts[level] != writable)
            record(vk, commands,
                   barriers_for(parts.image.get(), parts.change(level, 1, writable),
                                context.readers()));
        vk.CmdCopyBufferToImage(commands, recording.buffer, parts.image.get(), writable,
                                static_cast<std::uint32_t>(here.size()), here.data());
        if (was_shown)
            record(vk, commands,
                   barriers_for(parts.image.get(), parts.change(level, 1, readable),
                                context.readers()));
    }
}

}  // namespace

const void* GpuTexture::backend_key() {
    static constexpr char key = 0;
    return &key;
}

GpuTexture::GpuTexture(std::unique_ptr<Parts> parts) : PlannedTexture(std::move(parts)) {}

GpuTexture::Parts* GpuTexture::parts() const {
    return static_cast<Parts*>(common_.get());
}

GpuTexture::Parts::~Parts() {
    if (image == nullptr)
        return;
    if (image->last_submission != 0)
        static_cast<void>(context->staging->wait(image->last_submission));
    context->released.keep(
        std::make_shared<std::pair<std::shared_ptr<ImageParts>, decltype(shared_sampler)>>(
            std::move(image), std::move(shared_sampler)));
}

VkImage GpuTexture::image() const {
    return parts() != nullptr ? parts()->image->image.get() : VK_NULL_HANDLE;
}

VkImageView GpuTexture::view() const {
    return parts() != nullptr ? parts()->image->view.get() : VK_NULL_HANDLE;
}

VkSampler GpuTexture::sampler_handle() const {
    return parts() != nullptr ? parts()->shared_sampler->get() : VK_NULL_HANDLE;
}

VkDescriptorImageInfo GpuTexture::descriptor() const {
    return {sampler_handle(), view(), readable};
}

Result<VkDescriptorImageInfo> GpuTexture::descriptor(const Sampler& sampler) const try {
    if (parts() == nullptr)
        return moved_from();
    Findings changes;
    const Sampler wanted = fit_sampler(sampler, parts()->context->profile, changes);
    auto& known = parts()->image->further_samplers;
    auto found = std::ranges::find(known, wanted, &SharedSampler::description);
    if (found == known.end()) {
        YL_TRY(auto made, parts()->context->samplers->get(wanted));
        known.push_back(std::move(made));
        found = std::prev(known.end());
    }
    return VkDescriptorImageInfo{(*found)->get(), view(), readable};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

void GpuTexture::write_descriptor(VkDescriptorSet set, std::uint32_t binding,
                                  std::uint32_t element) const {
    if (parts() == nullptr)
        return;
    const VkDescriptorImageInfo info = descriptor();
    VkWriteDescriptorSet write{};
    write.sType = VK_STRUCTURE_TYPE_WRITE_DESCRIPTOR_SET;
    write.dstSet = set;
    write.dstBinding = binding;
    write.dstArrayElement = element;
    write.descriptorCount = 1;
    write.descriptorType = VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER;
    write.pImageInfo = &info;
    parts()->context->vk.UpdateDescriptorSets(parts()->context->device(), 1, &write, 0, nullptr);
}

Status GpuTexture::Parts::submit(std::uint64_t bytes,
                                 const std::function<void(const Recording&)>& record) {
    const std::vector<VkImageLayout> before = image->layouts;
    const auto submission = context->staging->submit(bytes, record);
    if (!submission) {
        image->layouts = before;
        return tl::unexpected(submission.error());
    }
    image->last_submission = *submission;
    return {};
}

Status GpuTexture::write(const UploadPlan& plan, std::size_t batch, const Texture& texture) try {
    if (parts() == nullptr)
        return moved_from();
    YL_CHECK(check_texture(texture, "texture"));
    YL_CHECK(check_write(plan, batch, texture, parts()->plan.shape));
    const UploadBatch& part = plan.batches[batch];
    return parts()->submit(part.bytes, [&](const Recording& recording) {
        lay_out(plan, part, texture, recording.memory);
        record_write(*parts()->context, *parts()->image, plan, part, recording);
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::set_level_range(LevelRange range) try {
    if (parts() == nullptr)
        return moved_from();
    YL_TRY(range, checked_levels(parts()->plan.shape, range));
    for (std::uint32_t level = range.first; level <= range.last(); ++level)
        if (parts()->image->layouts[level] == VK_IMAGE_LAYOUT_UNDEFINED)
            return fail(ErrorKind::usage, fmt::format("level {} has not been written yet", level));
    YL_TRY(ImageViewHandle view, make_view(*parts()->context, parts()->image->image.get(),
                                           parts()->plan.shape, parts()->metadata.swizzle, range));
    const Owners owners = {parts()->context->handles.transfer_family,
                           parts()->context->handles.queue_family};
    YL_CHECK(parts()->submit(0, [&](const Recording& recording) {
        const VkImage image = parts()->image->image.get();
        const auto changes = parts()->image->change(range.first, range.count, readable);
        // Between queues of one family the semaphore is enough.
        if (!parts()->context->has_two_families()) {
            record(parts()->context->vk, recording.copy,
                   barriers_for(image, changes, parts()->context->readers()));
            return;
        }
        record(parts()->context->vk, recording.copy,
               owner_barriers(image, changes, parts()->context->readers(), owners, Half::release));
        record(parts()->context->vk, recording.acquire,
               owner_barriers(image, changes, parts()->context->readers(), owners, Half::acquire));
    }));
    if (parts()->image->view)
        parts()->image->old_views.push_back(std::move(parts()->image->view));
    parts()->image->view = std::move(view);
    parts()->shown = range;
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back(std::uint32_t level, std::uint32_t layer,
                                      std::uint32_t face) const try {
    if (parts() == nullptr)
        return moved_from();
    YL_TRY(const TextureShape shape, shape_of_part(parts()->plan.shape, level, layer, face));
    if (!parts()->image->is_shown(level))
        return fail(ErrorKind::usage, fmt::format("level {} is not shown", level));
    YL_TRY(Texture texture, Texture::create(shape));
    texture.metadata = parts()->metadata;
    YL_TRY(const HostBuffer buffer, HostBuffer::create(*parts()->context, shape.level_bytes(0),
                                                       VK_BUFFER_USAGE_TRANSFER_DST_BIT));
    VkBufferImageCopy copy{};
    copy.imageSubresource = {VK_IMAGE_ASPECT_COLOR_BIT, level,
                             layer * parts()->plan.shape.faces + face, 1};
    copy.imageExtent = {shape.width, shape.height, shape.depth};
    const Functions& vk = parts()->context->vk;
    YL_TRY(const std::uint64_t submission,
           parts()->context->staging->submit(0, [&](const Recording& recording) {
               const VkCommandBuffer commands = recording.acquire;
               record(vk, commands,
                      barriers_for(image(), parts()->image->change(level, 1, copyable),
                                   parts()->context->readers()));
               vk.CmdCopyImageToBuffer(commands, image(), copyable, buffer.buffer.get(), 1, &copy);
               record(vk, commands,
                      barriers_for(image(), parts()->image->change(level, 1, readable),
                                   parts()->context->readers()));
               record_host_read(vk, commands);
           }));
    YL_CHECK(parts()->context->staging->wait(submission));
    std::memcpy(texture.level(0).data(), buffer.contents().data(), shape.level_bytes(0));
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::vulkan
