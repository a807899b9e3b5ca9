#include "block/astc/encoder_tables.hpp"

#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include "block/astc/candidate_orders.hpp"
#include "block/astc/integer_sequence.hpp"
#include "block/astc/quantization.hpp"

namespace yl::astc {
namespace {

Grid make_grid(const FootprintTables& tables, unsigned width, unsigned height) {
    const Footprint footprint = tables.footprint();
    Grid grid{.width = width, .height = height};
    grid.inverse_shares.assign(grid.count() + most_grid_side + 2, 0);
    if (width == footprint.width && height == footprint.height)
        return grid;
    const Infill* infill = tables.infill(width, height);
    for (unsigned i = 0; i < footprint.texels(); ++i) {
        const auto& [first, shares] = infill[i];
        grid.first.push_back(first);
        grid.shares.push_back(
            {float(shares[0]), float(shares[1]), float(shares[2]), float(shares[3])});
        const std::array<unsigned, 4> places = {first, first + 1U, first + width,
                                                first + width + 1U};
        for (std::size_t k = 0; k < 4; ++k)
            grid.inverse_shares[places[k]] += shares[k];
    }
    for (float& sum : grid.inverse_shares)
        sum = sum > 0 ? 1 / sum : 0;
    return grid;
}

/// How far off blocks are, more or less, for candidates that have no place in the table: by weights that
/// are few, by weights that are coarse, and by ends that are. The numbers are those that put the
/// candidates which win in photographs and ground textures, of blocks from 4 x 4 to 10 x 10, farthest to
/// the front of their lists.
double expected_error(Footprint footprint, const BlockMode& mode, unsigned color_range) {
    const double weights = sequence_ranges[mode.range].levels - 1.0;
    const double colors = sequence_ranges[color_range].levels - 1.0;
    const double across = (footprint.width - 1.0) / (mode.width - 1.0),
                 down = (footprint.height - 1.0) / (mode.height - 1.0);
    return 0.195 * (std::pow(across - 1, 0.63) + std::pow(down - 1, 0.63)) +
           std::pow(weights, -1.48) + (mode.has_two_planes ? 16.8 : 5.6) * std::pow(colors, -1.06);
}

std::vector<Split> unique_splits(const FootprintTables& tables, unsigned parts) {
    const unsigned texels = tables.footprint().texels();
    std::vector<Split> splits;
    std::set<std::vector<Split::Mask>> seen;
    for (unsigned seed = 0; seed < partition_seeds; ++seed) {
        const std::uint8_t* partitions = tables.partitions(parts, seed);
        std::vector<Split::Mask> masks(parts);
        for (unsigned i = 0; i < texels; ++i)
            masks[partitions[i]][i / 32] |= 1U << i % 32;
        if (std::ranges::find(masks, Split::Mask{}) != masks.end())
            continue;  // it is one of fewer parts
        Split split{.seed = seed};
        std::copy(masks.begin() + 1, masks.end(), split.later.begin());
        std::ranges::sort(masks);
        if (seen.insert(masks).second)
            splits.push_back(split);
    }
    return splits;
}

}  // namespace

EncoderTables::EncoderTables(const FootprintTables& tables) : footprint_(tables.footprint()) {
    for (unsigned height = 2; height <= footprint_.height; ++height)
        for (unsigned width = 2; width <= footprint_.width; ++width)
            if (width * height <= most_weights)
                grids_.push_back(make_grid(tables, width, height));
    for (const EndpointMode mode : encoded_modes) {
        for (unsigned partitions = 1; partitions <= most_partitions; ++partitions)
            add_list(mode, partitions, false);
        add_list(mode, 1, true);
    }
    for (unsigned parts = 2; parts <= most_partitions; ++parts)
        splits_[parts - 2] = unique_splits(tables, parts);
}

void EncoderTables::add_list(EndpointMode mode, unsigned partitions, bool has_two_planes) {
    CandidateList list{
        .endpoint_mode = mode, .partitions = partitions, .has_two_planes = has_two_planes};
    std::vector<std::pair<double, Candidate>> rated;
    std::set<std::array<unsigned, 2>> seen;  // several block modes may say the same
    for (unsigned bits = 0; bits < block_modes; ++bits) {
        const BlockMode& m = all_block_modes()[bits];
        if (!m.fits(footprint_) || m.has_two_planes != has_two_planes)
            continue;
        const auto range = color_range_of(m, partitions, mode);
        const auto grid = std::ranges::find_if(
            grids_, [&](const Grid& g) { return g.width == m.width && g.height == m.height; });
        const auto place = static_cast<unsigned>(grid - grids_.begin());
        if (!range || grid == grids_.end() || !seen.insert({place, m.range}).second)
            continue;
        rated.emplace_back(expected_error(footprint_, m, *range),
                           Candidate{bits, place, m.range, *range});
    }
    const auto footprint = std::ranges::find(footprints, footprint_) - footprints.begin();
    const auto& order =
        candidate_orders[footprint][(has_scale(mode) ? 3 : 0) + (has_two_planes   ? 2
                                                                 : partitions > 1 ? 1
                                                                                  : 0)];
    std::ranges::stable_sort(rated, {}, [&](const auto& r) {
        const auto place = std::ranges::find(order, r.second.mode_bits) - order.begin();
        return std::pair(place, r.first);
    });
    for (const auto& [rating, candidate] : rated)
        list.candidates.push_back(candidate);
    lists_.push_back(std::move(list));
}

const CandidateList& EncoderTables::list(EndpointMode mode, unsigned partitions,
                                         bool has_two_planes) const {
    return *std::ranges::find_if(lists_, [&](const CandidateList& list) {
        return list.endpoint_mode == mode && list.partitions == partitions &&
               list.has_two_planes == has_two_planes;
    });
}

const std::array<std::array<float, 256>, 21>& nearest_colors() {
    static const auto table = [] {
        std::array<std::array<float, 256>, 21> rows{};
        for (std::size_t r = least_color_range; r < rows.size(); ++r)
            for (std::size_t value = 0; value < 256; ++value)
                rows[r][value] = color_values[r][color_numbers()[r][value]];
        return rows;
    }();
    return table;
}

const std::array<std::array<float, 32>, weight_ranges>& rising_weights() {
    static const auto table = [] {
        std::array<std::array<float, 32>, weight_ranges> rows{};
        for (unsigned r = 0; r < weight_ranges; ++r)
            for (unsigned rank = 0; rank < sequence_ranges[r].levels; ++rank)
                rows[r][rank] = weight_values[r][weight_number_of_rank(r, rank)];
        return rows;
    }();
    return table;
}

}  // namespace yl::astc
