// Textures of Direct3D 11 and Metal without a device: they take copies as the API's calls do, and
// check its rules. For tests of programs that carry a plan out themselves.
//
//     yl::MetalStandIn stand_in = yl::or_exit(yl::MetalStandIn::create(plan.shape, yl::MetalStorage::shared));
//     yl::or_exit(stand_in.replace_region({.width = 8, .height = 8}, 0, 0, bytes, 32, 0));
//     const yl::Texture& arrived = stand_in.contents();
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <span>
#include <vector>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/texture.hpp>

namespace yl {

struct StandInMemory;  // src/upload/stand_in_memory.hpp

/// D3D11_USAGE.
enum class Direct3d11Usage : std::uint8_t { standard, immutable, dynamic, staging };

/// D3D11_SUBRESOURCE_DATA, with the length of the memory.
struct Direct3d11Data {
    std::span<const std::byte> memory = {};
    std::uint32_t row_pitch = 0, depth_pitch = 0;  ///< bytes
};

/// D3D11_BOX: texels, ends excluded.
struct Direct3d11Box {
    std::uint32_t left = 0, top = 0, front = 0;
    std::uint32_t right = 0, bottom = 0, back = 0;
};

/// D3D11_MAPPED_SUBRESOURCE, with the length of the memory.
struct Direct3d11Mapped {
    std::span<std::byte> memory = {};
    std::uint32_t row_pitch = 0, depth_pitch = 0;  ///< bytes
};

/// A texture of a device of feature level 11.0. Calls that break a rule change nothing and fail with
/// `ErrorKind::usage`, naming it.
class YL_API Direct3d11StandIn {
 public:
    /// `initial` has data for each subresource (`direct3d_subresource`), or for none. A shape has to
    /// come from a plan for `d3d11`; immutable textures need data, dynamic ones have one
    /// subresource.
    [[nodiscard]] static Result<Direct3d11StandIn> create(
        const TextureShape& shape, Direct3d11Usage usage = Direct3d11Usage::standard,
        std::span<const Direct3d11Data> initial = {});
    Direct3d11StandIn(Direct3d11StandIn&&) noexcept;
    Direct3d11StandIn& operator=(Direct3d11StandIn&&) noexcept;
    ~Direct3d11StandIn();

    /// UpdateSubresource; without a box, all of the subresource.
    [[nodiscard]] Status update_subresource(std::uint32_t subresource,
                                            const std::optional<Direct3d11Box>& box,
                                            const Direct3d11Data& data);
    /// Map, for writing: rows lie at pitches that differ from the subresource's own, as those of
    /// drivers do. The memory is valid until `unmap`.
    [[nodiscard]] Result<Direct3d11Mapped> map(std::uint32_t subresource);
    [[nodiscard]] Status unmap(std::uint32_t subresource);

    /// What has arrived; zeros where nothing has.
    [[nodiscard]] const Texture& contents() const;
    /// Whether every texel of every subresource has been written.
    [[nodiscard]] bool is_complete() const;

 private:
    explicit Direct3d11StandIn(std::unique_ptr<StandInMemory> memory, Direct3d11Usage usage);

    std::unique_ptr<StandInMemory> memory_;
    Direct3d11Usage usage_ = Direct3d11Usage::standard;
    std::optional<std::uint32_t> mapped_ = {};
    std::vector<std::byte> mapping_ = {};
};

/// MTLStorageMode.
enum class MetalStorage : std::uint8_t { shared, managed, device_private };

/// MTLRegion: origin and size, in texels.
struct MetalRegion {
    std::uint32_t x = 0, y = 0, z = 0;
    std::uint32_t width = 1, height = 1, depth = 1;
};

/// A texture of a Mac. Calls that break a rule change nothing and fail with `ErrorKind::usage`,
/// naming it.
class YL_API MetalStandIn {
 public:
    /// A shape has to come from a plan for `metal`.
    [[nodiscard]] static Result<MetalStandIn> create(const TextureShape& shape,
                                                     MetalStorage storage);
    MetalStandIn(MetalStandIn&&) noexcept;
    MetalStandIn& operator=(MetalStandIn&&) noexcept;
    ~MetalStandIn();

    /// replaceRegion:mipmapLevel:slice:withBytes:bytesPerRow:bytesPerImage:. A slice is
    /// layer * faces + face.
    [[nodiscard]] Status replace_region(const MetalRegion& region, std::uint32_t level,
                                        std::uint32_t slice, std::span<const std::byte> bytes,
                                        std::uint64_t bytes_per_row, std::uint64_t bytes_per_image);
    /// copyFromBuffer: of a blit encoder, to `region` of a level and slice.
    [[nodiscard]] Status copy_from_buffer(std::span<const std::byte> buffer, std::uint64_t offset,
                                          std::uint64_t bytes_per_row,
                                          std::uint64_t bytes_per_image, const MetalRegion& region,
                                          std::uint32_t slice, std::uint32_t level);

    /// What has arrived; zeros where nothing has.
    [[nodiscard]] const Texture& contents() const;
    /// Whether every texel of every level and slice has been written.
    [[nodiscard]] bool is_complete() const;

 private:
    explicit MetalStandIn(std::unique_ptr<StandInMemory> memory, MetalStorage storage);
    [[nodiscard]] Status write(const MetalRegion& region, std::uint32_t level, std::uint32_t slice,
                               std::span<const std::byte> bytes, std::uint64_t bytes_per_row,
                               std::uint64_t bytes_per_image);

    std::unique_ptr<StandInMemory> memory_;
    MetalStorage storage_ = MetalStorage::shared;
};

/// MTLTextureType: the number for a shape.
[[nodiscard]] YL_API std::uint32_t metal_texture_type(const TextureShape& shape);
/// MTLTextureSwizzle: the numbers for MTLTextureSwizzleChannels.
[[nodiscard]] YL_API std::array<std::uint32_t, 4> metal_swizzle(const Swizzle& swizzle);

}  // namespace yl
