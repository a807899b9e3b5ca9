// Rows of half the size by any symmetric kernel: every texel has the same weights, as sides halve
// exactly.
#pragma once

#include <hwy/aligned_allocator.h>

#include <memory>
#include <optional>
#include <vector>

#include "resample/quarter_simd.hpp"
#include "resample/row_source.hpp"

namespace yl {

/// The weights of a kernel where a side halves exactly: the same for every target texel and the
/// same from both ends, so that just the first half is kept. Target texel x lies between source
/// texels 2 x and 2 x + 1; with n weights on each side it is made of the source texels from 2 x + 1
/// - n to 2 x + n.
struct HalvingWeights {
    std::vector<float> outer_to_inner = {};

    [[nodiscard]] std::int64_t side() const {
        return static_cast<std::int64_t>(outer_to_inner.size());
    }
    [[nodiscard]] static HalvingWeights of(const Kernel& kernel);
};

/// Floats at the beginning of a cache line, so that few vectors reach over one.
using AlignedFloats = hwy::AlignedFreeUniquePtr<float[]>;

/// Texels of a row to be halved: out of 8-bit RGBA, which is decoded piece by piece, or out of rows
/// of floats.
class HalvingSource {
 public:
    HalvingSource(TexelRows codes, const WorkingFormat& format);
    explicit HalvingSource(RowSource& rows) : rows_(&rows) {}

    /// Whether stored texels can be decoded so.
    [[nodiscard]] static bool decodes(const WorkingFormat& format);

    /// Chooses row `y`; then `count` of its texels from `x` on.
    void take(std::int64_t y);
    /// Says whether all are known to be opaque.
    bool load(std::uint32_t x, std::uint32_t count, float* rgba) const;
    /// The row itself, where there is one.
    [[nodiscard]] const float* row() const { return row_; }

 private:
    RowSource* rows_ = nullptr;
    std::optional<TexelRows> codes_ = {};
    const CodeCurve* curve_ = nullptr;
    bool weigh_ = false;
    const float* row_ = nullptr;
    const std::byte* stored_ = nullptr;
};

/// What halves both sides of `source` by a kernel that is not a box; the fast way of `ReducedRows`.
class HalvedRows final : public RowSource {
 public:
    [[nodiscard]] static bool suits(const Kernel& kernel, std::uint32_t width,
                                    std::uint32_t height);

    /// `source` has the size `width` x `height`, which are even.
    HalvedRows(const HalvingSource& source, std::uint32_t width, std::uint32_t height,
               const HalvingWeights& weights, const Edges& edges, bool limit_ringing,
               const WorkingFormat& format, RowTarget target);
    const float* row(std::int64_t virtual_y) override;

 private:
    /// Source rows that are as wide as the target already; the last so many of them.
    struct Ring {
        std::uint32_t rows = 0;
        std::size_t stride = 0;  ///< floats, whole cache lines
        AlignedFloats data = {};
        [[nodiscard]] float* row(std::int64_t y) { return data.get() + wrapped(y, rows) * stride; }
    };

    [[nodiscard]] std::int64_t source_row(std::int64_t virtual_row) const;
    void take_row(std::int64_t y);
    [[nodiscard]] const float* load_tile(std::int64_t first, std::uint32_t count);

    /// Target texels that are made at a time: few enough for all that they need to stay in the
    /// nearest cache.
    static constexpr std::uint32_t tile = 256;

    HalvingSource source_;
    std::uint32_t width_, height_;
    const HalvingWeights& weights_;
    Edges edges_;
    bool limit_ringing_;
    const WorkingFormat& format_;
    RowTarget target_;
    std::int64_t padding_;               ///< texels before and behind a tile, an even number
    AlignedFloats texels_, even_, odd_;  ///< of a tile with its padding; every other one of them
    Ring blended_, min_, max_;
    std::vector<bool> opaque_rows_;  ///< of the ring
    bool row_is_opaque_ = false;
    std::optional<std::int64_t> next_row_ = {};  ///< of the source, to be taken
    std::optional<std::int64_t> last_row_ = {};
    std::vector<const float*> taps_;
    std::size_t row_floats_;
    AlignedFloats row_, scratch_;
};

}  // namespace yl
