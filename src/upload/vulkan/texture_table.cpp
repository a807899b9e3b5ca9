#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "upload/vulkan/context.hpp"

namespace yl::vulkan {

struct TextureTable::Parts {
    std::shared_ptr<Context> context = {};
    SetLayoutHandle layout = {};
    DescriptorPoolHandle pool = {};
    VkDescriptorSet set = VK_NULL_HANDLE;
    std::uint32_t capacity = 0, binding = 0;
};

namespace {

Result<SetLayoutHandle> make_layout(const Context& context, std::uint32_t capacity,
                                    std::uint32_t binding, VkShaderStageFlags stages) {
    VkDescriptorSetLayoutBinding array{};
    array.binding = binding;
    array.descriptorType = VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER;
    array.descriptorCount = capacity;
    array.stageFlags = stages;
    const VkDescriptorBindingFlags flags = VK_DESCRIPTOR_BINDING_PARTIALLY_BOUND_BIT |
                                           VK_DESCRIPTOR_BINDING_UPDATE_AFTER_BIND_BIT |
                                           VK_DESCRIPTOR_BINDING_UPDATE_UNUSED_WHILE_PENDING_BIT;
    VkDescriptorSetLayoutBindingFlagsCreateInfo binding_flags{};
    binding_flags.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_LAYOUT_BINDING_FLAGS_CREATE_INFO;
    binding_flags.bindingCount = 1;
    binding_flags.pBindingFlags = &flags;
    VkDescriptorSetLayoutCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_LAYOUT_CREATE_INFO;
    info.pNext = &binding_flags;
    info.flags = VK_DESCRIPTOR_SET_LAYOUT_CREATE_UPDATE_AFTER_BIND_POOL_BIT;
    info.bindingCount = 1;
    info.pBindings = &array;
    VkDescriptorSetLayout layout = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateDescriptorSetLayout(context.device(), &info, nullptr, &layout),
                   "make a layout of descriptors"));
    return SetLayoutHandle(context.vk, context.device(), layout);
}

Result<DescriptorPoolHandle> make_pool(const Context& context, std::uint32_t capacity) {
    const VkDescriptorPoolSize size = {VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER, capacity};
    VkDescriptorPoolCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_POOL_CREATE_INFO;
    info.flags = VK_DESCRIPTOR_POOL_CREATE_UPDATE_AFTER_BIND_BIT;
    info.maxSets = 1;
    info.poolSizeCount = 1;
    info.pPoolSizes = &size;
    VkDescriptorPool pool = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateDescriptorPool(context.device(), &info, nullptr, &pool),
                   "make a pool of descriptors"));
    return DescriptorPoolHandle(context.vk, context.device(), pool);
}

}  // namespace

TextureTable::TextureTable(std::unique_ptr<Parts> parts) : parts_(std::move(parts)) {}
TextureTable::TextureTable(TextureTable&&) noexcept = default;
TextureTable& TextureTable::operator=(TextureTable&&) noexcept = default;
TextureTable::~TextureTable() = default;

Result<TextureTable> TextureTable::create(const Device& device, std::uint32_t capacity,
                                          std::uint32_t binding, VkShaderStageFlags stages) try {
    const auto& context = device.context();
    if (!context->handles.features.descriptor_indexing)
        return fail(
            ErrorKind::unsupported,
            "the device has no descriptor indexing, or it is not switched on; bind textures "
            "one by one, or put them into an array");
    if (capacity == 0)
        return fail(ErrorKind::usage, "a table of no textures cannot be made");
    auto parts = std::make_unique<Parts>();
    parts->context = context;
    parts->capacity = capacity;
    parts->binding = binding;
    YL_TRY(parts->layout, make_layout(*context, capacity, binding, stages));
    YL_TRY(parts->pool, make_pool(*context, capacity));
    const VkDescriptorSetLayout layout = parts->layout.get();
    VkDescriptorSetAllocateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_ALLOCATE_INFO;
    info.descriptorPool = parts->pool.get();
    info.descriptorSetCount = 1;
    info.pSetLayouts = &layout;
    YL_CHECK(check(context->vk.AllocateDescriptorSets(context->device(), &info, &parts->set),
                   "make a set of descriptors"));
    return TextureTable(std::move(parts));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

VkDescriptorSetLayout TextureTable::layout() const {
    return parts_->layout.get();
}

VkDescriptorSet TextureTable::set() const {
    return parts_->set;
}

std::uint32_t TextureTable::capacity() const {
    return parts_->capacity;
}

Status TextureTable::put(std::uint32_t number, const GpuTexture& texture) try {
    if (number >= parts_->capacity)
        return fail(ErrorKind::usage, fmt::format("the table holds {} textures; {} is beyond it",
                                                  parts_->capacity, number));
    texture.write_descriptor(parts_->set, parts_->binding, number);
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::vulkan
