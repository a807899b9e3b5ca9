// Cube maps from one picture or six: face order, mip chain, prefiltering.
//
//     yl::Picture sky = yl::or_exit(yl::read_picture("sky_panorama.hdr"));
//     const std::array<const yl::Picture*, 1> pictures = {&sky};   // or six faces
//     yl::BakedCube baked = yl::or_exit(yl::bake_cube(pictures, {}));
//     yl::or_exit(yl::write_texture("sky.ktx2", baked.texture));
#pragma once

#include <string>
#include <yl/api.hpp>
#include <yl/bake.hpp>
#include <yl/cube.hpp>
#include <yl/environment.hpp>
#include <yl/progress.hpp>

namespace yl {

enum class CubePrefilter : std::uint8_t { none, specular, diffuse };

/// Pictures to use for a level: one with a layout, or six faces in the order of those of level 0.
struct GivenCubeLevel {
    std::uint32_t level = 1;
    std::vector<std::shared_ptr<const Picture>> pictures = {};
};

/// All members are optional.
struct YL_API CubeBakeOptions {
    std::optional<Role> role =
        {};  ///< hdr for pictures in floating point, else color; not normal or height
    std::optional<Format> format = {};  ///< by role when left out
    /// Without a format: of this family, the block format that suits the role.
    BlockFamily compressed = BlockFamily::none;
    float bits_per_texel = 0;                  ///< with ASTC, see `BakeOptions`
    BlockOptions blocks = BlockOptions();      ///< of block formats
    std::optional<std::uint32_t> levels = {};  ///< a full chain when left out
    CubeSourceOptions source = {};             ///< for a single picture
    /// How the faces are stored, and the axes of their world, which the names of six pictures use.
    CubeConvention convention = standard_cube_convention();
    bool reorder = false;                   ///< trust the edges more than names and layout
    std::optional<std::size_t> top = {};    ///< which of six pictures is the top
    std::optional<std::size_t> front = {};  ///< which of six pictures is the front
    std::array<Orientation, 6> orientations = {
        Orientation::none, Orientation::none, Orientation::none,
        Orientation::none, Orientation::none, Orientation::none};  ///< applied to each face
    CubeMipOptions mips = {};
    CubePrefilter prefilter = CubePrefilter::none;
    SpecularOptions specular = {};
    std::vector<GivenCubeLevel> given = {};
    std::optional<Sampler> sampler = {};
    Progress progress = {};  ///< reports all phases
};

/// A cube made from pictures, and what was noticed.
struct BakedCube {
    /// Faces in the standard order.
    Texture texture = {};
    Findings findings = {};
    std::string source = {};                ///< "six pictures, ordered by name" ...
    std::optional<FaceOrder> order = {};    ///< for six pictures: the order found by edges
    std::vector<std::string> changes = {};  ///< what the edges contradict, in words
    bool followed_edges = false;            ///< whether that was corrected
    std::optional<SphericalHarmonics> harmonics =
        {};  ///< with the diffuse prefilter; also in the key values
};

/// `names` are the file names. Six pictures are ordered by their names or, if these say nothing, by
/// their edges. Fails with `ErrorKind::usage` if the pictures make no cube: neither one nor six,
/// sides that fit no layout or differ, or edges that do not join although the order depends on
/// them.
[[nodiscard]] YL_API Result<BakedCube> bake_cube(std::span<const Picture* const> pictures,
                                                 std::span<const std::string> names,
                                                 const CubeBakeOptions& options = {});

}  // namespace yl
