// ylat cube: pictures to a cube map.
#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "blocks.hpp"
#include "describe.hpp"
#include "inputs.hpp"
#include "outputs.hpp"

namespace ylat {
namespace {

tl::unexpected<yl::Error> wrong(const char* option, std::string message) {
    return yl::fail_at({yl::ErrorKind::usage, std::move(message)}, option);
}

std::optional<yl::CubeFace> find_face(std::string_view text) {
    for (const yl::CubeFace face : yl::all_cube_faces)
        if (yl::name(face) == text)
            return face;
    return std::nullopt;
}

/// "FACE=FILE" as its two parts; a file alone has no face.
std::pair<std::string, std::string> split_input(const std::string& text) {
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos || !find_face(text.substr(0, equals)))
        return {"", text};
    return {text.substr(0, equals), text.substr(equals + 1)};
}

std::vector<std::string> split_at_commas(const std::string& text) {
    std::vector<std::string> parts(1);
    for (const char letter : text)
        if (letter == ',')
            parts.emplace_back();
        else
            parts.back() += letter;
    return parts;
}

enum CubeFact : Facts {
    makes_cube = 1U << 0U,  ///< and no table
    one_picture = 1U << 1U,
    six_pictures = 1U << 2U,
    sized_picture = 1U << 3U,  ///< whose layout leaves the size of a face open
    makes_levels = 1U << 4U,   ///< by a filter
    prefilters = 1U << 5U,
    by_roughness = 1U << 6U,
    rounds = 1U << 10U,  ///< to integers
    has_alpha = 1U << 11U,
    makes_table = 1U << 12U,
    has_levels = 1U << 13U,
    to_ktx2 = 1U << 14U,
};

struct Cube {
    Session& session;
    Command command;
    std::vector<std::string> inputs = {};
    std::string output = {};
    InputChoices choices = {};
    std::string format = {}, layout = {}, levels = {}, filter = "triangle";
    std::string convention = "standard", prefilter = "none", supercompression = "none";
    std::string sampler = {}, top = {}, front = {};
    std::vector<std::string> orientations = {}, given = {};
    std::optional<std::uint32_t> face_size = {};
    std::uint32_t samples = 1024;
    std::vector<float> roughness = {};
    bool reorder = false, join_edges = false, dither = false, lookup = false;
    BlockChoices blocks = {};

    yl::Status read_names(yl::CubeBakeOptions& result) const {
        YL_TRY(const auto chosen, parse_inputs(choices));
        result.role = chosen.role;
        for (const yl::Status& status :
             {choose_format(format, result.role.value_or(yl::Role::color), result),
              parse_if_given(levels, parse_levels, result.levels),
              parse_if_given(sampler, parse_sampler_option, result.sampler)})
            if (!status)
                return status;
        result.blocks = blocks.options();
        if (!layout.empty()) {
            result.source.layout = yl::find_cube_layout(layout);
            if (!result.source.layout)
                return wrong("--layout", fmt::format("'{}' is not a layout; it takes {}", layout,
                                                     cube_layout_names()));
        }
        const auto kernel = yl::parse_kernel(filter);
        if (!kernel)
            return yl::fail_at(kernel.error(), "--filter");
        result.mips.kernel = *kernel;
        auto parsed = yl::parse_cube_convention(convention);
        if (!parsed)
            return yl::fail_at(parsed.error(), "--convention");
        result.convention = std::move(*parsed);
        return {};
    }

    yl::Status read_turns(yl::CubeBakeOptions& result) const {
        for (const std::string& text : orientations) {
            const std::size_t equals = text.find('=');
            const auto face = find_face(text.substr(0, equals));
            const std::string word = equals == std::string::npos ? "" : text.substr(equals + 1);
            const auto turned = parse_orientation(word);
            if (!face || !turned)
                return wrong("--turn",
                             fmt::format("'{}' is not understood; it takes a face, '=' and {}",
                                         text, orientation_words));
            auto& orientation = result.orientations[static_cast<std::size_t>(*face)];
            orientation = yl::combined(orientation, *turned);
        }
        return {};
    }

    yl::Status read_hint(const std::string& path, const char* option,
                         std::optional<std::size_t>& hint) const {
        if (path.empty())
            return {};
        for (std::size_t i = 0; i < inputs.size(); ++i)
            if (split_input(inputs[i]).second == path)
                hint = i;
        if (!hint)
            return wrong(option, fmt::format("'{}' is none of the input pictures", path));
        return {};
    }

    yl::Status read_given(yl::CubeBakeOptions& result) const {
        for (const std::string& text : given) {
            const std::size_t equals = text.find('=');
            yl::GivenCubeLevel level;
            const auto [end, error] = std::from_chars(
                text.data(), text.data() + std::min(equals, text.size()), level.level);
            if (equals == std::string::npos || error != std::errc{} || end != text.data() + equals)
                return wrong("--level", fmt::format("'{}' is not understood; it takes the number "
                                                    "of a level, '=' and one picture, or six with "
                                                    "commas between them",
                                                    text));
            for (const std::string& path : split_at_commas(text.substr(equals + 1))) {
                YL_TRY(auto picture, picture_of(session, path));
                level.pictures.push_back(std::make_shared<const yl::Picture>(std::move(picture)));
            }
            result.given.push_back(std::move(level));
        }
        return {};
    }

    yl::Result<yl::CubeBakeOptions> options() const {
        yl::CubeBakeOptions result;
        result.progress = session.progress();
        result.source.face_size = face_size;
        result.reorder = reorder;
        result.mips.joined_edges = join_edges;
        result.mips.dither = dither;
        result.specular = {.face_size = face_size, .samples = samples, .roughness = roughness};
        result.prefilter = prefilter == "specular"  ? yl::CubePrefilter::specular
                           : prefilter == "diffuse" ? yl::CubePrefilter::diffuse
                                                    : yl::CubePrefilter::none;
        // A prefiltered cube has a size of its own; its source keeps that of the picture.
        if (result.prefilter != yl::CubePrefilter::none)
            result.source.face_size.reset();
        for (const yl::Status& status :
             {read_names(result), read_turns(result), read_hint(top, "--top", result.top),
              read_hint(front, "--front", result.front), read_given(result)})
            if (!status)
                return tl::unexpected(status.error());
        return result;
    }

    /// The table that goes with prefiltered cubes, which needs no picture.
    yl::Result<Exit> write_table() const {
        if (!inputs.empty())
            return wrong("--lookup", "the table of split sums is made of no picture");
        YL_TRY(const auto write_options, parse_supercompression(supercompression));
        const yl::Format wanted = format.empty() ? yl::Format::rg16_float : yl::Format::undefined;
        YL_TRY(const auto chosen, format.empty() ? yl::Result<yl::Format>(wanted)
                                                 : parse_format(format, yl::Role::data));
        YL_TRY(const auto table, yl::split_sum_table(face_size.value_or(128), chosen));
        YL_CHECK(save(output, table, write_options));
        const yl::TextureShape& shape = table.shape();
        const std::string& mapping = table.metadata.key_values.at(yl::split_sum_note);
        session.say(fmt::format("the table of split sums -> {}", output));
        session.say(row_text("table", fmt::format("{}, {}", size_text(shape.width, shape.height),
                                                  yl::info(shape.format).name)));
        session.say(row_text("mapping", mapping));
        session.give([&] {
            return Json({{"output", output},
                         {"gpu_format", yl::info(shape.format).name},
                         {"size", shape.width},
                         {"mapping", mapping}});
        });
        return Exit::done;
    }

    [[nodiscard]] Facts early_facts() const {
        const auto named = yl::find_cube_layout(layout);
        const bool is_cut = named && yl::is_cut_layout(*named);
        return when(!lookup, makes_cube) | when(lookup, makes_table) |
               when(inputs.size() == 1, one_picture) | when(inputs.size() == 6, six_pictures) |
               when(inputs.size() == 1 && !is_cut, sized_picture) |
               when(!lookup && prefilter == "none", makes_levels) |
               when(prefilter != "none", prefilters) | when(prefilter == "specular", by_roughness) |
               when(prefilter != "diffuse", has_levels) |
               when(lower_case_ending(output) != "dds", to_ktx2);
    }

    [[nodiscard]] Facts facts_of(const yl::TextureShape& shape) const {
        const yl::FormatInfo& f = yl::info(shape.format);
        return facts_of_blocks(f, blocks) | when(!f.is_float(), rounds) |
               when(f.has(yl::Channel::alpha), has_alpha);
    }

    yl::Status check() const {
        yl::CubeBakeOptions parsed;
        YL_CHECK(read_names(parsed));
        YL_CHECK(read_turns(parsed));
        YL_TRY([[maybe_unused]] const auto packing, parse_supercompression(supercompression));
        return {};
    }

    yl::Result<Exit> run() const {
        YL_CHECK(command.refuse_options(early_facts()));
        if (lookup)
            return write_table();
        if (inputs.empty())
            return wrong("INPUT", "one picture is needed, or six");
        YL_TRY(const auto bake_options, options());
        YL_TRY(auto write_options, parse_supercompression(supercompression));
        write_options.progress = session.progress();
        std::vector<yl::Picture> pictures;
        std::vector<const yl::Picture*> pointers;
        std::vector<std::string> names;
        for (const std::string& input : inputs) {
            const auto [face, path] = split_input(input);
            YL_TRY(auto picture, picture_of(session, path, *parse_inputs(choices)));
            pictures.push_back(std::move(picture));
            names.push_back(face.empty() ? std::filesystem::path(path).filename().string() : face);
        }
        for (const yl::Picture& picture : pictures)
            pointers.push_back(&picture);
        auto baked = yl::bake_cube(pointers, names, bake_options);
        if (!baked)
            return yl::fail_at(baked.error(), pictures.size() == 1 ? inputs[0] : "cube");
        YL_CHECK(save(output, baked->texture, write_options));
        const yl::TextureShape& shape = baked->texture.shape();
        for (const yl::Findings& more :
             {command.idle_options(facts_of(shape)),
              yl::losses_in_file(output, baked->texture.metadata, shape.format, write_options)})
            baked->findings.insert(baked->findings.end(), more.begin(), more.end());
        session.warn(baked->findings, "cube");
        report(*baked);
        return session.outcome();
    }

    void report(const yl::BakedCube& baked) const {
        const yl::TextureShape& shape = baked.texture.shape();
        const auto seams = yl::measure_cube_seams(baked.texture);
        session.say(fmt::format("{} -> {}", fmt::join(inputs, ", "), output));
        session.say(row_text("source", baked.source));
        if (baked.order)
            session.say(row_text("edges", fmt::format("misfit {:.4f}, confidence {:.2f}{}",
                                                      baked.order->misfit, baked.order->confidence,
                                                      baked.order->is_sure ? "" : ": unsure")));
        for (const std::string& change : baked.changes)
            session.say(row_text(baked.followed_edges ? "put right" : "edges say", change));
        session.say(row_text(
            "cube", fmt::format("faces of {}, {}, {} levels", size_text(shape.width, shape.height),
                                yl::info(shape.format).name, shape.levels)));
        if (seams)
            session.say(row_text(
                "seams", fmt::format("steps across edges are {:.2f} times those within faces",
                                     seams->ratio())));
        const auto roughness_found = yl::roughness_of_levels(baked.texture);
        if (!roughness_found.empty())
            session.say(
                row_text("roughness", fmt::format("{:.3g}", fmt::join(roughness_found, ", "))));
        if (baked.harmonics)
            report_harmonics(*baked.harmonics);
        session.say(row_text("bytes", byte_text(shape.total_bytes()) + " on the GPU"));
        session.give([&] { return Json(json(baked, seams, roughness_found)); });
    }

    void report_harmonics(const yl::SphericalHarmonics& harmonics) const {
        constexpr const char* names[] = {"0,0",  "1,-1", "1,0", "1,1", "2,-2",
                                         "2,-1", "2,0",  "2,1", "2,2"};
        for (std::size_t i = 0; i < 9; ++i) {
            const auto& triple = harmonics.radiance[i];
            session.say(row_text(
                fmt::format("light {}", names[i]),
                fmt::format("{:10.5f} {:10.5f} {:10.5f}", triple[0], triple[1], triple[2])));
        }
    }

    Json json(const yl::BakedCube& baked, const yl::Result<yl::CubeSeams>& seams,
              const std::vector<float>& roughness_found) const {
        const yl::TextureShape& shape = baked.texture.shape();
        Json result = {{"inputs", inputs},
                       {"output", output},
                       {"source", baked.source},
                       {"gpu_format", yl::info(shape.format).name},
                       {"face_size", shape.width},
                       {"levels", shape.levels},
                       {"gpu_bytes", shape.total_bytes()},
                       {"changes", baked.changes},
                       {"followed_edges", baked.followed_edges},
                       {"roughness", roughness_found},
                       {"findings", findings_json(baked.findings)}};
        if (baked.order) {
            result["misfit"] = baked.order->misfit;
            result["confidence"] = baked.order->confidence;
            result["sure"] = baked.order->is_sure;
        }
        if (seams)
            result["seam_ratio"] = seams->ratio();
        result["seams"] = Json::array();
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            if (const auto at_level = yl::measure_cube_seams(baked.texture, level))
                result["seams"].push_back({{"level", level},
                                           {"max_across", at_level->max_across},
                                           {"max_within", at_level->max_within},
                                           {"mean_across", at_level->mean_across},
                                           {"mean_within", at_level->mean_within}});
        if (baked.harmonics)
            result["harmonics"] = baked.harmonics->radiance;
        return result;
    }
};

OptionRule needs_picture() {
    return refused_without(makes_cube, "a table for --lookup is made of no picture");
}

OptionTable source_options(Cube& cube) {
    return {
        "Where the faces are",
        {{"--layout",
          &cube.layout,
          "LAYOUT",
          "Of one picture: " + cube_layout_names(),
          {.rules = {needs_picture(),
                     refused_without(one_picture,
                                     "six pictures are faces: a layout is of one picture")}}},
         {"--convention",
          &cube.convention,
          "NAME",
          "How the faces are stored, and the axes of their world: standard, right-handed, z-up, "
          "y-down, bottom-rows, from-outside, round, or six frames such as \"+x-z-y ...\"",
          {.rules = {needs_picture()}}},
         {"--turn",
          &cube.orientations,
          "FACE=TURN",
          "Turn a face: right or left by a quarter, half, mirror, flip, transpose, transverse; can "
          "be repeated",
          {.rules = {needs_picture()}}},
         {"--face-size",
          &cube.face_size,
          "TEXELS",
          "Texels of a face: for a panorama or ball, a prefiltered cube, six pictures of other "
          "sizes, or --lookup (128)",
          {.allowed = in_range(1, 16384),
           .rules = {
               refused_without(sized_picture | six_pictures | prefilters | makes_table,
                               "the faces of a cross, a row or a column have a size already")}}}}};
}

OptionTable order_options(Cube& cube) {
    return {"Where the faces are",
            {{"--reorder", &cube.reorder, "", "Trust the edges more than names and layout"},
             {"--top", &cube.top, "FILE", "Which of the six pictures is the top"},
             {"--front", &cube.front, "FILE", "Which of the six pictures is the front"}},
            {refused_without(six_pictures, "it goes with six pictures")}};
}

OptionTable level_options(Cube& cube) {
    const OptionRule needs_filter = refused_without(
        makes_levels, "it goes with levels that are filtered, not with --prefilter");
    return {"The levels",
            {{"--levels",
              &cube.levels,
              "full|N",
              "How many mip levels, or full",
              {.rules = {needs_picture(),
                         refused_without(has_levels, "what matt surfaces see has one level")}}},
             {"--filter",
              &cube.filter,
              "FILTER",
              "The kernel; it crosses edges and corners",
              {.rules = {needs_filter}}},
             {"--join-edges",
              &cube.join_edges,
              "",
              "Make texels equal where edges meet, for devices that do not filter across them",
              {.rules = {needs_filter}}},
             {"--level",
              &cube.given,
              "N=FILE[,FILE...]",
              "Use this picture for a level instead of filtering it; or six, in the order of INPUT",
              {.rules = {needs_filter}}},
             {"--dither",
              &cube.dither,
              "",
              "Turn rounding errors into fine noise",
              {.rules = {needs_picture(),
                         idle_without(rounds, "floating point is not rounded to codes")}}}}};
}

OptionTable prefilter_options(Cube& cube) {
    const OptionRule needs_specular =
        refused_without(by_roughness, "it goes with --prefilter specular");
    return {"The levels",
            {{"--prefilter",
              &cube.prefilter,
              "none|specular|diffuse",
              "specular: each level blurred for its roughness; diffuse: the light that a matt "
              "surface receives",
              {.allowed = one_of({"none", "specular", "diffuse"}), .rules = {needs_picture()}}},
             {"--samples",
              &cube.samples,
              "N",
              "specular: how many samples each texel takes",
              {.allowed = in_range(1, 1 << 20), .rules = {needs_specular}}},
             {"--roughness",
              &cube.roughness,
              "R,R,...",
              "specular: the roughness of each level, 0 to 1",
              {.rules = {needs_specular}}},
             {"--lookup", &cube.lookup, "",
              "Write the table of scale and bias that shaders need beside a specular cube, and no "
              "cube"}}};
}

OptionTable file_options(Cube& cube) {
    return {
        .rows = {{"--as", &cube.format, "FORMAT",
                  "The pixel format; bc, etc or astc picks the block format that suits"},
                 {"--sampler",
                  &cube.sampler,
                  "SAMPLER",
                  "The sampler to store with the texture",
                  {.rules = {needs_picture()}}},
                 {"--supercompress",
                  &cube.supercompression,
                  "SCHEME",
                  "Compress each level: none, zlib[:LEVEL] or zstd[:LEVEL]",
                  {.rules = {refused_without(to_ktx2, "a DDS file is not packed: write .ktx2")}}}}};
}

}  // namespace

void add_cube(CLI::App& app, Session& session) {
    auto cube = std::make_shared<Cube>(
        Cube{session, Command(app, session, "cube", "Make a cube map of one picture or six")});
    Command& command = cube->command;
    command.runs([cube] { return cube->run(); }, [cube] { return cube->check(); });
    command.add(
        {.rows = {
             {"INPUT",
              &cube->inputs,
              "",
              "A cross, row, column, panorama or ball; or six faces, each as FILE or FACE=FILE",
              {.reads_pipes = true}}}});
    command.add_output(cube->output, "OUT", "The texture file to write (.ktx2, .dds)");
    command.add(input_options(
        cube->choices,
        {.role = {needs_picture()},
         .alpha = {needs_picture(), idle_without(has_alpha, "the texture has no alpha")},
         .transfer = {needs_picture()}}));
    OptionTable blocks = block_options(cube->blocks);
    blocks.rules.push_back(needs_picture());
    for (const OptionTable& table :
         {file_options(*cube), source_options(*cube), order_options(*cube), level_options(*cube),
          prefilter_options(*cube), blocks})
        command.add(table);
}

}  // namespace ylat
