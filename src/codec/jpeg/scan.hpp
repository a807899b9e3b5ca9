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

/// Where the coefficients go, a row of units at a time.
struct UnitRows {
    /// Its blocks, `Frame::row_blocks` of them: empty ones, or those of earlier scans, to be
    /// refined. Those of a component that is coded alone are asked for in each of its rows.
    /// `offset` is where the row's coded bytes begin. Null ends the scan with
    /// `ErrorKind::cancelled`.
    std::function<Block*(std::uint32_t unit_y, std::size_t offset)> begin = {};
    std::function<void()> finished = {};  ///< the row that was begun last; may be left out
};

/// Decodes one scan whose coded bytes begin at `data`; gives their number. Offsets in errors count
/// from there.
[[nodiscard]] Result<std::size_t> decode_scan(const Frame& frame, const Scan& scan, ByteSpan data,
                                              const UnitRows& rows);

}  // namespace yl::jpeg
