#include "batch_outputs.hpp"

#include <filesystem>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "batch_kinds.hpp"
#include "current_folder.hpp"
#include "inputs.hpp"

namespace ylat {
namespace {

namespace fs = std::filesystem;

yl::Status add_list(const fs::path& list, PathsWithLists& all) {
    const FolderAtEnd back;
    std::error_code error;
    const fs::path folder = list.parent_path();
    if (!folder.empty())
        fs::current_path(folder, error);
    if (error)
        return yl::fail_at({yl::ErrorKind::missing, "no such list"}, list.string());
    auto read = yl::batch::read_list(list.filename(), batch_vocabulary());
    if (!read)
        return tl::unexpected(std::move(read).error());
    for (const yl::batch::ListEntry& entry : read->entries) {
        BatchOutput made;
        const BatchKind& kind = batch_kind(entry.kind);
        const std::string& input = entry.inputs.front();
        const bool is_of_one = !kind.joins_files && !kind.takes_channels && entry.faces.empty();
        // Lookup tables and textures are no pictures to stand beside what is made of them.
        if (const auto what = file_kind(input); is_of_one && what && *what == FileKind::picture)
            made.source = (folder / input).string();
        if (const auto* role = entry.find("role"))
            made.role = yl::find_role(role->values.front());
        all.paths.push_back((folder / entry.output).string());
        all.of_lists.emplace(all.paths.back(), std::move(made));
    }
    return {};
}

}  // namespace

yl::Result<PathsWithLists> with_lists(const std::vector<std::string>& paths) {
    PathsWithLists all;
    for (const std::string& path : paths)
        if (lower_case_ending(path) == "toml")
            YL_CHECK(add_list(path, all));
        else
            all.paths.push_back(path);
    return all;
}

}  // namespace ylat
