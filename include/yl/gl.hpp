// Textures on OpenGL 3.3 to 4.6 and OpenGL ES 3.0 to 3.2. Needs YellowLattice::gl, and a context
// that is current on the calling thread whenever one of these functions runs.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <yl/texture_device.hpp>

namespace yl::gl {

struct Functions;  // OpenGL's entry points; src/upload/gl/functions.hpp
class SamplerCache;
class SharedSampler;
class StreamBuffers;

/// Finds an entry point by its name, as eglGetProcAddress and its like do.
using Loader = std::function<void*(const char* name)>;

struct UploadOptions {
    /// The one that the texture carries, or else the default one, when left out.
    std::optional<Sampler> sampler = {};
    /// What is declared as base and max level; just what is there when left out. A wider range is
    /// only of use to see what an incomplete texture looks like; it needs mutable storage.
    std::optional<LevelRange> declared_levels = {};
    bool immutable_storage = true;  ///< glTexStorage2D, where the context has it
    UploadWish wish = {};           ///< levels, format, batches
    std::optional<Role> role = {};  ///< for findings
    std::string label = {};         ///< for debuggers
};

/// A texture and its sampler object, which textures of equal samplers share. The texture is deleted
/// with it, the sampler with the last one.
class GpuTexture final : public DeviceTexture {
 public:
    GpuTexture(GpuTexture&& other) noexcept;
    GpuTexture& operator=(GpuTexture&& other) noexcept;
    GpuTexture(const GpuTexture&) = delete;
    GpuTexture& operator=(const GpuTexture&) = delete;
    ~GpuTexture() override;

    /// Binds texture and sampler to a texture unit, and leaves the active unit as it was.
    void bind(std::uint32_t unit) const;
    /// The same with another sampler, within the device's limits: one texture serves many
    /// materials.
    void bind(std::uint32_t unit, const Sampler& sampler) const;

    [[nodiscard]] std::uint32_t texture_name() const { return texture_; }
    /// GL_TEXTURE_2D, GL_TEXTURE_CUBE_MAP_ARRAY or whatever its shape asks for.
    [[nodiscard]] std::uint32_t target() const { return target_; }
    [[nodiscard]] std::uint32_t sampler_name() const;
    [[nodiscard]] const UploadPlan& plan() const { return plan_; }
    [[nodiscard]] const Sampler& sampler() const { return fitted_sampler_; }  ///< within the limits
    [[nodiscard]] LevelRange declared_levels() const { return declared_levels_; }
    [[nodiscard]] const Findings& findings() const { return findings_; }

    [[nodiscard]] static const void* backend_key();
    [[nodiscard]] const void* backend() const override { return backend_key(); }
    [[nodiscard]] const TextureShape& shape() const override { return plan_.shape; }
    [[nodiscard]] LevelRange shown_levels() const override { return declared_levels_; }
    [[nodiscard]] Status write(const UploadPlan& plan, std::size_t batch,
                               const Texture& texture) override;
    [[nodiscard]] Status show_levels(LevelRange range) override;

    /// Every level as the device holds it, in the plan's format. Leaves the pack state as it was.
    [[nodiscard]] Result<Texture> read_back() const override;
    /// One level of one layer and face (a volume's with all its slices), as a texture of one level.
    [[nodiscard]] Result<Texture> read_back(std::uint32_t level, std::uint32_t layer,
                                            std::uint32_t face) const;

    /// Changes some texels: `texels` has one level of the box's size, in the format that the whole
    /// texture came in.
    [[nodiscard]] Status update(const TextureBox& box, const Texture& texels);

    /// Gives the texture away: the caller deletes this name. Handles of it must not be used any
    /// more; the sampler object stays with this library.
    [[nodiscard]] std::uint32_t release() &&;

    /// The handle by which shaders sample it without a unit, with the sampler's values frozen in
    /// it; another sampler makes another handle. Levels and values cannot be changed afterwards.
    /// Fails with `ErrorKind::unsupported` without GL_ARB_bindless_texture.
    [[nodiscard]] Result<std::uint64_t> handle(const std::optional<Sampler>& sampler = {});
    /// Shaders may use a handle only while it is resident. They are not at first, and not any more
    /// when the texture goes.
    [[nodiscard]] Status make_resident(std::uint64_t handle, bool resident);

 private:
    friend class Device;
    struct Handle {
        std::uint64_t value = 0;
        std::shared_ptr<const SharedSampler> sampler = {};
        bool is_resident = false;
    };

    GpuTexture() = default;
    void swap(GpuTexture& other) noexcept;

    std::shared_ptr<const Functions> functions_ = {};
    std::shared_ptr<SamplerCache> samplers_ = {};
    std::shared_ptr<StreamBuffers> stream_ = {};
    std::shared_ptr<const DeviceProfile> profile_ = {};
    std::shared_ptr<const SharedSampler> sampler_ = {};
    std::uint32_t texture_ = 0;
    std::uint32_t target_ = 0;
    bool is_immutable_ = false;
    UploadPlan plan_ = {};
    Sampler fitted_sampler_ = {};
    LevelRange declared_levels_ = {};
    TextureTraits traits_ = {};
    Findings findings_ = {};
    std::vector<Handle> handles_ = {};
    mutable std::vector<std::shared_ptr<const SharedSampler>> further_samplers_ = {};
};

struct DeviceOptions {
    /// Texels go through a ring of pixel buffers with fences, so that the calls return before the
    /// device has them: for textures that come while a program draws.
    bool streaming = false;
    bool direct_state_access = true;  ///< where the context has it: nothing is bound to be changed
};

/// The device behind the current context.
class Device final : public TextureDevice {
 public:
    /// Loads the entry points and reads the device's limits and formats. Fails with
    /// `ErrorKind::device` below OpenGL 3.3 and OpenGL ES 3.0, or when an entry point is missing.
    [[nodiscard]] static Result<Device> open(const Loader& loader,
                                             const DeviceOptions& options = {});

    [[nodiscard]] const DeviceProfile& profile() const override { return *profile_; }

    /// Creates the texture with all its levels, and its sampler. Unpack state, bindings and the
    /// active unit are left as they were.
    [[nodiscard]] Result<GpuTexture> upload(const Texture& texture,
                                            const UploadOptions& options = {}) const;
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(
        const TextureRequest& request) override;

    /// Takes over a texture that the program has made, of this shape and with all its levels: it is
    /// bound, changed, read back and deleted as if it had been uploaded. Its texels and its
    /// parameters stay as they are. Fails with `ErrorKind::usage` when the name is no texture's or
    /// is one of another target or size; the name then still belongs to the caller.
    [[nodiscard]] Result<GpuTexture> adopt(std::uint32_t name, const TextureShape& shape,
                                           const UploadOptions& options = {}) const;

    [[nodiscard]] const std::shared_ptr<const Functions>& functions() const { return functions_; }
    /// Sampler objects that textures share at present.
    [[nodiscard]] std::size_t sampler_count() const;

 private:
    /// Without a name yet.
    [[nodiscard]] GpuTexture unnamed(UploadPlan plan) const;
    [[nodiscard]] Result<GpuTexture> create(const TextureRequest& request, UploadPlan plan,
                                            LevelRange declared, bool immutable) const;

    std::shared_ptr<const Functions> functions_ = {};
    std::shared_ptr<SamplerCache> samplers_ = {};
    std::shared_ptr<StreamBuffers> stream_ = {};
    std::shared_ptr<const DeviceProfile> profile_ = {};
};

}  // namespace yl::gl
