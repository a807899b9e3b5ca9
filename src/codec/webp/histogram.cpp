#include "codec/webp/histogram.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yl::webp {

Histogram::Histogram(unsigned cache_bits) {
    counts_[0].resize(literal_symbols + length_symbols + (cache_bits > 0 ? 1U << cache_bits : 0));
    for (std::size_t i = 1; i < 4; ++i)
        counts_[i].resize(literal_symbols);
    counts_[4].resize(distance_symbols);
}

void Histogram::count(const Token& token) {
    each_symbol(token, [&](Symbol symbol, const Prefixed& number) {
        ++counts_[symbol.alphabet][symbol.value];
        extra_bits_ += number.extra_bits;
    });
}

void Histogram::add(const Histogram& other) {
    for (std::size_t i = 0; i < alphabets; ++i)
        for (std::size_t symbol = 0; symbol < counts_[i].size(); ++symbol)
            counts_[i][symbol] += other.counts_[i][symbol];
    extra_bits_ += other.extra_bits_;
}

double Histogram::cost() const {
    constexpr double code_bits = 5, rare_bits = 0.1;  // of a symbol that occurs, and of another
    double bits = static_cast<double>(extra_bits_);
    for (const auto& counts : counts_) {
        double sum = 0, used = 0;
        for (const std::uint32_t count : counts)
            if (count > 0) {
                bits -= count * std::log2(static_cast<double>(count));
                sum += count;
                ++used;
            }
        if (sum > 0)
            bits += sum * std::log2(sum);
        if (used > 1)
            bits += used * code_bits + rare_bits * (static_cast<double>(counts.size()) - used);
    }
    return bits;
}

std::array<std::vector<float>, alphabets> Histogram::symbol_costs() const {
    std::array<std::vector<float>, alphabets> costs;
    for (std::size_t i = 0; i < alphabets; ++i) {
        const auto sum = std::accumulate(counts_[i].begin(), counts_[i].end(), std::uint64_t{0});
        const float all = std::log2(static_cast<float>(sum) + 1);
        for (const std::uint32_t count : counts_[i])
            costs[i].push_back(count > 0 ? all - std::log2(static_cast<float>(count)) : all + 3);
    }
    return costs;
}

}  // namespace yl::webp
