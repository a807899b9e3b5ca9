#include "codec/webp/groups.hpp"

#include <algorithm>
#include <limits>
#include <numeric>

#include "codec/webp/transforms.hpp"

namespace yl::webp {
namespace {

/// Tokens by the block that they begin in.
std::vector<std::vector<Token>> tokens_by_block(std::span<const Token> tokens, std::uint32_t width,
                                                std::uint32_t height, unsigned block_bits) {
    const std::uint32_t across = blocks_over(width, block_bits);
    std::vector<std::vector<Token>> blocks(std::size_t{across} * blocks_over(height, block_bits));
    for (const Token& token : tokens)
        blocks[std::size_t{token.at / width >> block_bits} * across +
               (token.at % width >> block_bits)]
            .push_back(token);
    return blocks;
}

using Costs = std::array<std::vector<float>, alphabets>;

float cost_of(std::span<const Token> tokens, const Costs& costs, float limit) {
    float sum = 0;
    for (const Token& token : tokens) {
        each_symbol(token, [&](Symbol symbol, const Prefixed&) {
            sum += costs[symbol.alphabet][symbol.value];
        });
        if (sum >= limit)
            break;
    }
    return sum;
}

/// Gives the groups that are left: some may get no block.
std::vector<Histogram> assign(std::span<const std::vector<Token>> blocks,
                              std::span<const Histogram> histograms, unsigned cache_bits,
                              std::vector<std::uint32_t>& of_block) {
    std::vector<Costs> costs;
    for (const Histogram& histogram : histograms)
        costs.push_back(histogram.symbol_costs());
    std::vector<Histogram> next(histograms.size(), Histogram(cache_bits));
    std::vector<bool> is_used(histograms.size());
    for (std::size_t i = 0; i < blocks.size(); ++i) {
        float least = std::numeric_limits<float>::infinity();
        for (std::uint32_t group = 0; group < costs.size(); ++group)
            if (const float cost = cost_of(blocks[i], costs[group], least); cost < least) {
                least = cost;
                of_block[i] = group;
            }
        is_used[of_block[i]] = true;
        for (const Token& token : blocks[i])
            next[of_block[i]].count(token);
    }
    std::vector<std::uint32_t> number(histograms.size());
    std::vector<Histogram> left;
    for (std::size_t group = 0; group < next.size(); ++group)
        if (is_used[group]) {
            number[group] = static_cast<std::uint32_t>(left.size());
            left.push_back(std::move(next[group]));
        }
    for (std::uint32_t& group : of_block)
        group = number[group];
    return left;
}

/// Puts two groups together as long as that saves bits.
void join_alike(Groups& groups) {
    std::vector<double> costs;
    for (const Histogram& histogram : groups.histograms)
        costs.push_back(histogram.cost());
    for (bool any = true; any;) {
        any = false;
        for (std::size_t a = 0; a < groups.histograms.size(); ++a)
            for (std::size_t b = groups.histograms.size(); b-- > a + 1;) {
                Histogram both = groups.histograms[a];
                both.add(groups.histograms[b]);
                const double cost = both.cost();
                if (cost >= costs[a] + costs[b])
                    continue;
                groups.histograms[a] = std::move(both);
                costs[a] = cost;
                groups.histograms.erase(groups.histograms.begin() + static_cast<std::ptrdiff_t>(b));
                costs.erase(costs.begin() + static_cast<std::ptrdiff_t>(b));
                for (std::uint32_t& group : groups.of_block)
                    group = group == b  ? static_cast<std::uint32_t>(a)
                            : group > b ? group - 1
                                        : group;
                any = true;
            }
    }
}

}  // namespace

Groups groups_of(std::span<const Token> tokens, std::uint32_t width, std::uint32_t height,
                 unsigned cache_bits, unsigned block_bits, unsigned max_groups) {
    Groups one;
    one.histograms.emplace_back(cache_bits);
    for (const Token& token : tokens)
        one.histograms[0].count(token);
    if (max_groups < 2)
        return one;
    const auto blocks = tokens_by_block(tokens, width, height, block_bits);
    Groups groups{.block_bits = block_bits};
    groups.of_block.resize(blocks.size());
    // Begin with blocks from all over the picture, those with the most tokens of their stretch.
    const std::size_t count = std::min<std::size_t>(max_groups, blocks.size());
    for (std::size_t i = 0; i < count; ++i) {
        const auto begin = blocks.begin() + static_cast<std::ptrdiff_t>(i * blocks.size() / count);
        const auto end =
            blocks.begin() + static_cast<std::ptrdiff_t>((i + 1) * blocks.size() / count);
        const auto fullest = std::max_element(
            begin, end, [](const auto& a, const auto& b) { return a.size() < b.size(); });
        groups.histograms.emplace_back(cache_bits);
        for (const Token& token : *fullest)
            groups.histograms.back().count(token);
    }
    constexpr int rounds = 4;
    for (int round = 0; round < rounds; ++round)
        groups.histograms = assign(blocks, groups.histograms, cache_bits, groups.of_block);
    join_alike(groups);
    const auto cost = [](const Groups& all) {
        constexpr double choice_bits = 3;  // of a block's group
        return std::accumulate(
            all.histograms.begin(), all.histograms.end(),
            choice_bits * static_cast<double>(all.of_block.size()),
            [](double sum, const Histogram& histogram) { return sum + histogram.cost(); });
    };
    return groups.histograms.size() > 1 && cost(groups) < cost(one) ? groups : one;
}

}  // namespace yl::webp
