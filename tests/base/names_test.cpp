#include <yl/names.hpp>

#include <algorithm>
#include <vector>

#include "support/check.hpp"

using namespace yl;

namespace {

/// All words of at most so many of these letters, the empty one among them.
std::vector<std::string> words(std::string_view letters, std::size_t most) {
    std::vector<std::string> all = {""};
    for (std::size_t i = 0; i < all.size(); ++i)
        if (all[i].size() < most)
            for (const char letter : letters)
                all.push_back(all[i] + letter);
    return all;
}

/// As the rule is written, without a short cut.
bool fits(std::string_view name, std::string_view pattern) {
    if (pattern.empty())
        return name.empty();
    if (pattern[0] == '*')
        return fits(name, pattern.substr(1)) || (!name.empty() && fits(name.substr(1), pattern));
    return !name.empty() && (pattern[0] == '?' || pattern[0] == name[0]) &&
           fits(name.substr(1), pattern.substr(1));
}

std::size_t apart(std::string_view a, std::string_view b) {
    if (a.empty() || b.empty())
        return std::max(a.size(), b.size());
    const std::size_t changed = apart(a.substr(1), b.substr(1)) + (a[0] == b[0] ? 0 : 1);
    return std::min({changed, apart(a.substr(1), b) + 1, apart(a, b.substr(1)) + 1});
}

}  // namespace

TEST_CASE("patterns with stars and question marks match as their rule says") {
    const std::vector<std::string> names = words("ab", 5);
    for (const std::string& pattern : words("ab*?", 5)) {
        CAPTURE(pattern);
        const auto is_wrong = [&](const std::string& name) {
            return matches_pattern(name, pattern) != fits(name, pattern);
        };
        CHECK(std::ranges::find_if(names, is_wrong) == names.end());
    }
    CHECK(matches_pattern("slate_normal.png", "*_normal.*"));
    CHECK_FALSE(matches_pattern("slate.png", "*_normal.*"));
}

TEST_CASE("the name that is spelled most like another") {
    const std::vector<std::string> all = words("abc", 4);
    for (std::size_t i = 0; i < all.size(); i += 3)
        for (std::size_t k = i % 2; k < all.size(); k += 2)
            if (letters_apart(all[i], all[k]) != apart(all[i], all[k]))
                FAIL_CHECK(all[i], " and ", all[k]);
    const std::vector<std::string> known = {"bake", "cube", "unpack"};
    CHECK(nearest_name("bkae", known) == "bake");
    CHECK(nearest_name("pack", known) == "unpack");
    CHECK(nearest_name("cub", known) == "cube");
    CHECK(nearest_name("cube", {}).empty());
}
