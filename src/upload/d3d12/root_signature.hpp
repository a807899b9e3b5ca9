// Root signatures in the form in which devices take them.
#pragma once

#include <span>

#include "upload/d3d12/com.hpp"

namespace yl::d3d12 {

[[nodiscard]] Result<Owned<ID3DBlob>> serialize(const D3D12_ROOT_SIGNATURE_DESC& desc);

/// Fails for what is no root signature of version 1.0.
[[nodiscard]] Result<Owned<ID3D12RootSignatureDeserializer>> deserialize(
    std::span<const std::byte> bytes);

}  // namespace yl::d3d12
