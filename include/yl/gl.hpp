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

/// Finds an entry point by name, like eglGetProcAddress.
using Loader = std::function<void*(const char* name)>;

/// How texture memory is created. All members are optional.
struct StorageOptions {
    /// The declared base and max level; by default the levels that exist. A wider range only serves
    /// to show what an incomplete texture looks like, and needs mutable storage.
    std::optional<LevelRange> declared_levels = {};
    bool immutable = true;  ///< use glTexStorage2D where available
};

/// A texture and its sampler object, which textures with equal samplers share. Deletes the texture,
/// and the sampler together with the last texture that uses it.
class YL_API GpuTexture final : public PlannedTexture {
 public:
    /// Binds texture and sampler to a texture unit; keeps the active unit.
    void bind(std::uint32_t unit) const;
    /// The same with another sampler, adapted to the device, so that materials can share a texture.
    void bind(std::uint32_t unit, const Sampler& sampler) const;

    /// For your own GL calls; this object still owns the texture.
    [[nodiscard]] std::uint32_t texture_name() const;
    /// GL_TEXTURE_2D, GL_TEXTURE_CUBE_MAP_ARRAY and so on.
    [[nodiscard]] std::uint32_t target() const;
    [[nodiscard]] std::uint32_t sampler_name() const;

    /// The value of `backend` for this class.
    [[nodiscard]] static const void* backend_key();
    [[nodiscard]] const void* backend() const override { return backend_key(); }
    [[nodiscard]] Status write(const UploadPlan& plan, std::size_t batch,
                               const Texture& texture) override;
    [[nodiscard]] Status set_level_range(LevelRange range) override;

    /// Preserves the pack state.
    [[nodiscard]] Result<Texture> read_back() const override;
    [[nodiscard]] Result<Texture> read_back(std::uint32_t level, std::uint32_t layer,
                                            std::uint32_t face) const override;

    /// Gives up ownership: the caller deletes the texture name. Its handles must no longer be used;
    /// the library keeps the sampler object.
    [[nodiscard]] std::uint32_t release() &&;

    /// The bindless handle of the texture with a sampler, whose values it freezes; another sampler
    /// gets another handle. Levels and values cannot be changed afterwards. Fails with
    /// `ErrorKind::unsupported` without GL_ARB_bindless_texture.
    [[nodiscard]] Result<std::uint64_t> handle(const std::optional<Sampler>& sampler = {});
    /// Shaders may use a handle only while it is resident, which it is not initially.
    /// Fails with `ErrorKind::usage` if it is no handle of this texture.
    [[nodiscard]] Status make_resident(std::uint64_t handle, bool resident);

 private:
    friend class Device;
    struct Parts;
    explicit GpuTexture(std::unique_ptr<Parts> parts);
    /// Null after a move.
    [[nodiscard]] Parts* parts() const;
};

/// How the device works. All members are optional.
struct DeviceOptions {
    /// Upload through a ring of pixel buffers with fences, so that calls return before the device
    /// has the texels: for loading while the program draws.
    bool streaming = false;
    bool direct_state_access = true;  ///< where available, so that nothing has to be bound
};

/// The device behind the current context.
class YL_API Device final : public TextureDevice {
 public:
    /// Loads the entry points and reads the device's limits and formats. Fails with
    /// `ErrorKind::device` below OpenGL 3.3 and OpenGL ES 3.0, or when an entry point is missing.
    [[nodiscard]] static Result<Device> open(const Loader& loader,
                                             const DeviceOptions& options = {});

    [[nodiscard]] const DeviceProfile& profile() const override;

    /// Uploads a texture with all its levels and creates its sampler. Preserves unpack state,
    /// bindings and the active unit. Fails as `prepare_upload` does, and with `ErrorKind::device`
    /// when OpenGL refuses.
    [[nodiscard]] Result<GpuTexture> upload(const Texture& texture,
                                            const UploadOptions& options = {},
                                            const StorageOptions& storage = {}) const;
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(const TextureDesc& desc) override;

    /// Takes ownership of a texture that the program created with this shape and all levels. It can
    /// then be bound, updated and read back like an uploaded one; texels and parameters stay
    /// unchanged. Fails with `ErrorKind::usage` if the name is not a texture or has another target or
    /// size; the caller then keeps it.
    [[nodiscard]] Result<GpuTexture> adopt(std::uint32_t name, const TextureShape& shape,
                                           const UploadOptions& options = {},
                                           const StorageOptions& storage = {}) const;

    /// Used by this library's own drawing.
    [[nodiscard]] const Functions& functions() const;
    /// The number of sampler objects in use.
    [[nodiscard]] std::size_t sampler_count() const;

 private:
    friend class GpuTexture;
    struct Parts;
    explicit Device(std::shared_ptr<const Parts> parts) : parts_(std::move(parts)) {}
    [[nodiscard]] GpuTexture unnamed(const TextureDesc& desc, UploadPlan plan) const;
    [[nodiscard]] Result<GpuTexture> create(const TextureDesc& desc, UploadPlan plan,
                                            LevelRange declared, bool immutable) const;

    std::shared_ptr<const Parts> parts_;
};

/// Which context to create. All members are optional.
struct HeadlessOptions {
    /// The version: 3.3 to 4.6, or 3.0 to 3.2 of OpenGL ES.
    int major = 4;
    int minor = 5;
    bool embedded = false;       ///< OpenGL ES of that version
    bool compatibility = false;  ///< the compatibility profile
    /// Sets the environment variable that makes Mesa's software rasteriser exact in level of detail
    /// and 8-bit filtering. It only works before the first context of the process.
    bool exact_filtering = true;
};

/// A context on EGL's surfaceless platform, current on the thread that created it.
class YL_API HeadlessContext {
 public:
    /// Fails with `ErrorKind::device` if there is no such platform or context.
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
