#include "upload/gl/sampler_cache.hpp"

#include <algorithm>

#include <yl/sampler.hpp>

namespace yl::gl {
namespace {

constexpr GLenum anisotropy_name = 0x84FE;  // GL_TEXTURE_MAX_ANISOTROPY

}  // namespace

SharedSampler::SharedSampler(std::shared_ptr<const Functions> functions, const Sampler& sampler,
                             bool has_anisotropy)
    : functions_(std::move(functions)), description_(sampler) {
    const Functions& gl = *functions_;
    const GlSampler words = gl_sampler(sampler);
    gl.GenSamplers(1, &name_);
    const auto set = [&](GLenum parameter, std::uint32_t value) {
        gl.SamplerParameteri(name_, parameter, static_cast<GLint>(value));
    };
    set(GL_TEXTURE_MAG_FILTER, words.mag_filter);
    set(GL_TEXTURE_MIN_FILTER, words.min_filter);
    set(GL_TEXTURE_WRAP_S, words.wrap[0]);
    set(GL_TEXTURE_WRAP_T, words.wrap[1]);
    set(GL_TEXTURE_WRAP_R, words.wrap[2]);
    if (std::ranges::find(sampler.wrap, Wrap::clamp_to_border) != sampler.wrap.end())
        gl.SamplerParameterfv(name_, GL_TEXTURE_BORDER_COLOR, sampler.border.data());
    gl.SamplerParameterf(name_, GL_TEXTURE_MIN_LOD, sampler.min_level);
    gl.SamplerParameterf(name_, GL_TEXTURE_MAX_LOD, sampler.max_level);
    if (!gl.is_embedded)
        gl.SamplerParameterf(name_, GL_TEXTURE_LOD_BIAS, sampler.level_bias);
    if (has_anisotropy)
        gl.SamplerParameterf(name_, anisotropy_name, sampler.max_anisotropy);
    if (sampler.compare != Compare::off) {
        set(GL_TEXTURE_COMPARE_MODE, words.compare_mode);
        set(GL_TEXTURE_COMPARE_FUNC, words.compare_func);
    }
}

SharedSampler::~SharedSampler() {
    functions_->DeleteSamplers(1, &name_);
}

std::shared_ptr<const SharedSampler> SamplerCache::get(const Sampler& sampler) {
    std::erase_if(samplers_, [](const auto& entry) { return entry.expired(); });
    for (const auto& entry : samplers_)
        if (auto shared = entry.lock(); shared != nullptr && shared->description() == sampler)
            return shared;
    auto made = std::make_shared<const SharedSampler>(functions_, sampler, has_anisotropy_);
    samplers_.push_back(made);
    return made;
}

std::size_t SamplerCache::size() const {
    return static_cast<std::size_t>(
        std::ranges::count_if(samplers_, [](const auto& entry) { return !entry.expired(); }));
}

}  // namespace yl::gl
