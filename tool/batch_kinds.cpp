#include "batch_kinds.hpp"

#include <fmt/format.h>
#include <yl/algorithm_versions.hpp>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <filesystem>
#include <map>
#include <set>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "bake_many.hpp"

namespace ylat {
namespace {

using yl::batch::ListEntry;
using yl::batch::ListOption;

using Words = std::vector<std::string>;

constexpr std::pair<const char*, void (*)(CLI::App&, Session&)> commands[] = {
    {"bake", add_bake},     {"cube", add_cube},   {"atlas", add_atlas},  {"model", add_model},
    {"rework", add_rework}, {"batch", add_batch}, {"report", add_report}};

/// A command by itself, to be asked for its options or run.
struct CommandApp {
    Session session = {};
    CLI::App app{"", "ylat"};

    explicit CommandApp(std::string_view name) {
        app.require_subcommand(1);
        for (const auto& [each, add] : commands)
            if (name == each)
                add(app, session);
        session.json = true;
        session.progress_when = "never";
    }
    [[nodiscard]] const CLI::App& command() { return *app.get_subcommands({}).front(); }
};

/// The options of a command that name files, with the form of their values.
const std::map<std::string, std::string>& file_options(const std::string& command) {
    static const auto all = [] {
        std::map<std::string, std::map<std::string, std::string>> by_command;
        for (const auto& [name, add] : commands) {
            CommandApp inside(name);
            for (const CLI::Option* option : inside.command().get_options())
                for (const std::string& each : option->get_lnames())
                    if (option->get_option_text().find("FILE") != std::string::npos)
                        by_command[name][each] = option->get_option_text();
        }
        return by_command;
    }();
    static const std::map<std::string, std::string> none;
    const auto found = all.find(command);
    return found != all.end() ? found->second : none;
}

/// Files in an option's value, by the form that its help shows: FILE, N=FILE[,FILE...].
Words files_in(const std::string& form, const std::string& value) {
    const std::size_t equals =
        form.find('=') < form.find("FILE") ? value.find('=') : std::string::npos;
    std::string rest = equals == std::string::npos ? value : value.substr(equals + 1);
    Words files;
    for (std::size_t comma = 0; comma != std::string::npos;) {
        comma = form.find(",FILE") != std::string::npos ? rest.find(',') : std::string::npos;
        files.push_back(rest.substr(0, comma));
        rest = comma == std::string::npos ? "" : rest.substr(comma + 1);
    }
    return files;
}

/// "r=FILE:g" without the rest; nothing for "a=1".
std::string file_of_channel(const std::string& text) {
    const std::string source = text.substr(text.find('=') + 1);
    const std::string file = source.substr(0, source.rfind(':'));
    return file == "0" || file == "1" ? "" : file;
}

/// A path that no command takes for an option.
std::string as_input(const std::string& path) {
    return path.starts_with('-') ? "./" + path : path;
}

void add_option_words(const std::vector<ListOption>& options, Words& words) {
    for (const ListOption& option : options) {
        if (option.values.empty())
            words.push_back("--" + option.name);
        for (const std::string& value : option.values)
            words.push_back("--" + option.name + "=" + value);
    }
}

yl::batch::EntryKind vocabulary_of(const BatchKind& kind) {
    yl::batch::EntryKind known{kind.name,        kind.ending,         kind.joins_files,
                               kind.takes_faces, kind.takes_channels, {}};
    CommandApp inside(kind.command);
    for (const CLI::Option* option : inside.command().get_options()) {
        if (option->get_lnames().empty())
            continue;
        const std::string& name = option->get_lnames().front();
        if (name == "help" || std::ranges::find(kind.left_out, name) != kind.left_out.end())
            continue;
        known.options.push_back({name, option->get_items_expected_max() == 0,
                                 option->get_expected_max() > 1, name == "role"});
    }
    return known;
}

/// At the place of the option that an error is about.
tl::unexpected<yl::Error> at_option(const ListEntry& entry, yl::Error error) {
    const std::string about = error.place.empty() ? error.message : error.place;
    yl::batch::ListPlace place = entry.place;
    for (const ListOption& option : entry.options)
        if (about.starts_with("--" + option.name))
            place = option.place;
    error.message = error.sentence();
    error.place.clear();
    error.offset.reset();
    return yl::fail_at(std::move(error), place.text());
}

yl::Status parse(CommandApp& inside, const Words& words) {
    try {
        inside.app.parse(Words(words.rbegin(), words.rend()));
    } catch (const CLI::ParseError& error) {
        return yl::fail(yl::ErrorKind::usage, error.what());
    }
    return {};
}

}  // namespace

std::span<const BatchKind> batch_kinds() {
    static const Words of_files = {"array", "volume", "frames", "slices", "sizes", "role-of"};
    static const BatchKind kinds[] = {
        {.name = "textures",
         .command = "bake",
         .ending = "ktx2",
         .left_out = of_files,
         .about = "a texture of each picture"},
        {.name = "arrays",
         .command = "bake",
         .ending = "ktx2",
         .joins_files = true,
         .words = {"--array"},
         .left_out = {"array", "volume", "slices", "role-of", "level", "stored-levels", "by-rows"},
         .about = "one array of all pictures"},
        {.name = "volumes",
         .command = "bake",
         .ending = "ktx2",
         .joins_files = true,
         .words = {"--volume"},
         .left_out = {"array", "volume", "role-of", "level", "stored-levels", "by-rows"},
         .about = "one 3D texture of all pictures, or of a strip"},
        {.name = "cubes",
         .command = "cube",
         .ending = "ktx2",
         .takes_faces = true,
         .about = "a cube map of each picture, or one of six faces"},
        {.name = "atlases",
         .command = "atlas",
         .ending = "ktx2",
         .joins_files = true,
         .left_out = {"table", "keep"},
         .about = "one texture that holds all pictures, and its table"},
        {.name = "models",
         .command = "model",
         .ending = "glb",
         .left_out = {"extract", "plan", "bake"},
         .output_option = "--bake",
         .about = "each model with its images baked"},
        {.name = "packed",
         .command = "bake",
         .ending = "ktx2",
         .takes_channels = true,
         .left_out = of_files,
         .about = "a texture whose channels come from several pictures"},
    };
    return kinds;
}

const BatchKind& batch_kind(std::string_view name) {
    const auto kinds = batch_kinds();
    const auto found = std::ranges::find(
        kinds, name, [](const BatchKind& kind) { return std::string_view(kind.name); });
    return found != kinds.end() ? *found : kinds.front();
}

yl::batch::Vocabulary batch_vocabulary() {
    yl::batch::Vocabulary vocabulary;
    for (const BatchKind& kind : batch_kinds())
        vocabulary.kinds.push_back(vocabulary_of(kind));
    vocabulary.role_of = [](const std::string& path) {
        const auto role = role_of_name(path, {});
        return role ? std::string(yl::info(*role).name) : std::string();
    };
    return vocabulary;
}

std::vector<Words> batch_words(const ListEntry& entry, const std::string& output,
                               const std::string& between) {
    const BatchKind& kind = batch_kind(entry.kind);
    std::vector<Words> lines;
    Words words = {kind.command};
    if (kind.takes_channels) {
        Words pack = {"rework"};
        for (const std::string& channel : entry.channels)
            pack.push_back("--pack=" + channel);
        pack.insert(pack.end(), {"-o", between});
        lines.push_back(std::move(pack));
        words.push_back(between);
    } else {
        for (const std::string& input : entry.faces.empty() ? entry.inputs : entry.faces)
            words.push_back(as_input(input));
    }
    words.insert(words.end(), kind.words.begin(), kind.words.end());
    add_option_words(entry.options, words);
    words.insert(words.end(), {kind.output_option, output});
    lines.push_back(std::move(words));
    return lines;
}

yl::Status check_batch_words(const ListEntry& entry) {
    for (const Words& words : batch_words(entry, entry.output, "packed.png")) {
        CommandApp inside(words.front());
        auto checked = parse(inside, words);
        if (checked && inside.session.check)
            checked = inside.session.check();
        if (!checked)
            return at_option(entry, checked.error());
    }
    return {};
}

Words batch_inputs(const ListEntry& entry) {
    Words files;
    const auto add = [&files](const std::string& file) {
        if (!file.empty() && std::ranges::find(files, file) == files.end())
            files.push_back(file);
    };
    const BatchKind& kind = batch_kind(entry.kind);
    if (!kind.takes_channels)
        std::ranges::for_each(entry.inputs, add);
    for (const std::string& channel : entry.channels)
        add(file_of_channel(channel));
    for (const auto& [name, form] : file_options(kind.command))
        if (const ListOption* given = entry.find(name))
            for (const std::string& value : given->values)
                std::ranges::for_each(files_in(form, value), add);
    return files;
}

namespace {

/// The block encoders behind a format's name; all where it is chosen by role.
Words encoders_of(const std::string& format) {
    if (format.starts_with("astc"))
        return {"astc"};
    if (format.starts_with("etc") || format.starts_with("eac"))
        return {"etc2"};
    if (!format.starts_with("bc"))
        return {};
    for (const auto& [begin, encoder] : {std::pair{"bc1", "bc1"},
                                         {"bc2", "bc1"},
                                         {"bc3", "bc1"},
                                         {"bc4", "bc4"},
                                         {"bc5", "bc4"},
                                         {"bc6", "bc6h"},
                                         {"bc7", "bc7"}})
        if (format.starts_with(begin))
            return {encoder};
    return {"bc1", "bc4", "bc6h", "bc7"};
}

/// The reader of a file, by its ending; all where that tells nothing.
Words readers_of(const std::string& path) {
    static constexpr std::pair<const char*, const char*> readers[] = {
        {"bmp", "bmp"},      {"exr", "exr"},      {"gif", "gif"},      {"hdr", "hdr"},
        {"pic", "hdr"},      {"jpg", "jpg"},      {"jpeg", "jpg"},     {"png", "png"},
        {"pbm", "pnm"},      {"pgm", "pnm"},      {"ppm", "pnm"},      {"pam", "pnm"},
        {"pfm", "pnm"},      {"psd", "psd"},      {"qoi", "qoi"},      {"tga", "tga"},
        {"tif", "tiff"},     {"tiff", "tiff"},    {"webp", "webp"},    {"ktx2", "textures"},
        {"ktx", "textures"}, {"dds", "textures"}, {"cube", "textures"}};
    const std::string ending = lower_case_ending(path);
    for (const auto& [each, reader] : readers)
        if (ending == each)
            return {reader};
    return {"bmp", "exr", "gif", "hdr",  "jpg",  "png",     "pnm",
            "psd", "qoi", "tga", "tiff", "webp", "textures"};
}

void add_used(const ListEntry& entry, std::set<std::string>& used) {
    const std::string command = batch_kind(entry.kind).command;
    const auto add = [&used](const Words& more) { used.insert(more.begin(), more.end()); };
    for (const std::string& input : batch_inputs(entry))
        add(readers_of(input));
    add({"pixels", "levels"});
    if (command == "cube")
        add({"cubes"});
    if (command == "atlas")
        add({"atlases"});
    if (command == "model")
        add({"models"});
    const ListOption* format = entry.find("as");
    if (format != nullptr)
        for (const std::string& value : format->values)
            add(encoders_of(value.substr(value.find('=') + 1)));
    else if (command == "model")
        add(encoders_of("bc"));
    add({lower_case_ending(entry.output) == "dds" ? "dds" : "ktx2"});
    const ListOption* packing = entry.find("supercompress");
    const std::string scheme = packing != nullptr   ? packing->values.front()
                               : command == "model" ? "zstd"
                                                    : "none";
    add({scheme.substr(0, scheme.find(':'))});
}

}  // namespace

std::vector<yl::batch::Setting> batch_versions(const ListEntry& entry) {
    std::set<std::string> used;
    add_used(entry, used);
    std::vector<yl::batch::Setting> versions;
    for (const yl::AlgorithmVersion& each : yl::algorithm_versions())
        if (used.contains(std::string(each.name)))
            versions.push_back({std::string(each.name), std::to_string(each.version)});
    return versions;
}

yl::Result<Json> run_inside(const Words& words) {
    CommandApp inside(words.front());
    YL_CHECK(parse(inside, words));
    Json document = Json::object();
    inside.session.receiver = [&document](const Json& given) { document = given; };
    YL_TRY([[maybe_unused]] const Exit exit, inside.session.command());
    return document;
}

}  // namespace ylat
