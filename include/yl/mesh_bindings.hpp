// From a model's materials to what a program binds: every texture once, every use with its sampler.
// Needs YellowLattice::mesh.
#pragma once

#include <yl/device_profile.hpp>
#include <yl/mesh.hpp>
#include <yl/texture_keeper.hpp>

namespace yl::mesh {

/// A texture that has to be made: one image in one role. Images with equal bytes are one.
struct NeededTexture {
    std::optional<std::size_t> image = {};  ///< none: a placeholder's colour stands for it
    Role role = Role::color;
    std::optional<float> cutoff = {};  ///< of masks, whose levels keep their coverage
    /// Coverage in the base colour of masks and of what blends; in every other slot alpha is a
    /// value of its own or ignored, and weighs nothing.
    AlphaMode alpha = AlphaMode::straight;
    /// The image with the normals of the surfaces whose roughness this is, where all agree on one:
    /// its levels make up for what they average away.
    std::optional<std::size_t> normals = {};
    std::string label = {};  ///< the image's name or file

    friend bool operator==(const NeededTexture&, const NeededTexture&) = default;
};

/// One use of a texture in a material.
struct TextureBinding {
    Slot slot = Slot::base_color;
    std::size_t texture = 0;  ///< of `TextureBindings::textures`
    Sampler sampler = {};
    std::uint32_t coordinate_set = 0;
    std::optional<CoordinateTransform> transform = {};
    float factor = 1;
    std::optional<LayerBlend> layer = {};
};

struct TextureBindings {
    std::vector<NeededTexture> textures = {};
    std::vector<std::vector<TextureBinding>> materials = {};  ///< in the model's order
    std::size_t samplers = 0;                                 ///< different ones
};

/// What a model's materials bind. Of each image and role there is one texture, however often and
/// with however many samplers it is used.
[[nodiscard]] TextureBindings bindings_of(const Model& model);

/// How to bake the images of each role; role and coverage come from the model.
class BakeByRole {
 public:
    explicit BakeByRole(const BakeOptions& for_all = BakeOptions());

    [[nodiscard]] BakeOptions& operator[](Role role);
    [[nodiscard]] BakeOptions of(const NeededTexture& texture) const;

 private:
    std::array<BakeOptions, 6> by_role_ = {};
};

/// What to ask a keeper for. Without an image it is a wish that fails, so that the keeper shows its
/// placeholder. The wish has no sampler: a binding's own goes with it when it is bound.
[[nodiscard]] TextureWish wish_for(const Model& model, const NeededTexture& texture,
                                   const BakeByRole& bake = BakeByRole());

/// Whether each material fits into one shader stage of the device, and all samplers into the
/// device; where not, which of the textures could become the layers of one array. And what the
/// device makes of each texture whose size is known, with each of its samplers.
[[nodiscard]] Findings check_bindings(const Model& model, const TextureBindings& bindings,
                                      const DeviceProfile& profile);

/// The matrix of `SurfaceTexture`, of no transform the identity.
[[nodiscard]] std::array<float, 6> matrix_of(const std::optional<CoordinateTransform>& transform);

}  // namespace yl::mesh
