#include "resample/level_stages.hpp"

#include "resample/quartered_rows.hpp"

namespace yl {

Reducer::Kind reducer_kind(Reduction reduction) {
    switch (reduction) {
        case Reduction::average:
            return Reducer::Kind::blend;
        case Reduction::minimum:
            return Reducer::Kind::minimum;
        case Reduction::maximum:
            return Reducer::Kind::maximum;
    }
    return Reducer::Kind::blend;
}

StageWeights::StageWeights(const TextureShape& shape, const MipOptions& options)
    : shape_(shape),
      options_(options),
      kernel_(options.kernel.value_or(Kernel{})),
      halving_(HalvingWeights::of(kernel_)) {}

bool StageWeights::halves(std::uint32_t level) const {
    return options_.reduction == Reduction::average &&
           HalvedRows::suits(kernel_, shape_.width_at(level), shape_.height_at(level));
}

void StageWeights::set_stage(std::uint32_t from, std::uint32_t to) {
    from_ = from;
    across_.assign(to - from, {});
    down_.assign(to - from, {});
    for (std::uint32_t level = from; level < to; ++level) {
        if (halves(level))
            continue;
        across_[level - from] = axis_weights(kernel_, options_.edges[0], shape_.width_at(level),
                                             shape_.width_at(level + 1));
        down_[level - from] = axis_weights(kernel_, options_.edges[1], shape_.height_at(level),
                                           shape_.height_at(level + 1));
    }
}

LevelStages::LevelStages(const StageWeights& weights, std::unique_ptr<RowSource> source,
                         const std::optional<TexelRows>& stored, const WorkingFormat& format,
                         std::span<const RowTarget> targets) {
    rows_.push_back(std::move(source));
    const MipOptions& options = weights.options_;
    for (std::size_t i = 0; i < targets.size(); ++i) {
        const Reducer reducer{weights.across_[i], weights.down_[i],
                              options.limit_ringing.value_or(false),
                              reducer_kind(options.reduction)};
        const auto level = weights.from_ + static_cast<std::uint32_t>(i);
        const bool is_stored = i == 0 && stored;
        RowSource& above = *rows_.back();
        if (weights.halves(level))
            // Texels of 8 bits may be decoded by the curve of codes, with nothing done to them before.
            rows_.push_back(std::make_unique<HalvedRows>(
                is_stored && HalvingSource::decodes(format) ? HalvingSource(*stored, format)
                                                            : HalvingSource(above),
                weights.shape_.width_at(level), weights.shape_.height_at(level), weights.halving_,
                options.edges, reducer.limit_ringing, format, targets[i]));
        else if (is_stored && QuarteredRows::suits(format, reducer))
            rows_.push_back(std::make_unique<QuarteredRows>(*stored, format, targets[i]));
        else
            rows_.push_back(std::make_unique<ReducedRows>(above, reducer, format, targets[i]));
    }
}

}  // namespace yl
