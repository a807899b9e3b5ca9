// The textures of a model: what they mean, where they come from, and how they are sampled. Needs
// YellowLattice::model.
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

/// What a material uses a texture for: the slots of glTF 2.0 and its ratified material extensions,
/// then those of older models.
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
    diffuse,              ///< the colour that belongs to specular_glossiness
    other,                ///< unknown
};

/// "base color", "normal" ...
[[nodiscard]] YL_API std::string_view name(Slot slot);
/// The role of textures in a slot.
[[nodiscard]] YL_API Role role_of(Slot slot);

enum class ImageSource : std::uint8_t {
    file,         ///< a file of its own
    data_uri,     ///< in the JSON
    buffer_view,  ///< in a buffer
    embedded,     ///< a file within the model
    raw_pixels,   ///< pixels within the model, provided as a PNG file
};

/// "file", "data URI" ...
[[nodiscard]] YL_API std::string_view name(ImageSource source);

/// What the pixels of an image suggest about its use.
struct ImageLook {
    ChannelUse channels = {};
    ContentMeasure content = {};
};

/// An image in the model's list.
struct ModelImage {
    std::string name = {};
    ImageSource source = ImageSource::file;
    std::string uri = {};             ///< as in the model; only the beginning of a data URI
    std::filesystem::path file = {};  ///< its file; empty if the model was read from memory
    std::uint64_t bytes = 0;
    std::string file_format = {};  ///< by its content
    std::uint32_t width = 0, height = 0;
    std::optional<ImageLook> look = {};        ///< if its pixels were examined
    std::optional<TextureShape> texture = {};  ///< if it is a texture file
    std::optional<Error> error = {};           ///< why it cannot be read
    std::optional<std::size_t> same_as = {};   ///< an earlier image with the same bytes
};

/// KHR_texture_transform: scales, rotates and moves coordinates, in this order.
struct CoordinateTransform {
    std::array<float, 2> offset = {0, 0};
    float rotation = 0;  ///< radians
    std::array<float, 2> scale = {1, 1};
    /// For models that scale after rotating; replaces the other members. As in `SurfaceTexture`.
    std::optional<std::array<float, 6>> matrix = {};
};

/// How a texture is blended over the earlier ones in the same slot, in older models.
struct LayerBlend {
    std::string operation = "replace";  ///< multiply, add, subtract, divide, smooth add, signed add
    float strength = 1;
};

/// A texture in a material.
struct BoundTexture {
    Slot slot = Slot::base_color;
    std::size_t texture = 0;                ///< index in the model's list
    std::optional<std::size_t> image = {};  ///< none if the texture has no known image
    /// If `image` is a baked texture: the image that it was made from.
    std::optional<std::size_t> ordinary_image = {};
    Sampler sampler = {};  ///< with glTF's defaults
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

/// A model: what its materials show, and where each image comes from.
struct Model {
    std::filesystem::path file = {};
    /// In the order of the file.
    std::vector<ModelImage> images = {};
    /// The content of each image as a file; empty if it cannot be read. Valid as long as `source`.
    std::vector<std::span<const std::byte>> contents = {};
    std::vector<ModelMaterial> materials = {};
    Findings findings = {};
    Limits limits = {};                               ///< used for the model and its images
    std::vector<PictureReader> further_readers = {};  ///< used for its images
    std::shared_ptr<const ModelSource> source = {};
};

/// What to read, and how closely to examine images. All members are optional.
struct ModelReadOptions {
    /// For every image and for the geometry.
    Limits limits = {};
    /// Your own readers, tried first, here and when textures are made.
    std::vector<PictureReader> further_readers = {};
    /// Where the model's path and those of its images and buffers lead; null: the disk. For glTF:
    /// Assimp reads from the disk alone.
    std::shared_ptr<const Files> files = {};
    /// The largest content of a data URI in bytes.
    std::uint64_t max_data_uri = std::uint64_t{256} << 20;
    /// Allows images outside the model's folder, by ".." or absolute paths.
    bool allow_outside = false;
    /// Decodes images to learn their format and size and whether they are intact.
    bool look_into_images = true;
    /// Uses the baked image of textures that this library baked for their role.
    bool prefer_baked = true;
};

/// Reads a glTF 2.0 model, .gltf or .glb by its content, and the files of all its images. An image
/// that cannot be read gets an `error` and a finding; the model is still read. Fails if the model
/// itself is damaged: bad JSON, invalid indices, lengths beyond the buffers.
[[nodiscard]] YL_API Result<Model> read_model(const std::filesystem::path& path,
                                              const ModelReadOptions& options = {});
/// The same from memory, which is copied; relative URIs are resolved in `folder`.
[[nodiscard]] YL_API Result<Model> read_model(std::span<const std::byte> bytes,
                                              const std::filesystem::path& folder,
                                              const ModelReadOptions& options = {});

/// The triangles of the model, split by material; a material index equal to the number of materials
/// means none. Nodes are placed as in the file's scene; skins and morph targets are at rest. Fails
/// if the geometry is damaged; what is left out gets a finding.
[[nodiscard]] YL_API Result<std::vector<Primitive>> primitives_of(const Model& model,
                                                                  Findings& findings);

}  // namespace yl::model
