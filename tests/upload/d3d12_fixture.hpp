// The Direct3D 12 device that these tests need, with the Vulkan below it checked; without one they fail.
#pragma once

#include <cstdlib>
#include <fstream>
#include <sstream>
#include <yl/d3d12_rules.hpp>

#include "support/check.hpp"
#include "support/files.hpp"

namespace support {

/// Makes the validation layer write what it has to say into a file: there is no debug interface here.
class ValidationLog {
 public:
    ValidationLog() {
        const std::string settings = folder_.path("vk_layer_settings.txt");
        std::ofstream(settings) << "khronos_validation.debug_action = VK_DBG_LAYER_ACTION_LOG_MSG\n"
                                << "khronos_validation.report_flags = error,warn\n"
                                << "khronos_validation.log_filename = " << log() << "\n";
        ::setenv("VK_LAYER_SETTINGS_PATH", settings.c_str(), 1);
        ::setenv("VK_INSTANCE_LAYERS", "VK_LAYER_KHRONOS_validation", 1);
    }
    ValidationLog(const ValidationLog&) = delete;
    ValidationLog& operator=(const ValidationLog&) = delete;
    ~ValidationLog() {
        ::unsetenv("VK_LAYER_SETTINGS_PATH");
        ::unsetenv("VK_INSTANCE_LAYERS");
    }
    [[nodiscard]] std::string text() const {
        std::ostringstream text;
        text << std::ifstream(log()).rdbuf();
        return text.str();
    }

 private:
    [[nodiscard]] std::string log() const { return folder_.path("messages.txt"); }

    TemporaryFolder folder_;
};

struct D3d12Fixture {
    ValidationLog log;
    yl::d3d12::HeadlessDevice headless;
    yl::d3d12::CheckedDevice checked;  ///< by which all goes
    yl::d3d12::Device device;
    bool expects_messages = false;

    explicit D3d12Fixture(const yl::d3d12::DeviceOptions& options = {}, bool has_copy_queue = true,
                          const yl::d3d12::MakeResource& make_resource = {})
        : headless(must(yl::d3d12::HeadlessDevice::create(
              {.device = "llvmpipe", .has_copy_queue = has_copy_queue}))),
          checked(must(yl::d3d12::CheckedDevice::wrap(handles_with(make_resource)))),
          device(must(yl::d3d12::Device::open(checked.handles(), options))) {}
    D3d12Fixture(const D3d12Fixture&) = delete;
    D3d12Fixture& operator=(const D3d12Fixture&) = delete;
    ~D3d12Fixture() {
        if (expects_messages)
            return;
        CHECK(log.text().empty());
        for (const yl::Finding& broken : checked.findings())
            FAIL_CHECK(broken.problem);
    }

    [[nodiscard]] yl::d3d12::DeviceHandles handles_with(
        const yl::d3d12::MakeResource& make_resource) const {
        yl::d3d12::DeviceHandles handles = headless.handles();
        handles.make_resource = make_resource;
        return handles;
    }
    [[nodiscard]] ID3D12Device* raw() const { return checked.handles().device; }
};

}  // namespace support
