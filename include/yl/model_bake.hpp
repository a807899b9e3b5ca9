// A model's textures: what a program binds, what it has to make, and a new model file. Needs
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
#include <yl/texture_keeper.hpp>

namespace yl::model {

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

/// What a model's materials bind.
struct TextureBindings {
    std::vector<NeededTexture> textures = {};
    std::vector<std::vector<TextureBinding>> materials = {};  ///< in the model's order
    std::size_t samplers = 0;                                 ///< different ones
};

/// What a model's materials bind. Of each image and role there is one texture, however often and
/// with however many samplers it is used.
[[nodiscard]] YL_API TextureBindings bindings_of(const Model& model);

/// How to bake the images of each role; role and coverage come from the model.
class YL_API BakeByRole {
 public:
    explicit BakeByRole(const BakeOptions& for_all = BakeOptions());

    /// The options of one role, to be changed.
    [[nodiscard]] BakeOptions& operator[](Role role);
    /// The options for a texture: its role's, with what the model says.
    [[nodiscard]] BakeOptions of(const NeededTexture& texture) const;

 private:
    std::array<BakeOptions, 6> by_role_ = {};
};

/// What to ask a keeper for. Without an image it is a request that fails, so that the keeper shows
/// its placeholder. The request has no sampler: a binding's own goes with it when it is bound.
[[nodiscard]] YL_API TextureRequest request_for(const Model& model, const NeededTexture& texture,
                                                const BakeByRole& bake = BakeByRole());

/// Whether each material fits into one shader stage of the device, and all samplers into the
/// device; where not, which of the textures could become the layers of one array. And what the
/// device makes of each texture whose size is known, with each of its samplers.
[[nodiscard]] YL_API Findings check_bindings(const Model& model, const TextureBindings& bindings,
                                             const DeviceProfile& profile);

/// The matrix of `SurfaceTexture`, of no transform the identity.
[[nodiscard]] YL_API std::array<float, 6> matrix_of(
    const std::optional<CoordinateTransform>& transform);

/// A texture as it is needed, or why it could not be made.
struct MadeTexture {
    std::optional<Texture> texture = {};
    std::optional<Error> error = {};
    Findings findings = {};
    std::uint32_t picture_width = 0, picture_height = 0;  ///< of what it was made from
};

/// Makes all textures, several at the same time; texture files within the model are taken as they
/// are. One that fails stops no other.
[[nodiscard]] YL_API std::vector<MadeTexture> make_textures(const Model& model,
                                                            const TextureBindings& bindings,
                                                            const BakeByRole& bake = BakeByRole(),
                                                            const Progress& progress = {});

/// The model's triangles with its textures, to be drawn. What is missing has a placeholder's
/// colour. Fails as `primitives_of` does; what is left out is added to the findings.
[[nodiscard]] YL_API Result<ModelScene> scene_of(const Model& model, Findings& findings,
                                                 const BakeByRole& bake = BakeByRole());

/// The name of the extension by which a texture names its baked images. Its `sources` are objects
/// with `source`, an image of the type image/ktx2, `role`, for masks `cutoff`, and `alpha` ("data")
/// where the alpha of a colour is no coverage:
///
///     "extensions": {"YL_baked_texture": {"sources": [{"source": 5, "role": "color"}]}}
inline constexpr std::string_view baked_extension = "YL_baked_texture";

/// How a model is baked. All parts may be left out.
struct YL_API ModelBakeOptions {
    /// Block formats by role, when left out.
    BakeByRole bake = BakeByRole({.compressed = true});
    TextureWriteOptions write = {.supercompression = Supercompression::zstd};
    bool keep_pictures = false;  ///< PNG and JPEG only: no textures are made
    Progress progress = {};      ///< of the textures, and of writing the file
};

/// What became of one texture.
struct BakedTexture {
    NeededTexture needed = {};
    std::optional<Error> error = {};
    Format format = Format::rgba8_unorm;
    TextureShape shape = {};
    std::uint64_t picture_file_bytes = 0, texture_file_bytes = 0;
    /// On the device: RGBA of 8 bits with all levels, as most programs load a picture; and as
    /// baked.
    std::uint64_t plain_device_bytes = 0, device_bytes = 0;
};

/// What became of a model.
struct ModelBakeReport {
    std::vector<BakedTexture> textures = {};
    std::uint64_t file_bytes_before = 0;  ///< of the model and all files that it names
    std::uint64_t file_bytes_after = 0;
    Findings findings = {};
};

/// Writes the model as one .glb file with all images in it: as they were, converted to PNG where
/// they were neither PNG nor JPEG, and baked for their roles besides, as KTX 2.0. Every other value
/// of the JSON and every buffer stays what it was. What cannot be had or made is left as it was,
/// with a finding. Fails with `ErrorKind::unsupported` for models of other formats than glTF, and
/// with `ErrorKind::usage` for one that has been baked already, or a name that does not end in
/// .glb.
[[nodiscard]] YL_API Result<ModelBakeReport> bake_model(const Model& model,
                                                        const std::filesystem::path& output,
                                                        const ModelBakeOptions& options = {});

}  // namespace yl::model
