#include "block/astc/integer_sequence.hpp"

#include <algorithm>

namespace yl::astc {
namespace {

constexpr unsigned bit(unsigned value, unsigned at) {
    return value >> at & 1U;
}

/// The five trits of 8 bits.
constexpr std::array<std::uint8_t, 5> trits(unsigned t) {
    unsigned c = t & 31U, t4 = 0, t3 = 0;
    if ((t >> 2 & 7U) == 7) {
        c = (t >> 5 & 7U) << 2 | (t & 3U);
        t4 = t3 = 2;
    } else if ((t >> 5 & 3U) == 3) {
        t4 = 2;
        t3 = bit(t, 7);
    } else {
        t4 = bit(t, 7);
        t3 = t >> 5 & 3U;
    }
    unsigned t2 = 2, t1 = 2, t0 = c & 3U;
    if ((c & 3U) == 3) {
        t1 = bit(c, 4);
        t0 = bit(c, 3) << 1 | (bit(c, 2) & ~bit(c, 3) & 1U);
    } else if ((c >> 2 & 3U) != 3) {
        t2 = bit(c, 4);
        t1 = c >> 2 & 3U;
        t0 = bit(c, 1) << 1 | (bit(c, 0) & ~bit(c, 1) & 1U);
    }
    const auto byte = [](unsigned value) { return static_cast<std::uint8_t>(value); };
    return {byte(t0), byte(t1), byte(t2), byte(t3), byte(t4)};
}

/// The three quints of 7 bits, and two places that are not used.
constexpr std::array<std::uint8_t, 5> quints(unsigned q) {
    unsigned q0 = 4, q1 = 4, q2 = 0;
    if ((q >> 1 & 3U) == 3 && (q >> 5 & 3U) == 0) {
        const unsigned none = ~bit(q, 0) & 1U;
        q2 = bit(q, 0) << 2 | (bit(q, 4) & none) << 1 | (bit(q, 3) & none);
    } else {
        unsigned c = q & 31U;
        q2 = q >> 5 & 3U;
        if ((q >> 1 & 3U) == 3) {
            c = (q >> 3 & 3U) << 3 | (~(q >> 5) & 3U) << 1 | bit(q, 0);
            q2 = 4;
        }
        q1 = (c & 7U) == 5 ? 4 : c >> 3 & 3U;
        q0 = (c & 7U) == 5 ? c >> 3 & 3U : c & 7U;
    }
    const auto byte = [](unsigned value) { return static_cast<std::uint8_t>(value); };
    return {byte(q0), byte(q1), byte(q2), 0, 0};
}

/// How numbers share bits: a group of them, and how many of the shared bits each has behind it.
struct Sharing {
    unsigned group;
    std::array<std::uint8_t, 5> bits;
};
constexpr Sharing of_trits = {5, {2, 2, 1, 2, 1}}, of_quints = {3, {3, 2, 2, 0, 0}};

constexpr auto trit_table = [] {
    std::array<std::array<std::uint8_t, 5>, 256> table{};
    for (unsigned i = 0; i < table.size(); ++i)
        table[i] = trits(i);
    return table;
}();
constexpr auto quint_table = [] {
    std::array<std::array<std::uint8_t, 5>, 128> table{};
    for (unsigned i = 0; i < table.size(); ++i)
        table[i] = quints(i);
    return table;
}();

/// The least bits for each group of trits or quints, the first of which counts least.
template <std::size_t count, class Table>
constexpr std::array<std::uint8_t, count> inverted(const Table& table, unsigned base,
                                                   unsigned group) {
    std::array<std::uint8_t, count> least{};
    for (std::size_t bits = table.size(); bits-- > 0;) {
        std::size_t place = 0;
        for (unsigned i = group; i-- > 0;)
            place = place * base + table[bits][i];
        least[place] = static_cast<std::uint8_t>(bits);
    }
    return least;
}
constexpr auto bits_of_trits = inverted<243>(trit_table, 3, 5);
constexpr auto bits_of_quints = inverted<125>(quint_table, 5, 3);

void read_groups(const BlockBits& block, unsigned begin, unsigned own, unsigned count,
                 const Sharing& sharing, const std::array<std::uint8_t, 5>* table,
                 std::uint8_t* numbers) {
    const unsigned mask = (1U << own) - 1;
    for (unsigned done = 0; done < count; done += sharing.group) {
        const unsigned here = std::min(sharing.group, count - done);
        unsigned size = 0;
        for (unsigned i = 0; i < here; ++i)
            size += own + sharing.bits[i];
        std::uint64_t bits = block.at(begin, size);
        begin += size;
        unsigned shared = 0, at = 0;
        std::array<unsigned, 5> low{};
        for (unsigned i = 0; i < here; ++i) {
            low[i] = static_cast<unsigned>(bits) & mask;
            bits >>= own;
            const unsigned piece = sharing.bits[i];
            shared |= (static_cast<unsigned>(bits) & ((1U << piece) - 1)) << at;
            bits >>= piece;
            at += piece;
        }
        const auto& high = table[shared];
        for (unsigned i = 0; i < here; ++i)
            numbers[done + i] = static_cast<std::uint8_t>(unsigned{high[i]} << own | low[i]);
    }
}

}  // namespace

void read_sequence(const BlockBits& block, unsigned begin, unsigned range, unsigned count,
                   std::uint8_t* numbers) {
    const SequenceRange& r = sequence_ranges[range];
    if (r.base == 3)
        return read_groups(block, begin, r.bits, count, of_trits, trit_table.data(), numbers);
    if (r.base == 5)
        return read_groups(block, begin, r.bits, count, of_quints, quint_table.data(), numbers);
    constexpr unsigned at_once = 56;  // bits
    const unsigned mask = (1U << r.bits) - 1, together = at_once / r.bits;
    for (unsigned done = 0; done < count; done += together) {
        std::uint64_t bits = block.at(begin + done * r.bits, at_once);
        for (unsigned i = done; i < std::min(done + together, count); ++i, bits >>= r.bits)
            numbers[i] = static_cast<std::uint8_t>(static_cast<unsigned>(bits) & mask);
    }
}

void write_sequence(BlockBits& block, unsigned begin, unsigned range, unsigned count,
                    const std::uint8_t* numbers) {
    const SequenceRange& r = sequence_ranges[range];
    if (r.base == 1) {
        for (unsigned i = 0; i < count; ++i)
            block.put(begin + i * r.bits, r.bits, numbers[i]);
        return;
    }
    const Sharing& sharing = r.base == 3 ? of_trits : of_quints;
    for (unsigned done = 0; done < count; done += sharing.group) {
        const unsigned here = std::min(sharing.group, count - done);
        std::size_t place = 0;
        for (unsigned i = here; i-- > 0;)
            place = place * r.base + (unsigned{numbers[done + i]} >> r.bits);
        unsigned shared = r.base == 3 ? bits_of_trits[place] : bits_of_quints[place];
        for (unsigned i = 0; i < here; ++i) {
            block.put(begin, r.bits, numbers[done + i] & ((1U << r.bits) - 1));
            begin += r.bits;
            const unsigned piece = sharing.bits[i];
            block.put(begin, piece, shared & ((1U << piece) - 1));
            shared >>= piece;
            begin += piece;
        }
    }
}

}  // namespace yl::astc
