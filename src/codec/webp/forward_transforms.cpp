#include "codec/webp/forward_transforms.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "codec/webp/predictors.hpp"

namespace yl::webp {
namespace {

/// The bits that bytes may take, by how often each has occurred in its channel so far.
class ByteCosts {
 public:
    ByteCosts() {
        // At first, small ones of either sign are likelier.
        for (std::size_t value = 0; value < 256; ++value) {
            const int size = std::abs(static_cast<int>(static_cast<std::int8_t>(value)));
            for (auto& counts : counts_)
                counts[value] = 1 + 64 / (1 + static_cast<std::uint32_t>(size * size));
        }
        update();
    }

    [[nodiscard]] float of(Pixel pixel) const {
        return bits_[0][pixel & 255U] + bits_[1][pixel >> 8U & 255U] +
               bits_[2][pixel >> 16U & 255U] + bits_[3][pixel >> 24U];
    }
    [[nodiscard]] float of(std::size_t channel, std::uint32_t byte) const {
        return bits_[channel][byte & 255U];
    }
    void count(Pixel pixel) {
        for (std::size_t c = 0; c < 4; ++c)
            ++counts_[c][pixel >> (8 * c) & 255U];
    }
    void update() {
        for (std::size_t c = 0; c < 4; ++c) {
            std::uint64_t sum = 0;
            for (const std::uint32_t count : counts_[c])
                sum += count;
            const float all = std::log2(static_cast<float>(sum));
            for (std::size_t value = 0; value < 256; ++value)
                bits_[c][value] = all - std::log2(static_cast<float>(counts_[c][value]));
        }
    }

 private:
    std::array<std::array<std::uint32_t, 256>, 4> counts_{};
    std::array<std::array<float, 256>, 4> bits_{};
};

/// A block's pixels, numbered as in the picture.
struct Block {
    std::uint32_t left, top, right, bottom;
};

template <class Function>
void each_block(std::uint32_t width, std::uint32_t height, unsigned bits, Function&& function) {
    const std::uint32_t side = 1U << bits;
    for (std::uint32_t top = 0; top < height; top += side)
        for (std::uint32_t left = 0; left < width; left += side)
            function(Block{left, top, std::min(left + side, width), std::min(top + side, height)});
}

/// The first row and column are predicted in ways of their own.
Pixel residue(std::span<const Pixel> pixels, std::uint32_t width, std::uint32_t x, std::uint32_t y,
              unsigned mode) {
    const Pixel* at = pixels.data() + std::size_t{y} * width + x;
    if (y == 0)
        return difference(*at, x == 0 ? opaque_black : at[-1]);
    const Pixel* above = at - width;
    return difference(*at, x == 0 ? *above : prediction(mode, at[-1], above));
}

std::uint32_t height_of(std::span<const Pixel> pixels, std::uint32_t width) {
    return static_cast<std::uint32_t>(pixels.size() / width);
}

float cost_of(std::span<const Pixel> pixels, std::uint32_t width, const Block& block, unsigned mode,
              const ByteCosts& costs, float limit) {
    float sum = 0;
    for (std::uint32_t y = block.top; y < block.bottom && sum < limit; ++y)
        for (std::uint32_t x = block.left; x < block.right; ++x)
            sum += costs.of(residue(pixels, width, x, y, mode));
    return sum;
}

}  // namespace

void subtract_green(std::span<Pixel> pixels) {
    for (Pixel& pixel : pixels) {
        const Pixel green = pixel >> 8U & 255U;
        pixel = difference(pixel, green << 16U | green);
    }
}

Transform take_predictions(std::span<Pixel> pixels, std::uint32_t width, unsigned bits) {
    Transform transform{.kind = TransformKind::predictor, .bits = bits, .width = width};
    const std::uint32_t height = height_of(pixels, width);
    std::vector<Pixel> residues(pixels.size());
    ByteCosts costs;
    each_block(width, height, bits, [&](const Block& block) {
        unsigned best = 0;
        float least = std::numeric_limits<float>::infinity();
        for (unsigned mode = 0; mode < predictor_count; ++mode) {
            const float cost = cost_of(pixels, width, block, mode, costs, least);
            if (cost < least) {
                least = cost;
                best = mode;
            }
        }
        for (std::uint32_t y = block.top; y < block.bottom; ++y)
            for (std::uint32_t x = block.left; x < block.right; ++x) {
                const Pixel left = residue(pixels, width, x, y, best);
                residues[std::size_t{y} * width + x] = left;
                costs.count(left);
            }
        costs.update();
        transform.data.push_back(opaque_black | best << 8U);
    });
    std::copy(residues.begin(), residues.end(), pixels.begin());
    return transform;
}

namespace {

std::int32_t signed_byte(Pixel value) {
    return static_cast<std::int8_t>(static_cast<std::uint8_t>(value));
}

/// The multiplier of `from` that leaves least of `to`, by least squares, or 0 if that takes fewer
/// bits.
std::uint8_t best_share(std::span<const std::array<std::uint8_t, 2>> pairs, std::size_t channel,
                        const ByteCosts& costs) {
    double product = 0, square = 0;
    for (const auto& [from, to] : pairs) {
        product += signed_byte(from) * signed_byte(to);
        square += signed_byte(from) * signed_byte(from);
    }
    if (square == 0)
        return 0;
    const auto best = static_cast<std::uint8_t>(
        static_cast<int>(std::clamp(std::round(32 * product / square), -128.0, 127.0)));
    float with = 0, without = 0;
    for (const auto& [from, to] : pairs) {
        with += costs.of(channel, to - share(best, from));
        without += costs.of(channel, to);
    }
    return with < without ? best : std::uint8_t{0};
}

}  // namespace

Transform take_color_shares(std::span<Pixel> pixels, std::uint32_t width, unsigned bits) {
    Transform transform{.kind = TransformKind::color, .bits = bits, .width = width};
    ByteCosts costs;
    std::vector<std::array<std::uint8_t, 2>> pairs;
    each_block(width, height_of(pixels, width), bits, [&](const Block& block) {
        const auto each = [&](auto&& function) {
            for (std::uint32_t y = block.top; y < block.bottom; ++y)
                for (std::uint32_t x = block.left; x < block.right; ++x)
                    function(pixels[std::size_t{y} * width + x]);
        };
        const auto share_of = [&](unsigned from, unsigned to) {
            pairs.clear();
            each([&](Pixel pixel) {
                pairs.push_back({static_cast<std::uint8_t>(pixel >> from),
                                 static_cast<std::uint8_t>(pixel >> to)});
            });
            return best_share(pairs, to / 8, costs);
        };
        constexpr unsigned blue = 0, green = 8, red = 16;
        // Red's own value is what blue is expected by, so that blue goes first.
        const Pixel red_to_blue = share_of(red, blue);
        each([&](Pixel& pixel) {
            const Pixel left = (pixel - share(red_to_blue, pixel >> red)) & 255U;
            pixel = (pixel & ~255U) | left;
        });
        const Pixel green_to_blue = share_of(green, blue), green_to_red = share_of(green, red);
        each([&](Pixel& pixel) {
            const Pixel less_red = ((pixel >> red) - share(green_to_red, pixel >> green)) & 255U;
            const Pixel less_blue = (pixel - share(green_to_blue, pixel >> green)) & 255U;
            pixel = (pixel & alpha_green) | less_red << red | less_blue;
            costs.count(pixel);
        });
        costs.update();
        transform.data.push_back(opaque_black | red_to_blue << 16U | green_to_blue << 8U |
                                 green_to_red);
    });
    return transform;
}

std::optional<Transform> take_palette(std::vector<Pixel>& pixels, std::uint32_t width) {
    constexpr std::size_t most = 256;
    std::map<Pixel, std::uint32_t> indices;
    Pixel last = ~pixels[0];
    for (const Pixel pixel : pixels) {
        if (pixel != last && indices.emplace(pixel, 0).second && indices.size() > most)
            return std::nullopt;
        last = pixel;
    }
    Transform transform{.kind = TransformKind::palette, .width = width};
    const std::size_t colors = indices.size();
    transform.bits = colors <= 2 ? 3 : colors <= 4 ? 2 : colors <= 16 ? 1 : 0;
    for (auto& [color, index] : indices) {
        index = static_cast<std::uint32_t>(transform.data.size());
        transform.data.push_back(color);
    }
    const std::uint32_t height = height_of(pixels, width);
    const std::uint32_t packed_width = blocks_over(width, transform.bits);
    const unsigned index_bits = 8U >> transform.bits;
    std::vector<Pixel> packed(std::size_t{packed_width} * height, opaque_black);
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            const unsigned place = x & ((1U << transform.bits) - 1);
            packed[std::size_t{y} * packed_width + (x >> transform.bits)] |=
                indices.find(pixels[std::size_t{y} * width + x])->second
                << (8 + place * index_bits);
        }
    pixels = std::move(packed);
    return transform;
}

}  // namespace yl::webp
