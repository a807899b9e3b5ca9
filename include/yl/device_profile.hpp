// What a graphics device can do, as far as textures are concerned; of a real one or a typical one.
//
//     yl::DeviceProfile profile = yl::or_exit(yl::find_profile("vulkan"));
//     bool has_bc7 = profile.find(yl::Format::bc7_srgb) != nullptr;
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/format.hpp>
#include <yl/result.hpp>

namespace yl {

/// The APIs whose rules are known.
enum class GraphicsApi : std::uint8_t {
    opengl,
    opengl_es,
    webgl,
    vulkan,
    webgpu,
    direct3d12,
    metal,
};

/// "OpenGL", "Vulkan" ...
[[nodiscard]] YL_API std::string_view name(GraphicsApi api);

/// A format that a device can sample, and how.
struct FormatSupport {
    Format format = Format::undefined;
    bool is_filtered = true;  ///< linear filters work on it
    bool allows_1d = true;    ///< textures of one side may have it
    bool allows_3d = true;    ///< and volumes
    FormatSupport() = default;
    FormatSupport(Format f) : format(f) {}
};

/// Limits that are 0 mean that the device has no such textures. Backends read a profile from a real
/// device; a typical one is enough to plan for a device that is not at hand.
struct YL_API DeviceProfile {
    std::string name = {};  ///< the device's own, or the built-in profile's
    std::string api = {};   ///< with its version: "OpenGL 4.5"
    GraphicsApi api_kind = GraphicsApi::opengl;

    std::uint32_t max_1d_side = 0;  ///< texels
    std::uint32_t max_2d_side = 0;
    std::uint32_t max_3d_side = 0;
    std::uint32_t max_cube_side = 0;
    std::uint32_t max_layers = 1;  ///< of arrays; cubes count six times
    /// What every device of the kind has, where the limits above are those of nearly all; 0 where
    /// there is no difference. A texture between the two is a finding.
    std::uint32_t guaranteed_2d_side = 0;  ///< of cubes and textures of one side, too
    std::uint32_t guaranteed_3d_side = 0;
    std::uint32_t guaranteed_layers = 0;
    bool has_cube_arrays = false;
    bool has_1d_levels = true;  ///< textures of one side may have mip levels
    bool has_1d_arrays = true;  ///< and layers
    /// Sides of level 0 are multiples of the block's, and copies take whole blocks.
    bool needs_whole_blocks = false;
    bool needs_power_of_two = false;  ///< for mip levels, and for wraps but clamp-to-edge
    bool has_swizzle = true;          ///< channels can be reordered when sampling

    float max_anisotropy = 1;
    float max_level_bias = 16;         ///< of a sampler, either way; 0: it has no bias
    bool has_borders = true;           ///< clamp-to-border
    bool has_any_border_color = true;  ///< or just transparent black, opaque black and white
    bool has_mirror_once = true;
    bool has_seamless_cubes = true;     ///< filters cross the edges of faces
    std::uint32_t max_textures = 16;    ///< that one shader stage can sample
    std::uint32_t max_samplers = 4000;  ///< that can exist, or be in one heap

    std::uint32_t row_pitch_alignment = 1;  ///< bytes; rows in staging memory begin at multiples
    std::uint32_t offset_alignment = 1;     ///< bytes; regions in staging memory begin at multiples
    std::vector<FormatSupport> formats = {};  ///< that can be sampled, in rising order

    [[nodiscard]] const FormatSupport* find(Format format) const;  ///< null: it has it not
    [[nodiscard]] bool supports(Format format) const { return find(format) != nullptr; }
};

/// Typical devices: what nearly all of their kind have, and beside it what every one has; the
/// sources are the APIs' standards:
/// `gl33`, `gles30`, `webgl2`, `webgpu`, `vulkan-desktop`, `vulkan-mobile`, `d3d12`, `metal`.
/// Where block formats are an extension that nearly all have (desktop), they are there.
[[nodiscard]] YL_API std::span<const DeviceProfile> built_in_profiles();

/// Fails with `ErrorKind::usage`, naming those that there are.
[[nodiscard]] YL_API Result<DeviceProfile> find_profile(std::string_view name);

}  // namespace yl
