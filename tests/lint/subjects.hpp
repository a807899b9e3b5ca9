// Textures made to have a finding, or none.
#pragma once

#include <cmath>
#include <functional>
#include <set>
#include <yl/yl.hpp>

#include "support/check.hpp"

namespace lint_subjects {

using namespace yl;
using support::must;

using Color = std::array<double, 4>;
using Paint = std::function<Color(double u, double v)>;

/// Codes of a function over the unit square.
inline Image painted(std::uint32_t width, std::uint32_t height, const Paint& paint,
                     Format format = Format::rgba8_srgb) {
    Image image = must(Image::create(format, width, height));
    const std::size_t channels = info(format).channel_count;
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            const Color color = paint((x + 0.5) / width, (y + 0.5) / height);
            for (std::size_t c = 0; c < channels; ++c)
                image.view().row(y)[channels * x + c] =
                    static_cast<std::byte>(std::lround(255 * std::clamp(color[c], 0.0, 1.0)));
        }
    return image;
}

/// Noise that is the same on every machine, from 0 to 1.
inline double noise(double u, double v, std::uint32_t salt = 0) {
    auto bits = static_cast<std::uint32_t>(u * 4096) * 0x9E3779B1U ^
                static_cast<std::uint32_t>(v * 4096) * 0x85EBCA77U ^ salt * 0xC2B2AE3DU;
    bits = (bits ^ (bits >> 15)) * 0x2C1B3C6DU;
    bits = (bits ^ (bits >> 12)) * 0x297A2D39U;
    return static_cast<double>((bits ^ (bits >> 15)) >> 8) / (1 << 24);
}

inline Color stone(double u, double v) {
    const double grain = 0.25 * noise(u, v) + 0.2 * std::sin(40 * u) * std::cos(31 * v);
    return {0.45 + grain, 0.4 + 0.8 * grain, 0.35 + 0.6 * grain, 1};
}

/// The slopes of hills; `green` is -1 for maps whose green points down.
inline Color hills(double u, double v, double green = 1, double length = 1) {
    const double across = 0.6 * std::cos(25 * u) * std::cos(19 * v),
                 down = -0.6 * 19.0 / 25 * std::sin(25 * u) * std::sin(19 * v);
    const double size = std::sqrt(across * across + down * down + 1) / length;
    return {0.5 - 0.5 * across / size, 0.5 + 0.5 * green * down / size, 0.5 + 0.5 / size, 1};
}

inline void copy_rows(const Image& from, std::span<std::byte> to) {
    for (std::uint32_t y = 0; y < from.height(); ++y) {
        std::ranges::copy(from.view().row(y), to.begin());
        to = to.subspan(from.view().row(y).size());
    }
}

inline Texture of_one_level(const Image& image) {
    Texture texture = must(Texture::create(
        {.format = image.format(), .width = image.width(), .height = image.height()}));
    copy_rows(image, texture.level(0));
    texture.metadata.transfer = info(image.format()).transfer;
    return texture;
}

inline Texture with_levels(const Image& image, Role role = Role::color) {
    Picture picture;
    picture.image = must(Image::create(image.format(), image.width(), image.height()));
    for (std::uint32_t y = 0; y < image.height(); ++y)
        std::ranges::copy(image.view().row(y), picture.image.view().row(y).begin());
    picture.transfer = info(role).transfer;
    BakeOptions options;
    options.role = role;
    return must(bake(picture, options)).texture;
}

inline std::set<std::string> codes_of(const LintReport& report, bool with_hints = true) {
    std::set<std::string> codes;
    for (const Evidence& one : report.found)
        if (with_hints || one.finding.level != FindingLevel::hint)
            codes.emplace(std::string_view(one.finding.code));
    return codes;
}

inline const Evidence* find(const LintReport& report, std::string_view code) {
    const auto found = std::ranges::find_if(
        report.found, [&](const Evidence& one) { return one.finding.code == code; });
    return found != report.found.end() ? &*found : nullptr;
}

/// The finding is there, with a number beyond its limit and an entry in the table.
inline Evidence expect(const LintReport& report, std::string_view code) {
    const Evidence* found = find(report, code);
    REQUIRE_MESSAGE(found != nullptr, code);
    CHECK(find_finding(code) != nullptr);
    CHECK_FALSE(found->finding.problem.empty());
    CHECK_FALSE(found->finding.remedy.empty());
    return *found;
}

}  // namespace lint_subjects
