// The textures that a model's materials bind, made, and what is known about each.
#pragma once

#include <yl/lint.hpp>
#include <yl/model_bake.hpp>

namespace ylat {

/// Whether a file's name ends like that of a model.
[[nodiscard]] bool is_model_name(const std::string& path);

/// A model with its textures.
struct BoundTextures {
    yl::model::Model model = {};
    yl::model::TextureBindings bindings = {};
    std::vector<yl::model::MadeTexture> made = {};  ///< one for each of the bindings'

    [[nodiscard]] std::size_t size() const { return made.size(); }
    /// What people call it.
    [[nodiscard]] std::string label(std::size_t texture) const;
    /// Of the first material that binds it.
    [[nodiscard]] std::optional<yl::Sampler> sampler(std::size_t texture) const;
    /// What its materials make of its channels.
    [[nodiscard]] yl::PackedChannels packed(std::size_t texture) const;
    /// What the first material that has it as its base color makes of its alpha.
    [[nodiscard]] std::optional<yl::AlphaUse> alpha_use(std::size_t texture) const;
    /// The normals of the surface whose roughness it holds; null if there are none.
    [[nodiscard]] const yl::Texture* normals(std::size_t texture) const;
    /// What is found about a texture that was made; the role is the materials'.
    [[nodiscard]] yl::Result<yl::LintReport> lint(std::size_t texture,
                                                  yl::LintOptions options) const;
};

[[nodiscard]] yl::Result<BoundTextures> read_bound_textures(const std::string& path);

}  // namespace ylat
