// ylat bake: a picture file to a texture file.
#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <charconv>
#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "bake_many.hpp"
#include "blocks.hpp"
#include "describe.hpp"
#include "inputs.hpp"
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
    has_alpha = 1U << 11U,         ///< that is not 1 everywhere
    tests_alpha = 1U << 12U,       ///< or the first channel of what has none
    is_light = 1U << 2U,
    role_matters = 1U << 14U,
    looks_beyond = 1U << 15U,  ///< the edges, by a kernel wider than a box
    averages_by_role = 1U << 16U,
    stacks = 1U << 17U,  ///< several pictures
    bakes_one = 1U << 18U,
    is_flat = 1U << 19U,  ///< no volume
    differs_in_size = 1U << 20U,
    keeps_array = 1U << 21U,
    cuts_strip = 1U << 24U,     ///< one picture into the slices of a volume
    bakes_many = 1U << 26U,     ///< into a folder, each by itself
    has_profile = 1U << 25U,    ///< a picture, of colours
    exceeds_size = 1U << 22U,   ///< that is asked for
    has_odd_sides = 1U << 23U,  ///< no powers of two
};

constexpr const char* chain_heading = "The mip chain";

/// A texture, and what became of those of an input that is one.
struct Made {
    yl::Baked baked = {};
    bool is_texture = false;
    bool keeps_texels = false;
    bool is_relabelled = false;                     ///< says something else of its texels
    bool is_unequal = false;                        ///< of pictures of several sizes
    std::array<std::uint32_t, 2> source_size = {};  ///< 0: not known
};

struct Bake {
    Session& session;
    Command command;
    std::vector<std::string> paths = {};
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
    bool array = false, volume = false;
    std::string sizes = "refuse";
    std::optional<std::uint32_t> slices = {};
    std::vector<std::string> role_patterns = {};
    bool into_folder = false;

    /// Level 0 may come first, or be named like the others.
    yl::Result<std::string> top_picture() const {
        std::string path = paths.empty() ? "" : paths[0];
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
        return command.is_given("--levels") || command.is_given_under(chain_heading);
    }

    /// A texture file, or a lookup table, which becomes one.
    yl::Result<yl::TextureFile> read_stored(const std::string& path,
                                            const yl::BakeOptions& bake_options) const {
        if (lower_case_ending(path) == "cube") {
            YL_TRY(yl::LookupTable table, yl::read_lookup_table(path));
            return yl::TextureFile{std::move(table.texture), {}};
        }
        auto file = yl::read_texture(path, {.role = bake_options.role.value_or(yl::Role::color),
                                            .transfer = bake_options.transfer,
                                            .progress = session.progress()});
        return file ? std::move(file) : yl::fail_at(file.error(), path);
    }

    /// A texture in another container, format or order of rows, or with other levels.
    yl::Result<Made> store_anew(const yl::TextureFile& file, const std::string& path,
                                const yl::BakeOptions& bake_options) const {
        const yl::TextureShape& shape = file.texture.shape();
        const bool keeps_size = shape.faces == 6 || shape.depth > 1;
        for (const char* option : {"--max-size", "--pow2"})
            if (keeps_size && command.is_given(option))
                return yl::fail_at({yl::ErrorKind::usage, "volumes and cubes keep their size"},
                                   option);
        yl::RebakeOptions rebake{.bake = bake_options, .new_levels = wants_new_levels()};
        if (command.is_given("--origin"))
            rebake.origin = bake_options.origin;
        auto baked = yl::rebake(file.texture, rebake);
        if (!baked)
            return yl::fail_at(baked.error(), path);
        const yl::Findings odd = file_findings(file.info);
        baked->findings.insert(baked->findings.begin(), odd.begin(), odd.end());
        Made made{.is_texture = true};
        made.source_size = {shape.width, shape.height};
        made.keeps_texels = !rebake.new_levels && !bake_options.compressed &&
                            baked->texture.shape() == file.texture.shape() &&
                            baked->texture.metadata.origin == file.texture.metadata.origin;
        made.is_relabelled = baked->texture.metadata.alpha != file.texture.metadata.alpha;
        made.baked = std::move(*baked);
        return made;
    }

    [[nodiscard]] static bool is_texture(const std::string& path) {
        const auto kind = file_kind(path);  // whoever reads it says what is wrong
        return (kind && *kind == FileKind::texture) || lower_case_ending(path) == "cube";
    }

    /// Textures, cubes among them, as the layers of one array.
    yl::Result<Made> join_textures(const yl::BakeOptions& bake_options) const {
        std::vector<yl::TextureFile> files;
        for (const std::string& path : paths) {
            YL_TRY(auto file, read_stored(path, bake_options));
            files.push_back(std::move(file));
        }
        std::vector<const yl::Texture*> textures;
        for (const yl::TextureFile& file : files)
            textures.push_back(&file.texture);
        auto all = yl::array_of(textures);
        if (!all) {
            yl::Error error = all.error();
            error.place = with_path(error.place);
            return tl::unexpected(std::move(error));
        }
        return store_anew({std::move(*all), {}}, output, bake_options);
    }

    /// The library numbers the pictures of a stack; people know them by their files.
    std::string with_path(const std::string& text) const {
        for (std::size_t i = 0; i < paths.size(); ++i)
            for (const char* kind : {"picture", "texture"})
                if (const std::string number = fmt::format("{} {}", kind, i);
                    text == number || text.starts_with(number + ":"))
                    return paths[i] + text.substr(number.size());
        return text;
    }

    /// The layers of an array, or the slices of a volume.
    yl::Result<Made> stack(const yl::BakeOptions& bake_options) const {
        yl::StackOptions stack_options;
        stack_options.bake = bake_options;
        stack_options.sizes = sizes == "resize" ? yl::UnequalSizes::resize
                              : sizes == "pad"  ? yl::UnequalSizes::pad
                                                : yl::UnequalSizes::refuse;
        std::vector<yl::Picture> pictures;
        for (const std::string& path : paths) {
            YL_TRY(auto picture, picture_of(session, path, *parse_inputs(inputs)));
            pictures.push_back(std::move(picture));
        }
        if (slices) {
            auto cut = yl::slices_of_strip(pictures[0], *slices);
            if (!cut)
                return yl::fail_at(cut.error(), paths[0]);
            pictures = std::move(*cut);
            stack_options.bake.role = bake_options.role.value_or(yl::Role::data);
        }
        std::vector<const yl::Picture*> pointers;
        Made made;
        for (const yl::Picture& picture : pictures) {
            pointers.push_back(&picture);
            const auto width = picture.image.width(), height = picture.image.height();
            made.is_unequal |=
                width != pictures[0].image.width() || height != pictures[0].image.height();
            made.source_size = {std::max(made.source_size[0], width),
                                std::max(made.source_size[1], height)};
        }
        auto baked = array ? yl::bake_array(pointers, stack_options)
                           : yl::bake_volume(pointers, stack_options);
        if (!baked) {
            baked.error().place = with_path(baked.error().place);
            return tl::unexpected(baked.error());
        }
        made.baked = std::move(*baked);
        for (yl::Finding& finding : made.baked.findings)
            finding.problem = with_path(finding.problem);
        return made;
    }

    yl::Result<Made> make(const yl::BakeOptions& bake_options) const {
        if (array && std::ranges::all_of(paths, is_texture))
            return join_textures(bake_options);
        if (array || volume)
            return stack(bake_options);
        if (paths.size() > 1)
            return yl::fail_at({yl::ErrorKind::usage,
                                "several pictures become one texture with --array or --volume"},
                               "INPUT");
        YL_TRY(const auto top, top_picture());
        if (is_texture(top)) {
            YL_TRY(const auto file, read_stored(top, bake_options));
            return store_anew(file, top, bake_options);
        }
        YL_TRY(const auto chosen, parse_inputs(inputs));
        auto baked = yl::bake_file(top, bake_options, {.profile = chosen.profile});
        if (!baked)
            return tl::unexpected(baked.error());
        Made made{.baked = std::move(*baked)};
        if (const auto header = yl::peek_picture(top))
            made.source_size = {header->width, header->height};
        return made;
    }

    /// What is known before anything is read.
    [[nodiscard]] Facts early_facts(const yl::BakeOptions& chosen) const {
        const yl::Role role = chosen.role.value_or(yl::Role::color);
        const bool is_dds = lower_case_ending(output) == "dds";
        return when(is_dds, to_dds) | when(!is_dds, to_ktx2) | when(array != volume, stacks) |
               when(volume && paths.size() == 1, cuts_strip) | when(into_folder, bakes_many) |
               when(!array && !volume, bakes_one) | when(!volume, is_flat) |
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
        const auto [width, height] = made.source_size;
        const bool is_known = width > 0;
        const bool exceeds = max_size && std::max(width, height) > *max_size;
        const bool is_odd = !std::has_single_bit(width) || !std::has_single_bit(height);
        return when(!is_known || exceeds, exceeds_size) |
               when(!is_known || exceeds || is_odd, has_odd_sides) |
               when(makes_chain && whole > 1, makes_levels) |
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
               when(f.is_float(), is_light) | when(made.is_unequal, differs_in_size) |
               when(shape.layers > 1 || lower_case_ending(output) != "dds", keeps_array) |
               when(tells_of_profile(baked.findings), has_profile) |
               when(makes || made.is_relabelled, role_matters);
    }

    /// The texture file, written, with all that was noticed.
    struct Written {
        std::string top = {};
        Made made = {};
        yl::Supercompression scheme = yl::Supercompression::none;
        std::uint64_t file_bytes = 0;
    };

    yl::Result<Written> make_and_write() const {
        YL_TRY(const auto bake_options, options());
        YL_CHECK(command.refuse_options(early_facts(bake_options)));
        YL_TRY(auto write_options, parse_supercompression(supercompression));
        write_options.legacy_header = old_header;
        write_options.progress = session.progress();
        YL_TRY(auto made, make(bake_options));
        Written written{.scheme = write_options.supercompression};
        yl::Baked& baked = made.baked;
        YL_TRY(written.file_bytes, save(output, baked.texture, write_options));
        for (const yl::Findings& more :
             {command.idle_options(facts_of(made, bake_options)),
              yl::losses_in_file(output, baked.texture.metadata, baked.texture.shape().format,
                                 write_options)})
            baked.findings.insert(baked.findings.end(), more.begin(), more.end());
        written.top = array || volume ? fmt::format("{}", fmt::join(paths, ", ")) : *top_picture();
        session.warn(baked.findings, array || volume ? output : written.top);
        written.made = std::move(made);
        return written;
    }

    /// Each input by itself, in the role that its name tells unless one is given.
    yl::Result<Exit> run_many() const {
        YL_TRY(const auto patterns, parse_role_patterns(role_patterns));
        return bake_into_folder(
            session, paths, output,
            [&](const std::string& path, const std::string& file) -> yl::Result<BakedOne> {
                Bake one = *this;
                one.into_folder = true;
                one.paths = {path};
                one.output = file;
                const auto role = role_of_name(path, patterns);
                if (inputs.role.empty() && role)
                    one.inputs.role = yl::info(*role).name;
                YL_TRY(const Written written, one.make_and_write());
                const yl::Baked& baked = written.made.baked;
                const yl::TextureShape& shape = baked.texture.shape();
                const bool is_by_name = inputs.role.empty() && role;
                return BakedOne{
                    fmt::format("{} -> {}: {}, {}, role {}{}", path, file,
                                size_text(shape.width, shape.height), yl::info(shape.format).name,
                                yl::info(baked.role).name, is_by_name ? ", by its name" : ""),
                    one.json_of(written)};
            });
    }

    yl::Result<Exit> run() const {
        if (is_folder(output) && !array && !volume)
            return run_many();
        YL_TRY(const Written written, make_and_write());
        report(written);
        return session.outcome();
    }

    [[nodiscard]] static std::string_view alpha_words(const yl::Baked& baked) {
        return !yl::info(baked.texture.shape().format).has(yl::Channel::alpha) ? "none"
               : baked.is_opaque                                               ? "1 everywhere"
                                 : alpha_text(baked.texture.metadata.alpha);
    }

    void report(const Written& written) const {
        const yl::Baked& baked = written.made.baked;
        const yl::TextureShape& shape = baked.texture.shape();
        const yl::TextureMetadata& metadata = baked.texture.metadata;
        const std::string& top = written.top;
        const std::string role(yl::info(baked.role).name);
        session.say(fmt::format("{} -> {}", top, output));
        session.say(
            row_text("texture", fmt::format("{}, {}, {}", size_text(shape.width, shape.height),
                                            yl::info(shape.format).name, shape_text(shape))));
        session.say(row_text("as", fmt::format("role {}, seen as {}, alpha {}, row 0 at the {}",
                                               role, yl::swizzle_text(metadata.swizzle),
                                               alpha_words(baked), origin_text(metadata.origin))));
        if (baked.mean_normal_length)
            session.say(row_text("normals", fmt::format("{:.4f} long on average, made 1 long",
                                                        *baked.mean_normal_length)));
        session.say(row_text(
            "bytes", fmt::format("{} on the GPU, {} in the file, supercompression {}",
                                 byte_text(shape.total_bytes()), byte_text(written.file_bytes),
                                 yl::name(written.scheme))));
        session.give([&] { return json_of(written); });
    }

    [[nodiscard]] Json json_of(const Written& written) const {
        const yl::Baked& baked = written.made.baked;
        const yl::TextureMetadata& metadata = baked.texture.metadata;
        Json result = {{"input", written.top},
                       {"output", output},
                       {"role", yl::info(baked.role).name},
                       {"swizzle", yl::swizzle_text(metadata.swizzle)},
                       {"origin", origin_text(metadata.origin)},
                       {"supercompression", yl::name(written.scheme)},
                       {"file_bytes", written.file_bytes},
                       {"alpha", alpha_words(baked)},
                       {"findings", findings_json(baked.findings)}};
        add_shape(result, baked.texture.shape());
        if (array || volume) {
            result.erase("input");
            result["inputs"] = paths;
        }
        if (baked.mean_normal_length)
            result["mean_normal_length"] = *baked.mean_normal_length;
        return result;
    }
};

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
             "The pixel format, such as rgba8-srgb or bc7 (-srgb or -unorm by role); bc picks the "
             "block format that suits the role. Without it, an uncompressed format by role"},
            {"--levels", &bake.levels, "full|N", "How many mip levels, or full"},
            {"--origin", &bake.origin, "top|bottom", "Which row comes first: top or bottom"},
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
                  to_dds, "the output is no DDS file, which alone has an old header")}}}}};
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
                     refused_without(role_of_numbers,
                                     "it widens roughness, which is no colour: add --role data or "
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
    return {chain_heading,
            {{"--level",
              &bake.given,
              "N=FILE",
              "Use this picture for a level instead of filtering it",
              {.rules = {refused_without(bakes_one, "levels are given to single pictures only")}}},
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

void add_bake(CLI::App& app, Session& session) {
    auto bake = std::make_shared<Bake>(
        Bake{session, Command(app, session, "bake", "Make a texture file of a picture file")});
    Command& command = bake->command;
    command.runs([bake] { return bake->run(); });
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
         {profile_option(bake->inputs, has_profile), main_options(*bake), stack_options(*bake),
          block_options(bake->blocks), filter_options(*bake), appearance_options(*bake),
          size_options(*bake)})
        command.add(table);
}

}  // namespace ylat
