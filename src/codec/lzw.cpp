#include "codec/lzw.hpp"

#include <algorithm>
#include <array>
#include <cstring>

namespace yl {
namespace {

constexpr unsigned max_bits = 12;

/// Codes one after the other, from the lowest bit of each byte or from the highest.
template <bool lowest_bit_first>
class CodeReader {
 public:
    explicit CodeReader(ByteSpan packed) : packed_(packed) {}

    /// The next code, or `otherwise` at the end.
    std::uint32_t take(unsigned bits, std::uint32_t otherwise) {
        if (held_ < bits && !refill(bits))
            return otherwise;
        held_ -= bits;
        const std::uint64_t mask = (1U << bits) - 1;
        if constexpr (!lowest_bit_first) {
            return static_cast<std::uint32_t>(buffer_ >> held_ & mask);
        } else {
            const auto code = static_cast<std::uint32_t>(buffer_ & mask);
            buffer_ >>= bits;
            return code;
        }
    }

 private:
    /// As many bytes as the buffer has room for; gives whether there is a whole code.
    bool refill(unsigned bits) {
        if (packed_.size() - at_ >= 4) {
            const std::byte* const from = packed_.data() + at_;
            if constexpr (lowest_bit_first)
                buffer_ |= std::uint64_t{load<std::uint32_t>(from)} << held_;
            else
                buffer_ = buffer_ << 32U | load<std::uint32_t, std::endian::big>(from);
            at_ += 4;
            held_ += 32;
            return true;
        }
        while (held_ < bits && at_ < packed_.size()) {
            const auto byte = std::to_integer<std::uint64_t>(packed_[at_++]);
            buffer_ = lowest_bit_first ? buffer_ | byte << held_ : buffer_ << 8U | byte;
            held_ += 8;
        }
        return held_ >= bits;
    }

    ByteSpan packed_;
    std::size_t at_ = 0;
    std::uint64_t buffer_ = 0;
    unsigned held_ = 0;
};

/// A string is what was written when its code came up.
struct String {
    std::uint32_t start, length;
};

/// Both places have room for a few bytes more than the string, which the next one overwrites. The
/// newest string ends with its own first byte, which is not there yet.
void copy_string(std::byte* to, const std::byte* from, std::size_t length, bool is_newest) {
    constexpr std::size_t chunk = 16;
    for (std::size_t i = 0; i < length; i += chunk) {
        std::array<std::byte, chunk> bytes;
        std::memcpy(bytes.data(), from + i, chunk);
        std::memcpy(to + i, bytes.data(), chunk);
    }
    if (is_newest)
        to[length - 1] = to[0];
}

template <bool lowest_bit_first>
std::size_t unpack(ByteSpan packed, std::span<std::byte> target, const LzwKind& kind) {
    constexpr std::size_t surplus = 16;  // of `copy_string`
    const std::uint32_t clear = 1U << kind.literal_bits, end = clear + 1, early = kind.grows_early;
    std::array<String, std::size_t{1} << max_bits> strings;  // those below `next` are set
    CodeReader<lowest_bit_first> reader(packed);
    std::size_t filled = 0;
    while (filled < target.size()) {
        unsigned bits = kind.literal_bits + 1;
        std::uint32_t next = clear + 2, code = reader.take(bits, end);
        if (code == clear)
            continue;
        if (code > clear)
            break;  // a code that no string has yet, or the end
        String before{static_cast<std::uint32_t>(filled), 1};
        target[filled++] = std::byte(code);
        while (filled < target.size()) {
            code = reader.take(bits, end);
            if (code == clear)
                break;
            if (code == end)
                return filled;
            // The string before and the first byte of the next one, which will follow it.
            if (next < strings.size()) {
                strings[next++] = {before.start, before.length + 1};
                if (next + early >= (1U << bits) && bits < max_bits)
                    ++bits;
            }
            before = {static_cast<std::uint32_t>(filled), 1};
            if (code < clear) {
                target[filled++] = std::byte(code);
                continue;
            }
            if (code >= next)
                return filled;
            const String string = strings[code];
            before.length = string.length;
            std::byte* const to = target.data() + filled;
            const std::byte* const from = target.data() + string.start;
            const std::size_t left = target.size() - filled;
            if (left >= string.length + surplus)
                copy_string(to, from, string.length, string.start + string.length > filled);
            else
                for (std::size_t i = 0; i < std::min<std::size_t>(string.length, left); ++i)
                    to[i] = from[i];
            filled += std::min<std::size_t>(string.length, left);
        }
    }
    return filled;
}

}  // namespace

std::size_t unpack_lzw(ByteSpan packed, std::span<std::byte> target, const LzwKind& kind) {
    return kind.lowest_bit_first ? unpack<true>(packed, target, kind)
                                 : unpack<false>(packed, target, kind);
}

}  // namespace yl
