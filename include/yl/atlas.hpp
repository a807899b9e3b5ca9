// Many pictures on one texture, and the table that says where each of them is.
//
//     yl::Picture leaf = yl::or_exit(yl::read_picture("leaf.png"));
//     yl::Picture pot = yl::or_exit(yl::read_picture("pot.png"));
//     const std::array<yl::AtlasPicture, 2> pictures = {{{"leaf", &leaf}, {"pot", &pot}}};
//     yl::Atlas atlas = yl::or_exit(yl::make_atlas(pictures));
//     yl::or_exit(yl::write_texture("sprites.ktx2", atlas.baked.texture));
//     const yl::PartCoordinates where = yl::part_coordinates(atlas.table, atlas.table.parts[0]);
#pragma once

#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/bake.hpp>
#include <yl/edit.hpp>
#include <yl/files.hpp>

namespace yl {

/// A picture for an atlas. It has to outlive the call.
struct AtlasPicture {
    std::string name = {};  ///< of its part; no two have the same
    const Picture* picture = nullptr;
    /// In pixels from the top left corner of the picture; by default its middle.
    std::optional<std::array<float, 2>> pivot = {};
    bool repeats = false;  ///< a tile: its gutters show its other side, and it is not trimmed
    double seconds = 0;    ///< how long it is shown as a frame of a flipbook; 0: not known
};

/// Where a picture is on the atlas. Sizes are in texels of level 0.
struct AtlasPart {
    std::string name = {};
    std::uint32_t layer = 0;
    Box box = {};   ///< its texels
    Box cell = {};  ///< these and the gutters around them
    /// Rotated clockwise by a quarter: `box` is as high as the part of the picture is wide.
    bool is_turned = false;
    bool repeats = false;
    std::array<std::uint32_t, 2> picture_size = {};  ///< before it was trimmed
    std::array<std::uint32_t, 2> trimmed = {};       ///< columns on the left and rows at the top
    std::array<float, 2> pivot = {};                 ///< in pixels of the whole picture

    friend bool operator==(const AtlasPart&, const AtlasPart&) = default;
};

/// Parts that are the frames of an animation.
struct Flipbook {
    std::string name = {};
    std::vector<std::string> parts = {};  ///< in their order
    std::vector<double> seconds = {};     ///< of each; empty if not known

    friend bool operator==(const Flipbook&, const Flipbook&) = default;
};

/// What an atlas holds.
struct YL_API AtlasTable {
    std::uint32_t width = 0;  ///< texels
    std::uint32_t height = 0;
    std::uint32_t layers = 1;
    /// Up to this mip level no texel mixes two parts, and bilinear filtering within a part's box
    /// reads nothing else.
    std::uint32_t last_clean_level = 0;
    std::vector<AtlasPart> parts = {};
    std::vector<Flipbook> flipbooks = {};

    /// The part with this name, or null.
    [[nodiscard]] const AtlasPart* find(std::string_view name) const;

    friend bool operator==(const AtlasTable&, const AtlasTable&) = default;
};

/// All members are optional.
struct YL_API AtlasOptions {
    /// Applies to every picture. `max_side` (4096 when left out) and `power_of_two` are about the
    /// atlas; `mips.edges` is for each part to say. `given`, `normals`, `first_level` and rows from
    /// the bottom are refused. Without `levels` the chain ends with the last clean one.
    BakeOptions bake = BakeOptions();
    /// The last mip level that must not mix parts, 0 to 8: cells are aligned to 2 to this power
    /// (of blocks, in block formats), and gutters are as wide.
    std::uint32_t last_clean_level = 2;
    /// Without `bake.levels`: all levels, of which those after the last clean one mix parts.
    bool full_chain = false;
    bool trim = true;     ///< leave out transparent borders
    bool turn = false;    ///< rotate parts where that saves room; not those that repeat
    bool layers = false;  ///< several layers of one size if one does not suffice
    /// An older atlas: parts that still fit into their cells stay where they are. May be null.
    const AtlasTable* keep = nullptr;
};

/// An atlas, and what was noticed.
struct Atlas {
    Baked baked = {};
    AtlasTable table = {};
    double unused = 0;         ///< share of the texels that are in no cell
    std::size_t kept = 0;      ///< parts that are where `AtlasOptions::keep` has them
    std::size_t bordered = 0;  ///< pictures with transparent borders, trimmed or not
};

/// Packs pictures into one texture, or into the layers of one. Every part gets its own mip chain, by
/// any kernel, before it is put on the atlas; its gutters continue its outermost texels, or the
/// tile. The same input gives the same atlas. The parts of names that end in numbers become
/// flipbooks ("walk_0", "walk_1").
///
/// Cells are packed by the best fit on a skyline (Burke, Kendall and Whitwell, "A New Placement
/// Heuristic for the Orthogonal Stock-Cutting Problem", Operations Research 52, 2004) for many
/// widths, of which the one with the least area is taken; beside kept parts, into maximal free
/// rectangles (Jylanki, "A Thousand Ways to Pack the Bin", 2010). Role normal is not turned, since
/// that would turn its directions.
///
/// Fails with `ErrorKind::usage`, naming the picture, for names that are empty or taken, and as
/// `bake_array` does; with `limit` if the pictures do not fit into `bake.max_side`.
[[nodiscard]] YL_API Result<Atlas> make_atlas(std::span<const AtlasPicture> pictures,
                                              const AtlasOptions& options = {});

/// The table as JSON; the guide's page on atlases describes it. `texture` is the name of the file.
[[nodiscard]] YL_API std::string atlas_table_text(const AtlasTable& table,
                                                  std::string_view texture = {});

/// The table of such a text. Fails with `ErrorKind::malformed`, saying which entry is wrong.
[[nodiscard]] YL_API Result<AtlasTable> parse_atlas_table(std::string_view text);

/// The same from and to files. Writing replaces a file whole or not at all. Fails as
/// `parse_atlas_table` and as reading and writing files do. Null `files`: of the disk.
[[nodiscard]] YL_API Result<AtlasTable> read_atlas_table(
    const std::filesystem::path& path, const std::shared_ptr<const Files>& files = {});
[[nodiscard]] YL_API Status write_atlas_table(const std::filesystem::path& path,
                                              const AtlasTable& table,
                                              std::string_view texture = {});

/// How to read a part with coordinates of its picture, 0 to 1 over all of it.
struct PartCoordinates {
    /// Row by row: (u', v') on the atlas = matrix * (u, v, 1).
    std::array<float, 6> atlas_from_picture = {1, 0, 0, 0, 1, 0};
    /// Least u and v, greatest u and v that the atlas holds; the picture is transparent beyond.
    std::array<float, 4> box = {0, 0, 1, 1};
    /// Width and height of the atlas at its last clean level. Where the footprint of a pixel grows
    /// beyond half a texel of that level, anisotropic filters give way to trilinear ones, at that
    /// level at most, so that they stay within the gutters; 0: they never do.
    std::array<float, 2> last_level_size = {0, 0};
    bool repeats = false;  ///< coordinates beyond 0 to 1 begin again

    friend bool operator==(const PartCoordinates&, const PartCoordinates&) = default;
};

/// The coordinates of a part of the table.
[[nodiscard]] YL_API PartCoordinates part_coordinates(const AtlasTable& table,
                                                      const AtlasPart& part);

/// A function for shaders (GLSL 3.30, GLSL ES 3.00 or Vulkan's) that reads a part:
///
///     vec4 read_part(sampler2D atlas, vec3 row_u, vec3 row_v, vec4 box, vec2 last_level_size,
///                    bool repeats, vec2 uv)
///
/// with the members of `PartCoordinates`. Derivatives are taken before a tile begins again, so that
/// no line shows there, and no level beyond the clean ones is read.
[[nodiscard]] YL_API std::string_view part_shader();

}  // namespace yl
