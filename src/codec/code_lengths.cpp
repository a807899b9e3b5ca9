#include "codec/code_lengths.hpp"

#include <algorithm>

namespace yl {
namespace {

/// A symbol, or two packages of the list before.
struct Package {
    std::uint64_t count = 0;
    std::int32_t symbol = -1;
};

}  // namespace

std::vector<std::uint8_t> code_lengths(std::span<const std::uint32_t> counts, unsigned max_length) {
    std::vector<std::uint8_t> lengths(counts.size());
    std::vector<Package> symbols;
    for (std::size_t i = 0; i < counts.size(); ++i)
        if (counts[i] > 0)
            symbols.push_back({counts[i], static_cast<std::int32_t>(i)});
    std::stable_sort(symbols.begin(), symbols.end(),
                     [](const Package& a, const Package& b) { return a.count < b.count; });
    if (symbols.size() < 2) {
        for (const Package& package : symbols)
            lengths[static_cast<std::size_t>(package.symbol)] = 1;
        return lengths;
    }
    // Each list: the symbols, and pairs out of the list before, by how often they occur.
    std::vector<std::vector<Package>> lists = {symbols};
    for (unsigned level = 1; level < max_length; ++level) {
        const std::vector<Package>& before = lists.back();
        std::vector<Package> pairs(before.size() / 2);
        for (std::size_t i = 0; i < pairs.size(); ++i)
            pairs[i].count = before[2 * i].count + before[2 * i + 1].count;
        std::vector<Package> list;
        list.reserve(symbols.size() + pairs.size());
        std::merge(symbols.begin(), symbols.end(), pairs.begin(), pairs.end(),
                   std::back_inserter(list),
                   [](const Package& a, const Package& b) { return a.count < b.count; });
        lists.push_back(std::move(list));
    }
    // Of the last list the first ones are taken; each pair among them takes two of the one before.
    std::size_t taken = 2 * symbols.size() - 2;
    for (std::size_t level = lists.size(); level-- > 0;) {
        std::size_t pairs = 0;
        for (std::size_t i = 0; i < taken; ++i) {
            const std::int32_t symbol = lists[level][i].symbol;
            if (symbol >= 0)
                ++lengths[static_cast<std::size_t>(symbol)];
            else
                ++pairs;
        }
        taken = 2 * pairs;
    }
    return lengths;
}

}  // namespace yl
