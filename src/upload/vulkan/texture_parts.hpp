// What a texture is made of.
#pragma once

#include <functional>

#include <yl/vulkan.hpp>

#include "upload/device_texture.hpp"
#include "upload/vulkan/image.hpp"

namespace yl::vulkan {

struct GpuTexture::Parts final : PlannedTexture::Common {
    /// Waits for pending copies.
    ~Parts() override;

    [[nodiscard]] bool is_shown(std::uint32_t level) const override {
        return image->is_shown(level);
    }
    /// Layouts are those of what was submitted: they stay as they were when nothing is.
    Status submit(std::uint64_t bytes, const std::function<void(const Recording&)>& record);

    std::shared_ptr<Context> context = {};
    std::shared_ptr<ImageParts> image = {};
    std::shared_ptr<const SharedSampler> shared_sampler = {};
};

}  // namespace yl::vulkan
