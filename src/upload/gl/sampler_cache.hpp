// Sampler objects, one for each description in use.
#pragma once

#include <vector>

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// A sampler object, deleted with its last user.
class SharedSampler {
 public:
    SharedSampler(std::shared_ptr<const Functions> functions, const Sampler& sampler,
                  bool has_anisotropy);
    ~SharedSampler();
    SharedSampler(const SharedSampler&) = delete;
    SharedSampler& operator=(const SharedSampler&) = delete;

    [[nodiscard]] GLuint name() const { return name_; }
    [[nodiscard]] const Sampler& description() const { return description_; }

 private:
    std::shared_ptr<const Functions> functions_;
    Sampler description_;
    GLuint name_ = 0;
};

class SamplerCache {
 public:
    SamplerCache(std::shared_ptr<const Functions> functions, bool has_anisotropy)
        : functions_(std::move(functions)), has_anisotropy_(has_anisotropy) {}

    [[nodiscard]] std::shared_ptr<const SharedSampler> get(const Sampler& sampler);
    [[nodiscard]] std::size_t size() const;

 private:
    std::shared_ptr<const Functions> functions_;
    bool has_anisotropy_;
    std::vector<std::weak_ptr<const SharedSampler>> samplers_ = {};
};

}  // namespace yl::gl
