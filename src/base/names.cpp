#include <yl/names.hpp>

#include <algorithm>
#include <numeric>
#include <utility>
#include <vector>

namespace yl {

std::size_t letters_apart(std::string_view a, std::string_view b) {
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), std::size_t{0});
    for (std::size_t i = 0; i < a.size(); ++i) {
        std::size_t diagonal = std::exchange(row[0], i + 1);
        for (std::size_t k = 0; k < b.size(); ++k) {
            const std::size_t changed = diagonal + (a[i] == b[k] ? 0 : 1);
            diagonal = row[k + 1];
            row[k + 1] = std::min({changed, row[k] + 1, diagonal + 1});
        }
    }
    return row.back();
}

std::string nearest_name(std::string_view name, std::span<const std::string> known) {
    const auto nearest = std::ranges::min_element(
        known, {}, [name](const std::string& one) { return letters_apart(one, name); });
    return nearest == known.end() ? std::string() : *nearest;
}

bool matches_pattern(std::string_view name, std::string_view pattern) {
    // After a mismatch the last star takes one letter more; earlier ones need not be tried again.
    std::size_t at = 0, read = 0, star = std::string_view::npos, resume = 0;
    while (at < name.size()) {
        if (read < pattern.size() && pattern[read] == '*') {
            star = read++;
            resume = at;
        } else if (read < pattern.size() && (pattern[read] == '?' || pattern[read] == name[at])) {
            ++read;
            ++at;
        } else if (star != std::string_view::npos) {
            read = star + 1;
            at = ++resume;
        } else {
            return false;
        }
    }
    return pattern.find_first_not_of('*', read) == std::string_view::npos;
}

}  // namespace yl
