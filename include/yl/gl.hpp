// Textures on OpenGL 3.3 to 4.6. Needs YellowLattice::gl, and a context that is current on the
// calling thread whenever one of these functions runs.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <yl/sampler_rules.hpp>
#include <yl/upload.hpp>

namespace yl::gl {

struct Functions;  // OpenGL's entry points; src/upload/gl/functions.hpp

/// Finds an entry point by its name, as eglGetProcAddress and its like do.
using Loader = std::function<void*(const char* name)>;

struct UploadOptions {
    /// The one that the texture carries, or else the default one, when left out.
    std::optional<Sampler> sampler = {};
    /// What is declared as base and max level; just what is there when left out. A wider range is
    /// only of use to see what an incomplete texture looks like; it needs mutable storage.
    std::optional<LevelRange> declared_levels = {};
    bool immutable_storage = true;  ///< glTexStorage2D, where the context has it
};

/// A texture and its sampler object; both are deleted with it.
class GpuTexture {
 public:
    GpuTexture(GpuTexture&& other) noexcept;
    GpuTexture& operator=(GpuTexture&& other) noexcept;
    GpuTexture(const GpuTexture&) = delete;
    GpuTexture& operator=(const GpuTexture&) = delete;
    ~GpuTexture();

    /// Binds texture and sampler to a texture unit, and leaves the active unit as it was.
    void bind(std::uint32_t unit) const;

    [[nodiscard]] std::uint32_t texture_name() const { return texture_; }
    /// GL_TEXTURE_2D, GL_TEXTURE_2D_ARRAY, GL_TEXTURE_CUBE_MAP or GL_TEXTURE_CUBE_MAP_ARRAY.
    [[nodiscard]] std::uint32_t target() const { return target_; }
    [[nodiscard]] std::uint32_t sampler_name() const { return sampler_; }
    [[nodiscard]] const UploadPlan& plan() const { return plan_; }
    [[nodiscard]] const Sampler& sampler() const { return fitted_sampler_; }  ///< within the limits
    [[nodiscard]] LevelRange declared_levels() const { return declared_levels_; }
    [[nodiscard]] const Findings& findings() const { return findings_; }

    /// Every level as the device holds it, in the plan's format. Leaves the pack state as it was.
    [[nodiscard]] Result<Texture> read_back() const;

 private:
    friend class Device;
    explicit GpuTexture(std::shared_ptr<const Functions> functions)
        : functions_(std::move(functions)) {}

    std::shared_ptr<const Functions> functions_;
    std::uint32_t texture_ = 0;
    std::uint32_t target_ = 0;
    std::uint32_t sampler_ = 0;
    UploadPlan plan_;
    Sampler fitted_sampler_ = {};
    LevelRange declared_levels_;
    TextureTraits traits_;
    Findings findings_ = {};
};

/// The device behind the current context.
class Device {
 public:
    /// Loads the entry points and reads the device's limits and formats. Fails with
    /// `ErrorKind::device` below OpenGL 3.3, or when an entry point is missing.
    [[nodiscard]] static Result<Device> open(const Loader& loader);

    [[nodiscard]] const DeviceProfile& profile() const { return profile_; }

    /// Creates the texture with all its levels, and its sampler. Unpack state, bindings and the
    /// active unit are left as they were.
    [[nodiscard]] Result<GpuTexture> upload(const Texture& texture,
                                            const UploadOptions& options = {}) const;

    [[nodiscard]] const std::shared_ptr<const Functions>& functions() const { return functions_; }

 private:
    std::shared_ptr<const Functions> functions_;
    DeviceProfile profile_;
};

}  // namespace yl::gl
