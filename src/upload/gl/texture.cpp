#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/device_texture.hpp"
#include "upload/gl/read_back.hpp"
#include "upload/gl/sampler_cache.hpp"
#include "upload/gl/saved_state.hpp"
#include "upload/gl/storage.hpp"
#include "upload/gl/texture_parts.hpp"
#include "upload/staging.hpp"

namespace yl::gl {
namespace {

/// OpenGL counts pitches in texels; of blocks, it takes tight rows alone.
Status set_pitches(const Functions& gl, const UploadRegion& region, const FormatInfo& f) {
    const std::uint64_t tight = ceil_div(region.width, f.block_width) * f.block_bytes;
    if (region.row_pitch == tight)
        return {};
    if (f.is_block())
        return fail(ErrorKind::usage,
                    "the plan's rows of blocks are not tightly packed: it was "
                    "made for another device");
    gl.PixelStorei(GL_UNPACK_ROW_LENGTH, static_cast<GLint>(region.row_pitch / f.block_bytes));
    gl.PixelStorei(GL_UNPACK_IMAGE_HEIGHT,
                   static_cast<GLint>(region.slice_pitch / region.row_pitch));
    return {};
}

const void* buffer_offset(std::uint64_t bytes) {
    return reinterpret_cast<const void*>(static_cast<std::uintptr_t>(bytes));
}

}  // namespace

GpuTexture::GpuTexture(std::unique_ptr<Parts> parts) : PlannedTexture(std::move(parts)) {}

GpuTexture::Parts* GpuTexture::parts() const {
    return static_cast<Parts*>(common_.get());
}

GpuTexture::Parts::~Parts() {
    drop_handles();
    if (name != 0)
        functions().DeleteTextures(1, &name);
}

std::uint32_t GpuTexture::release() && {
    if (parts() == nullptr)
        return 0;
    parts()->drop_handles();
    return std::exchange(parts()->name, 0);
}

std::uint32_t GpuTexture::texture_name() const {
    return parts() != nullptr ? parts()->name : 0;
}

std::uint32_t GpuTexture::target() const {
    return parts() != nullptr ? parts()->target : 0;
}

const void* GpuTexture::backend_key() {
    static constexpr char key = 0;
    return &key;
}

std::uint32_t GpuTexture::sampler_name() const {
    return parts() != nullptr ? parts()->shared_sampler->name() : 0;
}

void GpuTexture::bind(std::uint32_t unit) const {
    if (parts() == nullptr)
        return;
    const Functions& gl = parts()->functions();
    if (gl.has_direct_state_access) {
        gl.BindTextureUnit(unit, parts()->name);
    } else {
        const GLint active = gl.integer(GL_ACTIVE_TEXTURE);
        gl.ActiveTexture(GL_TEXTURE0 + unit);
        gl.BindTexture(parts()->target, parts()->name);
        gl.ActiveTexture(static_cast<GLenum>(active));
    }
    gl.BindSampler(unit, parts()->shared_sampler->name());
}

void GpuTexture::bind(std::uint32_t unit, const Sampler& sampler) const {
    if (parts() == nullptr)
        return;
    bind(unit);
    Findings changes;
    const Sampler wanted = fit_sampler(sampler, *parts()->device->profile, changes);
    auto known = std::ranges::find(parts()->further_samplers, wanted, &SharedSampler::description);
    if (known == parts()->further_samplers.end()) {
        parts()->further_samplers.push_back(parts()->device->samplers->get(wanted));
        known = std::prev(parts()->further_samplers.end());
    }
    parts()->functions().BindSampler(unit, (*known)->name());
}

Status GpuTexture::write(const UploadPlan& plan, std::size_t batch, const Texture& texture) try {
    if (parts() == nullptr)
        return moved_from();
    YL_CHECK(check_texture(texture, "texture"));
    const Functions& gl = parts()->functions();
    YL_CHECK(check_write(plan, batch, texture, parts()->plan.shape));
    const UploadBatch& part = plan.batches[batch];
    const FormatInfo& f = info(plan.shape.format);
    const TextureObject object{gl, parts()->target, parts()->name};
    const BoundUnlessDirect bound(gl, parts()->target, parts()->name);
    if (parts()->device->stream == nullptr) {
        const TightPixelStore tight(gl, TightPixelStore::Direction::unpack);
        for (const UploadRegion& region : plan.regions_of(part))
            fill_region(object, plan.shape, region, region_source(plan, region, texture));
        return gl.check("fill the texture");
    }
    Status pitches;
    YL_CHECK(parts()->device->stream->use(
        part.bytes, [&](std::span<std::byte> staging) { lay_out(plan, part, texture, staging); },
        [&](GLuint buffer) {
            for (const UploadRegion& region : plan.regions_of(part)) {
                const TightPixelStore store(gl, TightPixelStore::Direction::unpack, buffer);
                pitches = set_pitches(gl, region, f);
                if (!pitches)
                    return;
                fill_region(object, plan.shape, region, buffer_offset(region.offset));
            }
        }));
    YL_CHECK(pitches);
    return gl.check("fill the texture");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::set_level_range(LevelRange range) try {
    if (parts() == nullptr)
        return moved_from();
    YL_TRY(range, checked_levels(parts()->plan.shape, range));
    if (!parts()->handles.empty())
        return fail(ErrorKind::usage, "a texture with a handle cannot be changed any more");
    const BoundUnlessDirect bound(parts()->functions(), parts()->target, parts()->name);
    declare_levels({parts()->functions(), parts()->target, parts()->name}, range);
    parts()->shown = range;
    return parts()->functions().check("declare the levels");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::uint64_t> GpuTexture::handle(const std::optional<Sampler>& sampler) try {
    if (parts() == nullptr)
        return moved_from();
    const Functions& gl = parts()->functions();
    if (!gl.has_bindless)
        return fail(ErrorKind::unsupported,
                    "the context has no GL_ARB_bindless_texture; bind the texture to a unit");
    Findings changes;
    const Sampler wanted = sampler ? fit_sampler(*sampler, *parts()->device->profile, changes)
                                   : parts()->shared_sampler->description();
    for (const Parts::Handle& known : parts()->handles)
        if (known.sampler->description() == wanted)
            return known.value;
    Parts::Handle made;
    made.sampler = parts()->device->samplers->get(wanted);
    made.value = gl.GetTextureSamplerHandleARB(parts()->name, made.sampler->name());
    YL_CHECK(gl.check("make a handle of the texture"));
    if (made.value == 0)
        return fail(ErrorKind::device, "OpenGL made no handle of the texture");
    parts()->handles.push_back(made);
    return made.value;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::make_resident(std::uint64_t handle, bool resident) try {
    if (parts() == nullptr)
        return moved_from();
    const auto known = std::ranges::find(parts()->handles, handle, &Parts::Handle::value);
    if (known == parts()->handles.end())
        return fail(ErrorKind::usage, "this is no handle of the texture");
    if (known->is_resident == resident)
        return {};
    if (resident)
        parts()->functions().MakeTextureHandleResidentARB(handle);
    else
        parts()->functions().MakeTextureHandleNonResidentARB(handle);
    known->is_resident = resident;
    return parts()->functions().check("change a handle's residency");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back() const try {
    if (parts() == nullptr)
        return moved_from();
    YL_TRY(Texture texture, Texture::create(parts()->plan.shape));
    texture.metadata = parts()->metadata;
    YL_CHECK(read_levels(parts()->functions(), parts()->target, parts()->name, texture));
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back(std::uint32_t level, std::uint32_t layer,
                                      std::uint32_t face) const try {
    if (parts() == nullptr)
        return moved_from();
    YL_TRY(const TextureShape shape, shape_of_part(parts()->plan.shape, level, layer, face));
    YL_TRY(Texture one, Texture::create(shape));
    one.metadata = parts()->metadata;
    YL_CHECK(read_part(parts()->functions(), parts()->target, parts()->name, parts()->plan.shape,
                       {level, layer, face}, one));
    return one;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::gl
