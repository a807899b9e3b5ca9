#include "batch/list/source.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include <yl/names.hpp>
#include <yl/status_macros.hpp>
#include "base/file.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

using Names = std::vector<std::string>;

class Reader {
 public:
    Reader(fs::path path, const Vocabulary& vocabulary, ListSource& source)
        : path_(std::move(path)), vocabulary_(vocabulary), source_(source) {}

    Status read() {
        YL_CHECK(refuse_circles());
        source_.files.push_back(path_.string());
        YL_TRY(const Buffer bytes, read_file(path_));
        const std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
        const toml::parse_result parsed = toml::parse(text, path_.string());
        if (!parsed)
            return refuse(place_of(parsed.error().source()),
                          std::string(parsed.error().description()));
        const toml::table& table = parsed.table();
        Names known = {"include", "output",    "defaults", "targets",
                       "names",   "overrides", "cache",    "memory"};
        for (const EntryKind& kind : vocabulary_.kinds)
            known.push_back(kind.name);
        YL_CHECK(check_keys(table, known, "key"));
        YL_CHECK(read_includes(table));
        YL_CHECK(read_settings(table));
        YL_CHECK(read_defaults(table));
        YL_CHECK(read_targets(table));
        YL_CHECK(read_named(table, "names", source_.names));
        YL_CHECK(read_named(table, "overrides", source_.overrides));
        return read_groups(table);
    }

 private:
    [[nodiscard]] ListPlace place_of(const toml::source_region& region) const {
        return {path_.string(), region.begin.line, region.begin.column};
    }
    [[nodiscard]] ListPlace place_of(const toml::node& node) const {
        return place_of(node.source());
    }
    [[nodiscard]] tl::unexpected<Error> wrong(const toml::node& node, std::string_view key,
                                              const char* type) const {
        return refuse(place_of(node), fmt::format("'{}' is {}", key, type));
    }

    Status refuse_circles() const {
        constexpr std::size_t most_files = 1000;
        if (std::ranges::find(source_.files, path_.string()) != source_.files.end())
            return fail_at({ErrorKind::usage, "the list includes itself"}, path_.string());
        if (source_.files.size() >= most_files)
            return fail_at({ErrorKind::usage, "the list includes too many others"}, path_.string());
        return {};
    }

    Status check_keys(const toml::table& table, const Names& known, const char* what) const {
        for (const auto& [key, value] : table)
            if (std::ranges::find(known, std::string(key.str())) == known.end())
                return refuse(place_of(key.source()),
                              fmt::format("there is no {} '{}'; did you mean '{}'?", what,
                                          key.str(), nearest_name(key.str(), known)));
        return {};
    }

    Result<std::string> text(const toml::node& node, std::string_view key) const {
        const auto value = node.value_exact<std::string>();
        if (!value)
            return wrong(node, key, "a text in quotation marks");
        return *value;
    }

    /// One text, or a list of them.
    Result<Names> texts(const toml::node& node, std::string_view key) const {
        Names found;
        const toml::array* list = node.as_array();
        if (list == nullptr) {
            YL_TRY(found.emplace_back(), text(node, key));
            return found;
        }
        for (const toml::node& one : *list) {
            YL_TRY(found.emplace_back(), text(one, key));
        }
        return found;
    }

    Status take_text(const toml::table& table, std::string_view key, std::string& into) const {
        if (const toml::node* node = table.get(key)) {
            YL_TRY(into, text(*node, key));
        }
        return {};
    }
    Status take_texts(const toml::table& table, std::string_view key, Names& into) const {
        if (const toml::node* node = table.get(key)) {
            YL_TRY(into, texts(*node, key));
        }
        return {};
    }

    /// A number of bytes: 4000, "512M", "4G".
    Result<std::uint64_t> bytes_of(const toml::node& node, std::string_view key) const {
        const auto number = node.value_exact<std::int64_t>();
        if (number && *number >= 0)
            return static_cast<std::uint64_t>(*number);
        const std::string value = node.value_exact<std::string>().value_or("");
        std::uint64_t count = 0;
        const auto [end, error] = std::from_chars(value.data(), value.data() + value.size(), count);
        const std::string_view unit(end,
                                    static_cast<std::size_t>(value.data() + value.size() - end));
        const auto shift = std::string_view("kMG").find(unit.empty() ? ' ' : unit[0]);
        if (error != std::errc{} || unit.size() != 1 || shift == std::string_view::npos ||
            count > (std::uint64_t{1} << 32U))
            return wrong(node, key, "a number of bytes, such as \"512M\" or \"4G\"");
        return count << (10 * (shift + 1));
    }

    Status read_includes(const toml::table& table) {
        Names included;
        YL_CHECK(take_texts(table, "include", included));
        for (const std::string& one : included) {
            const fs::path file = (path_.parent_path() / one).lexically_normal();
            std::error_code error;
            if (!fs::is_regular_file(file, error))
                return refuse(place_of(*table.get("include")),
                              fmt::format("there is no list '{}'", file.string()));
            YL_CHECK(Reader(file, vocabulary_, source_).read());
        }
        return {};
    }

    Status read_settings(const toml::table& table) {
        YL_CHECK(take_text(table, "output", source_.output));
        if (const toml::node* memory = table.get("memory")) {
            YL_TRY(source_.settings.memory, bytes_of(*memory, "memory"));
        }
        const toml::node* node = table.get("cache");
        if (node == nullptr)
            return {};
        const toml::table* cache = node->as_table();
        if (cache == nullptr)
            return wrong(*node, "cache", "a table: [cache]");
        YL_CHECK(check_keys(*cache, {"folder", "size", "shared"}, "key"));
        if (const toml::node* folder = cache->get("folder")) {
            YL_TRY(source_.settings.cache, text(*folder, "folder"));
        }
        if (const toml::node* shared = cache->get("shared")) {
            YL_TRY(source_.settings.shared_cache, text(*shared, "shared"));
        }
        if (const toml::node* size = cache->get("size")) {
            YL_TRY(source_.settings.cache_size, bytes_of(*size, "size"));
        }
        return {};
    }

    /// The options of all kinds of entries, or of one.
    [[nodiscard]] const KnownOption* option_named(std::string_view name,
                                                  const EntryKind* kind) const {
        for (const EntryKind& each : vocabulary_.kinds) {
            if (kind != nullptr && kind != &each)
                continue;
            const auto found = std::ranges::find(each.options, name, &KnownOption::name);
            if (found != each.options.end())
                return &*found;
        }
        return nullptr;
    }
    [[nodiscard]] Names option_names(const EntryKind* kind) const {
        Names names;
        for (const EntryKind& each : vocabulary_.kinds)
            if (kind == nullptr || kind == &each)
                for (const KnownOption& option : each.options)
                    names.push_back(option.name);
        return names;
    }

    Result<std::string> value_text(const toml::node& node, std::string_view key) const {
        if (const auto value = node.value_exact<std::string>())
            return *value;
        if (const auto value = node.value_exact<std::int64_t>())
            return fmt::format("{}", *value);
        if (const auto value = node.value_exact<double>())
            return fmt::format("{}", *value);
        return wrong(node, key, "a text or a number");
    }

    Status take_option(OptionSet& options, const toml::key& key, const toml::node& value,
                       const EntryKind* kind, const Names& keys) const {
        const std::string name(key.str());
        const KnownOption* known = option_named(name, kind);
        if (known == nullptr) {
            Names near = option_names(kind);
            near.insert(near.end(), keys.begin(), keys.end());
            return refuse(place_of(key.source()),
                          fmt::format("there is no option '{}'; did you mean '{}'?", name,
                                      nearest_name(name, near)));
        }
        ListOption option{name, {}, place_of(key.source())};
        if (known->is_flag) {
            const auto is_on = value.value_exact<bool>();
            if (!is_on)
                return wrong(value, name, "true or false");
            // What is switched off stands for itself: it takes back what holds for more files.
            if (!*is_on)
                option.values.emplace_back("false");
        } else if (const toml::array* list = value.as_array()) {
            if (!known->takes_several)
                return wrong(value, name, "one value, not a list");
            for (const toml::node& one : *list) {
                YL_TRY(option.values.emplace_back(), value_text(one, name));
            }
        } else {
            YL_TRY(option.values.emplace_back(), value_text(value, name));
        }
        options[name] = std::move(option);
        return {};
    }

    /// All of a table but `keys` are options.
    Status take_options(const toml::table& table, const EntryKind* kind, const Names& keys,
                        OptionSet& options) const {
        for (const auto& [key, value] : table)
            if (std::ranges::find(keys, std::string(key.str())) == keys.end())
                YL_CHECK(take_option(options, key, value, kind, keys));
        return {};
    }

    Status read_defaults(const toml::table& table) {
        const toml::node* node = table.get("defaults");
        if (node == nullptr)
            return {};
        if (!node->is_table())
            return wrong(*node, "defaults", "a table: [defaults]");
        return take_options(*node->as_table(), nullptr, {}, source_.defaults);
    }

    Status read_targets(const toml::table& table) {
        const toml::node* node = table.get("targets");
        if (node == nullptr)
            return {};
        if (!node->is_table())
            return wrong(*node, "targets", "a table of each target: [targets.desktop]");
        for (const auto& [key, value] : *node->as_table()) {
            if (!value.is_table())
                return wrong(value, key.str(), "a table: [targets.NAME]");
            Target target{std::string(key.str()), {}, {}};
            if (std::ranges::find(source_.targets, target.name, &Target::name) !=
                source_.targets.end())
                return refuse(place_of(key.source()),
                              fmt::format("the target '{}' is there already", target.name));
            YL_CHECK(take_text(*value.as_table(), "output", target.output));
            YL_CHECK(take_options(*value.as_table(), nullptr, {"output"}, target.options));
            source_.targets.push_back(std::move(target));
        }
        return {};
    }

    Status read_by_target(const toml::table& table, const EntryKind* kind,
                          std::map<std::string, OptionSet>& by_target) const {
        const toml::node* node = table.get("for");
        if (node == nullptr)
            return {};
        if (!node->is_table())
            return wrong(*node, "for", "a table of targets: for.phone = { max-size = 512 }");
        for (const auto& [key, value] : *node->as_table()) {
            source_.named_targets.emplace_back(key.str(), place_of(key.source()));
            if (!value.is_table())
                return wrong(value, key.str(), "a table of options");
            YL_CHECK(take_options(*value.as_table(), kind, {}, by_target[std::string(key.str())]));
        }
        return {};
    }

    Result<const toml::array*> tables_of(const toml::table& table, std::string_view key) const {
        const toml::node* node = table.get(key);
        if (node == nullptr)
            return nullptr;
        if (!node->is_array_of_tables())
            return refuse(place_of(*node), fmt::format("'{0}' is a list of tables: [[{0}]]", key));
        return node->as_array();
    }

    /// [[names]] and [[overrides]]
    Status read_named(const toml::table& table, const char* key, std::vector<NamedOptions>& into) {
        YL_TRY(const toml::array* list, tables_of(table, key));
        if (list == nullptr)
            return {};
        for (const toml::node& one : *list) {
            const toml::table& named = *one.as_table();
            Names patterns;
            YL_CHECK(take_texts(named, "files", patterns));
            if (patterns.empty())
                return refuse(place_of(one),
                              fmt::format("[[{}]] needs 'files', such as \"*_nm\"", key));
            NamedOptions options;
            YL_CHECK(take_options(named, nullptr, {"files", "for"}, options.options));
            YL_CHECK(read_by_target(named, nullptr, options.by_target));
            for (const std::string& pattern : patterns) {
                options.pattern = pattern;
                into.push_back(options);
            }
        }
        return {};
    }

    Status read_groups(const toml::table& table) {
        for (const EntryKind& kind : vocabulary_.kinds) {
            YL_TRY(const toml::array* list, tables_of(table, kind.name));
            if (list == nullptr)
                continue;
            for (const toml::node& one : *list)
                YL_CHECK(read_group(*one.as_table(), kind, place_of(one)));
        }
        return {};
    }

    Status read_group(const toml::table& table, const EntryKind& kind, const ListPlace& place) {
        Group group;
        group.kind = &kind;
        group.place = place;
        Names keys = {"name", "output", "files", "targets", "for"};
        if (kind.takes_faces)
            keys.emplace_back("faces");
        if (kind.takes_channels)
            keys.emplace_back("channels");
        YL_CHECK(take_text(table, "name", group.name));
        YL_CHECK(take_text(table, "output", group.output));
        YL_CHECK(take_texts(table, "files", group.files));
        YL_CHECK(take_texts(table, "targets", group.targets));
        if (const toml::node* targets = table.get("targets"))
            for (const std::string& target : group.targets)
                source_.named_targets.emplace_back(target, place_of(*targets));
        if (kind.takes_faces)
            YL_CHECK(take_texts(table, "faces", group.faces));
        if (kind.takes_channels)
            YL_CHECK(read_channels(table, group));
        if (group.files.empty() == group.faces.empty())
            return refuse(place,
                          kind.takes_faces
                              ? fmt::format("[[{}]] needs 'files' or 'faces', not both", kind.name)
                              : fmt::format("[[{}]] needs 'files'", kind.name));
        group.files_place = place_of(*table.get(group.files.empty() ? "faces" : "files"));
        YL_CHECK(take_options(table, &kind, keys, group.options));
        YL_CHECK(read_by_target(table, &kind, group.by_target));
        source_.groups.push_back(std::move(group));
        return {};
    }

    Status read_channels(const toml::table& table, Group& group) const {
        const toml::node* node = table.get("channels");
        if (node == nullptr || !node->is_table())
            return refuse(group.place, fmt::format("[[{}]] needs 'channels', such as {{ r = "
                                                   "\"{{match}}_ao.png\" }}",
                                                   group.kind->name));
        YL_CHECK(check_keys(*node->as_table(), {"r", "g", "b", "a"}, "channel"));
        for (const auto& [key, value] : *node->as_table()) {
            YL_TRY(group.channels[std::string(key.str())], value_text(value, key.str()));
        }
        return {};
    }

    fs::path path_;
    const Vocabulary& vocabulary_;
    ListSource& source_;
};

}  // namespace

namespace {

Status check_targets(const ListSource& source) {
    Names known;
    for (const Target& target : source.targets)
        known.push_back(target.name);
    for (const auto& [name, place] : source.named_targets)
        if (known.empty())
            return refuse(place, fmt::format("there is no target '{}': the list has none", name));
        else if (std::ranges::find(known, name) == known.end())
            return refuse(place, fmt::format("there is no target '{}'; did you mean '{}'?", name,
                                             nearest_name(name, known)));
    return {};
}

}  // namespace

tl::unexpected<Error> refuse(const ListPlace& place, const std::string& what) {
    return fail_at({ErrorKind::usage, what}, place.text());
}

std::string ListPlace::text() const {
    return fmt::format("{}:{}:{}", file, line, column);
}

Result<ListSource> read_source(const fs::path& path, const Vocabulary& vocabulary) {
    ListSource source;
    YL_CHECK(Reader(path.lexically_normal(), vocabulary, source).read());
    YL_CHECK(check_targets(source));
    return source;
}

}  // namespace yl::batch
