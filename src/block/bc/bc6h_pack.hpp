// What an encoder of BC6H settles for a block, and the bits that it becomes.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

namespace yl::bc {

struct Bc6hChoice {
    std::uint32_t row = 10;  ///< of the table of modes
    std::uint32_t partition = 0;
    /// Red, green and blue of each end, as whole numbers of the mode's base bits.
    std::array<std::array<int, 3>, 4> ends{};
    std::uint64_t indices = 0;  ///< 4 bits a texel
};

/// Writes the 16 bytes of a block. Ends change places where an anchor's index asks for it; where
/// their differences would then not fit, that texel takes the nearest index which may be stored.
void pack_bc6h(const Bc6hChoice& choice, std::byte* block);

}  // namespace yl::bc
