#include <algorithm>
#include <set>

#include <yl/batch_list.hpp>
#include <yl/names.hpp>
#include "batch/folder_entries.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

std::vector<std::string> parts_of(std::string_view pattern) {
    std::vector<std::string> parts;
    while (true) {
        const std::size_t slash = pattern.find('/');
        parts.emplace_back(pattern.substr(0, slash));
        if (slash == std::string_view::npos)
            return parts;
        pattern.remove_prefix(slash + 1);
    }
}

bool is_pattern(std::string_view part) {
    return part.find_first_of("*?") != std::string_view::npos;
}

/// Walks down the folders that the parts of a pattern name.
class Search {
 public:
    Search(std::vector<std::string> parts, std::vector<std::string>* folders)
        : parts_(std::move(parts)), folders_(folders) {}

    std::set<std::string> run() {
        go(parts_.front().empty() ? "/" : "", parts_.front().empty() ? 1 : 0);
        return std::move(found_);
    }

 private:
    void go(const std::string& folder, std::size_t part) {
        if (part >= parts_.size())
            return;
        const std::string& name = parts_[part];
        const bool is_last = part + 1 == parts_.size();
        if (name == "**") {
            go(folder, part + 1);
            for (const std::string& below : names_in(folder, "*", true))
                go(folder + below + "/", part);
        } else if (is_pattern(name)) {
            for (const std::string& match : names_in(folder, name, !is_last))
                enter(folder + match, part, is_last);
        } else {
            enter(folder + name, part, is_last);
        }
    }

    void enter(const std::string& path, std::size_t part, bool is_last) {
        std::error_code error;
        if (!is_last)
            go(path + "/", part + 1);
        else if (fs::is_regular_file(path, error))
            found_.insert(path);
    }

    std::vector<std::string> names_in(const std::string& folder, const std::string& pattern,
                                      bool are_folders) {
        std::vector<std::string> names;
        std::error_code error;
        if (folders_ != nullptr)
            folders_->push_back(folder.empty() ? "." : folder);
        for (const fs::directory_entry& one : folder_entries(folder)) {
            std::string name = one.path().filename().string();
            const bool is_hidden = name.starts_with('.') && !pattern.starts_with('.');
            if (!is_hidden && one.is_directory(error) == are_folders &&
                matches_pattern(name, pattern))
                names.push_back(std::move(name));
        }
        return names;
    }

    std::vector<std::string> parts_;
    std::vector<std::string>* folders_;
    std::set<std::string> found_ = {};
};

}  // namespace

std::vector<std::string> find_files(std::string_view pattern, std::vector<std::string>* folders) {
    const auto found = Search(parts_of(pattern), folders).run();
    return {found.begin(), found.end()};
}

}  // namespace yl::batch
