#include "codec/webp/lossless.hpp"

#include <fmt/format.h>

#include <array>
#include <numeric>
#include <optional>

#include <yl/status_macros.hpp>
#include "base/progress.hpp"
#include "codec/webp/prefix_code.hpp"
#include "codec/webp/tokens.hpp"
#include "codec/webp/transforms.hpp"

namespace yl::webp {
namespace {

/// Pixels met lately, by a hash of their value. They are put in when one is asked for.
class ColorCache {
 public:
    explicit ColorCache(unsigned bits)
        : bits_(bits), colors_(bits > 0 ? std::size_t{1} << bits : 0) {}

    [[nodiscard]] std::uint32_t size() const { return static_cast<std::uint32_t>(colors_.size()); }

    /// `before`: all pixels up to now.
    [[nodiscard]] std::uint32_t color(std::uint32_t index, std::span<const std::uint32_t> before) {
        for (; met_ < before.size(); ++met_)
            colors_[cache_index(before[met_], bits_)] = before[met_];
        return colors_[index];
    }

 private:
    unsigned bits_;
    std::vector<std::uint32_t> colors_;
    std::size_t met_ = 0;
};

struct Group {
    PrefixCode green, red, blue, alpha, distance;
    /// Red, blue and alpha take no bits: only green is to be read.
    bool is_green_alone = false;
    std::uint32_t rest = 0;  ///< the others, then
};

/// What a few bits tell of a pixel: some of green, red, blue, alpha, in this order.
struct ShortPixel {
    std::uint32_t pixel = 0;
    std::uint16_t bits = 0;   ///< that they take
    std::uint16_t known = 0;  ///< how many of the four; 0: or the bits mean something else
};
constexpr unsigned short_bits = 11;

/// All that tells the pixels of one image from its bits.
struct Codes {
    std::vector<PrefixEntry> table;
    std::vector<Group> groups;
    unsigned block_bits = 0;                ///< of the blocks that choose their group; 0: one group
    std::vector<std::uint32_t> group_of{};  ///< by block
    /// By the next bits, for one group after the other; empty where there are too few pixels for it.
    std::vector<ShortPixel> short_pixels{};

    [[nodiscard]] const Group& group_at(std::uint32_t x, std::uint32_t y,
                                        std::uint32_t width) const {
        if (group_of.empty())
            return groups[0];
        const std::size_t row = std::size_t{y >> block_bits} * blocks_over(width, block_bits);
        return groups[group_of[row + (x >> block_bits)]];
    }
    [[nodiscard]] const ShortPixel* shorts_of(const Group& group) const {
        return short_pixels.data() +
               (static_cast<std::size_t>(&group - groups.data()) << short_bits);
    }
};

/// What these bits begin with.
ShortPixel short_pixel(const std::vector<PrefixEntry>& table, const Group& group,
                       std::uint32_t bits) {
    ShortPixel result;
    for (const auto& [code, shift] : {std::pair{&group.green, 8U}, std::pair{&group.red, 16U},
                                      std::pair{&group.blue, 0U}, std::pair{&group.alpha, 24U}}) {
        const PrefixEntry& entry = table[code->first + (bits & ((1U << code->step) - 1))];
        if (entry.bits > code->step || entry.value >= literal_symbols ||
            result.bits + entry.bits > short_bits)
            break;
        result.bits = static_cast<std::uint16_t>(result.bits + entry.bits);
        result.pixel |= std::uint32_t{entry.value} << shift;
        bits >>= entry.bits;
        ++result.known;
    }
    return result;
}

void add_short_pixels(Codes& codes, std::size_t pixel_count) {
    constexpr std::size_t worth = 4;  // pixels for each that is looked up beforehand
    const std::size_t size = codes.groups.size() << short_bits;
    if (pixel_count / worth < size)
        return;
    codes.short_pixels.reserve(size);
    for (const Group& group : codes.groups)
        for (std::uint32_t bits = 0; bits < 1U << short_bits; ++bits)
            codes.short_pixels.push_back(short_pixel(codes.table, group, bits));
}

/// A number by its prefix and the bits after it.
std::uint32_t read_number(std::uint32_t code, BitReader& bits) {
    if (code < 4)
        return code + 1;
    const unsigned extra = (code - 2) >> 1U;
    return ((2 + (code & 1U)) << extra) + bits.take(extra) + 1;
}

class Decoder {
 public:
    explicit Decoder(ByteSpan stream) : bits_(stream) {}

    Status run(std::uint32_t width, std::uint32_t height, std::span<std::uint32_t> room,
               const RowSink& sink, const Progress& progress);

 private:
    tl::unexpected<Error> damaged(std::string what) const {
        return fail(ErrorKind::malformed, std::move(what), bits_.offset());
    }

    Result<std::uint32_t> read_transforms(std::uint32_t width, std::uint32_t height);
    Status read_transform_data(Transform& transform, std::uint32_t width, std::uint32_t height);
    Result<std::vector<std::uint32_t>> read_small_image(std::uint32_t width, std::uint32_t height);
    Result<unsigned> read_cache_bits();
    Status read_group_choice(Codes& codes, std::uint32_t width, std::uint32_t height);
    Status read_groups(Codes& codes, std::size_t count, std::uint32_t cache_size);
    Result<PrefixCode> read_code(std::uint32_t symbols, std::vector<PrefixEntry>& table);
    Status read_lengths(std::span<std::uint8_t> lengths);
    Status read_pixels(const Codes& codes, ColorCache cache, std::uint32_t width,
                       std::span<std::uint32_t> pixels, ProgressCounter* progress);

    BitReader bits_;
    std::vector<Transform> transforms_ = {};
};

Status Decoder::read_lengths(std::span<std::uint8_t> lengths) {
    static constexpr std::uint8_t order[] = {17, 18, 0, 1,  2,  3,  4,  5,  16, 6,
                                             7,  8,  9, 10, 11, 12, 13, 14, 15};
    std::array<std::uint8_t, std::size(order)> own{};
    const std::uint32_t count = 4 + bits_.read(4);
    if (count > std::size(order))
        return damaged("a prefix code has too many lengths");
    for (std::uint32_t i = 0; i < count; ++i)
        own[order[i]] = static_cast<std::uint8_t>(bits_.read(3));
    std::vector<PrefixEntry> table;
    const auto code = add_prefix_code(own, table);
    if (!code)
        return damaged("a prefix code is incomplete");
    std::size_t most = lengths.size();
    if (bits_.read_flag()) {
        const unsigned size = 2 + 2 * bits_.read(3);
        most = 2 + bits_.read(size);
        if (most > lengths.size())
            return damaged("a prefix code has more lengths than symbols");
    }
    std::uint8_t previous = 8;
    for (std::size_t at = 0; at < lengths.size() && most > 0; --most) {
        bits_.refill();
        const std::uint32_t symbol = code->read(table.data(), bits_);
        if (symbol < 16) {
            lengths[at++] = static_cast<std::uint8_t>(symbol);
            if (symbol != 0)
                previous = static_cast<std::uint8_t>(symbol);
            continue;
        }
        const std::uint32_t repeats = symbol == 16   ? 3 + bits_.take(2)
                                      : symbol == 17 ? 3 + bits_.take(3)
                                                     : 11 + bits_.take(7);
        if (repeats > lengths.size() - at)
            return damaged("a prefix code has more lengths than symbols");
        std::fill_n(lengths.begin() + static_cast<std::ptrdiff_t>(at), repeats,
                    symbol == 16 ? previous : std::uint8_t{0});
        at += repeats;
    }
    return {};
}

Result<PrefixCode> Decoder::read_code(std::uint32_t symbols, std::vector<PrefixEntry>& table) {
    std::vector<std::uint8_t> lengths(std::max(symbols, literal_symbols));
    if (bits_.read_flag()) {
        const bool has_two = bits_.read_flag();
        const bool is_long = bits_.read_flag();
        lengths[bits_.read(is_long ? 8 : 1)] = 1;
        if (has_two)
            lengths[bits_.read(8)] = 1;
    } else {
        YL_CHECK(read_lengths(std::span(lengths).first(symbols)));
    }
    const auto code = add_prefix_code(std::span(lengths).first(symbols), table);
    if (!code)
        return damaged("a prefix code is incomplete");
    return *code;
}

Status Decoder::read_groups(Codes& codes, std::size_t count, std::uint32_t cache_size) {
    const auto is_fixed = [](const PrefixCode& code) { return code.step == 0; };
    const auto only = [&](const PrefixCode& code) -> std::uint32_t {
        return codes.table[code.first].value;
    };
    for (std::size_t i = 0; i < count; ++i) {
        Group group;
        YL_TRY(group.green, read_code(literal_symbols + length_symbols + cache_size, codes.table));
        YL_TRY(group.red, read_code(literal_symbols, codes.table));
        YL_TRY(group.blue, read_code(literal_symbols, codes.table));
        YL_TRY(group.alpha, read_code(literal_symbols, codes.table));
        YL_TRY(group.distance, read_code(distance_symbols, codes.table));
        group.is_green_alone = is_fixed(group.red) && is_fixed(group.blue) && is_fixed(group.alpha);
        if (group.is_green_alone)
            group.rest = only(group.alpha) << 24U | only(group.red) << 16U | only(group.blue);
        codes.groups.push_back(group);
        if (bits_.is_beyond_end())
            return damaged("the file ends within its prefix codes");
    }
    return {};
}

Result<unsigned> Decoder::read_cache_bits() {
    if (!bits_.read_flag())
        return 0U;
    const unsigned bits = bits_.read(4);
    if (bits < 1 || bits > 11)
        return damaged(fmt::format("a colour cache of {} bits", bits));
    return bits;
}

/// An image of which each pixel stands for a block, or a palette.
Result<std::vector<std::uint32_t>> Decoder::read_small_image(std::uint32_t width,
                                                             std::uint32_t height) {
    YL_TRY(const unsigned cache_bits, read_cache_bits());
    ColorCache cache(cache_bits);
    Codes codes;
    YL_CHECK(read_groups(codes, 1, cache.size()));
    std::vector<std::uint32_t> pixels(std::size_t{width} * height);
    YL_CHECK(read_pixels(codes, std::move(cache), width, pixels, nullptr));
    return pixels;
}

Status Decoder::read_group_choice(Codes& codes, std::uint32_t width, std::uint32_t height) {
    codes.block_bits = 2 + bits_.read(3);
    YL_TRY(codes.group_of, read_small_image(blocks_over(width, codes.block_bits),
                                            blocks_over(height, codes.block_bits)));
    for (std::uint32_t& group : codes.group_of)
        group = group >> 8U & 0xFFFFU;
    return {};
}

Status Decoder::read_transform_data(Transform& transform, std::uint32_t width,
                                    std::uint32_t height) {
    if (transform.kind == TransformKind::subtract_green)
        return {};
    if (transform.kind == TransformKind::palette) {
        const std::uint32_t colors = bits_.read(8) + 1;
        transform.bits = colors <= 2 ? 3 : colors <= 4 ? 2 : colors <= 16 ? 1 : 0;
        YL_TRY(transform.data, read_small_image(colors, 1));
        for (std::size_t i = 1; i < colors; ++i) {
            const std::uint32_t before = transform.data[i - 1], step = transform.data[i];
            transform.data[i] = ((before & 0xFF00FF00U) + (step & 0xFF00FF00U)) & 0xFF00FF00U;
            transform.data[i] |= ((before & 0x00FF00FFU) + (step & 0x00FF00FFU)) & 0x00FF00FFU;
        }
        return {};
    }
    transform.bits = 2 + bits_.read(3);
    YL_TRY(transform.data, read_small_image(blocks_over(width, transform.bits),
                                            blocks_over(height, transform.bits)));
    return {};
}

/// Gives the width of the pixels that are coded.
Result<std::uint32_t> Decoder::read_transforms(std::uint32_t width, std::uint32_t height) {
    unsigned seen = 0;
    while (bits_.read_flag()) {
        Transform transform;
        transform.kind = static_cast<TransformKind>(bits_.read(2));
        const unsigned bit = 1U << static_cast<unsigned>(transform.kind);
        if ((seen & bit) != 0)
            return damaged("a transform comes twice");
        seen |= bit;
        transform.width = width;
        YL_CHECK(read_transform_data(transform, width, height));
        if (transform.kind == TransformKind::palette)
            width = blocks_over(width, transform.bits);
        transforms_.push_back(std::move(transform));
    }
    return width;
}

/// A pixel that begins with what is known of it.
std::uint32_t rest_of(const ShortPixel& begin, const Group& group, const PrefixEntry* table,
                      BitReader& bits) {
    std::uint32_t pixel = begin.pixel;
    if (begin.known < 2)
        pixel |= group.red.read(table, bits) << 16U;
    if (begin.known < 3)
        pixel |= group.blue.read(table, bits);
    if (begin.known < 4)
        pixel |= group.alpha.read(table, bits) << 24U;
    return pixel;
}

std::uint32_t pixel_of(std::uint32_t green, const Group& group, const PrefixEntry* table,
                       BitReader& bits) {
    if (group.is_green_alone)
        return group.rest | green << 8U;
    const std::uint32_t red = group.red.read(table, bits);
    bits.refill();
    const std::uint32_t blue = group.blue.read(table, bits);
    return group.alpha.read(table, bits) << 24U | red << 16U | green << 8U | blue;
}

/// How many pixels back.
std::uint64_t distance_of(std::uint32_t coded, std::uint32_t width) {
    if (coded > nearby_pixels.size())
        return coded - nearby_pixels.size();
    const Nearby& place = nearby_pixels[coded - 1];
    return static_cast<std::uint64_t>(
        std::max<std::int64_t>(place.left + std::int64_t{place.up} * width, 1));
}

/// A pixel, one out of the cache, or a repeat of earlier ones: gives how many pixels it is; 0 if a
/// repeat reaches beyond the picture.
std::uint32_t read_symbol(const Group& group, const PrefixEntry* table, std::uint32_t width,
                          std::span<std::uint32_t> pixels, std::size_t at, ColorCache& cache,
                          BitReader& bits) {
    const std::uint32_t green = group.green.read(table, bits);
    if (green < literal_symbols) {
        pixels[at] = pixel_of(green, group, table, bits);
        return 1;
    }
    if (green >= literal_symbols + length_symbols) {
        pixels[at] = cache.color(green - literal_symbols - length_symbols, pixels.first(at));
        return 1;
    }
    const std::uint32_t count = read_number(green - literal_symbols, bits);
    bits.refill();
    const std::uint32_t code = group.distance.read(table, bits);
    bits.refill();
    const std::uint64_t distance = distance_of(read_number(code, bits), width);
    if (distance > at || count > pixels.size() - at)
        return 0;
    for (std::uint32_t i = 0; i < count; ++i)
        pixels[at + i] = pixels[at + i - static_cast<std::size_t>(distance)];
    return count;
}

Status Decoder::read_pixels(const Codes& codes, ColorCache cache, std::uint32_t width,
                            std::span<std::uint32_t> pixels, ProgressCounter* progress) {
    BitReader bits = bits_;  // whose numbers no store to pixels can change
    const PrefixEntry* table = codes.table.data();
    const std::uint32_t block_mask =
        codes.group_of.empty() ? ~std::uint32_t{0} : (1U << codes.block_bits) - 1;
    const Group* group = codes.groups.data();
    const ShortPixel* shorts = codes.short_pixels.empty() ? nullptr : codes.short_pixels.data();
    std::uint32_t x = 0, y = 0;
    std::size_t at = 0;
    // Where a row ends, or another block may begin.
    const auto settle = [&]() -> Status {
        for (; x >= width; x -= width) {
            ++y;
            if (bits.is_beyond_end())
                return damaged("the file ends within its pixels");
            if (progress == nullptr)
                continue;
            progress->add(1);
            YL_CHECK(progress->status());
        }
        if (at < pixels.size())
            group = &codes.group_at(x, y, width);
        if (shorts != nullptr)
            shorts = codes.shorts_of(*group);
        return {};
    };
    YL_CHECK(settle());
    while (at < pixels.size()) {
        bits.refill();
        if (shorts != nullptr) {
            const ShortPixel& begin = shorts[bits.peek(short_bits)];
            if (begin.known > 0) {
                bits.drop(begin.bits);
                pixels[at++] = rest_of(begin, *group, table, bits);
                if (++x == width || (x & block_mask) == 0)
                    YL_CHECK(settle());
                continue;
            }
        }
        const std::uint32_t count = read_symbol(*group, table, width, pixels, at, cache, bits);
        if (count == 0)
            return damaged("a repeat reaches beyond the picture");
        at += count;
        x += count;
        if (count > 1 || x == width || (x & block_mask) == 0)
            YL_CHECK(settle());
    }
    bits_ = bits;
    return {};
}

Status Decoder::run(std::uint32_t width, std::uint32_t height, std::span<std::uint32_t> room,
                    const RowSink& sink, const Progress& progress) {
    YL_TRY(const std::uint32_t coded_width, read_transforms(width, height));
    YL_TRY(const unsigned cache_bits, read_cache_bits());
    ColorCache cache(cache_bits);
    Codes codes;
    if (bits_.read_flag())
        YL_CHECK(read_group_choice(codes, coded_width, height));
    const std::size_t groups =
        codes.group_of.empty()
            ? 1
            : std::size_t{*std::max_element(codes.group_of.begin(), codes.group_of.end())} + 1;
    YL_CHECK(read_groups(codes, groups, cache.size()));
    std::vector<std::uint32_t> own;
    if (room.empty() || coded_width < width) {
        own.resize(std::size_t{coded_width} * height);
        room = own;
    }
    const auto pixels = room.first(std::size_t{coded_width} * height);
    add_short_pixels(codes, pixels.size());
    ProgressCounter counter(progress, Phase::reading, height);
    YL_CHECK(read_pixels(codes, std::move(cache), coded_width, pixels, &counter));
    std::vector<std::uint32_t> row(width);
    for (std::uint32_t y = 0; y < height; ++y) {
        const auto coded = pixels.subspan(std::size_t{y} * coded_width, coded_width);
        std::copy(coded.begin(), coded.end(), row.begin());
        for (std::size_t i = transforms_.size(); i-- > 0;)
            undo_transform(transforms_[i], y, std::span(row).first(transforms_[i].width));
        sink(y, row);
    }
    return {};
}

}  // namespace

Result<LosslessHeader> lossless_header(ByteSpan stream) {
    constexpr std::uint32_t signature = 0x2F;
    BitReader bits(stream);
    const bool is_one = stream.size() >= lossless_header_bytes && bits.read(8) == signature;
    LosslessHeader header;
    header.width = bits.read(14) + 1;
    header.height = bits.read(14) + 1;
    header.has_alpha = bits.read_flag();
    if (!is_one || bits.read(3) != 0)
        return fail(ErrorKind::malformed, "lossless pixels without their header");
    return header;
}

Status read_lossless(ByteSpan stream, std::uint32_t width, std::uint32_t height,
                     std::span<std::uint32_t> room, const RowSink& sink, const Progress& progress) {
    return Decoder(stream).run(width, height, room, sink, progress);
}

}  // namespace yl::webp
