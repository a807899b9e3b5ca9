#include "codec/jpeg/huffman.hpp"

#include "base/attempt.hpp"

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
                for (std::size_t i = 0; i < std::size_t{1} << spare; ++i)
                    table.fast_[(std::size_t{code} << spare) + i] = {
                        table.symbols_[index], static_cast<std::uint8_t>(length)};
            }
            ++index;
            ++code;
        }
        table.end_code_[length] = code << (16 - length);
        code <<= 1;
    }
    table.end_code_[17] = 0xFFFFFFFF;
    table.is_defined_ = true;
    return table;
}

int BitReader::long_symbol(const HuffmanTable& table) {
    const auto next16 = static_cast<std::uint32_t>(bits_ >> 48);
    int length = HuffmanTable::fast_bits + 1;
    while (next16 >= table.end_code_[static_cast<std::size_t>(length)])
        ++length;
    if (length > 16)
        return -1;
    const auto code = static_cast<std::int32_t>(next16 >> (16 - length));
    drop(length);
    return table
        .symbols_[static_cast<std::size_t>(code + table.shift_[static_cast<std::size_t>(length)]) &
                  0xFF];
}

}  // namespace yl::jpeg
