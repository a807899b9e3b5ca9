// Every format in every kind of texture on both Vulkan drivers, with the rules checked.
#include "upload/kinds.hpp"
#include "upload/vulkan_fixture.hpp"

using namespace yl;
using support::must;
using support::VulkanFixture;

TEST_CASE("every format, kind and size goes to each Vulkan driver and comes back") {
    for (const char* driver : support::vulkan_drivers) {
        CAPTURE(driver);
        VulkanFixture vulkan(driver, {.staging_budget = 4000});
        std::size_t count = 0;
        for (const FormatInfo& f : all_formats())
            for (const TextureShape& shape :
                 support::shapes_for(vulkan.device.profile(), f.format)) {
                CAPTURE(support::text_of(shape));
                const Texture texture =
                    support::random_texture(shape, static_cast<std::uint32_t>(++count));
                const auto uploaded = must(vulkan.device.upload(texture));
                CHECK(support::holds(uploaded, uploaded.plan(), texture));
            }
        CHECK(count > 700);
    }
}

TEST_CASE(
    "both drivers sample every format of BC, and one every format of ETC2 and ASTC of 8 bits") {
    for (const char* driver : support::vulkan_drivers) {
        const VulkanFixture vulkan(driver);
        for (const FormatInfo& f : all_formats())
            if (f.is_block()) {
                CAPTURE(f.name);
                CHECK(vulkan.device.profile().supports(f.format) ==
                      (f.family == BlockFamily::bc || (driver == support::vulkan_drivers[1] &&
                                                       f.family != BlockFamily::astc_hdr)));
            }
    }
}
