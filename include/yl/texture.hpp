// A whole texture: levels, layers and faces in one block of memory, with what is known about it.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>
#include <yl/image.hpp>
#include <yl/role.hpp>
#include <yl/sampler.hpp>
#include <yl/swizzle.hpp>

namespace yl {

/// Number of levels from this size down to 1 x 1 x 1, each side halved and rounded down.
[[nodiscard]] std::uint32_t full_level_count(std::uint32_t width, std::uint32_t height,
                                             std::uint32_t depth = 1);

/// A side's length at a level; never less than 1.
[[nodiscard]] constexpr std::uint32_t level_side(std::uint32_t side, std::uint32_t level) {
    const std::uint32_t halved = level < 32 ? side >> level : 0;
    return halved > 0 ? halved : 1;
}

/// What a texture's memory is made of.
struct TextureShape {
    Format format = Format::undefined;
    std::uint32_t width = 1;  ///< texels, at level 0
    std::uint32_t height = 1;
    std::uint32_t depth = 1;  ///< more than 1 for 3D textures only
    std::uint32_t levels = 1;
    std::uint32_t layers = 1;
    std::uint32_t faces = 1;  ///< 6 for cubes: +X, -X, +Y, -Y, +Z, -Z
    bool is_array = false;    ///< an array of one layer differs from no array
    bool is_1d = false;       ///< a line, whose height of 1 is no side
    bool is_3d = false;       ///< a volume although its depth is 1; deeper ones are volumes anyway

    [[nodiscard]] std::uint32_t width_at(std::uint32_t level) const {
        return level_side(width, level);
    }
    [[nodiscard]] std::uint32_t height_at(std::uint32_t level) const {
        return level_side(height, level);
    }
    [[nodiscard]] std::uint32_t depth_at(std::uint32_t level) const {
        return level_side(depth, level);
    }

    /// 1, 2 or 3 sides.
    [[nodiscard]] std::uint32_t dimensions() const {
        return is_1d ? 1 : (is_3d || depth > 1 ? 3 : 2);
    }

    /// Bytes of one row of texels or blocks, of one surface (layer, face or slice), and of a whole
    /// level with all of them. Rows are tightly packed.
    [[nodiscard]] std::uint64_t row_bytes(std::uint32_t level) const;
    [[nodiscard]] std::uint64_t surface_bytes(std::uint32_t level) const;
    [[nodiscard]] std::uint64_t level_bytes(std::uint32_t level) const;
    [[nodiscard]] std::uint64_t total_bytes() const;

    friend bool operator==(const TextureShape&, const TextureShape&) = default;
};

/// Nothing when the shape is sound and within `limits`; else the first thing wrong with it.
[[nodiscard]] Status check_shape(const TextureShape& shape, const ReadLimits& limits = {});

/// Where row 0 lies: at the picture's top, or, when a caller asked for that, at its bottom.
enum class Origin : std::uint8_t { top, bottom };

/// What is known about a texture beside its pixels.
struct TextureTraits {
    Transfer transfer = Transfer::linear;  ///< of colour; 16-bit formats may hold sRGB values too
    AlphaMode alpha = AlphaMode::straight;
    Origin origin = Origin::top;
    Swizzle swizzle = identity_swizzle;
    std::optional<Sampler> sampler = {};            ///< the one that it was made for
    std::map<std::string, std::string> notes = {};  ///< further keys and values of its file
};

class Texture {
 public:
    Texture() = default;
    /// A texture that was moved from is empty.
    Texture(Texture&& other) noexcept;
    Texture& operator=(Texture&& other) noexcept;

    /// Memory for the shape, not set yet.
    [[nodiscard]] static Result<Texture> create(const TextureShape& shape,
                                                const ReadLimits& limits = {});

    [[nodiscard]] const TextureShape& shape() const { return shape_; }

    /// A copy of all of it. Fails with `ErrorKind::memory`.
    [[nodiscard]] Result<Texture> clone() const;

    /// Whether there are no texels: of a texture not made yet, or moved from.
    [[nodiscard]] bool is_empty() const { return pixels_.size() == 0; }

    /// One surface; of a 3D texture, its first slice. Valid as long as the texture is, and not of a
    /// temporary. Empty where the texture has no such surface, which every function that takes a
    /// view refuses with `ErrorKind::usage`.
    [[nodiscard]] ImageView image(std::uint32_t level, std::uint32_t layer = 0,
                                  std::uint32_t face = 0) &;
    [[nodiscard]] ConstImageView image(std::uint32_t level, std::uint32_t layer = 0,
                                       std::uint32_t face = 0) const&;
    ConstImageView image(std::uint32_t level, std::uint32_t layer = 0,
                         std::uint32_t face = 0) const&& = delete;

    /// A level's bytes: layer by layer, in each face by face, slice by slice, row by row. Empty
    /// where there is no such level.
    [[nodiscard]] std::span<std::byte> level(std::uint32_t level) &;
    [[nodiscard]] std::span<const std::byte> level(std::uint32_t level) const&;
    std::span<const std::byte> level(std::uint32_t level) const&& = delete;

    TextureTraits traits;

 private:
    /// Nothing where there is no such surface.
    [[nodiscard]] std::optional<std::size_t> surface_offset(std::uint32_t level,
                                                            std::uint32_t layer,
                                                            std::uint32_t face) const;

    TextureShape shape_ = {};
    std::vector<std::size_t> level_offsets_ = {};
    Buffer pixels_;
};

/// A texture without its first levels, of which one remains at least.
[[nodiscard]] TextureShape shape_without_top_levels(const TextureShape& shape,
                                                    std::uint32_t levels);
[[nodiscard]] Result<Texture> without_top_levels(const Texture& texture, std::uint32_t levels);

/// The texture with row 0 of every image at the top or at the bottom: the same, or with its rows in
/// opposite order. Fails with `ErrorKind::unsupported` where blocks would have to be turned.
[[nodiscard]] Result<Texture> with_origin(const Texture& texture, Origin origin);

}  // namespace yl
