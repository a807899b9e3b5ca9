#include "lint_settings.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#define TOML_EXCEPTIONS 0
#include <toml++/toml.h>

#include <algorithm>
#include <filesystem>
#include <yl/status_macros.hpp>

#include "arguments.hpp"

namespace ylat {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view file_name = ".ylat-lint.toml";
constexpr std::string_view keys_of_all[] = {"allow", "deny", "role", "sampler", "files"};
constexpr std::string_view keys_of_group[] = {"names", "allow", "deny", "role", "sampler"};

class Reader {
 public:
    explicit Reader(std::string path) : path_(std::move(path)) {}

    yl::Result<LintSettings> read() const {
        const toml::parse_result parsed = toml::parse_file(path_);
        if (!parsed)
            return refuse(parsed.error().source(), std::string(parsed.error().description()));
        LintSettings settings{path_, {}};
        const toml::table& table = parsed.table();
        YL_TRY(LintGroup all, group(table, keys_of_all));
        settings.groups.push_back(std::move(all));
        const toml::node* files = table.get("files");
        if (files == nullptr)
            return settings;
        if (!files->is_array_of_tables())
            return refuse(files->source(), "'files' is a list of tables: [[files]]");
        for (const toml::node& one : *files->as_array()) {
            YL_TRY(LintGroup next, group(*one.as_table(), keys_of_group));
            if (next.names.empty())
                return refuse(one.source(), "a group of files needs 'names', such as \"*_nm.*\"");
            settings.groups.push_back(std::move(next));
        }
        return settings;
    }

 private:
    [[nodiscard]] tl::unexpected<yl::Error> refuse(const toml::source_region& place,
                                                   const std::string& what) const {
        return yl::fail_at({yl::ErrorKind::usage, what},
                           fmt::format("{}:{}:{}", path_, place.begin.line, place.begin.column));
    }

    yl::Result<LintGroup> group(const toml::table& table,
                                std::span<const std::string_view> known) const {
        LintGroup group;
        for (const auto& [key, value] : table) {
            const std::string_view name = key.str();
            if (std::ranges::find(known, name) == known.end()) {
                const auto near = std::ranges::min(known, {}, [name](std::string_view one) {
                    return yl::letters_apart(one, name);
                });
                return refuse(key.source(),
                              fmt::format("there is no key '{}'; did you mean '{}'?", name, near));
            }
            if (name != "files")
                YL_CHECK(take(group, name, value));
        }
        return group;
    }

    yl::Status take(LintGroup& group, std::string_view key, const toml::node& value) const {
        if (key == "allow" || key == "deny")
            return take_codes(key == "allow" ? group.allowed : group.denied, key, value);
        const auto text = value.value_exact<std::string>();
        if (!text)
            return refuse(value.source(), fmt::format("'{}' is a text", key));
        if (key == "names") {
            group.names = *text;
            return {};
        }
        const yl::Status status = key == "role"
                                      ? parse_if_given(*text, parse_role, group.role)
                                      : parse_if_given(*text, parse_sampler_option, group.sampler);
        return status ? status : refuse(value.source(), status.error().message);
    }

    yl::Status take_codes(std::vector<std::string>& codes, std::string_view key,
                          const toml::node& value) const {
        const toml::array* list = value.as_array();
        if (list == nullptr)
            return refuse(value.source(), fmt::format("'{}' is a list of findings", key));
        for (const toml::node& one : *list) {
            const auto code = one.value_exact<std::string>();
            const bool is_level = key == "deny" && code && find_level(*code);
            if (!code || (!is_level && yl::find_finding(*code) == nullptr))
                return refuse(one.source(),
                              fmt::format("there is no finding '{}' (see ylat lint --explain all)",
                                          code.value_or("")));
            codes.push_back(*code);
        }
        return {};
    }

    std::string path_;
};

}  // namespace

std::optional<yl::FindingLevel> find_level(std::string_view word) {
    for (const auto level :
         {yl::FindingLevel::error, yl::FindingLevel::warning, yl::FindingLevel::hint})
        if (word == yl::name(level))
            return level;
    return {};
}

yl::Result<LintSettings> read_lint_settings(const std::string& path) {
    return Reader(path).read();
}

yl::Result<std::shared_ptr<const LintSettings>> LintSettingsFinder::of(const std::string& file) {
    std::error_code error;
    const fs::path whole = fs::absolute(file, error);
    if (error)
        return std::shared_ptr<const LintSettings>{};
    return in_or_above(whole.lexically_normal().parent_path().string());
}

yl::Result<std::shared_ptr<const LintSettings>> LintSettingsFinder::in_or_above(
    const std::string& folder) {
    if (const auto known = by_folder_.find(folder); known != by_folder_.end())
        return known->second;
    std::shared_ptr<const LintSettings> settings;
    const fs::path path = fs::path(folder) / file_name;
    std::error_code error;
    if (fs::is_regular_file(path, error)) {
        YL_TRY(LintSettings read, read_lint_settings(path.string()));
        settings = std::make_shared<const LintSettings>(std::move(read));
    } else if (const fs::path parent = fs::path(folder).parent_path(); parent != folder) {
        YL_TRY(settings, in_or_above(parent.string()));
    }
    by_folder_.emplace(folder, settings);
    return settings;
}

}  // namespace ylat
