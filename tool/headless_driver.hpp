// Drivers that have no window and draw scenes, but no models: of Vulkan and Direct3D 12.
#pragma once

#include <yl/status_macros.hpp>

#include "driver.hpp"

namespace ylat {

/// `draw_scene` and `draw_cube_scene` are those of the device's own API.
template <class Headless, class Device>
class HeadlessDriver final : public Driver {
 public:
    HeadlessDriver(Headless headless, Device device)
        : headless_(std::move(headless)), device_(std::move(device)) {}

    yl::TextureDevice& device() override { return device_; }

    yl::Result<yl::Image> draw(const yl::Scene& scene, const yl::Texture& texture,
                               const yl::Sampler& sampler,
                               std::optional<yl::LevelRange> declared) override {
        if (declared)
            return yl::fail_at({yl::ErrorKind::usage,
                                "views of this API have just the levels that are there; OpenGL "
                                "shows what missing ones do"},
                               "--declare-levels");
        YL_TRY(const auto uploaded, device_.upload(texture, {.sampler = sampler}));
        return draw_scene(device_, scene, uploaded, texture.metadata.alpha);
    }

    yl::Result<yl::Image> draw(const yl::CubeScene& scene, const yl::Texture& cube,
                               const yl::Sampler& sampler) override {
        YL_TRY(const auto uploaded, device_.upload(cube, {.sampler = sampler}));
        return draw_cube_scene(device_, scene, uploaded);
    }

    yl::Result<yl::Image> draw(const yl::ModelScene&, const yl::ModelView&) override {
        return yl::fail_at(
            {yl::ErrorKind::unsupported, "models are drawn by the CPU and by OpenGL"}, "--api");
    }

    [[nodiscard]] yl::LevelCurve level_curve() const override {
        const bool is_mesa = device_.profile().name.find("llvmpipe") != std::string::npos;
        return is_mesa ? yl::LevelCurve::piecewise_linear : yl::LevelCurve::exact;
    }

 private:
    Headless headless_;
    Device device_;
};

/// Of `Headless`, the device with this part of a name in its own.
template <class Headless, class Device>
[[nodiscard]] yl::Result<std::unique_ptr<Driver>> open_headless(const std::string& name) {
    YL_TRY(auto headless, Headless::create({.device = name}));
    YL_TRY(auto device, Device::open(headless.handles()));
    return std::make_unique<HeadlessDriver<Headless, Device>>(std::move(headless),
                                                              std::move(device));
}

}  // namespace ylat
