#include "block/astc/block_texels.hpp"

#include <algorithm>

#include "block/astc/quantization.hpp"

namespace yl::astc {
namespace {

void read_endpoints(const BlockBits& block, const BlockHead& head, BlockTexels& texels) {
    std::array<std::uint8_t, most_colors + 8> values{};
    read_sequence(block, head.color_begin, head.color_range, head.color_count, values.data());
    const auto& row = color_values[head.color_range];
    for (unsigned i = 0; i < head.color_count; ++i)
        values[i] = row[values[i]];
    const std::uint8_t* next = values.data();
    for (unsigned i = 0; i < head.partitions; ++i) {
        texels.ends[i] = decode_endpoints(static_cast<EndpointMode>(head.endpoint_modes[i]), next);
        next += numbers_of(head.endpoint_modes[i]);
    }
}

}  // namespace

void fill_in(const FootprintTables& tables, const BlockMode& mode, const std::uint8_t* grid,
             std::uint8_t* weights) {
    const Footprint footprint = tables.footprint();
    const unsigned count = footprint.texels();
    if (mode.width == footprint.width && mode.height == footprint.height) {
        std::copy_n(grid, count, weights);
        return;
    }
    const Infill* infill = tables.infill(mode.width, mode.height);
    const std::uint8_t* below = grid + mode.width;
    for (unsigned i = 0; i < count; ++i) {
        const auto& [first, shares] = infill[i];
        const unsigned sum =
            unsigned{grid[first]} * shares[0] + unsigned{grid[first + 1U]} * shares[1] +
            unsigned{below[first]} * shares[2] + unsigned{below[first + 1U]} * shares[3];
        weights[i] = static_cast<std::uint8_t>((sum + 8) >> 4);
    }
}

void read_texels(const BlockBits& block, const BlockHead& head, const FootprintTables& tables,
                 BlockTexels& texels) {
    read_endpoints(block, head, texels);
    texels.partition_count = head.partitions;
    texels.partitions =
        head.partitions > 1 ? tables.partitions(head.partitions, head.seed) : nullptr;
    texels.plane_channel = head.mode.has_two_planes ? head.plane_channel : 4;

    // Behind the last weight, shares of 0 are read.
    constexpr unsigned behind = most_grid_side + 2;
    std::array<std::uint8_t, most_weights + behind> numbers{}, grid{};
    read_sequence(block.reversed(), 0, head.mode.range, head.mode.count, numbers.data());
    const auto& row = weight_values[head.mode.range];
    if (!head.mode.has_two_planes) {
        for (unsigned i = 0; i < head.mode.count; ++i)
            grid[i] = row[numbers[i]];
        fill_in(tables, head.mode, grid.data(), texels.weights.data());
        return;
    }
    for (unsigned plane = 0; plane < 2; ++plane) {
        for (unsigned i = 0; i < head.mode.count / 2U; ++i)
            grid[i] = row[numbers[2 * i + plane]];
        fill_in(tables, head.mode, grid.data(),
                plane == 0 ? texels.weights.data() : texels.second_weights.data());
    }
}

SingleColor read_single_color(const BlockBits& block) {
    constexpr unsigned hdr_at = 9, reserved_at = 10, extents_at = 12, extent_size = 13,
                       color_at = 64;
    constexpr unsigned none =
        (1U << extent_size) - 1;  // in all four: the colour holds nowhere else
    SingleColor result;
    result.is_hdr = block.at(hdr_at, 1) != 0;
    std::array<unsigned, 4> extents{};
    for (unsigned i = 0; i < 4; ++i)
        extents[i] = block.number(extents_at + extent_size * i, extent_size);
    const bool has_none = std::ranges::all_of(extents, [](unsigned e) { return e == none; });
    result.is_sound = block.at(reserved_at, 2) == 3 &&
                      (has_none || (extents[0] < extents[1] && extents[2] < extents[3]));
    for (unsigned c = 0; c < 4; ++c)
        result.color[c] = static_cast<std::uint16_t>(block.at(color_at + 16 * c, 16));
    return result;
}

}  // namespace yl::astc
