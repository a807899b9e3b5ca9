// Flat textures with a defect each.
#include "lint_defects.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace survey {
namespace {

using Bytes = std::span<std::byte>;

std::optional<Spoilt> gamma_levels(const Picture& picture) {
    auto codes = chain_of(picture), numbers = chain_of(picture, Role::data);
    if (!codes || !numbers || contrast(picture) < 25)
        return std::nullopt;
    double shift = 0;
    for (std::uint32_t level = 1; level < std::min(codes->shape().levels, 4U); ++level)
        for (std::size_t i = 0; i < codes->level(level).size(); ++i)
            shift += std::abs(code(codes->level(level)[i]) - code(numbers->level(level)[i]));
    // Where no texel differs by a code on average, nobody sees it either.
    if (shift < static_cast<double>(codes->level(1).size()))
        return std::nullopt;
    for (std::uint32_t level = 1; level < codes->shape().levels; ++level)
        std::ranges::copy(numbers->level(level), codes->level(level).begin());
    return Spoilt{std::move(*codes)};
}

std::optional<Spoilt> black_level(const Picture& picture) {
    auto texture = chain_of(picture);
    if (!texture || texture->shape().levels < 4 || contrast(picture) < 15)
        return std::nullopt;
    for (std::byte& byte : texture->level(2))
        byte = std::byte{0};
    return Spoilt{std::move(*texture)};
}

std::optional<Spoilt> flipped_level(const Picture& picture) {
    auto texture = chain_of(picture);
    if (!texture || texture->shape().levels < 4 || contrast(picture) < 25)
        return std::nullopt;
    const Bytes level = texture->level(1);
    std::ranges::reverse(level);
    for (std::size_t i = 0; i + 3 < level.size(); i += 4)
        std::reverse(level.begin() + static_cast<std::ptrdiff_t>(i),
                     level.begin() + static_cast<std::ptrdiff_t>(i + 4));
    return Spoilt{std::move(*texture)};
}

std::optional<Texture> normals_texture(const Picture& picture) {
    const auto normals = normals_of(picture);
    return normals ? one_level(*normals, Format::rgba8_unorm) : std::nullopt;
}

std::optional<Spoilt> green_down(const Picture& picture) {
    auto texture = normals_texture(picture);
    if (!texture)
        return std::nullopt;
    for (std::size_t i = 1; i < texture->level(0).size(); i += 4)
        texture->level(0)[i] = static_cast<std::byte>(255 - code(texture->level(0)[i]));
    return Spoilt{std::move(*texture), {.role = Role::normal}};
}

std::optional<Spoilt> normals_as_color(const Picture& picture) {
    auto texture = normals_texture(picture);
    if (!texture)
        return std::nullopt;
    TextureShape shape = texture->shape();
    shape.format = Format::rgba8_srgb;
    auto other = Texture::create(shape);
    if (!other)
        return std::nullopt;
    std::ranges::copy(texture->level(0), other->level(0).begin());
    return Spoilt{std::move(*other)};
}

std::optional<Spoilt> shortened(const Picture& picture) {
    auto texture = normals_texture(picture);
    if (!texture)
        return std::nullopt;
    for (std::size_t i = 0; i < texture->level(0).size(); ++i)
        if (i % 4 != 3)
            texture->level(0)[i] = static_cast<std::byte>(
                std::lround(127.5 + 0.9 * (code(texture->level(0)[i]) - 127.5)));
    return Spoilt{std::move(*texture), {.role = Role::normal}};
}

std::optional<Spoilt> color_as_normals(const Picture& picture) {
    auto texture = one_level(picture, Format::rgba8_unorm);
    if (!texture || contrast(picture) < 10)
        return std::nullopt;
    return Spoilt{std::move(*texture), {.role = Role::normal}};
}

/// A soft round hole in the middle, as alpha.
std::optional<Spoilt> with_alpha(const Picture& picture, bool multiplied, AlphaMode marked) {
    auto texture = one_level(picture, Format::rgba8_srgb);
    const std::uint32_t width = picture.image.width(), height = picture.image.height();
    if (!texture || contrast(picture) < 10 || std::min(width, height) < 32)
        return std::nullopt;
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            const double u = (x + 0.5) / width - 0.5, v = (y + 0.5) / height - 0.5;
            const double alpha = std::clamp(6 * (0.45 - std::hypot(u, v)), 0.0, 1.0);
            std::byte* texel = &texture->level(0)[(std::size_t{y} * width + x) * 4];
            texel[3] = static_cast<std::byte>(std::lround(255 * alpha));
            for (std::size_t c = 0; c < 3 && multiplied; ++c)
                texel[c] = static_cast<std::byte>(std::lround(code(texel[c]) * alpha));
        }
    texture->metadata.alpha = marked;
    return Spoilt{std::move(*texture)};
}

std::optional<Spoilt> numbers_as_colors(const Picture& picture) {
    auto texture = one_level(picture, Format::rgba8_srgb);
    if (!texture)
        return std::nullopt;
    return Spoilt{std::move(*texture), {.role = Role::data}};
}

std::optional<Spoilt> enlarged(const Picture& picture) {
    if (std::min(picture.image.width(), picture.image.height()) < 128 || contrast(picture) < 10)
        return std::nullopt;
    auto large = resize(picture.image.view(), picture.image.width() * 4, picture.image.height() * 4,
                        {.kernel = {.kind = Kernel::Kind::cubic}});
    if (!large)
        return std::nullopt;
    Picture made;
    made.image = std::move(*large);
    auto texture = one_level(made, Format::rgba8_srgb);
    if (!texture)
        return std::nullopt;
    return Spoilt{std::move(*texture)};
}

std::optional<Spoilt> grayed(const Picture& picture) {
    auto texture = one_level(picture, Format::rgba8_srgb);
    if (!texture || contrast(picture) < 3)
        return std::nullopt;
    for (std::size_t i = 0; i < texture->level(0).size(); i += 4)
        texture->level(0)[i + 1] = texture->level(0)[i + 2] = texture->level(0)[i];
    return Spoilt{std::move(*texture)};
}

using TexelEdit = void (*)(std::byte* texel, std::uint32_t x, std::uint32_t y);

std::optional<Texture> edited(const Picture& picture, Format format, TexelEdit edit) {
    auto texture = one_level(picture, format);
    if (!texture)
        return std::nullopt;
    for (std::uint32_t y = 0; y < picture.image.height(); ++y)
        for (std::uint32_t x = 0; x < picture.image.width(); ++x)
            edit(&texture->level(0)[(std::size_t{y} * picture.image.width() + x) * 4], x, y);
    return texture;
}

std::optional<Spoilt> fence(const Picture& picture) {
    auto texture = edited(picture, Format::rgba8_srgb, [](std::byte* texel, auto x, auto) {
        texel[3] = std::byte{static_cast<unsigned char>(x % 4 == 0 ? 255 : 0)};
    });
    if (!texture || texture->shape().width < 64 || texture->shape().height < 64)
        return std::nullopt;
    auto baked = rebake(*texture, {.bake = {.role = Role::color}, .new_levels = true});
    if (!baked)
        return std::nullopt;
    return Spoilt{std::move(baked->texture)};
}

std::optional<Spoilt> bleeding(const Picture& picture) {
    auto texture = edited(picture, Format::rgba8_srgb, [](std::byte* texel, auto x, auto y) {
        if ((x / 8 + y / 8) % 2 == 0)
            return;
        for (std::size_t c = 0; c < 3; ++c)
            texel[c] = std::byte{static_cast<unsigned char>(code(texel[c]) > 127 ? 0 : 255)};
        texel[3] = std::byte{0};
    });
    if (!texture)
        return std::nullopt;
    return Spoilt{std::move(*texture), {.role = Role::color}};
}

std::optional<Spoilt> soft_mask(const Picture& picture) {
    auto soft = with_alpha(picture, false, AlphaMode::straight);
    if (soft)
        soft->options = {.role = Role::color, .alpha_use = AlphaUse::mask};
    return soft;
}

std::optional<Spoilt> hard_blend(const Picture& picture) {
    auto hard = with_alpha(picture, false, AlphaMode::straight);
    if (!hard)
        return std::nullopt;
    for (std::size_t i = 3; i < hard->texture.level(0).size(); i += 4)
        hard->texture.level(0)[i] =
            std::byte{static_cast<unsigned char>(code(hard->texture.level(0)[i]) > 127 ? 255 : 0)};
    hard->options = {.role = Role::color, .alpha_use = AlphaUse::blend};
    return hard;
}

std::optional<Spoilt> unclean(const Picture& picture) {
    auto hard = hard_blend(picture);
    if (!hard)
        return std::nullopt;
    for (std::size_t i = 3; i < hard->texture.level(0).size(); i += 4)
        if (hard->texture.level(0)[i] == std::byte{0})
            hard->texture.level(0)[i] = static_cast<std::byte>(2 + i / 4 % 9);
    hard->options = {.role = Role::color};
    return hard;
}

std::optional<Spoilt> with_step(const Picture& picture) {
    if (contrast(picture) < 5 || contrast(picture) > 60)
        return std::nullopt;
    auto texture = one_level(picture, Format::rgba8_srgb);
    if (!texture)
        return std::nullopt;
    // Brighter from left to right by a third of white, as light from one side leaves it.
    const std::uint32_t width = texture->shape().width;
    for (std::size_t i = 0; i < texture->level(0).size(); ++i)
        if (i % 4 != 3)
            texture->level(0)[i] = static_cast<std::byte>(code(texture->level(0)[i]) * 2 / 3 +
                                                          85 * (i / 4 % width) / width);
    const Sampler repeating = or_exit(parse_sampler("wrap=repeat"));
    return Spoilt{std::move(*texture), {.role = Role::color, .sampler = repeating}};
}

std::optional<Spoilt> with_patch(const Picture& picture) {
    if (std::min(picture.image.width(), picture.image.height()) < 64)
        return std::nullopt;
    auto texture = one_level(picture, Format::rgba8_srgb);
    if (!texture)
        return std::nullopt;
    const std::uint32_t width = texture->shape().width, height = texture->shape().height;
    for (std::size_t i = 0; i < texture->level(0).size(); ++i) {
        const std::size_t x = i / 4 % width, y = i / 4 / width;
        const bool is_bright =
            x > width / 4 && x < width * 3 / 4 && y > height / 4 && y < height * 3 / 4;
        if (i % 4 != 3)
            texture->level(0)[i] =
                static_cast<std::byte>(code(texture->level(0)[i]) / 3 + (is_bright ? 160 : 30));
    }
    const Sampler repeating = or_exit(parse_sampler("wrap=repeat"));
    return Spoilt{std::move(*texture), {.role = Role::color, .sampler = repeating}};
}

/// Whether one texel in four has a colour of its own, as no palette allows it.
bool has_many_colors(const Picture& picture) {
    std::set<std::array<std::uint8_t, 3>> colors;
    for (std::uint32_t y = 0; y < picture.image.height(); ++y) {
        const auto row = picture.image.view().row(y);
        for (std::size_t i = 0; i < row.size(); i += 4)
            colors.insert({code(row[i]), code(row[i + 1]), code(row[i + 2])});
    }
    return colors.size() * 4 > std::size_t{picture.image.width()} * picture.image.height();
}

std::optional<Spoilt> enlarged_texels(const Picture& picture) {
    auto texture = one_level(picture, Format::rgba8_srgb);
    if (!texture || std::max(picture.image.width(), picture.image.height()) < 128 ||
        contrast(picture) < 25 || !has_many_colors(picture))
        return std::nullopt;
    const Sampler nearest = or_exit(parse_sampler("mag=nearest min=nearest"));
    return Spoilt{std::move(*texture), {.role = Role::color, .sampler = nearest}};
}

std::optional<Spoilt> drawn_pixels(const Picture& picture) {
    auto small = resize(picture.image.view(), 32, 32, {.kernel = {.kind = Kernel::Kind::box}});
    if (!small || contrast(picture) < 25)
        return std::nullopt;
    Picture made;
    made.image = std::move(*small);
    auto texture = edited(made, Format::rgba8_srgb, [](std::byte* texel, auto, auto) {
        const int bright = (code(texel[0]) + 2 * code(texel[1]) + code(texel[2])) / 4 / 32;
        for (std::size_t c = 0; c < 3; ++c)
            texel[c] = static_cast<std::byte>(32 * bright + 8 * static_cast<int>(c));
    });
    const Sampler linear = or_exit(parse_sampler("mag=linear min=linear"));
    return Spoilt{std::move(*texture), {.role = Role::color, .sampler = linear}};
}

std::optional<Spoilt> wide(const Picture& picture) {
    auto texture = Texture::create({.format = Format::rgba16_unorm,
                                    .width = picture.image.width(),
                                    .height = picture.image.height()});
    const auto narrow = one_level(picture, Format::rgba8_unorm);
    if (!texture || !narrow || contrast(picture) < 3)
        return std::nullopt;
    for (std::size_t i = 0; i < narrow->level(0).size(); ++i)
        texture->level(0)[2 * i] = texture->level(0)[2 * i + 1] = narrow->level(0)[i];
    return Spoilt{std::move(*texture)};
}

/// Occlusion, roughness and metalness, the latter in `place`.
std::optional<Spoilt> packed(const Picture& picture, std::size_t place, bool is_painted) {
    auto texture = one_level(picture, Format::rgba8_unorm);
    if (!texture || contrast(picture) < 25)
        return std::nullopt;
    const auto level = texture->level(0);
    for (std::size_t i = 0; i < level.size(); i += 4) {
        const int bright = code(level[i + 1]);
        level[i] = static_cast<std::byte>(200 + bright / 8);
        level[i + 3 - place] = static_cast<std::byte>(60 + bright / 2);
        level[i + place] =
            static_cast<std::byte>(is_painted ? (bright > 128 ? 255 : 0) : 40 + bright / 2);
    }
    return Spoilt{
        std::move(*texture),
        {.role = Role::data,
         .packed = {
             .occlusion = Channel::red, .roughness = Channel::green, .metalness = Channel::blue}}};
}

std::optional<Spoilt> normals_in(const Picture& picture, Format format) {
    const auto normals = normals_of(picture);
    if (!normals)
        return std::nullopt;
    auto texture = one_level(*normals, Format::rgba8_unorm);
    return Spoilt{std::move(*texture), {.role = Role::normal, .format = format}};
}

std::optional<Spoilt> heights_as_normals(const Picture& picture) {
    auto gray = grayed(picture);
    if (!gray)
        return std::nullopt;
    auto texture = Texture::create({.format = Format::rgba8_unorm,
                                    .width = picture.image.width(),
                                    .height = picture.image.height()});
    std::ranges::copy(gray->texture.level(0), texture->level(0).begin());
    return Spoilt{std::move(*texture), {.role = Role::normal}};
}

constexpr Kind flat[] = {
    {"mips-in-gamma-space", "levels averaged as codes", gamma_levels},
    {"level-uniform", "a black level", black_level},
    {"level-unrelated", "a level turned by half", flipped_level},
    {"coverage-lost", "a fence, baked without coverage", fence},
    {"green-inverted", "green turned over", green_down},
    {"normal-as-srgb", "normals in an sRGB format", normals_as_color},
    {"normals-not-unit", "normals of 90 % length", shortened},
    {"no-normals", "colours as normals", color_as_normals},
    {"height-as-normal", "gray as normals", heights_as_normals},
    {"looks-premultiplied", "premultiplied, marked straight",
     [](const Picture& p) { return with_alpha(p, true, AlphaMode::straight); }},
    {"not-premultiplied", "straight, marked premultiplied",
     [](const Picture& p) { return with_alpha(p, false, AlphaMode::premultiplied); }},
    {"hidden-colors-bleed", "clear texels of other colours", bleeding},
    {"cutout-soft", "a mask of soft alpha", soft_mask},
    {"cutout-blended", "blended, alpha 0 and 1", hard_blend},
    {"cutout-not-clean", "clear is 2 to 10", unclean},
    {"numbers-as-srgb", "numbers in an sRGB format", numbers_as_colors},
    {"seam-where-it-repeats", "brighter to the right, repeated", with_step},
    {"repeat-shows", "a bright middle, repeated", with_patch},
    {"nearest-on-photograph", "nearest filters", enlarged_texels},
    {"linear-on-drawn-pixels", "32 x 32 of 8 tones, linear", drawn_pixels},
    {"channels-swapped", "metalness in green", [](const Picture& p) { return packed(p, 1, true); }},
    {"metalness-between", "metalness of every value",
     [](const Picture& p) { return packed(p, 2, false); }},
    {"no-detail", "enlarged four times", enlarged},
    {"channels-unused", "gray in three channels", grayed},
    {"bits-unused", "8 bits in 16", wide},
    {"format-too-weak", "normals as BC1",
     [](const Picture& p) { return normals_in(p, Format::bc1_unorm); }},
};

}  // namespace

std::span<const Kind> defects() {
    return flat;
}

}  // namespace survey
