// What a device and its textures are made of.
#pragma once

#include <vector>

#include <yl/gl.hpp>

#include "upload/device_texture.hpp"
#include "upload/gl/functions.hpp"
#include "upload/gl/sampler_cache.hpp"
#include "upload/gl/stream_buffers.hpp"

namespace yl::gl {

struct Device::Parts {
    std::shared_ptr<const Functions> functions;
    std::shared_ptr<SamplerCache> samplers;
    std::shared_ptr<StreamBuffers> stream;  ///< null without streaming
    std::shared_ptr<const DeviceProfile> profile;
};

struct GpuTexture::Parts final : PlannedTexture::Common {
    struct Handle {
        std::uint64_t value = 0;
        std::shared_ptr<const SharedSampler> sampler = {};
        bool is_resident = false;
    };

    /// Deletes the texture.
    ~Parts() override;

    [[nodiscard]] const Functions& functions() const { return *device->functions; }

    void drop_handles() {
        for (const Handle& handle : handles)
            if (handle.is_resident)
                functions().MakeTextureHandleNonResidentARB(handle.value);
        handles.clear();
    }

    std::shared_ptr<const Device::Parts> device = {};
    std::shared_ptr<const SharedSampler> shared_sampler = {};
    GLuint name = 0;
    GLenum target = 0;
    bool is_immutable = false;

    std::vector<Handle> handles = {};
    /// Of materials that sample it otherwise.
    std::vector<std::shared_ptr<const SharedSampler>> further_samplers = {};
};

}  // namespace yl::gl
