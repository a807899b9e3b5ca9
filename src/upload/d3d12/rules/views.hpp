// What descriptors and root signatures let shaders see.
#pragma once

#include <span>

#include "upload/d3d12/rules/rule_book.hpp"

namespace yl::d3d12 {

/// Subresources that a view of a resource shows; null: of all of it.
[[nodiscard]] View sampled_view(const D3D12_RESOURCE_DESC& of,
                                const D3D12_SHADER_RESOURCE_VIEW_DESC* desc);
[[nodiscard]] View target_view(const D3D12_RESOURCE_DESC& of,
                               const D3D12_RENDER_TARGET_VIEW_DESC* desc);
[[nodiscard]] View depth_view(const D3D12_RESOURCE_DESC& of,
                              const D3D12_DEPTH_STENCIL_VIEW_DESC* desc);

/// The tables of textures of a serialized root signature of version 1.0, by the number of their
/// parameter; none for others.
[[nodiscard]] std::map<UINT, Table> tables_of(std::span<const std::byte> signature);

}  // namespace yl::d3d12
