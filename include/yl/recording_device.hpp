// A stand-in for a graphics device: it records what it is asked, checks every call strictly, keeps
// what is written, and fails when it is told to. Programs test their own upload code with it.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>
#include <yl/texture_device.hpp>

namespace yl {

/// What has been done to the stand-in.
struct DeviceRecord {
    enum class Kind : std::uint8_t { reserve, write, show_levels, read_back, release };

    Kind kind = Kind::reserve;
    std::uint64_t texture = 0;  ///< its number, from 1
    std::uint64_t bytes = 0;    ///< of memory or staging
    std::string text = {};      ///< for people
};

/// What should go wrong: called before each reserve and write, and answers with an error.
using DeviceTrouble = std::function<Status(const DeviceRecord& about_to_happen)>;

/// Checks of each call: sizes, levels, formats and memory against the profile; regions inside the
/// texture, aligned, within staging and apart from each other; batches that the plan has; levels
/// that are written before they are shown. A broken rule is an error of `ErrorKind::usage` that
/// says which.
class RecordingDevice final : public TextureDevice {
 public:
    /// `memory` is what all textures together may take, in bytes.
    explicit RecordingDevice(DeviceProfile profile,
                             std::uint64_t memory = std::numeric_limits<std::uint64_t>::max());
    ~RecordingDevice() override;

    [[nodiscard]] const DeviceProfile& profile() const override;
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(
        const TextureRequest& request) override;

    [[nodiscard]] const std::vector<DeviceRecord>& records() const;
    void forget_records();
    void trouble_with(DeviceTrouble trouble);  ///< none, when empty
    /// Every call fails from now on, as if the device had been unplugged.
    void lose();

    [[nodiscard]] std::size_t textures_alive() const;
    [[nodiscard]] std::uint64_t bytes_in_use() const;

    struct State;

 private:
    std::shared_ptr<State> state_;
};

}  // namespace yl
