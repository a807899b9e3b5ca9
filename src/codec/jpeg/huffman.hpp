// Huffman codes and the bits of a scan (ITU-T T.81, annexes C and F).
#pragma once

#include <array>

#include "base/bytes.hpp"

namespace yl::jpeg {

/// A code of up to 16 bits a symbol. Short codes are found in one look.
class HuffmanTable {
 public:
    static constexpr int fast_bits = 9;

    /// Reads the counts and symbols of a segment DHT.
    [[nodiscard]] static Result<HuffmanTable> read(ByteReader& reader);

    [[nodiscard]] bool is_defined() const { return is_defined_; }

 private:
    friend class BitReader;

    struct Entry {
        std::uint8_t symbol = 0;
        std::uint8_t length = 0;  ///< 0: longer than `fast_bits`
    };

    bool is_defined_ = false;
    std::array<Entry, 1U << fast_bits> fast_{};
    std::array<std::uint32_t, 18>
        end_code_{};                        ///< of each length, one past its last code, in 16 bits
    std::array<std::int32_t, 17> shift_{};  ///< from a code of each length to its symbol's index
    std::array<std::uint8_t, 256> symbols_{};
};

/// The bits of entropy-coded data, up to the next marker; beyond it zeros, which are counted.
class BitReader {
 public:
    BitReader() = default;
    explicit BitReader(ByteSpan data) : data_(data) {}

    /// The next symbol; -1 when the bits are no code of the table.
    int symbol(const HuffmanTable& table) {
        refill();
        const HuffmanTable::Entry entry =
            table.fast_[static_cast<std::size_t>(bits_ >> (64 - HuffmanTable::fast_bits))];
        if (entry.length == 0)
            return long_symbol(table);
        drop(entry.length);
        return entry.symbol;
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

    /// A number of that many bits whose first bit tells its sign (F.2.2.1, "EXTEND").
    int signed_number(int count) {
        if (count == 0)
            return 0;
        const int value = static_cast<int>(number(count));
        return value < 1 << (count - 1) ? value - (1 << count) + 1 : value;
    }

    /// Whether bits were used that the data do not have.
    [[nodiscard]] bool overran() const { return zeros_ > left_; }

    /// Bytes of the data up to the marker that ends them; valid once all bits are used.
    [[nodiscard]] std::size_t offset() const { return next_; }

 private:
    void refill() {
        while (left_ <= 56) {
            std::uint64_t byte = 0;
            if (next_ < data_.size() && !at_marker_) {
                byte = std::to_integer<std::uint64_t>(data_[next_]);
                if (byte != 0xFF) {
                    ++next_;
                } else if (next_ + 1 < data_.size() && data_[next_ + 1] == std::byte{0}) {
                    next_ += 2;
                } else {
                    at_marker_ = true;
                    byte = 0;
                }
            } else {
                at_marker_ = true;
            }
            if (at_marker_)
                zeros_ += 8;
            bits_ |= byte << (56 - left_);
            left_ += 8;
        }
    }
    void drop(int count) {
        bits_ <<= count;
        left_ -= count;
    }
    int long_symbol(const HuffmanTable& table);

    ByteSpan data_;
    std::size_t next_ = 0;
    std::uint64_t bits_ = 0;  ///< the next bits, from the top
    int left_ = 0;            ///< how many of them are there
    int zeros_ = 0;           ///< how many of those follow the data's end
    bool at_marker_ = false;
};

}  // namespace yl::jpeg
