// Pictures made into textures, sound ones and such as have a known defect.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <utility>
#include <vector>
#include <yl/yl.hpp>

namespace survey {

using namespace yl;

/// A texture that has been spoilt, and how it is looked at.
struct Spoilt {
    Texture texture;
    LintOptions options = {};
    /// What it is compared with, or the normals of its surface.
    std::shared_ptr<const Texture> beside = {};
};

/// A defect, and what finds it.
struct Kind {
    const char* code;
    const char* how;
    /// Nothing of a picture that cannot be spoilt so, or in which nobody would see it.
    std::optional<Spoilt> (*spoil)(const Picture& picture);
};

/// Of flat textures, and of cubes and sets of maps.
[[nodiscard]] std::span<const Kind> defects();
[[nodiscard]] std::span<const Kind> defects_of_sets();

/// In 8 bits; nothing of light.
[[nodiscard]] std::optional<Picture> as_rgba(const Picture& picture);
[[nodiscard]] std::optional<Texture> chain_of(const Picture& picture, Role role = Role::color);
[[nodiscard]] std::optional<Texture> one_level(const Picture& picture, Format format);
/// How much the texels vary, in codes: what is nearly flat cannot be spoilt.
[[nodiscard]] double contrast(const Picture& picture);
/// Normals of the picture's brightness taken as heights.
[[nodiscard]] std::optional<Picture> normals_of(const Picture& picture, float strength = 1);
/// A cube of the picture and its mirror image around the horizon.
[[nodiscard]] std::optional<Texture> sky_of(const Picture& picture);

/// Normals beside their colours, and matte light beside its sky.
[[nodiscard]] std::vector<std::pair<Texture, Texture>> sound_pairs(const Picture& picture);

inline std::uint8_t code(std::byte byte) {
    return std::to_integer<std::uint8_t>(byte);
}

}  // namespace survey
