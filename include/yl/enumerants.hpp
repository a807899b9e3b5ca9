// What headers of graphics APIs call the numbers of formats and samplers: for logs and messages.
#pragma once

#include <cstdint>
#include <string_view>
#include <yl/format.hpp>

namespace yl {

/// Formats, types, filters and wraps, such as "GL_SRGB8_ALPHA8"; empty for any other number.
[[nodiscard]] std::string_view gl_enumerant(std::uint32_t value);

/// "VK_FORMAT_R8G8B8A8_SRGB" and its like, for every format.
[[nodiscard]] std::string_view vulkan_enumerant(Format format);

/// "DXGI_FORMAT_R8G8B8A8_UNORM_SRGB"; "DXGI_FORMAT_UNKNOWN" where DXGI has no such format.
[[nodiscard]] std::string_view dxgi_enumerant(Format format);

/// Of the numbers in `VulkanSamplerWords`.
enum class VulkanSamplerPart : std::uint8_t { filter, mipmap_mode, address_mode };
[[nodiscard]] std::string_view vulkan_enumerant(VulkanSamplerPart part, std::uint32_t value);

/// Of the numbers in `Direct3dSamplerWords`.
enum class Direct3dSamplerPart : std::uint8_t { filter, address_mode };
[[nodiscard]] std::string_view direct3d_enumerant(Direct3dSamplerPart part, std::uint32_t value);

}  // namespace yl
