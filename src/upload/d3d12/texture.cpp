#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <set>

#include <yl/sampler_rules.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/d3d12/texture_parts.hpp"
#include "upload/device_texture.hpp"
#include "upload/staging.hpp"

namespace yl::d3d12 {
namespace {

std::set<std::uint32_t> levels_of(const UploadPlan& plan, const UploadBatch& batch) {
    std::set<std::uint32_t> levels;
    for (const UploadRegion& region : plan.regions_of(batch))
        levels.insert(region.level);
    return levels;
}

/// Levels go back to the state that they had: that of samplers, or COMMON, in which every queue takes
/// them.
void record_write(ResourceParts& parts, const UploadPlan& plan, const UploadBatch& batch,
                  const Recording& recording) {
    const auto before = parts.states;
    const auto levels = levels_of(plan, batch);
    for (const std::uint32_t level : levels)
        parts.change(recording.commands, level, D3D12_RESOURCE_STATE_COPY_DEST);
    record_copies(recording.commands, parts, plan, batch, recording.buffer, 0);
    for (const std::uint32_t level : levels) {
        parts.change(recording.commands, level, before[level]);
        parts.written[level] = true;
    }
}

}  // namespace

const void* GpuTexture::backend_key() {
    static constexpr char key = 0;
    return &key;
}

GpuTexture::GpuTexture(std::unique_ptr<Parts> parts) : PlannedTexture(std::move(parts)) {}

GpuTexture::Parts* GpuTexture::parts() const {
    return static_cast<Parts*>(common_.get());
}

GpuTexture::Parts::~Parts() {
    if (resource == nullptr)
        return;
    static_cast<void>(context->staging->wait(resource->last_submission));
    context->released.keep(std::move(resource));
}

ID3D12Resource* GpuTexture::resource() const {
    return parts() != nullptr ? parts()->resource->resource.get() : nullptr;
}

std::uint32_t GpuTexture::subresource(std::uint32_t level, std::uint32_t layer,
                                      std::uint32_t face) const {
    return direct3d_subresource(shape(), level, layer, face);
}

D3D12_SHADER_RESOURCE_VIEW_DESC GpuTexture::view_desc() const {
    return view_desc(info(shape().format).transfer);
}

D3D12_SHADER_RESOURCE_VIEW_DESC GpuTexture::view_desc(Transfer transfer) const {
    const Format format = with_transfer(shape().format, transfer).value_or(shape().format);
    return make_view(shape(), static_cast<DXGI_FORMAT>(info(format).dxgi), plan().swizzle,
                     level_range());
}

D3D12_SAMPLER_DESC GpuTexture::sampler_desc() const {
    return make_sampler(sampler());
}

void GpuTexture::write_view(D3D12_CPU_DESCRIPTOR_HANDLE place) const {
    if (parts() == nullptr)
        return;
    const D3D12_SHADER_RESOURCE_VIEW_DESC view = view_desc();
    parts()->context->device()->CreateShaderResourceView(resource(), &view, place);
}

void GpuTexture::write_sampler(D3D12_CPU_DESCRIPTOR_HANDLE place) const {
    if (parts() == nullptr)
        return;
    const D3D12_SAMPLER_DESC desc = sampler_desc();
    parts()->context->device()->CreateSampler(&desc, place);
}

Status GpuTexture::Parts::submit(std::uint64_t bytes, Route route,
                                 const std::function<void(const Recording&)>& record) {
    const auto states = resource->states;
    const auto written = resource->written;
    const auto submission = context->staging->submit(bytes, route, record);
    if (!submission) {
        resource->states = states;
        resource->written = written;
        return tl::unexpected(submission.error());
    }
    resource->last_submission = *submission;
    return {};
}

Status GpuTexture::write(const UploadPlan& plan, std::size_t batch, const Texture& texture) try {
    if (parts() == nullptr)
        return moved_from();
    YL_CHECK(check_texture(texture, "texture"));
    YL_CHECK(check_write(plan, batch, texture, parts()->plan.shape));
    const UploadBatch& part = plan.batches[batch];
    // Levels that samplers see belong to the queue that samples.
    const bool any_shown = std::ranges::any_of(levels_of(plan, part), [&](std::uint32_t level) {
        return parts()->resource->is_shown(level);
    });
    return parts()->submit(part.bytes, any_shown ? Route::direct : Route::copy,
                           [&](const Recording& recording) {
                               lay_out(plan, part, texture, recording.memory);
                               record_write(*parts()->resource, plan, part, recording);
                           });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::set_level_range(LevelRange range) try {
    if (parts() == nullptr)
        return moved_from();
    YL_TRY(range, checked_levels(parts()->plan.shape, range));
    for (std::uint32_t level = range.first; level <= range.last(); ++level)
        if (!parts()->resource->written[level])
            return fail(ErrorKind::usage, fmt::format("level {} has not been written yet", level));
    YL_CHECK(parts()->submit(0, Route::direct, [&](const Recording& recording) {
        for (std::uint32_t level = range.first; level <= range.last(); ++level)
            parts()->resource->change(recording.commands, level, readable);
    }));
    parts()->shown = range;
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back(std::uint32_t level, std::uint32_t layer,
                                      std::uint32_t face) const try {
    if (parts() == nullptr)
        return moved_from();
    YL_TRY(const TextureShape shape, shape_of_part(parts()->plan.shape, level, layer, face));
    ResourceParts& resource = *parts()->resource;
    if (!resource.is_shown(level))
        return fail(ErrorKind::usage, fmt::format("level {} is not shown", level));
    YL_TRY(Texture texture, Texture::create(shape));
    texture.metadata = parts()->metadata;
    const std::uint32_t index =
        resource.subresource(level, layer * parts()->plan.shape.faces + face);
    ID3D12Device* device = parts()->context->device();
    D3D12_TEXTURE_COPY_LOCATION from{}, to{};
    UINT rows = 0;
    UINT64 row_bytes = 0, total = 0;
    device->GetCopyableFootprints(&resource.desc, index, 1, 0, &to.PlacedFootprint, &rows,
                                  &row_bytes, &total);
    YL_TRY(const HostBuffer buffer, HostBuffer::create(device, total, D3D12_HEAP_TYPE_READBACK));
    from.pResource = resource.resource.get();
    from.Type = D3D12_TEXTURE_COPY_TYPE_SUBRESOURCE_INDEX;
    from.SubresourceIndex = index;
    to.pResource = buffer.resource.get();
    to.Type = D3D12_TEXTURE_COPY_TYPE_PLACED_FOOTPRINT;
    YL_CHECK(parts()->submit(0, Route::direct, [&](const Recording& recording) {
        resource.change(recording.commands, level, D3D12_RESOURCE_STATE_COPY_SOURCE);
        recording.commands->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
        resource.change(recording.commands, level, readable);
    }));
    YL_CHECK(parts()->context->staging->wait(resource.last_submission));
    const std::size_t own_row = shape.row_bytes(0);
    const std::uint64_t own_rows = shape.surface_bytes(0) / own_row;
    for (std::uint64_t row = 0; row < own_rows * shape.depth; ++row)
        std::memcpy(texture.level(0).data() + row * own_row,
                    buffer.contents().data() + (row / own_rows * rows + row % own_rows) *
                                                   to.PlacedFootprint.Footprint.RowPitch,
                    own_row);
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::d3d12
