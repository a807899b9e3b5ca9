// What the limits of lint rest on: how often sound textures get a warning, and how many of those that
// were spoilt on purpose get the right one.
//
//     lint_survey FOLDER ...
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>

#include "lint_defects.hpp"

namespace {

namespace fs = std::filesystem;
using namespace survey;

struct Count {
    std::size_t made = 0, found = 0;
};

bool is_named(const LintReport& report, std::string_view code) {
    return std::ranges::any_of(report.found, [&](const Evidence& one) {
        return one.finding.code == code ||
               (code == "no-normals" && one.finding.code == "height-as-normal");
    });
}

std::vector<Kind> all_kinds() {
    std::vector<Kind> kinds(defects().begin(), defects().end());
    kinds.insert(kinds.end(), defects_of_sets().begin(), defects_of_sets().end());
    return kinds;
}

void count_found(const Kind& kind, const Picture& picture, Count& count) {
    constexpr std::size_t enough = 200;
    if (count.made >= enough)
        return;
    auto spoilt = kind.spoil(picture);
    if (!spoilt)
        return;
    ++count.made;
    if (std::string_view(kind.code).ends_with("among-siblings")) {
        const auto found = compare_traits(or_exit(lint_traits(spoilt->texture)),
                                          or_exit(lint_traits(*spoilt->beside)), "the other");
        count.found += found && std::string_view(found->finding.code) == kind.code ? 1 : 0;
        return;
    }
    spoilt->options.normals = spoilt->beside.get();
    const auto report = lint(spoilt->texture, spoilt->options);
    count.found += report && is_named(*report, kind.code) ? 1 : 0;
}

void survey_file(const fs::path& path, std::size_t& sound, std::size_t& skies,
                 std::vector<std::string>& warned, std::map<std::string, Count>& counts) {
    const auto read = read_picture(path);
    if (!read || std::min(read->image.width(), read->image.height()) < 16 ||
        read->image.width() > 1024 || read->image.height() > 1024)
        return;
    const auto picture = as_rgba(*read);
    const auto texture = picture ? chain_of(*picture) : std::nullopt;
    if (!texture)
        return;
    ++sound;
    const auto sky = sky_of(*picture);
    skies += sky ? 1 : 0;
    for (const auto& report : {lint(*read), lint(*texture), sky ? lint(*sky) : LintReport{}}) {
        if (!report)
            continue;
        for (const Evidence& one : report->found)
            if (one.finding.level != FindingLevel::hint)
                warned.push_back(fmt::format("{}: {}: {}", path.string(),
                                             std::string_view(one.finding.code),
                                             one.finding.problem));
    }
    for (const auto& [one, other] : sound_pairs(*picture))
        if (const auto found =
                compare_traits(or_exit(lint_traits(one)), or_exit(lint_traits(other)), "the other"))
            warned.push_back(fmt::format("{}: {}: {}", path.string(),
                                         std::string_view(found->finding.code),
                                         found->finding.problem));
    for (const Kind& kind : all_kinds())
        count_found(kind, *picture, counts[kind.code]);
}

}  // namespace

int main(int argc, char** argv) {
    std::size_t sound = 0, skies = 0;
    std::vector<std::string> warned;
    std::map<std::string, Count> counts;
    for (int i = 1; i < argc; ++i)
        for (const auto& entry : fs::recursive_directory_iterator(argv[i]))
            if (entry.is_regular_file())
                survey_file(entry.path(), sound, skies, warned, counts);
    for (const std::string& line : warned)
        fmt::print("{}\n", line);
    fmt::print("{} sound textures, the pictures they were made of and {} skies: {} warnings\n",
               sound, skies, warned.size());
    for (const Kind& kind : all_kinds()) {
        const Count count = counts[kind.code];
        fmt::print("{:26} {:36} {:4} made, {:4} found: {:5.1f} %\n", kind.code, kind.how,
                   count.made, count.found,
                   count.made > 0
                       ? 100.0 * static_cast<double>(count.found) / static_cast<double>(count.made)
                       : 0.0);
    }
}
