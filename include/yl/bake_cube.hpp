// From one picture or six to a cube map: faces put in order, chain, prefiltering.
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

/// A level that is there already: one picture with a layout, or six faces in the order of the
/// pictures of level 0.
struct GivenCubeLevel {
    std::uint32_t level = 1;
    std::vector<std::shared_ptr<const Picture>> pictures = {};
};

/// Every part may be left out.
struct YL_API CubeBakeOptions {
    std::optional<Role> role =
        {};  ///< hdr for pictures in floating point, else color; not normal or height
    std::optional<Format> format = {};     ///< of the texture; the role's when left out
    bool compressed = false;               ///< without a format: BC6H for light, BC7 for colours
    BlockOptions blocks = BlockOptions();  ///< of block formats
    std::optional<std::uint32_t> levels = {};  ///< a full chain when left out
    CubeSourceOptions source = {};             ///< of one picture
    /// How the faces are stored, and in which world; the names of six pictures speak of its axes.
    CubeConvention convention = standard_cube_convention();
    bool reorder = false;                   ///< follow the edges, also against names and layout
    std::optional<std::size_t> top = {};    ///< the picture, of six, that is above
    std::optional<std::size_t> front = {};  ///< the picture that is ahead
    std::array<Orientation, 6> orientations = {
        Orientation::none, Orientation::none, Orientation::none,
        Orientation::none, Orientation::none, Orientation::none};  ///< done to each face
    CubeMipOptions mips = {};
    CubePrefilter prefilter = CubePrefilter::none;
    SpecularOptions specular = {};
    std::vector<GivenCubeLevel> given = {};
    std::optional<Sampler> sampler = {};
    Progress progress = {};  ///< of all phases
};

/// A cube made of pictures, and what was noticed on the way.
struct BakedCube {
    /// Faces in the standard order.
    Texture texture = {};
    Findings findings = {};
    std::string source = {};                ///< "six pictures, ordered by name" ...
    std::optional<FaceOrder> order = {};    ///< what the edges say, of six pictures
    std::vector<std::string> changes = {};  ///< what the edges find wrong, in words
    bool followed_edges = false;            ///< whether that was put right
    std::optional<SphericalHarmonics> harmonics =
        {};  ///< with the diffuse prefilter; in the notes as well
};

/// `names` are those of the pictures' files. Six pictures are ordered by their names; where these
/// say nothing, by their edges. Fails with `ErrorKind::usage` when the pictures are no cube: other
/// numbers than one or six, sides that fit no layout or differ, edges that do not join although the
/// order depends on them.
[[nodiscard]] YL_API Result<BakedCube> bake_cube(std::span<const Picture* const> pictures,
                                                 std::span<const std::string> names,
                                                 const CubeBakeOptions& options = {});

}  // namespace yl
