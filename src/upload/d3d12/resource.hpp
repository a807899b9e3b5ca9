// Resources of textures, the states of their levels, and copies into them.
#pragma once

#include <vector>

#include "upload/d3d12/context.hpp"
#include "upload/d3d12/heap_pool.hpp"

namespace yl::d3d12 {

/// The state in which every shader samples.
inline constexpr auto readable = static_cast<D3D12_RESOURCE_STATES>(
    static_cast<unsigned>(D3D12_RESOURCE_STATE_PIXEL_SHADER_RESOURCE) |
    static_cast<unsigned>(D3D12_RESOURCE_STATE_NON_PIXEL_SHADER_RESOURCE));

struct ResourceParts {
    HeapPool::Placement placement = {};   ///< none: committed, or the program's own
    Owned<ID3D12Resource> resource = {};  ///< goes before its memory
    D3D12_RESOURCE_DESC desc = {};
    std::uint32_t slices = 1;                        ///< layers and faces
    std::vector<D3D12_RESOURCE_STATES> states = {};  ///< of each level
    std::vector<bool> written = {};
    std::uint64_t last_submission = 0;

    [[nodiscard]] bool is_shown(std::uint32_t level) const { return states[level] == readable; }
    [[nodiscard]] std::uint32_t subresource(std::uint32_t level, std::uint32_t slice) const {
        return level + slice * desc.MipLevels;
    }
    /// Records barriers for a level, with all of its slices, if it is not in that state.
    void change(ID3D12GraphicsCommandList* commands, std::uint32_t level,
                D3D12_RESOURCE_STATES state);
};

/// The format of a resource or a view; typeless ones have several.
[[nodiscard]] DXGI_FORMAT typeless(DXGI_FORMAT format);

[[nodiscard]] Result<std::shared_ptr<ResourceParts>> make_resource(Context& context,
                                                                   const TextureShape& shape,
                                                                   const std::string& label,
                                                                   const ResourceOptions& options);

/// Records the copies of a batch whose memory begins at `offset` of the buffer.
void record_copies(ID3D12GraphicsCommandList* commands, const ResourceParts& parts,
                   const UploadPlan& plan, const UploadBatch& batch, ID3D12Resource* buffer,
                   std::uint64_t offset);

[[nodiscard]] D3D12_SHADER_RESOURCE_VIEW_DESC make_view(const TextureShape& shape,
                                                        DXGI_FORMAT format, const Swizzle& swizzle,
                                                        LevelRange range);

[[nodiscard]] D3D12_SAMPLER_DESC make_sampler(const Sampler& sampler);

}  // namespace yl::d3d12
