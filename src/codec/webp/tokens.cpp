#include "codec/webp/tokens.hpp"

#include <algorithm>
#include <bit>

#include "codec/webp/histogram.hpp"

namespace yl::webp {

const std::array<Nearby, 120> nearby_pixels = {
    {{0, 1},  {1, 0},  {1, 1},  {-1, 1}, {0, 2},  {2, 0},  {1, 2},  {-1, 2}, {2, 1},  {-2, 1},
     {2, 2},  {-2, 2}, {0, 3},  {3, 0},  {1, 3},  {-1, 3}, {3, 1},  {-3, 1}, {2, 3},  {-2, 3},
     {3, 2},  {-3, 2}, {0, 4},  {4, 0},  {1, 4},  {-1, 4}, {4, 1},  {-4, 1}, {3, 3},  {-3, 3},
     {2, 4},  {-2, 4}, {4, 2},  {-4, 2}, {0, 5},  {3, 4},  {-3, 4}, {4, 3},  {-4, 3}, {5, 0},
     {1, 5},  {-1, 5}, {5, 1},  {-5, 1}, {2, 5},  {-2, 5}, {5, 2},  {-5, 2}, {4, 4},  {-4, 4},
     {3, 5},  {-3, 5}, {5, 3},  {-5, 3}, {0, 6},  {6, 0},  {1, 6},  {-1, 6}, {6, 1},  {-6, 1},
     {2, 6},  {-2, 6}, {6, 2},  {-6, 2}, {4, 5},  {-4, 5}, {5, 4},  {-5, 4}, {3, 6},  {-3, 6},
     {6, 3},  {-6, 3}, {0, 7},  {7, 0},  {1, 7},  {-1, 7}, {5, 5},  {-5, 5}, {7, 1},  {-7, 1},
     {4, 6},  {-4, 6}, {6, 4},  {-6, 4}, {2, 7},  {-2, 7}, {7, 2},  {-7, 2}, {3, 7},  {-3, 7},
     {7, 3},  {-7, 3}, {5, 6},  {-5, 6}, {6, 5},  {-6, 5}, {8, 0},  {4, 7},  {-4, 7}, {7, 4},
     {-7, 4}, {8, 1},  {8, 2},  {6, 6},  {-6, 6}, {8, 3},  {5, 7},  {-5, 7}, {7, 5},  {-7, 5},
     {8, 4},  {6, 7},  {-6, 7}, {7, 6},  {-7, 6}, {8, 5},  {7, 7},  {-7, 7}, {8, 6},  {8, 7}}};

Prefixed prefixed(std::uint32_t number) {
    if (number <= 4)
        return {number - 1, 0, 0};
    const std::uint32_t left = number - 1;
    const auto high = static_cast<std::uint32_t>(std::bit_width(left)) - 1;
    const std::uint32_t second = left >> (high - 1) & 1U;
    return {2 * high + second, left & ((1U << (high - 1)) - 1), high - 1};
}

namespace {

constexpr std::uint32_t max_length = 4096, max_distance = (1U << 20U) - 120;
constexpr std::uint32_t none = ~std::uint32_t{0};

/// The codes of distances in this width.
class DistanceCodes {
 public:
    explicit DistanceCodes(std::uint32_t width) : near_(std::size_t{8} * width + 9) {
        for (std::size_t i = nearby_pixels.size(); i-- > 0;) {
            const auto distance = static_cast<std::int64_t>(nearby_pixels[i].left) +
                                  std::int64_t{nearby_pixels[i].up} * width;
            if (distance >= 1)
                near_[static_cast<std::size_t>(distance)] = static_cast<std::uint8_t>(i + 1);
        }
    }
    [[nodiscard]] std::uint32_t operator()(std::uint32_t distance) const {
        const std::uint32_t near = distance < near_.size() ? near_[distance] : 0;
        return near > 0 ? near : distance + static_cast<std::uint32_t>(nearby_pixels.size());
    }

 private:
    std::vector<std::uint8_t> near_;  ///< 0: has no code of its own
};

struct Match {
    std::uint32_t length = 0, code = 0;  ///< of the distance
    float gain = 0;                      ///< bits that it saves
};

constexpr double cost_unit = 1.0 / 16;

/// Bits that pixels take by themselves, by how often each byte occurs: of those up to each place, in
/// units of a 16th. Sums may wrap around, differences do not.
std::vector<std::uint32_t> costs_up_to(std::span<const std::uint32_t> pixels) {
    Histogram histogram;
    for (const std::uint32_t pixel : pixels)
        histogram.count({.value = pixel});
    const auto costs = histogram.symbol_costs();
    std::vector<std::uint32_t> sums = {0};
    sums.reserve(pixels.size() + 1);
    double sum = 0;
    for (const std::uint32_t pixel : pixels) {
        each_symbol({.value = pixel}, [&](Symbol symbol, const Prefixed&) {
            sum += static_cast<double>(costs[symbol.alphabet][symbol.value]);
        });
        sums.push_back(static_cast<std::uint32_t>(static_cast<std::uint64_t>(sum / cost_unit)));
    }
    return sums;
}

/// Places that begin with the same two pixels, the latest first.
class Matcher {
 public:
    Matcher(std::span<const std::uint32_t> pixels, std::uint32_t width, unsigned depth)
        : pixels_(pixels),
          width_(width),
          depth_(depth),
          codes_(width),
          costs_(costs_up_to(pixels)),
          latest_(std::size_t{1} << hash_bits, none),
          before_(pixels.size(), none) {}

    /// The one that saves most.
    [[nodiscard]] Match at(std::uint32_t place) const {
        Match best;
        const auto most =
            static_cast<std::uint32_t>(std::min<std::size_t>(max_length, pixels_.size() - place));
        if (place >= 1)
            consider(place, place - 1, most, best);
        if (place >= width_ && width_ > 1)
            consider(place, place - width_, most, best);
        if (place + 1 >= pixels_.size())
            return best;
        std::uint32_t from = latest_[hash(place)];
        for (unsigned i = 0; i < depth_ && from != none && place - from <= max_distance; ++i) {
            consider(place, from, most, best);
            if (best.length == most)
                break;
            from = before_[from];
        }
        return best;
    }
    void insert(std::uint32_t place) {
        if (place + 1 >= pixels_.size())
            return;
        std::uint32_t& latest = latest_[hash(place)];
        before_[place] = latest;
        latest = place;
    }

 private:
    static constexpr unsigned hash_bits = 18;

    void consider(std::uint32_t place, std::uint32_t from, std::uint32_t most, Match& best) const {
        constexpr float symbol_bits = 10;  // of a length and a distance, usually
        if (best.length > 0 && pixels_[from + best.length - 1] != pixels_[place + best.length - 1])
            return;
        std::uint32_t length = 0;
        while (length < most && pixels_[from + length] == pixels_[place + length])
            ++length;
        if (length == 0)
            return;
        const std::uint32_t code = codes_(place - from);
        const float bits = symbol_bits + static_cast<float>(prefixed(length).extra_bits +
                                                            prefixed(code).extra_bits);
        const std::uint32_t alone = costs_[place + length] - costs_[place];
        const float gain = static_cast<float>(alone * cost_unit) - bits;
        if (gain > best.gain)
            best = {length, code, gain};
    }
    [[nodiscard]] std::uint32_t hash(std::uint32_t place) const {
        const std::uint64_t both = std::uint64_t{pixels_[place]} << 32U | pixels_[place + 1];
        return static_cast<std::uint32_t>(both * 0x9E3779B97F4A7C15U >> (64 - hash_bits));
    }

    std::span<const std::uint32_t> pixels_;
    std::uint32_t width_;
    unsigned depth_;
    DistanceCodes codes_;
    std::vector<std::uint32_t> costs_;
    std::vector<std::uint32_t> latest_, before_;
};

}  // namespace

std::vector<Token> tokens_of(std::span<const std::uint32_t> pixels, std::uint32_t width,
                             unsigned depth) {
    constexpr std::uint32_t long_enough = 1024;  // that the next place need not be looked at
    Matcher matcher(pixels, width, depth);
    std::vector<Token> tokens;
    std::uint32_t at = 0;
    const auto size = static_cast<std::uint32_t>(pixels.size());
    Match match = matcher.at(0);
    while (at < size) {
        matcher.insert(at);
        const bool looks_ahead = at + 1 < size && match.length < long_enough;
        const Match next = looks_ahead ? matcher.at(at + 1) : Match{};
        if (match.length == 0 || next.gain > match.gain) {
            tokens.push_back({at, 0, pixels[at], false});
            ++at;
            match = next;
            continue;
        }
        tokens.push_back({at, match.length, match.code, false});
        for (std::uint32_t i = 1; i < match.length; ++i)
            matcher.insert(at + i);
        at += match.length;
        match = at < size ? matcher.at(at) : Match{};
    }
    return tokens;
}

void use_cache(std::vector<Token>& tokens, std::span<const std::uint32_t> pixels, unsigned bits) {
    std::vector<std::uint32_t> cache(std::size_t{1} << bits);
    for (Token& token : tokens) {
        const std::uint32_t count = std::max(token.length, 1U);
        if (token.length == 0) {
            const std::uint32_t index = cache_index(token.value, bits);
            token.is_cached = cache[index] == token.value;
            if (token.is_cached)
                token.value = index;
        }
        for (std::uint32_t i = 0; i < count; ++i) {
            const std::uint32_t pixel = pixels[token.at + i];
            cache[cache_index(pixel, bits)] = pixel;
        }
    }
}

}  // namespace yl::webp
