#include "codec/exr/piz.hpp"

#include <algorithm>
#include <bit>

#include <yl/status_macros.hpp>

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
    explicit Bits(ByteSpan data, std::size_t next = 0) : data_(data), next_(next) {}

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
    Bits& skip(std::size_t count) {
        next_ += count;
        return *this;
    }

    std::uint32_t take(std::size_t count) {
        const auto value = static_cast<std::uint32_t>(peek(count));
        skip(count);
        return value;
    }

    [[nodiscard]] std::size_t position() const { return next_; }
    [[nodiscard]] std::size_t bytes_used() const { return (next_ + 7) / 8; }

 private:
    ByteSpan data_;
    std::size_t next_ = 0;
};

/// The same bits in a register, for the loop that nearly all time goes into. Fills up to 56 bits
/// and more at once; beyond the end they are 0, and `position` tells.
class Window {
 public:
    Window(ByteSpan data, std::size_t position) : data_(data), next_(position / 8) {
        fill();
        drop(static_cast<unsigned>(position % 8));
    }

    void fill() {
        if (next_ + 8 <= data_.size()) {
            bits_ |= load<std::uint64_t, std::endian::big>(data_.data() + next_) >> valid_;
            next_ += (63 - valid_) / 8;
            valid_ |= 56;
            return;
        }
        for (; valid_ <= 56; valid_ += 8, ++next_)
            if (next_ < data_.size())
                bits_ |= std::to_integer<std::uint64_t>(data_[next_]) << (56 - valid_);
    }

    [[nodiscard]] std::size_t first(unsigned count) const {
        return static_cast<std::size_t>(bits_ >> (64 - count));
    }
    void drop(unsigned count) {
        bits_ <<= count;
        valid_ -= count;
    }

    [[nodiscard]] std::size_t position() const { return next_ * 8 - valid_; }

 private:
    ByteSpan data_;
    std::size_t next_;
    std::uint64_t bits_ = 0;  ///< the next ones at the top
    unsigned valid_ = 0;
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

    static constexpr unsigned short_bits = 12;

    /// Symbols whose codes are short and that are not the last one, for as long as they come and
    /// there is room for them. Gives the end of what it wrote.
    std::uint16_t* take_short(Window& window, std::uint16_t* values,
                              const std::uint16_t* end) const {
        constexpr std::ptrdiff_t at_once = 56 / short_bits;
        while (end - values >= at_once) {
            window.fill();
            for (std::ptrdiff_t i = 0; i < at_once; ++i) {
                const std::uint32_t found = short_codes_[window.first(short_bits)];
                if (found == 0)
                    return values;
                window.drop(found & 0xFF);
                *values++ = static_cast<std::uint16_t>(found >> 8);
            }
        }
        return values;
    }

    /// The next symbol, however long its code is, or -1.
    [[nodiscard]] int next(Bits& bits) const {
        constexpr std::size_t peeked = 57;
        const std::uint64_t start = bits.peek(peeked);
        for (std::size_t length = 1; length <= longest_code && bits.has(length); ++length) {
            std::uint64_t code = start >> (peeked - std::min(length, peeked));
            if (length > peeked)
                code = code << 1 | Bits(bits).skip(peeked).take(1);
            if (code < first_code_[length] || code - first_code_[length] >= counts_[length])
                continue;
            bits.skip(length);
            return static_cast<int>(symbols_[first_symbol_[length] +
                                             static_cast<std::size_t>(code - first_code_[length])]);
        }
        return -1;
    }

 private:
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
        fill_short_codes(static_cast<std::uint32_t>(last));
    }

    void fill_short_codes(std::uint32_t run_symbol) {
        short_codes_.resize(std::size_t{1} << short_bits);
        for (std::uint32_t length = 1; length <= short_bits; ++length)
            for (std::uint64_t i = 0; i < counts_[length]; ++i) {
                // Damaged tables have more codes than there is room for.
                const std::uint64_t begin = (first_code_[length] + i) << (short_bits - length);
                const std::uint64_t end = begin + (std::uint64_t{1} << (short_bits - length));
                const std::uint32_t symbol =
                    symbols_[first_symbol_[length] + static_cast<std::size_t>(i)];
                for (std::uint64_t at = begin;
                     at < std::min<std::uint64_t>(end, short_codes_.size()); ++at)
                    if (short_codes_[at] == 0 && symbol != run_symbol)
                        short_codes_[at] = symbol << 8 | length;
            }
    }

    std::array<std::uint64_t, longest_code + 1> counts_{};
    std::array<std::uint64_t, longest_code + 1> first_code_{};
    std::array<std::size_t, longest_code + 1> first_symbol_{};
    std::vector<std::uint32_t> symbols_;  ///< by length, then by number
    /// By the first bits: symbol << 8 | length, or 0 where the code is longer, stands for a run, or
    /// is none.
    std::vector<std::uint32_t> short_codes_;
};

/// Values one by one; `run_symbol` repeats the value before as often as the next eight bits say.
Result<void> decode_codes(ByteSpan coded, const PizCodes& codes, std::uint32_t run_symbol,
                          std::span<std::uint16_t> values) {
    Window window(coded, 0);
    std::uint16_t* const end = values.data() + values.size();
    for (std::uint16_t* at = values.data();;) {
        at = codes.take_short(window, at, end);
        Bits bits(coded, window.position());
        if (!bits.has(0))
            return damaged("its codes end early");
        if (at == end)
            return {};
        const int symbol = codes.next(bits);
        if (symbol < 0)
            return damaged("a code is unknown");
        if (static_cast<std::uint32_t>(symbol) != run_symbol) {
            *at++ = static_cast<std::uint16_t>(symbol);
        } else {
            if (!bits.has(8) || at == values.data())
                return damaged("a run has no length or no value");
            const std::ptrdiff_t run = bits.take(8);
            if (run > end - at)
                return damaged("a run is too long");
            at = std::fill_n(at, run, at[-1]);
        }
        window = Window(coded, bits.position());
    }
}

struct Pair {
    std::uint16_t a, b;
};

/// Values under 2^14: the mean and the difference, as signed numbers.
constexpr auto undo_haar_14 = [](std::uint16_t low, std::uint16_t high) -> Pair {
    const int difference = static_cast<std::int16_t>(high);
    const int a = static_cast<std::int16_t>(low) + (difference & 1) + (difference >> 1);
    return {static_cast<std::uint16_t>(a), static_cast<std::uint16_t>(a - difference)};
};

/// All 16 bits: the same modulo 2^16.
constexpr auto undo_haar_16 = [](std::uint16_t low, std::uint16_t high) -> Pair {
    const int b = (low - (high >> 1)) & 0xFFFF;
    const int a = (high + b - 0x8000) & 0xFFFF;
    return {static_cast<std::uint16_t>(a), static_cast<std::uint16_t>(b)};
};

/// Words of one channel, `step` apart in a row and `pitch` from row to row.
struct Grid {
    std::uint16_t* words;
    std::size_t columns, rows, step, pitch;
};

/// One level: `half` is how far apart the values of a pair are.
template <class Undo>
void undo_level(const Grid& grid, std::size_t half, Undo undo) {
    const std::size_t across = half * grid.step, wide = 2 * half;
    const std::size_t end = grid.columns / wide * wide * grid.step;
    const auto undo_pair = [&](std::uint16_t& low, std::uint16_t& high) {
        const Pair pair = undo(low, high);
        low = pair.a;
        high = pair.b;
    };
    std::size_t y = 0;
    for (; y + wide <= grid.rows; y += wide) {
        std::uint16_t* const top = grid.words + y * grid.pitch;
        std::uint16_t* const bottom = top + half * grid.pitch;
        for (std::size_t x = 0; x < end; x += 2 * across) {
            const Pair left = undo(top[x], bottom[x]);
            const Pair right = undo(top[x + across], bottom[x + across]);
            const Pair above = undo(left.a, right.a), below = undo(left.b, right.b);
            top[x] = above.a;
            top[x + across] = above.b;
            bottom[x] = below.a;
            bottom[x + across] = below.b;
        }
        if ((grid.columns & half) != 0)
            undo_pair(top[end], bottom[end]);
    }
    if ((grid.rows & half) != 0)
        for (std::size_t x = 0; x < end; x += 2 * across)
            undo_pair(grid.words[y * grid.pitch + x], grid.words[y * grid.pitch + x + across]);
}

template <class Undo>
void undo_wavelet(const Grid& grid, Undo undo) {
    for (std::size_t wide = std::bit_floor(std::min(grid.columns, grid.rows)); wide > 1; wide /= 2)
        undo_level(grid, wide / 2, undo);
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

Result<std::vector<std::uint16_t>> unpack_huffman(ByteSpan packed, std::size_t size) {
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
    std::vector<std::uint16_t> values(size);
    YL_CHECK(decode_codes(coded, codes, last, values));
    return values;
}

Result<std::vector<std::uint16_t>> unpack_piz(ByteSpan packed,
                                              const std::vector<PizChannel>& channels) {
    ByteReader reader(packed);
    YL_TRY(const auto values, read_values(reader));
    YL_TRY(const auto length, reader.read<std::uint32_t>());
    YL_TRY(const ByteSpan coded, reader.take(length));
    std::size_t size = 0;
    for (const PizChannel& channel : channels)
        size += channel.size();
    YL_TRY(auto words, unpack_huffman(coded, size));
    std::uint16_t* start = words.data();
    for (const PizChannel& channel : channels) {
        if (channel.size() == 0)  // rows that a subsampled channel has not got
            continue;
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
