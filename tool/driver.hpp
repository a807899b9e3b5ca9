// A real driver of some graphics API, with what it needs to live.
#pragma once

#include <memory>
#include <yl/yl.hpp>

namespace ylat {

class Driver {
 public:
    virtual ~Driver() = default;

    [[nodiscard]] virtual yl::TextureDevice& device() = 0;
    /// `declared` levels that are not there make OpenGL's surface black; other APIs refuse them.
    [[nodiscard]] virtual yl::Result<yl::Image> draw(const yl::Scene& scene,
                                                     const yl::Texture& texture,
                                                     const yl::Sampler& sampler,
                                                     std::optional<yl::LevelRange> declared) = 0;
    [[nodiscard]] virtual yl::Result<yl::Image> draw(const yl::CubeScene& scene,
                                                     const yl::Texture& cube,
                                                     const yl::Sampler& sampler) = 0;
    /// Fails with `ErrorKind::unsupported` where the API has no way to draw models.
    [[nodiscard]] virtual yl::Result<yl::Image> draw(const yl::ModelScene& scene,
                                                     const yl::ModelView& view) = 0;
    /// How it computes the level of detail, for pictures of the CPU to compare with.
    [[nodiscard]] virtual yl::LevelCurve level_curve() const = 0;

    [[nodiscard]] const yl::DeviceProfile& profile() { return device().profile(); }
};

/// `api` is gl, gles, vulkan or d3d12; `device` a part of the name, where there are several.
[[nodiscard]] yl::Result<std::unique_ptr<Driver>> open_driver(const std::string& api,
                                                              const std::string& device = {});

// One of these for each API, in a file of its own.
[[nodiscard]] yl::Result<std::unique_ptr<Driver>> open_gl_driver(bool embedded);
[[nodiscard]] yl::Result<std::unique_ptr<Driver>> open_vulkan_driver(const std::string& device);
[[nodiscard]] yl::Result<std::unique_ptr<Driver>> open_d3d12_driver(const std::string& device);

/// Whether the driver gives back every byte of what it was given, or of what that was converted to.
[[nodiscard]] yl::Result<bool> returns_identical(Driver& driver, const yl::Texture& texture);

}  // namespace ylat
