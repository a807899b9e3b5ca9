#include "codec/exr/b44.hpp"

#include <algorithm>
#include <cmath>

#include <yl/format.hpp>
#include <yl/status_macros.hpp>

namespace yl::exr {
namespace {

constexpr std::size_t side = 4, block_samples = side * side;
using Block = std::array<std::uint16_t, block_samples>;

tl::unexpected<Error> damaged() {
    return fail(ErrorKind::malformed, "a chunk's data are damaged: its blocks end early");
}

/// Codes rise with the numbers that they stand for: negative ones have all bits turned.
std::uint16_t half_of_code(std::uint16_t code) {
    return static_cast<std::uint16_t>((code & 0x8000U) != 0 ? code & 0x7FFFU : ~code & 0xFFFFU);
}

/// A block's first code, a shift, and fifteen differences to a neighbour:
///
///     code (16)  shift (6)  differences (15 x 6): the first column downwards, each to the one above;
///                           then column by column, each to the one on its left
///
/// A shift of 13 and more stands for a block of equal samples, which ends there.
class BlockReader {
 public:
    explicit BlockReader(ByteSpan packed) : packed_(packed) {}

    [[nodiscard]] Result<Block> next() {
        constexpr std::size_t flat_bytes = 3, full_bytes = 14;
        constexpr unsigned first_flat = 13;
        if (packed_.size() < flat_bytes)
            return damaged();
        bits_ = 0;
        const auto shift = std::to_integer<unsigned>(packed_[2]) >> 2U;
        const bool is_flat = shift >= first_flat;
        if (!is_flat && packed_.size() < full_bytes)
            return damaged();
        Block block{};
        block[0] = static_cast<std::uint16_t>(take(16));
        if (is_flat) {
            block.fill(block[0]);
        } else {
            bits_ += 6;
            const std::uint32_t bias = 0x20U << shift;
            const auto follow = [&](std::size_t to, std::size_t from) {
                block[to] = static_cast<std::uint16_t>(block[from] + (take(6) << shift) - bias);
            };
            for (std::size_t y = 1; y < side; ++y)
                follow(y * side, (y - 1) * side);
            for (std::size_t x = 1; x < side; ++x)
                for (std::size_t y = 0; y < side; ++y)
                    follow(y * side + x, y * side + x - 1);
        }
        packed_ = packed_.subspan(is_flat ? flat_bytes : full_bytes);
        std::ranges::transform(block, block.begin(), half_of_code);
        return block;
    }

    /// Bytes that are stored as they are.
    [[nodiscard]] Status copy(std::span<std::byte> target) {
        if (packed_.size() < target.size())
            return damaged();
        std::ranges::copy(packed_.first(target.size()), target.begin());
        packed_ = packed_.subspan(target.size());
        return {};
    }

 private:
    /// The next bits of the block, from the highest of each byte on.
    std::uint32_t take(std::size_t count) {
        std::uint32_t value = 0;
        for (std::size_t i = 0; i < count; ++i, ++bits_)
            value = value << 1U |
                    (std::to_integer<std::uint32_t>(packed_[bits_ / 8]) >> (7 - bits_ % 8) & 1U);
        return value;
    }

    ByteSpan packed_;
    std::size_t bits_ = 0;  ///< of the block that were taken
};

/// Numbers of perceptually linear channels were stored as exponents of their eighths.
std::uint16_t undo_exponent(std::uint16_t half) {
    const float x = half_to_float(half);
    return std::isfinite(x) && x >= 0 ? float_to_half(8 * std::log(x)) : std::uint16_t{0};
}

}  // namespace

Result<std::vector<std::byte>> unpack_b44(ByteSpan packed, const Header& h, const Area& area) {
    std::vector<std::byte> planes(area.bytes(h));
    std::span<std::byte> plane = planes;
    BlockReader reader(packed);
    for (const Channel& c : h.channels) {
        const std::size_t columns = area.columns(c), rows = area.rows(c);
        const auto samples = plane.first(area.bytes(c));
        plane = plane.subspan(samples.size());
        if (c.type != SampleType::half) {
            YL_CHECK(reader.copy(samples));
            continue;
        }
        for (std::size_t top = 0; top < rows; top += side)
            for (std::size_t left = 0; left < columns; left += side) {
                YL_TRY(const Block block, reader.next());
                for (std::size_t y = top; y < std::min(top + side, rows); ++y)
                    for (std::size_t x = left; x < std::min(left + side, columns); ++x) {
                        const std::uint16_t half = block[(y - top) * side + x - left];
                        store(samples.data() + 2 * (y * columns + x),
                              c.is_perceptual ? undo_exponent(half) : half);
                    }
            }
    }
    return planes;
}

}  // namespace yl::exr
