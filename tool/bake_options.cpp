// The options of ylat bake.
#include "bake.hpp"

namespace ylat {
namespace {

OptionTable stack_options(Bake& bake) {
    return {
        "Several pictures",
        {{"--array",
          &bake.array,
          "",
          "The pictures, or textures, become the layers of an array",
          {.rules =
               {refused_without(stacks | bakes_one, "a texture is an array or a volume, not both"),
                idle_without(keeps_array, "DDS cannot tell an array of one layer from no array")}}},
         {"--volume", &bake.volume, "", "The pictures become the slices of a 3D texture"},
         {"--frames",
          &bake.frames,
          "",
          "All frames of animations and pages of files, not the first alone; their times go into "
          "the "
          "texture's key-value pairs",
          {.rules = {refused_without(stacks, "it goes with --array or --volume"),
                     idle_without(has_frames, "no file has more than one")}}},
         {"--slices",
          &bake.slices,
          "N",
          "The one picture is a strip of so many slices, side by side or one above the other, such "
          "as a colour lookup table; its role is data unless said otherwise",
          {.allowed = in_range(1, 2048),
           .rules = {refused_without(cuts_strip, "it goes with --volume and one picture")}}},
         {"--role-of",
          &bake.role_patterns,
          "PATTERN=ROLE",
          "Into a folder: files whose names match, with * and ?, have this role; without it, names "
          "such as wall_normal tell theirs",
          {.rules = {refused_without(bakes_many, "it goes with a folder as the output")}}},
         {"--sizes",
          &bake.sizes,
          "refuse|resize|pad",
          "Pictures of other sizes than the first: refuse them, resize them to its size, or pad "
          "all to the largest",
          {.allowed = one_of({"refuse", "resize", "pad"}),
           .rules = {refused_without(stacks, "it goes with --array or --volume"),
                     idle_without(differs_in_size, "the pictures have one size")}}}}};
}

OptionTable main_options(Bake& bake) {
    return {
        .rows = {
            {"--as", &bake.format, "FORMAT",
             "The pixel format, such as rgba8-srgb or bc7 (-srgb or -unorm by role); bc, "
             "etc or astc picks the block format that suits the role, astc:3.5bpp one of so many "
             "bits "
             "a texel. Without it, an uncompressed format by role"},
            {"--levels", &bake.levels, "full|N", "How many mip levels, or full"},
            {"--origin", &bake.origin, "top|bottom", "Which row comes first: top or bottom"},
            {"--by-rows",
             &bake.by_rows,
             "",
             "Hold some rows of the picture in memory alone, however large it is (PNG, TIFF); the "
             "file is the same. Pictures too large to be read whole are made so anyway",
             {.rules = {refused_without(reads_rows,
                                        "it goes with one picture and a file for its texture")}}},
            {"--supercompress",
             &bake.supercompression,
             "SCHEME",
             "Compress each level: none, zlib[:LEVEL] or zstd[:LEVEL]",
             {.rules = {refused_without(to_ktx2, "a DDS file is not packed: write .ktx2")}}},
            {"--sampler", &bake.sampler, "SAMPLER", "The sampler to store with the texture"},
            {"--old-header",
             &bake.old_header,
             "",
             "DDS: write the header without the DX10 extension, for old programs",
             {.rules = {refused_without(
                  to_dds, "the output is not a DDS file, which alone has an old header")}}}}};
}

constexpr const char* one_level = "there is one level alone, and nothing is filtered";

OptionTable filter_options(Bake& bake) {
    return {
        chain_heading,
        {{"--filter",
          &bake.filter,
          "FILTER",
          "box, triangle, mitchell, catmull-rom, cubic:B,C, lanczos:RADIUS or kaiser:RADIUS,SHAPE "
          "(for color and normal: kaiser with limited ringing; otherwise box)",
          {.rules = {idle_without(filters, one_level)}}},
         {"--edge",
          &bake.edges,
          "EDGE",
          "What filters see beyond the edges: clamp, repeat or mirror; two of them for u and v",
          {.rules = {idle_without(
               looks_beyond, "nothing is filtered, or by a box, which stays within the edges")}}},
         {"--reduce",
          &bake.reduction,
          "HOW",
          "What a texel becomes of those that it covers: their average, minimum or maximum",
          {.allowed = one_of({"average", "minimum", "maximum"}),
           .rules = {idle_without(makes_levels, one_level)}}},
         {"--from-top",
          &bake.mips.from_top,
          "",
          "Filter every level from level 0 instead of from the level above",
          {.rules = {idle_without(makes_many_levels, "there is no third level")}}},
         {"--limit-ringing",
          &bake.limit_ringing,
          "",
          "Keep every texel within the range of those that it covers",
          {.rules = {idle_without(rings, "the kernel does not ring, or is limited already")}}},
         {"--dither",
          &bake.mips.dither,
          "",
          "Turn rounding errors into fine noise",
          {.rules = {idle_without(rounds, "floating point is not rounded to codes")}}},
         {"--plain-chain",
          &bake.plain_chain,
          "",
          "Average the stored numbers, whatever the role",
          {.rules = {idle_without(averages_by_role,
                                  "the numbers are averaged as they are stored anyway")}}}}};
}

OptionTable appearance_options(Bake& bake) {
    return {
        chain_heading,
        {{"--coverage",
          &bake.coverage,
          "THRESHOLD",
          "Keep the share of texels that pass an alpha test at this threshold the same at every "
          "level",
          {.rules = {refused_without(is_flat, "volumes have no alpha test to keep"),
                     idle_without(tests_alpha,
                                  "alpha is 1 everywhere, or there is one level alone")}}},
         {"--fade",
          &bake.fade,
          "BEGIN..END",
          "Fade to the mean colour between these two levels",
          {.rules = {idle_without(makes_levels, one_level)}}},
         {"--normals",
          &bake.normals,
          "FILE",
          "Roles data and mask: widen roughness where the normals of this map are averaged away",
          {.rules = {refused_without(is_flat, "volumes have no normal map"),
                     refused_without(
                         role_of_numbers,
                         "it widens roughness, which is not a colour: add --role data or "
                         "--role mask"),
                     idle_without(makes_levels, one_level)}}},
         {"--sharpen",
          &bake.mips.sharpen,
          "AMOUNT",
          "Sharpen each level, by 0 to 2",
          {.rules = {refused_without(is_flat, "volumes are not sharpened"),
                     idle_without(makes_levels, one_level)}}},
         {"--dim-fireflies",
          &bake.mips.guard_fireflies,
          "",
          "Floating point: dim single texels that are far brighter than their neighbours, and say "
          "how much light that removes",
          {.rules = {idle_without(is_light, "the input is not in floating point")}}}}};
}

OptionTable size_options(Bake& bake) {
    return {
        chain_heading,
        {{"--level",
          &bake.given,
          "N=FILE",
          "Use this picture for a level instead of filtering it",
          {.rules = {refused_without(bakes_one, "levels are given to single pictures only")}}},
         {"--stored-levels",
          &bake.stored_levels,
          "",
          "Take the levels that the picture's file stores, as OpenEXR with tiles can, and filter "
          "those alone that it lacks",
          {.rules = {refused_without(reads_picture, "it goes with one picture"),
                     idle_without(stores_levels, "the picture's file stores one level")}}},
         {"--first-level", &bake.first_level, "N", "Leave out the levels before this one"},
         {"--max-size",
          &bake.max_size,
          "TEXELS",
          "Shrink pictures that are larger",
          {.allowed = in_range(1, 65536),
           .rules = {idle_without(exceeds_size, "no side is longer")}}},
         {"--pow2",
          &bake.power_of_two,
          "HOW",
          "Resize to powers of two: nearest, up or down",
          {.allowed = one_of({"any", "nearest", "up", "down"}),
           .rules = {idle_without(has_odd_sides, "both sides are powers of two already")}}}}};
}

}  // namespace

void add_bake_options(const std::shared_ptr<Bake>& bake) {
    Command& command = bake->command;
    command.add(
        {.rows = {{"INPUT",
                   &bake->paths,
                   "",
                   "A picture file, or - for standard input. Or a texture file, which "
                   "keeps its levels unless an option asks for new ones; or a colour lookup "
                   "table (.cube)",
                   {.reads_pipes = true}}}});
    command.add_output(
        bake->output, "OUT",
        "The texture file to write (.ktx2, .dds); or a folder, which gets a .ktx2 of "
        "each input");
    command.add(input_options(
        bake->inputs,
        {.role = {idle_without(role_matters,
                               "the texels and what is said of them stay as they are")},
         .alpha = {idle_without(has_alpha, "the texture has no alpha that is not 1")}}));
    for (const OptionTable& table :
         {picture_options(bake->inputs, has_profile), main_options(*bake), stack_options(*bake),
          block_options(bake->blocks), filter_options(*bake), appearance_options(*bake),
          size_options(*bake)})
        command.add(table);
}

}  // namespace ylat
