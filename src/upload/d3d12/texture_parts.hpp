// What a texture is made of.
#pragma once

#include <functional>

#include "upload/d3d12/resource.hpp"
#include "upload/device_texture.hpp"

namespace yl::d3d12 {

struct GpuTexture::Parts final : PlannedTexture::Common {
    /// Waits for pending copies.
    ~Parts() override;

    [[nodiscard]] bool is_shown(std::uint32_t level) const override {
        return resource->is_shown(level);
    }
    /// States are those of what was submitted: they stay as they were when nothing is.
    [[nodiscard]] Status submit(std::uint64_t bytes, Route route,
                                const std::function<void(const Recording&)>& record);

    std::shared_ptr<Context> context = {};
    std::shared_ptr<ResourceParts> resource = {};
};

}  // namespace yl::d3d12
