// Textures on OpenGL 3.3 to 4.6 and OpenGL ES 3.0 to 3.2. Needs YellowLattice::gl, and a context
// that is current on the calling thread whenever one of these functions runs.
//
//     yl::gl::Device device = yl::or_exit(yl::gl::Device::open(loader));
//     yl::gl::GpuTexture leaf = yl::or_exit(device.upload(texture));
//     leaf.bind(0);
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <yl/api.hpp>
#include <yl/upload.hpp>

namespace yl::gl {

struct Functions;  // OpenGL's entry points; src/upload/gl/functions.hpp

/// Finds an entry point by its name, as eglGetProcAddress and its like do.
using Loader = std::function<void*(const char* name)>;

/// How a texture's memory is made. All parts may be left out.
struct StorageOptions {
    /// What is declared as base and max level; just what is there when left out. A wider range is
    /// only of use to see what an incomplete texture looks like; it needs mutable storage.
    std::optional<LevelRange> declared_levels = {};
    bool immutable = true;  ///< glTexStorage2D, where the context has it
};

/// A texture and its sampler object, which textures of equal samplers share. The texture is deleted
/// with it, the sampler with the last one.
class YL_API GpuTexture final : public DeviceTexture {
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

    /// For calls of the program's own; the texture goes with this object.
    [[nodiscard]] std::uint32_t texture_name() const;
    /// GL_TEXTURE_2D, GL_TEXTURE_CUBE_MAP_ARRAY or whatever its shape asks for.
    [[nodiscard]] std::uint32_t target() const;
    [[nodiscard]] std::uint32_t sampler_name() const;
    [[nodiscard]] const UploadPlan& plan() const;
    [[nodiscard]] const Sampler& sampler() const;  ///< within the limits
    [[nodiscard]] LevelRange declared_levels() const;
    [[nodiscard]] const Findings& findings() const;

    /// What `backend` gives for textures of this class.
    [[nodiscard]] static const void* backend_key();
    [[nodiscard]] const void* backend() const override { return backend_key(); }
    [[nodiscard]] const TextureShape& shape() const override;
    [[nodiscard]] LevelRange level_range() const override;
    [[nodiscard]] Status write(const UploadPlan& plan, std::size_t batch,
                               const Texture& texture) override;
    [[nodiscard]] Status set_level_range(LevelRange range) override;

    /// Every level as the device holds it, in the plan's format. Leaves the pack state as it was.
    [[nodiscard]] Result<Texture> read_back() const override;
    /// One level of one layer and face (a volume's with all its slices), as a texture of one level.
    /// Fails with `ErrorKind::usage` where there is no such part.
    [[nodiscard]] Result<Texture> read_back(std::uint32_t level, std::uint32_t layer,
                                            std::uint32_t face) const;

    /// Changes some texels: `texels` has one level of the box's size, in the format that the whole
    /// texture came in.
    /// Fails with `ErrorKind::usage` where they do not fit.
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
    /// Fails with `ErrorKind::usage` for a number that is no handle of this texture.
    [[nodiscard]] Status make_resident(std::uint64_t handle, bool resident);

 private:
    friend class Device;
    struct Parts;
    explicit GpuTexture(std::unique_ptr<Parts> parts);
    [[nodiscard]] const Parts& parts() const;

    std::unique_ptr<Parts> parts_;  ///< none once it was moved from
};

/// How the device works. All parts may be left out.
struct DeviceOptions {
    /// Texels go through a ring of pixel buffers with fences, so that the calls return before the
    /// device has them: for textures that come while a program draws.
    bool streaming = false;
    bool direct_state_access = true;  ///< where the context has it: nothing is bound to be changed
};

/// The device behind the current context.
class YL_API Device final : public TextureDevice {
 public:
    /// Loads the entry points and reads the device's limits and formats. Fails with
    /// `ErrorKind::device` below OpenGL 3.3 and OpenGL ES 3.0, or when an entry point is missing.
    [[nodiscard]] static Result<Device> open(const Loader& loader,
                                             const DeviceOptions& options = {});

    [[nodiscard]] const DeviceProfile& profile() const override;

    /// Creates the texture with all its levels, and its sampler. Unpack state, bindings and the
    /// active unit are left as they were.
    /// Fails as `prepare_upload` does, and with `ErrorKind::device` when OpenGL refuses.
    [[nodiscard]] Result<GpuTexture> upload(const Texture& texture,
                                            const UploadOptions& options = {},
                                            const StorageOptions& storage = {}) const;
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(const TextureDesc& desc) override;

    /// Takes over a texture that the program has made, of this shape and with all its levels: it is
    /// bound, changed, read back and deleted as if it had been uploaded. Its texels and its
    /// parameters stay as they are. Fails with `ErrorKind::usage` when the name is no texture's or
    /// is one of another target or size; the name then still belongs to the caller.
    [[nodiscard]] Result<GpuTexture> adopt(std::uint32_t name, const TextureShape& shape,
                                           const UploadOptions& options = {},
                                           const StorageOptions& storage = {}) const;

    /// For this library's own drawing.
    [[nodiscard]] const Functions& functions() const;
    /// Sampler objects that textures share at present.
    [[nodiscard]] std::size_t sampler_count() const;

 private:
    friend class GpuTexture;
    struct Parts;
    explicit Device(std::shared_ptr<const Parts> parts) : parts_(std::move(parts)) {}
    [[nodiscard]] GpuTexture unnamed(UploadPlan plan) const;
    [[nodiscard]] Result<GpuTexture> create(const TextureDesc& desc, UploadPlan plan,
                                            LevelRange declared, bool immutable) const;

    std::shared_ptr<const Parts> parts_;
};

/// Which context is made. All parts may be left out.
struct HeadlessOptions {
    /// The version: 3.3 to 4.6, or 3.0 to 3.2 of OpenGL ES.
    int major = 4;
    int minor = 5;
    bool embedded = false;       ///< OpenGL ES of that version
    bool compatibility = false;  ///< the profile that has all of the old functions
    /// Asks Mesa's software rasteriser, through the environment, not to take its shortcuts in level
    /// of detail and 8-bit filtering. It listens only before the process's first context.
    bool exact_filtering = true;
};

/// A context on EGL's surfaceless platform, current on the
/// thread that made it.
class YL_API HeadlessContext {
 public:
    /// Fails with `ErrorKind::device` when there is no such platform or no such context.
    [[nodiscard]] static Result<HeadlessContext> create(const HeadlessOptions& options = {});

    /// For `Device::open`.
    [[nodiscard]] Loader loader() const;

 private:
    struct Handles;
    struct Release {
        void operator()(Handles* handles) const;
    };
    std::unique_ptr<Handles, Release> handles_;
};

}  // namespace yl::gl
