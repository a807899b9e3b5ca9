// Huffman codes and the bits of a scan (ITU-T T.81, annexes C and F).
#pragma once

#include <array>

#include "base/bytes.hpp"

namespace yl::jpeg {

/// A code of up to 16 bits a symbol. Short codes are found in one look, and with them the number
/// that follows, if it is short as well.
class HuffmanTable {
 public:
    static constexpr int fast_bits = 10;

    /// Reads the counts and symbols of a segment DHT.
    [[nodiscard]] static Result<HuffmanTable> read(ByteReader& reader);

    [[nodiscard]] bool is_defined() const { return is_defined_; }

 private:
    friend class BitReader;

    //  31           16 15            8 7        4 3        0
    // +---------------+---------------+----------+----------+
    // |    number     |    symbol     |  whole   |   code   |
    // +---------------+---------------+----------+----------+
    struct Entry {
        std::uint8_t lengths = 0;
        std::uint8_t symbol = 0;
        std::int16_t number = 0;  ///< that follows the code; its length is in the symbol's low bits

        /// Bits of the code; 0: longer than `fast_bits`.
        [[nodiscard]] int code_length() const { return lengths & 15; }
        /// Bits of the code and the number; 0 when they are longer than `fast_bits` together.
        [[nodiscard]] int whole_length() const { return lengths >> 4; }
    };

    void find_numbers();

    bool is_defined_ = false;
    std::array<Entry, 1U << fast_bits> fast_{};
    std::array<std::uint32_t, 18>
        end_code_{};                        ///< of each length, one past its last code, in 16 bits
    std::array<std::int32_t, 17> shift_{};  ///< from a code of each length to its symbol's index
    std::array<std::uint8_t, 256> symbols_{};
};

/// A number of so many bits whose first bit tells its sign (F.2.2.1, "EXTEND").
[[nodiscard]] constexpr int extend(std::uint32_t bits, int count) {
    const int value = static_cast<int>(bits);
    return count > 0 && value < 1 << (count - 1) ? value - (1 << count) + 1 : value;
}

/// The bits of entropy-coded data, up to the next marker; beyond it zeros, which are counted.
class BitReader {
 public:
    BitReader() = default;
    explicit BitReader(ByteSpan data) : data_(data) {}

    /// The next symbol; -1 when the bits are no code of the table.
    int symbol(const HuffmanTable& table) {
        refill();
        const HuffmanTable::Entry entry = look(table);
        if (entry.code_length() == 0) {
            const LongCode code = find_long_code(table, bits_);
            drop(code.length);
            return code.symbol;
        }
        drop(entry.code_length());
        return entry.symbol;
    }

    /// The next symbol, and the signed number that follows it.
    struct Coefficient {
        int symbol = 0;  ///< -1 when the bits are no code of the table
        int number = 0;
    };
    Coefficient coefficient(const HuffmanTable& table) {
        refill();
        const HuffmanTable::Entry entry = look(table);
        if (entry.whole_length() != 0) [[likely]] {
            drop(entry.whole_length());
            return {entry.symbol, entry.number};
        }
        LongCode code{entry.symbol, entry.code_length()};
        if (code.length == 0)
            code = find_long_code(table, bits_);
        const int symbol = code.symbol;
        drop(code.length);
        const int count = symbol & 15;
        if (symbol <= 0 || count == 0)
            return {symbol, 0};
        const auto bits = static_cast<std::uint32_t>(bits_ >> (64 - count));
        drop(count);
        return {symbol, extend(bits, count)};
    }

    /// The next `count` bits, 0 to 16, as a number.
    std::uint32_t number(int count) {
        if (count == 0)
            return 0;
        refill();
        const auto value = static_cast<std::uint32_t>(bits_ >> (64 - count));
        drop(count);
        return value;
    }

    bool bit() {
        refill();
        const bool value = bits_ >> 63 != 0;
        drop(1);
        return value;
    }

    /// Whether bits were used that the data do not have.
    [[nodiscard]] bool overran() const { return zeros_ > left_; }

    /// Bytes of the data up to the marker that ends them; valid once all bits are used.
    [[nodiscard]] std::size_t offset() const { return next_; }

 private:
    /// A code and the number after it have at most 32 bits.
    static constexpr int most_used = 32;

    [[nodiscard]] HuffmanTable::Entry look(const HuffmanTable& table) const {
        return table.fast_[static_cast<std::size_t>(bits_ >> (64 - HuffmanTable::fast_bits))];
    }

    void refill() {
        if (left_ >= most_used) [[likely]]
            return;
        if (next_ + 8 <= data_.size()) {
            const auto word = load<std::uint64_t, std::endian::big>(data_.data() + next_);
            constexpr std::uint64_t each = 0x0101010101010101;
            const bool has_ff = ((~word - each) & word & (each << 7)) != 0;
            if (!has_ff) {
                // Bits of a byte that does not fit whole stay there, to be met again.
                bits_ |= word >> left_;
                const int bytes = (63 - left_) / 8;
                next_ += static_cast<std::size_t>(bytes);
                left_ += 8 * bytes;
                return;
            }
        }
        *this = refilled_by_bytes(*this);
    }

    // The rare cases work on copies, so that the reader itself can stay in registers.
    [[nodiscard]] static BitReader refilled_by_bytes(BitReader reader);

    struct LongCode {
        int symbol = 0;  ///< -1 when the bits are no code of the table
        int length = 0;
    };
    [[nodiscard]] static LongCode find_long_code(const HuffmanTable& table, std::uint64_t bits);

    void drop(int count) {
        bits_ <<= count;
        left_ -= count;
    }

    ByteSpan data_;
    std::size_t next_ = 0;
    std::uint64_t bits_ = 0;  ///< the next bits, from the top
    int left_ = 0;            ///< how many of them are there
    int zeros_ = 0;           ///< how many of those follow the data's end
    bool at_marker_ = false;
};

}  // namespace yl::jpeg
