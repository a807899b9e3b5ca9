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
#include "option_rules.hpp"
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

constexpr std::pair<std::string_view, yl::Orientation> orientation_words[] = {
    {"right", yl::Orientation::quarter_right},
    {"left", yl::Orientation::quarter_left},
    {"half", yl::Orientation::half},
    {"mirror", yl::Orientation::mirror},
    {"flip", yl::Orientation::flip},
    {"transpose", yl::Orientation::transpose},
    {"transverse", yl::Orientation::transverse}};

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
    encodes_blocks = 1U << 7U,
    encodes_colors = 1U << 8U,
    encodes_hard_bc1 = 1U << 9U,
    rounds = 1U << 10U,  ///< to integers
    has_alpha = 1U << 11U,
    makes_table = 1U << 12U,
    has_levels = 1U << 13U,
    to_ktx2 = 1U << 14U,
};

constexpr const char* no_picture = "a table for --lookup is made of no picture";

constexpr OptionRule refused_by_cube[] = {
    {"--role", makes_cube, no_picture},
    {"--alpha", makes_cube, no_picture},
    {"--transfer", makes_cube, no_picture},
    {"--layout", makes_cube, no_picture},
    {"--layout", one_picture, "six pictures are faces: a layout is of one picture"},
    {"--convention", makes_cube, no_picture},
    {"--turn", makes_cube, no_picture},
    {"--reorder", six_pictures, "it goes with six pictures"},
    {"--top", six_pictures, "it goes with six pictures"},
    {"--front", six_pictures, "it goes with six pictures"},
    {"--levels", makes_cube, no_picture},
    {"--levels", has_levels, "what matt surfaces see has one level"},
    {"--dither", makes_cube, no_picture},
    {"--effort", makes_cube, no_picture},
    {"--weights", makes_cube, no_picture},
    {"--rate-distortion", makes_cube, no_picture},
    {"--bc1-black", makes_cube, no_picture},
    {"--supercompress", to_ktx2, "a DDS file is not packed: write .ktx2"},
    {"--level", makes_levels, "it goes with levels that are filtered, not with --prefilter"},
    {"--filter", makes_levels, "it goes with levels that are filtered, not with --prefilter"},
    {"--join-edges", makes_levels, "it goes with levels that are filtered, not with --prefilter"},
    {"--prefilter", makes_cube, no_picture},
    {"--samples", by_roughness, "it goes with --prefilter specular"},
    {"--roughness", by_roughness, "it goes with --prefilter specular"},
    {"--sampler", makes_cube, no_picture},
    {"--face-size", sized_picture | six_pictures | prefilters | makes_table,
     "the faces of a cross, a row or a column have a size already"},
};

constexpr OptionRule idle_in_cube[] = {
    {"--effort", encodes_blocks, "no blocks are encoded"},
    {"--weights", encodes_colors, "no blocks of colours are encoded"},
    {"--rate-distortion", encodes_blocks, "no blocks are encoded"},
    {"--bc1-black", encodes_hard_bc1, "no bc1 is encoded at effort 8 or more"},
    {"--dither", rounds, "floating point is not rounded to codes"},
    {"--alpha", has_alpha, "the texture has no alpha"},
};

struct Cube {
    Session& session;
    CLI::App* command = nullptr;
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
                return wrong("--layout", fmt::format("'{}' is no layout; it takes {}", layout,
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
            const auto known =
                std::find_if(std::begin(orientation_words), std::end(orientation_words),
                             [&](const auto& entry) { return entry.first == word; });
            if (!face || known == std::end(orientation_words))
                return wrong("--turn",
                             fmt::format("'{}' is not understood; it takes a face, '=' and right, "
                                         "left, half, mirror, flip, transpose or transverse",
                                         text));
            auto& orientation = result.orientations[static_cast<std::size_t>(*face)];
            orientation = yl::combined(orientation, known->second);
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
        return when(f.is_block(), encodes_blocks) |
               when(f.is_block() && !f.is_float() && f.channel_count > 2, encodes_colors) |
               when(f.name.starts_with("bc1-") && blocks.effort >= 8, encodes_hard_bc1) |
               when(!f.is_float(), rounds) | when(f.has(yl::Channel::alpha), has_alpha);
    }

    yl::Result<Exit> run() const {
        YL_CHECK(refuse_options(*command, refused_by_cube, early_facts()));
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
             {idle_options(*command, idle_in_cube, facts_of(shape)),
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

void add_source_options(CLI::App& command, Cube& cube) {
    const std::string group = "Where the faces are";
    command.add_option("--layout", cube.layout, "Of one picture: " + cube_layout_names())
        ->option_text("LAYOUT")
        ->group(group);
    command
        .add_option(
            "--convention", cube.convention,
            "How the faces are stored and in which world: standard, right-handed, z-up, "
            "y-down, bottom-rows, from-outside, round, or six frames such as \"+x-z-y ...\"")
        ->option_text("NAME")
        ->group(group);
    command.add_flag("--reorder", cube.reorder, "Follow the edges, also against the names")
        ->group(group);
    command.add_option("--top", cube.top, "Which of the six pictures is above")
        ->option_text("FILE")
        ->group(group);
    command.add_option("--front", cube.front, "Which of the six pictures is ahead")
        ->option_text("FILE")
        ->group(group);
    command
        .add_option("--turn", cube.orientations,
                    "Turn a face: right or left by a quarter, half, mirror, flip, transpose, "
                    "transverse; may be given several times")
        ->option_text("FACE=TURN")
        ->allow_extra_args(false)
        ->group(group);
    command
        .add_option(
            "--face-size", cube.face_size,
            "Texels of a face: of a panorama or ball, of a prefiltered one, of six pictures that "
            "are resized to it, or of --lookup (128)")
        ->option_text("TEXELS")
        ->check(in_range(1, 16384))
        ->group(group);
}

void add_level_options(CLI::App& command, Cube& cube) {
    const std::string group = "The levels";
    command.add_option("--levels", cube.levels, "full, or how many")
        ->option_text("full|N")
        ->group(group);
    command.add_option("--filter", cube.filter, "The kernel, which goes on over edges and corners")
        ->option_text("FILTER")
        ->group(group);
    command
        .add_flag("--join-edges", cube.join_edges,
                  "Make texels that meet equal: for devices that do not filter across edges")
        ->group(group);
    command
        .add_option("--level", cube.given,
                    "A level that is there already: one picture, or six in the order of INPUT")
        ->option_text("N=FILE[,FILE...]")
        ->allow_extra_args(false)
        ->group(group);
    command
        .add_option("--prefilter", cube.prefilter,
                    "specular: levels blurred by roughness; diffuse: what matt surfaces see")
        ->option_text("none|specular|diffuse")
        ->check(CLI::IsMember({"none", "specular", "diffuse"}))
        ->group(group);
    command.add_option("--samples", cube.samples, "specular: samples of each texel")
        ->option_text("N")
        ->check(in_range(1, 1 << 20))
        ->group(group);
    command.add_option("--roughness", cube.roughness, "specular: of each level, 0 to 1")
        ->delimiter(',')
        ->option_text("R,R,...")
        ->group(group);
    command
        .add_flag(
            "--lookup", cube.lookup,
            "Instead of a cube: the table of scale and bias that shaders need beside a specular "
            "one")
        ->group(group);
    command.add_flag("--dither", cube.dither, "Spread rounding as fine noise")->group(group);
}

}  // namespace

void add_cube(CLI::App& app, Session& session) {
    auto cube = std::make_shared<Cube>(Cube{.session = session});
    CLI::App* command = add_command(app, session, "cube", "Make a cube map of one picture or six",
                                    [cube] { return cube->run(); });
    cube->command = command;
    takes_pipes(command->add_option(
                    "INPUT", cube->inputs,
                    "A cross, row, column, panorama or ball; or six faces, as FILE or FACE=FILE"),
                session);
    add_output_option(*command, session, cube->output, "The texture file to write (.ktx2, .dds)")
        ->required()
        ->option_text("OUT");
    add_input_options(*command, cube->choices);
    command
        ->add_option("--as", cube->format, "The texture's format; bc: the block format that suits")
        ->option_text("FORMAT");
    command->add_option("--sampler", cube->sampler, "Kept with the texture")
        ->option_text("SAMPLER");
    command
        ->add_option("--supercompress", cube->supercompression,
                     "none, zlib or zstd, the latter two with ':LEVEL' if wanted")
        ->option_text("SCHEME");
    add_source_options(*command, *cube);
    add_level_options(*command, *cube);
    add_block_options(*command, cube->blocks);
}

}  // namespace ylat
