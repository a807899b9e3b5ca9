// Every block decoder against both Vulkan drivers', whose images copy blocks into plain texels.
#include "upload/random_blocks.hpp"
#include "upload/vulkan/image.hpp"
#include "upload/vulkan_fixture.hpp"

using namespace yl;
using support::must;
using support::VulkanFixture;

namespace {

constexpr VkImageLayout source_layout = VK_IMAGE_LAYOUT_TRANSFER_SRC_OPTIMAL,
                        target_layout = VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL;

/// The texture's texels as the driver decodes them, by a blit of equal size.
Texture decoded_by(VulkanFixture& vulkan, const Texture& blocks) {
    const auto uploaded = must(vulkan.device.upload(blocks));
    vulkan::Context& context = *vulkan.device.context();
    TextureShape shape = blocks.shape();
    const Format decoded = *decoded_format(shape.format);
    // Signed integers cannot be blitted to everywhere; floats hold them.
    const bool is_signed = info(decoded).kind == NumericKind::snorm;
    shape.format = is_signed ? Format::rgba32_float : decoded;
    const auto target = must(vulkan::make_image(context, shape, "", 0));
    const auto out = must(
        vulkan::HostBuffer::create(context, shape.total_bytes(), VK_BUFFER_USAGE_TRANSFER_DST_BIT));
    const auto submission =
        must(context.staging->submit(0, [&](const vulkan::Recording& recording) {
            const VkCommandBuffer commands = recording.acquire;
            const auto change = [&](VkImage image, VkImageLayout from, VkImageLayout to) {
                vulkan::record(context.vk, commands,
                               vulkan::barriers_for(image, {{0, from, to}}, context.readers()));
            };
            change(uploaded.image(), VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL, source_layout);
            change(target->image.get(), VK_IMAGE_LAYOUT_UNDEFINED, target_layout);
            VkImageBlit blit{};
            blit.srcSubresource = blit.dstSubresource = {VK_IMAGE_ASPECT_COLOR_BIT, 0, 0, 1};
            blit.srcOffsets[1] = blit.dstOffsets[1] = {static_cast<std::int32_t>(shape.width),
                                                       static_cast<std::int32_t>(shape.height), 1};
            vkCmdBlitImage(commands, uploaded.image(), source_layout, target->image.get(),
                           target_layout, 1, &blit, VK_FILTER_NEAREST);
            change(uploaded.image(), source_layout, VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL);
            change(target->image.get(), target_layout, source_layout);
            VkBufferImageCopy copy{};
            copy.imageSubresource = {VK_IMAGE_ASPECT_COLOR_BIT, 0, 0, 1};
            copy.imageExtent = {shape.width, shape.height, 1};
            vkCmdCopyImageToBuffer(commands, target->image.get(), source_layout, out.buffer.get(),
                                   1, &copy);
            vulkan::record_host_read(context.vk, commands);
        }));
    must(context.staging->wait(submission));
    Texture texels = must(Texture::create(shape));
    std::ranges::copy(out.contents(), texels.level(0).begin());
    return is_signed ? must(texture_in_format(texels, decoded, Role::data)) : std::move(texels);
}

/// `rounds` times 65,536 blocks.
void check_format(const char* driver, Format format, int allowed, std::uint32_t rounds) {
    VulkanFixture vulkan(driver);
    CAPTURE(driver);
    CAPTURE(info(format).name);
    for (std::uint32_t round = 0; round < rounds; ++round) {
        const Texture blocks = support::random_blocks(format, round + 1);
        const Texture ours = must(decode_texture(blocks));
        const Texture theirs = decoded_by(vulkan, blocks);
        const support::Differences differences = support::compare_texels(
            ours.shape().format, ours.level(0), theirs.level(0), support::Zeros::alike);
        CHECK(differences.max <= allowed);
        if (allowed == 0)
            CHECK(differences.texels == 0);
    }
}

}  // namespace

// One of the drivers gives 0 where the other and ours give -0, which is the same number.
// As with OpenGL: the colours between two ends of BC1 to BC5 may be rounded either way.
constexpr int driver_rounding = 2;

TEST_CASE("a million blocks of each format decode as Mesa's Vulkan driver decodes them") {
    for (const Format format :
         {Format::bc1_unorm, Format::bc1a_unorm, Format::bc2_unorm, Format::bc3_unorm,
          Format::bc4_unorm, Format::bc4_snorm, Format::bc5_unorm, Format::bc5_snorm})
        check_format(support::vulkan_drivers[0], format, driver_rounding, support::block_rounds);
    for (const Format format : {Format::bc6h_ufloat, Format::bc6h_sfloat, Format::bc7_unorm})
        check_format(support::vulkan_drivers[0], format, 0, support::block_rounds);
}

TEST_CASE("a million blocks of each format decode as the browser's Vulkan driver decodes them") {
    for (const Format format :
         {Format::bc1_unorm, Format::bc1a_unorm, Format::bc2_unorm, Format::bc3_unorm,
          Format::bc4_unorm, Format::bc4_snorm, Format::bc5_unorm, Format::bc5_snorm})
        check_format(support::vulkan_drivers[1], format, driver_rounding, support::block_rounds);
    for (const Format format :
         {Format::bc6h_ufloat, Format::bc6h_sfloat, Format::bc7_unorm, Format::etc2_rgb8_unorm,
          Format::etc2_rgb8a1_unorm, Format::etc2_rgba8_unorm})
        check_format(support::vulkan_drivers[1], format, 0, support::block_rounds);
    // It rounds the 11 bits of EAC off when it widens them; OpenGL's driver gives them exactly.
    constexpr int rounding_of_unorm = 1, rounding_of_snorm = 5;
    for (const Format format : {Format::eac_r11_unorm, Format::eac_rg11_unorm})
        check_format(support::vulkan_drivers[1], format, rounding_of_unorm, support::block_rounds);
    for (const Format format : {Format::eac_r11_snorm, Format::eac_rg11_snorm})
        check_format(support::vulkan_drivers[1], format, rounding_of_snorm, support::block_rounds);
}

TEST_CASE(
    "random blocks of ASTC of every footprint decode as the browser's Vulkan driver has them") {
    // It rounds the standard's 16 bits to 8, and does not widen ends of sRGB in their own way.
    constexpr int rounding = 1;
    for (const FormatInfo& f : all_formats())
        if (f.family == BlockFamily::astc)
            check_format(support::vulkan_drivers[1], f.format, rounding, 1);
}
