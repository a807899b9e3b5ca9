// Scans: the entropy-coded coefficients of some or all components (ITU-T T.81, annexes F and G).
#pragma once

#include <functional>

#include "codec/jpeg/frame.hpp"
#include "codec/jpeg/huffman.hpp"
#include "codec/jpeg/inverse_dct.hpp"

namespace yl::jpeg {

struct ScanComponent {
    std::size_t index = 0;  ///< in the frame
    const HuffmanTable* dc = nullptr;
    const HuffmanTable* ac = nullptr;
};

struct Scan {
    std::vector<ScanComponent> components;
    int first = 0, last = 63;            ///< coefficients in coded order (Ss, Se)
    int high = 0, low = 0;               ///< bits of successive approximation (Ah, Al)
    std::uint32_t restart_interval = 0;  ///< units; 0: none
};

/// Gives the block of a component at a place, to be filled or refined. For sequential pictures the
/// block is empty when asked for, and `finished` is called once it is full.
struct BlockStore {
    std::function<Block&(std::size_t component, std::uint32_t x, std::uint32_t y)> block;
    std::function<void(std::size_t component, std::uint32_t x, std::uint32_t y)> finished;
};

/// Decodes one scan whose coded bytes begin at `data`; gives their number. Offsets in errors count
/// from there.
[[nodiscard]] Result<std::size_t> decode_scan(const Frame& frame, const Scan& scan, ByteSpan data,
                                              const BlockStore& store);

}  // namespace yl::jpeg
