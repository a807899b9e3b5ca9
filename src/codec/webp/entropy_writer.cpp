#include "codec/webp/entropy_writer.hpp"

#include <algorithm>
#include <optional>

#include "codec/code_lengths.hpp"
#include "codec/webp/groups.hpp"
#include "codec/webp/prefix_code.hpp"
#include "codec/webp/transforms.hpp"

namespace yl::webp {
namespace {

struct WrittenCode {
    std::vector<std::uint8_t> lengths{};
    std::vector<std::uint32_t> codes{};
    bool takes_bits = false;  ///< one symbol alone takes none

    void write(BitWriter& bits, std::uint32_t symbol) const {
        if (takes_bits)
            bits.write(codes[symbol], lengths[symbol]);
    }
};

/// Lengths of codes as they are written: one, or a run of alike ones.
struct LengthToken {
    std::uint8_t symbol, extra, extra_bits;
};

constexpr std::uint8_t repeat_before = 16, short_zeros = 17, long_zeros = 18;
constexpr std::uint8_t length_order[] = {17, 18, 0, 1,  2,  3,  4,  5,  16, 6,
                                         7,  8,  9, 10, 11, 12, 13, 14, 15};

std::vector<LengthToken> length_tokens(std::span<const std::uint8_t> lengths) {
    std::vector<LengthToken> tokens;
    std::uint8_t before = 8;
    for (std::size_t i = 0; i < lengths.size();) {
        const std::uint8_t length = lengths[i];
        std::size_t run = 1;
        while (i + run < lengths.size() && lengths[i + run] == length)
            ++run;
        i += run;
        const auto number = [](std::size_t value) { return static_cast<std::uint8_t>(value); };
        if (length == 0) {
            for (; run >= 11; run -= std::min<std::size_t>(run, 138))
                tokens.push_back({long_zeros, number(std::min<std::size_t>(run, 138) - 11), 7});
            if (run >= 3) {
                tokens.push_back({short_zeros, number(run - 3), 3});
                run = 0;
            }
        } else {
            if (length != before) {
                tokens.push_back({length, 0, 0});
                --run;
            }
            before = length;
            for (; run >= 3; run -= std::min<std::size_t>(run, 6))
                tokens.push_back({repeat_before, number(std::min<std::size_t>(run, 6) - 3), 2});
        }
        tokens.insert(tokens.end(), run, {length, 0, 0});
    }
    return tokens;
}

/// One or two symbols below 256 have a short form.
bool write_few(BitWriter& bits, std::span<const std::uint32_t> used) {
    if (used.size() > 2 || (!used.empty() && used.back() >= 256))
        return false;
    const std::uint32_t first = used.empty() ? 0 : used[0];
    bits.write(1, 1);
    bits.write(used.size() > 1 ? 1 : 0, 1);
    bits.write(first > 1 ? 1 : 0, 1);
    bits.write(first, first > 1 ? 8 : 1);
    if (used.size() > 1)
        bits.write(used[1], 8);
    return true;
}

void write_lengths(BitWriter& bits, std::span<const std::uint8_t> lengths) {
    constexpr unsigned max_own_length = 7;
    const auto tokens = length_tokens(lengths);
    std::array<std::uint32_t, std::size(length_order)> counts{};
    for (const LengthToken& token : tokens)
        ++counts[token.symbol];
    const auto own = code_lengths(counts, max_own_length);
    const auto codes = prefix_codes(own);
    std::size_t count = std::size(length_order);
    while (count > 4 && own[length_order[count - 1]] == 0)
        --count;
    bits.write(0, 1);
    bits.write(static_cast<std::uint32_t>(count - 4), 4);
    for (std::size_t i = 0; i < count; ++i)
        bits.write(own[length_order[i]], 3);
    bits.write(0, 1);  // lengths of all symbols follow
    const bool is_alone =
        std::count_if(own.begin(), own.end(), [](std::uint8_t l) { return l > 0; }) == 1;
    for (const LengthToken& token : tokens) {
        if (!is_alone)
            bits.write(codes[token.symbol], own[token.symbol]);
        bits.write(token.extra, token.extra_bits);
    }
}

WrittenCode write_code(BitWriter& bits, std::span<const std::uint32_t> counts) {
    WrittenCode code;
    code.lengths = code_lengths(counts, max_code_length);
    std::vector<std::uint32_t> used;
    for (std::size_t symbol = 0; symbol < counts.size(); ++symbol)
        if (counts[symbol] > 0)
            used.push_back(static_cast<std::uint32_t>(symbol));
    code.takes_bits = used.size() > 1;
    code.codes = prefix_codes(code.lengths);
    if (!write_few(bits, used))
        write_lengths(bits, code.lengths);
    return code;
}

void write_tokens(BitWriter& bits, std::span<const Token> tokens, const Groups& groups,
                  std::uint32_t width) {
    std::vector<std::array<WrittenCode, alphabets>> codes;
    for (const Histogram& histogram : groups.histograms) {
        auto& own = codes.emplace_back();
        for (std::size_t i = 0; i < alphabets; ++i)
            own[i] = write_code(bits, histogram.counts(i));
    }
    const std::uint32_t across = blocks_over(width, groups.block_bits);
    for (const Token& token : tokens) {
        const std::size_t block = std::size_t{token.at / width >> groups.block_bits} * across +
                                  (token.at % width >> groups.block_bits);
        const auto& own = codes[groups.of_block.empty() ? 0 : groups.of_block[block]];
        each_symbol(token, [&](Symbol symbol, const Prefixed& number) {
            own[symbol.alphabet].write(bits, symbol.value);
            bits.write(number.extra, number.extra_bits);
        });
    }
}

/// The tokens with the cache that seems to take the fewest bits; 0: without one.
unsigned choose_cache(std::vector<Token>& tokens, std::span<const std::uint32_t> pixels) {
    const auto cost_of = [&](std::span<const Token> all, unsigned bits) {
        Histogram histogram(bits);
        for (const Token& token : all)
            histogram.count(token);
        return histogram.cost();
    };
    double least = cost_of(tokens, 0);
    std::vector<Token> best = tokens;
    unsigned chosen = 0;
    for (unsigned bits = 1; bits <= max_cache_bits; ++bits) {
        std::vector<Token> cached = tokens;
        use_cache(cached, pixels, bits);
        if (const double cost = cost_of(cached, bits); cost < least) {
            least = cost;
            best = std::move(cached);
            chosen = bits;
        }
    }
    tokens = std::move(best);
    return chosen;
}

/// Blocks of a size that leaves some thousands of them.
unsigned block_bits_for(std::uint32_t width, std::uint32_t height) {
    constexpr std::uint64_t max_blocks = 2600;
    unsigned bits = 4;
    while (bits < 9 &&
           std::uint64_t{blocks_over(width, bits)} * blocks_over(height, bits) > max_blocks)
        ++bits;
    return bits;
}

}  // namespace

void write_pixels(BitWriter& bits, std::span<const std::uint32_t> pixels, std::uint32_t width,
                  bool is_main, const EntropyEffort& effort) {
    auto tokens = tokens_of(pixels, width, effort.depth);
    const unsigned cache_bits = effort.tries_caches ? choose_cache(tokens, pixels) : 0;
    bits.write(cache_bits > 0 ? 1 : 0, 1);
    if (cache_bits > 0)
        bits.write(cache_bits, 4);
    const auto height = static_cast<std::uint32_t>(pixels.size() / width);
    const Groups groups = groups_of(tokens, width, height, cache_bits,
                                    block_bits_for(width, height), is_main ? effort.max_groups : 1);
    if (is_main) {
        bits.write(groups.of_block.empty() ? 0 : 1, 1);
        if (!groups.of_block.empty()) {
            bits.write(groups.block_bits - 2, 3);
            std::vector<std::uint32_t> choices;
            for (const std::uint32_t group : groups.of_block)
                choices.push_back(0xFF000000U | group << 8U);
            write_pixels(bits, choices, blocks_over(width, groups.block_bits), false, effort);
        }
    }
    write_tokens(bits, tokens, groups, width);
}

}  // namespace yl::webp
