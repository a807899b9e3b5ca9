#include <fmt/format.h>

#include <algorithm>

#include "base/attempt.hpp"
#include "base/checked.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "upload/gl/read_back.hpp"
#include "upload/gl/sampler_cache.hpp"
#include "upload/gl/saved_state.hpp"
#include "upload/gl/storage.hpp"
#include "upload/gl/stream_buffers.hpp"
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

void GpuTexture::swap(GpuTexture& other) noexcept {
    std::swap(functions_, other.functions_);
    std::swap(samplers_, other.samplers_);
    std::swap(stream_, other.stream_);
    std::swap(profile_, other.profile_);
    std::swap(sampler_, other.sampler_);
    std::swap(texture_, other.texture_);
    std::swap(target_, other.target_);
    std::swap(is_immutable_, other.is_immutable_);
    std::swap(plan_, other.plan_);
    std::swap(fitted_sampler_, other.fitted_sampler_);
    std::swap(declared_levels_, other.declared_levels_);
    std::swap(traits_, other.traits_);
    std::swap(findings_, other.findings_);
    std::swap(handles_, other.handles_);
    std::swap(further_samplers_, other.further_samplers_);
}

GpuTexture::GpuTexture(GpuTexture&& other) noexcept {
    swap(other);
}

GpuTexture& GpuTexture::operator=(GpuTexture&& other) noexcept {
    swap(other);
    return *this;
}

GpuTexture::~GpuTexture() {
    for (const Handle& handle : handles_)
        if (handle.is_resident)
            functions_->MakeTextureHandleNonResidentARB(handle.value);
    if (texture_ != 0)
        functions_->DeleteTextures(1, &texture_);
}

std::uint32_t GpuTexture::release() && {
    for (const Handle& handle : handles_)
        if (handle.is_resident)
            functions_->MakeTextureHandleNonResidentARB(handle.value);
    handles_.clear();
    return std::exchange(texture_, 0);
}

const void* GpuTexture::backend_key() {
    static constexpr char key = 0;
    return &key;
}

std::uint32_t GpuTexture::sampler_name() const {
    return sampler_->name();
}

void GpuTexture::bind(std::uint32_t unit) const {
    const Functions& gl = *functions_;
    if (gl.has_direct_state_access) {
        gl.BindTextureUnit(unit, texture_);
    } else {
        const GLint active = gl.integer(GL_ACTIVE_TEXTURE);
        gl.ActiveTexture(GL_TEXTURE0 + unit);
        gl.BindTexture(target_, texture_);
        gl.ActiveTexture(static_cast<GLenum>(active));
    }
    gl.BindSampler(unit, sampler_->name());
}

void GpuTexture::bind(std::uint32_t unit, const Sampler& sampler) const {
    bind(unit);
    Findings changes;
    const Sampler wanted = fit_sampler(sampler, *profile_, changes);
    auto known = std::ranges::find(further_samplers_, wanted, &SharedSampler::description);
    if (known == further_samplers_.end()) {
        further_samplers_.push_back(samplers_->get(wanted));
        known = std::prev(further_samplers_.end());
    }
    functions_->BindSampler(unit, (*known)->name());
}

Status GpuTexture::write(const UploadPlan& plan, std::size_t batch, const Texture& texture) try {
    YL_CHECK(check_texture(texture, "texture"));
    const Functions& gl = *functions_;
    YL_CHECK(check_write(plan, batch, texture, plan_.shape));
    const UploadBatch& part = plan.batches[batch];
    const FormatInfo& f = info(plan.shape.format);
    const TextureObject object{gl, target_, texture_};
    const BoundUnlessDirect bound(gl, target_, texture_);
    if (stream_ == nullptr) {
        const TightPixelStore tight(gl, TightPixelStore::Direction::unpack);
        for (const UploadRegion& region : plan.regions_of(part))
            fill_region(object, plan.shape, region, region_source(plan, region, texture));
        return gl.check("fill the texture");
    }
    Status pitches;
    YL_CHECK(stream_->use(
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

Status GpuTexture::show_levels(LevelRange range) try {
    if (range.base > range.max || range.max >= plan_.shape.levels)
        return fail(ErrorKind::usage,
                    fmt::format("the texture has no levels {} to {}", range.base, range.max));
    if (!handles_.empty())
        return fail(ErrorKind::usage, "a texture with a handle cannot be changed any more");
    const BoundUnlessDirect bound(*functions_, target_, texture_);
    declare_levels({*functions_, target_, texture_}, range);
    declared_levels_ = range;
    return functions_->check("declare the levels");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::update(const TextureBox& box, const Texture& texels) {
    YL_CHECK(check_texture(texels, "texels"));
    YL_TRY(const PreparedUpdate update, prepare_update(plan_, box, texels, *profile_));
    return write(update.plan, 0, update.source(texels));
}

Result<std::uint64_t> GpuTexture::handle(const std::optional<Sampler>& sampler) try {
    const Functions& gl = *functions_;
    if (!gl.has_bindless)
        return fail(ErrorKind::unsupported,
                    "the context has no GL_ARB_bindless_texture; bind the texture to a unit");
    Findings changes;
    const Sampler wanted =
        sampler ? fit_sampler(*sampler, *profile_, changes) : sampler_->description();
    for (const Handle& known : handles_)
        if (known.sampler->description() == wanted)
            return known.value;
    Handle made;
    made.sampler = samplers_->get(wanted);
    made.value = gl.GetTextureSamplerHandleARB(texture_, made.sampler->name());
    YL_CHECK(gl.check("make a handle of the texture"));
    if (made.value == 0)
        return fail(ErrorKind::device, "OpenGL made no handle of the texture");
    handles_.push_back(made);
    return made.value;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status GpuTexture::make_resident(std::uint64_t handle, bool resident) try {
    const auto known = std::ranges::find(handles_, handle, &Handle::value);
    if (known == handles_.end())
        return fail(ErrorKind::usage, "this is no handle of the texture");
    if (known->is_resident == resident)
        return {};
    if (resident)
        functions_->MakeTextureHandleResidentARB(handle);
    else
        functions_->MakeTextureHandleNonResidentARB(handle);
    known->is_resident = resident;
    return functions_->check("change a handle's residency");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back() const try {
    YL_TRY(Texture texture, Texture::create(plan_.shape));
    texture.traits = traits_;
    YL_CHECK(read_levels(*functions_, target_, texture_, texture));
    return texture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> GpuTexture::read_back(std::uint32_t level, std::uint32_t layer,
                                      std::uint32_t face) const try {
    YL_TRY(const TextureShape shape, shape_of_part(plan_.shape, level, layer, face));
    YL_TRY(Texture one, Texture::create(shape));
    one.traits = traits_;
    YL_CHECK(read_part(*functions_, target_, texture_, plan_.shape, {level, layer, face}, one));
    return one;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::gl
