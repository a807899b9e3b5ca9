#include "report/page/changes.hpp"

#include <fmt/format.h>

#include <map>
#include <set>
#include <utility>
#include <vector>

#include <yl/status_macros.hpp>

namespace yl::report {
namespace {

/// The element of a page that holds its data.
std::string_view data_of(std::string_view text) {
    constexpr std::string_view begin = "id=\"report\">", end = "</script>";
    const std::size_t at = text.find(begin);
    if (!text.starts_with('<') || at == std::string_view::npos)
        return text;
    text.remove_prefix(at + begin.size());
    return text.substr(0, text.find(end));
}

Json size_of(const Json& texture) {
    std::string text = fmt::format("{} x {}", texture.at("width").get<std::uint64_t>(),
                                   texture.at("height").get<std::uint64_t>());
    constexpr std::pair<const char*, const char*> parts[] = {
        {"depth", "slices"}, {"layers", "layers"}, {"faces", "faces"}};
    for (const auto& [member, word] : parts)
        if (const auto count = texture.at(member).get<std::uint64_t>(); count > 1)
            text += fmt::format(", {} {}", count, word);
    return text;
}

Json findings_of(const Json& texture) {
    std::set<std::string> codes;
    for (const Json& finding : texture.at("findings"))
        codes.insert(finding.at("code").get<std::string>());
    return codes;
}

/// Names that several textures of a report have; those are told apart by their files.
void add_shared_names(const Json& textures, std::set<std::string>& shared) {
    std::set<std::string> seen;
    for (const Json& texture : textures)
        if (const auto name = texture.at("name").get<std::string>(); !seen.insert(name).second)
            shared.insert(name);
}

/// By what a report's textures are known, in their order; images of one file by their number as well.
std::vector<std::string> keys_of(const Json& textures, const std::set<std::string>& shared) {
    std::vector<std::string> keys;
    std::map<std::string, int> seen;
    for (const Json& texture : textures) {
        const auto name = texture.at("name").get<std::string>();
        std::string key = shared.contains(name) ? texture.at("file").get<std::string>() : name;
        const int number = ++seen[key];
        keys.push_back(number > 1 ? fmt::format("{} ({})", key, number) : std::move(key));
    }
    return keys;
}

/// Of what is told apart, in the order of a list.
constexpr const char* plain_members[] = {"role", "format", "gpu_bytes", "file_bytes", "alpha"};

Json differences(const Json& before, const Json& now) {
    Json what = Json::array();
    const auto compare = [&what](const char* name, const Json& was, const Json& is) {
        if (was != is)
            what.push_back({{"member", name}, {"before", was}, {"now", is}});
    };
    compare("size", size_of(before), size_of(now));
    for (const char* member : plain_members)
        compare(member, before.at(member), now.at(member));
    compare("levels", before.at("levels").size(), now.at("levels").size());
    compare("findings", findings_of(before), findings_of(now));
    if (before.at("histogram") != now.at("histogram"))
        what.push_back({{"member", "texels"}, {"before", Json()}, {"now", Json()}});
    return what;
}

}  // namespace

Result<Json> changes_since(std::string_view before, const Json& textures) {
    const Json old = Json::parse(data_of(before), nullptr, false);
    if (!old.is_object() || old.value("schema", "") != "yellow-lattice-report")
        return fail(ErrorKind::malformed, "this is no report, nor a report's data");
    Json added = Json::array(), changed = Json::array(), gone = Json::array();
    try {
        std::set<std::string> shared;
        add_shared_names(old.at("textures"), shared);
        add_shared_names(textures, shared);
        std::map<std::string, const Json*> by_name;
        const std::vector<std::string> old_keys = keys_of(old.at("textures"), shared),
                                       keys = keys_of(textures, shared);
        for (std::size_t i = 0; i < old_keys.size(); ++i)
            by_name[old_keys[i]] = &old.at("textures")[i];
        for (std::size_t i = 0; i < keys.size(); ++i) {
            const std::string& name = keys[i];
            const Json& texture = textures[i];
            const auto known = by_name.find(name);
            if (known == by_name.end()) {
                added.push_back(name);
                continue;
            }
            if (Json what = differences(*known->second, texture); !what.empty())
                changed.push_back({{"name", name}, {"what", std::move(what)}});
            by_name.erase(known);
        }
        for (const auto& [name, texture] : by_name)
            gone.push_back(name);
    } catch (const Json::exception&) {
        return fail(ErrorKind::malformed, "the earlier report lacks something of its textures");
    }
    return Json{{"title", old.value("title", "")},
                {"added", std::move(added)},
                {"changed", std::move(changed)},
                {"gone", std::move(gone)}};
}

}  // namespace yl::report
