#include "codec/exr/piz.hpp"

#include <algorithm>

#include "base/attempt.hpp"

namespace yl::exr {
namespace {

constexpr std::size_t value_count = 65536;
constexpr std::size_t symbol_count = value_count + 1;  // and one for runs
constexpr int longest_code = 58;

tl::unexpected<Error> damaged(const char* what) {
    return fail(ErrorKind::malformed, std::string("a PIZ chunk is damaged: ") + what);
}

/// Bits from the highest of each byte on; beyond the end they are 0, and `has` says so.
class Bits {
 public:
    explicit Bits(ByteSpan data) : data_(data) {}

    [[nodiscard]] bool has(std::size_t count) const { return next_ + count <= data_.size() * 8; }

    /// The next bits, up to 57 of them, without taking them.
    [[nodiscard]] std::uint64_t peek(std::size_t count) const {
        const std::size_t first = next_ / 8;
        std::uint64_t word = 0;
        if (first + 8 <= data_.size()) {
            word = load<std::uint64_t, std::endian::big>(data_.data() + first);
        } else {
            for (std::size_t i = 0; i < 8; ++i)
                word = word << 8 |
                       (first + i < data_.size() ? std::to_integer<std::uint64_t>(data_[first + i])
                                                 : 0);
        }
        return word << next_ % 8 >> (64 - count);
    }
    void skip(std::size_t count) { next_ += count; }

    std::uint32_t take(std::size_t count) {
        const auto value = static_cast<std::uint32_t>(peek(count));
        skip(count);
        return value;
    }

    [[nodiscard]] std::size_t bytes_used() const { return (next_ + 7) / 8; }

 private:
    ByteSpan data_;
    std::size_t next_ = 0;
};

/// Canonical codes of up to 58 bits: among codes of one length the symbols rise; longer codes begin
/// with smaller numbers. Short ones, nearly all, are looked up by their first bits.
class PizCodes {
 public:
    /// Reads the lengths of the symbols first .. last, six bits each; 59 to 62 stand for two to
    /// five zeros, and 63 for six and as many more as the next eight bits say.
    static Result<PizCodes> read(Bits& bits, std::size_t first, std::size_t last) {
        std::vector<std::uint8_t> lengths(symbol_count);
        for (std::size_t symbol = first; symbol <= last; ++symbol) {
            if (!bits.has(6))
                return damaged("its code lengths end early");
            const std::uint32_t length = bits.take(6);
            if (length <= longest_code) {
                lengths[symbol] = static_cast<std::uint8_t>(length);
                continue;
            }
            if (length == 63 && !bits.has(8))
                return damaged("its code lengths end early");
            const std::size_t zeros =
                length == 63 ? bits.take(8) + std::size_t{6} : length - std::size_t{57};
            if (symbol + zeros > last + 1)
                return damaged("its code lengths lead beyond the last symbol");
            symbol += zeros - 1;
        }
        return PizCodes(lengths, first, last);
    }

    /// The next symbol, or -1.
    [[nodiscard]] int next(Bits& bits) const {
        const Short found = short_codes_[bits.peek(short_bits)];
        if (found.length != 0) {
            if (!bits.has(found.length))
                return -1;
            bits.skip(found.length);
            return static_cast<int>(found.symbol);
        }
        return next_long(bits);
    }

 private:
    static constexpr std::size_t short_bits = 13;

    struct Short {
        std::uint32_t symbol = 0;
        std::uint32_t length = 0;  ///< 0: the code is longer, or there is none
    };

    PizCodes(const std::vector<std::uint8_t>& lengths, std::size_t first, std::size_t last) {
        for (std::size_t symbol = first; symbol <= last; ++symbol)
            ++counts_[lengths[symbol]];
        counts_[0] = 0;
        std::uint64_t code = 0;
        for (std::size_t length = longest_code; length > 0; --length) {
            first_code_[length] = code;
            code = (code + counts_[length]) >> 1;
        }
        std::size_t total = 0;
        for (std::size_t length = 1; length <= longest_code; ++length) {
            first_symbol_[length] = total;
            total += static_cast<std::size_t>(counts_[length]);
        }
        symbols_.resize(total);
        auto place = first_symbol_;
        for (std::size_t symbol = first; symbol <= last; ++symbol)
            if (lengths[symbol] != 0)
                symbols_[place[lengths[symbol]]++] = static_cast<std::uint32_t>(symbol);
        fill_short_codes();
    }

    void fill_short_codes() {
        short_codes_.resize(std::size_t{1} << short_bits);
        for (std::size_t length = 1; length <= short_bits; ++length)
            for (std::uint64_t i = 0; i < counts_[length]; ++i) {
                // Damaged tables have more codes than there is room for.
                const std::uint64_t begin = (first_code_[length] + i) << (short_bits - length);
                const std::uint64_t end = begin + (std::uint64_t{1} << (short_bits - length));
                const std::uint32_t symbol =
                    symbols_[first_symbol_[length] + static_cast<std::size_t>(i)];
                for (std::uint64_t at = begin;
                     at < std::min<std::uint64_t>(end, short_codes_.size()); ++at)
                    if (short_codes_[at].length == 0)
                        short_codes_[at] = {symbol, static_cast<std::uint32_t>(length)};
            }
    }

    int next_long(Bits& bits) const {
        std::uint64_t code = bits.peek(short_bits);
        Bits rest = bits;
        rest.skip(short_bits);
        for (std::size_t length = short_bits + 1; length <= longest_code && bits.has(length);
             ++length) {
            code = code << 1 | rest.take(1);
            if (code >= first_code_[length] && code - first_code_[length] < counts_[length]) {
                bits.skip(length);
                return static_cast<int>(
                    symbols_[first_symbol_[length] +
                             static_cast<std::size_t>(code - first_code_[length])]);
            }
        }
        return -1;
    }

    std::array<std::uint64_t, longest_code + 1> counts_{};
    std::array<std::uint64_t, longest_code + 1> first_code_{};
    std::array<std::size_t, longest_code + 1> first_symbol_{};
    std::vector<std::uint32_t> symbols_;  ///< by length, then by number
    std::vector<Short> short_codes_;      ///< by their first bits
};

Result<std::vector<std::uint16_t>> decode_symbols(ByteSpan packed, std::size_t size) {
    ByteReader reader(packed);
    YL_TRY(const auto first, reader.read<std::uint32_t>());
    YL_TRY(const auto last, reader.read<std::uint32_t>());
    YL_CHECK(reader.skip(4));
    YL_TRY(const auto bit_count, reader.read<std::uint32_t>());
    YL_CHECK(reader.skip(4));
    if (first > last || last >= symbol_count)
        return damaged("its symbols are out of range");
    YL_TRY(const ByteSpan rest, reader.take(reader.left()));
    Bits table_bits(rest);
    YL_TRY(const PizCodes codes, PizCodes::read(table_bits, first, last));
    const ByteSpan coded = rest.subspan(table_bits.bytes_used());
    if (bit_count > coded.size() * 8)
        return damaged("its codes end early");
    Bits bits(coded);
    std::vector<std::uint16_t> values(size);
    for (std::size_t at = 0; at < size;) {
        const int symbol = codes.next(bits);
        if (symbol < 0)
            return damaged("a code is unknown");
        if (static_cast<std::uint32_t>(symbol) != last) {  // the last symbol stands for runs
            values[at++] = static_cast<std::uint16_t>(symbol);
            continue;
        }
        if (!bits.has(8) || at == 0)
            return damaged("a run has no length or no value");
        const std::size_t run = bits.take(8);
        if (run > size - at)
            return damaged("a run is too long");
        std::fill_n(values.begin() + static_cast<std::ptrdiff_t>(at), run, values[at - 1]);
        at += run;
    }
    return values;
}

struct Pair {
    std::uint16_t a, b;
};

/// Values under 2^14: the mean and the difference, as signed numbers.
Pair undo_haar_14(std::uint16_t low, std::uint16_t high) {
    const int difference = static_cast<std::int16_t>(high);
    const int a = static_cast<std::int16_t>(low) + (difference & 1) + (difference >> 1);
    return {static_cast<std::uint16_t>(a), static_cast<std::uint16_t>(a - difference)};
}

/// All 16 bits: the same modulo 2^16.
Pair undo_haar_16(std::uint16_t low, std::uint16_t high) {
    const int b = (low - (high >> 1)) & 0xFFFF;
    const int a = (high + b - 0x8000) & 0xFFFF;
    return {static_cast<std::uint16_t>(a), static_cast<std::uint16_t>(b)};
}

/// Words of one channel, `step` apart in a row and `pitch` from row to row.
struct Grid {
    std::uint16_t* words;
    std::size_t columns, rows, step, pitch;

    [[nodiscard]] std::uint16_t& at(std::size_t x, std::size_t y) const {
        return words[y * pitch + x * step];
    }
};

template <class Undo>
void undo_wavelet(const Grid& grid, Undo undo) {
    const auto undo_pair = [&](std::uint16_t& low, std::uint16_t& high) {
        const Pair pair = undo(low, high);
        low = pair.a;
        high = pair.b;
    };
    std::size_t wide = 1;
    while (wide <= std::min(grid.columns, grid.rows))
        wide *= 2;
    for (wide /= 2; wide > 1; wide /= 2) {
        const std::size_t half = wide / 2;
        std::size_t y = 0;
        for (; y + wide <= grid.rows; y += wide) {
            std::size_t x = 0;
            for (; x + wide <= grid.columns; x += wide) {
                undo_pair(grid.at(x, y), grid.at(x, y + half));
                undo_pair(grid.at(x + half, y), grid.at(x + half, y + half));
                undo_pair(grid.at(x, y), grid.at(x + half, y));
                undo_pair(grid.at(x, y + half), grid.at(x + half, y + half));
            }
            if ((grid.columns & half) != 0)
                undo_pair(grid.at(x, y), grid.at(x, y + half));
        }
        if ((grid.rows & half) != 0)
            for (std::size_t x = 0; x + wide <= grid.columns; x += wide)
                undo_pair(grid.at(x, y), grid.at(x + half, y));
    }
}

/// The values in use, as a bit map of bytes first .. last; 0 is always in use.
Result<std::vector<std::uint16_t>> read_values(ByteReader& reader) {
    YL_TRY(const auto first, reader.read<std::uint16_t>());
    YL_TRY(const auto last, reader.read<std::uint16_t>());
    std::vector<std::uint16_t> values = {0};
    if (first > last)
        return values;
    if (last >= value_count / 8)
        return damaged("its table of values is too long");
    YL_TRY(const ByteSpan map, reader.take(last - first + std::uint64_t{1}));
    for (std::size_t i = 0; i < map.size() * 8; ++i) {
        const std::size_t value = std::size_t{first} * 8 + i;
        if (value != 0 && (std::to_integer<unsigned>(map[i / 8]) >> i % 8 & 1) != 0)
            values.push_back(static_cast<std::uint16_t>(value));
    }
    return values;
}

}  // namespace

Result<std::vector<std::uint16_t>> unpack_piz(ByteSpan packed,
                                              const std::vector<PizChannel>& channels) {
    ByteReader reader(packed);
    YL_TRY(const auto values, read_values(reader));
    YL_TRY(const auto length, reader.read<std::uint32_t>());
    YL_TRY(const ByteSpan coded, reader.take(length));
    std::size_t size = 0;
    for (const PizChannel& channel : channels)
        size += channel.size();
    YL_TRY(auto words, decode_symbols(coded, size));
    std::uint16_t* start = words.data();
    for (const PizChannel& channel : channels) {
        for (std::size_t word = 0; word < channel.words; ++word) {
            const Grid grid{start + word, channel.columns, channel.rows, channel.words,
                            channel.columns * channel.words};
            if (values.size() - 1 < 1U << 14)
                undo_wavelet(grid, undo_haar_14);
            else
                undo_wavelet(grid, undo_haar_16);
        }
        start += channel.size();
    }
    for (std::uint16_t& word : words)
        word = word < values.size() ? values[word] : std::uint16_t{0};
    return words;
}

}  // namespace yl::exr
