// Levels made of each other row by row.
#pragma once

#include <optional>

#include <yl/mip.hpp>
#include <yl/texture.hpp>
#include "resample/halved_rows.hpp"
#include "resample/row_source.hpp"

namespace yl {

[[nodiscard]] Reducer::Kind reducer_kind(Reduction reduction);

/// By what each level of a stage becomes the next one.
class StageWeights {
 public:
    StageWeights(const TextureShape& shape, const MipOptions& options);

    /// Of the levels from `from` to `to`.
    void set_stage(std::uint32_t from, std::uint32_t to);

    [[nodiscard]] const Kernel& kernel() const { return kernel_; }

 private:
    friend class LevelStages;

    /// Whether the next level is half as large both ways, and made by a kernel that is not a box.
    [[nodiscard]] bool halves(std::uint32_t level) const;

    TextureShape shape_;
    const MipOptions& options_;
    Kernel kernel_;
    HalvingWeights halving_;
    std::uint32_t from_ = 0;
    std::vector<AxisWeights> across_ = {}, down_ = {};  ///< from each level to the next
};

/// Pulls the rows of a stage's last level through those before it; each level stores the rows of its
/// target.
class LevelStages {
 public:
    /// `source` gives the rows of the first level, which are `stored` unless those are working rows.
    LevelStages(const StageWeights& weights, std::unique_ptr<RowSource> source,
                const std::optional<TexelRows>& stored, const WorkingFormat& format,
                std::span<const RowTarget> targets);

    /// Of the last level.
    [[nodiscard]] const float* row(std::int64_t y) { return rows_.back()->row(y); }

 private:
    std::vector<std::unique_ptr<RowSource>> rows_;
};

}  // namespace yl
