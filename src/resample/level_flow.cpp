#include "resample/level_flow.hpp"

#include <algorithm>
#include <vector>

#include <yl/status_macros.hpp>
#include "resample/level_stages.hpp"

namespace yl {
namespace {

/// The level that is kept in working pixels, for the small ones to be made of.
std::uint32_t level_to_keep(const TextureShape& shape) {
    constexpr std::uint64_t most_texels = std::uint64_t{1} << 20U;
    std::uint32_t level = 1;
    while (level + 1 < shape.levels &&
           std::uint64_t{shape.width_at(level)} * shape.height_at(level) > most_texels)
        ++level;
    return level;
}

std::vector<RowTarget> targets_of(const TextureShape& shape, std::uint32_t from, std::uint32_t to,
                                  std::span<RowSink* const> sinks) {
    std::vector<RowTarget> targets;
    for (std::uint32_t level = from + 1; level <= to; ++level)
        targets.push_back(
            {.level = level, .end = shape.height_at(level), .sink = sinks[level - 1]});
    return targets;
}

}  // namespace

std::string_view needs_whole_levels(const MipOptions& options) {
    const bool is_box = options.kernel.value_or(Kernel{}).kind == Kernel::Kind::box;
    return options.from_top          ? "levels are made from the top"
           : options.sharpen > 0     ? "levels are sharpened"
           : options.fade            ? "levels fade"
           : options.guard_fireflies ? "fireflies are dimmed"
           : options.edges[1] == Edge::repeat && !is_box
               ? "the kernel looks beyond edges that repeat downwards"
               : "";
}

Status flow_levels(const TextureShape& shape, const TextureMetadata& metadata, RowFlow& top,
                   std::span<RowSink* const> sinks, const MipOptions& options,
                   const std::function<Status()>& status) {
    const WorkingFormat format = WorkingFormat::of_chain(shape.format, metadata, options);
    const std::uint32_t kept = level_to_keep(shape), last = shape.levels - 1;
    if (last > 0) {
        const std::size_t row_floats = std::size_t{shape.width_at(kept)} * 4;
        std::vector<float> rows(row_floats * shape.height_at(kept));
        const TexelRows texels(top, shape.width, shape.height);
        StageWeights weights(shape, options);
        weights.set_stage(0, kept);
        LevelStages stages(weights, std::make_unique<StoredRows>(texels, format), texels, format,
                           targets_of(shape, 0, kept, sinks));
        for (std::uint32_t y = 0; y < shape.height_at(kept); ++y) {
            std::copy_n(stages.row(y), row_floats, rows.data() + y * row_floats);
            YL_CHECK(status());
        }
        if (kept < last) {
            weights.set_stage(kept, last);
            LevelStages small(
                weights,
                std::make_unique<MemoryRows>(rows, shape.width_at(kept), shape.height_at(kept)),
                std::nullopt, format, targets_of(shape, kept, last, sinks));
            for (std::uint32_t y = 0; y < shape.height_at(last); ++y)
                static_cast<void>(small.row(y));
        }
    }
    // Without levels nobody has asked for any row; else for all but some of the last, perhaps.
    for (std::uint32_t y = last > 0 ? shape.height - 1 : 0; y < shape.height; ++y) {
        static_cast<void>(top.row(y));
        YL_CHECK(status());
    }
    return {};
}

}  // namespace yl
