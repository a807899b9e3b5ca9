#include "resample/level_chain.hpp"

#include <algorithm>

#include "base/parallel.hpp"
#include "resample/level_stages.hpp"

namespace yl {
namespace {

/// Rows flow through several levels at once, so that none of them has to be kept in working pixels
/// but the last, which is small; the next stage begins there. Bands of rows run in parallel. Wide
/// kernels make neighbouring bands work on the same rows, the more the more levels a stage has.
constexpr std::uint32_t levels_in_stage = 3;
constexpr std::uint32_t rows_in_band = 16;  ///< of a stage's last level, at least
constexpr std::uint32_t most_rows_in_band = 128;
constexpr std::uint32_t bands_for_thread = 2;

/// Few bands for wide kernels, whose neighbouring bands do much twice, and still some for each
/// thread.
std::uint32_t band_count(std::uint32_t height, bool is_wide) {
    const auto threads = static_cast<std::uint32_t>(max_threads());
    const std::uint32_t rows =
        is_wide ? std::clamp(height / (bands_for_thread * threads), rows_in_band, most_rows_in_band)
                : rows_in_band;
    return std::max(height / rows, 1U);
}

class SurfaceChain {
 public:
    SurfaceChain(Texture& texture, std::uint32_t layer, std::uint32_t face,
                 const WorkingFormat& format, const MipOptions& options, ProgressCounter& progress)
        : texture_(texture),
          layer_(layer),
          face_(face),
          format_(format),
          options_(options),
          progress_(progress),
          weights_(texture.shape(), options) {}

    void build(std::uint32_t from, std::uint32_t end) {
        WorkingRows rows;  // of the level where the next stage begins
        for (std::uint32_t level = from; level + 1 < end;) {
            const std::uint32_t last = last_of_stage(level, end);
            rows = run_stage(level, last, rows.get());
            level = last;
        }
    }

 private:
    /// All of a level; every row is written by some band, so that nothing is cleared before.
    using WorkingRows = std::unique_ptr<float[]>;

    [[nodiscard]] std::uint32_t height(std::uint32_t level) const {
        return texture_.shape().height_at(level);
    }
    [[nodiscard]] std::uint32_t width(std::uint32_t level) const {
        return texture_.shape().width_at(level);
    }

    [[nodiscard]] std::size_t working_floats(std::uint32_t level) const {
        return std::size_t{width(level)} * height(level) * 4;
    }

    /// Of the levels (from, to].
    [[nodiscard]] std::uint64_t texels_of_levels(std::uint32_t from, std::uint32_t to) const {
        std::uint64_t texels = 0;
        for (std::uint32_t level = from + 1; level <= to; ++level)
            texels += std::uint64_t{width(level)} * height(level);
        return texels;
    }

    [[nodiscard]] std::uint32_t last_of_stage(std::uint32_t first, std::uint32_t end) const {
        const std::uint32_t last = first + levels_in_stage;
        const bool is_worth_bands = last + 1 < end && height(last) >= 2 * rows_in_band;
        return is_worth_bands ? last : end - 1;
    }

    /// `rows` are those of level `from`; there are none when it is to be taken from the texture.
    /// Gives those of level `to`.
    WorkingRows run_stage(std::uint32_t from, std::uint32_t to, const float* rows) {
        weights_.set_stage(from, to);
        auto kept = std::make_unique_for_overwrite<float[]>(working_floats(to));
        const std::uint32_t bands =
            band_count(height(to), weights_.kernel().kind != Kernel::Kind::box);
        const std::uint64_t texels = texels_of_levels(from, to);
        parallel_each(bands, [&](std::size_t band) {
            if (progress_.cancelled())
                return;
            const auto begin = static_cast<std::uint32_t>(band * height(to) / bands);
            const auto end = static_cast<std::uint32_t>((band + 1) * height(to) / bands);
            run_band(rows, from, to, begin, end, kept.get());
            progress_.add((band + 1) * texels / bands - band * texels / bands);
        });
        return kept;
    }

    /// Of level `to` the rows [begin, end), of the levels before it whatever lies above them.
    void run_band(const float* rows, std::uint32_t from, std::uint32_t to, std::uint32_t begin,
                  std::uint32_t end, float* kept) {
        std::vector<RowTarget> targets(to - from);
        for (std::uint32_t level = to, b = begin, e = end; level > from; --level) {
            targets[level - from - 1] = {texture_.image(level, layer_, face_), level, b, e};
            b = first_row_above(level, b);
            e = first_row_above(level, e);
        }
        const ConstImageView top = std::as_const(texture_).image(from, layer_, face_);
        LevelStages stages =
            rows == nullptr
                ? LevelStages(weights_, stored_rows(top, format_, options_), top, format_, targets)
                : LevelStages(weights_,
                              std::make_unique<MemoryRows>(std::span(rows, working_floats(from)),
                                                           width(from), height(from)),
                              std::nullopt, format_, targets);
        const std::size_t row_floats = std::size_t{width(to)} * 4;
        for (std::uint32_t y = begin; y < end; ++y)
            std::copy_n(stages.row(y), row_floats, kept + y * row_floats);
    }

    /// Where the rows above row `y` of a level begin; every band stores those from here on.
    [[nodiscard]] std::uint32_t first_row_above(std::uint32_t level, std::uint32_t y) const {
        return y < height(level) ? covered_texels(y, height(level - 1), height(level)).begin
                                 : height(level - 1);
    }

    Texture& texture_;
    std::uint32_t layer_;
    std::uint32_t face_;
    const WorkingFormat& format_;
    const MipOptions& options_;
    ProgressCounter& progress_;
    StageWeights weights_;
};

/// A level straight from another one, in bands.
void build_level(Texture& texture, std::uint32_t layer, std::uint32_t face, std::uint32_t from,
                 std::uint32_t level, const WorkingFormat& format, const MipOptions& options,
                 ProgressCounter& progress) {
    const ConstImageView source = std::as_const(texture).image(from, layer, face);
    const ImageView target = texture.image(level, layer, face);
    const auto across = axis_weights(options.kernel.value_or(Kernel{}), options.edges[0],
                                     source.width, target.width);
    const auto down = axis_weights(options.kernel.value_or(Kernel{}), options.edges[1],
                                   source.height, target.height);
    const Reducer reducer{across, down, options.limit_ringing.value_or(false),
                          reducer_kind(options.reduction)};
    parallel_ranges(target.height, rows_in_band, [&](std::size_t begin, std::size_t end) {
        if (progress.cancelled())
            return;
        const auto rows = stored_rows(source, format, options);
        ReducedRows reduced(
            *rows, reducer, format,
            {target, level, static_cast<std::uint32_t>(begin), static_cast<std::uint32_t>(end)});
        for (std::size_t y = begin; y < end; ++y)
            static_cast<void>(reduced.row(static_cast<std::int64_t>(y)));
        progress.add((end - begin) * target.width);
    });
}

}  // namespace

std::unique_ptr<RowSource> stored_rows(ConstImageView image, const WorkingFormat& format,
                                       const MipOptions& options) {
    if (options.guard_fireflies && info(image.format).is_float())
        return std::make_unique<GuardedRows>(image, format, options.edges);
    return std::make_unique<StoredRows>(image, format);
}

void build_levels(Texture& texture, std::uint32_t layer, std::uint32_t face, std::uint32_t from,
                  std::uint32_t end, const WorkingFormat& format, const MipOptions& options,
                  ProgressCounter& progress) {
    if (!options.from_top)
        return SurfaceChain(texture, layer, face, format, options, progress).build(from, end);
    for (std::uint32_t level = from + 1; level < end; ++level)
        build_level(texture, layer, face, from, level, format, options, progress);
}

}  // namespace yl
