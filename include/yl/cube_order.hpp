// Which of six images is which face of a cube, and how it is turned.
#pragma once

#include <optional>
#include <string>
#include <vector>
#include <yl/cube.hpp>
#include <yl/turn.hpp>

namespace yl {

/// What names say: for each file the face whose word, letters, axis or number its name holds
/// (right, rt, px, posx, +x, east, 0 ...), in any case, set off or at the place where the six names
/// differ. Nothing unless all six are told apart.
[[nodiscard]] std::optional<std::array<CubeFace, 6>> faces_by_name(
    std::span<const std::string, 6> names);

/// One image's place.
struct PlacedFace {
    std::size_t image = 0;   ///< which of the six
    Turn turn = Turn::none;  ///< what has to be done to it
};

using FaceArrangement = std::array<PlacedFace, 6>;  ///< in the order of `CubeFace`

struct OrderHints {
    /// What names or the caller say of each image.
    std::optional<std::array<CubeFace, 6>> claimed = {};
    std::optional<std::size_t> top = {};    ///< the image that is above
    std::optional<std::size_t> front = {};  ///< the image that is ahead
};

/// Whether six names are rt, lf, ft, bk, up and dn, or end so: the skies of many games, whose sides
/// go round the other way and whose top and bottom are turned, each game's in its own way.
[[nodiscard]] bool are_game_names(std::span<const std::string, 6> names);

/// The ways in which such names are meant: left and right as they are or exchanged, and every turn
/// of top and bottom. `claimed` is what the names say by themselves.
[[nodiscard]] std::vector<FaceArrangement> game_arrangements(
    const std::array<CubeFace, 6>& claimed);

/// Two faces that meet, and how badly.
struct FaceJoint {
    CubeFace a = CubeFace::right, b = CubeFace::right;
    std::size_t image_a = 0, image_b = 0;
    double misfit = 0;  ///< root mean square, in cube roots of light
};

struct FaceOrder {
    FaceArrangement faces = {};
    double misfit = 0;      ///< over all twelve edges
    double confidence = 0;  ///< 0 to 1: how much better than any other way to join them
    bool is_sure = false;   ///< whether that is enough to rely on
    /// Whether more than the edges tells which way is up and ahead, and what is mirrored. Without,
    /// it is one of the ways to turn the whole cube.
    bool knows_up = false;
    FaceJoint worst = {};
    bool joins = false;  ///< whether the worst joint is like a step within the faces
};

/// Finds how the images join, by the colours along their edges alone. Edges are the same however
/// the whole cube is turned or mirrored; of those 48 ways the one is chosen that agrees best with
/// the hints, and, that being equal, needs the fewest images mirrored and moved. Fails with
/// `ErrorKind::usage` when the images differ in size or format or are not square.
[[nodiscard]] Result<FaceOrder> find_face_order(std::span<const ConstImageView, 6> images,
                                                Transfer transfer, const OrderHints& hints = {});

/// The same measures for a given arrangement.
[[nodiscard]] Result<FaceOrder> check_face_order(std::span<const ConstImageView, 6> images,
                                                 Transfer transfer,
                                                 const FaceArrangement& arrangement);

/// What is wrong with the images as claimed: "left and right are exchanged", "the top is turned a
/// quarter to the right". Empty when nothing is.
[[nodiscard]] std::vector<std::string> differences_in_words(const std::array<CubeFace, 6>& claimed,
                                                            const FaceArrangement& found);

/// The cube of the arranged images.
[[nodiscard]] Result<Texture> arranged_cube(std::span<const ConstImageView, 6> images,
                                            const FaceArrangement& arrangement,
                                            const TextureTraits& traits = {});

}  // namespace yl
