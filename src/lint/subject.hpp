// A texture as the checks see it: what it is for, and its texels as numbers.
#pragma once

#include <array>
#include <functional>
#include <memory>
#include <vector>

#include <yl/lint.hpp>
#include <yl/measure.hpp>

namespace yl::lint_checks {

/// One surface as stored numbers in RGBA, through the swizzle. sRGB is not decoded. Of high surfaces
/// strips of rows alone, so that these take no longer to measure than others.
struct Plane {
    std::uint32_t width = 0, height = 0;
    std::vector<float> rgba = {};               ///< of the rows that are there, one after the other
    std::vector<std::uint32_t> rows = {};       ///< these, in their order
    std::vector<std::uint32_t> row_place = {};  ///< of each row among these, or `no_row`

    static constexpr std::uint32_t no_row = 0xFFFFFFFF;

    [[nodiscard]] bool has(std::uint32_t y) const { return row_place[y] != no_row; }
    [[nodiscard]] bool has(std::uint32_t begin, std::uint32_t end) const {
        while (begin < end && has(begin))
            ++begin;
        return begin >= end;
    }
    /// Of a row that is there.
    [[nodiscard]] const float* at(std::uint32_t x, std::uint32_t y) const {
        return &rgba[(std::size_t{row_place[y]} * width + x) * 4];
    }
    [[nodiscard]] std::size_t texels() const { return std::size_t{width} * height; }
    [[nodiscard]] std::size_t texels_there() const { return rgba.size() / 4; }
    /// Rows that are there as are so many before and after them, evenly spread: at most `most`.
    [[nodiscard]] std::vector<std::uint32_t> rows_with(std::uint32_t before, std::uint32_t after,
                                                       std::size_t most) const;
};

/// A surface without rows, of which those of strips will be there; or all, where they are few or
/// `is_whole`. Strips of a smaller level lie where those of the larger ones do.
[[nodiscard]] Plane plane_for(std::uint32_t width, std::uint32_t height, bool is_whole);

/// The chain of one layer and face.
struct Chain {
    std::string place = {};  ///< "face +X"; empty if there is only one
    std::vector<Plane> levels = {};
};

struct Subject {
    TextureShape shape = {};
    Transfer transfer = Transfer::linear;  ///< of its colours
    AlphaMode alpha = AlphaMode::straight;
    Role role = Role::color;
    bool role_is_given = false;
    bool is_picture = false;  ///< which has no format of the GPU's yet
    std::optional<Sampler> sampler = {};
    PackedChannels packed = {};
    std::optional<AlphaUse> alpha_use = {};
    std::vector<float> roughness = {};        ///< of each level, of prefiltered cubes
    std::uint32_t bits_in_use = 8, bits = 8;  ///< of a channel, where that can be told
    ChannelUse channels = {};                 ///< of the first level
    ContentMeasure content = {};
    SeamMeasure seams = {};
    std::vector<Chain> chains = {};
    std::shared_ptr<const Texture> decoded = {};  ///< of block formats
    /// The first surface with all of its rows, loaded anew. Valid as long as what is measured.
    std::function<Plane()> whole_top = {};

    [[nodiscard]] const Plane& top() const { return chains.front().levels.front(); }
    [[nodiscard]] bool is_float() const { return info(shape.format).is_float(); }
};

/// Measures the texture's first level and loads its texels. Blocks are decoded.
[[nodiscard]] Result<Subject> subject_of(const Texture& texture, const LintOptions& options);
[[nodiscard]] Result<Subject> subject_of(const Picture& picture, const LintOptions& options);

/// A check adds what it finds.
using Found = std::vector<Evidence>;
using Check = void (*)(const Subject& subject, Found& found);

void check_levels(const Subject& subject, Found& found);
void check_coverage(const Subject& subject, Found& found);
void check_directions(const Subject& subject, Found& found);
void check_alpha(const Subject& subject, Found& found);
void check_storage(const Subject& subject, Found& found);
void check_detail(const Subject& subject, Found& found);
void check_sampling(const Subject& subject, Found& found);
void check_packed(const Subject& subject, Found& found);
void check_grain(const Subject& subject, Found& found);
void check_blur(const Subject& subject, Found& found);
void check_cutout(const Subject& subject, Found& found);

/// Whether the levels of roughness make up for the grain of its normals. Fails where blocks cannot be
/// decoded.
[[nodiscard]] Status check_widening(const Subject& subject, const Texture& normals, Found& found);

/// Whether the format is enough for it. Fails where the sample cannot be encoded.
[[nodiscard]] Status check_encoding(const Subject& subject, Format format, Found& found);

/// Of cubes: order, joints and single bright texels. Fails where blocks cannot be decoded.
[[nodiscard]] Status check_cube(const Texture& texture, Found& found);

/// Whether red and green could be x and y of normals: within the unit circle, level on the whole, and
/// the slopes of a surface whichever way green points.
[[nodiscard]] bool looks_like_slopes(const Plane& plane);

/// Whether blue is anything but one value; what two channels store has its z rebuilt.
[[nodiscard]] bool stores_z(const Plane& plane);

/// The level above, which is whole, with each texel the mean of those that it covers: 2 x 2, or 3
/// along odd sides.
[[nodiscard]] Plane halved(const Plane& above, std::uint32_t width, std::uint32_t height);

/// "1 level", "3 levels".
[[nodiscard]] std::string counted(std::size_t count, std::string_view noun);

}  // namespace yl::lint_checks
