// The textures of a model: which there are, what they mean, where they come from, and how they are
// sampled. Needs YellowLattice::model.
//
//     yl::model::Model model = yl::or_exit(yl::model::read_model("planter.glb"));
//     for (const yl::model::ModelMaterial& material : model.materials)
//         for (const yl::model::BoundTexture& texture : material.textures)
//             std::printf("%s\n", std::string(yl::model::name(texture.slot)).c_str());
#pragma once

#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/finding.hpp>
#include <yl/image.hpp>
#include <yl/measure.hpp>
#include <yl/model_scene.hpp>
#include <yl/picture.hpp>
#include <yl/role.hpp>
#include <yl/sampler.hpp>

namespace yl::model {

/// What a material uses a texture for: glTF 2.0 and its ratified material extensions, then what
/// only older models have.
enum class Slot : std::uint8_t {
    base_color,
    metallic_roughness,
    normal,
    occlusion,
    emissive,
    clearcoat,
    clearcoat_roughness,
    clearcoat_normal,
    sheen_color,
    sheen_roughness,
    specular,
    specular_color,
    transmission,
    diffuse_transmission,
    diffuse_transmission_color,
    thickness,
    iridescence,
    iridescence_thickness,
    anisotropy,
    ambient,
    opacity,
    height,
    displacement,
    glossiness,
    roughness,
    metalness,
    light_map,
    reflection,
    specular_glossiness,  ///< specular colour, and glossiness in alpha
    diffuse,              ///< the colour that goes with the one before, beside a base colour
    other,                ///< the model does not say what for
};

/// "base color", "normal" ...
[[nodiscard]] YL_API std::string_view name(Slot slot);
/// Colours are sRGB; everything else is numbers.
[[nodiscard]] YL_API Role role_of(Slot slot);

enum class ImageSource : std::uint8_t {
    file,         ///< beside the model
    data_uri,     ///< in its JSON
    buffer_view,  ///< in one of its buffers
    embedded,     ///< a file within the model
    raw_pixels,   ///< pixels within the model; their content is given as a PNG file
};

/// "file", "data URI" ...
[[nodiscard]] YL_API std::string_view name(ImageSource source);

/// What an image's pixels tell of its use.
struct ImageLook {
    ChannelUse channels = {};
    ContentMeasure content = {};
};

/// One image of the model's list.
struct ModelImage {
    std::string name = {};
    ImageSource source = ImageSource::file;
    std::string uri = {};  ///< as it stands in the model; of data URIs, the beginning
    /// Empty for a model that was read from memory.
    std::filesystem::path file = {};  ///< where that leads
    std::uint64_t bytes = 0;
    std::string file_format = {};  ///< by its content
    std::uint32_t width = 0, height = 0;
    std::optional<ImageLook> look = {};        ///< of pictures that have been looked into
    std::optional<TextureShape> texture = {};  ///< of texture files
    std::optional<Error> error = {};           ///< why it cannot be had
    std::optional<std::size_t> same_as = {};   ///< an earlier image with the same bytes
};

/// KHR_texture_transform: coordinates are scaled, turned and moved, in this order.
struct CoordinateTransform {
    std::array<float, 2> offset = {0, 0};
    float rotation = 0;  ///< radians
    std::array<float, 2> scale = {1, 1};
    /// As in `SurfaceTexture`, of models that scale after turning: it counts instead of the rest.
    std::optional<std::array<float, 6>> matrix = {};
};

/// How a texture of an older model lies over those before it in the same slot.
struct LayerBlend {
    std::string operation = "replace";  ///< multiply, add, subtract, divide, smooth add, signed add
    float strength = 1;
};

/// A texture in a material.
struct BoundTexture {
    Slot slot = Slot::base_color;
    std::size_t texture = 0;                ///< of the model's list
    std::optional<std::size_t> image = {};  ///< none: the texture has no image that is understood
    /// Where `image` is a baked one: that from which it was made, which every program reads.
    std::optional<std::size_t> ordinary_image = {};
    Sampler sampler = {};  ///< glTF's defaults where the model is silent
    std::uint32_t coordinate_set = 0;
    std::optional<CoordinateTransform> transform = {};
    float factor = 1;  ///< scale of a normal map, strength of an occlusion map
    std::optional<LayerBlend> layer = {};
};

struct ModelMaterial {
    Material surface = {};  ///< name, factors and alpha; its textures are below
    std::vector<BoundTexture> textures = {};
};

class ModelSource;  // the file behind a model; src/model/source.hpp

/// A model as it was read: what its materials show, and where each image comes from.
struct Model {
    std::filesystem::path file = {};
    /// In the file's order.
    std::vector<ModelImage> images = {};
    /// Of the images, as files; empty where one cannot be had. They live as long as `source`.
    std::vector<std::span<const std::byte>> contents = {};
    std::vector<ModelMaterial> materials = {};
    Findings findings = {};
    Limits limits = {};  ///< under which it was read, and its images will be
    std::vector<PictureReader> further_readers = {};  ///< with which it was read
    std::shared_ptr<const ModelSource> source = {};
};

/// What may be read, and how closely images are looked at. All parts may be left out.
struct ModelReadOptions {
    /// Of every image, and of the geometry.
    Limits limits = {};
    /// Of pictures in formats of the program's own: asked first, here and when textures are made.
    std::vector<PictureReader> further_readers = {};
    /// Bytes that a data URI may stand for; more belongs into a file.
    std::uint64_t max_data_uri = std::uint64_t{256} << 20;
    /// Images may lie outside of the model's folder, by ".." or absolute paths.
    bool allow_outside = false;
    /// Images are decoded, to know their format and size and whether they are whole.
    bool look_into_images = true;
    /// Where a texture has been baked for its role by this library, the baked image is taken.
    bool prefer_baked = true;
};

/// Reads a glTF 2.0 model, .gltf or .glb by its content, and all of its images as files. An image
/// that cannot be had is said in its `error` and in the findings, and stops nothing. Fails when the
/// model itself is broken: bad JSON, indices that are not there, lengths beyond the buffers.
[[nodiscard]] YL_API Result<Model> read_model(const std::filesystem::path& path,
                                              const ModelReadOptions& options = {});
/// The same from memory, which is copied; relative URIs are looked for in `folder`.
[[nodiscard]] YL_API Result<Model> read_model(std::span<const std::byte> bytes,
                                              const std::filesystem::path& folder,
                                              const ModelReadOptions& options = {});

/// The model's triangles, in parts of one material each; the number of materials stands for none.
/// Nodes stand where the file's scene puts them; skins and morph targets are at rest. Fails when
/// the geometry is broken; what is left out is added to the findings.
[[nodiscard]] YL_API Result<std::vector<Primitive>> primitives_of(const Model& model,
                                                                  Findings& findings);

}  // namespace yl::model
