// ylat atlas: many pictures on one texture, with a table of where each is.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>

#include <yl/status_macros.hpp>

#include "archives.hpp"
#include "arguments.hpp"
#include "blocks.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "outputs.hpp"

namespace ylat {
namespace {

enum AtlasFact : Facts {
    to_ktx2 = 1U << 0U,
    trims = 1U << 1U,       ///< some picture has transparent borders
    may_turn = 1U << 2U,    ///< some picture is not a tile
    has_alpha = 1U << 3U,   ///< that is not 1 everywhere
    has_levels = 1U << 4U,  ///< after the first
    has_profile = 1U << 5U,
    has_frames = 1U << 6U,  ///< some file has several

};

struct AtlasCommand {
    Session& session;
    Command command;
    std::vector<std::string> paths = {};
    std::string output = {};
    std::string table_path = {}, keep_path = {};
    InputChoices inputs = {};
    std::string format = {}, levels = {}, supercompression = "none", sampler = {}, filter = {};
    std::string power_of_two = "any";
    std::uint32_t clean_levels = 2, max_size = 4096;
    bool turn = false, keep_borders = false, layers = false, frames = false;
    std::vector<std::string> tiles = {}, pivots = {};
    std::optional<float> coverage = {};
    BlockChoices blocks = {};

    /// The name of a file's part: what it is called without its folder and ending.
    static std::string name_of(const std::string& path) {
        return std::filesystem::path(path).stem().string();
    }

    [[nodiscard]] std::string path_of_table() const {
        if (!table_path.empty())
            return table_path;
        return std::filesystem::path(output).replace_extension(".json").string();
    }

    yl::Status check() const {
        YL_TRY([[maybe_unused]] const auto parsed, options());
        YL_TRY([[maybe_unused]] const auto packing, parse_supercompression(supercompression));
        return {};
    }

    yl::Result<yl::AtlasOptions> options() const {
        yl::AtlasOptions result;
        yl::BakeOptions& bake = result.bake;
        YL_TRY(const auto chosen, parse_inputs(inputs));
        bake.role = chosen.role;
        bake.alpha = chosen.alpha;
        bake.transfer = chosen.transfer;
        YL_CHECK(parse_if_given(levels, parse_levels, bake.levels));
        YL_CHECK(choose_format(format, bake.role.value_or(yl::Role::color), bake));
        YL_CHECK(parse_if_given(sampler, parse_sampler_option, bake.sampler));
        if (!filter.empty()) {
            const auto kernel = yl::parse_kernel(filter);
            if (!kernel)
                return yl::fail_at(kernel.error(), "--filter");
            bake.mips.kernel = *kernel;
        }
        result.full_chain = levels == "full";
        bake.coverage = coverage;
        bake.max_side = max_size;
        bake.power_of_two = named_power_of_two(power_of_two);
        bake.blocks = blocks.options();
        bake.progress = session.progress();
        result.last_clean_level = clean_levels;
        result.trim = !keep_borders;
        result.turn = turn;
        result.layers = layers;
        return result;
    }

    /// The picture of a part by its name, or an error that names the option.
    yl::Result<yl::AtlasPicture*> find(std::vector<yl::AtlasPicture>& pictures,
                                       const std::string& name, const char* option) const {
        const auto found = std::ranges::find(pictures, name, &yl::AtlasPicture::name);
        if (found == pictures.end())
            return yl::fail_at({yl::ErrorKind::usage,
                                fmt::format("no picture has the name '{}'; a name is that of the "
                                            "file without its ending",
                                            name)},
                               option);
        return &*found;
    }

    yl::Status mark_tiles_and_pivots(std::vector<yl::AtlasPicture>& pictures) const {
        for (const std::string& name : tiles) {
            YL_TRY(yl::AtlasPicture* const picture, find(pictures, name, "--tile"));
            picture->repeats = true;
        }
        for (const std::string& text : pivots) {
            const std::size_t equals = text.rfind('=');
            const std::size_t comma = text.find(',', equals == std::string::npos ? 0 : equals);
            if (equals == std::string::npos || comma == std::string::npos)
                return yl::fail_at({yl::ErrorKind::usage,
                                    fmt::format("'{}' is not understood; it takes NAME=X,Y", text)},
                                   "--pivot");
            YL_TRY(yl::AtlasPicture* const picture,
                   find(pictures, text.substr(0, equals), "--pivot"));
            constexpr float most = 65536;
            YL_TRY(const float x, parse_number(text.substr(equals + 1, comma - equals - 1),
                                               "--pivot", -most, most, "pixels"));
            YL_TRY(const float y,
                   parse_number(text.substr(comma + 1), "--pivot", -most, most, "pixels"));
            picture->pivot = std::array{x, y};
        }
        return {};
    }

    [[nodiscard]] Facts early_facts() const {
        return when(lower_case_ending(output) != "dds", to_ktx2) |
               when(tiles.size() < paths.size(), may_turn);
    }

    [[nodiscard]] Facts facts_of(const yl::Atlas& atlas) const {
        const yl::FormatInfo& f = yl::info(atlas.baked.texture.shape().format);
        const bool shows_alpha = f.has(yl::Channel::alpha) && !atlas.baked.is_opaque;
        return when(atlas.table.parts.size() > paths.size(), has_frames) |
               when(atlas.bordered > 0, trims) | when(shows_alpha, has_alpha) |
               when(atlas.baked.texture.shape().levels > 1, has_levels) |
               facts_of_blocks(f, blocks);
    }

    struct Source {
        std::string name = {};
        yl::Picture picture = {};
        double seconds = 0;
    };

    /// A picture of each file; or all its frames, whose names end in their numbers.
    yl::Result<std::vector<Source>> read_sources() const {
        YL_TRY(const auto chosen, parse_inputs(inputs));
        std::vector<Source> sources;
        for (const std::string& path : paths) {
            const std::string name = name_of(session.pipes.with_own_names(path));
            if (!frames) {
                YL_TRY(auto picture, picture_of(session, path, chosen));
                sources.push_back({name, std::move(picture)});
                continue;
            }
            YL_TRY(auto all, frames_of(session, path, chosen));
            const bool is_one = all.pictures.size() == 1;
            for (std::size_t i = 0; i < all.pictures.size(); ++i)
                sources.push_back({is_one ? name : fmt::format("{}_{}", name, i),
                                   std::move(all.pictures[i]),
                                   i < all.seconds.size() ? all.seconds[i] : 0});
        }
        return sources;
    }

    yl::Result<Exit> run() const {
        YL_CHECK(command.refuse_options(early_facts()));
        if (output == "-" && table_path.empty())
            return yl::fail_at({yl::ErrorKind::usage,
                                "the texture goes to standard output: say where its table goes"},
                               "--table");
        YL_TRY(auto write_options, parse_supercompression(supercompression));
        write_options.progress = session.progress();
        YL_TRY(auto atlas_options, options());
        std::optional<yl::AtlasTable> old;
        if (!keep_path.empty()) {
            YL_TRY(old, yl::read_atlas_table(keep_path, files_for(keep_path)));
            atlas_options.keep = &*old;
        }
        YL_TRY(const auto sources, read_sources());
        std::vector<yl::AtlasPicture> parts;
        for (const Source& source : sources)
            parts.push_back(
                {.name = source.name, .picture = &source.picture, .seconds = source.seconds});
        YL_CHECK(mark_tiles_and_pivots(parts));
        YL_TRY(auto atlas, yl::make_atlas(parts, atlas_options));
        YL_TRY(const auto written, save(output, atlas.baked.texture, write_options));
        const std::string texture_name =
            output == "-" ? "" : std::filesystem::path(output).filename().string();
        YL_CHECK(yl::write_atlas_table(path_of_table(), atlas.table, texture_name));
        for (const yl::Findings& more :
             {command.idle_options(facts_of(atlas)),
              yl::losses_in_file(output, atlas.baked.texture.metadata,
                                 atlas.baked.texture.shape().format, write_options)})
            atlas.baked.findings.insert(atlas.baked.findings.end(), more.begin(), more.end());
        session.warn(atlas.baked.findings, output);
        report(atlas, written);
        return session.outcome();
    }

    void report(const yl::Atlas& atlas, std::uint64_t file_bytes) const {
        const yl::TextureShape& shape = atlas.baked.texture.shape();
        const yl::AtlasTable& table = atlas.table;
        const auto count_of = [&](auto what) {
            return std::ranges::count_if(table.parts, [&](const auto& part) { return what(part); });
        };
        const auto turned = count_of([](const yl::AtlasPart& part) { return part.is_turned; });
        session.say(fmt::format("{} {} -> {}, {}", paths.size(),
                                paths.size() == 1 ? "picture" : "pictures", output,
                                path_of_table()));
        session.say(
            row_text("texture", fmt::format("{}, {}, {}", size_text(shape.width, shape.height),
                                            yl::info(shape.format).name, shape_text(shape))));
        session.say(row_text("parts", fmt::format("{}, {} turned; {:.1f} % of the texels in none",
                                                  table.parts.size(), turned, 100 * atlas.unused)));
        if (!keep_path.empty())
            session.say(row_text("kept", fmt::format("{} of {} are where they were", atlas.kept,
                                                     table.parts.size())));
        session.say(
            row_text("levels", fmt::format("0 to {} mix no parts",
                                           std::min(table.last_clean_level, shape.levels - 1))));
        for (const yl::Flipbook& book : table.flipbooks)
            session.say(
                row_text("flipbook", fmt::format("{}, {} frames", book.name, book.parts.size())));
        session.say(
            row_text("bytes", fmt::format("{} on the GPU, {} in the file",
                                          byte_text(shape.total_bytes()), byte_text(file_bytes))));
        session.give([&] {
            Json result = {{"inputs", paths}, {"output", output}, {"table", path_of_table()}};
            add_shape(result, shape);
            result["file_bytes"] = file_bytes;
            result["parts"] = table.parts.size();
            result["turned"] = turned;
            result["kept"] = atlas.kept;
            result["unused"] = atlas.unused;
            result["last_clean_level"] = table.last_clean_level;
            result["flipbooks"] = table.flipbooks.size();
            result["findings"] = findings_json(atlas.baked.findings);
            return result;
        });
    }
};

OptionTable packing_options(AtlasCommand& atlas) {
    return {
        "Packing",
        {{"--table", &atlas.table_path, "FILE",
          "Where the table goes (the output's name with .json when left out)"},
         {"--keep", &atlas.keep_path, "FILE",
          "The table of an older atlas: parts that still fit stay where they are"},
         {"--clean-levels",
          &atlas.clean_levels,
          "N",
          "The last mip level that mixes no parts; cells and gutters are aligned to it",
          {.allowed = in_range(0, 8)}},
         {"--turn",
          &atlas.turn,
          "",
          "Rotate parts by a quarter where that saves room",
          {.rules = {refused_without(may_turn, "all pictures are tiles, which are not turned")}}},
         {"--keep-borders",
          &atlas.keep_borders,
          "",
          "Do not trim transparent borders",
          {.rules = {idle_without(trims, "no picture has any")}}},
         {"--frames",
          &atlas.frames,
          "",
          "Use all frames of animations and pages of files, as NAME_0, NAME_1 ...",
          {.rules = {idle_without(has_frames, "no file has more than one")}}},
         {"--layers", &atlas.layers, "", "Use several layers where one does not suffice"},
         {"--tile", &atlas.tiles, "NAME",
          "This picture repeats: its gutters show its other side, and it is not trimmed"},
         {"--pivot", &atlas.pivots, "NAME=X,Y",
          "The pivot of a picture in pixels from its top left corner (its middle when left out)"},
         {"--max-size",
          &atlas.max_size,
          "TEXELS",
          "The atlas is no larger",
          {.allowed = in_range(4, 65536)}},
         {"--pow2",
          &atlas.power_of_two,
          "HOW",
          "The atlas gets sides that are powers of two: up",
          {.allowed = one_of({"any", "up"})}}}};
}

OptionTable texture_options(AtlasCommand& atlas) {
    const char* one_level = "there is one level alone, and nothing is filtered";
    return {
        .rows = {{"--as", &atlas.format, "FORMAT",
                  "The pixel format, such as rgba8-srgb or bc7; bc, etc or astc picks the block "
                  "format that suits the role. Without it, an uncompressed format by role"},
                 {"--levels", &atlas.levels, "full|N",
                  "How many mip levels (the clean ones when left out), or full"},
                 {"--supercompress",
                  &atlas.supercompression,
                  "SCHEME",
                  "Compress each level: none, zlib[:LEVEL] or zstd[:LEVEL]",
                  {.rules = {refused_without(to_ktx2, "a DDS file is not packed: write .ktx2")}}},
                 {"--sampler", &atlas.sampler, "SAMPLER", "The sampler to store with the texture"},
                 {"--filter",
                  &atlas.filter,
                  "FILTER",
                  "As in bake: box, triangle, mitchell, kaiser:RADIUS,SHAPE ...",
                  {.rules = {idle_without(has_levels, one_level)}}},
                 {"--coverage",
                  &atlas.coverage,
                  "THRESHOLD",
                  "Keep the share of texels that pass an alpha test at this threshold the same at "
                  "every level of each part",
                  {.rules = {idle_without(has_alpha, "alpha is 1 everywhere"),
                             idle_without(has_levels, one_level)}}}}};
}

}  // namespace

void add_atlas(CLI::App& app, Session& session) {
    auto atlas = std::make_shared<AtlasCommand>(
        AtlasCommand{session, Command(app, session, "atlas", "Put many pictures on one texture")});
    Command& command = atlas->command;
    command.runs([atlas] { return atlas->run(); }, [atlas] { return atlas->check(); });
    command.add({.rows = {{"INPUT",
                           &atlas->paths,
                           "",
                           "Picture files; a part has the name of its file without the ending. "
                           "Names that end in numbers become flipbooks",
                           {.required = true, .reads_pipes = true}}}});
    command.add_output(atlas->output, "OUT", "The texture file to write (.ktx2, .dds)");
    command.add(input_options(atlas->inputs,
                              {.alpha = {idle_without(has_alpha, "alpha is 1 everywhere")}}));
    for (const OptionTable& table :
         {picture_options(atlas->inputs, has_profile), texture_options(*atlas),
          packing_options(*atlas), block_options(atlas->blocks)})
        command.add(table);
}

}  // namespace ylat
