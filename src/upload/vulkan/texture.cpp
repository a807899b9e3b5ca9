#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <set>

#include <yl/device_rules.hpp>
#include "base/attempt.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/staging.hpp"
#include "upload/vulkan/image.hpp"

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

void GpuTexture::swap(GpuTexture& other) noexcept {
    std::swap(context_, other.context_);
    std::swap(parts_, other.parts_);
    std::swap(sampler_, other.sampler_);
    std::swap(plan_, other.plan_);
    std::swap(fitted_sampler_, other.fitted_sampler_);
    std::swap(shown_, other.shown_);
    std::swap(traits_, other.traits_);
    std::swap(findings_, other.findings_);
}

const void* GpuTexture::backend_key() {
    static constexpr char key = 0;
    return &key;
}

GpuTexture::GpuTexture(GpuTexture&& other) noexcept {
    swap(other);
}

GpuTexture& GpuTexture::operator=(GpuTexture&& other) noexcept {
    swap(other);
    return *this;
}

GpuTexture::~GpuTexture() {
    if (parts_ == nullptr)
        return;
    if (parts_->last_submission != 0)
        static_cast<void>(context_->staging->wait(parts_->last_submission));
    if (context_->options.frames_in_flight > 0)
        context_->retired.push_back({context_->frame, std::move(parts_), std::move(sampler_)});
}

VkImage GpuTexture::image() const {
    return parts_->image.get();
}

VkImageView GpuTexture::view() const {
    return parts_->view.get();
}

VkSampler GpuTexture::sampler_handle() const {
    return sampler_->get();
}

VkDescriptorImageInfo GpuTexture::descriptor() const {
    return {sampler_handle(), view(), readable};
}

Result<VkDescriptorImageInfo> GpuTexture::descriptor(const Sampler& sampler) const try {
    Findings changes;
    const Sampler wanted = fit_sampler(sampler, context_->profile, changes);
    auto& known = parts_->further_samplers;
    auto found = std::ranges::find(known, wanted, &SharedSampler::description);
    if (found == known.end()) {
        YL_TRY(auto made, context_->samplers->get(wanted));
        known.push_back(std::move(made));
        found = std::prev(known.end());
    }
    return VkDescriptorImageInfo{(*found)->get(), view(), readable};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

void GpuTexture::write_descriptor(VkDescriptorSet set, std::uint32_t binding,
                                  std::uint32_t element) const {
    const VkDescriptorImageInfo info = descriptor();
    VkWriteDescriptorSet write{};
    write.sType = VK_STRUCTURE_TYPE_WRITE_DESCRIPTOR_SET;
    write.dstSet = set;
    write.dstBinding = binding;
    write.dstArrayElement = element;
    write.descriptorCount = 1;
    write.descriptorType = VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER;
    write.pImageInfo = &info;
    context_->vk.UpdateDescriptorSets(context_->device(), 1, &write, 0, nullptr);
}

/// Layouts are those of what was submitted: they stay as they were when nothing is.
Status GpuTexture::submit(std::uint64_t bytes,
                          const std::function<void(const Recording&)>& record) {
    const std::vector<VkImageLayout> before = parts_->layouts;
    const auto submission = context_->staging->submit(bytes, record);
    if (!submission) {
        parts_->layouts = before;
        return tl::unexpected(submission.error());
    }
    parts_->last_submission = *submission;
    return {};
}

Status GpuTexture::write(const UploadPlan& plan, std::size_t batch, const Texture& texture) try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_CHECK(check_write(plan, batch, texture, plan_.shape));
    const UploadBatch& part = plan.batches[batch];
    return submit(part.bytes, [&](const Recording& recording) {
        lay_out(plan, part, texture, recording.memory);
        record_write(*context_, *parts_, plan, part, recording);
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::show_levels(LevelRange range) try {
    if (range.base > range.max || range.max >= plan_.shape.levels)
        return fail(ErrorKind::usage,
                    fmt::format("the texture has no levels {} to {}", range.base, range.max));
    const std::uint32_t count = range.max - range.base + 1;
    for (std::uint32_t level = range.base; level <= range.max; ++level)
        if (parts_->layouts[level] == VK_IMAGE_LAYOUT_UNDEFINED)
            return fail(ErrorKind::usage, fmt::format("level {} has not been written yet", level));
    YL_TRY(ImageViewHandle view,
           make_view(*context_, parts_->image.get(), plan_.shape, traits_.swizzle, range));
    const Owners owners = {context_->handles.transfer_family, context_->handles.queue_family};
    YL_CHECK(submit(0, [&](const Recording& recording) {
        const VkImage image = parts_->image.get();
        const auto changes = parts_->change(range.base, count, readable);
        // Between queues of one family the semaphore is enough.
        if (!context_->has_two_families()) {
            record(context_->vk, recording.copy, barriers_for(image, changes, context_->readers()));
            return;
        }
        record(context_->vk, recording.copy,
               owner_barriers(image, changes, context_->readers(), owners, Half::release));
        record(context_->vk, recording.acquire,
               owner_barriers(image, changes, context_->readers(), owners, Half::acquire));
    }));
    if (parts_->view)
        parts_->old_views.push_back(std::move(parts_->view));
    parts_->view = std::move(view);
    shown_ = range;
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::update(const TextureBox& box, const Texture& texels) {
    YL_CHECK(check_texture(texels, "texels"));
    YL_TRY(const PreparedUpdate update, prepare_update(plan_, box, texels, context_->profile));
    return write(update.plan, 0, update.source(texels));
}

Result<Texture> GpuTexture::read_back() const try {
    YL_TRY(Texture texture, Texture::create(plan_.shape));
    texture.traits = traits_;
    for (std::uint32_t level = 0; level < plan_.shape.levels; ++level) {
        if (!parts_->is_shown(level)) {
            std::ranges::fill(texture.level(level), std::byte{0});
            continue;
        }
        for (std::uint32_t layer = 0; layer < plan_.shape.layers; ++layer)
            for (std::uint32_t face = 0; face < plan_.shape.faces; ++face) {
                YL_TRY(const Texture one, read_back(level, layer, face));
                std::ranges::copy(one.level(0), texture.image(level, layer, face).data);
            }
    }
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back(std::uint32_t level, std::uint32_t layer,
                                      std::uint32_t face) const try {
    YL_TRY(const TextureShape shape, shape_of_part(plan_.shape, level, layer, face));
    if (!parts_->is_shown(level))
        return fail(ErrorKind::usage, fmt::format("level {} is not shown", level));
    YL_TRY(Texture texture, Texture::create(shape));
    texture.traits = traits_;
    YL_TRY(const HostBuffer buffer,
           HostBuffer::create(*context_, shape.level_bytes(0), VK_BUFFER_USAGE_TRANSFER_DST_BIT));
    VkBufferImageCopy copy{};
    copy.imageSubresource = {VK_IMAGE_ASPECT_COLOR_BIT, level, layer * plan_.shape.faces + face, 1};
    copy.imageExtent = {shape.width, shape.height, shape.depth};
    const Functions& vk = context_->vk;
    YL_TRY(
        const std::uint64_t submission,
        context_->staging->submit(0, [&](const Recording& recording) {
            const VkCommandBuffer commands = recording.acquire;
            record(vk, commands,
                   barriers_for(image(), parts_->change(level, 1, copyable), context_->readers()));
            vk.CmdCopyImageToBuffer(commands, image(), copyable, buffer.buffer.get(), 1, &copy);
            record(vk, commands,
                   barriers_for(image(), parts_->change(level, 1, readable), context_->readers()));
            record_host_read(vk, commands);
        }));
    YL_CHECK(context_->staging->wait(submission));
    std::memcpy(texture.level(0).data(), buffer.contents().data(), shape.level_bytes(0));
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::vulkan
