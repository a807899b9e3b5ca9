// How a texture is read: filters, wraps, border, level range, anisotropy.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <yl/result.hpp>

namespace yl {

enum class Filter : std::uint8_t { nearest, linear };

/// How the minifying filter chooses among mip levels.
enum class MipFilter : std::uint8_t {
    none,     ///< the base level always
    nearest,  ///< the one nearest level
    linear,   ///< a blend of two levels
};

enum class Wrap : std::uint8_t {
    repeat,
    mirror,  ///< repeat, every other time mirrored
    clamp_to_edge,
    clamp_to_border,
    mirror_once,  ///< mirrored about 0, then clamped to the edge
};

enum class Compare : std::uint8_t {
    off,  ///< the values themselves
    never,
    less,
    equal,
    less_or_equal,
    greater,
    not_equal,
    greater_or_equal,
    always,
};

/// The defaults suit a tiling colour texture with a mip chain.
struct Sampler {
    Filter mag = Filter::linear;
    Filter min = Filter::linear;
    MipFilter mip = MipFilter::linear;
    std::array<Wrap, 3> wrap = {Wrap::repeat, Wrap::repeat, Wrap::repeat};  ///< u, v, w
    std::array<float, 4> border = {0, 0, 0, 0};                             ///< RGBA, linear
    float max_anisotropy = 1;                                               ///< 1 .. 16; 1 is none
    float min_level = 0;  ///< level of detail, clamped to this range
    float max_level = 1000;
    float level_bias = 0;
    Compare compare = Compare::off;

    friend bool operator==(const Sampler&, const Sampler&) = default;
};

/// Reads the text form: "mag=linear min=linear mip=linear wrap=repeat,clamp-to-edge
/// border=0,0,0,1 aniso=8 lod=0..4 bias=0 compare=less", each part optional, separated by spaces.
/// One wrap counts for all axes; two leave w as v. What is left out stays as in `otherwise`. Fails
/// with `ErrorKind::usage`, naming the part.
[[nodiscard]] Result<Sampler> parse_sampler(std::string_view text,
                                            const Sampler& otherwise = Sampler());

/// The text form; parts that have their default value are left out, except the three filters.
[[nodiscard]] std::string sampler_text(const Sampler& sampler);

[[nodiscard]] std::string_view name(Wrap wrap);
[[nodiscard]] std::string_view name(Filter filter);
[[nodiscard]] std::string_view name(MipFilter filter);

}  // namespace yl
