#include "render/vulkan/picture.hpp"

#include <algorithm>
#include <cstring>

#include <yl/status_macros.hpp>
#include "triangle.vert.spv.inc"
#include "upload/vulkan/image.hpp"

namespace yl::vulkan {
namespace {

constexpr VkFormat target_format = VK_FORMAT_R8G8B8A8_SRGB;

/// The picture that is drawn to.
struct Target {
    OwnedMemory memory = {};
    ImageHandle image = {};
    ImageViewHandle view = {};
    RenderPassHandle pass = {};
    FramebufferHandle framebuffer = {};
};

Result<ImageHandle> make_target_image(Context& context, VkExtent2D size, OwnedMemory& memory) {
    VkImageCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_IMAGE_CREATE_INFO;
    info.imageType = VK_IMAGE_TYPE_2D;
    info.format = target_format;
    info.extent = {size.width, size.height, 1};
    info.mipLevels = info.arrayLayers = 1;
    info.samples = VK_SAMPLE_COUNT_1_BIT;
    info.tiling = VK_IMAGE_TILING_OPTIMAL;
    info.usage = VK_IMAGE_USAGE_COLOR_ATTACHMENT_BIT | VK_IMAGE_USAGE_TRANSFER_SRC_BIT;
    VkImage image = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateImage(context.device(), &info, nullptr, &image),
                   "make a picture to draw to"));
    ImageHandle handle(context.vk, context.device(), image);
    VkMemoryRequirements wanted{};
    context.vk.GetImageMemoryRequirements(context.device(), image, &wanted);
    YL_TRY(const MemoryPiece piece,
           context.take_memory(wanted, VK_MEMORY_PROPERTY_DEVICE_LOCAL_BIT));
    memory = OwnedMemory(context, piece);
    YL_CHECK(check(context.vk.BindImageMemory(context.device(), image, piece.memory, piece.offset),
                   "bind a picture's memory"));
    return handle;
}

Result<RenderPassHandle> make_pass(const Context& context) {
    VkAttachmentDescription color{};
    color.format = target_format;
    color.samples = VK_SAMPLE_COUNT_1_BIT;
    color.loadOp = VK_ATTACHMENT_LOAD_OP_CLEAR;
    color.storeOp = VK_ATTACHMENT_STORE_OP_STORE;
    color.stencilLoadOp = VK_ATTACHMENT_LOAD_OP_DONT_CARE;
    color.stencilStoreOp = VK_ATTACHMENT_STORE_OP_DONT_CARE;
    color.initialLayout = VK_IMAGE_LAYOUT_UNDEFINED;
    color.finalLayout = VK_IMAGE_LAYOUT_TRANSFER_SRC_OPTIMAL;
    const VkAttachmentReference reference = {0, VK_IMAGE_LAYOUT_COLOR_ATTACHMENT_OPTIMAL};
    VkSubpassDescription subpass{};
    subpass.pipelineBindPoint = VK_PIPELINE_BIND_POINT_GRAPHICS;
    subpass.colorAttachmentCount = 1;
    subpass.pColorAttachments = &reference;
    VkSubpassDependency to_copy{};
    to_copy.srcSubpass = 0;
    to_copy.dstSubpass = VK_SUBPASS_EXTERNAL;
    to_copy.srcStageMask = VK_PIPELINE_STAGE_COLOR_ATTACHMENT_OUTPUT_BIT;
    to_copy.dstStageMask = VK_PIPELINE_STAGE_TRANSFER_BIT;
    to_copy.srcAccessMask = VK_ACCESS_COLOR_ATTACHMENT_WRITE_BIT;
    to_copy.dstAccessMask = VK_ACCESS_TRANSFER_READ_BIT;
    VkRenderPassCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_RENDER_PASS_CREATE_INFO;
    info.attachmentCount = 1;
    info.pAttachments = &color;
    info.subpassCount = 1;
    info.pSubpasses = &subpass;
    info.dependencyCount = 1;
    info.pDependencies = &to_copy;
    VkRenderPass pass = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateRenderPass(context.device(), &info, nullptr, &pass),
                   "make a render pass"));
    return RenderPassHandle(context.vk, context.device(), pass);
}

Result<Target> make_target(Context& context, VkExtent2D size) {
    Target target;
    YL_TRY(target.image, make_target_image(context, size, target.memory));
    VkImageViewCreateInfo view_info{};
    view_info.sType = VK_STRUCTURE_TYPE_IMAGE_VIEW_CREATE_INFO;
    view_info.image = target.image.get();
    view_info.viewType = VK_IMAGE_VIEW_TYPE_2D;
    view_info.format = target_format;
    view_info.subresourceRange = {VK_IMAGE_ASPECT_COLOR_BIT, 0, 1, 0, 1};
    VkImageView view = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateImageView(context.device(), &view_info, nullptr, &view),
                   "make a view of a picture"));
    target.view = ImageViewHandle(context.vk, context.device(), view);
    YL_TRY(target.pass, make_pass(context));
    VkFramebufferCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_FRAMEBUFFER_CREATE_INFO;
    info.renderPass = target.pass.get();
    info.attachmentCount = 1;
    info.pAttachments = &view;
    info.width = size.width;
    info.height = size.height;
    info.layers = 1;
    VkFramebuffer framebuffer = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateFramebuffer(context.device(), &info, nullptr, &framebuffer),
                   "make a framebuffer"));
    target.framebuffer = FramebufferHandle(context.vk, context.device(), framebuffer);
    return target;
}

/// The texture at binding 0 and the numbers at binding 1.
struct Bindings {
    SetLayoutHandle layout = {};
    DescriptorPoolHandle pool = {};
    VkDescriptorSet set = VK_NULL_HANDLE;
};

Result<Bindings> make_bindings(const Context& context) {
    constexpr VkDescriptorType types[] = {VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER,
                                          VK_DESCRIPTOR_TYPE_UNIFORM_BUFFER};
    VkDescriptorSetLayoutBinding bindings[2]{};
    VkDescriptorPoolSize sizes[2]{};
    for (std::uint32_t i = 0; i < 2; ++i) {
        bindings[i] = {i, types[i], 1, VK_SHADER_STAGE_FRAGMENT_BIT, nullptr};
        sizes[i] = {types[i], 1};
    }
    VkDescriptorSetLayoutCreateInfo layout_info{};
    layout_info.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_LAYOUT_CREATE_INFO;
    layout_info.bindingCount = 2;
    layout_info.pBindings = bindings;
    Bindings result;
    VkDescriptorSetLayout layout = VK_NULL_HANDLE;
    YL_CHECK(check(
        context.vk.CreateDescriptorSetLayout(context.device(), &layout_info, nullptr, &layout),
        "make a layout of descriptors"));
    result.layout = SetLayoutHandle(context.vk, context.device(), layout);
    VkDescriptorPoolCreateInfo pool_info{};
    pool_info.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_POOL_CREATE_INFO;
    pool_info.maxSets = 1;
    pool_info.poolSizeCount = 2;
    pool_info.pPoolSizes = sizes;
    VkDescriptorPool pool = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateDescriptorPool(context.device(), &pool_info, nullptr, &pool),
                   "make a pool of descriptors"));
    result.pool = DescriptorPoolHandle(context.vk, context.device(), pool);
    VkDescriptorSetAllocateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_ALLOCATE_INFO;
    info.descriptorPool = pool;
    info.descriptorSetCount = 1;
    info.pSetLayouts = &layout;
    YL_CHECK(check(context.vk.AllocateDescriptorSets(context.device(), &info, &result.set),
                   "make a set of descriptors"));
    return result;
}

void fill_bindings(const Context& context, const Bindings& bindings,
                   const VkDescriptorImageInfo& texture, const HostBuffer& numbers) {
    const VkDescriptorBufferInfo buffer = {numbers.buffer.get(), 0, numbers.bytes};
    VkWriteDescriptorSet writes[2]{};
    for (std::uint32_t i = 0; i < 2; ++i) {
        writes[i].sType = VK_STRUCTURE_TYPE_WRITE_DESCRIPTOR_SET;
        writes[i].dstSet = bindings.set;
        writes[i].dstBinding = i;
        writes[i].descriptorCount = 1;
    }
    writes[0].descriptorType = VK_DESCRIPTOR_TYPE_COMBINED_IMAGE_SAMPLER;
    writes[0].pImageInfo = &texture;
    writes[1].descriptorType = VK_DESCRIPTOR_TYPE_UNIFORM_BUFFER;
    writes[1].pBufferInfo = &buffer;
    context.vk.UpdateDescriptorSets(context.device(), 2, writes, 0, nullptr);
}

Result<ShaderHandle> make_shader(const Context& context, std::span<const std::uint32_t> words) {
    VkShaderModuleCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_SHADER_MODULE_CREATE_INFO;
    info.codeSize = words.size_bytes();
    info.pCode = words.data();
    VkShaderModule shader = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateShaderModule(context.device(), &info, nullptr, &shader),
                   "make a shader"));
    return ShaderHandle(context.vk, context.device(), shader);
}

Result<PipelineLayoutHandle> make_pipeline_layout(const Context& context,
                                                  VkDescriptorSetLayout set_layout) {
    VkPipelineLayoutCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_PIPELINE_LAYOUT_CREATE_INFO;
    info.setLayoutCount = 1;
    info.pSetLayouts = &set_layout;
    VkPipelineLayout layout = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreatePipelineLayout(context.device(), &info, nullptr, &layout),
                   "make a pipeline's layout"));
    return PipelineLayoutHandle(context.vk, context.device(), layout);
}

/// A pipeline of one triangle without any input.
Result<PipelineHandle> make_pipeline(const Context& context, VkExtent2D size, VkRenderPass pass,
                                     VkPipelineLayout layout,
                                     std::span<const std::uint32_t> fragment) {
    YL_TRY(const ShaderHandle vertex_shader, make_shader(context, triangle_vert_spv));
    YL_TRY(const ShaderHandle fragment_shader, make_shader(context, fragment));
    VkPipelineShaderStageCreateInfo stages[2]{};
    for (VkPipelineShaderStageCreateInfo& stage : stages) {
        stage.sType = VK_STRUCTURE_TYPE_PIPELINE_SHADER_STAGE_CREATE_INFO;
        stage.pName = "main";
    }
    stages[0].stage = VK_SHADER_STAGE_VERTEX_BIT;
    stages[0].module = vertex_shader.get();
    stages[1].stage = VK_SHADER_STAGE_FRAGMENT_BIT;
    stages[1].module = fragment_shader.get();
    VkPipelineVertexInputStateCreateInfo input{};
    input.sType = VK_STRUCTURE_TYPE_PIPELINE_VERTEX_INPUT_STATE_CREATE_INFO;
    VkPipelineInputAssemblyStateCreateInfo assembly{};
    assembly.sType = VK_STRUCTURE_TYPE_PIPELINE_INPUT_ASSEMBLY_STATE_CREATE_INFO;
    assembly.topology = VK_PRIMITIVE_TOPOLOGY_TRIANGLE_LIST;
    const VkViewport viewport = {
        0, 0, static_cast<float>(size.width), static_cast<float>(size.height), 0, 1};
    const VkRect2D scissor = {{0, 0}, size};
    VkPipelineViewportStateCreateInfo view{};
    view.sType = VK_STRUCTURE_TYPE_PIPELINE_VIEWPORT_STATE_CREATE_INFO;
    view.viewportCount = view.scissorCount = 1;
    view.pViewports = &viewport;
    view.pScissors = &scissor;
    VkPipelineRasterizationStateCreateInfo raster{};
    raster.sType = VK_STRUCTURE_TYPE_PIPELINE_RASTERIZATION_STATE_CREATE_INFO;
    raster.cullMode = VK_CULL_MODE_NONE;
    raster.lineWidth = 1;
    VkPipelineMultisampleStateCreateInfo samples{};
    samples.sType = VK_STRUCTURE_TYPE_PIPELINE_MULTISAMPLE_STATE_CREATE_INFO;
    samples.rasterizationSamples = VK_SAMPLE_COUNT_1_BIT;
    VkPipelineColorBlendAttachmentState channels{};
    channels.colorWriteMask = VK_COLOR_COMPONENT_R_BIT | VK_COLOR_COMPONENT_G_BIT |
                              VK_COLOR_COMPONENT_B_BIT | VK_COLOR_COMPONENT_A_BIT;
    VkPipelineColorBlendStateCreateInfo blend{};
    blend.sType = VK_STRUCTURE_TYPE_PIPELINE_COLOR_BLEND_STATE_CREATE_INFO;
    blend.attachmentCount = 1;
    blend.pAttachments = &channels;
    VkGraphicsPipelineCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_GRAPHICS_PIPELINE_CREATE_INFO;
    info.stageCount = 2;
    info.pStages = stages;
    info.pVertexInputState = &input;
    info.pInputAssemblyState = &assembly;
    info.pViewportState = &view;
    info.pRasterizationState = &raster;
    info.pMultisampleState = &samples;
    info.pColorBlendState = &blend;
    info.layout = layout;
    info.renderPass = pass;
    VkPipeline pipeline = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateGraphicsPipelines(context.device(), VK_NULL_HANDLE, 1, &info,
                                                      nullptr, &pipeline),
                   "make a pipeline"));
    return PipelineHandle(context.vk, context.device(), pipeline);
}

}  // namespace

Result<Image> draw_picture(Context& context, std::span<const std::uint32_t> fragment,
                           std::uint32_t width, std::uint32_t height,
                           const VkDescriptorImageInfo& texture, std::span<const float> numbers) {
    const VkExtent2D size = {width, height};
    YL_TRY(Image picture, Image::create(Format::rgba8_srgb, width, height));
    YL_TRY(const Target target, make_target(context, size));
    YL_TRY(const Bindings bindings, make_bindings(context));
    YL_TRY(const PipelineLayoutHandle layout, make_pipeline_layout(context, bindings.layout.get()));
    YL_TRY(const PipelineHandle pipeline,
           make_pipeline(context, size, target.pass.get(), layout.get(), fragment));
    YL_TRY(const HostBuffer block,
           HostBuffer::create(context, numbers.size_bytes(), VK_BUFFER_USAGE_UNIFORM_BUFFER_BIT));
    std::memcpy(block.contents().data(), numbers.data(), numbers.size_bytes());
    fill_bindings(context, bindings, texture, block);
    const std::uint64_t bytes = std::uint64_t{width} * height * 4;
    YL_TRY(const HostBuffer out,
           HostBuffer::create(context, bytes, VK_BUFFER_USAGE_TRANSFER_DST_BIT));
    const auto draw = [&](const Recording& recording) {
        const Functions& vk = context.vk;
        const VkCommandBuffer commands = recording.acquire;
        const VkClearValue clear{};
        VkRenderPassBeginInfo begin{};
        begin.sType = VK_STRUCTURE_TYPE_RENDER_PASS_BEGIN_INFO;
        begin.renderPass = target.pass.get();
        begin.framebuffer = target.framebuffer.get();
        begin.renderArea = {{0, 0}, size};
        begin.clearValueCount = 1;
        begin.pClearValues = &clear;
        vk.CmdBeginRenderPass(commands, &begin, VK_SUBPASS_CONTENTS_INLINE);
        vk.CmdBindPipeline(commands, VK_PIPELINE_BIND_POINT_GRAPHICS, pipeline.get());
        vk.CmdBindDescriptorSets(commands, VK_PIPELINE_BIND_POINT_GRAPHICS, layout.get(), 0, 1,
                                 &bindings.set, 0, nullptr);
        vk.CmdDraw(commands, 3, 1, 0, 0);
        vk.CmdEndRenderPass(commands);
        VkBufferImageCopy copy{};
        copy.imageSubresource = {VK_IMAGE_ASPECT_COLOR_BIT, 0, 0, 1};
        copy.imageExtent = {width, height, 1};
        vk.CmdCopyImageToBuffer(commands, target.image.get(), VK_IMAGE_LAYOUT_TRANSFER_SRC_OPTIMAL,
                                out.buffer.get(), 1, &copy);
        record_host_read(vk, commands);
    };
    YL_TRY(const std::uint64_t submission, context.staging->submit(0, draw));
    YL_CHECK(context.staging->wait(submission));
    std::memcpy(picture.view().data, out.contents().data(), bytes);
    return picture;
}

}  // namespace yl::vulkan
