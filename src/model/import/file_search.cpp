#include "model/import/file_search.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>
#include <vector>

#include <yl/status_macros.hpp>
#include "base/inside.hpp"
#include "model/uri.hpp"

namespace yl::model {
namespace {

namespace fs = std::filesystem;

bool is_file(const fs::path& path) {
    std::error_code error;
    return fs::is_regular_file(path, error);
}

std::string lower(std::string text) {
    std::ranges::transform(text, text.begin(), [](char c) {
        return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
    });
    return text;
}

std::string with_plain_slashes(std::string_view path) {
    std::string text(path);
    std::ranges::replace(text, '\\', '/');
    const auto is_space = [](char c) { return c == ' ' || c == '\t' || c == '\r' || c == '"'; };
    while (!text.empty() && is_space(text.back()))
        text.pop_back();
    while (!text.empty() && is_space(text.front()))
        text.erase(0, 1);
    return text;
}

bool leads_out(const std::string& text) {
    const fs::path path = fs::path(text).lexically_normal();
    const bool has_drive = text.size() > 1 && text[1] == ':';
    return path.is_absolute() || has_drive || (!path.empty() && *path.begin() == "..");
}

/// The entry of a folder whose name differs in upper and lower case alone.
std::optional<fs::path> entry_like(const fs::path& folder, const std::string& name) {
    std::error_code error;
    if (fs::exists(folder / name, error))
        return folder / name;
    std::optional<fs::path> found;
    for (const auto& entry : fs::directory_iterator(folder.empty() ? "." : folder, error)) {
        const fs::path entry_name = entry.path().filename();
        if (lower(entry_name.string()) == lower(name) && (!found || folder / entry_name < *found))
            found = folder / entry_name;
    }
    return found;
}

std::optional<FoundFile> look_below(const fs::path& folder, const std::vector<std::string>& parts,
                                    std::size_t first) {
    fs::path exact = folder, like = folder;
    bool is_like = true;
    for (std::size_t i = first; i < parts.size(); ++i) {
        exact /= parts[i];
        if (!is_like)
            continue;
        const auto entry = entry_like(like, parts[i]);
        is_like = entry.has_value();
        if (entry)
            like = *entry;
    }
    if (is_file(exact))
        return FoundFile{exact, FoundBy::name};
    if (is_like && is_file(like))
        return FoundFile{like, FoundBy::other_case};
    return std::nullopt;
}

/// In folders beside the model's, which were moved together with it: at least two parts agree.
std::optional<FoundFile> look_beside(const fs::path& folder,
                                     const std::vector<std::string>& parts) {
    fs::path above = fs::absolute(folder).lexically_normal();
    for (int climb = 0; climb < 3; ++climb) {
        above = above.has_filename() ? above.parent_path() : above.parent_path().parent_path();
        for (std::size_t first = 0; first + 1 < parts.size(); ++first)
            if (const auto found = look_below(above, parts, first))
                return FoundFile{found->file, FoundBy::last_parts};
    }
    return std::nullopt;
}

std::vector<std::string> parts_of(const std::string& text) {
    std::vector<std::string> parts;
    for (const fs::path& part : fs::path(text).lexically_normal())
        if (part != "/" && part != ".." && part != "." && !part.empty())
            parts.push_back(part.string());
    return parts;
}

Result<FoundFile> search(const std::string& text, const fs::path& folder, bool allow_outside) {
    const bool is_outside = leads_out(text);
    const fs::path meant = fs::path(text).is_absolute() ? fs::path(text) : folder / text;
    const std::vector<std::string> parts = parts_of(text);
    if (!is_outside) {
        if (const auto found = look_below(folder, parts, 0))
            return *found;
    } else if (allow_outside && is_file(meant)) {
        return FoundFile{meant, FoundBy::name};
    }
    for (std::size_t first = is_outside ? 0 : 1; first < parts.size(); ++first)
        if (const auto found = look_below(folder, parts, first))
            return FoundFile{found->file, FoundBy::last_parts};
    if (allow_outside)
        if (const auto found = look_beside(folder, parts))
            return *found;
    if (is_outside && !allow_outside && is_file(meant))
        return fail(ErrorKind::usage,
                    "it leads out of the model's folder; allow that if the model is trusted");
    return fail(ErrorKind::missing, "there is no such file in the model's folder");
}

}  // namespace

namespace {

/// Links lead out of a folder as names do.
Result<FoundFile> kept_inside(Result<FoundFile> found, const fs::path& folder, bool allow_outside) {
    if (found && !allow_outside && !lies_within(found->file, folder))
        return fail(ErrorKind::usage,
                    "a link leads out of the model's folder; allow that if the model is trusted");
    return found;
}

}  // namespace

Result<FoundFile> find_file(std::string_view path, const fs::path& folder, bool allow_outside) {
    std::string text = with_plain_slashes(path);
    if (text.empty() || text.find('\0') != std::string::npos)
        return fail(ErrorKind::malformed, "the path is empty or holds a zero byte");
    if (text.starts_with("file://"))
        text.erase(0, 7);
    while (text.starts_with("//"))  // "beside the model", to some programs
        text.erase(0, 2);
    if (text.find("://") != std::string::npos)
        return fail(ErrorKind::usage, "it is not a file: nothing is fetched from elsewhere");
    auto found = kept_inside(search(text, folder, allow_outside), folder, allow_outside);
    if (found || found.error().kind != ErrorKind::missing || text.find('%') == std::string::npos)
        return found;
    return kept_inside(search(percent_decoded(text), folder, allow_outside), folder, allow_outside);
}

}  // namespace yl::model
