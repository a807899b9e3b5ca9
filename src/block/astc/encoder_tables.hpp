// What the encoder looks up for a footprint.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "block/astc/footprint_tables.hpp"
#include "block/astc/integer_sequence.hpp"
#include "block/astc/settled_block.hpp"

namespace yl::astc {

inline constexpr unsigned mask_words = (most_texels + 31) / 32;

/// A grid of weights, and how much each weight counts in the texels.
struct Grid {
    unsigned width = 0, height = 0;
    /// Of each texel: the first of the four weights around it, and their shares in sixteenths. Empty
    /// where each texel has a weight.
    std::vector<std::uint8_t> first{};
    std::vector<std::array<float, 4>> shares{};
    std::vector<float>
        inverse_shares{};  ///< 1 / sum of a weight's shares in all texels, in sixteenths

    [[nodiscard]] unsigned count() const { return width * height; }
    [[nodiscard]] bool is_whole() const { return first.empty(); }
};

/// Weights and endpoints that a block can have.
struct Candidate {
    unsigned mode_bits = 0;
    unsigned grid = 0;  ///< of `grids`
    unsigned weight_range = 0;
    unsigned color_range = 0;
};

inline constexpr std::array<EndpointMode, 9> encoded_modes = {
    EndpointMode::luminance, EndpointMode::luminance_alpha, EndpointMode::rgb,
    EndpointMode::rgba,      EndpointMode::rgb_scale,       EndpointMode::rgb_scale_alpha,
    EndpointMode::rgb_hdr,   EndpointMode::rgb_hdr_alpha,   EndpointMode::rgba_hdr};

/// Candidates of one kind, the more promising first.
struct CandidateList {
    EndpointMode endpoint_mode = EndpointMode::rgb;
    unsigned partitions = 1;
    bool has_two_planes = false;
    std::vector<Candidate> candidates{};
};

/// Texels of two to four partitions.
struct Split {
    using Mask = std::array<std::uint32_t, mask_words>;

    std::array<Mask, most_partitions - 1> later{};  ///< of all partitions but the first
    unsigned seed = 0;

    [[nodiscard]] const Mask& texels(unsigned partition) const { return later[partition - 1]; }
};

class EncoderTables {
 public:
    explicit EncoderTables(const FootprintTables& tables);

    [[nodiscard]] Footprint footprint() const { return footprint_; }
    [[nodiscard]] const std::vector<Grid>& grids() const { return grids_; }
    [[nodiscard]] const CandidateList& list(EndpointMode mode, unsigned partitions,
                                            bool has_two_planes) const;
    /// All ways to cut a block in 2 to 4 parts, each once.
    [[nodiscard]] const std::vector<Split>& splits(unsigned parts) const {
        return splits_[parts - 2];
    }

 private:
    void add_list(EndpointMode mode, unsigned partitions, bool has_two_planes);

    Footprint footprint_;
    std::vector<Grid> grids_;
    std::vector<CandidateList> lists_;
    std::array<std::vector<Split>, most_partitions - 1> splits_;
};

/// Values of each range of endpoints that are nearest to 0 .. 255.
[[nodiscard]] const std::array<std::array<float, 256>, 21>& nearest_colors();
/// Weights of each range in rising order, from 0 to 64.
[[nodiscard]] const std::array<std::array<float, 32>, weight_ranges>& rising_weights();

template <unsigned width, unsigned height>
[[nodiscard]] const EncoderTables& encoder_tables() {
    static const EncoderTables tables(footprint_tables<width, height>());
    return tables;
}

}  // namespace yl::astc
