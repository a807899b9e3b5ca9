// A texture as the checks see it: what it is for, and its texels as numbers.
#pragma once

#include <array>
#include <vector>

#include <yl/lint.hpp>
#include <yl/measure.hpp>

namespace yl::lint_checks {

/// One surface as stored numbers in RGBA, through the swizzle, row by row. sRGB is not decoded.
struct Plane {
    std::uint32_t width = 0, height = 0;
    std::vector<float> rgba = {};

    [[nodiscard]] const float* at(std::uint32_t x, std::uint32_t y) const {
        return &rgba[(std::size_t{y} * width + x) * 4];
    }
    [[nodiscard]] std::size_t texels() const { return std::size_t{width} * height; }
};

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
    std::uint32_t bits_in_use = 8, bits = 8;  ///< of a channel, where that can be told
    ChannelUse channels = {};                 ///< of the first level
    ContentMeasure content = {};
    SeamMeasure seams = {};
    std::vector<Chain> chains = {};

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

/// Of cubes: order, joints and single bright texels. Fails where blocks cannot be decoded.
[[nodiscard]] Status check_cube(const Texture& texture, Found& found);

/// Rows from `begin` up to `end`, evenly spread: all of them where they are no more than `most`.
[[nodiscard]] std::vector<std::uint32_t> spread_rows(std::uint32_t begin, std::uint32_t end,
                                                     std::uint32_t most = 192);

/// The level above, with each texel the mean of those that it covers: 2 x 2, or 3 along odd sides.
[[nodiscard]] Plane halved(const Plane& above, std::uint32_t width, std::uint32_t height);

/// "1 level", "3 levels".
[[nodiscard]] std::string counted(std::size_t count, std::string_view noun);

}  // namespace yl::lint_checks
