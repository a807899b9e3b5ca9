// What a texture is made of.
#pragma once

#include <functional>

#include <yl/vulkan.hpp>

#include "upload/vulkan/image.hpp"

namespace yl::vulkan {

struct GpuTexture::Parts {
    /// Layouts are those of what was submitted: they stay as they were when nothing is.
    Status submit(std::uint64_t bytes, const std::function<void(const Recording&)>& record);

    std::shared_ptr<Context> context = {};
    std::shared_ptr<ImageParts> image = {};
    std::shared_ptr<const SharedSampler> sampler = {};
    UploadPlan plan = {};
    Sampler fitted_sampler = {};
    LevelRange shown = {};
    TextureMetadata metadata = {};
    Findings findings = {};
};

}  // namespace yl::vulkan
