// What a device, real or typical, can do with textures.
//
//     yl::DeviceProfile profile = yl::or_exit(yl::find_profile("vulkan-desktop"));
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

/// The graphics APIs whose rules are known.
enum class GraphicsApi : std::uint8_t {
    opengl,
    opengl_es,
    webgl,
    vulkan,
    webgpu,
    direct3d12,
    metal,
    direct3d11,
};

/// "OpenGL", "Vulkan" ...
[[nodiscard]] YL_API std::string_view name(GraphicsApi api);

/// A format that a device can sample, and how.
struct FormatSupport {
    Format format = Format::undefined;
    bool is_filtered = true;  ///< supports linear filtering
    bool allows_1d = true;    ///< also for 1D textures
    bool allows_3d = true;    ///< also for 3D textures
    /// Sides of level 0 must be multiples of the block size, as with BC in WebGL, though copies may
    /// end where a level does.
    bool needs_whole_sides = false;

    FormatSupport() = default;
    FormatSupport(Format f) : format(f) {}
};

/// A limit of 0 means that the device has no such textures. Backends read the profile of a real
/// device; a typical one is enough to plan for a device that is not at hand.
struct YL_API DeviceProfile {
    std::string name = {};  ///< of the device or of the built-in profile
    std::string api = {};   ///< with its version: "OpenGL 4.5"
    GraphicsApi api_kind = GraphicsApi::opengl;

    std::uint32_t max_1d_side = 0;  ///< texels
    std::uint32_t max_2d_side = 0;
    std::uint32_t max_3d_side = 0;
    std::uint32_t max_cube_side = 0;
    std::uint32_t max_layers = 1;  ///< of arrays; cubes count six times
    /// The limit that every device of the kind has, if it is below the one of nearly all above; 0
    /// otherwise. A texture between the two gets a finding.
    std::uint32_t guaranteed_2d_side = 0;  ///< of cubes and textures of one side, too
    std::uint32_t guaranteed_3d_side = 0;
    std::uint32_t guaranteed_layers = 0;
    bool has_cube_arrays = false;
    bool has_1d_levels = true;  ///< 1D textures may have mip levels
    bool has_1d_arrays = true;  ///< and layers
    /// Sides of level 0 must be multiples of the block size, and copies take whole blocks.
    bool needs_whole_blocks = false;
    bool needs_power_of_two = false;  ///< for mip levels and all wraps except clamp-to-edge
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

    [[nodiscard]] const FormatSupport* find(Format format) const;  ///< null if unsupported
    [[nodiscard]] bool supports(Format format) const { return find(format) != nullptr; }
};

/// Typical devices: the limits of nearly all of a kind, and those of every one; by the standards of
/// the APIs:
/// `gl33`, `gles30`, `webgl2`, `webgpu`, `vulkan-desktop`, `vulkan-mobile`, `d3d12`,
/// `metal`, `d3d11`.
/// Block formats are included where nearly all devices have the extension (desktop).
[[nodiscard]] YL_API std::span<const DeviceProfile> built_in_profiles();

/// Fails with `ErrorKind::usage`, listing the known names.
[[nodiscard]] YL_API Result<DeviceProfile> find_profile(std::string_view name);

}  // namespace yl
