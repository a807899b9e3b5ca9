// The Vulkan devices that these tests need, with every rule checked; without one they fail.
#pragma once

#include <yl/vulkan.hpp>

#include "support/check.hpp"

namespace support {

/// Parts of the names of the two software drivers.
inline constexpr const char* vulkan_drivers[] = {"llvmpipe", "SwiftShader"};

/// A device whose validation layer has to stay silent to the end of the test.
struct VulkanFixture {
    yl::vulkan::HeadlessDevice headless;
    yl::vulkan::Device device;

    explicit VulkanFixture(const char* driver, const yl::vulkan::DeviceOptions& options = {})
        : headless(
              must(yl::vulkan::HeadlessDevice::create({.device = driver, .validation = true}))),
          device(must(yl::vulkan::Device::open(headless.handles(), options))) {}
    VulkanFixture(const VulkanFixture&) = delete;
    VulkanFixture& operator=(const VulkanFixture&) = delete;
    ~VulkanFixture() {
        for (const std::string& message : headless.messages())
            FAIL_CHECK(message);
    }
};

}  // namespace support
