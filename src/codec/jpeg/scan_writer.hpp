// Coefficients as Huffman codes: sequential scans and those of progressive files (ITU-T T.81,
// annexes F.1.2 and G.1.2).
#pragma once

#include <vector>

#include "base/bytes.hpp"
#include "codec/jpeg/forward_dct.hpp"

namespace yl::jpeg {

/// The blocks of a component, up to whole units of all components.
struct CodedPlane {
    std::uint32_t h = 1, v = 1;                ///< sampling factors
    std::uint32_t blocks_x = 0, blocks_y = 0;  ///< that are stored
    std::uint32_t own_x = 0, own_y = 0;        ///< those that the picture reaches into
    std::vector<CodedBlock> blocks{};
};

/// Which coefficients of which components, and which of their bits.
struct Scan {
    std::vector<std::size_t> components{};
    unsigned first = 0, last = 63;
    unsigned high = 0;  ///< bits below this one are known already; 0: none are
    unsigned low = 0;   ///< bits below this one are left for later
    bool is_progressive = false;
};

/// Appends tables of its own and the coded coefficients. Luminance (component 0) has tables of its
/// own, the others share theirs.
void write_scan(ByteWriter& file, std::span<const CodedPlane> planes, const Scan& scan);

}  // namespace yl::jpeg
