#include "upload/d3d12/rules/copy_rules.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "base/checked.hpp"

namespace yl::d3d12 {
namespace {

/// The first format of each family in dxgiformat.h: a family ends where the next begins. BGRA and
/// BGRX have their sRGB members apart from them.
int family_of(DXGI_FORMAT format) {
    static constexpr std::array firsts = {1,  5,  9,  15, 19, 23, 26, 27, 33, 39, 44, 48,
                                          53, 60, 65, 66, 67, 68, 69, 70, 73, 76, 79, 82,
                                          85, 86, 87, 88, 89, 90, 92, 94, 97, 100};
    const auto number = static_cast<int>(format);
    const int first = *std::prev(std::ranges::upper_bound(firsts, number));
    constexpr int bgra = 87, bgra_typeless = 90, bgrx = 88, bgrx_typeless = 92;
    return first == bgra_typeless ? bgra : first == bgrx_typeless ? bgrx : first;
}

struct Extent {
    std::uint64_t width = 0, height = 0, depth = 0;
};

Extent extent_of(const D3D12_RESOURCE_DESC& desc, UINT subresource) {
    const UINT level = subresource % desc.MipLevels;
    const auto at = [&](std::uint64_t side) { return std::max<std::uint64_t>(side >> level, 1); };
    const bool is_volume = desc.Dimension == D3D12_RESOURCE_DIMENSION_TEXTURE3D;
    return {at(desc.Width), at(desc.Height), is_volume ? at(desc.DepthOrArraySize) : 1};
}

bool is_placed(const D3D12_TEXTURE_COPY_LOCATION& location) {
    return location.Type == D3D12_TEXTURE_COPY_TYPE_PLACED_FOOTPRINT;
}

class CopyCheck {
 public:
    CopyCheck(const Report& report, const States& states, const TextureCopy& copy)
        : report_(report), states_(states), copy_(copy) {}

    void check() const {
        for (const auto* location : {copy_.to, copy_.from})
            if (is_placed(*location))
                check_footprint(*location);
        check_formats();
        check_box(*copy_.from, box_.left, box_.top, box_.front);
        check_box(*copy_.to, copy_.x, copy_.y, copy_.z);
    }

 private:
    void broken(FindingCode code, std::string problem, std::string remedy) const {
        report_(code, std::move(problem), std::move(remedy));
    }

    [[nodiscard]] DXGI_FORMAT format_of(const D3D12_TEXTURE_COPY_LOCATION& location) const {
        return is_placed(location) ? location.PlacedFootprint.Footprint.Format
                                   : states_.desc_of(location.pResource)->Format;
    }

    [[nodiscard]] Extent extent(const D3D12_TEXTURE_COPY_LOCATION& location) const {
        if (!is_placed(location))
            return extent_of(*states_.desc_of(location.pResource), location.SubresourceIndex);
        const auto& footprint = location.PlacedFootprint.Footprint;
        return {footprint.Width, footprint.Height, footprint.Depth};
    }

    void check_formats() const {
        const DXGI_FORMAT to = format_of(*copy_.to), from = format_of(*copy_.from);
        if (family_of(to) != family_of(from))
            broken("copy-of-another-format",
                   fmt::format("a copy takes texels of the format {} to {} of the format {}",
                               static_cast<int>(from), states_.name_of(copy_.to->pResource),
                               static_cast<int>(to)),
                   "use formats of one typeless family");
    }

    void check_footprint(const D3D12_TEXTURE_COPY_LOCATION& location) const {
        const auto& placed = location.PlacedFootprint;
        const auto& footprint = placed.Footprint;
        const std::string name = states_.name_of(location.pResource);
        if (placed.Offset % D3D12_TEXTURE_DATA_PLACEMENT_ALIGNMENT != 0)
            broken("footprint-placement",
                   fmt::format("a footprint begins at byte {} of {}", placed.Offset, name),
                   "begin at a multiple of 512 bytes");
        if (footprint.RowPitch % D3D12_TEXTURE_DATA_PITCH_ALIGNMENT != 0)
            broken("footprint-pitch",
                   fmt::format("a footprint in {} has a row pitch of {} bytes", name,
                               footprint.RowPitch),
                   "use a multiple of 256 bytes");
        const auto f = blocks_of(footprint.Format);
        if (!f)
            return;
        if (footprint.Width % f->block_width != 0 || footprint.Height % f->block_height != 0)
            broken("footprint-blocks",
                   fmt::format("a footprint of {} x {} texels has no whole blocks of {} x {}",
                               footprint.Width, footprint.Height, f->block_width, f->block_height),
                   "round its sides up to blocks");
        const std::uint64_t row = ceil_div(footprint.Width, f->block_width) * f->block_bytes;
        const std::uint64_t rows =
            ceil_div(footprint.Height, f->block_height) * std::uint64_t{footprint.Depth};
        if (footprint.RowPitch < row)
            broken("footprint-pitch",
                   fmt::format("a footprint in {} has a row pitch of {} bytes for rows of {}", name,
                               footprint.RowPitch, row),
                   "make it at least as long as a row");
        const std::uint64_t end =
            placed.Offset + (std::max<std::uint64_t>(rows, 1) - 1) * footprint.RowPitch + row;
        if (end > states_.desc_of(location.pResource)->Width)
            broken("footprint-outside",
                   fmt::format("a footprint of {} rows ends at byte {} of {}", rows, end, name),
                   "make the buffer larger, or the footprint smaller");
    }

    void check_box(const D3D12_TEXTURE_COPY_LOCATION& location, std::uint64_t x, std::uint64_t y,
                   std::uint64_t z) const {
        const Extent size = extent(location);
        const auto f = blocks_of(format_of(location));
        const std::uint64_t bw = f ? f->block_width : 1, bh = f ? f->block_height : 1;
        const std::uint64_t right = x + box_.right - box_.left, bottom = y + box_.bottom - box_.top,
                            back = z + box_.back - box_.front;
        const std::string name = states_.name_of(location.pResource);
        const auto text =
            fmt::format("a copy's box from {}, {}, {} to {}, {}, {}", x, y, z, right, bottom, back);
        if (right > round_up(size.width, bw) || bottom > round_up(size.height, bh) ||
            back > size.depth)
            broken("box-outside",
                   fmt::format("{} leaves the {} x {} x {} texels of {}", text, size.width,
                               size.height, size.depth, name),
                   "stay within the level");
        const bool ends_whole =
            (right % bw == 0 || right == size.width) && (bottom % bh == 0 || bottom == size.height);
        if (x % bw != 0 || y % bh != 0 || !ends_whole)
            broken("box-blocks", fmt::format("{} cuts blocks of {} x {} of {}", text, bw, bh, name),
                   "begin and end at blocks");
        if (box_.right <= box_.left || box_.bottom <= box_.top || box_.back <= box_.front)
            broken("box-empty", text + " holds nothing", "leave the copy out");
    }

    /// Of the source; without one, all of its blocks.
    [[nodiscard]] D3D12_BOX whole_box() const {
        if (copy_.box != nullptr)
            return *copy_.box;
        const Extent all = extent(*copy_.from);
        const auto f = blocks_of(format_of(*copy_.from));
        return {0,
                0,
                0,
                static_cast<UINT>(round_up(all.width, f ? f->block_width : 1)),
                static_cast<UINT>(round_up(all.height, f ? f->block_height : 1)),
                static_cast<UINT>(all.depth)};
    }

    const Report& report_;
    const States& states_;
    const TextureCopy& copy_;
    const D3D12_BOX box_ = whole_box();
};

}  // namespace

std::uint32_t subresource_count(const D3D12_RESOURCE_DESC& desc) {
    const std::uint32_t slices =
        desc.Dimension == D3D12_RESOURCE_DIMENSION_TEXTURE3D ? 1U : desc.DepthOrArraySize;
    return std::max<std::uint32_t>(desc.MipLevels, 1) * slices;
}

std::optional<FormatInfo> blocks_of(DXGI_FORMAT format) {
    const int family = family_of(format);
    for (const FormatInfo& f : all_formats())
        if (f.dxgi != 0 && family_of(static_cast<DXGI_FORMAT>(f.dxgi)) == family)
            return f;
    return std::nullopt;
}

void check_copy(const Report& report, const States& states, const TextureCopy& copy) {
    CopyCheck(report, states, copy).check();
}

}  // namespace yl::d3d12
