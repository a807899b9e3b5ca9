// What will be copied where, computed without a GPU.
#pragma once

#include <limits>
#include <span>
#include <string>
#include <vector>
#include <yl/device_profile.hpp>
#include <yl/finding.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Consecutive levels of a texture.
struct LevelSpan {
    std::uint32_t first = 0;
    std::uint32_t count = std::numeric_limits<std::uint32_t>::max();  ///< all that follow

    friend bool operator==(const LevelSpan&, const LevelSpan&) = default;
};

/// Some texels of one level, layer and face.
struct TextureBox {
    std::uint32_t level = 0, layer = 0, face = 0;
    std::uint32_t x = 0, y = 0, z = 0;  ///< texels
    std::uint32_t width = 1, height = 1, depth = 1;
};

/// What a program wants of an upload, beside that it works.
struct UploadWish {
    std::optional<Format> format = {};  ///< on the device, instead of the texture's own
    LevelSpan levels = {};              ///< to be filled now; the device's texture has them all
    std::uint32_t first_layer = 0;      ///< likewise
    std::uint32_t layer_count = std::numeric_limits<std::uint32_t>::max();
    bool smallest_first = false;  ///< so that something shows at once
    /// Of one batch. Regions are divided between rows or slices to stay within.
    std::uint64_t staging_budget = std::numeric_limits<std::uint64_t>::max();
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
    std::uint64_t greatest_batch = 0;    ///< bytes: the staging memory that is needed at once
    LevelSpan levels = {};               ///< that it fills
    std::optional<TextureBox> box = {};  ///< of an update: what the source texture is a piece of
    Findings findings = {};              ///< what had to be changed for the device, and why

    [[nodiscard]] bool converts() const {
        return shape.format != source_format || swizzle_on_the_way != identity_swizzle ||
               source_transfer != Transfer::linear;
    }
    [[nodiscard]] std::span<const UploadRegion> regions_of(const UploadBatch& batch) const {
        return std::span(regions).subspan(batch.first_region, batch.region_count);
    }
};

/// Plans the upload of a texture. `transfer` is that of its colours (`Texture::traits`). A format
/// that the device lacks is replaced by the nearest one that holds the same values: blocks are
/// decompressed, RGB gets an alpha, 16 bits become floats. Fails with `ErrorKind::device` when the
/// device cannot take the texture at all, saying what it would take; with `ErrorKind::usage` when
/// the wish has levels or layers that are not there; and with `ErrorKind::limit` when one row
/// exceeds the staging budget.
[[nodiscard]] Result<UploadPlan> plan_upload(const TextureShape& shape,
                                             const DeviceProfile& profile,
                                             const UploadWish& wish = {},
                                             const Swizzle& swizzle = identity_swizzle,
                                             Transfer transfer = Transfer::linear);

/// The same of a texture, whose traits say how its channels are seen and its colours encoded.
[[nodiscard]] Result<UploadPlan> plan_upload(const Texture& texture, const DeviceProfile& profile,
                                             const UploadWish& wish = {});

/// Plans the change of some texels of a texture that is on the device already, by `whole`. The
/// source is a texture of one level with the box's size. Boxes of block formats begin at whole
/// blocks, and end at whole blocks or at the level's edge.
[[nodiscard]] Result<UploadPlan> plan_update(
    const UploadPlan& whole, const TextureBox& box, const DeviceProfile& profile,
    std::uint64_t staging_budget = UploadWish{}.staging_budget);

/// The texture as the plan stores it on the device: the same, or converted to the plan's format.
[[nodiscard]] Result<Texture> converted_for(const UploadPlan& plan, const Texture& texture);

/// Lays the batch's texels into its staging memory. The texture is in the plan's format; of an
/// update, it is the box. Fails with `ErrorKind::usage` for a texture that the plan was not made
/// for, or fewer than `batch.bytes` bytes of memory.
[[nodiscard]] Status fill_staging(const UploadPlan& plan, const UploadBatch& batch,
                                  const Texture& texture, std::span<std::byte> staging);

}  // namespace yl
