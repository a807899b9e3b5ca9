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

/// Pixels met lately, by a hash of their value.
class ColorCache {
 public:
    explicit ColorCache(unsigned bits)
        : bits_(bits), colors_(bits > 0 ? std::size_t{1} << bits : 0) {}

    [[nodiscard]] std::uint32_t size() const { return static_cast<std::uint32_t>(colors_.size()); }
    [[nodiscard]] std::uint32_t operator[](std::uint32_t index) const { return colors_[index]; }
    void insert(std::uint32_t pixel) { colors_[cache_index(pixel, bits_)] = pixel; }

 private:
    unsigned bits_;
    std::vector<std::uint32_t> colors_;
};

struct Group {
    PrefixCode green, red, blue, alpha, distance;
    /// Red, blue and alpha take no bits: only green is to be read.
    bool is_green_alone = false;
    std::uint32_t rest = 0;  ///< the others, then
};

/// All that tells the pixels of one image from its bits.
struct Codes {
    std::vector<PrefixEntry> table;
    std::vector<Group> groups;
    unsigned block_bits = 0;                ///< of the blocks that choose their group; 0: one group
    std::vector<std::uint32_t> group_of{};  ///< by block
};

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
    std::uint32_t read_number(std::uint32_t code);

    BitReader bits_;
    std::vector<Transform> transforms_ = {};
};

/// A number by its prefix and the bits after it.
std::uint32_t Decoder::read_number(std::uint32_t code) {
    if (code < 4)
        return code + 1;
    const unsigned extra = (code - 2) >> 1U;
    return ((2 + (code & 1U)) << extra) + bits_.take(extra) + 1;
}

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

Status Decoder::read_pixels(const Codes& codes, ColorCache cache, std::uint32_t width,
                            std::span<std::uint32_t> pixels, ProgressCounter* progress) {
    const PrefixEntry* table = codes.table.data();
    const std::uint32_t blocks_across = blocks_over(width, codes.block_bits);
    const std::uint32_t block_mask =
        codes.group_of.empty() ? ~std::uint32_t{0} : (1U << codes.block_bits) - 1;
    const Group* group = codes.groups.data();
    std::uint32_t x = 0, y = 0;
    std::size_t at = 0, cached = 0;
    const auto choose_group = [&] {
        if (!codes.group_of.empty())
            group =
                &codes.groups[codes.group_of[std::size_t{y >> codes.block_bits} * blocks_across +
                                             (x >> codes.block_bits)]];
    };
    const auto fill_cache = [&] {
        for (; cached < at; ++cached)
            cache.insert(pixels[cached]);
    };
    const auto end_row = [&]() -> Status {
        x = 0;
        ++y;
        if (bits_.is_beyond_end())
            return damaged("the file ends within its pixels");
        if (progress == nullptr)
            return {};
        progress->add(1);
        return progress->status();
    };
    while (at < pixels.size()) {
        if ((x & block_mask) == 0)
            choose_group();
        bits_.refill();
        const std::uint32_t green = group->green.read(table, bits_);
        if (green < literal_symbols) {
            if (group->is_green_alone) {
                pixels[at++] = group->rest | green << 8U;
            } else {
                const std::uint32_t red = group->red.read(table, bits_);
                bits_.refill();
                const std::uint32_t blue = group->blue.read(table, bits_);
                const std::uint32_t alpha = group->alpha.read(table, bits_);
                pixels[at++] = alpha << 24U | red << 16U | green << 8U | blue;
            }
        } else if (green < literal_symbols + length_symbols) {
            const std::uint32_t length = read_number(green - literal_symbols);
            bits_.refill();
            const std::uint32_t code = group->distance.read(table, bits_);
            bits_.refill();
            const std::uint32_t coded = read_number(code);
            std::int64_t distance = coded;
            if (coded > nearby_pixels.size()) {
                distance -= nearby_pixels.size();
            } else {
                const Nearby& place = nearby_pixels[coded - 1];
                distance = std::max<std::int64_t>(place.left + std::int64_t{place.up} * width, 1);
            }
            if (static_cast<std::uint64_t>(distance) > at || length > pixels.size() - at)
                return damaged("a repeat reaches beyond the picture");
            for (std::uint32_t i = 0; i < length; ++i, ++at)
                pixels[at] = pixels[at - static_cast<std::size_t>(distance)];
            x += length;
            while (x >= width) {
                const std::uint32_t over = x - width;
                YL_CHECK(end_row());
                x = over;
            }
            if (at < pixels.size() && (x & block_mask) != 0)
                choose_group();
            continue;
        } else {
            fill_cache();
            pixels[at++] = cache[green - literal_symbols - length_symbols];
        }
        if (++x == width)
            YL_CHECK(end_row());
    }
    return bits_.is_beyond_end() ? Status(damaged("the file ends within its pixels")) : Status();
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
