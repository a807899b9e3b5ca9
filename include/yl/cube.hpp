// Cube maps: faces, directions, layouts, conventions, the order of six images, mip chains.
//
//     yl::Picture sky = yl::or_exit(yl::read_picture("sky_panorama.hdr"));
//     yl::Texture cube =
//         yl::or_exit(yl::cube_of_picture(sky, {.layout = yl::CubeLayout::panorama}));
//     double ratio = yl::or_exit(yl::measure_cube_seams(cube)).ratio();
#pragma once

#include <algorithm>
#include <array>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/edit.hpp>
#include <yl/picture.hpp>
#include <yl/progress.hpp>
#include <yl/resize.hpp>
#include <yl/texture.hpp>

namespace yl {

/// In the order that all graphics APIs use. Cube space is left-handed: a viewer inside who looks to
/// the front (+Z) with +Y up has +X on the right. Faces are seen from inside, row 0 at the top
/// (OpenGL 4.6, table 8.19; Vulkan 1.3, "Cube Map Face Selection").
enum class CubeFace : std::uint8_t { right, left, top, bottom, front, back };

/// In the order of the enumeration.
inline constexpr std::array<CubeFace, 6> all_cube_faces = {CubeFace::right, CubeFace::left,
                                                           CubeFace::top,   CubeFace::bottom,
                                                           CubeFace::front, CubeFace::back};

[[nodiscard]] YL_API std::string_view name(CubeFace face);       ///< "right"
[[nodiscard]] YL_API std::string_view axis_name(CubeFace face);  ///< "+X"

using Direction = std::array<double, 3>;  ///< x, y, z; of any length but 0

/// A place on a face: s to the right, t downwards, both 0 to 1 from edge to edge.
struct FacePoint {
    CubeFace face = CubeFace::right;
    double s = 0, t = 0;
};

/// Where a direction meets the cube.
[[nodiscard]] YL_API FacePoint face_point(const Direction& direction);

/// The direction of a point on a face; its largest coordinate is 1. Points beyond 0 to 1 lie on the
/// extended plane of the face.
[[nodiscard]] YL_API Direction direction_at(const FacePoint& point);

/// The solid angle of a texel of a face of `size` texels, in steradians; all of them add up to 4 pi
/// (Driscoll, "Cubemap Texel Solid Angle", 2012: by the areas of corners).
[[nodiscard]] YL_API double texel_solid_angle(std::uint32_t x, std::uint32_t y, std::uint32_t size);

/// Makes a cube of one level from six square images of one size and format, in the order of
/// `CubeFace`. Fails with `ErrorKind::usage`, naming the face that differs.
[[nodiscard]] YL_API Result<Texture> cube_of_faces(std::span<const ConstImageView, 6> faces,
                                                   const TextureMetadata& metadata = {});

/// How well the faces of one level join: the steps from texel to texel in the colour channel that
/// differs most, in cube roots of light, which is close to perceived lightness.
struct YL_API CubeSeams {
    double max_across = 0;  ///< between texels that meet at an edge of the cube
    double max_within = 0;  ///< between neighbours within a face
    double mean_across = 0;
    double mean_within = 0;

    /// 1 is a step like any other.
    [[nodiscard]] double ratio() const { return mean_across / std::max(mean_within, 1e-9); }
    /// Above this, and if the step is visible at all, the faces do not join.
    static constexpr double visible = 4;
    [[nodiscard]] bool shows() const { return mean_across > 0.02 && ratio() > visible; }
};

/// Fails with `ErrorKind::usage` when the texture is not a cube, and `unsupported` for block formats.
[[nodiscard]] YL_API Result<CubeSeams> measure_cube_seams(const Texture& cube,
                                                          std::uint32_t level = 0,
                                                          std::uint32_t layer = 0);

/// The frame of one image of a cube: the signed axes that its centre looks along and that its
/// columns and rows run along. `CubeFace` stands for an axis here: `right` is +X.
struct FaceFrame {
    CubeFace middle = CubeFace::right;
    CubeFace to_right = CubeFace::back;
    CubeFace downwards = CubeFace::bottom;

    friend bool operator==(const FaceFrame&, const FaceFrame&) = default;
};

/// The faces in the order they are stored, in the axes of their own world, and which of these axes
/// point to the right, up and ahead for a viewer.
struct CubeConvention {
    std::string name = {};
    std::string about = {};
    std::array<FaceFrame, 6> faces = {};
    std::array<CubeFace, 3> right_up_ahead = {CubeFace::right, CubeFace::top, CubeFace::front};
};

/// standard, right-handed, z-up, y-down, bottom-rows, from-outside, round.
[[nodiscard]] YL_API std::span<const CubeConvention> all_cube_conventions();

/// That of `CubeFace`.
[[nodiscard]] YL_API const CubeConvention& standard_cube_convention();

/// One of the names above; or six frames, each of three signed axes (middle, to the right,
/// downwards), and if wanted the axes at the right, above and ahead:
///     "+x-z-y -x+z-y +y+x+z -y+x-z +z+x-y -z-x-y ahead +x+y+z"
/// Fails with `ErrorKind::usage` for anything else, and for frames that are not a cube.
[[nodiscard]] YL_API Result<CubeConvention> parse_cube_convention(std::string_view text);

/// The text form of a convention.
[[nodiscard]] YL_API std::string cube_convention_text(const CubeConvention& convention);

/// Converts all levels and layers from one convention to another; the viewer sees the same. Fails
/// with `ErrorKind::usage` if the texture is not a cube.
[[nodiscard]] YL_API Result<Texture> with_convention(const Texture& cube,
                                                     const CubeConvention& from,
                                                     const CubeConvention& to);

/// How a single picture holds a whole cube. T, F, R, B, L, D are the faces top, front, right, back,
/// left and bottom (down).
enum class CubeLayout : std::uint8_t {
    horizontal_cross,  ///< 4 x 3 faces:  . T . .  /  L F R B  /  . D . .
    vertical_cross,    ///< 3 x 4 faces:  . T .  /  L F R  /  . D .  /  . B .  (B is half round)
    row,               ///< 6 x 1 faces: R L T D F B, the order of `CubeFace`
    column,            ///< 1 x 6 faces, the same order downwards
    panorama,     ///< 2 x 1, equirectangular: the middle column is the front, the top row the top
    angular_map,  ///< a disc: the front in its middle, the distance from it the angle
    /// A disc: a photograph of a mirror ball by a camera that looks to the front. The back is in
    /// the middle, the front at the rim.
    mirror_ball,
    half_panorama,  ///< 4 x 1: the upper half of a panorama, whose bottom row is the horizon
    /// Square: the octahedron |x| + |y| + |z| = 1 unfolded (Cigolle and others, 2014).
    /// The top is in the middle, the bottom at the corners, ahead at the upper edge.
    octahedral,
    /// 2 x 1: two paraboloids, the front on the left, the back on the right, each going on in its
    /// corners (Heidrich and Seidel, 1998).
    dual_paraboloid,
};

/// Of every layout.
[[nodiscard]] YL_API std::span<const CubeLayout> all_cube_layouts();

[[nodiscard]] YL_API std::string_view name(CubeLayout layout);  ///< "horizontal-cross" ...
[[nodiscard]] YL_API std::optional<CubeLayout> find_cube_layout(std::string_view name);

/// The layouts that a picture with these sides may have, the likeliest first.
[[nodiscard]] YL_API std::vector<CubeLayout> possible_cube_layouts(std::uint32_t width,
                                                                   std::uint32_t height);

/// The layout that a picture seems to have.
struct CubeLayoutGuess {
    CubeLayout layout = CubeLayout::panorama;
    std::uint32_t face_size = 0;
    /// Whether the content agrees: faces join and the rest of a cross is plain; a panorama's sides
    /// meet and its top and bottom rows are uniform; nothing is outside a disc.
    bool agrees = false;
    double misfit = 0;  ///< of faces, as in `FaceOrder`
};

/// Guesses by sides and content; nothing if no layout fits.
[[nodiscard]] YL_API std::optional<CubeLayoutGuess> guess_cube_layout(const Picture& picture);

/// Whether the picture contains each face texel by texel.
[[nodiscard]] YL_API bool is_cut_layout(CubeLayout layout);

struct CubeSourceOptions {
    std::optional<CubeLayout> layout = {};  ///< the likeliest one when left out
    /// Texels; crosses, rows and columns have one already. When left out a quarter of the width of
    /// a panorama or of two paraboloids, or half of a disc's or an octahedron's.
    std::optional<std::uint32_t> face_size = {};
};

/// The cube in a picture: one level, in the picture's format. Faces of crosses, rows and columns
/// are copied; panoramas and balls are filtered in linear light, with more samples where they are
/// finer than the faces. Fails with `ErrorKind::usage` if the sides do not fit the layout.
[[nodiscard]] YL_API Result<Texture> cube_of_picture(const Picture& picture,
                                                     const CubeSourceOptions& options = {});

/// One level of a cube as a picture in the cube's format; texels outside all faces are 0. `width`
/// is that of a panorama or ball; by default four or two faces. Fails with `ErrorKind::usage` if
/// the texture is not a cube or has no such level.
[[nodiscard]] YL_API Result<Image> picture_of_cube(const Texture& cube, CubeLayout layout,
                                                   std::uint32_t level = 0, std::uint32_t layer = 0,
                                                   std::optional<std::uint32_t> width = {});

/// The point of a direction in a picture of this layout, 0 to 1 across and down; and the inverse,
/// which is empty outside a disc. For all layouts that are not cut. Below the horizon a half
/// panorama repeats its last row.
[[nodiscard]] YL_API std::array<double, 2> place_of_direction(CubeLayout layout,
                                                              const Direction& direction);
[[nodiscard]] YL_API std::optional<Direction> direction_of_place(
    CubeLayout layout, const std::array<double, 2>& place);

/// The faces that six file names mean, by a word, letters, an axis or a number (right, rt, px,
/// posx, +x, east, 0 ...), in any case, set off or at the place where the names differ. Nothing
/// unless all six are told apart.
[[nodiscard]] YL_API std::optional<std::array<CubeFace, 6>> faces_by_name(
    std::span<const std::string, 6> names);

/// The image of one face.
struct PlacedFace {
    std::size_t image = 0;                        ///< which of the six
    Orientation orientation = Orientation::none;  ///< to be applied to it
};

using FaceArrangement = std::array<PlacedFace, 6>;  ///< in the order of `CubeFace`

/// What a program already knows about the faces. All members are optional.
struct OrderHints {
    /// The face of each image according to its name or the caller.
    std::optional<std::array<CubeFace, 6>> claimed = {};
    std::optional<std::size_t> top = {};    ///< the top image
    std::optional<std::size_t> front = {};  ///< the front image
    /// How often the search may try an image in a place. Beyond it ends with the best arrangement
    /// found so far (there is one always) and confidence 0. A sky takes a few thousand tries.
    std::size_t max_tries = 500'000;
};

/// Whether six names are, or end with, rt, lf, ft, bk, up and dn: the skies of many games, whose
/// sides run the other way round and whose top and bottom are rotated in ways that differ between
/// games.
[[nodiscard]] YL_API bool are_game_names(std::span<const std::string, 6> names);

/// The ways in which such names are meant: left and right as they are or exchanged, and every turn
/// of top and bottom. `claimed` is what the names say by themselves.
[[nodiscard]] YL_API std::vector<FaceArrangement> game_arrangements(
    const std::array<CubeFace, 6>& claimed);

/// Two faces that share an edge, and how badly they match.
struct FaceJoint {
    CubeFace a = CubeFace::right, b = CubeFace::right;
    std::size_t image_a = 0, image_b = 0;
    double misfit = 0;  ///< root mean square, in cube roots of light
};

/// An order of faces, and the evidence for it.
struct FaceOrder {
    FaceArrangement faces = {};
    double misfit = 0;      ///< over all twelve edges
    double confidence = 0;  ///< 0 to 1: how much better than any other way; 0 if not all were tried
    bool is_sure = false;   ///< whether that is enough to rely on
    /// Whether hints settle which way is up and ahead. Without hints the edges leave 48 ways to
    /// turn or mirror the whole cube.
    bool knows_up = false;
    FaceJoint worst = {};
    bool joins = false;  ///< whether even the worst edge is no worse than steps within faces
};

/// Finds the order and orientation of six images by the colours along their edges. Edges cannot
/// tell how the whole cube is turned or mirrored; of these 48 ways it takes the one that agrees
/// best with the hints and then mirrors and moves the fewest images. Fails with `ErrorKind::usage`
/// if the images differ in size or format or are not square.
[[nodiscard]] YL_API Result<FaceOrder> find_face_order(std::span<const ConstImageView, 6> images,
                                                       Transfer transfer,
                                                       const OrderHints& hints = {});

/// The same measures for a given arrangement.
[[nodiscard]] YL_API Result<FaceOrder> check_face_order(std::span<const ConstImageView, 6> images,
                                                        Transfer transfer,
                                                        const FaceArrangement& arrangement);

/// How the images differ from what is claimed: "left and right are exchanged", "the top is turned a
/// quarter to the right". Empty if they do not.
[[nodiscard]] YL_API std::vector<std::string> differences_in_words(
    const std::array<CubeFace, 6>& claimed, const FaceArrangement& found);

/// The cube of the arranged images.
/// Fails as `cube_of_faces` does.
[[nodiscard]] YL_API Result<Texture> arranged_cube(std::span<const ConstImageView, 6> images,
                                                   const FaceArrangement& arrangement,
                                                   const TextureMetadata& metadata = {});

/// How the levels of a cube are made. All members are optional.
struct CubeMipOptions {
    /// Applied across the edges of faces.
    Kernel kernel = {.kind = Kernel::Kind::triangle};
    /// Makes texels that meet at an edge or corner equal, for devices that do not filter across
    /// edges (OpenGL ES 2.0, WebGL 1).
    bool joined_edges = false;
    bool dither = false;
    /// Bit n tells that level n is there already: it stays as it is, and the next are made of it.
    std::uint32_t given_levels = 1;
    Progress progress = {};
};

/// Fills the levels of a cube or cube array. The kernel crosses edges and corners and weighs each
/// texel by its solid angle. The level of 2 x 2 texels is gathered around their directions; the
/// level of one texel is the mean of the face. Works in linear light; straight alpha weighs colour.
/// Fails with `ErrorKind::usage` if the texture is not a cube, and with `unsupported` for block
/// formats.
[[nodiscard]] YL_API Status build_cube_mips(Texture& cube, const CubeMipOptions& options = {});

}  // namespace yl
