#include "lint_siblings.hpp"

#include <algorithm>
#include <filesystem>
#include <string_view>
#include <utility>

#include "bake_many.hpp"

namespace ylat {
namespace {

/// Folder and name without the word that says what the file is for: "walls/slate" of
/// "walls/slate_normal.png" and of "walls/slate.png".
std::string shared_name(const std::string& path) {
    const std::filesystem::path file(path);
    const std::string stem = file.stem().string();
    const std::size_t end = role_of_name(path, {}) ? stem.find_last_of("_-. ") : stem.npos;
    return (file.parent_path() / stem.substr(0, end)).string();
}

/// Folder and the first word of the name: "skies/dawn" of "skies/dawn_specular.ktx2".
std::string first_word(const std::string& path) {
    const std::filesystem::path file(path);
    const std::string stem = file.stem().string();
    return (file.parent_path() / stem.substr(0, stem.find_first_of("_-. "))).string();
}

}  // namespace

std::optional<yl::Evidence> Siblings::add(const std::string& path, const yl::LintTraits& traits) {
    if (traits.edges.empty() && traits.sky.empty())
        return {};
    const bool is_sky = !traits.sky.empty();
    std::vector<Known>& known = by_name_[is_sky ? first_word(path) : shared_name(path)];
    std::optional<yl::Evidence> evidence;
    for (const Known& other : known) {
        // Two of one role are two surfaces; of a sky there is a sharp one and blurred ones.
        if (!is_sky && role_of_name(other.path, {}) == role_of_name(path, {}))
            continue;
        evidence = yl::compare_traits(traits, other.traits, other.path);
        if (evidence)
            break;
    }
    known.push_back({path, traits});
    return evidence;
}

yl::PackedChannels packed_of_name(const std::string& path) {
    using yl::Channel;
    // Packed ones are as glTF has them (2.0, sections 3.9.2 and 3.9.3).
    static const std::pair<std::string_view, yl::PackedChannels> known[] = {
        {"orm",
         {.occlusion = Channel::red, .roughness = Channel::green, .metalness = Channel::blue}},
        {"rough", {.roughness = Channel::red}},
        {"roughness", {.roughness = Channel::red}},
        {"metal", {.metalness = Channel::red}},
        {"metallic", {.metalness = Channel::red}},
        {"metalness", {.metalness = Channel::red}}};
    yl::PackedChannels packed;
    for (const std::string& word : words_of_name(path))
        for (const auto& [name, channels] : known)
            if (word == name)
                packed = channels;
    return packed;
}

std::vector<std::string> normals_beside(std::span<const LintJob> jobs) {
    std::map<std::string, std::string> by_name;
    for (const LintJob& job : jobs)
        if (role_of_name(job.path, {}) == yl::Role::normal)
            by_name.emplace(shared_name(job.path), job.path);
    std::vector<std::string> normals(jobs.size());
    for (std::size_t i = 0; i < jobs.size(); ++i)
        if (const auto found = by_name.find(shared_name(jobs[i].path));
            found != by_name.end() && packed_of_name(jobs[i].path).roughness)
            normals[i] = found->second;
    return normals;
}

}  // namespace ylat
