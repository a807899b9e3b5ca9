// A whole texture: levels, layers and faces in one block of memory, with its metadata.
//
//     yl::Texture texture = yl::or_exit(yl::Texture::create(
//         {.format = yl::Format::rgba8_srgb, .width = 256, .height = 256, .levels = 9}));
//     texture.metadata.transfer = yl::Transfer::srgb;
//     yl::ImageView top = texture.image(0);   // level 0, to be filled
#pragma once

#include <limits>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/image.hpp>
#include <yl/role.hpp>
#include <yl/sampler.hpp>

namespace yl {

/// The number of levels of a full mip chain, down to 1 x 1 x 1.
[[nodiscard]] YL_API std::uint32_t full_level_count(std::uint32_t width, std::uint32_t height,
                                                    std::uint32_t depth = 1);

/// The length of a side at a level; at least 1.
[[nodiscard]] constexpr std::uint32_t level_side(std::uint32_t side, std::uint32_t level) {
    const std::uint32_t halved = level < 32 ? side >> level : 0;
    return halved > 0 ? halved : 1;
}

/// The size, format and number of surfaces of a texture.
struct YL_API TextureShape {
    Format format = Format::undefined;
    std::uint32_t width = 1;  ///< texels, at level 0
    std::uint32_t height = 1;
    std::uint32_t depth = 1;  ///< more than 1 for 3D textures only
    std::uint32_t levels = 1;
    std::uint32_t layers = 1;
    std::uint32_t faces = 1;  ///< 6 for cubes: +X, -X, +Y, -Y, +Z, -Z
    bool is_array = false;    ///< an array of one layer differs from no array
    bool is_1d = false;       ///< a 1D texture, whose height of 1 does not count as a side
    bool is_3d = false;       ///< a 3D texture of depth 1; deeper ones are 3D anyway

    /// The sides of a level in texels: half of those of the level above, rounded down, at least 1.
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

/// True if both are equal in width, height, depth, layers and faces; formats and levels may differ.
[[nodiscard]] YL_API bool have_equal_sizes(const TextureShape& a, const TextureShape& b);

/// Consecutive mip levels.
struct LevelRange {
    static constexpr std::uint32_t all = std::numeric_limits<std::uint32_t>::max();

    std::uint32_t first = 0;
    std::uint32_t count = all;  ///< `all`: every level from `first` on

    /// All levels of a texture.
    [[nodiscard]] static LevelRange of(const TextureShape& shape) { return {0, shape.levels}; }
    /// The same range with `all` replaced by a number; 0 if there is no level `first`.
    [[nodiscard]] constexpr LevelRange resolved(std::uint32_t levels) const {
        return count != all ? *this : LevelRange{first, first < levels ? levels - first : 0};
    }
    [[nodiscard]] constexpr std::uint32_t last() const {
        return count > all - first ? all : first + count - 1;
    }

    friend bool operator==(const LevelRange&, const LevelRange&) = default;
};

/// Checks a shape. Fails with `ErrorKind::usage` for the first thing that is wrong with it, or with
/// `limit` beyond `limits`.
[[nodiscard]] YL_API Status check_shape(const TextureShape& shape, const Limits& limits = {});

/// Whether row 0 is the top row or, if a caller asked for it, the bottom row.
enum class Origin : std::uint8_t { top, bottom };

/// What is known about a texture besides its pixels.
struct TextureMetadata {
    Transfer transfer = Transfer::linear;  ///< of colour; 16-bit formats may hold sRGB values too
    AlphaMode alpha = AlphaMode::straight;
    Origin origin = Origin::top;
    Swizzle swizzle = identity_swizzle;
    std::optional<Sampler> sampler = {};                 ///< the sampler it was made for
    std::map<std::string, std::string> key_values = {};  ///< other key/value pairs of its file
};

/// A texture that owns its pixels. Movable; copied only by `clone`.
class YL_API Texture {
 public:
    Texture() = default;
    /// The moved-from texture is empty.
    Texture(Texture&& other) noexcept;
    Texture& operator=(Texture&& other) noexcept;

    /// Allocates uninitialised memory for the shape.
    /// Fails as `check_shape` does, and with `ErrorKind::memory`.
    [[nodiscard]] static Result<Texture> create(const TextureShape& shape,
                                                const Limits& limits = {});

    /// After the texture was moved from: no format, and sides of 1.
    [[nodiscard]] const TextureShape& shape() const { return shape_; }

    /// A deep copy. Fails with `ErrorKind::memory`.
    [[nodiscard]] Result<Texture> clone() const;

    /// True for a default-constructed or moved-from texture.
    [[nodiscard]] bool is_empty() const { return pixels_.size() == 0; }

    /// One surface; the first slice of a 3D texture. Valid as long as the texture; deleted for
    /// temporaries. Empty if there is no such surface; every function that takes a view refuses an
    /// empty one with `ErrorKind::usage`.
    [[nodiscard]] ImageView image(std::uint32_t level, std::uint32_t layer = 0,
                                  std::uint32_t face = 0) &;
    [[nodiscard]] ConstImageView image(std::uint32_t level, std::uint32_t layer = 0,
                                       std::uint32_t face = 0) const&;
    ConstImageView image(std::uint32_t level, std::uint32_t layer = 0,
                         std::uint32_t face = 0) const&& = delete;

    /// The bytes of a level, ordered by layer, face, slice and row. Empty if there is no such
    /// level.
    [[nodiscard]] std::span<std::byte> level(std::uint32_t level) &;
    [[nodiscard]] std::span<const std::byte> level(std::uint32_t level) const&;
    std::span<const std::byte> level(std::uint32_t level) const&& = delete;

    /// May be changed freely.
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

/// The texture without its first levels; at least one level remains.
[[nodiscard]] YL_API TextureShape shape_without_top_levels(const TextureShape& shape,
                                                           std::uint32_t levels);
[[nodiscard]] YL_API Result<Texture> without_top_levels(const Texture& texture,
                                                        std::uint32_t levels);

/// One layer of an array, with all its levels and faces, as a texture that is not an array; or what lies
/// at the depth of one slice of a 3D texture's level 0, as a 2D texture. Fail with
/// `ErrorKind::usage` if there is no such layer or slice.
[[nodiscard]] YL_API Result<Texture> single_layer(const Texture& texture, std::uint32_t layer);
[[nodiscard]] YL_API Result<Texture> single_slice(const Texture& texture, std::uint32_t slice);

/// The layers of all textures one after the other, as one array: of 2D textures, or of cubes. They
/// need one shape (but for the number of layers) and one meaning: transfer function, alpha, origin
/// and swizzle. The first one's sampler and key-value pairs are kept. Fails with
/// `ErrorKind::usage`, naming the texture by its number from 0, if they differ or are 3D.
[[nodiscard]] YL_API Result<Texture> array_of(std::span<const Texture* const> textures);

/// The texture with row 0 at the top or at the bottom; rows are flipped if necessary. Fails with
/// `ErrorKind::unsupported` if the rows of a block format would have to be flipped.
[[nodiscard]] YL_API Result<Texture> with_origin(const Texture& texture, Origin origin);

}  // namespace yl
