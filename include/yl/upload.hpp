// Uploads: what is copied where, planned without a device, and carried out by one.
//
//     yl::UploadPlan plan = yl::or_exit(yl::plan_upload(texture, profile));
//     yl::RecordingDevice device(profile);   // or that of YellowLattice::gl or ::vulkan
//     yl::UploadedTexture uploaded = yl::or_exit(yl::upload_texture(device, texture));
#pragma once

#include <functional>
#include <limits>
#include <memory>
#include <span>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/device_profile.hpp>
#include <yl/finding.hpp>
#include <yl/sampler_rules.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Some texels of one level, layer and face.
struct TextureBox {
    std::uint32_t level = 0, layer = 0, face = 0;
    std::uint32_t x = 0, y = 0, z = 0;  ///< texels
    std::uint32_t width = 1, height = 1, depth = 1;
};

/// What a program asks of an upload. All parts may be left out.
struct UploadOptions {
    std::optional<Format> format = {};  ///< on the device, instead of the texture's own
    LevelRange levels = {};             ///< to be filled now; the device's texture has them all
    std::uint32_t first_layer = 0;      ///< likewise
    std::uint32_t layer_count = std::numeric_limits<std::uint32_t>::max();
    bool smallest_first = false;  ///< so that something shows at once
    /// Of one batch. Regions are divided between rows or slices to stay within.
    std::uint64_t staging_budget = std::numeric_limits<std::uint64_t>::max();
    /// The one that the texture carries, or else the default one, when left out.
    std::optional<Sampler> sampler = {};
    std::optional<Role> role = {};  ///< for findings
    std::string label = {};         ///< for debuggers
};

/// One copy from staging memory into one level of one layer and face.
struct UploadRegion {
    std::uint32_t level = 0, layer = 0, face = 0;
    std::uint32_t x = 0, y = 0, z = 0;               ///< texels, where it goes to
    std::uint32_t width = 0, height = 0, depth = 1;  ///< texels
    std::uint64_t offset = 0;       ///< bytes from the start of its batch's staging memory
    std::uint64_t row_pitch = 0;    ///< bytes from row to row (of texels, or of blocks)
    std::uint64_t slice_pitch = 0;  ///< bytes from slice to slice
};

/// Regions that share staging memory.
struct UploadBatch {
    std::size_t first_region = 0;
    std::size_t region_count = 0;
    std::uint64_t bytes = 0;
};

/// Everything that is settled about an upload before a device is touched.
struct UploadPlan {
    GraphicsApi api = GraphicsApi::opengl;
    TextureShape shape = {};  ///< on the device; its format may differ from the source's
    Format source_format = Format::undefined;
    /// How the source's colours are encoded where its format does not say it: sRGB values are
    /// decoded on the way, since no device would.
    Transfer source_transfer = Transfer::linear;
    /// What a shader has to see, for the device to set; the identity when the device cannot, and
    /// the channels are reordered on the way.
    Swizzle swizzle = identity_swizzle;
    Swizzle swizzle_on_the_way = identity_swizzle;
    /// Level by level (0 first, unless asked otherwise), in each layer by layer, face by face.
    std::vector<UploadRegion> regions = {};
    std::vector<UploadBatch> batches = {};
    std::uint64_t staging_bytes = 0;     ///< of all batches
    std::uint64_t max_batch = 0;         ///< bytes: the staging memory that is needed at once
    LevelRange levels = {};              ///< that it fills
    std::optional<TextureBox> box = {};  ///< of an update: what the source texture is a piece of
    Findings findings = {};              ///< what had to be changed for the device, and why

    /// Whether the texels have to be changed on the way (`converted_for`).
    [[nodiscard]] bool converts() const {
        return shape.format != source_format || swizzle_on_the_way != identity_swizzle ||
               source_transfer != Transfer::linear;
    }
    /// A batch's regions.
    [[nodiscard]] std::span<const UploadRegion> regions_of(const UploadBatch& batch) const {
        return std::span(regions).subspan(batch.first_region, batch.region_count);
    }
};

/// Plans the upload of a texture; of the options, sampler, role and label are not looked at.
/// `transfer` is that of its colours (`Texture::metadata`). A format
/// that the device lacks is replaced by the nearest one that holds the same values: blocks are
/// decompressed, RGB gets an alpha, 16 bits become floats. Fails with `ErrorKind::device` when the
/// device cannot take the texture at all, saying what it would take; with `ErrorKind::usage` when
/// the options name levels or layers that are not there; and with `ErrorKind::limit` when one row
/// exceeds the staging budget.
[[nodiscard]] YL_API Result<UploadPlan> plan_upload(const TextureShape& shape,
                                                    const DeviceProfile& profile,
                                                    const UploadOptions& options = {},
                                                    const Swizzle& swizzle = identity_swizzle,
                                                    Transfer transfer = Transfer::linear);

/// The same of a texture, whose metadata say how its channels are seen and its colours encoded.
[[nodiscard]] YL_API Result<UploadPlan> plan_upload(const Texture& texture,
                                                    const DeviceProfile& profile,
                                                    const UploadOptions& options = {});

/// Plans the change of some texels of a texture that is on the device already, by `whole`. The
/// source is a texture of one level with the box's size. Boxes of block formats begin at whole
/// blocks, and end at whole blocks or at the level's edge.
/// Fails with `ErrorKind::usage` for any other box, and `limit` as `plan_upload` does.
[[nodiscard]] YL_API Result<UploadPlan> plan_update(
    const UploadPlan& whole, const TextureBox& box, const DeviceProfile& profile,
    std::uint64_t staging_budget = UploadOptions{}.staging_budget);

/// The texture as the plan stores it on the device: the same, or converted to the plan's format.
/// Fails with `ErrorKind::usage` for another texture than the plan was made for.
[[nodiscard]] YL_API Result<Texture> converted_for(const UploadPlan& plan, const Texture& texture);

/// Lays the batch's texels into its staging memory. The texture is in the plan's format; of an
/// update, it is the box. Fails with `ErrorKind::usage` for a texture that the plan was not made
/// for, or fewer than `batch.bytes` bytes of memory.
[[nodiscard]] YL_API Status fill_staging(const UploadPlan& plan, const UploadBatch& batch,
                                         const Texture& texture, std::span<std::byte> staging);

/// A texture on a device, with its sampler. Both go with it.
class YL_API DeviceTexture {
 public:
    virtual ~DeviceTexture() = default;

    /// Tells the classes of backends apart: each gives the address of something of its own, which
    /// its static `backend_key()` gives as well.
    [[nodiscard]] virtual const void* backend() const = 0;

    /// What is on the device.
    [[nodiscard]] virtual const TextureShape& shape() const = 0;
    /// The levels that samplers see.
    [[nodiscard]] virtual LevelRange level_range() const = 0;

    /// Copies one batch of a plan that was made for this texture. `texture` is in the plan's
    /// format (`converted_for`).
    /// Fails with `ErrorKind::usage` for a plan or texture that does not fit, and with `device`.
    [[nodiscard]] virtual Status write(const UploadPlan& plan, std::size_t batch,
                                       const Texture& texture) = 0;
    /// Samplers see just these levels from now on, which have been written.
    /// Fails with `ErrorKind::usage` for others.
    [[nodiscard]] virtual Status set_level_range(LevelRange range) = 0;
    /// Every level as the device holds it. Vulkan knows no content of levels that are not shown
    /// yet: they are zeros.
    /// Fails with `ErrorKind::device` or `memory`.
    [[nodiscard]] virtual Result<Texture> read_back() const = 0;
};

/// A texture that is wanted on a device; its memory is not filled yet.
struct TextureDesc {
    TextureShape shape = {};  ///< from a plan for this device
    TextureMetadata metadata = {};
    Sampler sampler = {};    ///< fitting the device
    std::string label = {};  ///< for debuggers
};

/// A device that textures can be made on. All calls come from the thread that owns the device.
class YL_API TextureDevice {
 public:
    virtual ~TextureDevice() = default;

    /// The device's limits and formats.
    [[nodiscard]] virtual const DeviceProfile& profile() const = 0;
    /// Fails with `ErrorKind::limit` when the device is out of memory, and with
    /// `ErrorKind::device` when it is lost or refuses.
    [[nodiscard]] virtual Result<std::unique_ptr<DeviceTexture>> reserve(
        const TextureDesc& desc) = 0;
};

/// A texture made ready for a device: planned, converted if it has to be, its sampler fitted.
struct PreparedUpload {
    UploadPlan plan = {};
    Texture converted = {};  ///< empty when the texture goes as it is
    TextureDesc desc = {};
    Findings findings = {};

    /// What is copied: the one that was converted, or the one given.
    [[nodiscard]] const Texture& source(const Texture& given) const {
        return plan.converts() ? converted : given;
    }
};

/// Plans the upload, fits the sampler, converts the texels if they have to be. Fails as
/// `plan_upload` does.
[[nodiscard]] YL_API Result<PreparedUpload> prepare_upload(const Texture& texture,
                                                           const DeviceProfile& profile,
                                                           const UploadOptions& options = {});

/// Some texels made ready to replace those of a texture that `whole` planned.
struct PreparedUpdate {
    UploadPlan plan = {};
    Texture converted = {};  ///< empty when the texels go as they are

    /// What is copied: the one that was converted, or the one given.
    [[nodiscard]] const Texture& source(const Texture& given) const {
        return plan.converts() ? converted : given;
    }
};

/// `texels` has one level of the box's size, in the format that the whole texture came in. Fails
/// with `ErrorKind::usage` where they do not fit.
[[nodiscard]] YL_API Result<PreparedUpdate> prepare_update(const UploadPlan& whole,
                                                           const TextureBox& box,
                                                           const Texture& texels,
                                                           const DeviceProfile& profile);

/// The shape of one level of one layer and face, with all slices, as a texture of its own. Fails
/// with `ErrorKind::usage` where there is no such level, layer or face.
[[nodiscard]] YL_API Result<TextureShape> shape_of_part(const TextureShape& whole,
                                                        std::uint32_t level, std::uint32_t layer,
                                                        std::uint32_t face);

/// All of it: prepared, reserved, every batch written, and the levels that are there shown.
struct UploadedTexture {
    std::unique_ptr<DeviceTexture> texture = {};
    UploadPlan plan = {};
    Findings findings = {};
};

/// Fails as `prepare_upload`, `reserve` and `write` do.
[[nodiscard]] YL_API Result<UploadedTexture> upload_texture(TextureDevice& device,
                                                            const Texture& texture,
                                                            const UploadOptions& options = {});

/// What has been done to the stand-in.
struct DeviceRecord {
    enum class Kind : std::uint8_t { reserve, write, set_level_range, read_back, release };

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
class YL_API RecordingDevice final : public TextureDevice {
 public:
    /// `memory` is what all textures together may take, in bytes.
    explicit RecordingDevice(DeviceProfile profile,
                             std::uint64_t memory = std::numeric_limits<std::uint64_t>::max());
    ~RecordingDevice() override;

    /// The one that it was made with.
    [[nodiscard]] const DeviceProfile& profile() const override;
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(const TextureDesc& desc) override;

    /// What has been done, in order; and from now on.
    [[nodiscard]] const std::vector<DeviceRecord>& records() const;
    void forget_records();
    void fail_next(DeviceTrouble trouble);  ///< none, when empty
    /// Every call fails from now on, as if the device had been unplugged.
    void lose();

    /// What has not been given back yet.
    [[nodiscard]] std::size_t textures_alive() const;
    [[nodiscard]] std::uint64_t bytes_in_use() const;

    struct State;

 private:
    std::shared_ptr<State> state_;
};

}  // namespace yl
