#include "upload/d3d12/root_signature.hpp"

#ifndef _WIN32
#define VKD3D_UTILS_API_VERSION VKD3D_API_VERSION_1_2
#include <vkd3d_utils.h>
#endif

#include <yl/status_macros.hpp>

namespace yl::d3d12 {

Result<Owned<ID3DBlob>> serialize(const D3D12_ROOT_SIGNATURE_DESC& desc) {
    ID3DBlob* blob = nullptr;
    YL_CHECK(
        check(D3D12SerializeRootSignature(&desc, D3D_ROOT_SIGNATURE_VERSION_1_0, &blob, nullptr),
              "serialize a root signature"));
    return Owned<ID3DBlob>(blob);
}

Result<Owned<ID3D12RootSignatureDeserializer>> deserialize(std::span<const std::byte> bytes) {
    Owned<ID3D12RootSignatureDeserializer> read;
    YL_CHECK(check(
        D3D12CreateRootSignatureDeserializer(
            bytes.data(), bytes.size(), iid_of<ID3D12RootSignatureDeserializer>(), read.place()),
        "read a root signature"));
    return read;
}

}  // namespace yl::d3d12
