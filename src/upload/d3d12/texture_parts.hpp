// What a texture is made of.
#pragma once

#include <functional>

#include "upload/d3d12/resource.hpp"

namespace yl::d3d12 {

struct GpuTexture::Parts {
    /// States are those of what was submitted: they stay as they were when nothing is.
    [[nodiscard]] Status submit(std::uint64_t bytes, Route route,
                                const std::function<void(const Recording&)>& record);

    std::shared_ptr<Context> context = {};
    std::shared_ptr<ResourceParts> resource = {};
    UploadPlan plan = {};
    Sampler fitted_sampler = {};
    LevelRange shown = {};
    TextureMetadata metadata = {};
    Findings findings = {};
};

}  // namespace yl::d3d12
