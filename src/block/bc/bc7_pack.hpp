// What an encoder of BC7 settles for a block, and the bits that it becomes.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

namespace yl::bc {

struct Bc7Choice {
    std::uint32_t mode = 6;
    std::uint32_t partition = 0;
    std::uint32_t rotation = 0;
    std::uint32_t selection = 0;
    /// Both endpoints of each subset, without extra bits: red in bits 0 to 7, green, blue, alpha.
    std::array<std::uint32_t, 6> codes{};
    std::uint32_t extra = 0;  ///< a bit for each endpoint
    /// 4 bits a texel; of colour and, in modes with a second set, of alpha.
    std::uint64_t indices = 0, second_indices = 0;
};

/// Writes the 16 bytes of a block. Endpoints change places where an anchor's index asks for it.
void pack_bc7(const Bc7Choice& choice, std::byte* block);

}  // namespace yl::bc
