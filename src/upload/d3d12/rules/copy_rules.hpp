// Rules of copies that can be seen when they are recorded: placements, pitches, rows, whole blocks.
#pragma once

#include <optional>
#include <yl/format.hpp>

#include "upload/d3d12/rules/states.hpp"

namespace yl::d3d12 {

/// A copy of a box between textures and footprints in buffers, as CopyTextureRegion takes it.
struct TextureCopy {
    const D3D12_TEXTURE_COPY_LOCATION* to = nullptr;
    UINT x = 0, y = 0, z = 0;
    const D3D12_TEXTURE_COPY_LOCATION* from = nullptr;
    const D3D12_BOX* box = nullptr;  ///< null: all of it
};

/// Reports the rules that it breaks. Whether the resources are known, and their subresources there,
/// is to be checked before.
void check_copy(const Report& report, const States& states, const TextureCopy& copy);

/// How many subresources a resource has.
[[nodiscard]] std::uint32_t subresource_count(const D3D12_RESOURCE_DESC& desc);

/// A format of the table with the blocks of a DXGI format, typeless ones included; none for depths.
[[nodiscard]] std::optional<FormatInfo> blocks_of(DXGI_FORMAT format);

}  // namespace yl::d3d12
