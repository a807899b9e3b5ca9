// What is asked of a keeper (yl/texture_keeper.hpp), and what the textures of a model ask for.
//
//     yl::TextureRequest leaf{.file = "leaf.png", .priority = 2};
//     leaf.bake.role = yl::Role::color;
//     bool is_same = leaf == yl::TextureRequest{.file = "leaf.png"};
#pragma once

#include <filesystem>
#include <optional>
#include <yl/api.hpp>
#include <yl/bake.hpp>
#include <yl/bytes.hpp>
#include <yl/placeholder.hpp>
#include <yl/sampler.hpp>

namespace yl {

/// A requested texture: a picture file, which is baked, or a texture file, which is used as it is.
struct YL_API TextureRequest {
    std::filesystem::path file = {};
    /// The content, if it is already in memory; `file` is then only its name.
    SharedBytes bytes = {};
    BakeOptions bake = BakeOptions();  ///< role and more
    /// For roughness maps: the normal map for `BakeOptions::normals`, by file or content. If it
    /// cannot be read, that is a finding and the roughness stays unchanged.
    std::filesystem::path normals_file = {};
    SharedBytes normals_bytes = {};
    std::optional<Sampler> sampler = {};  ///< by default that of the texture
    TextureKind kind = TextureKind::flat;
    int priority = 0;  ///< waiting requests with the highest are decoded first

    /// Requests are equal, and share one texture, if files or contents and settings are equal.
    friend bool operator==(const TextureRequest& a, const TextureRequest& b);
};

}  // namespace yl
