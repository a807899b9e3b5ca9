// Two hundred textures on Vulkan in one descriptor array, indexed by number in a shader:
//     many_textures_vulkan many.png
#include <vulkan/vulkan.h>

#include <array>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <yl/result.hpp>
#include <yl/vulkan.hpp>

#include "many_textures.comp.inc"
#include "swatches.hpp"

namespace {

void or_exit(VkResult result) {
    if (result != VK_SUCCESS) {
        std::fprintf(stderr, "Vulkan error %d\n", static_cast<int>(result));
        std::exit(1);
    }
}

/// A device that indexes descriptors; of the software drivers, one does.
yl::vulkan::HeadlessDevice open_device() {
    for (const std::string& name : or_exit(yl::vulkan::device_names())) {
        auto device = yl::vulkan::HeadlessDevice::create({.device = name});
        if (device && device->handles().features.descriptor_indexing)
            return std::move(*device);
    }
    std::fprintf(stderr, "no Vulkan device here has descriptor indexing\n");
    std::exit(1);
}

/// The buffer that the shader fills, seen by the program.
struct Wall {
    VkBuffer buffer = VK_NULL_HANDLE;
    VkDeviceMemory memory = VK_NULL_HANDLE;
    void* pixels = nullptr;
};

Wall make_wall(const yl::vulkan::DeviceHandles& vk, VkDeviceSize bytes) {
    Wall wall;
    VkBufferCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_BUFFER_CREATE_INFO;
    info.size = bytes;
    info.usage = VK_BUFFER_USAGE_STORAGE_BUFFER_BIT;
    or_exit(vkCreateBuffer(vk.device, &info, nullptr, &wall.buffer));
    VkMemoryRequirements wanted{};
    vkGetBufferMemoryRequirements(vk.device, wall.buffer, &wanted);
    VkPhysicalDeviceMemoryProperties types{};
    vkGetPhysicalDeviceMemoryProperties(vk.physical_device, &types);
    constexpr VkMemoryPropertyFlags seen =
        VK_MEMORY_PROPERTY_HOST_VISIBLE_BIT | VK_MEMORY_PROPERTY_HOST_COHERENT_BIT;
    VkMemoryAllocateInfo memory{};
    memory.sType = VK_STRUCTURE_TYPE_MEMORY_ALLOCATE_INFO;
    memory.allocationSize = wanted.size;
    for (std::uint32_t type = types.memoryTypeCount; type-- > 0;)
        if ((wanted.memoryTypeBits >> type & 1) != 0 &&
            (types.memoryTypes[type].propertyFlags & seen) == seen)
            memory.memoryTypeIndex = type;
    or_exit(vkAllocateMemory(vk.device, &memory, nullptr, &wall.memory));
    or_exit(vkBindBufferMemory(vk.device, wall.buffer, wall.memory, 0));
    or_exit(vkMapMemory(vk.device, wall.memory, 0, VK_WHOLE_SIZE, 0, &wall.pixels));
    return wall;
}

/// The shader's pipeline: set 0 is the table of textures, set 1 the wall.
struct Program {
    VkDescriptorSetLayout wall_layout = VK_NULL_HANDLE;
    VkDescriptorPool pool = VK_NULL_HANDLE;
    VkDescriptorSet wall_set = VK_NULL_HANDLE;
    VkPipelineLayout layout = VK_NULL_HANDLE;
    VkPipeline pipeline = VK_NULL_HANDLE;
};

Program make_program(VkDevice device, VkDescriptorSetLayout table, const Wall& wall) {
    Program program;
    const VkDescriptorSetLayoutBinding binding = {0, VK_DESCRIPTOR_TYPE_STORAGE_BUFFER, 1,
                                                  VK_SHADER_STAGE_COMPUTE_BIT, nullptr};
    VkDescriptorSetLayoutCreateInfo layout{};
    layout.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_LAYOUT_CREATE_INFO;
    layout.bindingCount = 1;
    layout.pBindings = &binding;
    or_exit(vkCreateDescriptorSetLayout(device, &layout, nullptr, &program.wall_layout));
    const VkDescriptorPoolSize size = {VK_DESCRIPTOR_TYPE_STORAGE_BUFFER, 1};
    VkDescriptorPoolCreateInfo pool{};
    pool.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_POOL_CREATE_INFO;
    pool.maxSets = pool.poolSizeCount = 1;
    pool.pPoolSizes = &size;
    or_exit(vkCreateDescriptorPool(device, &pool, nullptr, &program.pool));
    VkDescriptorSetAllocateInfo set{};
    set.sType = VK_STRUCTURE_TYPE_DESCRIPTOR_SET_ALLOCATE_INFO;
    set.descriptorPool = program.pool;
    set.descriptorSetCount = 1;
    set.pSetLayouts = &program.wall_layout;
    or_exit(vkAllocateDescriptorSets(device, &set, &program.wall_set));
    const VkDescriptorBufferInfo buffer = {wall.buffer, 0, VK_WHOLE_SIZE};
    VkWriteDescriptorSet write{};
    write.sType = VK_STRUCTURE_TYPE_WRITE_DESCRIPTOR_SET;
    write.dstSet = program.wall_set;
    write.descriptorCount = 1;
    write.descriptorType = VK_DESCRIPTOR_TYPE_STORAGE_BUFFER;
    write.pBufferInfo = &buffer;
    vkUpdateDescriptorSets(device, 1, &write, 0, nullptr);

    const std::array sets = {table, program.wall_layout};
    const VkPushConstantRange sizes = {VK_SHADER_STAGE_COMPUTE_BIT, 0, 16};
    VkPipelineLayoutCreateInfo pipeline_layout{};
    pipeline_layout.sType = VK_STRUCTURE_TYPE_PIPELINE_LAYOUT_CREATE_INFO;
    pipeline_layout.setLayoutCount = 2;
    pipeline_layout.pSetLayouts = sets.data();
    pipeline_layout.pushConstantRangeCount = 1;
    pipeline_layout.pPushConstantRanges = &sizes;
    or_exit(vkCreatePipelineLayout(device, &pipeline_layout, nullptr, &program.layout));
    VkShaderModuleCreateInfo module{};
    module.sType = VK_STRUCTURE_TYPE_SHADER_MODULE_CREATE_INFO;
    module.codeSize = sizeof many_textures_comp;
    module.pCode = many_textures_comp;
    VkShaderModule shader = VK_NULL_HANDLE;
    or_exit(vkCreateShaderModule(device, &module, nullptr, &shader));
    VkComputePipelineCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_COMPUTE_PIPELINE_CREATE_INFO;
    info.stage.sType = VK_STRUCTURE_TYPE_PIPELINE_SHADER_STAGE_CREATE_INFO;
    info.stage.stage = VK_SHADER_STAGE_COMPUTE_BIT;
    info.stage.module = shader;
    info.stage.pName = "main";
    info.layout = program.layout;
    or_exit(vkCreateComputePipelines(device, VK_NULL_HANDLE, 1, &info, nullptr, &program.pipeline));
    vkDestroyShaderModule(device, shader, nullptr);
    return program;
}

void run(const yl::vulkan::DeviceHandles& vk, const Program& program, VkDescriptorSet table,
         const std::array<std::uint32_t, 4>& sizes) {
    VkCommandPoolCreateInfo pool_info{};
    pool_info.sType = VK_STRUCTURE_TYPE_COMMAND_POOL_CREATE_INFO;
    pool_info.queueFamilyIndex = vk.queue_family;
    VkCommandPool pool = VK_NULL_HANDLE;
    or_exit(vkCreateCommandPool(vk.device, &pool_info, nullptr, &pool));
    VkCommandBufferAllocateInfo buffer{};
    buffer.sType = VK_STRUCTURE_TYPE_COMMAND_BUFFER_ALLOCATE_INFO;
    buffer.commandPool = pool;
    buffer.commandBufferCount = 1;
    VkCommandBuffer commands = VK_NULL_HANDLE;
    or_exit(vkAllocateCommandBuffers(vk.device, &buffer, &commands));
    VkCommandBufferBeginInfo begin{};
    begin.sType = VK_STRUCTURE_TYPE_COMMAND_BUFFER_BEGIN_INFO;
    or_exit(vkBeginCommandBuffer(commands, &begin));
    vkCmdBindPipeline(commands, VK_PIPELINE_BIND_POINT_COMPUTE, program.pipeline);
    const std::array sets = {table, program.wall_set};
    vkCmdBindDescriptorSets(commands, VK_PIPELINE_BIND_POINT_COMPUTE, program.layout, 0, 2,
                            sets.data(), 0, nullptr);
    vkCmdPushConstants(commands, program.layout, VK_SHADER_STAGE_COMPUTE_BIT, 0, 16, sizes.data());
    vkCmdDispatch(commands, (sizes[0] + 7) / 8, (sizes[1] + 7) / 8, 1);
    VkMemoryBarrier seen{};
    seen.sType = VK_STRUCTURE_TYPE_MEMORY_BARRIER;
    seen.srcAccessMask = VK_ACCESS_SHADER_WRITE_BIT;
    seen.dstAccessMask = VK_ACCESS_HOST_READ_BIT;
    vkCmdPipelineBarrier(commands, VK_PIPELINE_STAGE_COMPUTE_SHADER_BIT, VK_PIPELINE_STAGE_HOST_BIT,
                         0, 1, &seen, 0, nullptr, 0, nullptr);
    or_exit(vkEndCommandBuffer(commands));
    VkSubmitInfo submit{};
    submit.sType = VK_STRUCTURE_TYPE_SUBMIT_INFO;
    submit.commandBufferCount = 1;
    submit.pCommandBuffers = &commands;
    or_exit(vkQueueSubmit(vk.queue, 1, &submit, VK_NULL_HANDLE));
    or_exit(vkQueueWaitIdle(vk.queue));
    vkDestroyCommandPool(vk.device, pool, nullptr);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2)
        return std::fprintf(stderr, "usage: many_textures_vulkan OUT.png\n"), 2;
    constexpr std::uint32_t width = 800, height = 400, columns = 20, rows = 10;
    const yl::vulkan::HeadlessDevice headless = open_device();
    const yl::vulkan::DeviceHandles& vk = headless.handles();
    auto device = or_exit(yl::vulkan::Device::open(vk));

    // This is all that it takes: textures by number.
    auto table = or_exit(yl::vulkan::TextureTable::create(device, columns * rows));
    std::vector<yl::vulkan::GpuTexture> textures;
    for (const yl::Texture& swatch : or_exit(make_swatches(columns * rows)))
        textures.push_back(or_exit(device.upload(swatch)));
    for (std::uint32_t number = 0; number < textures.size(); ++number)
        if (auto status = table.put(number, textures[number]); !status)
            return std::fprintf(stderr, "%s\n", status.error().sentence().c_str()), 1;

    const Wall wall = make_wall(vk, VkDeviceSize{width} * height * 4);
    const Program program = make_program(vk.device, table.layout(), wall);
    run(vk, program, table.set(), {width, height, columns, rows});
    yl::Image picture = or_exit(yl::Image::create(yl::Format::rgba8_srgb, width, height));
    std::memcpy(picture.view().data, wall.pixels, std::size_t{width} * height * 4);
    const auto written = yl::write_picture(argv[1], picture.view());
    vkDestroyPipeline(vk.device, program.pipeline, nullptr);
    vkDestroyPipelineLayout(vk.device, program.layout, nullptr);
    vkDestroyDescriptorPool(vk.device, program.pool, nullptr);
    vkDestroyDescriptorSetLayout(vk.device, program.wall_layout, nullptr);
    vkDestroyBuffer(vk.device, wall.buffer, nullptr);
    vkFreeMemory(vk.device, wall.memory, nullptr);
    if (!written)
        return std::fprintf(stderr, "%s\n", written.error().sentence().c_str()), 1;
    std::printf("%zu textures in one descriptor array, with %zu sampler, on %s\n", textures.size(),
                device.sampler_count(), device.profile().name.c_str());
}
