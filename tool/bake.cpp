// ylat bake: a picture file to a texture file.
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

enum BakeFact : Facts {
    to_dds = 1U << 0U,
    to_ktx2 = 1U << 13U,
    role_of_numbers = 1U << 1U,    ///< data or mask
    makes_levels = 1U << 3U,       ///< smaller than level 0
    makes_many_levels = 1U << 4U,  ///< two and more of them
    filters = 1U << 5U,            ///< levels, or a picture on its way to another size
    rings = 1U << 6U,              ///< by a kernel that can
    rounds = 1U << 7U,             ///< to integers
    encodes_blocks = 1U << 8U,
    encodes_colors = 1U << 9U,     ///< blocks whose channels can be weighed
    encodes_hard_bc1 = 1U << 10U,  ///< at an effort that looks for black
    has_alpha = 1U << 11U,         ///< that is not 1 everywhere
    tests_alpha = 1U << 12U,       ///< or the first channel of what has none
    is_light = 1U << 2U,
    role_matters = 1U << 14U,
    looks_beyond = 1U << 15U,  ///< the edges, by a kernel wider than a box
    averages_by_role = 1U << 16U,
};

constexpr OptionRule refused_by_bake[] = {
    {"--normals", role_of_numbers,
     "it widens roughness, which is no colour: add --role data or --role mask"},
    {"--supercompress", to_ktx2, "a DDS file is not packed: write .ktx2"},
    {"--old-header", to_dds, "the output is no DDS file, which alone has an old header"},
};

constexpr const char* one_level = "there is one level alone, and nothing is filtered";

constexpr OptionRule idle_in_bake[] = {
    {"--role", role_matters, "the texels and what is said of them stay as they are"},
    {"--alpha", has_alpha, "the texture has no alpha that is not 1"},
    {"--effort", encodes_blocks, "no blocks are encoded"},
    {"--weights", encodes_colors, "no blocks of colours are encoded"},
    {"--rate-distortion", encodes_blocks, "no blocks are encoded"},
    {"--bc1-black", encodes_hard_bc1, "no bc1 is encoded at effort 8 or more"},
    {"--filter", filters, one_level},
    {"--edge", looks_beyond, "nothing is filtered, or by a box, which stays within the edges"},
    {"--reduce", makes_levels, one_level},
    {"--sharpen", makes_levels, one_level},
    {"--fade", makes_levels, one_level},
    {"--plain-chain", averages_by_role, "the numbers are averaged as they are stored anyway"},
    {"--normals", makes_levels, one_level},
    {"--from-top", makes_many_levels, "there is no third level"},
    {"--limit-ringing", rings, "the kernel does not ring, or is limited already"},
    {"--dither", rounds, "floating point is not rounded to codes"},
    {"--dim-fireflies", is_light, "the input is not in floating point"},
    {"--coverage", tests_alpha, "alpha is 1 everywhere, or there is one level alone"},
};

/// A texture, and what became of those of an input that is one.
struct Made {
    yl::Baked baked = {};
    bool is_texture = false;
    bool keeps_texels = false;
    bool is_relabelled = false;  ///< says something else of its texels
};

struct Bake {
    Session& session;
    CLI::App* command = nullptr;
    std::string input = {};
    std::string output = {};
    InputChoices inputs = {};
    std::string format = {};
    std::string levels = "full";
    std::string origin = "top";
    std::string supercompression = "none";
    std::string sampler = {};
    std::string filter = {}, edges = {}, reduction = "average", power_of_two = "any", fade = {};
    std::string normals = {};
    std::vector<std::string> given = {};
    std::optional<float> coverage = {};
    std::optional<std::uint32_t> max_size = {};
    yl::MipOptions mips = {};
    bool plain_chain = false, limit_ringing = false;
    std::uint32_t first_level = 0;
    BlockChoices blocks = {};
    bool old_header = false;

    /// Level 0 may come first, or be named like the others.
    yl::Result<std::string> top_picture() const {
        std::string path = input;
        for (const std::string& text : given)
            if (text.starts_with("0="))
                path = path.empty() ? text.substr(2) : "";
        if (path.empty())
            return yl::fail(yl::ErrorKind::usage,
                            "one picture is needed for level 0, as INPUT or by --level 0=FILE");
        return path;
    }

    /// "N=FILE" for levels that are not to be filtered.
    yl::Status read_given(yl::BakeOptions& result) const {
        for (const std::string& text : given) {
            if (text.starts_with("0="))
                continue;
            const std::size_t equals = text.find('=');
            std::uint32_t level = 0;
            const auto [end, error] =
                std::from_chars(text.data(), text.data() + std::min(equals, text.size()), level);
            if (equals == std::string::npos || error != std::errc{} ||
                end != text.data() + equals || equals + 1 == text.size())
                return yl::fail_at({yl::ErrorKind::usage,
                                    fmt::format("'{}' is not understood; it takes the number of a "
                                                "level, '=' and a picture file",
                                                text)},
                                   "--level");
            YL_TRY(auto picture, open_picture(session, text.substr(equals + 1),
                                              {.role = result.role, .transfer = result.transfer}));
            result.given.push_back(
                {level, std::make_shared<const yl::Picture>(std::move(picture))});
        }
        return {};
    }

    yl::Status read_chain_options(yl::BakeOptions& result) const {
        result.mips = mips;
        result.plain_chain = plain_chain;
        result.coverage = coverage;
        result.max_side = max_size;
        result.first_level = first_level;
        if (limit_ringing)
            result.mips.limit_ringing = true;
        if (!filter.empty()) {
            const auto kernel = yl::parse_kernel(filter);
            if (!kernel)
                return yl::fail_at(kernel.error(), "--filter");
            result.mips.kernel = *kernel;
        }
        if (!edges.empty()) {
            const auto parsed = yl::parse_edges(edges);
            if (!parsed)
                return yl::fail_at(parsed.error(), "--edge");
            result.mips.edges = *parsed;
        }
        result.mips.reduction = reduction == "minimum"   ? yl::Reduction::minimum
                                : reduction == "maximum" ? yl::Reduction::maximum
                                                         : yl::Reduction::average;
        result.power_of_two = named_power_of_two(power_of_two);
        if (!fade.empty()) {
            YL_TRY(const auto range, parse_level_range(fade, "--fade"));
            result.mips.fade = yl::Fade{range.first, range.last()};
        }
        if (!normals.empty()) {
            YL_TRY(auto picture, open_picture(session, normals, {.role = yl::Role::normal}));
            result.normals = std::make_shared<const yl::Picture>(std::move(picture));
        }
        return {};
    }

    yl::Result<yl::BakeOptions> options() const {
        yl::BakeOptions result;
        YL_TRY(const auto chosen, parse_inputs(inputs));
        result.role = chosen.role;
        result.alpha = chosen.alpha;
        result.transfer = chosen.transfer;
        for (const yl::Status& status :
             {parse_if_given(levels, parse_levels, result.levels),
              parse_if_given(origin, parse_origin, result.origin),
              choose_format(format, result.role.value_or(yl::Role::color), result),
              parse_if_given(sampler, parse_sampler_option, result.sampler)})
            if (!status)
                return tl::unexpected(status.error());
        result.blocks = blocks.options();
        result.progress = session.progress();
        YL_CHECK(read_chain_options(result));
        YL_CHECK(read_given(result));
        return result;
    }

    /// Whether an option is given that asks for levels to be made.
    [[nodiscard]] bool wants_new_levels() const {
        static constexpr const char* options[] = {
            "--levels",      "--filter",       "--edge",    "--reduce",        "--coverage",
            "--level",       "--normals",      "--sharpen", "--fade",          "--first-level",
            "--max-size",    "--pow2",         "--dither",  "--limit-ringing", "--from-top",
            "--plain-chain", "--dim-fireflies"};
        return std::ranges::any_of(options,
                                   [&](const char* name) { return is_given(*command, name); });
    }

    /// A texture file in another container, format or order of rows, or with other levels.
    yl::Result<Made> store_anew(const std::string& path,
                                const yl::BakeOptions& bake_options) const {
        auto file = yl::read_texture(path, {.role = bake_options.role.value_or(yl::Role::color),
                                            .transfer = bake_options.transfer,
                                            .progress = session.progress()});
        if (!file)
            return yl::fail_at(file.error(), path);
        const yl::TextureShape& shape = file->texture.shape();
        const bool keeps_size = shape.faces == 6 || shape.depth > 1;
        for (const char* option : {"--max-size", "--pow2"})
            if (keeps_size && is_given(*command, option))
                return yl::fail_at({yl::ErrorKind::usage, "volumes and cubes keep their size"},
                                   option);
        yl::RebakeOptions rebake{.bake = bake_options, .new_levels = wants_new_levels()};
        if (is_given(*command, "--origin"))
            rebake.origin = bake_options.origin;
        auto baked = yl::rebake(file->texture, rebake);
        if (!baked)
            return yl::fail_at(baked.error(), path);
        const yl::Findings odd = file_findings(file->info);
        baked->findings.insert(baked->findings.begin(), odd.begin(), odd.end());
        Made made{.is_texture = true};
        made.keeps_texels = !rebake.new_levels && !bake_options.compressed &&
                            baked->texture.shape() == file->texture.shape() &&
                            baked->texture.metadata.origin == file->texture.metadata.origin;
        made.is_relabelled = baked->texture.metadata.alpha != file->texture.metadata.alpha;
        made.baked = std::move(*baked);
        return made;
    }

    yl::Result<Made> make(const yl::BakeOptions& bake_options) const {
        YL_TRY(const auto top, top_picture());
        const auto kind = file_kind(top);  // whoever reads it says what is wrong
        if (kind && *kind == FileKind::texture)
            return store_anew(top, bake_options);
        auto baked = yl::bake_file(top, bake_options);
        if (!baked)
            return tl::unexpected(baked.error());
        return Made{.baked = std::move(*baked)};
    }

    /// What is known before anything is read.
    [[nodiscard]] Facts early_facts(const yl::BakeOptions& chosen) const {
        const yl::Role role = chosen.role.value_or(yl::Role::color);
        const bool is_dds = lower_case_ending(output) == "dds";
        return when(is_dds, to_dds) | when(!is_dds, to_ktx2) |
               when(role == yl::Role::data || role == yl::Role::mask, role_of_numbers);
    }

    /// What is known of the texture that was made.
    [[nodiscard]] Facts facts_of(const Made& made, const yl::BakeOptions& chosen) const {
        const yl::Baked& baked = made.baked;
        const yl::TextureShape& shape = baked.texture.shape();
        const yl::FormatInfo& f = yl::info(shape.format);
        const std::uint32_t whole = first_level + shape.levels;
        const bool makes = !made.keeps_texels;
        const bool makes_chain = makes && (!made.is_texture || wants_new_levels());
        const bool resizes = makes_chain && (max_size || power_of_two != "any");
        const auto kernel = chosen.mips.kernel.value_or(yl::default_kernel(baked.role)).kind;
        const bool can_ring =
            kernel != yl::Kernel::Kind::box && kernel != yl::Kernel::Kind::triangle;
        const bool blocks_made = makes && f.is_block();
        const bool is_bc1 = f.name.starts_with("bc1-");
        const bool shows_alpha = f.has(yl::Channel::alpha) && !baked.is_opaque;
        const bool by_role = baked.role == yl::Role::color || baked.role == yl::Role::normal;
        const bool sharpens = mips.sharpen > 0 || mips.guard_fireflies;
        const bool filters_now = (makes_chain && whole > 1) || resizes;
        return when(makes_chain && whole > 1, makes_levels) |
               when(makes_chain && whole > 2, makes_many_levels) | when(filters_now, filters) |
               when(filters_now && can_ring && (chosen.mips.kernel || plain_chain), rings) |
               when(filters_now && (kernel != yl::Kernel::Kind::box || sharpens), looks_beyond) |
               when(makes_chain && whole > 1 && (by_role || shows_alpha), averages_by_role) |
               when(!f.is_float(), rounds) | when(blocks_made, encodes_blocks) |
               when(blocks_made && !f.is_float() && f.channel_count > 2, encodes_colors) |
               when(blocks_made && is_bc1 && blocks.effort >= 8, encodes_hard_bc1) |
               when(shows_alpha, has_alpha) |
               when(makes_chain && whole > 1 && (shows_alpha || f.channel_count <= 2),
                    tests_alpha) |
               when(f.is_float(), is_light) | when(makes || made.is_relabelled, role_matters);
    }

    yl::Result<Exit> run() const {
        YL_TRY(const auto bake_options, options());
        YL_CHECK(refuse_options(*command, refused_by_bake, early_facts(bake_options)));
        YL_TRY(auto write_options, parse_supercompression(supercompression));
        write_options.legacy_header = old_header;
        write_options.progress = session.progress();
        YL_TRY(auto made, make(bake_options));
        yl::Baked& baked = made.baked;
        YL_TRY(const auto written, save(output, baked.texture, write_options));
        for (const yl::Findings& more :
             {idle_options(*command, idle_in_bake, facts_of(made, bake_options)),
              yl::losses_in_file(output, baked.texture.metadata, baked.texture.shape().format,
                                 write_options)})
            baked.findings.insert(baked.findings.end(), more.begin(), more.end());
        const std::string top = *top_picture();
        session.warn(baked.findings, top);
        report(top, baked, write_options.supercompression, written);
        return session.outcome();
    }

    void report(const std::string& top, const yl::Baked& baked, yl::Supercompression scheme,
                std::uint64_t file_bytes) const {
        const yl::TextureShape& shape = baked.texture.shape();
        const yl::TextureMetadata& metadata = baked.texture.metadata;
        const std::string role(yl::info(baked.role).name);
        const bool has_alpha = yl::info(shape.format).has(yl::Channel::alpha);
        const std::string_view alpha = !has_alpha        ? "none"
                                       : baked.is_opaque ? "1 everywhere"
                                                         : alpha_text(metadata.alpha);
        session.say(fmt::format("{} -> {}", top, output));
        session.say(
            row_text("texture", fmt::format("{}, {}, {}", size_text(shape.width, shape.height),
                                            yl::info(shape.format).name, shape_text(shape))));
        session.say(row_text("as", fmt::format("role {}, seen as {}, alpha {}, row 0 at the {}",
                                               role, yl::swizzle_text(metadata.swizzle), alpha,
                                               origin_text(metadata.origin))));
        if (baked.mean_normal_length)
            session.say(row_text("normals", fmt::format("{:.4f} long on average, made 1 long",
                                                        *baked.mean_normal_length)));
        session.say(row_text(
            "bytes",
            fmt::format("{} on the GPU, {} in the file, supercompression {}",
                        byte_text(shape.total_bytes()), byte_text(file_bytes), yl::name(scheme))));
        if (!session.json)
            return;
        Json result = {{"input", top},
                       {"output", output},
                       {"gpu_format", yl::info(shape.format).name},
                       {"width", shape.width},
                       {"height", shape.height},
                       {"levels", shape.levels},
                       {"role", role},
                       {"swizzle", yl::swizzle_text(metadata.swizzle)},
                       {"origin", origin_text(metadata.origin)},
                       {"supercompression", yl::name(scheme)},
                       {"gpu_bytes", shape.total_bytes()},
                       {"file_bytes", file_bytes},
                       {"alpha", alpha},
                       {"findings", findings_json(baked.findings)}};
        if (baked.mean_normal_length)
            result["mean_normal_length"] = *baked.mean_normal_length;
        session.give([&] { return Json(result); });
    }
};

constexpr std::string_view chain_group = "The mip chain";

void add_chain_options(CLI::App& command, Bake& bake) {
    const std::string group(chain_group);
    command
        .add_option("--filter", bake.filter,
                    "box, triangle, mitchell, catmull-rom, cubic:B,C, lanczos:RADIUS or "
                    "kaiser:RADIUS,SHAPE (color and normal: kaiser with limited ringing; else box)")
        ->option_text("FILTER")
        ->group(group);
    command
        .add_option("--edge", bake.edges,
                    "What lies beyond the edges: clamp, repeat or mirror, or two of them")
        ->option_text("EDGE")
        ->group(group);
    command
        .add_option("--reduce", bake.reduction,
                    "What a texel is of those that it covers: their average, minimum or maximum")
        ->check(CLI::IsMember({"average", "minimum", "maximum"}))
        ->option_text("HOW")
        ->group(group);
    command
        .add_option("--coverage", bake.coverage,
                    "Keep the share of texels that pass this alpha test at every level")
        ->option_text("THRESHOLD")
        ->group(group);
    command.add_option("--fade", bake.fade, "Fade to the mean colour between two levels")
        ->option_text("BEGIN..END")
        ->group(group);
    command
        .add_flag("--from-top", bake.mips.from_top,
                  "Make each level of level 0, not of the one above")
        ->group(group);
    command
        .add_flag("--limit-ringing", bake.limit_ringing,
                  "No texel leaves the range of those that it covers")
        ->group(group);
    command.add_flag("--dither", bake.mips.dither, "Spread rounding errors as fine noise")
        ->group(group);
    command
        .add_flag("--plain-chain", bake.plain_chain,
                  "Average the stored numbers, whatever the role")
        ->group(group);
}

void add_content_options(CLI::App& command, Bake& bake) {
    const std::string group(chain_group);
    command.add_option("--level", bake.given, "Take a level from a picture of its size")
        ->option_text("N=FILE")
        ->expected(1)
        ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll)
        ->group(group);
    command
        .add_option("--normals", bake.normals,
                    "role data: widen roughness by the normals of this map that are averaged away")
        ->option_text("FILE")
        ->group(group);
    command.add_option("--sharpen", bake.mips.sharpen, "Give back detail to each level, 0 to 2")
        ->option_text("AMOUNT")
        ->group(group);
    command
        .add_option("--first-level", bake.first_level,
                    "Begin the texture with this level of the whole chain")
        ->option_text("N")
        ->group(group);
    command.add_option("--max-size", bake.max_size, "Make larger pictures smaller")
        ->option_text("TEXELS")
        ->check(in_range(1, 65536))
        ->group(group);
    command.add_option("--pow2", bake.power_of_two, "Resize to powers of two: nearest, up or down")
        ->check(CLI::IsMember({"any", "nearest", "up", "down"}))
        ->option_text("HOW")
        ->group(group);
    command
        .add_flag("--dim-fireflies", bake.mips.guard_fireflies,
                  "Floating point: dim single texels that outshine their neighbours, and say how "
                  "much light that takes")
        ->group(group);
}

}  // namespace

void add_bake(CLI::App& app, Session& session) {
    auto bake = std::make_shared<Bake>(Bake{session});
    CLI::App* command = add_command(app, session, "bake", "Make a texture file of a picture file",
                                    [bake] { return bake->run(); });
    bake->command = command;
    takes_pipes(command->add_option(
                    "INPUT", bake->input,
                    "A picture file, or - for standard input; or a texture file, whose levels stay "
                    "unless an option asks for others"),
                session);
    add_output_option(*command, session, bake->output, "The texture file to write (.ktx2, .dds)")
        ->required()
        ->option_text("OUT");
    add_input_options(*command, bake->inputs);
    command
        ->add_option(
            "--as", bake->format,
            "Pixel format, such as rgba8-srgb or bc7 (its -srgb or -unorm by role), or bc for "
            "the block format that suits the role; a plain one by role when left out")
        ->option_text("FORMAT");
    command->add_option("--levels", bake->levels, "Mip levels: full, or how many")
        ->option_text("full|N");
    command->add_option("--origin", bake->origin, "Where row 0 lies: top or bottom")
        ->option_text("top|bottom");
    command
        ->add_option("--supercompress", bake->supercompression,
                     "Pack each level: none, zlib[:LEVEL], zstd[:LEVEL]")
        ->option_text("SCHEME");
    command->add_option("--sampler", bake->sampler, "The sampler to keep with the texture")
        ->option_text("SAMPLER");
    command->add_flag("--old-header", bake->old_header,
                      "DDS: the header without the extension, for old programs");
    add_block_options(*command, bake->blocks);
    add_chain_options(*command, *bake);
    add_content_options(*command, *bake);
}

}  // namespace ylat
