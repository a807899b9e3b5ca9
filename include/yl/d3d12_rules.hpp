// Direct3D 12's own rules, checked at each call: what its debug layer would say, where there is none.
//
//     yl::d3d12::CheckedDevice checked = yl::or_exit(yl::d3d12::CheckedDevice::wrap(direct3d));
//     upload_everything(checked.handles().device, checked.handles().queue);  // the program's code
//     for (const yl::Finding& broken : checked.findings())
//         std::cerr << broken.problem << '\n';
#pragma once

#include <memory>
#include <yl/d3d12.hpp>

namespace yl::d3d12 {

/// Stands before a device and its queues: hands calls on, and takes down what breaks a rule. For
/// tests of a program's uploads; every call takes a lock.
///
/// Checked are copies (placements at 512 bytes, pitches of 256, rows within their buffer, whole
/// blocks, boxes within their level, formats of one family); the state of each subresource at each
/// use, with promotion and decay, on queues of both kinds; barriers; the order of queues by fences;
/// resources that go while a queue may use them. Draws and dispatches are followed through root
/// signatures of version 1.0 and the descriptors of their heaps; unordered access is not followed.
/// A copy that would reach beyond a resource is left out.
class YL_API CheckedDevice {
 public:
    /// Fails with `ErrorKind::usage` without device and queue.
    [[nodiscard]] static Result<CheckedDevice> wrap(const DeviceHandles& real);
    CheckedDevice(CheckedDevice&&) noexcept;
    CheckedDevice& operator=(CheckedDevice&&) noexcept;
    ~CheckedDevice();

    /// To be used instead of the real ones. Valid as long as this object; what is made by them may
    /// live longer, but not than the real device.
    [[nodiscard]] const DeviceHandles& handles() const;

    /// The rules broken so far, each sentence once, in their order; and forgetting them.
    [[nodiscard]] Findings findings() const;
    void forget_findings();
    /// Resources made by this device that are still there.
    [[nodiscard]] std::size_t resources_alive() const;

    /// From now on calls fail as if the device had been removed (DXGI_ERROR_DEVICE_REMOVED); the
    /// real queues finish their work first.
    void remove();
    /// The same after so many calls more that can fail.
    void remove_after(std::uint32_t calls);

 private:
    struct Parts;
    explicit CheckedDevice(std::unique_ptr<Parts> parts);

    std::unique_ptr<Parts> parts_;
};

}  // namespace yl::d3d12
