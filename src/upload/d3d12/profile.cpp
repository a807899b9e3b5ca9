#include "upload/d3d12/profile.hpp"

#include <yl/status_macros.hpp>
#include "upload/d3d12/platform.hpp"

namespace yl::d3d12 {
namespace {

/// What the device says of a format, format by format.
bool read_support(ID3D12Device* device, const FormatInfo& f, FormatSupport& support) {
    D3D12_FEATURE_DATA_FORMAT_SUPPORT found{};
    found.Format = static_cast<DXGI_FORMAT>(f.dxgi);
    if (lacks_format(found.Format) ||
        FAILED(device->CheckFeatureSupport(D3D12_FEATURE_FORMAT_SUPPORT, &found, sizeof found)))
        return false;
    const auto has = [&](UINT bit) { return (static_cast<UINT>(found.Support1) & bit) != 0; };
    if (!has(D3D12_FORMAT_SUPPORT1_TEXTURE2D) || !has(D3D12_FORMAT_SUPPORT1_SHADER_LOAD))
        return false;
    support.is_filtered = has(D3D12_FORMAT_SUPPORT1_SHADER_SAMPLE);
    support.allows_1d = !f.is_block() && has(D3D12_FORMAT_SUPPORT1_TEXTURE1D);
    support.allows_3d = has(D3D12_FORMAT_SUPPORT1_TEXTURE3D);
    return true;
}

}  // namespace

Result<DeviceProfile> read_profile(const DeviceHandles& handles) {
    YL_CHECK(check(handles.device->GetDeviceRemovedReason(), "read its limits"));
    YL_TRY(DeviceProfile profile, find_profile("d3d12"));
    profile.name = handles.name.empty() ? "a Direct3D 12 device" : handles.name;
    profile.formats.clear();
    for (const FormatInfo& f : all_formats()) {
        // Three floats of 32 bits are no texture of every device, and come back wrong from some.
        if (f.dxgi == 0 || f.format == Format::rgb32_float)
            continue;
        FormatSupport support(f.format);
        if (read_support(handles.device, f, support))
            profile.formats.push_back(support);
    }
    if (!has_all_address_modes())
        profile.has_borders = profile.has_any_border_color = profile.has_mirror_once = false;
    return profile;
}

}  // namespace yl::d3d12
