#include "codec/tiff/samples.hpp"

#include <algorithm>
#include <bit>
#include <cmath>

namespace yl::tiff {
namespace {

std::size_t target_bytes(Target target) {
    return target == Target::byte ? 1 : target == Target::single ? 4 : 2;
}

/// Floating point of 24 bits: sign, 7 bits of exponent with a bias of 63, 16 of mantissa (Adobe
/// Photoshop TIFF Technical Note 3).
float from_24_bits(std::uint32_t value) {
    const std::uint32_t exponent = value >> 16U & 0x7FU, mantissa = value & 0xFFFFU;
    const float sign = (value >> 23U) != 0 ? -1.0F : 1.0F;
    if (exponent == 0)
        return sign * std::ldexp(static_cast<float>(mantissa), -62 - 16);
    if (exponent == 0x7F)
        return mantissa == 0 ? sign * std::numeric_limits<float>::infinity()
                             : std::numeric_limits<float>::quiet_NaN();
    return sign * std::ldexp(static_cast<float>(mantissa + 0x10000U),
                             static_cast<int>(exponent) - 63 - 16);
}

float from_float(std::uint64_t value, std::uint32_t bits) {
    if (bits == 24)
        return from_24_bits(static_cast<std::uint32_t>(value));
    return bits == 32 ? std::bit_cast<float>(static_cast<std::uint32_t>(value))
                      : static_cast<float>(std::bit_cast<double>(value));
}

float from_signed(std::uint64_t value, std::uint32_t bits) {
    const std::uint64_t sign = std::uint64_t{1} << (bits - 1);
    const auto number = static_cast<double>(static_cast<std::int64_t>((value ^ sign) - sign));
    return static_cast<float>(std::max(number / static_cast<double>(sign - 1), -1.0));
}

/// A whole number of `bits` in all of 8 or 16 bits.
std::uint32_t widened(std::uint64_t value, std::uint32_t bits, std::uint32_t last) {
    const std::uint64_t most = (std::uint64_t{1} << bits) - 1;
    return static_cast<std::uint32_t>((value * last + most / 2) / most);
}

std::byte code_of(double value) {
    return static_cast<std::byte>(std::clamp(std::lround(value), 0L, 255L));
}

}  // namespace

SampleReader::Place SampleReader::place_of(std::size_t tile) const {
    const std::size_t in_plane = tile % page_.tile_count();
    Place place;
    place.x = static_cast<std::uint32_t>(in_plane % page_.tiles_across()) * page_.tile_width;
    const auto y = static_cast<std::uint32_t>(in_plane / page_.tiles_across()) * page_.tile_height;
    place.y = y - first_row_;
    place.columns = std::min(page_.tile_width, page_.width - place.x);
    place.rows = std::min(page_.tile_height, page_.height - y);
    return place;
}

std::uint64_t SampleReader::sample(std::span<const std::byte> row, std::size_t index) const {
    const std::uint32_t bits = page_.bits;
    std::uint64_t value = 0;
    if (bits % 8 == 0) {
        const std::size_t bytes = bits / 8;
        for (std::size_t i = 0; i < bytes; ++i)
            value = value << 8U | std::to_integer<std::uint64_t>(
                                      row[index * bytes + (is_big_endian_ ? i : bytes - 1 - i)]);
        return value;
    }
    for (std::uint64_t bit = std::uint64_t{index} * bits; bit < (std::uint64_t{index} + 1) * bits;
         ++bit)
        value =
            value << 1U | (std::to_integer<std::uint64_t>(row[static_cast<std::size_t>(bit / 8)]) >>
                               (7 - bit % 8) &
                           1U);
    return value;
}

void SampleReader::store_sample(std::uint64_t value, std::byte* target) const {
    const bool inverts = page_.photometric == Photometric::white_is_zero;
    switch (page_.target()) {
        case Target::byte: {
            const std::uint32_t code = widened(value, page_.bits, 255);
            *target = std::byte(inverts ? 255 - code : code);
            return;
        }
        case Target::word: {
            const std::uint32_t code = widened(value, page_.bits, 65535);
            store(target, static_cast<std::uint16_t>(inverts ? 65535 - code : code));
            return;
        }
        case Target::half:
            store(target, static_cast<std::uint16_t>(value));
            return;
        case Target::single: {
            const float number = page_.format == SampleFormat::floating
                                     ? from_float(value, page_.bits)
                                     : from_signed(value, page_.bits);
            store(target, std::bit_cast<std::uint32_t>(inverts ? 1 - number : number));
        }
    }
}

bool SampleReader::is_copy() const {
    const std::size_t bytes = target_bytes(page_.target());
    return !page_.is_planar && page_.kept.size() == page_.channels &&
           page_.photometric != Photometric::white_is_zero && palette_.empty() &&
           page_.photometric != Photometric::ycbcr && page_.format != SampleFormat::with_sign &&
           page_.bits == 8 * bytes && (bytes == 1 || !is_big_endian_);
}

void SampleReader::undo_predictor(std::span<std::byte> row) const {
    if (page_.predictor == 2)
        add_differences(row, page_.tile_channels(), page_.bits / 8, is_big_endian_);
    else if (page_.predictor == 3)
        join_float_planes(row, page_.tile_channels(), page_.bits / 8, is_big_endian_);
}

std::span<std::byte> SampleReader::texels_of(std::size_t tile) const {
    const Place place = place_of(tile);
    const auto row_bytes = static_cast<std::size_t>(page_.row_bytes());
    const bool is_strip = page_.tile_width == page_.width && page_.rows_of(tile) == place.rows;
    if (!is_copy() || !is_strip || image_.row_stride != row_bytes)
        return {};
    return {image_.row(place.y).data(), row_bytes * place.rows};
}

void SampleReader::read_in_place(std::span<std::byte> texels) const {
    const auto row_bytes = static_cast<std::size_t>(page_.row_bytes());
    for (std::size_t at = 0; at < texels.size(); at += row_bytes)
        undo_predictor(texels.subspan(at, row_bytes));
}

void SampleReader::read_row(std::span<const std::byte> row, std::byte* target,
                            std::uint32_t columns, std::size_t plane) const {
    const std::size_t bytes = target_bytes(page_.target());
    const std::size_t channels = page_.kept.size();
    if (!palette_.empty()) {
        const std::size_t code_bytes = info(image_.format).channels[0].bits / 8U;
        for (std::uint32_t x = 0; x < columns; ++x) {
            const std::size_t index =
                static_cast<std::size_t>(sample(row, std::size_t{x} * page_.tile_channels()));
            for (std::size_t c = 0; c < 3; ++c) {
                const std::uint16_t code =
                    3 * index + c < palette_.size() ? palette_[3 * index + c] : std::uint16_t{0};
                std::byte* const to = target + (3 * x + c) * code_bytes;
                if (code_bytes == 1)
                    *to = static_cast<std::byte>(code);
                else
                    store(to, code);
            }
        }
        return;
    }
    if (is_copy()) {
        std::copy_n(row.begin(), columns * channels * bytes, target);
        return;
    }
    for (std::uint32_t x = 0; x < columns; ++x)
        for (std::size_t c = 0; c < channels; ++c) {
            if (page_.is_planar && page_.kept[c] != plane)
                continue;
            const std::size_t index =
                page_.is_planar ? x : std::size_t{x} * page_.channels + page_.kept[c];
            store_sample(sample(row, index), target + (x * channels + c) * bytes);
        }
}

/// Units of `across` x `down` brightnesses, followed by one blue and one red difference (section
/// 21); the ranges are full.
void SampleReader::read_ycbcr(const Place& place, std::span<const std::byte> bytes) const {
    const auto [across, down] = page_.subsampling;
    const std::size_t unit = std::size_t{across} * down + 2;
    const std::size_t units_across = (page_.tile_width + across - 1) / across;
    const auto [red, green, blue] = luma_;
    for (std::uint32_t y = 0; y < place.rows; ++y)
        for (std::uint32_t x = 0; x < place.columns; ++x) {
            const std::byte* const from =
                bytes.data() + (y / down * units_across + x / across) * unit;
            const auto level = [&](std::size_t i) {
                return static_cast<double>(std::to_integer<int>(from[i]));
            };
            const double brightness = level(std::size_t{y % down} * across + x % across);
            const double r = brightness + (level(unit - 1) - 128) * (2 - 2 * red);
            const double b = brightness + (level(unit - 2) - 128) * (2 - 2 * blue);
            std::byte* const to = image_.row(place.y + y).data() + std::size_t{3} * (place.x + x);
            to[0] = code_of(r);
            to[1] = code_of((brightness - blue * b - red * r) / green);
            to[2] = code_of(b);
        }
}

void SampleReader::read(std::size_t tile, std::span<std::byte> bytes) const {
    const Place place = place_of(tile);
    if (page_.photometric == Photometric::ycbcr)
        return read_ycbcr(place, bytes);
    const auto row_bytes = static_cast<std::size_t>(page_.row_bytes());
    const std::size_t pixel = info(image_.format).block_bytes;
    for (std::uint32_t y = 0; y < place.rows; ++y) {
        const auto row = bytes.subspan(y * row_bytes, row_bytes);
        undo_predictor(row);
        read_row(row, image_.row(place.y + y).data() + place.x * pixel, place.columns,
                 tile / page_.tile_count());
    }
}

void ink_to_light(ConstImageView ink, ImageView light) {
    const bool is_wide = info(ink.format).channels[0].bits == 16;
    const std::uint32_t last = is_wide ? 65535 : 255;
    const auto code_at = [&](std::span<const std::byte> row, std::size_t i) -> std::uint32_t {
        return is_wide ? load<std::uint16_t>(row.data() + 2 * i)
                       : std::to_integer<std::uint32_t>(row[i]);
    };
    for (std::uint32_t y = 0; y < ink.height; ++y) {
        const auto from = ink.row(y);
        const auto to = light.row(y);
        for (std::size_t x = 0; x < ink.width; ++x)
            for (std::size_t c = 0; c < 3; ++c) {
                const std::uint64_t product = std::uint64_t{last - code_at(from, 4 * x + c)} *
                                              (last - code_at(from, 4 * x + 3));
                const auto code = static_cast<std::uint32_t>((product + last / 2) / last);
                if (is_wide)
                    store(to.data() + 2 * (3 * x + c), static_cast<std::uint16_t>(code));
                else
                    to[3 * x + c] = std::byte(code);
            }
    }
}

}  // namespace yl::tiff
