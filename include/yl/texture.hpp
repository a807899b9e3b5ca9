// A whole texture: levels, layers and faces in one block of memory, with what is known about it.
//
//     yl::Texture texture = yl::or_exit(yl::Texture::create(
//         {.format = yl::Format::rgba8_srgb, .width = 256, .height = 256, .levels = 9}));
//     texture.metadata.transfer = yl::Transfer::srgb;
//     yl::ImageView top = texture.image(0);   // level 0, to be filled
#pragma once

#include <limits>
#include <map>
#include <optional>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/image.hpp>
#include <yl/role.hpp>
#include <yl/sampler.hpp>

namespace yl {

/// Number of levels from this size down to 1 x 1 x 1, each side halved and rounded down.
[[nodiscard]] YL_API std::uint32_t full_level_count(std::uint32_t width, std::uint32_t height,
                                                    std::uint32_t depth = 1);

/// A side's length at a level; never less than 1.
[[nodiscard]] constexpr std::uint32_t level_side(std::uint32_t side, std::uint32_t level) {
    const std::uint32_t halved = level < 32 ? side >> level : 0;
    return halved > 0 ? halved : 1;
}

/// What a texture's memory is made of.
struct YL_API TextureShape {
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

    /// A level's sides in texels, from 1 on: each half of the level above, rounded down.
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

/// Consecutive mip levels.
struct LevelRange {
    static constexpr std::uint32_t all = std::numeric_limits<std::uint32_t>::max();

    std::uint32_t first = 0;
    std::uint32_t count = all;  ///< `all`: those that follow, to the last

    /// All levels of a texture.
    [[nodiscard]] static LevelRange of(const TextureShape& shape) { return {0, shape.levels}; }
    /// With `all` counted out: none where the texture has no level `first`.
    [[nodiscard]] constexpr LevelRange resolved(std::uint32_t levels) const {
        return count != all ? *this : LevelRange{first, first < levels ? levels - first : 0};
    }
    [[nodiscard]] constexpr std::uint32_t last() const {
        return count > all - first ? all : first + count - 1;
    }

    friend bool operator==(const LevelRange&, const LevelRange&) = default;
};

/// Nothing when the shape is sound and within `limits`; else the first thing wrong with it.
/// Fails with `ErrorKind::usage` or `limit`.
[[nodiscard]] YL_API Status check_shape(const TextureShape& shape, const Limits& limits = {});

/// Where row 0 lies: at the picture's top, or, when a caller asked for that, at its bottom.
enum class Origin : std::uint8_t { top, bottom };

/// What is known about a texture beside its pixels.
struct TextureMetadata {
    Transfer transfer = Transfer::linear;  ///< of colour; 16-bit formats may hold sRGB values too
    AlphaMode alpha = AlphaMode::straight;
    Origin origin = Origin::top;
    Swizzle swizzle = identity_swizzle;
    std::optional<Sampler> sampler = {};                 ///< the one that it was made for
    std::map<std::string, std::string> key_values = {};  ///< further keys and values of its file
};

/// A texture that owns its pixels; it can be moved, and copied by `clone` alone.
class YL_API Texture {
 public:
    Texture() = default;
    /// A texture that was moved from is empty.
    Texture(Texture&& other) noexcept;
    Texture& operator=(Texture&& other) noexcept;

    /// Memory for the shape, not set yet.
    /// Fails as `check_shape` does, and with `ErrorKind::memory`.
    [[nodiscard]] static Result<Texture> create(const TextureShape& shape,
                                                const Limits& limits = {});

    /// All zero or one, without a format, once the texture was moved from.
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

    /// What is known about the pixels; free to be changed.
    TextureMetadata metadata;

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
[[nodiscard]] YL_API TextureShape shape_without_top_levels(const TextureShape& shape,
                                                           std::uint32_t levels);
[[nodiscard]] YL_API Result<Texture> without_top_levels(const Texture& texture,
                                                        std::uint32_t levels);

/// The texture with row 0 of every image at the top or at the bottom: the same, or with its rows in
/// opposite order. Fails with `ErrorKind::unsupported` where blocks would have to be turned.
[[nodiscard]] YL_API Result<Texture> with_origin(const Texture& texture, Origin origin);

}  // namespace yl
