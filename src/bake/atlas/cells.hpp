// A part's cell on every level: its texels, and the gutters around them.
#pragma once

#include <yl/atlas.hpp>

namespace yl::atlas {

/// What all cells have in common.
struct CellRule {
    std::uint32_t last_clean_level = 0;
    std::uint32_t alignment = 1;  ///< of cells, in texels
    std::uint32_t gutter = 1;     ///< texels on each side, at least

    /// The rule of a format, whose blocks lie in one cell at every clean level.
    [[nodiscard]] static CellRule of(Format format, std::uint32_t last_clean_level);

    /// In units of the alignment.
    [[nodiscard]] std::uint32_t units(std::uint32_t texels) const {
        return (texels + 2 * gutter + alignment - 1) / alignment;
    }
};

/// The box of the texels that are not transparent, of at least one.
[[nodiscard]] Box visible_box(const Texture& texture);

/// Fills the part's cell at the clean levels of `atlas`: with a chain of its own.
[[nodiscard]] Status fill_cell(Texture& atlas, const AtlasPart& part, ConstImageView content,
                               const BakeOptions& options, Role role, const CellRule& rule);

/// Fills the levels after the last clean one, which mix parts.
[[nodiscard]] Status fill_mixed_levels(Texture& atlas, const BakeOptions& options, Role role,
                                       const CellRule& rule);

}  // namespace yl::atlas
