// A Vulkan device without window and monitor, for tools and tests. Needs YellowLattice::vulkan.
#pragma once

#include <memory>
#include <string>
#include <vector>
#include <yl/vulkan.hpp>

namespace yl::vulkan {

struct HeadlessParts;

struct HeadlessOptions {
    std::string device = {};  ///< a part of its name; hardware if there is any when empty
    /// Rules checked by the validation layer, with synchronization and best practices. Fails
    /// without the layer.
    bool validation = false;
    /// Asks Mesa's software driver, through the environment, not to take its shortcuts in level of
    /// detail and 8-bit filtering.
    bool exact_filtering = true;
};

/// Instance, device and one queue, with every feature that textures gain by.
class HeadlessDevice {
 public:
    /// Fails with `ErrorKind::device` when there is no such driver or device, naming those that
    /// there are.
    [[nodiscard]] static Result<HeadlessDevice> create(const HeadlessOptions& options = {});
    HeadlessDevice(HeadlessDevice&&) noexcept;
    HeadlessDevice& operator=(HeadlessDevice&&) noexcept;
    ~HeadlessDevice();

    [[nodiscard]] const DeviceHandles& handles() const;
    /// What the validation layer has said so far.
    [[nodiscard]] const std::vector<std::string>& messages() const;

 private:
    explicit HeadlessDevice(std::unique_ptr<HeadlessParts> parts);

    std::unique_ptr<HeadlessParts> parts_;
};

/// The names of all devices.
[[nodiscard]] Result<std::vector<std::string>> device_names();

}  // namespace yl::vulkan
