#include "codec/lzw.hpp"

#include <algorithm>
#include <cstring>

namespace yl {
namespace {

constexpr unsigned max_bits = 12;

class LzwReader {
 public:
    LzwReader(ByteSpan packed, std::span<std::byte> target, const LzwKind& kind)
        : packed_(packed),
          target_(target),
          kind_(kind),
          clear_(1U << kind.literal_bits),
          next_(clear_ + 2),
          bits_(kind.literal_bits + 1) {}

    std::size_t run() {
        bool follows = false;  // on a string since the strings were cleared
        while (filled_ < target_.size()) {
            const std::uint32_t code = next_code();
            if (code == clear_) {
                next_ = clear_ + 2;
                bits_ = kind_.literal_bits + 1;
                follows = false;
                continue;
            }
            if (code == clear_ + 1)
                break;
            if (follows)
                add_string();
            if (code >= (follows ? next_ : clear_))
                break;  // a code that no string has yet
            put(code);
            follows = true;
        }
        return filled_;
    }

 private:
    /// A string is what was written when its code came up.
    struct String {
        std::uint32_t start = 0, length = 0;
    };

    /// The string before and the first byte of the next one, which will follow it.
    void add_string() {
        if (next_ >= strings_.size())
            return;
        strings_[next_] = {static_cast<std::uint32_t>(start_),
                           static_cast<std::uint32_t>(length_ + 1)};
        ++next_;
        const std::uint32_t last = next_ + (kind_.grows_early ? 1 : 0);
        if (last >= (std::uint32_t{1} << bits_) && bits_ < max_bits)
            ++bits_;
    }

    /// As many bytes as the buffer has room for; gives whether there is a whole code.
    bool refill() {
        if (packed_.size() - at_ >= 4) {
            const std::byte* const from = packed_.data() + at_;
            if (kind_.lowest_bit_first)
                buffer_ |= std::uint64_t{load<std::uint32_t>(from)} << held_;
            else
                buffer_ = buffer_ << 32U | load<std::uint32_t, std::endian::big>(from);
            at_ += 4;
            held_ += 32;
            return true;
        }
        while (held_ < bits_ && at_ < packed_.size()) {
            const auto byte = std::to_integer<std::uint64_t>(packed_[at_++]);
            buffer_ = kind_.lowest_bit_first ? buffer_ | byte << held_ : buffer_ << 8U | byte;
            held_ += 8;
        }
        return held_ >= bits_;
    }

    std::uint32_t next_code() {
        if (held_ < bits_ && !refill())
            return clear_ + 1;
        held_ -= bits_;
        const std::uint64_t mask = (1U << bits_) - 1;
        if (!kind_.lowest_bit_first)
            return static_cast<std::uint32_t>(buffer_ >> held_ & mask);
        const auto code = static_cast<std::uint32_t>(buffer_ & mask);
        buffer_ >>= bits_;
        return code;
    }

    void put(std::uint32_t code) {
        start_ = filled_;
        if (code < clear_) {
            length_ = 1;
            target_[filled_++] = std::byte(code);
            return;
        }
        const String& string = strings_[code];
        length_ = string.length;
        constexpr std::size_t chunk = 8;
        std::byte* const to = target_.data() + filled_;
        const std::byte* const from = target_.data() + string.start;
        const std::size_t left = target_.size() - filled_;
        if (left >= length_ + chunk && filled_ - string.start >= chunk) {
            // Bytes beyond the string are overwritten by the next one.
            for (std::size_t i = 0; i < length_; i += chunk)
                std::memcpy(to + i, from + i, chunk);
            filled_ += length_;
            return;
        }
        const std::size_t count = std::min(length_, left);
        // Byte by byte: a string may end with its own first byte, which is written right now.
        for (std::size_t i = 0; i < count; ++i)
            to[i] = from[i];
        filled_ += count;
    }

    ByteSpan packed_;
    std::span<std::byte> target_;
    const LzwKind& kind_;
    std::array<String, std::size_t{1} << max_bits> strings_ = {};
    std::uint32_t clear_, next_;
    unsigned bits_, held_ = 0;
    std::uint64_t buffer_ = 0;
    std::size_t at_ = 0, filled_ = 0, start_ = 0, length_ = 0;
};

}  // namespace

std::size_t unpack_lzw(ByteSpan packed, std::span<std::byte> target, const LzwKind& kind) {
    return LzwReader(packed, target, kind).run();
}

}  // namespace yl
