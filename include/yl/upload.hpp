// What will be copied where, computed without a GPU.
#pragma once

#include <string>
#include <vector>
#include <yl/finding.hpp>
#include <yl/texture.hpp>

namespace yl {

/// What a device can do, as far as textures are concerned. Backends read it from a real device.
struct DeviceProfile {
    std::string name = {};  ///< the device's own
    std::string api = {};   ///< "OpenGL 4.5"
    std::uint32_t greatest_2d_side = 0;
    std::uint32_t greatest_cube_side = 0;
    std::uint32_t greatest_layers = 1;  ///< of arrays; cubes count six times
    bool has_cube_arrays = false;
    float greatest_anisotropy = 1;
    std::uint32_t row_pitch_alignment = 1;  ///< bytes; rows in staging memory begin at multiples
    std::uint32_t offset_alignment = 1;     ///< bytes; regions in staging memory begin at multiples
    std::vector<Format> formats = {};       ///< that can be sampled, in rising order

    [[nodiscard]] bool supports(Format format) const;
};

/// One copy from staging memory into one subresource.
struct UploadRegion {
    std::uint32_t level = 0, layer = 0, face = 0;
    std::uint32_t width = 0, height = 0, depth = 1;  ///< texels
    std::uint64_t offset = 0;                        ///< bytes from the start of the staging memory
    std::uint64_t row_pitch = 0;                     ///< bytes from row to row
    std::uint64_t slice_pitch = 0;                   ///< bytes from slice to slice
};

struct UploadPlan {
    TextureShape shape = {};  ///< on the device; its format may differ from the source's
    Format source_format = Format::undefined;
    /// Level 0 first, in each level layer by layer, in each layer face by face.
    std::vector<UploadRegion> regions = {};
    std::uint64_t staging_bytes = 0;
    Findings findings = {};  ///< what had to be changed for the device, and why

    [[nodiscard]] bool converts() const { return shape.format != source_format; }
};

/// Plans the upload of a whole texture. A format that the device lacks is replaced by the nearest
/// one that holds the same values. Fails with `ErrorKind::device` when the device cannot take the
/// texture at all, saying what it would take.
[[nodiscard]] Result<UploadPlan> plan_upload(const TextureShape& shape,
                                             const DeviceProfile& profile);

/// The texture as the plan stores it on the device: the same, or converted to the plan's format.
[[nodiscard]] Result<Texture> converted_for(const UploadPlan& plan, const Texture& texture);

/// The sampler within the device's limits; adds a finding for each change.
[[nodiscard]] Sampler fit_sampler(const Sampler& sampler, const DeviceProfile& profile,
                                  Findings& findings);

}  // namespace yl
