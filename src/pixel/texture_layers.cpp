// Layers and slices: one of a texture, or several textures as one array.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include <yl/texture.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

std::string numbered(std::size_t texture) {
    return fmt::format("texture {}", texture);
}

Status check_number(std::uint32_t number, std::uint32_t count, const char* what) {
    if (number < count)
        return {};
    return fail_at({ErrorKind::usage,
                    fmt::format("there is no {} {}; the last one is {}", what, number, count - 1)},
                   what);
}

/// Why `other` is not a layer of an array with `first`; empty if it is one.
std::string difference_of(const Texture& first, const Texture& other) {
    const TextureShape &a = first.shape(), &b = other.shape();
    const TextureMetadata &m = first.metadata, &n = other.metadata;
    if (a.format != b.format)
        return fmt::format("it is {}, and the first is {}", info(b.format).name,
                           info(a.format).name);
    if (a.width != b.width || a.height != b.height || a.levels != b.levels)
        return fmt::format("it has {} x {} texels and {} levels, and the first {} x {} and {}",
                           b.width, b.height, b.levels, a.width, a.height, a.levels);
    if (a.faces != b.faces || a.is_1d != b.is_1d)
        return "it is of another kind than the first";
    if (m.transfer != n.transfer || m.alpha != n.alpha || m.origin != n.origin ||
        m.swizzle != n.swizzle)
        return "its transfer function, alpha, origin or swizzle is not that of the first";
    return {};
}

}  // namespace

Result<Texture> single_layer(const Texture& texture, std::uint32_t layer) try {
    YL_CHECK(check_texture(texture, "texture"));
    YL_CHECK(check_number(layer, texture.shape().layers, "layer"));
    TextureShape shape = texture.shape();
    shape.layers = 1;
    shape.is_array = false;
    YL_TRY(Texture one, Texture::create(shape, Limits::none()));
    one.metadata = texture.metadata;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const auto to = one.level(level);
        std::ranges::copy(texture.level(level).subspan(layer * to.size(), to.size()), to.begin());
    }
    return one;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> single_slice(const Texture& texture, std::uint32_t slice) try {
    YL_CHECK(check_texture(texture, "texture"));
    const TextureShape& from = texture.shape();
    YL_CHECK(check_number(slice, from.depth, "slice"));
    TextureShape shape = from;
    shape.depth = 1;
    shape.is_3d = false;
    YL_TRY(Texture one, Texture::create(shape, Limits::none()));
    one.metadata = texture.metadata;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const auto to = one.level(level);
        const std::uint64_t depth = from.depth_at(level);
        const auto at = static_cast<std::size_t>(slice * depth / from.depth);
        std::ranges::copy(texture.level(level).subspan(at * to.size(), to.size()), to.begin());
    }
    return one;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Texture> array_of(std::span<const Texture* const> textures) try {
    if (textures.empty())
        return fail(ErrorKind::usage, "there are no textures");
    std::uint32_t layers = 0;
    for (std::size_t i = 0; i < textures.size(); ++i) {
        if (textures[i] == nullptr)
            return fail_at({ErrorKind::usage, "there is no texture"}, numbered(i));
        YL_CHECK(check_texture(*textures[i], numbered(i).c_str()));
        if (textures[i]->shape().dimensions() == 3)
            return fail_at({ErrorKind::usage, "3D textures have no arrays"}, numbered(i));
        if (const std::string difference = difference_of(*textures[0], *textures[i]);
            !difference.empty())
            return fail_at({ErrorKind::usage, difference}, numbered(i));
        layers += textures[i]->shape().layers;
    }
    TextureShape shape = textures[0]->shape();
    shape.layers = layers;
    shape.is_array = true;
    YL_TRY(Texture all, Texture::create(shape, Limits::none()));
    all.metadata = textures[0]->metadata;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        auto to = all.level(level).begin();
        for (const Texture* texture : textures)
            to = std::ranges::copy(texture->level(level), to).out;
    }
    return all;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
