// What a JPEG file says about its picture before the first coded bit (ITU-T T.81, annex B).
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "base/bytes.hpp"

namespace yl::jpeg {

inline constexpr std::size_t block_side = 8;
inline constexpr std::size_t block_size = 64;

/// Place in the block, row by row, of the k-th coefficient in coded order (figure A.6). The last
/// entries catch runs that lead beyond the block.
inline constexpr std::array<std::uint8_t, block_size + 16> zigzag = {
    0,  1,  8,  16, 9,  2,  3,  10, 17, 24, 32, 25, 18, 11, 4,  5,  12, 19, 26, 33,
    40, 48, 41, 34, 27, 20, 13, 6,  7,  14, 21, 28, 35, 42, 49, 56, 57, 50, 43, 36,
    29, 22, 15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53, 60, 61, 54,
    47, 55, 62, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63, 63};

enum Marker : std::uint8_t {
    sof_baseline = 0xC0,
    sof_extended = 0xC1,
    sof_progressive = 0xC2,
    dht = 0xC4,
    rst0 = 0xD0,
    rst7 = 0xD7,
    soi = 0xD8,
    eoi = 0xD9,
    sos = 0xDA,
    dqt = 0xDB,
    dri = 0xDD,
    app0 = 0xE0,
    app1 = 0xE1,
    app2 = 0xE2,
    app14 = 0xEE,
};

/// One colour component: its sampling factors and the size of its plane.
struct Component {
    std::uint8_t id = 0;
    std::uint32_t h = 1, v = 1;           ///< sampling factors, 1 to 4
    std::uint8_t quantization = 0;        ///< number of its table
    std::uint32_t width = 0, height = 0;  ///< samples of the picture itself
    std::uint32_t blocks_x = 0,
                  blocks_y = 0;   ///< blocks stored, up to whole units of all components
    std::size_t first_block = 0;  ///< of its blocks in a row of units
    bool is_quantized = false;    ///< its table has been taken over
    std::array<std::uint16_t, block_size> steps{};  ///< that table, in coded order

    [[nodiscard]] std::size_t stride() const { return std::size_t{blocks_x} * block_side; }
};

struct Frame {
    std::uint32_t width = 0, height = 0;
    std::uint32_t bits = 8;  ///< of a sample: 8 or 12
    bool progressive = false;
    std::uint32_t max_h = 1, max_v = 1;
    std::uint32_t units_x = 0, units_y = 0;  ///< interleaved units (MCUs)
    std::size_t row_blocks = 0;  ///< in a row of units: component by component, each row by row
    std::vector<Component> components;
};

/// Reads a frame header (B.2.2). `offset` is its place in the file, for errors.
[[nodiscard]] Result<Frame> parse_frame(std::uint8_t marker, ByteSpan segment, std::size_t offset);

/// Why a frame marker that is not handled is not, or nothing for one that is.
[[nodiscard]] std::optional<std::string> unsupported_frame(std::uint8_t marker);

}  // namespace yl::jpeg
