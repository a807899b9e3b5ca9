// What Vulkan asks of programs: layouts, owners, memory, command buffers, descriptors.
#include <cstring>

#include "support/files.hpp"
#include "upload/kinds.hpp"
#include "upload/vulkan/barriers.hpp"
#include "upload/vulkan_fixture.hpp"

using namespace yl;
using support::contains;
using support::must;
using support::must_fail;
using support::VulkanFixture;

namespace {

Texture chain(std::uint32_t side, Format format = Format::rgba8_srgb) {
    return support::random_texture(
        {.format = format, .width = side, .height = side, .levels = full_level_count(side, side)},
        side);
}

}  // namespace

TEST_CASE("a Vulkan device describes itself") {
    const auto names = must(vulkan::device_names());
    CHECK(names.size() >= 2);
    for (const char* driver : support::vulkan_drivers) {
        const VulkanFixture vulkan(driver);
        const DeviceProfile& profile = vulkan.device.profile();
        CHECK(contains(profile.name, driver));
        CHECK(contains(profile.api, "Vulkan 1."));
        CHECK(profile.api_kind == GraphicsApi::vulkan);
        CHECK(profile.max_anisotropy == 16);
        CHECK_FALSE(profile.supports(Format::rgb8_unorm));
        CHECK(profile.offset_alignment % 4 == 0);
    }
    CHECK(must_fail(vulkan::HeadlessDevice::create({.device = "abacus"})).kind ==
          ErrorKind::device);
    CHECK(must_fail(vulkan::Device::open({})).kind == ErrorKind::usage);
}

TEST_CASE("the layer that these tests listen to does speak up") {
    const auto headless = must(
        vulkan::HeadlessDevice::create({.device = support::vulkan_drivers[0], .validation = true}));
    CHECK(headless.messages().empty());
    VkBufferCreateInfo nothing{};
    nothing.sType = VK_STRUCTURE_TYPE_BUFFER_CREATE_INFO;
    nothing.usage = VK_BUFFER_USAGE_TRANSFER_SRC_BIT;
    VkBuffer buffer = VK_NULL_HANDLE;
    vkCreateBuffer(headless.handles().device, &nothing, nullptr, &buffer);
    CHECK_FALSE(headless.messages().empty());  // a buffer of 0 bytes
    if (buffer != VK_NULL_HANDLE)
        vkDestroyBuffer(headless.handles().device, buffer, nullptr);
}

TEST_CASE("one texture is described with many samplers, which are shared and go with it") {
    VulkanFixture vulkan(support::vulkan_drivers[0]);
    {
        const auto texture = must(vulkan.device.upload(chain(4)));
        const auto plain = texture.descriptor();
        const auto edge = must(texture.descriptor(must(parse_sampler("wrap=clamp-to-edge"))));
        const auto again = must(texture.descriptor(must(parse_sampler("wrap=clamp-to-edge"))));
        CHECK(edge.sampler != plain.sampler);
        CHECK(edge.sampler == again.sampler);
        CHECK(edge.imageView == plain.imageView);
        CHECK(vulkan.device.sampler_count() == 2);
    }
    CHECK(vulkan.device.sampler_count() == 0);
}

TEST_CASE("equal samplers are one object, and borders are fitted") {
    VulkanFixture vulkan(support::vulkan_drivers[0]);
    const Texture texture = chain(4);
    const auto with = [&](const char* text) {
        return must(vulkan.device.upload(texture, {.sampler = must(parse_sampler(text))}));
    };
    {
        const auto a = with("aniso=4 wrap=mirror"), b = with("wrap=mirror aniso=4");
        CHECK(a.sampler_handle() == b.sampler_handle());
        const auto c = with("wrap=clamp-to-border border=0.25,0.5,0.75,1");
        CHECK(a.sampler_handle() != c.sampler_handle());
        CHECK(c.findings().empty() == vulkan.device.profile().has_any_border_color);
        CHECK(vulkan.device.sampler_count() == 2);
    }
    CHECK(vulkan.device.sampler_count() == 0);
}

TEST_CASE("an update of a texture in use changes its box") {
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        const Texture texture = chain(32, Format::bc3_unorm);
        auto uploaded = must(vulkan.device.upload(texture));
        const Texture patch =
            support::random_texture({.format = Format::bc3_unorm, .width = 8, .height = 4}, 2);
        must(uploaded.update({.level = 1, .x = 8, .y = 4, .width = 8, .height = 4}, patch));
        const Texture back = must(uploaded.read_back());
        CHECK(std::memcmp(&back.image(1).row(1)[2 * 16], patch.image(0).row(0).data(), 32) == 0);
        CHECK(std::memcmp(back.image(1).row(1).data(), texture.image(1).row(1).data(), 32) == 0);
        CHECK(std::ranges::equal(back.level(0), texture.level(0)));
        CHECK(must_fail(uploaded.update({.width = 3, .height = 4}, patch)).kind ==
              ErrorKind::usage);
    }
}

TEST_CASE("levels that come later are shown later, through another view") {
    VulkanFixture vulkan(support::vulkan_drivers[0]);
    const Texture texture = chain(16);
    auto uploaded = must(vulkan.device.upload(texture, {.levels = {2, 3}}));
    const VkImageView first = uploaded.view();
    CHECK(uploaded.level_range().first == 2);
    CHECK(must_fail(uploaded.set_level_range({0, 5})).kind == ErrorKind::usage);
    // What is not shown cannot be read.
    const Texture early = must(uploaded.read_back());
    CHECK(std::ranges::equal(early.level(2), texture.level(2)));
    CHECK(std::ranges::all_of(early.level(0), [](std::byte b) { return b == std::byte{0}; }));
    const UploadPlan rest =
        must(plan_upload(texture.shape(), vulkan.device.profile(), {.levels = {0, 2}}));
    must(uploaded.write(rest, 0, texture));
    must(uploaded.set_level_range({0, 5}));
    CHECK(uploaded.view() != first);
    CHECK(support::holds(uploaded, rest, texture));
}

TEST_CASE("recorded into the program's own command buffer") {
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        const vulkan::DeviceHandles& handles = vulkan.headless.handles();
        VkCommandPoolCreateInfo pool_info{};
        pool_info.sType = VK_STRUCTURE_TYPE_COMMAND_POOL_CREATE_INFO;
        pool_info.queueFamilyIndex = handles.queue_family;
        VkCommandPool pool = VK_NULL_HANDLE;
        REQUIRE(vkCreateCommandPool(handles.device, &pool_info, nullptr, &pool) == VK_SUCCESS);
        VkCommandBufferAllocateInfo buffer_info{};
        buffer_info.sType = VK_STRUCTURE_TYPE_COMMAND_BUFFER_ALLOCATE_INFO;
        buffer_info.commandPool = pool;
        buffer_info.commandBufferCount = 1;
        VkCommandBuffer commands = VK_NULL_HANDLE;
        REQUIRE(vkAllocateCommandBuffers(handles.device, &buffer_info, &commands) == VK_SUCCESS);
        VkCommandBufferBeginInfo begin{};
        begin.sType = VK_STRUCTURE_TYPE_COMMAND_BUFFER_BEGIN_INFO;
        begin.flags = VK_COMMAND_BUFFER_USAGE_ONE_TIME_SUBMIT_BIT;
        REQUIRE(vkBeginCommandBuffer(commands, &begin) == VK_SUCCESS);
        const Texture one = chain(20), two = chain(13, Format::rgb8_unorm);
        auto first = must(vulkan.device.record(commands, one, {.staging_budget = 700}));
        auto second = must(vulkan.device.record(commands, two));
        REQUIRE(vkEndCommandBuffer(commands) == VK_SUCCESS);
        VkSubmitInfo submit{};
        submit.sType = VK_STRUCTURE_TYPE_SUBMIT_INFO;
        submit.commandBufferCount = 1;
        submit.pCommandBuffers = &commands;
        REQUIRE(vkQueueSubmit(handles.queue, 1, &submit, VK_NULL_HANDLE) == VK_SUCCESS);
        REQUIRE(vkQueueWaitIdle(handles.queue) == VK_SUCCESS);
        const auto texture = std::move(first).finish();
        CHECK(support::holds(texture, texture.plan(), one));
        CHECK(support::holds(second.texture(), second.texture().plan(), two));
        vkDestroyCommandPool(handles.device, pool, nullptr);
    }
}

TEST_CASE("memory comes from the program's allocator, which may run out") {
    vulkan::HeadlessDevice headless = must(
        vulkan::HeadlessDevice::create({.device = support::vulkan_drivers[0], .validation = true}));
    vulkan::DeviceHandles handles = headless.handles();
    VkDeviceSize in_use = 0;
    VkDeviceSize limit = 200'000;
    std::size_t pieces = 0;
    VkPhysicalDeviceMemoryProperties types{};
    vkGetPhysicalDeviceMemoryProperties(handles.physical_device, &types);
    // One allocation for each piece, of the size of a block, so that nobody finds them small.
    handles.allocator = vulkan::MemoryAllocator{
        [&](const VkMemoryRequirements& wanted,
            VkMemoryPropertyFlags properties) -> Result<vulkan::MemoryPiece> {
            if (in_use + wanted.size > limit)
                return fail(ErrorKind::limit, "the program's memory is spent");
            for (std::uint32_t type = 0; type < types.memoryTypeCount; ++type) {
                if ((wanted.memoryTypeBits >> type & 1) == 0 ||
                    (types.memoryTypes[type].propertyFlags & properties) != properties)
                    continue;
                VkMemoryAllocateInfo info{};
                info.sType = VK_STRUCTURE_TYPE_MEMORY_ALLOCATE_INFO;
                info.allocationSize = 2U << 20;
                info.memoryTypeIndex = type;
                vulkan::MemoryPiece piece;
                piece.size = wanted.size;
                if (vkAllocateMemory(handles.device, &info, nullptr, &piece.memory) != VK_SUCCESS)
                    return fail(ErrorKind::limit, "no memory");
                if ((properties & VK_MEMORY_PROPERTY_HOST_VISIBLE_BIT) != 0)
                    vkMapMemory(handles.device, piece.memory, 0, VK_WHOLE_SIZE, 0, &piece.mapped);
                in_use += wanted.size;
                ++pieces;
                return piece;
            }
            return fail(ErrorKind::device, "no such memory");
        },
        [&](const vulkan::MemoryPiece& piece) {
            vkFreeMemory(handles.device, piece.memory, nullptr);
            in_use -= piece.size;
            --pieces;
        }};
    {
        auto device = must(vulkan::Device::open(handles, {.staging_budget = 20'000}));
        const Texture small = chain(32), large = chain(512);
        const auto kept = must(device.upload(small));
        const std::size_t before = pieces;
        const Error error = must_fail(device.upload(large));
        CHECK(error.kind == ErrorKind::limit);
        CHECK(contains(error.message, "spent"));
        CHECK(pieces == before);
        CHECK(support::holds(kept, kept.plan(), small));
        limit = in_use;  // no memory even to read back
        CHECK(must_fail(kept.read_back()).kind == ErrorKind::limit);
    }
    CHECK(pieces == 0);
    CHECK(in_use == 0);
    for (const std::string& message : headless.messages())
        FAIL_CHECK(message);
}

TEST_CASE("textures go after the frames that may use them") {
    VulkanFixture vulkan(support::vulkan_drivers[0], {.frames_in_flight = 2});
    {
        const auto gone = must(vulkan.device.upload(chain(8)));
        static_cast<void>(gone);
    }
    CHECK(vulkan.device.sampler_count() == 1);  // held with the texture
    vulkan.device.next_frame();
    vulkan.device.next_frame();
    CHECK(vulkan.device.sampler_count() == 1);
    vulkan.device.next_frame();
    CHECK(vulkan.device.sampler_count() == 0);
}

TEST_CASE("a table of textures by number, where the device indexes descriptors") {
    VulkanFixture without(support::vulkan_drivers[0]);
    VulkanFixture with(support::vulkan_drivers[1]);
    REQUIRE(with.headless.handles().features.descriptor_indexing);
    auto table =
        must(vulkan::TextureTable::create(with.device, 200, 0, VK_SHADER_STAGE_FRAGMENT_BIT));
    CHECK(table.capacity() == 200);
    CHECK(table.set() != VK_NULL_HANDLE);
    const auto texture = must(with.device.upload(chain(4)));
    must(table.put(199, texture));
    CHECK(must_fail(table.put(200, texture)).kind == ErrorKind::usage);
    CHECK(must_fail(vulkan::TextureTable::create(with.device, 0)).kind == ErrorKind::usage);
    if (!without.headless.handles().features.descriptor_indexing)
        CHECK(must_fail(vulkan::TextureTable::create(without.device, 10)).kind ==
              ErrorKind::unsupported);
}

TEST_CASE("images for more than sampling: drawn into and stored to, or refused") {
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        const Texture texture = support::random_texture(
            {.format = Format::rgba8_unorm, .width = 16, .height = 16, .levels = 5}, 3);
        const VkImageUsageFlags both =
            VK_IMAGE_USAGE_COLOR_ATTACHMENT_BIT | VK_IMAGE_USAGE_STORAGE_BIT;
        const auto uploaded = must(vulkan.device.upload(texture, {}, both));
        CHECK(support::holds(uploaded, uploaded.plan(), texture));
        const auto refused =
            vulkan.device.upload(chain(16, Format::bc7_srgb), {}, VK_IMAGE_USAGE_STORAGE_BIT);
        const Error error = must_fail(refused);
        CHECK(error.kind == ErrorKind::device);
        CHECK(error.place == "further_usage");
        CHECK(contains(error.message, "bc7-srgb"));
    }
}

TEST_CASE("the keeper on Vulkan") {
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver, {.frames_in_flight = 1});
        support::TemporaryFolder folder;
        const Texture texture = chain(40, Format::bc7_srgb);
        must(write_texture(folder.path("panel.ktx2"), texture));
        TextureKeeper keeper(vulkan.device, {.staging_budget = 1000, .show_early = true});
        const auto ticket = keeper.request({.file = folder.path("panel.ktx2")});
        const auto missing = keeper.request({.file = folder.path("missing.ktx2")});
        while (!keeper.pump(std::chrono::microseconds(0)).is_settled)
            vulkan.device.next_frame();
        const auto* kept = keeper.texture_as<vulkan::GpuTexture>(ticket);
        REQUIRE(kept != nullptr);
        CHECK(support::holds(*kept, kept->plan(), texture));
        CHECK(kept->descriptor().imageView != VK_NULL_HANDLE);
        CHECK(keeper.status(missing).state == KeeperState::failed);
    }
}

TEST_CASE("barriers: neighbouring levels share one, and each layout has its stage and access") {
    constexpr VkImageLayout unknown = VK_IMAGE_LAYOUT_UNDEFINED,
                            writable = VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL,
                            readable = VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL;
    const VkPipelineStageFlags readers =
        vulkan::reading_stages({.geometry_shader = true, .ray_tracing = true});
    const auto first = vulkan::barriers_for(
        VK_NULL_HANDLE, {{0, unknown, writable}, {1, unknown, writable}, {3, unknown, writable}},
        readers);
    REQUIRE(first.images.size() == 2);
    CHECK(first.images[0].subresourceRange.levelCount == 2);
    CHECK(first.images[1].subresourceRange.baseMipLevel == 3);
    CHECK(first.images[0].srcAccessMask == 0);
    CHECK(first.images[0].dstAccessMask == VK_ACCESS_TRANSFER_WRITE_BIT);
    CHECK(first.before == VK_PIPELINE_STAGE_TOP_OF_PIPE_BIT);
    CHECK(first.after == VK_PIPELINE_STAGE_TRANSFER_BIT);
    const auto last = vulkan::barriers_for(VK_NULL_HANDLE, {{0, writable, readable}}, readers);
    CHECK(last.images[0].srcAccessMask == VK_ACCESS_TRANSFER_WRITE_BIT);
    CHECK(last.images[0].dstAccessMask == VK_ACCESS_SHADER_READ_BIT);
    CHECK(last.before == VK_PIPELINE_STAGE_TRANSFER_BIT);
    for (const VkPipelineStageFlags stage :
         {VK_PIPELINE_STAGE_FRAGMENT_SHADER_BIT, VK_PIPELINE_STAGE_GEOMETRY_SHADER_BIT,
          VK_PIPELINE_STAGE_RAY_TRACING_SHADER_BIT_KHR})
        CHECK((last.after & stage) != 0);
    CHECK((last.after & VK_PIPELINE_STAGE_TESSELLATION_CONTROL_SHADER_BIT) == 0);
    CHECK(vulkan::barriers_for(VK_NULL_HANDLE, {{0, readable, readable}}, readers).is_empty());
}

TEST_CASE("a change of owner has two halves, with the same layouts and families") {
    constexpr VkImageLayout writable = VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL,
                            readable = VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL;
    const std::vector<vulkan::LevelChange> changes = {{0, writable, readable},
                                                      {1, writable, readable}};
    const vulkan::Owners owners = {2, 0};
    const VkPipelineStageFlags readers = vulkan::reading_stages({});
    const auto release =
        vulkan::owner_barriers(VK_NULL_HANDLE, changes, readers, owners, vulkan::Half::release);
    const auto acquire =
        vulkan::owner_barriers(VK_NULL_HANDLE, changes, readers, owners, vulkan::Half::acquire);
    REQUIRE(release.images.size() == 1);
    REQUIRE(acquire.images.size() == 1);
    for (const auto* half : {&release.images[0], &acquire.images[0]}) {
        CHECK(half->srcQueueFamilyIndex == 2);
        CHECK(half->dstQueueFamilyIndex == 0);
        CHECK(half->oldLayout == writable);
        CHECK(half->newLayout == readable);
        CHECK(half->subresourceRange.levelCount == 2);
    }
    CHECK(release.images[0].srcAccessMask == VK_ACCESS_TRANSFER_WRITE_BIT);
    CHECK(release.images[0].dstAccessMask == 0);
    CHECK(release.after == VK_PIPELINE_STAGE_BOTTOM_OF_PIPE_BIT);
    CHECK(acquire.images[0].srcAccessMask == 0);
    CHECK(acquire.images[0].dstAccessMask == VK_ACCESS_SHADER_READ_BIT);
    // The acquiring half begins where the semaphore waits, or nothing would hold it back.
    CHECK(acquire.before != 0);
    CHECK((acquire.before & ~vulkan::waiting_stages(readers)) == 0);
    CHECK((acquire.after & VK_PIPELINE_STAGE_FRAGMENT_SHADER_BIT) != 0);
}

TEST_CASE("layers of an array that come later, and parts read back, on Vulkan") {
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        support::check_late_layers(vulkan.device);
    }
}

TEST_CASE("Vulkan: textures that were moved from refuse what is asked of them") {
    for (const char* driver : support::vulkan_drivers) {
        VulkanFixture vulkan(driver);
        support::check_moved_from(vulkan.device);
    }
}
