// What every graphics API has to do for textures: the seam between plans and devices.
#pragma once

#include <memory>
#include <yl/device_rules.hpp>
#include <yl/upload.hpp>

namespace yl {

/// A texture on a device, with its sampler. Both go with it.
class DeviceTexture {
 public:
    virtual ~DeviceTexture() = default;

    /// Tells the classes of backends apart: each gives the address of something of its own, which
    /// its static `backend_key()` gives as well.
    [[nodiscard]] virtual const void* backend() const = 0;

    /// What is on the device.
    [[nodiscard]] virtual const TextureShape& shape() const = 0;
    /// The levels that samplers see.
    [[nodiscard]] virtual LevelRange shown_levels() const = 0;

    /// Copies one batch of a plan that was made for this texture. `texture` is in the plan's
    /// format (`converted_for`).
    [[nodiscard]] virtual Status write(const UploadPlan& plan, std::size_t batch,
                                       const Texture& texture) = 0;
    /// Samplers see just these levels from now on, which have been written.
    [[nodiscard]] virtual Status show_levels(LevelRange range) = 0;
    /// Every level as the device holds it. Vulkan knows no content of levels that are not shown
    /// yet: they are zeros.
    [[nodiscard]] virtual Result<Texture> read_back() const = 0;
};

/// A texture that is wanted on a device; its memory is not filled yet.
struct TextureRequest {
    TextureShape shape = {};  ///< from a plan for this device
    TextureTraits traits = {};
    Sampler sampler = {};    ///< fitting the device
    std::string label = {};  ///< for debuggers
};

/// A device that textures can be made on. All calls come from the thread that owns the device.
class TextureDevice {
 public:
    virtual ~TextureDevice() = default;

    [[nodiscard]] virtual const DeviceProfile& profile() const = 0;
    /// Fails with `ErrorKind::limit` when the device is out of memory, and with
    /// `ErrorKind::device` when it is lost or refuses.
    [[nodiscard]] virtual Result<std::unique_ptr<DeviceTexture>> reserve(
        const TextureRequest& request) = 0;
};

/// A texture made ready for a device: planned, converted if it has to be, its sampler fitted.
struct PreparedUpload {
    UploadPlan plan = {};
    Texture converted = {};  ///< empty when the texture goes as it is
    TextureRequest request = {};
    Findings findings = {};

    /// What is copied: the one that was converted, or the one given.
    [[nodiscard]] const Texture& source(const Texture& given) const {
        return plan.converts() ? converted : given;
    }
};

struct PrepareOptions {
    UploadWish wish = {};
    /// The one that the texture carries, or else the default one, when left out.
    std::optional<Sampler> sampler = {};
    std::optional<Role> role = {};  ///< for findings
    std::string label = {};         ///< for debuggers
};

[[nodiscard]] Result<PreparedUpload> prepare_upload(const Texture& texture,
                                                    const DeviceProfile& profile,
                                                    const PrepareOptions& options = {});

/// Some texels made ready to replace those of a texture that `whole` planned.
struct PreparedUpdate {
    UploadPlan plan = {};
    Texture converted = {};  ///< empty when the texels go as they are

    [[nodiscard]] const Texture& source(const Texture& given) const {
        return plan.converts() ? converted : given;
    }
};

/// `texels` has one level of the box's size, in the format that the whole texture came in. Fails
/// with `ErrorKind::usage` where they do not fit.
[[nodiscard]] Result<PreparedUpdate> prepare_update(const UploadPlan& whole, const TextureBox& box,
                                                    const Texture& texels,
                                                    const DeviceProfile& profile);

/// The shape of one level of one layer and face, with all slices, as a texture of its own. Fails
/// with `ErrorKind::usage` where there is no such level, layer or face.
[[nodiscard]] Result<TextureShape> shape_of_part(const TextureShape& whole, std::uint32_t level,
                                                 std::uint32_t layer, std::uint32_t face);

/// All of it: prepared, reserved, every batch written, and the levels that are there shown.
struct UploadedTexture {
    std::unique_ptr<DeviceTexture> texture = {};
    UploadPlan plan = {};
    Findings findings = {};
};

[[nodiscard]] Result<UploadedTexture> upload_texture(TextureDevice& device, const Texture& texture,
                                                     const PrepareOptions& options = {});

}  // namespace yl
