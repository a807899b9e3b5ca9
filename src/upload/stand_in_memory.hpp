// What the stand-ins of devices keep of a texture: its texels, and which have been written.
#pragma once

#include <vector>

#include <yl/upload.hpp>

namespace yl {

/// Whether a shape comes from a plan for the profile: there is nothing to change then.
[[nodiscard]] Status check_planned(const TextureShape& shape, const DeviceProfile& profile);

struct StandInMemory {
    Texture texture = {};
    std::vector<std::uint64_t> written = {};  ///< texels of each level, with all slices

    /// Zeros.
    [[nodiscard]] static Result<std::unique_ptr<StandInMemory>> create(const TextureShape& shape);

    /// Whether a box is there and made of whole blocks: those at the end of a level may be cut off,
    /// or have to be whole.
    [[nodiscard]] Status check_box(const TextureBox& box, bool ends_whole) const;
    /// Whether memory holds the rows of a box at these pitches.
    [[nodiscard]] Status check_rows(const TextureBox& box, std::uint64_t bytes,
                                    std::uint64_t row_pitch, std::uint64_t slice_pitch) const;
    /// Copies a box that was checked.
    void write(const TextureBox& box, const std::byte* from, std::uint64_t row_pitch,
               std::uint64_t slice_pitch);

    [[nodiscard]] bool is_complete(std::uint32_t level) const;
    [[nodiscard]] bool is_complete() const;

    /// The place of a slice: layer * faces + face.
    [[nodiscard]] TextureBox box_in(std::uint32_t level, std::uint32_t slice) const;
};

}  // namespace yl
