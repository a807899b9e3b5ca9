// From stored pixels to working pixels, and what happens to them on the way back.
#pragma once

#include <optional>

#include <yl/mip.hpp>
#include "pixel/rows.hpp"

namespace yl {

/// How stored pixels become working pixels: linear float RGBA in which colour is multiplied by
/// a weight wherever straight alpha has to count.
struct WorkingFormat {
    Format format = Format::undefined;
    RowCodec codec = {};
    Transfer transfer = Transfer::linear;
    bool weigh_by_alpha = false;
    bool dither = false;
    bool are_normals = false;
    std::optional<Fade> fade = {};
    std::array<float, 4> mean = {};  ///< what a fading chain ends in

    [[nodiscard]] static WorkingFormat of(Format format, Transfer transfer, AlphaMode alpha);
    /// Of a texture's chain; without the mean, which has to be measured.
    [[nodiscard]] static WorkingFormat of_chain(Format format, const TextureMetadata& metadata,
                                                const MipOptions& options);

    void load(const std::byte* texels, float* working, std::size_t count) const;
    struct Place {
        std::uint32_t y = 0;
        std::uint32_t level = 0;
        bool is_opaque = false;  ///< known to be
    };
    /// A row of a level; `scratch` has as much room as `working`, or is the same.
    void store(const float* working, float* scratch, std::byte* texels, std::size_t count,
               const Place& place) const;

 private:
    void store_in_pieces(const float* working, float* scratch, std::byte* texels,
                         std::size_t count) const;
    void rebuild_third(float* working, std::size_t count) const;
    void normalise(float* working, std::size_t count) const;
    void fade_out(float* working, std::size_t count, std::uint32_t level) const;
};

}  // namespace yl
