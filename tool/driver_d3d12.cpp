// Direct3D 12 without a window.
#include <yl/d3d12.hpp>

#include <yl/status_macros.hpp>

#include "driver.hpp"

namespace ylat {
namespace {

class Direct3dDriver final : public Driver {
 public:
    Direct3dDriver(yl::d3d12::HeadlessDevice headless, yl::d3d12::Device device)
        : headless_(std::move(headless)), device_(std::move(device)) {}

    yl::TextureDevice& device() override { return device_; }

    yl::Result<yl::Image> draw(const yl::Scene&, const yl::Texture&, const yl::Sampler&,
                               std::optional<yl::LevelRange>) override {
        return draws_nothing();
    }
    yl::Result<yl::Image> draw(const yl::CubeScene&, const yl::Texture&,
                               const yl::Sampler&) override {
        return draws_nothing();
    }
    yl::Result<yl::Image> draw(const yl::ModelScene&, const yl::ModelView&) override {
        return draws_nothing();
    }
    [[nodiscard]] yl::LevelCurve level_curve() const override { return yl::LevelCurve::exact; }

 private:
    static tl::unexpected<yl::Error> draws_nothing() {
        return yl::fail_at({yl::ErrorKind::unsupported,
                            "textures go to Direct3D 12 and come back; nothing is drawn by it"},
                           "--api");
    }

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
