// Direct3D 12 without a window.
#include <yl/d3d12.hpp>
#include <yl/d3d12_scene.hpp>

#include <yl/status_macros.hpp>

#include "driver.hpp"

namespace ylat {
namespace {

class Direct3dDriver final : public Driver {
 public:
    Direct3dDriver(yl::d3d12::HeadlessDevice headless, yl::d3d12::Device device)
        : headless_(std::move(headless)), device_(std::move(device)) {}

    yl::TextureDevice& device() override { return device_; }

    yl::Result<yl::Image> draw(const yl::Scene& scene, const yl::Texture& texture,
                               const yl::Sampler& sampler,
                               std::optional<yl::LevelRange> declared) override {
        if (declared)
            return yl::fail_at({yl::ErrorKind::usage,
                                "Direct3D's views have just the levels that are there; OpenGL "
                                "shows what missing ones do"},
                               "--declare-levels");
        YL_TRY(const auto uploaded, device_.upload(texture, {.sampler = sampler}));
        return yl::d3d12::draw_scene(device_, scene, uploaded, texture.metadata.alpha);
    }

    yl::Result<yl::Image> draw(const yl::CubeScene& scene, const yl::Texture& cube,
                               const yl::Sampler& sampler) override {
        YL_TRY(const auto uploaded, device_.upload(cube, {.sampler = sampler}));
        return yl::d3d12::draw_cube_scene(device_, scene, uploaded);
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
    yl::d3d12::HeadlessDevice headless_;
    yl::d3d12::Device device_;
};

}  // namespace

yl::Result<std::unique_ptr<Driver>> open_d3d12_driver(const std::string& device) {
    YL_TRY(auto headless, yl::d3d12::HeadlessDevice::create({.device = device}));
    YL_TRY(auto opened, yl::d3d12::Device::open(headless.handles()));
    return std::make_unique<Direct3dDriver>(std::move(headless), std::move(opened));
}

}  // namespace ylat
