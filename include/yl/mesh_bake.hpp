// A model's images as textures: in memory, on the model's triangles, and in a new model file. Needs
// YellowLattice::mesh.
#pragma once

#include <yl/container.hpp>
#include <yl/mesh_bindings.hpp>
#include <yl/progress.hpp>

namespace yl::mesh {

/// A texture as it is needed, or why it could not be made.
struct MadeTexture {
    std::optional<Texture> texture = {};
    std::optional<Error> error = {};
    Findings findings = {};
    std::uint32_t picture_width = 0, picture_height = 0;  ///< of what it was made from
};

/// Makes all textures, several at the same time; texture files within the model are taken as they
/// are. One that fails stops no other.
[[nodiscard]] std::vector<MadeTexture> make_textures(const Model& model,
                                                     const TextureBindings& bindings,
                                                     const BakeByRole& bake = BakeByRole(),
                                                     const Progress& progress = {});

/// The model's triangles with its textures, to be drawn. What is missing has a placeholder's
/// colour. Fails as `parts_of` does; what is left out is added to the findings.
[[nodiscard]] Result<MeshScene> scene_of(const Model& model, Findings& findings,
                                         const BakeByRole& bake = BakeByRole());

/// The name of the extension by which a texture names its baked images. Its `sources` are objects
/// with `source`, an image of the type image/ktx2, `role`, for masks `cutoff`, and `alpha` ("data")
/// where the alpha of a colour is no coverage:
///
///     "extensions": {"YL_baked_texture": {"sources": [{"source": 5, "role": "color"}]}}
inline constexpr std::string_view baked_extension = "YL_baked_texture";

struct ModelBakeOptions {
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
[[nodiscard]] Result<ModelBakeReport> bake_model(const Model& model,
                                                 const std::filesystem::path& output,
                                                 const ModelBakeOptions& options = {});

}  // namespace yl::mesh
