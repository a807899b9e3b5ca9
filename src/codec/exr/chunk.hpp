// One chunk of an OpenEXR file: the rectangle that it holds, and its samples.
#pragma once

#include <vector>

#include "codec/exr/header.hpp"

namespace yl::exr {

/// A rectangle of the data window, in pixels, both ends included.
struct Area {
    std::int64_t x0 = 0, y0 = 0, x1 = 0, y1 = 0;

    /// Samples of a channel across and down.
    [[nodiscard]] std::size_t columns(const Channel& c) const {
        return static_cast<std::size_t>(sample_count(c.step_x, x0, x1));
    }
    [[nodiscard]] std::size_t rows(const Channel& c) const {
        return static_cast<std::size_t>(sample_count(c.step_y, y0, y1));
    }
    [[nodiscard]] std::size_t bytes(const Channel& c) const {
        return columns(c) * rows(c) * c.sample_bytes();
    }
    /// Of all channels.
    [[nodiscard]] std::size_t bytes(const Header& h) const {
        std::size_t sum = 0;
        for (const Channel& c : h.channels)
            sum += bytes(c);
        return sum;
    }
};

/// The samples row by row, and in each row channel by channel.
[[nodiscard]] Result<std::vector<std::byte>> unpack_chunk(ByteSpan packed, const Header& h,
                                                          const Area& area);

}  // namespace yl::exr
