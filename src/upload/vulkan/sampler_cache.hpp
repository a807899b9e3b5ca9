// Samplers, one for each description in use.
#pragma once

#include <memory>
#include <vector>

#include <yl/sampler.hpp>
#include "upload/vulkan/handle.hpp"

namespace yl::vulkan {

struct Context;

class SharedSampler {
 public:
    SharedSampler(SamplerHandle handle, const Sampler& description)
        : handle_(std::move(handle)), description_(description) {}

    [[nodiscard]] VkSampler get() const { return handle_.get(); }
    [[nodiscard]] const Sampler& description() const { return description_; }

 private:
    SamplerHandle handle_;
    Sampler description_;
};

class SamplerCache {
 public:
    explicit SamplerCache(const Context& context) : context_(context) {}

    [[nodiscard]] Result<std::shared_ptr<const SharedSampler>> get(const Sampler& sampler);
    [[nodiscard]] std::size_t size() const;

 private:
    const Context& context_;
    std::vector<std::weak_ptr<const SharedSampler>> samplers_ = {};
};

}  // namespace yl::vulkan
