// Cubes with a defect each, and textures that do not go together.
#include <algorithm>
#include <cmath>

#include "lint_defects.hpp"

namespace survey {
namespace {

std::array<ConstImageView, 6> faces_of(const Texture& cube) {
    std::array<ConstImageView, 6> faces;
    for (std::uint32_t face = 0; face < 6; ++face)
        faces[face] = cube.image(0, 0, face);
    return faces;
}

std::optional<Spoilt> made_of(Texture texture, const LintOptions& options = {},
                              std::shared_ptr<const Texture> beside = {}) {
    std::optional<Spoilt> made(std::in_place);
    made->texture = std::move(texture);
    made->options = options;
    made->beside = std::move(beside);
    return made;
}

std::optional<Spoilt> cube_with(std::array<ConstImageView, 6> faces) {
    auto cube = cube_of_faces(faces);
    if (!cube)
        return std::nullopt;
    return made_of(std::move(*cube));
}

/// One of those that are not opposite each other, so that the sky is not mirrored.
std::optional<Spoilt> shuffled(const Picture& picture) {
    const auto sky = sky_of(picture);
    if (!sky)
        return std::nullopt;
    auto faces = faces_of(*sky);
    std::swap(faces[0], faces[4]);
    return cube_with(faces);
}

std::optional<Spoilt> mirrored(const Picture& picture) {
    const auto sky = sky_of(picture);
    if (!sky)
        return std::nullopt;
    auto faces = faces_of(*sky);
    std::array<Image, 6> images;
    for (std::size_t face = 0; face < 6; ++face) {
        images[face] = or_exit(with_orientation(faces[face], Orientation::mirror));
        faces[face] = std::as_const(images[face]).view();
    }
    return cube_with(faces);
}

/// The top is of the sky turned over, whose colours are others where this picture's are.
std::optional<Spoilt> with_other_face(const Picture& picture) {
    const auto sky = sky_of(picture);
    if (!sky)
        return std::nullopt;
    auto faces = faces_of(*sky);
    Image other = or_exit(Image::create(faces[2].format, faces[2].width, faces[2].height));
    for (std::uint32_t y = 0; y < other.height(); ++y)
        for (std::size_t i = 0; i < faces[2].row(y).size(); ++i)
            other.view().row(y)[i] = i % 4 == 3 ? std::byte{255} : ~faces[2].row(y)[i];
    faces[2] = std::as_const(other).view();
    return cube_with(faces);
}

/// Level 1 of one face is that of the opposite one.
std::optional<Spoilt> with_seams_below(const Picture& picture) {
    auto sky = sky_of(picture);
    if (!sky)
        return std::nullopt;
    const auto level = sky->level(1);
    const std::size_t face = level.size() / 6;
    for (std::size_t i = 0; i < face; ++i)
        level[2 * face + i] = i % 4 == 3 ? std::byte{255} : ~level[2 * face + i];
    return made_of(std::move(*sky));
}

/// Said to be prefiltered, and only made smaller.
std::optional<Spoilt> not_blurred(const Picture& picture) {
    auto sky = sky_of(picture);
    if (!sky)
        return std::nullopt;
    const auto prefiltered = prefilter_specular(*sky);
    if (!prefiltered)
        return std::nullopt;
    sky->metadata.key_values = prefiltered->metadata.key_values;
    return made_of(std::move(*sky));
}

std::optional<Spoilt> with_firefly(const Picture& picture) {
    const auto sky = sky_of(picture);
    if (!sky)
        return std::nullopt;
    TextureShape shape = sky->shape();
    shape.format = Format::rgba16_float;
    shape.levels = 1;
    auto light = Texture::create(shape);
    for (std::uint32_t face = 0; face < 6; ++face)
        if (!convert(sky->image(0, 0, face), light->image(0, 0, face),
                     {.source_transfer = Transfer::srgb}))
            return std::nullopt;
    constexpr std::uint16_t bright = 0x6BD0;  // 4000 as a half
    std::byte* texel = &light->level(0)[8 * (std::size_t{shape.width} * 40 + 20)];
    for (std::size_t c = 0; c < 3; ++c) {
        texel[2 * c] = std::byte{bright & 0xFF};
        texel[2 * c + 1] = std::byte{bright >> 8};
    }
    light->metadata.transfer = Transfer::linear;
    return made_of(std::move(*light));
}

/// A quarter of its size, of which matte things gather the same light.
Texture smaller(const Texture& cube) {
    TextureShape shape = cube.shape();
    shape.levels = 3;
    Texture chain = or_exit(Texture::create(shape));
    std::ranges::copy(cube.level(0), chain.level(0).begin());
    chain.metadata = cube.metadata;
    or_exit(build_cube_mips(chain));
    return or_exit(without_top_levels(chain, 2));
}

/// The light that matte things gather, from the wrong side.
std::optional<Spoilt> matte_mirrored(const Picture& picture) {
    auto sky = sky_of(picture);
    auto other = mirrored(picture);
    if (!sky || !other)
        return std::nullopt;
    // Each face mirrored, and right and left exchanged: the sky as a mirror shows it.
    auto faces = faces_of(other->texture);
    std::swap(faces[0], faces[1]);
    const auto joined = cube_of_faces(faces);
    if (!joined)
        return std::nullopt;
    constexpr std::uint32_t side = 8;
    auto matte = prefilter_diffuse(smaller(*joined), side);
    auto right = prefilter_diffuse(smaller(*sky), side);
    if (!matte || !right)
        return std::nullopt;
    // Where both sides are alike nobody sees it.
    double difference = 0, sum = 0;
    const auto all = or_exit(lint_traits(*matte)), as_is = or_exit(lint_traits(*right));
    for (std::size_t i = 0; i < all.sky.size(); ++i) {
        difference += static_cast<double>(std::abs(all.sky[i] - as_is.sky[i]));
        sum += static_cast<double>(as_is.sky[i]);
    }
    if (difference < 0.1 * sum)
        return std::nullopt;
    return made_of(std::move(*matte), {}, std::make_shared<const Texture>(std::move(*sky)));
}

std::optional<Spoilt> normals_upside_down(const Picture& picture) {
    const auto normals = normals_of(picture);
    if (!normals || contrast(picture) < 25 ||
        std::min(picture.image.width(), picture.image.height()) < 64)
        return std::nullopt;
    Picture flipped;
    flipped.image = or_exit(with_orientation(normals->image.view(), Orientation::flip));
    auto texture = one_level(flipped, Format::rgba8_unorm);
    auto colors = one_level(picture, Format::rgba8_srgb);
    if (!texture || !colors)
        return std::nullopt;
    return made_of(std::move(*texture), {}, std::make_shared<const Texture>(std::move(*colors)));
}

}  // namespace

std::vector<std::pair<Texture, Texture>> sound_pairs(const Picture& picture) {
    std::vector<std::pair<Texture, Texture>> pairs;
    const auto normals = normals_of(picture);
    auto texture = normals ? one_level(*normals, Format::rgba8_unorm) : std::nullopt;
    auto colors = one_level(picture, Format::rgba8_srgb);
    if (texture && colors)
        pairs.emplace_back(std::move(*texture), std::move(*colors));
    if (auto sky = sky_of(picture))
        if (auto matte = prefilter_diffuse(smaller(*sky), 8))
            pairs.emplace_back(std::move(*matte), std::move(*sky));
    return pairs;
}

namespace {

std::optional<Texture> grainy_normals(const Picture& picture) {
    if (std::min(picture.image.width(), picture.image.height()) < 64)
        return std::nullopt;
    const auto normals = normals_of(picture, 4);
    auto texture = normals ? one_level(*normals, Format::rgba8_unorm) : std::nullopt;
    if (!texture)
        return std::nullopt;
    const auto hidden = hidden_variance(texture->image(0));
    double sum = 0;
    for (const float variance : hidden->at(2))
        sum += static_cast<double>(variance);
    constexpr double seen = 0.06;  // as much as widens a mirror's highlight to a roughness of 0.6
    return sum / static_cast<double>(hidden->at(2).size()) > seen ? std::move(texture)
                                                                  : std::nullopt;
}

std::optional<Spoilt> grain(const Picture& picture) {
    auto normals = grainy_normals(picture);
    if (!normals)
        return std::nullopt;
    return made_of(std::move(*normals), {.role = Role::normal});
}

std::optional<Spoilt> roughness_as_it_was(const Picture& picture) {
    auto normals = grainy_normals(picture);
    if (!normals)
        return std::nullopt;
    auto roughness =
        convert(picture.image.view(), Format::r8_unorm,
                {.source_transfer = Transfer::linear, .to_one_channel = ToOneChannel::luminance});
    if (!roughness)
        return std::nullopt;
    Picture made;
    made.image = std::move(*roughness);
    made.transfer = Transfer::linear;
    auto baked = bake(made, {.role = Role::data});
    if (!baked)
        return std::nullopt;
    return made_of(std::move(baked->texture),
                   {.role = Role::data, .packed = {.roughness = Channel::red}},
                   std::make_shared<const Texture>(std::move(*normals)));
}

constexpr Kind sets[] = {
    {"cube-faces-shuffled", "right and front exchanged", shuffled},
    {"cube-mirrored", "each face mirrored", mirrored},
    {"cube-faces-apart", "the top of other colours", with_other_face},
    {"cube-seams-in-levels", "a face of level 1 of other colours", with_seams_below},
    {"cube-levels-not-blurred", "said to be prefiltered", not_blurred},
    {"fireflies", "a texel of 4000", with_firefly},
    {"sky-turned-among-siblings", "matte light, mirrored", matte_mirrored},
    {"upside-down-among-siblings", "normals turned over", normals_upside_down},
    {"normals-grainy", "steep grain", grain},
    {"roughness-not-widened", "plain levels beside grain", roughness_as_it_was},
};

}  // namespace

std::span<const Kind> defects_of_sets() {
    return sets;
}

}  // namespace survey
