// The textures of a model: what to bind, what to create, and writing a baked model. Needs
// YellowLattice::model.
//
//     yl::model::Model model = yl::or_exit(yl::model::read_model("planter.glb"));
//     yl::model::TextureBindings bindings = yl::model::bindings_of(model);
//     yl::or_exit(yl::model::bake_model(model, "planter_baked.glb"));
#pragma once

#include <yl/api.hpp>
#include <yl/device_profile.hpp>
#include <yl/model.hpp>
#include <yl/progress.hpp>
#include <yl/texture_file.hpp>
#include <yl/texture_request.hpp>

namespace yl::model {

/// A texture to create: one image in one role. Images with equal bytes share one.
struct NeededTexture {
    std::optional<std::size_t> image = {};  ///< none: a placeholder is used
    Role role = Role::color;
    std::optional<float> cutoff = {};  ///< for masks, whose levels keep their coverage
    /// Coverage in the base colour of masked and blended materials; in all other slots alpha is a
    /// value of its own or ignored, and weighs nothing.
    AlphaMode alpha = AlphaMode::straight;
    /// For roughness: the normal map of the surfaces that use it, if they all use the same one; the
    /// roughness is widened by the normals that its levels average away.
    std::optional<std::size_t> normals = {};
    std::string label = {};  ///< name or file of the image

    friend bool operator==(const NeededTexture&, const NeededTexture&) = default;
};

/// One use of a texture in a material.
struct TextureBinding {
    Slot slot = Slot::base_color;
    std::size_t texture = 0;  ///< index in `TextureBindings::textures`
    Sampler sampler = {};
    std::uint32_t coordinate_set = 0;
    std::optional<CoordinateTransform> transform = {};
    float factor = 1;
    std::optional<LayerBlend> layer = {};
};

/// The textures that the materials of a model bind.
struct TextureBindings {
    std::vector<NeededTexture> textures = {};
    std::vector<std::vector<TextureBinding>> materials = {};  ///< in the model's order
    std::size_t samplers = 0;                                 ///< number of different samplers
};

/// The textures that the materials of a model bind: one for each image and role, no matter how
/// often and with how many samplers it is used.
[[nodiscard]] YL_API TextureBindings bindings_of(const Model& model);

/// How to bake the images of each role; role and coverage come from the model.
class YL_API BakeByRole {
 public:
    explicit BakeByRole(const BakeOptions& for_all = BakeOptions());

    /// The options of one role, which may be changed.
    [[nodiscard]] BakeOptions& operator[](Role role);
    /// The options for a texture: those of its role, with what the model says.
    [[nodiscard]] BakeOptions of(const NeededTexture& texture) const;

 private:
    std::array<BakeOptions, 6> by_role_ = {};
};

/// The request for a keeper. Without an image the request fails, so that the keeper shows a
/// placeholder. It has no sampler; each binding has its own.
[[nodiscard]] YL_API TextureRequest request_for(const Model& model, const NeededTexture& texture,
                                                const BakeByRole& bake = BakeByRole());

/// Findings about materials with more textures than a shader stage can sample, with textures that
/// could become layers of an array, about too many samplers, and about each texture of known size
/// with each of its samplers on the device.
[[nodiscard]] YL_API Findings check_bindings(const Model& model, const TextureBindings& bindings,
                                             const DeviceProfile& profile);

/// The matrix for `SurfaceTexture`; the identity without a transform.
[[nodiscard]] YL_API std::array<float, 6> matrix_of(
    const std::optional<CoordinateTransform>& transform);

/// A texture, or why it could not be made.
struct MadeTexture {
    std::optional<Texture> texture = {};
    std::optional<Error> error = {};
    Findings findings = {};
    std::uint32_t picture_width = 0, picture_height = 0;  ///< of the source picture
};

/// Makes all textures in parallel; texture files in the model are used unchanged. A failure affects
/// only its own texture.
[[nodiscard]] YL_API std::vector<MadeTexture> make_textures(const Model& model,
                                                            const TextureBindings& bindings,
                                                            const BakeByRole& bake = BakeByRole(),
                                                            const Progress& progress = {});

/// The triangles of the model with their textures, for drawing. Missing textures have the
/// placeholder colour. Fails as `primitives_of` does; what is left out gets a finding.
[[nodiscard]] YL_API Result<ModelScene> scene_of(const Model& model, Findings& findings,
                                                 const BakeByRole& bake = BakeByRole());

/// The name of the extension by which a texture refers to its baked images. Its `sources` are
/// objects with `source`, an image of the type image/ktx2, `role`, for masks `cutoff`, and `alpha`
/// ("data") where the alpha of a colour is no coverage:
///
///     "extensions": {"YL_baked_texture": {"sources": [{"source": 5, "role": "color"}]}}
inline constexpr std::string_view baked_extension = "YL_baked_texture";

/// How to bake a model. All members are optional.
struct YL_API ModelBakeOptions {
    /// Block formats by role, when left out.
    BakeByRole bake = BakeByRole({.compressed = BlockFamily::bc});
    TextureWriteOptions write = {.supercompression = Supercompression::zstd};
    bool keep_pictures = false;  ///< keep PNG and JPEG only; make no textures
    Progress progress = {};      ///< reports textures and writing
};

/// The result for one texture.
struct BakedTexture {
    NeededTexture needed = {};
    std::optional<Error> error = {};
    Format format = Format::rgba8_unorm;
    TextureShape shape = {};
    std::uint64_t picture_file_bytes = 0, texture_file_bytes = 0;
    /// On the device: as 8-bit RGBA with all levels, as most programs load pictures; and as baked.
    std::uint64_t plain_device_bytes = 0, device_bytes = 0;
};

/// The result of baking a model.
struct ModelBakeReport {
    std::vector<BakedTexture> textures = {};
    std::uint64_t file_bytes_before = 0;  ///< of the model and all its files
    std::uint64_t file_bytes_after = 0;
    Findings findings = {};
};

/// Writes the model as one .glb file with all images: unchanged, or converted to PNG if they are
/// neither PNG nor JPEG, and also baked for their roles as KTX 2.0. All other JSON values and all
/// buffers stay unchanged. What cannot be read or made stays as it was, with a finding. Fails with
/// `ErrorKind::unsupported` for formats other than glTF, and with `usage` if the model is already
/// baked or the name does not end in .glb.
[[nodiscard]] YL_API Result<ModelBakeReport> bake_model(const Model& model,
                                                        const std::filesystem::path& output,
                                                        const ModelBakeOptions& options = {});

}  // namespace yl::model
