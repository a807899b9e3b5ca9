// ylat bake: a picture file to a texture file.
#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <charconv>
#include <memory>

#include <yl/status_macros.hpp>

#include "archives.hpp"
#include "bake.hpp"
#include "describe.hpp"
#include "outputs.hpp"

namespace ylat {

yl::Result<std::string> Bake::top_picture() const {
    std::string path = paths.empty() ? "" : paths[0];
    for (const std::string& text : given)
        if (text.starts_with("0="))
            path = path.empty() ? text.substr(2) : "";
    if (path.empty())
        return yl::fail(yl::ErrorKind::usage,
                        "one picture is needed for level 0, as INPUT or by --level 0=FILE");
    return path;
}

yl::Status Bake::read_given(yl::BakeOptions& result) const {
    for (const std::string& text : given) {
        if (text.starts_with("0="))
            continue;
        const std::size_t equals = text.find('=');
        std::uint32_t level = 0;
        const auto [end, error] =
            std::from_chars(text.data(), text.data() + std::min(equals, text.size()), level);
        if (equals == std::string::npos || error != std::errc{} || end != text.data() + equals ||
            equals + 1 == text.size())
            return yl::fail_at({yl::ErrorKind::usage,
                                fmt::format("'{}' is not understood; it takes the number of a "
                                            "level, '=' and a picture file",
                                            text)},
                               "--level");
        YL_TRY(auto picture, open_picture(session, text.substr(equals + 1),
                                          {.role = result.role, .transfer = result.transfer}));
        result.given.push_back({level, std::make_shared<const yl::Picture>(std::move(picture))});
    }
    return {};
}

yl::Status Bake::read_chain_options(yl::BakeOptions& result) const {
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
    return {};
}

yl::Result<yl::BakeOptions> Bake::parsed_options() const {
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
    return result;
}

yl::Result<yl::BakeOptions> Bake::options() const {
    YL_TRY(yl::BakeOptions result, parsed_options());
    if (!normals.empty()) {
        YL_TRY(auto picture, open_picture(session, normals, {.role = yl::Role::normal}));
        result.normals = std::make_shared<const yl::Picture>(std::move(picture));
    }
    YL_CHECK(read_given(result));
    return result;
}

yl::Status Bake::check() const {
    YL_TRY([[maybe_unused]] const auto parsed, parsed_options());
    YL_TRY([[maybe_unused]] const auto packing, parse_supercompression(supercompression));
    return {};
}

bool Bake::wants_new_levels() const {
    return command.is_given("--levels") || command.is_given_under(chain_heading);
}

yl::Result<yl::TextureFile> Bake::read_stored(const std::string& path,
                                              const yl::BakeOptions& bake_options) const {
    if (lower_case_ending(path) == "cube") {
        const yl::Limits limits{.max_bytes = std::uint64_t{256} << 20U};
        YL_TRY(auto table, yl::read_lookup_table(path, limits, files_for(path)));
        return yl::TextureFile{std::move(table.texture), {}};
    }
    auto file = yl::read_texture(path, {.role = bake_options.role.value_or(yl::Role::color),
                                        .transfer = bake_options.transfer,
                                        .files = files_for(path),
                                        .progress = session.progress()});
    return file ? std::move(file) : yl::fail_at(file.error(), path);
}

yl::Result<Made> Bake::store_anew(const yl::TextureFile& file, const std::string& path,
                                  const yl::BakeOptions& bake_options) const {
    const yl::TextureShape& shape = file.texture.shape();
    const bool keeps_size = shape.faces == 6 || shape.depth > 1;
    for (const char* option : {"--max-size", "--pow2"})
        if (keeps_size && command.is_given(option))
            return yl::fail_at({yl::ErrorKind::usage, "volumes and cubes keep their size"}, option);
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
    made.keeps_texels = !rebake.new_levels && bake_options.compressed == yl::BlockFamily::none &&
                        baked->texture.shape() == file.texture.shape() &&
                        baked->texture.metadata.origin == file.texture.metadata.origin;
    made.is_relabelled = baked->texture.metadata.alpha != file.texture.metadata.alpha;
    made.baked = std::move(*baked);
    return made;
}

bool Bake::is_texture(const std::string& path) {
    const auto kind = file_kind(path);  // whoever reads it says what is wrong
    return (kind && *kind == FileKind::texture) || lower_case_ending(path) == "cube";
}

yl::Result<Made> Bake::join_textures(const yl::BakeOptions& bake_options) const {
    std::vector<yl::TextureFile> files;
    for (const std::string& path : paths) {
        YL_CHECK(refuse_part(path, inputs.part));
        YL_TRY(auto file, read_stored(path, bake_options));
        files.push_back(std::move(file));
    }
    std::vector<const yl::Texture*> textures;
    for (const yl::TextureFile& file : files)
        textures.push_back(&file.texture);
    auto all = yl::array_of(textures);
    if (!all) {
        yl::Error error = all.error();
        error.place = with_name(error.place, paths);
        return tl::unexpected(std::move(error));
    }
    return store_anew({std::move(*all), {}}, output, bake_options);
}

std::string Bake::with_name(const std::string& text, const std::vector<std::string>& names) {
    for (std::size_t i = 0; i < names.size(); ++i)
        for (const char* kind : {"picture", "texture"})
            if (const std::string number = fmt::format("{} {}", kind, i);
                text == number || text.starts_with(number + ":"))
                return names[i] + text.substr(number.size());
    return text;
}

yl::Result<Made> Bake::stack(const yl::BakeOptions& bake_options) const {
    yl::StackOptions stack_options;
    stack_options.bake = bake_options;
    stack_options.sizes = sizes == "resize" ? yl::UnequalSizes::resize
                          : sizes == "pad"  ? yl::UnequalSizes::pad
                                            : yl::UnequalSizes::refuse;
    Made made;
    std::vector<yl::Picture> pictures;
    std::vector<std::string> names;
    for (const std::string& path : paths) {
        if (!frames) {
            names.push_back(path);
            YL_TRY(auto picture, picture_of(session, path, *parse_inputs(inputs)));
            pictures.push_back(std::move(picture));
            continue;
        }
        YL_TRY(auto all, frames_of(session, path, *parse_inputs(inputs)));
        for (std::size_t i = 0; i < all.pictures.size(); ++i)
            names.push_back(i == 0 ? path : fmt::format("{}, frame {}", path, i));
        std::ranges::move(all.pictures, std::back_inserter(pictures));
        made.seconds.insert(made.seconds.end(), all.seconds.begin(), all.seconds.end());
    }
    if (slices) {
        auto cut = yl::slices_of_strip(pictures[0], *slices);
        if (!cut)
            return yl::fail_at(cut.error(), paths[0]);
        pictures = std::move(*cut);
        stack_options.bake.role = bake_options.role.value_or(yl::Role::data);
    }
    std::vector<const yl::Picture*> pointers;
    for (const yl::Picture& picture : pictures) {
        pointers.push_back(&picture);
        const auto width = picture.image.width(), height = picture.image.height();
        made.is_unequal |=
            width != pictures[0].image.width() || height != pictures[0].image.height();
        made.source_size = {std::max(made.source_size[0], width),
                            std::max(made.source_size[1], height)};
    }
    auto baked =
        array ? yl::bake_array(pointers, stack_options) : yl::bake_volume(pointers, stack_options);
    if (!baked) {
        baked.error().place = with_name(baked.error().place, names);
        return tl::unexpected(baked.error());
    }
    made.baked = std::move(*baked);
    made.has_frames = frames && pictures.size() > paths.size();
    for (yl::Finding& finding : made.baked.findings)
        finding.problem = with_name(finding.problem, names);
    if (made.has_frames && made.seconds.size() == pictures.size())
        made.baked.texture.metadata.key_values[frame_times_note] =
            fmt::format("{}", fmt::join(made.seconds, " "));
    return made;
}

yl::Result<Made> Bake::make(const yl::BakeOptions& bake_options) const {
    if (array && !frames && std::ranges::all_of(paths, is_texture))
        return join_textures(bake_options);
    if (array || volume)
        return stack(bake_options);
    if (paths.size() > 1)
        return yl::fail_at(
            {yl::ErrorKind::usage, "several pictures become one texture with --array or --volume"},
            "INPUT");
    YL_TRY(const auto top, top_picture());
    if (is_texture(top)) {
        YL_CHECK(refuse_part(top, inputs.part));
        YL_TRY(const auto file, read_stored(top, bake_options));
        return store_anew(file, top, bake_options);
    }
    return make_one(top, bake_options);
}

yl::Result<yl::ReadOptions> Bake::reading(const std::string& path) const {
    YL_TRY(const auto chosen, parse_inputs(inputs));
    return yl::ReadOptions{.role = chosen.role.value_or(yl::Role::color),
                           .profile = chosen.profile,
                           .part = chosen.part,
                           .files = files_for(path),
                           .progress = session.progress()};
}

yl::Result<Made> Bake::make_one(const std::string& top, const yl::BakeOptions& bake_options) const {
    YL_TRY(const auto read, reading(top));
    Made made;
    if (stored_levels) {
        YL_TRY(auto stored, yl::read_levels(top, read));
        made.has_levels = stored.size() > 1;
        yl::BakeOptions with_levels = bake_options;
        for (std::uint32_t level = 1; level < stored.size(); ++level)
            if (std::ranges::find(bake_options.given, level, &yl::GivenLevel::level) ==
                bake_options.given.end())
                with_levels.given.push_back(
                    {level, std::make_shared<const yl::Picture>(std::move(stored[level]))});
        auto baked = yl::bake(stored[0], with_levels);
        if (!baked)
            return yl::fail_at(baked.error(), top);
        made.baked = std::move(*baked);
    } else {
        YL_TRY(made.baked, yl::bake_file(top, bake_options, read));
    }
    if (const auto header = yl::peek_picture(top, files_for(top)))
        made.source_size = {header->width, header->height};
    return made;
}

bool Bake::exceeds_memory(const yl::BakeOptions& bake_options) const {
    const auto top = top_picture();
    if ((early_facts(bake_options) & reads_rows) == 0 || !top)
        return false;
    const auto header = yl::peek_picture(*top, files_for(*top));
    const yl::Limits limits;
    constexpr std::uint64_t bytes_of_texel = 4;
    return header &&
           (std::max(header->width, header->height) > limits.max_side ||
            std::uint64_t{header->width} * header->height * bytes_of_texel > limits.max_bytes);
}

yl::Result<Made> Bake::make_by_rows(const yl::BakeOptions& bake_options,
                                    const yl::TextureWriteOptions& write_options) const {
    YL_TRY(const auto top, top_picture());
    YL_TRY(const auto read, reading(top));
    auto written = yl::bake_by_rows(top, output, bake_options, read, write_options);
    if (!written && written.error().kind == yl::ErrorKind::usage)
        return yl::fail_at(
            {yl::ErrorKind::usage,
             fmt::format("{}: {}", written.error().message,
                         by_rows ? "leave --by-rows out" : "it is too large to be read whole")},
            top);
    if (!written)
        return tl::unexpected(written.error());
    const yl::BakedFile& file = *written;
    Made made{.shape = file.shape, .metadata = file.metadata, .file_bytes = file.file_bytes};
    made.flowed = file.flowed;
    made.source_size = {file.shape.width, file.shape.height};
    made.baked.role = file.role;
    made.baked.is_opaque = file.is_opaque;
    made.baked.mean_normal_length = file.mean_normal_length;
    made.baked.findings = file.findings;
    if (!file.flowed)
        made.baked.findings.push_back(
            {"read-whole", "this picture had to be read whole: its rows do not come one by one",
             "store it as PNG without interlacing, or as TIFF", yl::FindingLevel::hint});
    return made;
}

Facts Bake::early_facts(const yl::BakeOptions& chosen) const {
    const yl::Role role = chosen.role.value_or(yl::Role::color);
    const bool is_dds = lower_case_ending(output) == "dds";
    const bool is_picture =
        !array && !volume && paths.size() < 2 && !is_texture(top_picture().value_or(""));
    return when(is_dds, to_dds) | when(!is_dds, to_ktx2) | when(array != volume, stacks) |
           when(volume && paths.size() == 1, cuts_strip) | when(into_folder, bakes_many) |
           when(is_picture, reads_picture) | when(is_picture && output != "-", reads_rows) |
           when(!array && !volume, bakes_one) | when(!volume, is_flat) |
           when(role == yl::Role::data || role == yl::Role::mask, role_of_numbers);
}

Facts Bake::facts_of(const Made& made, const yl::BakeOptions& chosen) const {
    const yl::Baked& baked = made.baked;
    const yl::TextureShape& shape = made.shape;
    const yl::FormatInfo& f = yl::info(shape.format);
    const std::uint32_t whole = first_level + shape.levels;
    const bool makes = !made.keeps_texels;
    const bool makes_chain = makes && (!made.is_texture || wants_new_levels());
    const bool resizes = makes_chain && (max_size || power_of_two != "any");
    const auto kernel = chosen.mips.kernel.value_or(yl::default_kernel(baked.role)).kind;
    const bool can_ring = kernel != yl::Kernel::Kind::box && kernel != yl::Kernel::Kind::triangle;
    const bool blocks_made = makes && f.is_block();

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
           when(!f.is_float(), rounds) | (blocks_made ? facts_of_blocks(f, blocks) : 0) |
           when(shows_alpha, has_alpha) |
           when(makes_chain && whole > 1 && (shows_alpha || f.channel_count <= 2), tests_alpha) |
           when(f.is_float(), is_light) | when(made.is_unequal, differs_in_size) |
           when(made.has_frames, has_frames) | when(made.has_levels, stores_levels) |
           when(shape.layers > 1 || lower_case_ending(output) != "dds", keeps_array) |
           when(tells_of_profile(baked.findings), has_profile) |
           when(makes || made.is_relabelled, role_matters);
}

yl::Result<Bake::Written> Bake::make_and_write() const {
    YL_TRY(const auto bake_options, options());
    YL_CHECK(command.refuse_options(early_facts(bake_options)));
    YL_TRY(auto write_options, parse_supercompression(supercompression));
    write_options.legacy_header = old_header;
    write_options.progress = session.progress();
    const bool flows = by_rows || exceeds_memory(bake_options);
    YL_TRY(auto made, flows ? make_by_rows(bake_options, write_options) : make(bake_options));
    Written written{.scheme = write_options.supercompression};
    yl::Baked& baked = made.baked;
    if (made.file_bytes) {
        written.file_bytes = *made.file_bytes;
    } else {
        made.shape = baked.texture.shape();
        made.metadata = baked.texture.metadata;
        YL_TRY(written.file_bytes, save(output, baked.texture, write_options));
    }
    for (const yl::Findings& more :
         {command.idle_options(facts_of(made, bake_options)),
          yl::losses_in_file(output, made.metadata, made.shape.format, write_options)})
        baked.findings.insert(baked.findings.end(), more.begin(), more.end());
    written.top = array || volume ? fmt::format("{}", fmt::join(paths, ", ")) : *top_picture();
    session.warn(baked.findings, array || volume ? output : written.top);
    written.made = std::move(made);
    return written;
}

yl::Result<Exit> Bake::run_many() const {
    YL_TRY(const auto patterns, parse_role_patterns(role_patterns));
    return bake_into_folder(
        session, paths, output,
        [&](const std::string& path, const std::string& target,
            const std::string& file) -> yl::Result<BakedOne> {
            Bake one = *this;
            one.into_folder = true;
            one.paths = {path};
            one.output = file;
            const auto role = role_of_name(path, patterns);
            if (inputs.role.empty() && role)
                one.inputs.role = yl::info(*role).name;
            YL_TRY(const Written written, one.make_and_write());
            one.output = target;
            const yl::Baked& baked = written.made.baked;
            const yl::TextureShape& shape = written.made.shape;
            const bool is_by_name = inputs.role.empty() && role;
            return BakedOne{
                fmt::format("{} -> {}: {}, {}, role {}{}", path, target,
                            size_text(shape.width, shape.height), yl::info(shape.format).name,
                            yl::info(baked.role).name, is_by_name ? ", by its name" : ""),
                one.json_of(written)};
        });
}

yl::Result<Exit> Bake::run() const {
    if (is_folder(output) && !array && !volume)
        return run_many();
    YL_TRY(const Written written, make_and_write());
    report(written);
    return session.outcome();
}

std::string_view Bake::alpha_words(const Made& made) {
    return !yl::info(made.shape.format).has(yl::Channel::alpha) ? "none"
           : made.baked.is_opaque                               ? "1 everywhere"
                                                                : alpha_text(made.metadata.alpha);
}

void Bake::report(const Written& written) const {
    const yl::Baked& baked = written.made.baked;
    const yl::TextureShape& shape = written.made.shape;
    const yl::TextureMetadata& metadata = written.made.metadata;
    const std::string& top = written.top;
    const std::string role(yl::info(baked.role).name);
    session.say(fmt::format("{} -> {}", top, output));
    session.say(row_text("texture", fmt::format("{}, {}, {}", size_text(shape.width, shape.height),
                                                yl::info(shape.format).name, shape_text(shape))));
    session.say(
        row_text("as", fmt::format("role {}, seen as {}, alpha {}, row 0 at the {}", role,
                                   yl::swizzle_text(metadata.swizzle), alpha_words(written.made),
                                   origin_text(metadata.origin))));
    if (baked.mean_normal_length)
        session.say(row_text("normals", fmt::format("{:.4f} long on average, made 1 long",
                                                    *baked.mean_normal_length)));
    if (written.made.file_bytes)
        session.say(row_text("memory", written.made.flowed
                                           ? "some rows at a time, never the whole picture"
                                           : "the whole picture, and some rows of the texture"));
    session.say(
        row_text("bytes", fmt::format("{} on the GPU, {} in the file, supercompression {}",
                                      byte_text(shape.total_bytes()), byte_text(written.file_bytes),
                                      yl::name(written.scheme))));
    session.give([&] { return json_of(written); });
}

Json Bake::json_of(const Written& written) const {
    const yl::Baked& baked = written.made.baked;
    const yl::TextureMetadata& metadata = written.made.metadata;
    Json result = {{"input", written.top},
                   {"output", output},
                   {"role", yl::info(baked.role).name},
                   {"swizzle", yl::swizzle_text(metadata.swizzle)},
                   {"origin", origin_text(metadata.origin)},
                   {"supercompression", yl::name(written.scheme)},
                   {"file_bytes", written.file_bytes},
                   {"alpha", alpha_words(written.made)},
                   {"findings", findings_json(baked.findings)}};
    add_shape(result, written.made.shape);
    if (array || volume) {
        result.erase("input");
        result["inputs"] = paths;
    }
    if (written.made.file_bytes)
        result["by_rows"] = true;
    if (written.made.has_frames)
        result["seconds"] = written.made.seconds;
    if (baked.mean_normal_length)
        result["mean_normal_length"] = *baked.mean_normal_length;
    return result;
}

void add_bake(CLI::App& app, Session& session) {
    auto bake = std::make_shared<Bake>(
        Bake{session, Command(app, session, "bake", "Make a texture file of a picture file")});
    bake->command.runs([bake] { return bake->run(); }, [bake] { return bake->check(); });
    add_bake_options(bake);
}

}  // namespace ylat
