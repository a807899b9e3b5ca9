#include "codec/jpeg/huffman.hpp"

#include <yl/status_macros.hpp>

namespace yl::jpeg {

Result<HuffmanTable> HuffmanTable::read(ByteReader& reader) {
    const std::size_t offset = reader.offset();
    YL_TRY(const ByteSpan counts, reader.take(16));
    HuffmanTable table;
    std::uint32_t code = 0;
    std::size_t index = 0;
    for (std::size_t length = 1; length <= 16; ++length) {
        const auto count = std::to_integer<std::uint32_t>(counts[length - 1]);
        if (index + count > table.symbols_.size() || code + count > 1U << length)
            return fail(ErrorKind::malformed, "a Huffman table has more codes than fit", offset);
        YL_TRY(const ByteSpan symbols, reader.take(count));
        table.shift_[length] = static_cast<std::int32_t>(index) - static_cast<std::int32_t>(code);
        for (const std::byte symbol : symbols) {
            table.symbols_[index] = std::to_integer<std::uint8_t>(symbol);
            if (length <= fast_bits) {
                const std::size_t spare = fast_bits - length;
                for (std::size_t i = 0; i < std::size_t{1} << spare; ++i) {
                    Entry& entry = table.fast_[(std::size_t{code} << spare) + i];
                    entry.symbol = table.symbols_[index];
                    entry.lengths = static_cast<std::uint8_t>(length);
                }
            }
            ++index;
            ++code;
        }
        table.end_code_[length] = code << (16 - length);
        code <<= 1;
    }
    table.end_code_[17] = 0xFFFFFFFF;
    table.is_defined_ = true;
    table.find_numbers();
    return table;
}

void HuffmanTable::find_numbers() {
    for (std::size_t i = 0; i < fast_.size(); ++i) {
        Entry& entry = fast_[i];
        const int count = entry.symbol & 15;
        const int whole = entry.code_length() + count;
        if (entry.code_length() == 0 || whole > fast_bits)
            continue;
        const auto bits =
            static_cast<std::uint32_t>(i >> (fast_bits - whole)) & ((1U << count) - 1);
        entry.lengths = static_cast<std::uint8_t>(entry.lengths | whole << 4);
        entry.number = static_cast<std::int16_t>(extend(bits, count));
    }
}

BitReader BitReader::refilled_by_bytes(BitReader reader) {
    const ByteSpan data = reader.data_;
    while (reader.left_ <= 56) {
        std::uint64_t byte = 0;
        const std::size_t next = reader.next_;
        if (next < data.size() && !reader.at_marker_) {
            byte = std::to_integer<std::uint64_t>(data[next]);
            if (byte != 0xFF) {
                ++reader.next_;
            } else if (next + 1 < data.size() && data[next + 1] == std::byte{0}) {
                reader.next_ += 2;
            } else {
                reader.at_marker_ = true;
                byte = 0;
            }
        } else {
            reader.at_marker_ = true;
        }
        if (reader.at_marker_)
            reader.zeros_ += 8;
        reader.bits_ |= byte << (56 - reader.left_);
        reader.left_ += 8;
    }
    return reader;
}

BitReader::LongCode BitReader::find_long_code(const HuffmanTable& table, std::uint64_t bits) {
    const auto next16 = static_cast<std::uint32_t>(bits >> 48);
    std::size_t length = HuffmanTable::fast_bits + 1;
    while (next16 >= table.end_code_[length])
        ++length;
    if (length > 16)
        return {-1, 0};
    const auto code = static_cast<std::int32_t>(next16 >> (16 - length));
    return {table.symbols_[static_cast<std::size_t>(code + table.shift_[length]) & 0xFF],
            static_cast<int>(length)};
}

}  // namespace yl::jpeg
