// Uploads: planned without a device, carried out by one.
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
#include <yl/block.hpp>
#include <yl/device_profile.hpp>
#include <yl/finding.hpp>
#include <yl/sampler_rules.hpp>
#include <yl/texture.hpp>

namespace yl {

/// A box of texels in one level, layer and face.
struct TextureBox {
    std::uint32_t level = 0, layer = 0, face = 0;
    std::uint32_t x = 0, y = 0, z = 0;  ///< texels
    std::uint32_t width = 1, height = 1, depth = 1;
};

/// What becomes of blocks that the device lacks.
enum class MissingBlocks : std::uint8_t {
    decode,     ///< plain texels: nothing is lost, and they take four to sixteen times the memory
    transcode,  ///< the device's own blocks that lose least; plain texels where it has none
};

/// What to upload, and how. All members are optional.
struct UploadOptions {
    std::optional<Format> format = {};  ///< on the device, instead of the texture's own
    MissingBlocks missing_blocks = MissingBlocks::decode;
    int transcode_effort = 2;       ///< of the encoder: 0 (fastest) .. 10 (exhaustive)
    LevelRange levels = {};         ///< to fill now; the device's texture has all levels
    std::uint32_t first_layer = 0;  ///< likewise
    std::uint32_t layer_count = std::numeric_limits<std::uint32_t>::max();
    bool smallest_first = false;  ///< so that something is visible early
    /// Bytes of one batch. Regions are split between rows or slices to fit.
    std::uint64_t staging_budget = std::numeric_limits<std::uint64_t>::max();
    /// By default the sampler of the texture, or else the default sampler.
    std::optional<Sampler> sampler = {};
    std::optional<Role> role = {};  ///< for findings, and for errors of blocks that are transcoded
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

/// Everything about an upload that is decided before a device is used.
struct UploadPlan {
    GraphicsApi api = GraphicsApi::opengl;
    TextureShape shape = {};  ///< on the device; its format may differ from the source's
    Format source_format = Format::undefined;
    /// How the source's colours are encoded, if its format does not say: sRGB values are then
    /// decoded during conversion, because no device would do it.
    Transfer source_transfer = Transfer::linear;
    /// The swizzle for the device to set; the identity if it cannot, and then the channels are
    /// reordered during conversion.
    Swizzle swizzle = identity_swizzle;
    Swizzle swizzle_on_the_way = identity_swizzle;
    /// Ordered by level (0 first by default), layer and face.
    std::vector<UploadRegion> regions = {};
    std::vector<UploadBatch> batches = {};
    std::uint64_t staging_bytes = 0;     ///< of all batches
    std::uint64_t max_batch = 0;         ///< bytes of staging memory needed at a time
    LevelRange levels = {};              ///< the levels to fill
    std::optional<TextureBox> box = {};  ///< of an update: where the source goes
    BlockOptions encoding = {};          ///< of blocks that are transcoded
    Findings findings = {};              ///< what was changed for the device, and why

    /// Whether the texels have to be converted (`converted_for`).
    [[nodiscard]] bool converts() const {
        return shape.format != source_format || swizzle_on_the_way != identity_swizzle ||
               source_transfer != Transfer::linear;
    }
    /// Whether that means to encode other blocks.
    [[nodiscard]] bool transcodes() const { return converts() && info(shape.format).is_block(); }
    /// A batch's regions.
    [[nodiscard]] std::span<const UploadRegion> regions_of(const UploadBatch& batch) const {
        return std::span(regions).subspan(batch.first_region, batch.region_count);
    }
};

/// Plans the upload of a texture; ignores the sampler, role and label of the options. `transfer` is
/// that of its colours (`Texture::metadata`). A format that the device lacks is replaced by the
/// nearest one that holds the same values: blocks are decompressed (or transcoded, see
/// `MissingBlocks`), RGB gets an alpha, 16 bits become floats. Fails with `ErrorKind::device` if the device cannot take the texture at all,
/// saying what it would take; with `usage` if the options name levels or layers that do not exist;
/// and with `limit` if one row exceeds the staging budget.
[[nodiscard]] YL_API Result<UploadPlan> plan_upload(const TextureShape& shape,
                                                    const DeviceProfile& profile,
                                                    const UploadOptions& options = {},
                                                    const Swizzle& swizzle = identity_swizzle,
                                                    Transfer transfer = Transfer::linear);

/// The same, with swizzle and transfer function from the texture's metadata.
[[nodiscard]] YL_API Result<UploadPlan> plan_upload(const Texture& texture,
                                                    const DeviceProfile& profile,
                                                    const UploadOptions& options = {});

/// Plans to replace some texels of a texture that was uploaded by the plan `whole`. The source is a
/// texture of one level with the size of the box. In block formats a box begins at a block and ends
/// at a block or at the edge of the level. Fails with `ErrorKind::usage` for any other box, and
/// `limit` as `plan_upload` does.
[[nodiscard]] YL_API Result<UploadPlan> plan_update(
    const UploadPlan& whole, const TextureBox& box, const DeviceProfile& profile,
    std::uint64_t staging_budget = UploadOptions{}.staging_budget);

/// The texture in the format of the plan, converted if necessary.
/// Fails with `ErrorKind::usage` for another texture than the plan was made for.
[[nodiscard]] YL_API Result<Texture> converted_for(const UploadPlan& plan, const Texture& texture);

/// Copies the texels of a batch into staging memory. The texture is in the plan's format; for an
/// update it is the box. Fails with `ErrorKind::usage` for a texture that does not fit the plan or
/// less than `batch.bytes` bytes of memory.
[[nodiscard]] YL_API Status fill_staging(const UploadPlan& plan, const UploadBatch& batch,
                                         const Texture& texture, std::span<std::byte> staging);

/// Copies the texels of one region into memory whose pitches are not the plan's own, such as a
/// subresource that Direct3D 11 has mapped. `memory` begins with the region's first row. Fails as
/// `fill_staging` does.
[[nodiscard]] YL_API Status fill_mapped(const UploadPlan& plan, const UploadRegion& region,
                                        const Texture& texture, std::span<std::byte> memory,
                                        std::uint64_t row_pitch, std::uint64_t slice_pitch);

/// Direct3D's number of a level of a layer and face (D3D11CalcSubresource and its like).
[[nodiscard]] constexpr std::uint32_t direct3d_subresource(const TextureShape& shape,
                                                           std::uint32_t level,
                                                           std::uint32_t layer = 0,
                                                           std::uint32_t face = 0) {
    return level + shape.levels * (layer * shape.faces + face);
}

/// A texture and its sampler on a device; owns both.
class YL_API DeviceTexture {
 public:
    virtual ~DeviceTexture() = default;

    /// Identifies the backend: the same address as its static `backend_key()`.
    [[nodiscard]] virtual const void* backend() const = 0;

    /// The shape on the device.
    [[nodiscard]] virtual const TextureShape& shape() const = 0;
    /// The levels that samplers use.
    [[nodiscard]] virtual LevelRange level_range() const = 0;

    /// Copies one batch of a plan that was made for this texture. `texture` is in the plan's
    /// format (`converted_for`).
    /// Fails with `ErrorKind::usage` for a plan or texture that does not fit, and with `device`.
    [[nodiscard]] virtual Status write(const UploadPlan& plan, std::size_t batch,
                                       const Texture& texture) = 0;
    /// Sets the levels that samplers use; they must have been written.
    /// Fails with `ErrorKind::usage` otherwise.
    [[nodiscard]] virtual Status set_level_range(LevelRange range) = 0;
    /// Reads back every level. On Vulkan, levels outside the level range are zeros.
    /// Fails with `ErrorKind::device` or `memory`.
    [[nodiscard]] virtual Result<Texture> read_back() const = 0;
};

/// A texture that carries its plan: what those of OpenGL, Vulkan and Direct3D 12 answer alike. After
/// a move it is empty: it has no levels, and what can fail fails with `ErrorKind::usage`.
class YL_API PlannedTexture : public DeviceTexture {
 public:
    PlannedTexture(const PlannedTexture&) = delete;
    PlannedTexture& operator=(const PlannedTexture&) = delete;

    [[nodiscard]] const UploadPlan& plan() const;
    [[nodiscard]] const Sampler& sampler() const;  ///< as adapted to the device
    [[nodiscard]] const Findings& findings() const;
    [[nodiscard]] const TextureShape& shape() const final;
    [[nodiscard]] LevelRange level_range() const final;

    [[nodiscard]] Result<Texture> read_back() const override;
    /// Reads back one level of one layer and face (all slices of a volume), as a texture of one
    /// level. Fails with `ErrorKind::usage` if there is no such part, and on Vulkan and Direct3D 12
    /// if it is outside the level range.
    [[nodiscard]] virtual Result<Texture> read_back(std::uint32_t level, std::uint32_t layer,
                                                    std::uint32_t face) const = 0;

    /// Replaces a box of texels. `texels` has one level of the size of the box, in the format of
    /// the texture that was uploaded. Fails with `ErrorKind::usage` if it does not fit.
    [[nodiscard]] Status update(const TextureBox& box, const Texture& texels);

    struct Common;  // src/upload/device_texture.hpp

 protected:
    explicit PlannedTexture(std::unique_ptr<Common> common);
    PlannedTexture(PlannedTexture&& other) noexcept;
    PlannedTexture& operator=(PlannedTexture&& other) noexcept;
    ~PlannedTexture() override;

    std::unique_ptr<Common> common_;  ///< null after a move
};

/// Describes a texture to create on a device.
struct TextureDesc {
    TextureShape shape = {};  ///< from a plan for this device
    TextureMetadata metadata = {};
    Sampler sampler = {};    ///< fitting the device
    std::string label = {};  ///< for debuggers
};

/// A device that creates textures. Call it only from the thread that owns the device.
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

/// A texture prepared for a device: planned, converted if necessary, its sampler adapted.
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

/// One call that the stand-in recorded.
struct DeviceRecord {
    enum class Kind : std::uint8_t { reserve, write, set_level_range, read_back, release };

    Kind kind = Kind::reserve;
    std::uint64_t texture = 0;  ///< its number, from 1
    std::uint64_t bytes = 0;    ///< of memory or staging
    std::string text = {};      ///< for people
};

/// Injects failures: called before each reserve and write, returns the error to fail with.
using DeviceTrouble = std::function<Status(const DeviceRecord& about_to_happen)>;

/// Checks of each call: sizes, levels, formats and memory against the profile; regions inside the
/// texture, aligned, within staging and apart from each other; batches that the plan has; levels
/// that are written before they are shown. A broken rule is an error of `ErrorKind::usage` that
/// says which.
class YL_API RecordingDevice final : public TextureDevice {
 public:
    /// `memory` is the budget of all textures together, in bytes.
    explicit RecordingDevice(DeviceProfile profile,
                             std::uint64_t memory = std::numeric_limits<std::uint64_t>::max());
    ~RecordingDevice() override;

    /// The one that it was made with.
    [[nodiscard]] const DeviceProfile& profile() const override;
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(const TextureDesc& desc) override;

    /// The recorded calls in order; and forgetting them.
    [[nodiscard]] const std::vector<DeviceRecord>& records() const;
    void forget_records();
    void fail_next(DeviceTrouble trouble);  ///< an empty function injects none
    /// Every call fails from now on, as if the device had been unplugged.
    void lose();

    /// What has not been released yet.
    [[nodiscard]] std::size_t textures_alive() const;
    [[nodiscard]] std::uint64_t bytes_in_use() const;

    struct State;

 private:
    std::shared_ptr<State> state_;
};

}  // namespace yl
