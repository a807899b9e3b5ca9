// OpenGL and OpenGL ES without a window.
#include <yl/gl.hpp>
#include <yl/gl_scene.hpp>

#include <yl/status_macros.hpp>

#include "driver.hpp"

namespace ylat {
namespace {

class GlDriver final : public Driver {
 public:
    GlDriver(yl::gl::HeadlessContext context, yl::gl::Device device)
        : context_(std::move(context)), device_(std::move(device)) {}

    yl::TextureDevice& device() override { return device_; }

    yl::Result<yl::Image> draw(const yl::Scene& scene, const yl::Texture& texture,
                               const yl::Sampler& sampler,
                               std::optional<yl::LevelRange> declared) override {
        YL_TRY(const auto uploaded,
               device_.upload(texture, {.sampler = sampler}, {.declared_levels = declared}));
        return yl::gl::draw_scene(device_, scene, uploaded, texture.metadata.alpha);
    }

    yl::Result<yl::Image> draw(const yl::CubeScene& scene, const yl::Texture& cube,
                               const yl::Sampler& sampler) override {
        YL_TRY(const auto uploaded, device_.upload(cube, {.sampler = sampler}));
        return yl::gl::draw_cube_scene(device_, scene, uploaded);
    }

    yl::Result<yl::Image> draw(const yl::ModelScene& scene, const yl::ModelView& view) override {
        return yl::gl::draw_model(device_, scene, view);
    }

    [[nodiscard]] yl::LevelCurve level_curve() const override {
        return yl::LevelCurve::piecewise_linear;
    }

 private:
    yl::gl::HeadlessContext context_;
    yl::gl::Device device_;
};

}  // namespace

yl::Result<std::unique_ptr<Driver>> open_gl_driver(bool embedded) {
    YL_TRY(auto context,
           yl::gl::HeadlessContext::create(
               embedded ? yl::gl::HeadlessOptions{.major = 3, .minor = 2, .embedded = true}
                        : yl::gl::HeadlessOptions{}));
    YL_TRY(auto device, yl::gl::Device::open(context.loader()));
    return std::make_unique<GlDriver>(std::move(context), std::move(device));
}

}  // namespace ylat
