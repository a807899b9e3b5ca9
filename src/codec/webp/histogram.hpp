// How often symbols occur in an image, and what their codes cost.
#pragma once

#include "codec/webp/tokens.hpp"

namespace yl::webp {

constexpr std::size_t alphabets =
    5;  ///< green (and lengths, and the cache), red, blue, alpha, distance

/// A symbol of one of the alphabets.
struct Symbol {
    std::uint32_t alphabet, value;
};

/// Calls the function with each symbol of a token, and with the bits that come after it.
template <class Function>
void each_symbol(const Token& token, Function&& function) {
    constexpr Prefixed no_bits{0, 0, 0};
    if (token.length > 0) {
        const Prefixed length = prefixed(token.length), distance = prefixed(token.value);
        function(Symbol{0, literal_symbols + length.prefix}, length);
        function(Symbol{4, distance.prefix}, distance);
    } else if (token.is_cached) {
        function(Symbol{0, literal_symbols + length_symbols + token.value}, no_bits);
    } else {
        function(Symbol{0, token.value >> 8U & 255U}, no_bits);
        function(Symbol{1, token.value >> 16U & 255U}, no_bits);
        function(Symbol{2, token.value & 255U}, no_bits);
        function(Symbol{3, token.value >> 24U}, no_bits);
    }
}

class Histogram {
 public:
    explicit Histogram(unsigned cache_bits = 0);

    void count(const Token& token);
    void add(const Histogram& other);

    [[nodiscard]] std::span<const std::uint32_t> counts(std::size_t alphabet) const {
        return counts_[alphabet];
    }
    /// Bits of all symbols by their entropy, of what comes after them, and of the codes, roughly.
    [[nodiscard]] double cost() const;
    /// Bits of each symbol of an alphabet; those that do not occur are dear.
    [[nodiscard]] std::array<std::vector<float>, alphabets> symbol_costs() const;

 private:
    std::array<std::vector<std::uint32_t>, alphabets> counts_;
    std::uint64_t extra_bits_ = 0;
};

}  // namespace yl::webp
