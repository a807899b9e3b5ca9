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

GpuTexture::GpuTexture(std::unique_ptr<Parts> parts) : parts_(std::move(parts)) {}
GpuTexture::GpuTexture(GpuTexture&& other) noexcept = default;

GpuTexture& GpuTexture::operator=(GpuTexture&& other) noexcept {
    std::swap(parts_, other.parts_);
    return *this;
}

GpuTexture::~GpuTexture() {
    if (parts_ == nullptr)
        return;
    parts_->drop_handles();
    if (parts_->name != 0)
        parts_->functions().DeleteTextures(1, &parts_->name);
}

std::uint32_t GpuTexture::release() && {
    if (parts_ == nullptr)
        return 0;
    parts_->drop_handles();
    return std::exchange(parts_->name, 0);
}

const GpuTexture::Parts& GpuTexture::parts() const {
    static const Parts none;
    return parts_ != nullptr ? *parts_ : none;
}

std::uint32_t GpuTexture::texture_name() const {
    return parts().name;
}
std::uint32_t GpuTexture::target() const {
    return parts().target;
}
const UploadPlan& GpuTexture::plan() const {
    return parts().plan;
}
const TextureShape& GpuTexture::shape() const {
    return parts().plan.shape;
}
const Sampler& GpuTexture::sampler() const {
    return parts().fitted_sampler;
}
LevelRange GpuTexture::declared_levels() const {
    return parts().declared_levels;
}
LevelRange GpuTexture::level_range() const {
    return parts().declared_levels;
}
const Findings& GpuTexture::findings() const {
    return parts().findings;
}

const void* GpuTexture::backend_key() {
    static constexpr char key = 0;
    return &key;
}

std::uint32_t GpuTexture::sampler_name() const {
    return parts_ != nullptr ? parts_->sampler->name() : 0;
}

void GpuTexture::bind(std::uint32_t unit) const {
    if (parts_ == nullptr)
        return;
    const Functions& gl = parts_->functions();
    if (gl.has_direct_state_access) {
        gl.BindTextureUnit(unit, parts_->name);
    } else {
        const GLint active = gl.integer(GL_ACTIVE_TEXTURE);
        gl.ActiveTexture(GL_TEXTURE0 + unit);
        gl.BindTexture(parts_->target, parts_->name);
        gl.ActiveTexture(static_cast<GLenum>(active));
    }
    gl.BindSampler(unit, parts_->sampler->name());
}

void GpuTexture::bind(std::uint32_t unit, const Sampler& sampler) const {
    if (parts_ == nullptr)
        return;
    bind(unit);
    Findings changes;
    const Sampler wanted = fit_sampler(sampler, *parts_->device->profile, changes);
    auto known = std::ranges::find(parts_->further_samplers, wanted, &SharedSampler::description);
    if (known == parts_->further_samplers.end()) {
        parts_->further_samplers.push_back(parts_->device->samplers->get(wanted));
        known = std::prev(parts_->further_samplers.end());
    }
    parts_->functions().BindSampler(unit, (*known)->name());
}

Status GpuTexture::write(const UploadPlan& plan, std::size_t batch, const Texture& texture) try {
    if (parts_ == nullptr)
        return moved_from();
    YL_CHECK(check_texture(texture, "texture"));
    const Functions& gl = parts_->functions();
    YL_CHECK(check_write(plan, batch, texture, parts_->plan.shape));
    const UploadBatch& part = plan.batches[batch];
    const FormatInfo& f = info(plan.shape.format);
    const TextureObject object{gl, parts_->target, parts_->name};
    const BoundUnlessDirect bound(gl, parts_->target, parts_->name);
    if (parts_->device->stream == nullptr) {
        const TightPixelStore tight(gl, TightPixelStore::Direction::unpack);
        for (const UploadRegion& region : plan.regions_of(part))
            fill_region(object, plan.shape, region, region_source(plan, region, texture));
        return gl.check("fill the texture");
    }
    Status pitches;
    YL_CHECK(parts_->device->stream->use(
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
    if (parts_ == nullptr)
        return moved_from();
    YL_TRY(range, checked_levels(parts_->plan.shape, range));
    if (!parts_->handles.empty())
        return fail(ErrorKind::usage, "a texture with a handle cannot be changed any more");
    const BoundUnlessDirect bound(parts_->functions(), parts_->target, parts_->name);
    declare_levels({parts_->functions(), parts_->target, parts_->name}, range);
    parts_->declared_levels = range;
    return parts_->functions().check("declare the levels");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::update(const TextureBox& box, const Texture& texels) {
    if (parts_ == nullptr)
        return moved_from();
    return replace_box(*this, parts_->plan, *parts_->device->profile, box, texels);
}

Result<std::uint64_t> GpuTexture::handle(const std::optional<Sampler>& sampler) try {
    if (parts_ == nullptr)
        return moved_from();
    const Functions& gl = parts_->functions();
    if (!gl.has_bindless)
        return fail(ErrorKind::unsupported,
                    "the context has no GL_ARB_bindless_texture; bind the texture to a unit");
    Findings changes;
    const Sampler wanted = sampler ? fit_sampler(*sampler, *parts_->device->profile, changes)
                                   : parts_->sampler->description();
    for (const Parts::Handle& known : parts_->handles)
        if (known.sampler->description() == wanted)
            return known.value;
    Parts::Handle made;
    made.sampler = parts_->device->samplers->get(wanted);
    made.value = gl.GetTextureSamplerHandleARB(parts_->name, made.sampler->name());
    YL_CHECK(gl.check("make a handle of the texture"));
    if (made.value == 0)
        return fail(ErrorKind::device, "OpenGL made no handle of the texture");
    parts_->handles.push_back(made);
    return made.value;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::make_resident(std::uint64_t handle, bool resident) try {
    if (parts_ == nullptr)
        return moved_from();
    const auto known = std::ranges::find(parts_->handles, handle, &Parts::Handle::value);
    if (known == parts_->handles.end())
        return fail(ErrorKind::usage, "this is no handle of the texture");
    if (known->is_resident == resident)
        return {};
    if (resident)
        parts_->functions().MakeTextureHandleResidentARB(handle);
    else
        parts_->functions().MakeTextureHandleNonResidentARB(handle);
    known->is_resident = resident;
    return parts_->functions().check("change a handle's residency");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back() const try {
    if (parts_ == nullptr)
        return moved_from();
    YL_TRY(Texture texture, Texture::create(parts_->plan.shape));
    texture.metadata = parts_->metadata;
    YL_CHECK(read_levels(parts_->functions(), parts_->target, parts_->name, texture));
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back(std::uint32_t level, std::uint32_t layer,
                                      std::uint32_t face) const try {
    if (parts_ == nullptr)
        return moved_from();
    YL_TRY(const TextureShape shape, shape_of_part(parts_->plan.shape, level, layer, face));
    YL_TRY(Texture one, Texture::create(shape));
    one.metadata = parts_->metadata;
    YL_CHECK(read_part(parts_->functions(), parts_->target, parts_->name, parts_->plan.shape,
                       {level, layer, face}, one));
    return one;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::gl
